/* The faults of a simulation sorted once by where they act: for each rule and stage a list. An
 * access then meets only the faults that have to do with it. */
#include "internal.h"

#include <string.h>

/* Does the fault stand in this rule's lists? `bus`: in those of the whole bus. */
static uint32_t stages_at(const rmg_sim_fault *f, const rmg_rule *rule)
{
    const rmg_fault_row *row = &rmg_fault_rows[f->kind];
    const bool beside = row->place == RMG_FOR_BESIDE && rule && rule->bank == f->bank;

    if (!rule)
        return row->stages & RMG_BUS_STAGES;
    return beside || rmg_fault_concerns(f, rule) ? row->stages & ~RMG_BUS_STAGES : 0;
}

size_t rmg_sim_list_starts(const rmg_sim_board *board)
{
    return ((size_t)board->placement->rule_count + 1u) * RMG_STAGES + 1u;
}

size_t rmg_sim_lists_bytes(const rmg_sim_board *board, uint16_t fault_count)
{
    const size_t rules = board->placement->rule_count;

    return rmg_sim_list_starts(board) * sizeof(uint32_t) +
           (fault_count * (rules + 1u) * RMG_STAGES_OF_A_KIND * sizeof(uint16_t) + 7u) / 8u * 8u;
}

/* All faults into the lists of one rule, or of the bus. Returns the entries used. */
static uint32_t list_rule(rmg_sim *sim, uint16_t r, const rmg_rule *rule, uint32_t used,
                          uint32_t *acts)
{
    uint32_t *start = &sim->list_start[(size_t)r * RMG_STAGES];
    uint32_t all = 0;

    for (uint16_t i = 0; i < sim->fault_count; i++)
        all |= stages_at(&sim->faults[i], rule);
    *acts = all;
    for (unsigned stage = 0; stage < RMG_STAGES; stage++)
        start[stage] = used;
    for (; all; all &= all - 1u) {
        const unsigned stage = (unsigned)__builtin_ctz(all);

        for (uint16_t i = 0; i < sim->fault_count; i++)
            if (stages_at(&sim->faults[i], rule) >> stage & 1u)
                sim->list[used++] = i;
        for (unsigned next = stage + 1u; next < RMG_STAGES; next++)
            start[next] = used;
    }
    return used;
}

void rmg_sim_list_faults(rmg_sim *sim)
{
    const rmg_placement *placement = sim->board->placement;
    uint32_t used = 0;

    for (uint16_t r = 0; r < placement->rule_count; r++)
        used = list_rule(sim, r, &placement->rules[r], used, &sim->ways[r].acts);
    used = list_rule(sim, placement->rule_count, NULL, used, &sim->bus_acts);
    sim->list_start[((size_t)placement->rule_count + 1u) * RMG_STAGES] = used;
}
