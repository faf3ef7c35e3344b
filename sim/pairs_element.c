/* A march element over words that stand in pairs: where every sixteen of them hold the same, what
 * is done to sixteen is done to all. */
#include "walk.h"

#include <string.h>

#define BLOCK 16u

/* The words that are looked at. */
typedef struct stretch {
    size_t lowest;     /* of the flat words */
    rmg_addr count;    /* words */
    uint16_t which;    /* ones at those that stand in pairs, by their lowest four address bits */
    size_t second;     /* from a block of words to the one that the second words lie in, may wrap */
    uint8_t to[BLOCK]; /* the second word's place there */
} stretch;

/* What a block of sixteen words holds, and what becomes of it. */
typedef struct block {
    rmg_word own[BLOCK], other[BLOCK];
    rmg_wrong wrong[OPS_MOST];
    uint32_t operations; /* ones at those that read wrongly */
    unsigned runs;
    bool written;
} block;

/* One after another. */
static void walk_words(const rmg_walk *w, size_t at, rmg_addr count)
{
    rmg_element_call *call = w->call;
    rmg_sim *sim = w->sim;

    for (rmg_addr n = 0; n < count; n++) {
        const rmg_addr address = call->down ? call->address - n : (rmg_addr)(call->address + n);
        const size_t here = call->down ? at - (size_t)n : at + (size_t)n;

        for (uint8_t i = 0; i < call->op_count; i++) {
            const rmg_word value = w->values[call->ops[i] & OP_ONE];
            size_t second = here;
            rmg_word seen;

            if (call->ops[i] & OP_WRITE) {
                rmg_flat_store(sim, here, value & sim->mask);
                if (rmg_pairs_second(sim, address, &second))
                    rmg_flat_store(sim, second, value & sim->mask);
                continue;
            }
            seen = rmg_pairs_load(sim, address, here) & call->mask;
            if (seen != value)
                call->mismatch(call->sink_context, address, i, value, seen);
        }
    }
}

/* Do all blocks hold the same? */
static bool alike(const rmg_sim *sim, size_t lowest, rmg_addr count)
{
    const uint8_t *words = (const uint8_t *)sim->words + (lowest << sim->word_log2);

    return memcmp(words, words + (BLOCK << sim->word_log2),
                  (size_t)(count - BLOCK) << sim->word_log2) == 0;
}

#define EIGHT (8u * BLOCK) /* words: eight pages */
_Static_assert(BLOCK == 1u << RMG_SIM_PAGE_BITS, "a block is a page");

/* Were eight pages, of which these are the marks, all touched before? */
static bool none_new(const uint8_t *marks)
{
    uint64_t eight;

    memcpy(&eight, marks, sizeof eight);
    return !(eight & UINT64_C(0x0101010101010101) * RMG_SLOW_NEW);
}

/* Pages of the second words that were not touched yet. */
static void bring(const rmg_walk *w, const stretch *s, rmg_addr address)
{
    rmg_sim *sim = w->sim;
    const bool written = s->which == RMG_EVERY_WORD && (w->call->ops[0] & OP_WRITE);
    const rmg_sim_window *window = NULL;

    for (rmg_addr n = 0; n < s->count; n += BLOCK) {
        const size_t page = (s->lowest + s->second + (size_t)n) >> RMG_SIM_PAGE_BITS;

        if (s->count - n >= EIGHT && none_new(&sim->slow[page])) {
            n += EIGHT - BLOCK;
            continue;
        }
        if (!(sim->slow[page] & RMG_SLOW_NEW))
            continue;
        if (!window)
            window = rmg_sim_window_of(sim, address + sim->pairs.distance);
        if (written)
            rmg_page_is_known(sim, page);
        else
            rmg_page_bring(sim, window, page);
    }
}

/* Blocks of words in whole pages, each of whose second words lie in one block as far away? */
static bool regular(const rmg_walk *w, stretch *s, rmg_addr lowest_address)
{
    const rmg_sim *sim = w->sim;
    unsigned first = 0;

    if (!w->call->mismatch_run || w->call->op_count > OPS_MOST || (s->lowest & (BLOCK - 1u)) ||
        (lowest_address & (BLOCK - 1u)) || (s->count & (BLOCK - 1u)))
        return false;
    while (!((unsigned)s->which >> first & 1u))
        first++;
    s->second = ((s->lowest + first + sim->pairs.flat) & ~(size_t)(BLOCK - 1u)) - s->lowest;
    for (unsigned n = 0; n < BLOCK; n++) {
        const size_t to = s->lowest + n + sim->pairs.flat - (s->lowest + s->second);

        if (!((unsigned)s->which >> n & 1u))
            continue;
        if (to >= BLOCK)
            return false;
        s->to[n] = (uint8_t)to;
    }
    /* the second words among these very blocks, or none of them */
    return !s->second || (s->second >= s->count && (size_t)0 - s->second >= s->count);
}

