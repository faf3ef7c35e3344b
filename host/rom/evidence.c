/* Which lines an image could show wrong, at how many words, and which it proves.
 *
 * A line is proved by words that a fault of it would have shown. A data line: where it is 0 and 1,
 * and where it differs from each other data line, for a line that touches it, or changes places
 * with it, shows nowhere else. An address line: where the two words differ that it tells apart, and
 * the same for two lines. Counting ends at RMG_SHOWS_MOST. */
#include <glib.h>

#include "guess.h"

/* How many words each fault shows at, the least so far of each line. */
static void data_shown(const compare *c, rmg_comparison *r)
{
    uint32_t(*differ)[64] = g_malloc0(64u * sizeof *differ); /* [a][a]: ones; [a][b] differ */
    uint32_t zeros[64] = {0};
    uint64_t open = c->mask;

    for (uint64_t i = 0; i < c->count && open; i++) {
        const rmg_word known = mask_at(c, i), word = c->predicted[i];

        for (uint8_t a = 0; a < c->bits; a++) {
            rmg_word other = (word >> a & 1u ? ~word : word) & known;

            if (!(known >> a & 1u))
                continue;
            if (word >> a & 1u)
                differ[a][a]++;
            else
                zeros[a]++;
            for (; other; other &= other - 1u)
                differ[a][__builtin_ctzll(other)]++;
        }
        if (i % 1024u != 1023u)
            continue;
        open = 0;
        for (uint8_t a = 0; a < c->bits; a++)
            for (uint8_t b = 0; b < c->bits; b++)
                if (MIN(differ[a][b], zeros[a]) < RMG_SHOWS_MOST)
                    open |= (uint64_t)1 << a;
    }
    for (uint8_t a = 0; a < c->bits; a++) {
        uint32_t least = MIN(zeros[a], RMG_SHOWS_MOST);

        for (uint8_t b = 0; b < c->bits; b++)
            if (c->mask >> b & 1u)
                least = MIN(least, differ[a][b]);
        r->shows_bit[a] = least;
    }
    g_free(differ);
}

/* Of an image that is nearly all one value: that value, and the words that are not it. */
typedef struct rare {
    rmg_word ground;
    uint64_t *words; /* [count]; NULL: there are too many */
    uint64_t count;
} rare;

/* The value that most words have, if any has: Boyer and Moore's majority vote. */
rmg_word rmg_majority_of(const compare *c)
{
    rmg_word candidate = 0;
    uint64_t votes = 0;

    for (uint64_t i = 0; i < c->count; i++) {
        if (!votes)
            candidate = c->predicted[i];
        votes += c->predicted[i] == candidate ? 1u : -(uint64_t)1;
    }
    return candidate;
}

static void find_rare(const compare *c, rare *r)
{
    *r = (rare){.ground = rmg_majority_of(c)};
    for (uint64_t i = 0; i < c->count; i++)
        r->count += c->predicted[i] != r->ground;
    if (r->count > c->count / 8u || c->known)
        return;
    r->words = g_new(uint64_t, r->count + 1u);
    r->count = 0;
    for (uint64_t i = 0; i < c->count; i++)
        if (c->predicted[i] != r->ground)
            r->words[r->count++] = i;
}

/* The same where only words that are not the ground, or show one that is not, need be looked at. */
static uint32_t rare_shown(const compare *c, const rmg_explanation *e, const rare *r)
{
    const uint64_t a = (uint64_t)1 << e->a;
    const uint64_t b = rmg_difference_of_two(e->kind) ? (uint64_t)1 << e->b : 0;
    uint32_t count = 0;

    for (uint64_t n = 0; n < r->count && count < RMG_SHOWS_MOST; n++) {
        const uint64_t word = r->words[n], sources[] = {word ^ a, word ^ b, word ^ a ^ b};

        count += c->predicted[rmg_source(e, word, c->count)] != c->predicted[word];
        for (unsigned k = 0; k < (b ? 3u : 1u); k++)
            count += sources[k] < c->count && c->predicted[sources[k]] == r->ground &&
                     rmg_source(e, sources[k], c->count) == word;
    }
    return MIN(count, RMG_SHOWS_MOST);
}

/* Words where the explanation would show, counted up to a limit. */
static uint32_t words_shown(const compare *c, const rmg_explanation *e, const rare *r)
{
    uint32_t count = 0;

    if (r->words && (c->count & (c->count - 1u)) == 0)
        return rare_shown(c, e, r);
    for (uint64_t i = 0; i < c->count && count < RMG_SHOWS_MOST; i++) {
        rmg_word open;

        count += ((rmg_predict(c, e, i, &open) ^ c->predicted[i]) & mask_at(c, i) & ~open) != 0;
    }
    return count;
}

