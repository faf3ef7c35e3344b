/* What a simulation holds: flat words and the chips' cells, both packed, and both only as far as
 * they were touched. A board larger than what is tested of it costs its marks alone.
 *
 * Invariant: a page marked new has no flat words yet, its truth are the cells; a block of cells
 * that is not known holds what its chip came up with. Neither is read before it is brought. */
#include "internal.h"

#include <string.h>

#define PAGE_WORDS ((size_t)1 << RMG_SIM_PAGE_BITS)

/* The pages of a place. */
static const uint8_t *pages_of(rmg_sim *sim, const rmg_where *where, size_t *count)
{
    const rmg_sim_window *w = rmg_sim_window_of(sim, where->first);
    const size_t first = (w->offset + (size_t)(where->first - w->first)) >> RMG_SIM_PAGE_BITS;

    *count = (size_t)((where->last - where->first) >> RMG_SIM_PAGE_BITS) + 1u;
    return &sim->slow[first];
}

bool rmg_flat_by_board(rmg_sim *sim, const rmg_where *where)
{
    size_t count, i = 0;
    const uint8_t *page = pages_of(sim, where, &count);
    uint64_t eight, all = 0;

    for (; count - i >= sizeof eight; i += sizeof eight) {
        memcpy(&eight, page + i, sizeof eight);
        all |= eight;
    }
    for (; i < count; i++)
        all |= page[i];
    return !(all & UINT64_C(0x0101010101010101) * RMG_SLOW_BOARD);
}

#define LEAST_STEP 64u /* words: of places that lower lines choose each goes chip by chip */

bool rmg_lies_flat(rmg_sim *sim, uint16_t r)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_sim_chip *chip = &sim->board->chips[rule->socket];

    return !chip->rom && !rmg_chip_leaks(chip) && !(rule->where.mask & (LEAST_STEP - 1u)) &&
           rmg_flat_by_board(sim, &rule->where);
}

/* A word as the chip comes up with it: its image, or chance. */
static uint32_t first_word(const rmg_sim *sim, uint16_t chip, rmg_addr cell)
{
    const rmg_sim_chip *c = &sim->board->chips[chip];
    const size_t bytes = (c->width + 7u) / 8u;
    uint32_t word = 0;

    if (!c->image)
        return (uint32_t)rmg_sim_mix(rmg_sim_source(sim, 0) ^
                                     rmg_sim_mix((uint64_t)chip << 40 | cell));
    for (size_t i = 0; i < bytes; i++) {
        const size_t at = (size_t)cell * bytes + i;

        word |= (uint32_t)(at < c->image_bytes ? c->image[at] : 0xFFu) << 8 * i;
    }
    return word;
}

void rmg_cells_bring(rmg_sim *sim, uint16_t r, rmg_addr cell)
{
    rmg_sim_way *way = &sim->ways[r];
    const uint16_t chip = sim->board->placement->rules[r].socket;
    const rmg_addr block = cell >> RMG_SIM_BLOCK_BITS;
    const rmg_addr first = block << RMG_SIM_BLOCK_BITS;
    const rmg_addr last = first + (((rmg_addr)1 << RMG_SIM_BLOCK_BITS) - 1u);

    for (rmg_addr c = first; c <= last && c <= way->cell_mask; c++)
        rmg_cell_store(way, c, first_word(sim, chip, c));
    way->known[block >> 3] |= (uint8_t)(1u << (block & 7u));
    sim->touched += rmg_block_bytes(way);
}

/* A cell as it is, brought or not. */
static uint32_t cell_now(const rmg_sim *sim, uint16_t r, rmg_addr cell)
{
    return rmg_cell_known(&sim->ways[r], cell)
               ? rmg_cell_load(&sim->ways[r], cell)
               : first_word(sim, sim->board->placement->rules[r].socket, cell);
}

uint32_t rmg_sim_word(const rmg_sim *sim, uint16_t chip, rmg_addr cell)
{
    const uint16_t r = rmg_rule_of_chip(sim, chip);

    if (chip >= sim->board->chip_count || cell >> sim->board->chips[chip].address_lines)
        return 0;
    return r < RMG_PLACE_RULES ? cell_now(sim, r, cell) : first_word(sim, chip, cell);
}

/* The words of a page from one address to another, of which the first is at `first`: the bits of
 * one rule. `dice`: what contents at power-on are drawn from. */
