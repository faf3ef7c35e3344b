/* Permutations of lines, found by what no permutation changes.
 *
 * Data lines: the bit of the image that a bit read nearly always equals, or never.
 *
 * Address lines: of any function of a word, the sum over the words where the line is 1 less the sum
 * where it is 0 stays the same when lines change places, and changes its sign when the line is
 * inverted. So each line of the reading has the signature of the line it stands for. */
#include <glib.h>
#include <stdlib.h>
#include <string.h>

#include "guess.h"

#define PERMUTATION 4096u /* words that a permutation of data lines is guessed from */
#define FUNCTIONS   16u
#define LINES_MOST  24u
#define QUICKLY     65536u /* words of a part whose sums are taken for any difference */

/* The pairs of bits that agree most first, each bit once; a bit that fits its own place as well
 * stays there. */
static unsigned match_bits(uint64_t equal[64][64], uint64_t words, unsigned bits,
                           rmg_explanation *e)
{
    uint64_t done = 0, taken = 0;
    unsigned moved = 0;

    for (unsigned n = 0; n < bits; n++) {
        uint64_t best = 0;
        unsigned from = 0, to = 0;

        for (unsigned i = 0; i < bits; i++)
            for (unsigned k = 0; k < bits && !(done >> i & 1u); k++) {
                const uint64_t same = equal[i][k];
                const uint64_t fit =
                    4u * MAX(same, words - same) + 2u * (i == k) + (same >= words - same) + 1u;

                if (!(taken >> k & 1u) && fit > best) {
                    best = fit;
                    from = i;
                    to = k;
                }
            }
        e->order[from] = (uint8_t)to;
        e->invert |= (uint64_t)(2u * equal[from][to] < words) << from;
        done |= (uint64_t)1 << from;
        taken |= (uint64_t)1 << to;
        moved += from != to;
    }
    return moved;
}

static void data_order(const compare *c, try_function try, void *context)
{
    const uint64_t step = MAX(c->count / PERMUTATION, 1u), words = c->count / step;
    uint64_t(*equal)[64] = g_malloc0(64u * sizeof *equal);
    rmg_explanation e = {.kind = RMG_DIFF_DATA_PERMUTED};

    for (uint64_t w = 0; w < words; w++)
        for (uint8_t i = 0; i < c->bits; i++) {
            const rmg_word read = c->read[w * step] >> i & 1u ? ~(rmg_word)0 : 0;
            rmg_word same = ~(read ^ c->predicted[w * step]) & c->mask;

            for (; same; same &= same - 1u)
                equal[i][__builtin_ctzll(same)]++;
        }
    if (match_bits(equal, words, c->bits, &e) > 2 || e.invert)
        try(context, &e);
    g_free(equal);
}

typedef struct signature {
    int64_t sums[FUNCTIONS];
} signature;

/* Functions of a word whose sums are taken: with `counted`, such as a permutation of the data lines
 * does not change either. Bit f of the result is function f. */
static unsigned functions_of(rmg_word word, bool counted)
{
    const uint64_t x = counted ? ones_of(word) + 1u : word;
    uint64_t h = (x + 1u) * UINT64_C(0x9E3779B97F4A7C15); /* 2^64 by the golden ratio: Knuth, 6.4 */

    h ^= h >> 32;
    h *= UINT64_C(0x9E3779B97F4A7C15);
    return (unsigned)(h >> 48);
}

/* For each line of the part. */
static void sign(const compare *c, const rmg_compare_part *part, const rmg_word *words,
                 unsigned lines, bool counted, signature *of)
{
    memset(of, 0, lines * sizeof *of);
    for (uint64_t i = 0; i < part->count; i++) {
        const unsigned f = functions_of(words[part->first + i] & part->bits & c->mask, counted);
        int64_t sums[FUNCTIONS];

        for (unsigned k = 0; k < FUNCTIONS; k++)
            sums[k] = (int64_t)(f >> k & 1u);
        for (unsigned line = 0; line < lines; line++) {
            const int64_t minus = (int64_t)(i >> line & 1u) - 1;

            for (unsigned k = 0; k < FUNCTIONS; k++)
                of[line].sums[k] += (sums[k] ^ minus) - minus;
        }
    }
}

static uint64_t apart(const signature *a, const signature *b, bool inverted)
{
    uint64_t sum = 0;

    for (unsigned k = 0; k < FUNCTIONS; k++)
        sum += (uint64_t)llabs(a->sums[k] - (inverted ? -b->sums[k] : b->sums[k]));
    return sum;
}

/* The nearest pairs first; a line that fits its own place as well stays there. */
static void match(const signature *read, const signature *good, unsigned lines, rmg_explanation *e)
{
    uint32_t taken = 0, done = 0;

    for (unsigned n = 0; n < lines; n++) {
        uint64_t best = UINT64_MAX;
        unsigned from = 0, to = 0;
        bool inverted = false;

        for (unsigned i = 0; i < lines; i++)
            for (unsigned k = 0; k < lines; k++)
                for (unsigned inverse = 0; inverse < 2; inverse++) {
                    const uint64_t far =
                        done >> i & 1u || taken >> k & 1u
                            ? UINT64_MAX
                            : 3u * apart(&read[i], &good[k], inverse) + (i != k) + inverse;

                    if (far < best) {
                        best = far;
                        from = i;
                        to = k;
                        inverted = inverse;
                    }
                }
        e->order[from] = (uint8_t)to;
        e->invert |= (uint64_t)inverted << from;
        done |= 1u << from;
        taken |= 1u << to;
    }
}

static void address_order(const compare *c, uint8_t number, bool counted, try_function try,
                          void *context)
{
    const rmg_compare_part part = part_of(c, number);
    rmg_explanation e = {.kind = RMG_DIFF_LINE_PERMUTED, .part = number};
    signature read[LINES_MOST], good[LINES_MOST];
    unsigned lines = 0, moved = 0;

    while (lines < 63 && (part.count - 1u) >> lines)
        lines++;
    if (lines > LINES_MOST || part.count != (uint64_t)1 << lines)
        return;
    sign(c, &part, c->read, lines, counted, read);
    sign(c, &part, c->predicted, lines, counted, good);
    match(read, good, lines, &e);
    for (unsigned i = 0; i < lines; i++)
        moved += e.order[i] != i;
    if (moved > 2 || e.invert)
        try(context, &e);
}

void rmg_each_order(const compare *c, uint8_t part, try_function try, void *context)
{
    if (!part)
        data_order(c, try, context);
    if (c->touched_words > 8 || c->count <= QUICKLY) {
        address_order(c, part, false, try, context);
        address_order(c, part, true, try, context);
    }
}
