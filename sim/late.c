/* A chip of which an address line is slow: its words stay flat. Only the access with which the line
 * changes to that value goes to another word, the one that has the old value there; all that must
 * be kept of the others is which was the last. */
#include "walk.h"

/* The bus lines that feed these of the chip; false: not all are fed by one. */
static bool on_bus(const rmg_rule *rule, rmg_addr lines, rmg_addr *bus)
{
    *bus = 0;
    for (uint8_t k = 0; k < rule->address_lines; k++) {
        const rmg_addr line =
            rule->address_bits[k] < RMG_ADDR_BITS ? (rmg_addr)1 << rule->address_bits[k] : 0;

        if (!(lines >> k & 1u))
            continue;
        if (!line || (*bus & line))
            return false;
        *bus |= line;
    }
    return *bus != 0;
}

bool rmg_late_rule(rmg_sim *sim, uint16_t r)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_FOLLOWING);
    const rmg_sim_fault *f;

    if (acting.end - acting.at != 1)
        return false;
    f = &sim->faults[*acting.at];
    if (sim->late.act || sim->moved_count || sim->ways[r].acts != RMG_STAGE_BIT(FOLLOWING) ||
        f->kind != RMG_FAULT_SLOW_LINE || sim->conditional || sim->strays || sim->bus_acts ||
        !rmg_lies_flat(sim, r) || !on_bus(rule, f->lines, &sim->late.lines) ||
        !rmg_place_closed(&rule->where, sim->late.lines) || !rmg_force_nothing(sim, &rule->where))
        return false;
    sim->late.act = true;
    sim->late.rule = r;
    sim->late.fault = *acting.at;
    return true;
}

/* Does the next access to an address go to another word, and which? */
static bool goes_elsewhere(const rmg_sim *sim, rmg_addr address, rmg_addr *other)
{
    const rmg_sim_fault *f = &sim->faults[sim->late.fault];
    const rmg_sim_memory *m = &sim->memories[sim->late.fault];
    const rmg_addr cell = rmg_chips_fed_cell(sim, sim->late.rule, address);
    const rmg_addr changed = (cell ^ m->before) & f->lines & (f->state ? cell : ~cell);
    rmg_addr bus;

    *other = address;
    if (!m->any_before || !changed)
        return false;
    on_bus(&sim->board->placement->rules[sim->late.rule], changed, &bus);
    *other = address ^ bus;
    return true;
}

static const rmg_sim_way *way_of(const rmg_sim *sim)
{
    return &sim->ways[sim->late.rule];
}

void rmg_late_note(rmg_sim *sim, rmg_addr address)
{
    rmg_sim_memory *m = &sim->memories[sim->late.fault];

    if (!sim->late.act || !rmg_where_holds(&way_of(sim)->where, address))
        return;
    m->before = rmg_chips_fed_cell(sim, sim->late.rule, address);
    m->any_before = true;
}

rmg_word rmg_late_bits(const rmg_sim *sim, rmg_addr address, rmg_addr *other)
{
    return sim->late.act && rmg_where_holds(&way_of(sim)->where, address) &&
                   goes_elsewhere(sim, address, other)
               ? way_of(sim)->bits
               : 0;
}

rmg_word rmg_late_run(const rmg_sim *sim, rmg_addr from, bool down, rmg_addr *most, rmg_addr *other)
{
    const rmg_addr lines = sim->late.lines, step = lines & (~lines + 1u);
    rmg_word bits;

    if (!sim->late.act)
        return 0;
    *most = rmg_same_run(&way_of(sim)->where, from, down, *most);
    if (!rmg_where_holds(&way_of(sim)->where, from))
        return 0;
    bits = rmg_late_bits(sim, from, other);
    *most =
        bits ? 1u : MIN_OF(*most, down ? (from & (step - 1u)) + 1u : step - (from & (step - 1u)));
    return bits;
}

void rmg_walk_late(rmg_walk *w, rmg_laid *f, size_t at, rmg_word bits, rmg_addr elsewhere)
{
    rmg_sim *sim = w->sim;
    const rmg_addr address = w->call->address;
    const size_t there = rmg_flat_place(sim, address, at, elsewhere);
    rmg_word other = rmg_flat_load(sim, there);

    if (rmg_walk_in_order(w))
        rmg_walk_hand_over(w);
    rmg_flat_store(sim, at, rmg_laid_word(w, f, address, rmg_flat_load(sim, at), bits, &other));
    rmg_flat_store(sim, there, other);
}