/* Plays the element on one block; false: more comes of it than can be gathered. */
static bool play(const rmg_walk *w, const stretch *s, block *b)
{
    const rmg_element_call *call = w->call;
    rmg_word *other = s->second ? b->other : b->own;

    b->operations = b->runs = 0;
    b->written = false;
    memset(b->wrong, 0, sizeof b->wrong);
    for (unsigned n = 0; n < BLOCK; n++) {
        b->own[n] = rmg_flat_load(w->sim, s->lowest + n);
        b->other[n] = rmg_flat_load(w->sim, s->lowest + s->second + n);
    }
    for (unsigned k = 0; k < BLOCK; k++) {
        const unsigned n = call->down ? BLOCK - 1u - k : k;
        const bool pair = (unsigned)s->which >> n & 1u;

        for (uint8_t i = 0; i < call->op_count; i++) {
            const rmg_word value = w->values[call->ops[i] & OP_ONE];
            rmg_word seen = b->own[n];

            if (call->ops[i] & OP_WRITE) {
                b->own[n] = value & w->sim->mask;
                if (pair)
                    other[s->to[n]] = value & w->sim->mask;
                b->written = true;
                continue;
            }
            seen = (pair ? rmg_pairs_read(w->sim, seen, other[s->to[n]]) : seen) & call->mask;
            if (seen != value && !rmg_wrong_add(&b->wrong[i], (uint16_t)(1u << n), seen))
                return false;
        }
    }
    for (uint8_t i = 0; i < call->op_count; i++) {
        b->runs += b->wrong[i].count;
        b->operations |= (uint32_t)(b->wrong[i].count != 0) << i;
    }
    return true;
}

/* What one block was found to do, for all. */
static void take(rmg_walk *w, const stretch *s, const block *b, rmg_addr lowest_address)
{
    for (uint8_t i = 0; i < w->call->op_count; i++)
        for (unsigned n = 0; n < b->wrong[i].count; n++)
            rmg_walk_add(w, lowest_address, s->count, b->wrong[i].which[n], i, n,
                         w->values[w->call->ops[i] & OP_ONE], b->wrong[i].actual[n]);
    if (!b->written)
        return;
    rmg_walk_fill(w->sim, s->lowest, s->count, b->own, false);
    if (s->second)
        rmg_walk_fill(w->sim, s->lowest + s->second, s->count, b->other, false);
}

void rmg_walk_pairs(rmg_walk *w, size_t at, rmg_addr count, uint16_t which)
{
    rmg_element_call *call = w->call;
    stretch s = {
        .lowest = call->down ? at - (size_t)(count - 1u) : at, .count = count, .which = which};
    rmg_addr lowest = call->down ? call->address - (count - 1u) : call->address;
    bool together = regular(w, &s, lowest);
    rmg_addr begin = count;
    block b;

    if (together) {
        bring(w, &s, lowest);
        together = alike(w->sim, s.lowest, count) &&
                   (!s.second || alike(w->sim, s.lowest + s.second, count)) && play(w, &s, &b);
    }
    if (together) {
        if (b.operations && b.operations != w->gathered)
            rmg_walk_hand_over(w);
        w->gathered = b.operations ? b.operations : w->gathered;
        begin = b.runs > 1 && w->told < TOLD_FIRST ? (TOLD_FIRST - w->told) * BLOCK : 0;
        begin = MIN_OF(begin, count);
        w->told += begin / BLOCK;
    }
    if (begin) {
        /* the first failures are given in the order of accesses, which runs would change */
        rmg_walk_hand_over(w);
        walk_words(w, at, begin);
    }
    if (begin == count)
        return;
    s.count -= begin;
    s.lowest += call->down ? 0 : (size_t)begin;
    lowest += call->down ? 0 : begin;
    take(w, &s, &b, lowest);
}
