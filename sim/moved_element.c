/* A march element over words of which some bits stand in others, because address lines of their
 * chips are stuck. */
#include "walk.h"

#include <string.h>

#define BLOCK 16u

/* Pages of the others that were not touched yet. */
static void bring(rmg_walk *w, size_t lowest, rmg_addr count, rmg_addr address)
{
    rmg_sim *sim = w->sim;
    const size_t last = (lowest + (size_t)(count - 1u)) >> RMG_SIM_PAGE_BITS;

    for (size_t page = lowest >> RMG_SIM_PAGE_BITS; page <= last; page++)
        if (sim->slow[page] & RMG_SLOW_NEW)
            rmg_page_bring(sim, rmg_sim_window_of(sim, address), page);
}

/* Words of which they stand as far away from each; false: they do not all hold the same. */
static bool far_away(rmg_walk *w, rmg_laid *f, size_t at, rmg_addr count, rmg_word bits,
                     size_t away)
{
    rmg_sim *sim = w->sim;
    rmg_element_call *call = w->call;
    const size_t lowest = call->down ? at - (size_t)(count - 1u) : at;
    const rmg_addr first = call->down ? call->address - (count - 1u) : call->address;
    rmg_word own, other, held;
    uint32_t operations = 0;
    unsigned runs = 0;
    bool together;

    bring(w, lowest + away, count, first + (rmg_addr)away);
    own = rmg_flat_load(sim, lowest);
    other = rmg_flat_load(sim, lowest + away);
    held = (own & ~bits) | (other & bits);
    together = call->mismatch_run && call->op_count <= OPS_MOST && (f->alike || !f->takes) &&
               rmg_flat_alike(sim, lowest, count, sim->mask & ~bits) &&
               rmg_flat_alike(sim, lowest + away, count, sim->mask) &&
               rmg_laid_runs(w, f, held, &runs, &operations) &&
               (runs <= 1 || w->told >= TOLD_FIRST);
    if (!together)
        return false;
    if (operations && operations != w->gathered)
        rmg_walk_hand_over(w);
    w->gathered = operations ? operations : w->gathered;
    held = rmg_laid_alike(w, f, first, count, held);
    if (!w->writes)
        return true;
    rmg_walk_fill(sim, lowest, count, &held, true);
    held = (other & ~bits) | (held & bits);
    rmg_walk_fill(sim, lowest + away, count, &held, true);
    return true;
}

/* Sixteen words that stand for all, and what becomes of them. */
typedef struct block {
    rmg_word own[BLOCK], other[BLOCK]; /* where the bits stand, `other` if they are away */
    rmg_wrong wrong[OPS_MOST];
    uint32_t operations; /* ones at those that read wrongly */
} block;

/* Does each sixteen of them hold the same? Then `words` gets it. */
static bool take_block(const rmg_sim *sim, size_t lowest, rmg_addr count, rmg_word *words)
{
    const uint8_t *bytes = (const uint8_t *)sim->words + (lowest << sim->word_log2);

    if (memcmp(bytes, bytes + (BLOCK << sim->word_log2),
               (size_t)(count - BLOCK) << sim->word_log2) != 0)
        return false;
    for (unsigned i = 0; i < BLOCK; i++)
        words[i] = rmg_flat_load(sim, lowest + i);
    return true;
}

/* One of the sixteen; false: more is read than can be gathered. */
static bool play_one(const rmg_walk *w, const rmg_laid *f, const rmg_moved_here *here, unsigned i,
                     block *b)
{
    const unsigned there = (i & ~here->low) | here->level;
    rmg_word *other = here->away ? &b->other[there] : &b->own[there];
    rmg_word held = (b->own[i] & ~here->bits) | (*other & here->bits);

    for (uint8_t n = 0; n < w->call->op_count; n++) {
        const uint8_t op = w->call->ops[n];
        const rmg_word value = w->values[op & OP_ONE];
        rmg_word seen;

        if (op & OP_WRITE) {
            held = rmg_laid_taken(f, i, held, value) & w->sim->mask;
            continue;
        }
        seen = rmg_laid_seen(f, i, held) & w->call->mask;
        if (seen == value)
            continue;
        if (!rmg_wrong_add(&b->wrong[n], (uint16_t)(1u << i), seen))
            return false;
        b->operations |= (uint32_t)1 << n;
    }
    b->own[i] = held; /* nobody sees the bits that stand elsewhere */
    *other = (*other & ~here->bits) | (held & here->bits);
    return true;
}

