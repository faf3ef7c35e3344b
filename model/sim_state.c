/* The flat words and the chips' cells made to agree; the simulation's state kept and brought back.
 */
#include "chips.h"

#include <string.h>

void rmg_sim_fill(rmg_sim *sim, uint16_t r)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_sim_window *w = rmg_sim_window_of(sim, rule->where.first);

    for (rmg_addr a = rule->where.first;; a++) {
        const size_t at = w->offset + (size_t)(a - w->first);

        if (!sim->slow[at >> RMG_SIM_PAGE_BITS] && rmg_where_holds(&rule->where, a)) {
            const uint32_t cell = sim->cells[sim->chip_offset[r] + rmg_chips_cell(sim, rule, a)];

            for (uint8_t line = 0; line < rule->width; line++)
                sim->words[at] |= (rmg_word)(cell >> line & 1u) << rule->data_bits[line];
        }
        if (a == rule->where.last)
            break;
    }
}

/* The flat words of a rule back to its chip's cells. */
static void spill_rule(rmg_sim *sim, uint16_t r)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_sim_window *w = rmg_sim_window_of(sim, rule->where.first);

    for (rmg_addr a = rule->where.first;; a++) {
        const size_t at = w->offset + (size_t)(a - w->first);

        if (!sim->slow[at >> RMG_SIM_PAGE_BITS] && rmg_where_holds(&rule->where, a)) {
            uint32_t cell = 0;

            for (uint8_t line = 0; line < rule->width; line++)
                cell |= (uint32_t)(sim->words[at] >> rule->data_bits[line] & 1u) << line;
            sim->cells[sim->chip_offset[r] + rmg_chips_cell(sim, rule, a)] = cell;
        }
        if (a == rule->where.last)
            break;
    }
}

#define SLOW_FOR_NOW 2u /* the page goes chip by chip while refresh is stopped */

void rmg_sim_refresh(rmg_sim *sim, bool on)
{
    const uint16_t rules = sim->board->placement->rule_count;

    for (uint16_t r = 0; !on && r < rules; r++)
        spill_rule(sim, r);
    if (!on)
        for (size_t i = 0; i < sim->slow_bytes; i++)
            sim->slow[i] |= SLOW_FOR_NOW;
    rmg_rows_pass(sim);
    sim->refreshed = on;
    sim->refresh_ns = sim->now_ns;
    if (!on) {
        sim->was_lively = sim->lively;
        sim->lively = true;
        return;
    }
    sim->lively = sim->was_lively;
    for (size_t i = 0; i < sim->slow_bytes; i++) {
        sim->slow[i] &= (uint8_t)~SLOW_FOR_NOW;
        if (!sim->slow[i])
            memset(&sim->words[i << RMG_SIM_PAGE_BITS], 0, sizeof *sim->words << RMG_SIM_PAGE_BITS);
    }
    for (uint16_t r = 0; r < rules; r++)
        rmg_sim_fill(sim, r);
}

void rmg_sim_put(rmg_sim *sim, uint16_t chip, rmg_addr cell, uint32_t value)
{
    const uint16_t r = rmg_rule_of_chip(sim, chip);

    for (uint16_t i = 0; i < sim->board->placement->rule_count; i++)
        spill_rule(sim, i);
    if (r < RMG_SIM_RULES)
        sim->cells[sim->chip_offset[r] + cell] = value;
    rmg_cells_settle(sim);
    for (size_t i = 0; i < sim->slow_bytes; i++)
        if (!sim->slow[i])
            memset(&sim->words[i << RMG_SIM_PAGE_BITS], 0, sizeof *sim->words << RMG_SIM_PAGE_BITS);
    for (uint16_t i = 0; i < sim->board->placement->rule_count; i++)
        rmg_sim_fill(sim, i);
}

size_t rmg_sim_state_bytes(const rmg_sim *sim)
{
    return sizeof *sim + rmg_sim_bytes(sim->board, sim->fault_count);
}

void rmg_sim_save(const rmg_sim *sim, void *bytes)
{
    memcpy(bytes, sim, sizeof *sim);
    memcpy((uint8_t *)bytes + sizeof *sim, sim->words, rmg_sim_bytes(sim->board, sim->fault_count));
}

void rmg_sim_restore(rmg_sim *sim, const void *bytes)
{
    rmg_sim was;

    memcpy(&was, bytes, sizeof was);
    was.board = sim->board;
    was.faults = sim->faults;
    was.words = sim->words;
    was.memories = sim->memories;
    was.row_ns = sim->row_ns;
    was.cells = sim->cells;
    was.slow = sim->slow;
    *sim = was;
    memcpy(sim->words, (const uint8_t *)bytes + sizeof was,
           rmg_sim_bytes(sim->board, sim->fault_count));
}
