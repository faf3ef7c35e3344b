/* A march element over words of which some bits stand in others, because address lines of their
 * chips are stuck. The others lie so far away that none of them is among those looked at. */
#include "walk.h"

/* Pages of the others that were not touched yet. */
static void bring(rmg_walk *w, size_t lowest, rmg_addr count, rmg_addr address)
{
    rmg_sim *sim = w->sim;
    const size_t last = (lowest + (size_t)(count - 1u)) >> RMG_SIM_PAGE_BITS;

    for (size_t page = lowest >> RMG_SIM_PAGE_BITS; page <= last; page++)
        if (sim->slow[page] & RMG_SLOW_NEW)
            rmg_page_bring(sim, rmg_sim_window_of(sim, address), page);
}

/* One after another. */
static void one_by_one(rmg_walk *w, rmg_laid *f, size_t at, rmg_addr count, rmg_word bits,
                       size_t away)
{
    rmg_sim *sim = w->sim;

    for (rmg_addr n = 0; n < count; n++) {
        const rmg_addr address =
            w->call->down ? w->call->address - n : (rmg_addr)(w->call->address + n);
        const size_t here = w->call->down ? at - (size_t)n : at + (size_t)n, there = here + away;
        const rmg_word own = rmg_flat_load(sim, here), other = rmg_flat_load(sim, there);
        const rmg_word held = rmg_laid_word(w, f, address, (own & ~bits) | (other & bits), 0, NULL);

        rmg_flat_store(sim, here, (held & ~bits) | (own & bits));
        rmg_flat_store(sim, there, (other & ~bits) | (held & bits));
    }
}

void rmg_walk_moved(rmg_walk *w, rmg_laid *f, size_t at, rmg_addr count, rmg_word bits, size_t away)
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
    if (operations && operations != w->gathered)
        rmg_walk_hand_over(w);
    w->gathered = operations ? operations : w->gathered;
    if (!together) {
        if (rmg_walk_in_order(w))
            rmg_walk_hand_over(w);
        one_by_one(w, f, at, count, bits, away);
        return;
    }
    held = rmg_laid_alike(w, f, first, count, held);
    if (!w->writes)
        return;
    rmg_walk_fill(sim, lowest, count, &held, true);
    held = (other & ~bits) | (held & bits);
    rmg_walk_fill(sim, lowest + away, count, &held, true);
}

void rmg_walk_scattered(rmg_walk *w, rmg_laid *f, size_t at, rmg_addr count)
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
        const rmg_word left = rmg_moved_store(sim, address, here, held, sim->mask);

        rmg_flat_store(sim, here, (own & ~left) | (held & left));
    }
}