static void note_shown(const compare *c, rmg_comparison *r, const rmg_explanation *e,
                       const rare *few)
{
    const uint32_t count = words_shown(c, e, few);

    r->shows_line[e->a] = MIN(r->shows_line[e->a], count);
    if (rmg_difference_of_two(e->kind))
        r->shows_line[e->b] = MIN(r->shows_line[e->b], count);
}

static void lines_shown(const compare *c, rmg_comparison *r)
{
    rare few;

    find_rare(c, &few);
    for (uint8_t a = 0; a < c->lines; a++)
        r->shows_line[a] = RMG_SHOWS_MOST;
    for (uint8_t a = 0; a < c->lines; a++) {
        rmg_explanation e = {.kind = RMG_DIFF_LINE_STUCK, .a = a};

        note_shown(c, r, &e, &few);
        e.level = 1;
        note_shown(c, r, &e, &few);
        for (uint8_t b = (uint8_t)(a + 1u); b < c->lines; b++) {
            if (!r->shows_line[a] && !r->shows_line[b])
                continue;
            e = (rmg_explanation){.kind = RMG_DIFF_LINE_SHORTED, .a = a, .b = b};
            note_shown(c, r, &e, &few);
            e.level = 1;
            note_shown(c, r, &e, &few);
            e.kind = RMG_DIFF_LINE_SWAPPED;
            note_shown(c, r, &e, &few);
        }
    }
    g_free(few.words);
}

void rmg_find_shown(const compare *c, rmg_comparison *r)
{
    data_shown(c, r);
    lines_shown(c, r);
}

/* Lines that an explanation accuses. */
static void accused(const compare *c, const rmg_explanation *e, rmg_word *bits, uint64_t *lines)
{
    const uint64_t both =
        (uint64_t)1 << e->a | (rmg_difference_of_two(e->kind) ? (uint64_t)1 << e->b : 0);

    if (e->kind == RMG_DIFF_CELLS)
        return;
    if (e->kind == RMG_DIFF_DATA_PERMUTED || e->kind == RMG_DIFF_DATA_INVERTED)
        *bits = c->mask;
    else if (rmg_difference_of_data(e->kind))
        *bits |= (rmg_word)both;
    else if (e->kind == RMG_DIFF_LINES_STUCK)
        *lines |= e->offset;
    else if (e->kind == RMG_DIFF_LINE_PERMUTED)
        *lines = UINT64_MAX;
    else if (rmg_difference_of_lines(e->kind))
        *lines |= both;
    else if (e->kind != RMG_DIFF_PATCHED)
        *bits = c->mask, *lines = UINT64_MAX;
}

static void accused_step(const compare *c, const rmg_explained *step, rmg_word *bits,
                         uint64_t *lines)
{
    accused(c, &step->is, bits, lines);
    for (size_t i = 0; i < step->alike_count; i++)
        accused(c, &step->alike[i], bits, lines);
}

/* What is left over counts against the data lines that it lies on, and against an address line
 * where the word is the one that stands where that line has its other level. */
static void accused_by_rest(const compare *c, rmg_word *bits, uint64_t *lines)
{
    for (uint64_t i = 0; i < c->count; i++) {
        const rmg_word touched = touched_at(c, i);

        if (!touched)
            continue;
        *bits |= touched;
        for (uint8_t k = 0; k < c->lines; k++) {
            const uint64_t other = i ^ (uint64_t)1 << k;
            const rmg_word steady = mask_at(c, i) & ~c->unsteady[i];

            if (other >= c->count || ((c->predicted[other] ^ c->read[i]) & steady) == 0)
                *lines |= (uint64_t)1 << k;
        }
    }
}

void rmg_find_proved(const compare *c, rmg_comparison *r)
{
    rmg_word bits = c->hints->follows | c->hints->silent;
    uint64_t lines = 0;

    for (size_t i = 0; i < r->step_count; i++)
        accused_step(c, &r->steps[i], &bits, &lines);
    if (r->left_touched) /* its rivals are lines that would have to fail at these few bits only */
        accused(c, &r->rest.is, &bits, &lines);
    accused_by_rest(c, &bits, &lines);
    for (uint8_t bit = 0; bit < c->bits; bit++)
        if (r->shows_bit[bit] >= RMG_PROVED_WORDS && !(bits >> bit & 1u))
            r->proved_bits |= (rmg_word)1 << bit;
    for (uint8_t k = 0; k < c->lines; k++)
        if (r->shows_line[k] >= RMG_PROVED_WORDS && !(lines >> k & 1u))
            r->proved_lines |= (uint64_t)1 << k;
}