/* Words of which they stand among sixteen; false: not each sixteen holds the same. */
static bool near_by(rmg_walk *w, const rmg_laid *f, size_t at, rmg_addr count,
                    const rmg_moved_here *here)
{
    const rmg_element_call *call = w->call;
    const size_t lowest = call->down ? at - (size_t)(count - 1u) : at;
    const rmg_addr first = call->down ? call->address - (count - 1u) : call->address;
    const bool fresh = (call->ops[0] & OP_WRITE) && !w->sim->keeps; /* whatever they held */
    rmg_sim *sim = w->sim;
    block b = {.operations = 0};

    if (!call->mismatch_run || call->op_count > OPS_MOST || (first & (BLOCK - 1u)) ||
        (count & (BLOCK - 1u)) || count < 2u * BLOCK)
        return false;
    bring(w, lowest + (size_t)here->away, count, first + here->away);
    if (!take_block(sim, lowest, fresh && !here->away ? BLOCK : count, b.own) ||
        (here->away && !take_block(sim, lowest + (size_t)here->away, count, b.other)))
        return false;
    for (unsigned i = 0; i < BLOCK; i++)
        if (!play_one(w, f, here, call->down ? BLOCK - 1u - i : i, &b))
            return false;
    if (b.operations && w->told < TOLD_FIRST)
        return false; /* the first failures are told in order */
    if (b.operations && b.operations != w->gathered)
        rmg_walk_hand_over(w);
    w->gathered = b.operations ? b.operations : w->gathered;
    for (uint8_t n = 0; n < call->op_count; n++)
        for (unsigned k = 0; k < b.wrong[n].count; k++)
            rmg_walk_add(w, first, count, b.wrong[n].which[k], n, k != 0,
                         w->values[call->ops[n] & OP_ONE], b.wrong[n].actual[k]);
    if (!w->writes)
        return true;
    rmg_walk_fill(sim, lowest, count, b.own, false);
    if (here->away)
        rmg_walk_fill(sim, lowest + (size_t)here->away, count, b.other, false);
    return true;
}

/* One after another. */
static void one_by_one(rmg_walk *w, rmg_laid *f, size_t at, rmg_addr count)
{
    rmg_sim *sim = w->sim;

    if (rmg_walk_in_order(w))
        rmg_walk_hand_over(w);
    for (rmg_addr n = 0; n < count; n++) {
        const rmg_addr address =
            w->call->down ? w->call->address - n : (rmg_addr)(w->call->address + n);
        const size_t here = w->call->down ? at - (size_t)n : at + (size_t)n;
        const rmg_word own = rmg_flat_load(sim, here);
        const rmg_word held =
            rmg_laid_word(w, f, address, rmg_moved_load(sim, address, here, own), 0, NULL);

        rmg_moved_store(sim, address, here, held, sim->mask);
        rmg_flat_store(sim, here, held); /* nobody sees the bits that stand elsewhere */
    }
}

void rmg_walk_moved(rmg_walk *w, rmg_laid *f, size_t at, rmg_addr count, const rmg_moved_here *here)
{
    bool done = false;

    if (!here->several && here->low)
        done = near_by(w, f, at, count, here);
    else if (!here->several)
        done = far_away(w, f, at, count, here->bits, (size_t)here->away);
    if (!done)
        one_by_one(w, f, at, count);
}