static void bring_rule(rmg_sim *sim, uint16_t r, rmg_addr from, rmg_addr to, size_t first,
                       uint64_t dice)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_sim_way *way = &sim->ways[r];
    const bool drawn = !sim->board->chips[rule->socket].image;
    const uint64_t chip = (uint64_t)rule->socket << 40;

    for (rmg_addr a = from;; a++) {
        if (rmg_where_holds(&rule->where, a)) {
            const rmg_addr at = rmg_chips_fed_cell(sim, r, a);
            const uint32_t cell = drawn && !rmg_cell_known(way, at)
                                      ? (uint32_t)rmg_sim_mix(dice ^ rmg_sim_mix(chip | at))
                                      : cell_now(sim, r, at);
            rmg_word word = 0;

            for (uint8_t line = 0; line < rule->width; line++)
                word |= (rmg_word)(cell >> line & 1u) << rule->data_bits[line];
            rmg_flat_store(sim, first + (size_t)(a - from),
                           rmg_flat_load(sim, first + (size_t)(a - from)) | word);
        }
        if (a == to)
            return;
    }
}

/* Every rule's bits, whether its chip is kept apart now or not: it may be flat at the next start.
 */
void rmg_page_bring(rmg_sim *sim, const rmg_sim_window *w, size_t page)
{
    const size_t first = page << RMG_SIM_PAGE_BITS;
    const rmg_addr from = w->first + (rmg_addr)(first - w->offset);
    const rmg_addr left = w->last - from;
    const rmg_addr to = from + (left < PAGE_WORDS - 1u ? left : (rmg_addr)(PAGE_WORDS - 1u));
    const uint64_t dice = rmg_sim_source(sim, 0);

    memset((uint8_t *)sim->words + (first << sim->word_log2), 0, PAGE_WORDS << sim->word_log2);
    for (uint16_t r = 0; r < sim->board->placement->rule_count; r++)
        if (sim->ways[r].where.last >= from && sim->ways[r].where.first <= to)
            bring_rule(sim, r, from, to, first, dice);
    rmg_page_is_known(sim, page);
}

void rmg_flat_set_bit(rmg_sim *sim, uint16_t r, rmg_addr cell, uint8_t line, uint8_t level)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_addr address = rmg_rule_address(rule, cell);
    const rmg_sim_window *w = rmg_sim_window_of(sim, address);
    const size_t at = w->offset + (size_t)(address - w->first);
    const rmg_word bit = (rmg_word)1 << rule->data_bits[line];

    if (sim->slow[at >> RMG_SIM_PAGE_BITS]) { /* the cells are the truth */
        const uint32_t others = rmg_cell_get(sim, r, cell) & ~((uint32_t)1 << line);

        rmg_cell_set(sim, r, cell, others | (uint32_t)level << line);
        return;
    }
    rmg_flat_store(sim, at, (rmg_flat_load(sim, at) & ~bit) | (level ? bit : 0));
}

void rmg_rule_spill(rmg_sim *sim, uint16_t r)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_sim_window *w = rmg_sim_window_of(sim, rule->where.first);

    for (rmg_addr a = rule->where.first;; a++) {
        const size_t at = w->offset + (size_t)(a - w->first);
        const uint8_t slow = sim->slow[at >> RMG_SIM_PAGE_BITS];

        if ((!slow || (slow == RMG_SLOW_FAULT && !sim->is_apart[r])) &&
            rmg_where_holds(&rule->where, a)) {
            const rmg_word word = rmg_flat_load(sim, at);
            uint32_t cell = 0;

            for (uint8_t line = 0; line < rule->width; line++)
                cell |= (uint32_t)(word >> rule->data_bits[line] & 1u) << line;
            rmg_cell_set(sim, r, rmg_chips_fed_cell(sim, r, a), cell);
        }
        if (a == rule->where.last)
            break;
    }
}

void rmg_sim_spill(rmg_sim *sim)
{
    for (uint16_t r = 0; r < sim->board->placement->rule_count; r++)
        rmg_rule_spill(sim, r);
    for (size_t page = 0; page < sim->slow_bytes; page++)
        if (!(sim->slow[page] & RMG_SLOW_BOARD))
            sim->slow[page] |= RMG_SLOW_NEW;
}
