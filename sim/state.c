/* The flat words and the chips' cells made to agree; the simulation's state kept and brought back.
 */
#include "internal.h"

#include <string.h>

/* Are the bits of the rule's chip kept in the flat word there? */
static bool flat_at(const rmg_sim *sim, uint16_t r, size_t at)
{
    const uint8_t slow = sim->slow[at >> RMG_SIM_PAGE_BITS];

    return !slow || (slow == RMG_SLOW_FAULT && !sim->is_apart[r]);
}

void rmg_sim_fill(rmg_sim *sim, uint16_t r)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_sim_window *w = rmg_sim_window_of(sim, rule->where.first);

    for (rmg_addr a = rule->where.first;; a++) {
        const size_t at = w->offset + (size_t)(a - w->first);

        if (flat_at(sim, r, at) && rmg_where_holds(&rule->where, a)) {
            const uint32_t cell = sim->ways[r].cells[rmg_chips_cell(sim, r, a)];

            for (uint8_t line = 0; line < rule->width; line++)
                sim->words[at] |= (rmg_word)(cell >> line & 1u) << rule->data_bits[line];
        }
        if (a == rule->where.last)
            break;
    }
}

/* The flat words of a rule back to its chip's cells. */
void rmg_sim_spill(rmg_sim *sim, uint16_t r)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_sim_window *w = rmg_sim_window_of(sim, rule->where.first);

    for (rmg_addr a = rule->where.first;; a++) {
        const size_t at = w->offset + (size_t)(a - w->first);

        if (flat_at(sim, r, at) && rmg_where_holds(&rule->where, a)) {
            uint32_t cell = 0;

            for (uint8_t line = 0; line < rule->width; line++)
                cell |= (uint32_t)(sim->words[at] >> rule->data_bits[line] & 1u) << line;
            sim->ways[r].cells[rmg_chips_cell(sim, r, a)] = cell;
        }
        if (a == rule->where.last)
            break;
    }
}

void rmg_sim_put(rmg_sim *sim, uint16_t chip, rmg_addr cell, uint32_t value)
{
    const uint16_t r = rmg_rule_of_chip(sim, chip);

    for (uint16_t i = 0; i < sim->board->placement->rule_count; i++)
        rmg_sim_spill(sim, i);
    if (r < RMG_PLACE_RULES)
        sim->ways[r].cells[cell] = value;
    rmg_cells_settle(sim);
    for (size_t i = 0; i < sim->slow_bytes; i++)
        if (!(sim->slow[i] & RMG_SLOW_BOARD))
            memset(&sim->words[i << RMG_SIM_PAGE_BITS], 0, sizeof *sim->words << RMG_SIM_PAGE_BITS);
    for (uint16_t i = 0; i < sim->board->placement->rule_count; i++)
        rmg_sim_fill(sim, i);
}

void rmg_sim_put_word(rmg_sim *sim, rmg_addr address, rmg_word value)
{
    const rmg_sim_window *w = rmg_sim_window_of(sim, address);

    if (!w)
        return;
    sim->words[w->offset + (size_t)(address - w->first)] = value & sim->mask;
    for (uint16_t r = 0; r < sim->board->placement->rule_count; r++) {
        const rmg_rule *rule = &sim->board->placement->rules[r];
        uint32_t *cell = &sim->ways[r].cells[rmg_rule_cell(rule, address)];

        if (!rmg_where_holds(&rule->where, address) || sim->board->chips[rule->socket].rom)
            continue;
        *cell = 0;
        for (uint8_t line = 0; line < rule->width; line++)
            *cell |= (uint32_t)(value >> rule->data_bits[line] & 1u) << line;
    }
}

/* What changes in a running simulation, apart from its memory block. */
typedef struct changing {
    uint64_t now_ns, reads, writes, driven_ns, refresh_ns, heat_over_ns;
    rmg_word last_bus, page;
    uint32_t access_ns;
    int32_t supply_mv, heat_millic, heat_to_millic;
    uint8_t lively, was_lively, refreshed;
} changing;

size_t rmg_sim_state_bytes(const rmg_sim *sim)
{
    return sizeof(changing) + rmg_sim_kept_bytes(sim->board, sim->fault_count);
}

void rmg_sim_save(const rmg_sim *sim, void *bytes)
{
    changing c;

    memset(&c, 0, sizeof c);
    c.now_ns = sim->now_ns;
    c.reads = sim->reads;
    c.writes = sim->writes;
    c.driven_ns = sim->driven_ns;
    c.refresh_ns = sim->refresh_ns;
    c.heat_over_ns = sim->heat_over_ns;
    c.last_bus = sim->last_bus;
    c.page = sim->page;
    c.access_ns = sim->access_ns;
    c.supply_mv = sim->supply_mv;
    c.heat_millic = sim->heat_millic;
    c.heat_to_millic = sim->heat_to_millic;
    c.lively = sim->lively;
    c.was_lively = sim->was_lively;
    c.refreshed = sim->refreshed;
    memcpy(bytes, &c, sizeof c);
    memcpy((uint8_t *)bytes + sizeof c, sim->words,
           rmg_sim_kept_bytes(sim->board, sim->fault_count));
}

rmg_status rmg_sim_restore(rmg_sim *sim, const void *bytes, size_t count)
{
    changing c;

    if (count != rmg_sim_state_bytes(sim))
        return RMG_ERR_ARGUMENT;
    memcpy(&c, bytes, sizeof c);
    if (!c.access_ns || (c.heat_over_ns && c.heat_over_ns < 1000u) || c.refreshed > 1)
        return RMG_ERR_ARGUMENT;
    sim->now_ns = c.now_ns;
    sim->reads = c.reads;
    sim->writes = c.writes;
    sim->driven_ns = c.driven_ns;
    sim->refresh_ns = c.refresh_ns;
    sim->heat_over_ns = c.heat_over_ns;
    sim->last_bus = c.last_bus;
    sim->page = c.page & sim->board->pages.mask;
    sim->access_ns = c.access_ns;
    sim->supply_mv = c.supply_mv;
    sim->heat_millic = c.heat_millic;
    sim->heat_to_millic = c.heat_to_millic;
    sim->lively = c.lively != 0;
    sim->was_lively = c.was_lively != 0;
    sim->refreshed = c.refreshed != 0;
    memcpy(sim->words, (const uint8_t *)bytes + sizeof c,
           rmg_sim_kept_bytes(sim->board, sim->fault_count));
    sim->hot = sim->heat_millic > RMG_COOL_MILLIC || sim->heat_to_millic > RMG_COOL_MILLIC;
    sim->calm = sim->refreshed && !sim->hot;
    return RMG_OK;
}
