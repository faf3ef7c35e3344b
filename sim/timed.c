/* Words of an element in pages that faults mark, of chips in which some cells fade with time and
 * nothing else is wrong: a row may have faded until the first operation on a word of it; the others
 * follow at once. */
#include "walk.h"

bool rmg_timed_words(const rmg_sim *sim)
{
    if (sim->conditional || sim->strays || sim->force_count || sim->bus_acts || sim->watch_count ||
        sim->pairs.act || sim->heat_over_ns || !sim->apart_count)
        return false;
    for (uint16_t i = 0; i < sim->apart_count; i++) {
        const rmg_sim_way *way = &sim->ways[sim->apart[i]];
        const uint16_t socket = sim->board->placement->rules[sim->apart[i]].socket;

        if ((way->acts & ~(RMG_STAGE_BIT(TIME) | RMG_STAGE_BIT(REFRESH))) || !way->row_mask ||
            sim->board->chips[socket].rom || rmg_chip_leaks(&sim->board->chips[socket]) ||
            sim->access_ns > rmg_rows_weakest_ns(sim, sim->apart[i]))
            return false;
    }
    return true;
}

/* The word's bits in the cells of a chip, onto the bus; and back. */
static rmg_word from_cell(rmg_sim *sim, uint16_t r, rmg_addr cell)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const uint32_t held = rmg_cell_get(sim, r, cell);
    rmg_word word = 0;

    for (uint8_t line = 0; line < rule->width; line++)
        word |= (rmg_word)(held >> line & 1u) << rule->data_bits[line];
    return word;
}

static void to_cell(rmg_sim *sim, uint16_t r, rmg_addr cell, rmg_word word)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    uint32_t held = 0;

    for (uint8_t line = 0; line < rule->width; line++)
        held |= (uint32_t)(word >> rule->data_bits[line] & 1u) << line;
    rmg_cell_set(sim, r, cell, held);
}

void rmg_walk_timed(rmg_walk *w, size_t at)
{
    rmg_sim *sim = w->sim;
    rmg_element_call *call = w->call;
    const rmg_addr address = call->address;
    const uint64_t begin = sim->now_ns;
    rmg_word held = rmg_flat_load(sim, at);
    rmg_laid nothing;

    if (rmg_walk_in_order(w))
        rmg_walk_hand_over(w);
    sim->now_ns = begin + sim->access_ns;
    for (uint16_t i = 0; i < sim->apart_count; i++) {
        const uint16_t r = sim->apart[i];

        if (rmg_where_holds(&sim->ways[r].where, address)) {
            const rmg_addr cell = rmg_chips_fed_cell(sim, r, address);

            rmg_rows_access(sim, r, cell, false);
            held = (held & ~sim->ways[r].bits) | from_cell(sim, r, cell);
        }
    }
    sim->now_ns = begin + (uint64_t)call->op_count * sim->access_ns;
    nothing.and [address & 15u] = ~(rmg_word)0;
    nothing.or [address & 15u] = 0;
    nothing.takes = false;
    nothing.stale = nothing.before = 0;
    nothing.join = nothing.join_taken = 0;
    held = rmg_laid_word(w, &nothing, address, held, 0, NULL);
    for (uint16_t i = 0; i < sim->apart_count; i++) {
        const uint16_t r = sim->apart[i];

        if (rmg_where_holds(&sim->ways[r].where, address)) {
            const rmg_addr cell = rmg_chips_fed_cell(sim, r, address);

            sim->ways[r].row_ns[cell & sim->ways[r].row_mask] = sim->now_ns;
            if (w->writes)
                to_cell(sim, r, cell, held);
        }
    }
    rmg_flat_store(sim, at, held);
    for (uint8_t i = 0; i < call->op_count; i++) {
        const bool writing = call->ops[i] & OP_WRITE;

        sim->writes += writing;
        sim->reads += !writing;
        if (writing)
            sim->driven_ns = begin + (i + 1u) * (uint64_t)sim->access_ns;
    }
    sim->chipwise++;
    sim->last_bus = held & sim->mask; /* what was written or read last */
    sim->last_address = address;
}
