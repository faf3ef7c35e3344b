/* A chip of which each read gives what the read before gave, by the only fault there is: its words
 * stay flat, and what was read last is kept. */
#include "walk.h"

void rmg_stale_begin(rmg_sim *sim)
{
    const rmg_placement *placement = sim->board->placement;

    sim->stale.act = false;
    if (sim->fault_count != 1 || sim->faults[0].kind != RMG_FAULT_STALE || sim->conditional)
        return;
    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_where *where = &placement->rules[r].where;

        if (!sim->ways[r].acts)
            continue;
        if (sim->stale.act || !rmg_lies_flat(sim, r) ||
            (!sim->force_count && !rmg_force_nothing(sim, where))) {
            sim->stale.act = false;
            sim->force_count = 0;
            return;
        }
        sim->stale.act = true;
        sim->stale.rule = r;
    }
    if (sim->stale.act) {
        sim->is_forced[sim->stale.rule] = true;
        sim->is_apart[sim->stale.rule] = false;
        sim->apart_count = 0;
    }
}

/* What was read last, on the chip's lines, as it was on the bus; and back. */
static rmg_word last_read(const rmg_sim *sim)
{
    const rmg_rule *rule = &sim->board->placement->rules[sim->stale.rule];
    rmg_word word = 0;

    for (uint8_t line = 0; line < rule->width; line++)
        word |= (rmg_word)(sim->memories[0].latch >> line & 1u) << rule->data_bits[line];
    return word;
}

static void keep(rmg_sim *sim, rmg_word word)
{
    const rmg_rule *rule = &sim->board->placement->rules[sim->stale.rule];

    sim->memories[0].latch = 0;
    for (uint8_t line = 0; line < rule->width; line++)
        sim->memories[0].latch |= (uint32_t)(word >> rule->data_bits[line] & 1u) << line;
}

static bool here(const rmg_sim *sim, rmg_addr address)
{
    return sim->stale.act && rmg_where_holds(&sim->ways[sim->stale.rule].where, address);
}

rmg_word rmg_stale_read(rmg_sim *sim, rmg_addr address, rmg_word word)
{
    const rmg_word bits = here(sim, address) ? sim->ways[sim->stale.rule].bits : 0;
    rmg_word seen = word;

    if (bits) {
        seen = (word & ~bits) | (last_read(sim) & bits);
        keep(sim, word);
    }
    return seen;
}

bool rmg_stale_run(const rmg_sim *sim, rmg_addr from, bool down, rmg_addr *most)
{
    if (sim->stale.act)
        *most = rmg_same_run(&sim->ways[sim->stale.rule].where, from, down, *most);
    return here(sim, from);
}

/* `count` words, from `begin` words behind the call's on: one by one. */
static void one_by_one(rmg_walk *w, rmg_laid *f, size_t at, rmg_addr begin, rmg_addr count)
{
    if (rmg_walk_in_order(w))
        rmg_walk_hand_over(w);
    for (rmg_addr n = begin; n < begin + count; n++) {
        const rmg_addr address =
            w->call->down ? w->call->address - n : (rmg_addr)(w->call->address + n);
        const size_t place = w->call->down ? at - (size_t)n : at + (size_t)n;

        rmg_flat_store(w->sim, place,
                       rmg_laid_word(w, f, address, rmg_flat_load(w->sim, place), 0, NULL));
    }
}

/* Those behind the first, where all hold the same: false: they do not. */
static bool together(rmg_walk *w, rmg_laid *f, size_t at, rmg_addr count)
{
    const rmg_element_call *call = w->call;
    const size_t lowest = call->down ? at - (size_t)count : at + 1u;
    rmg_sim *sim = w->sim;
    uint32_t operations = 0;
    unsigned runs = 0;
    rmg_word held;

    if (!call->mismatch_run || call->op_count > OPS_MOST ||
        !rmg_flat_alike(sim, lowest, count, sim->mask))
        return false;
    held = rmg_flat_load(sim, lowest);
    if (!rmg_laid_runs(w, f, held, &runs, &operations) || (runs > 1 && w->told < TOLD_FIRST))
        return false;
    if (operations && operations != w->gathered)
        rmg_walk_hand_over(w);
    w->gathered = operations ? operations : w->gathered;
    held =
        rmg_laid_alike(w, f, call->down ? call->address - count : call->address + 1u, count, held);
    if (w->writes)
        rmg_walk_fill(sim, lowest, count, &held, true);
    return true;
}

void rmg_walk_stale(rmg_walk *w, rmg_laid *f, size_t at, rmg_addr count)
{
    f->stale = w->sim->ways[w->sim->stale.rule].bits;
    f->before = last_read(w->sim);
    one_by_one(w, f, at, 0, 1);
    if (count > 1 && !together(w, f, at, count - 1u))
        one_by_one(w, f, at, 1, count - 1u);
    keep(w->sim, f->before);
    f->stale = 0;
}
