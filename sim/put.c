/* Values put into the memory of a simulation as if it had come up with them. */
#include "internal.h"

void rmg_sim_put(rmg_sim *sim, uint16_t chip, rmg_addr cell, uint32_t value)
{
    const uint16_t r = rmg_rule_of_chip(sim, chip);

    rmg_sim_spill(sim);
    if (r < RMG_PLACE_RULES)
        rmg_cell_set(sim, r, cell, value);
    rmg_cells_settle(sim);
}

void rmg_sim_put_word(rmg_sim *sim, rmg_addr address, rmg_word value)
{
    const rmg_sim_window *w = rmg_sim_window_of(sim, address);
    size_t at;

    if (!w)
        return;
    at = w->offset + (size_t)(address - w->first);
    if (!(sim->slow[at >> RMG_SIM_PAGE_BITS] & (RMG_SLOW_NEW | RMG_SLOW_BOARD)))
        rmg_flat_store(sim, at, value & sim->mask);
    for (uint16_t r = 0; r < sim->board->placement->rule_count; r++) {
        const rmg_rule *rule = &sim->board->placement->rules[r];
        uint32_t cell = 0;

        if (!rmg_where_holds(&sim->ways[r].where, address) || sim->board->chips[rule->socket].rom)
            continue;
        for (uint8_t line = 0; line < rule->width; line++)
            cell |= (uint32_t)(value >> rule->data_bits[line] & 1u) << line;
        rmg_cell_set(sim, r, rmg_chips_fed_cell(sim, r, address), cell);
    }
}
