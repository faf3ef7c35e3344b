/* How a simulation lies in its memory: windows of flat words, cells and rows of the chips, marks of
 * the pages, what faults remember; and, apart from what is saved, the lists of faults. */
#include "internal.h"

#include <string.h>

static size_t depth(const rmg_sim_chip *chip)
{
    return (size_t)1 << chip->address_lines;
}

/* The stretches of addresses that rules hold, rising and joined. Returns how many; 0 is too many.
 */
uint16_t rmg_sim_find_windows(const rmg_placement *placement, rmg_sim_window *windows)
{
    uint16_t count = 0;

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        rmg_sim_window w = {placement->rules[r].where.first, placement->rules[r].where.last, 0};
        uint16_t kept = 0, at = 0;

        for (uint16_t i = 0; i < count; i++) {
            if (windows[i].first <= w.last && w.first <= windows[i].last) {
                w.first = windows[i].first < w.first ? windows[i].first : w.first;
                w.last = windows[i].last > w.last ? windows[i].last : w.last;
            } else {
                windows[kept++] = windows[i];
            }
        }
        if (kept == RMG_SIM_WINDOWS)
            return 0;
        while (at < kept && windows[at].first < w.first)
            at++;
        memmove(&windows[at + 1u], &windows[at], (size_t)(kept - at) * sizeof *windows);
        windows[at] = w;
        count = (uint16_t)(kept + 1u);
    }
    return count;
}

size_t rmg_sim_place_windows(rmg_sim_window *windows, uint16_t count)
{
    size_t words = 0;

    for (uint16_t i = 0; i < count; i++) {
        windows[i].offset = words;
        words += (size_t)(windows[i].last - windows[i].first) + 1u;
        words = (words + (1u << RMG_SIM_PAGE_BITS) - 1u) >> RMG_SIM_PAGE_BITS << RMG_SIM_PAGE_BITS;
    }
    return words;
}

bool rmg_sim_board_usable(const rmg_sim_board *board)
{
    if (!board->placement->rule_count || board->placement->rule_count > RMG_PLACE_RULES ||
        !board->word_bits || board->word_bits > RMG_WORD_BITS)
        return false;
    for (uint16_t r = 0; r < board->placement->rule_count; r++) {
        const rmg_rule *rule = &board->placement->rules[r];
        const rmg_sim_chip *chip;

        if (rule->socket >= board->chip_count || rule->where.first > rule->where.last)
            return false;
        chip = &board->chips[rule->socket];
        if (!chip->width || chip->width > 32 || chip->address_lines > RMG_PLACE_LINES ||
            chip->row_lines > chip->address_lines || rule->width != chip->width ||
            rule->address_lines != chip->address_lines)
            return false;
        for (uint8_t i = 0; i < rule->width; i++)
            if (rule->data_bits[i] >= board->word_bits)
                return false;
    }
    return true;
}

size_t rmg_sim_all_cells(const rmg_sim_board *board)
{
    size_t cells = 0;

    for (uint16_t c = 0; c < board->chip_count; c++)
        cells += depth(&board->chips[c]);
    return cells;
}

/* Rows of all chips, each rule's chip counted once. */
size_t rmg_sim_all_rows(const rmg_sim_board *board, size_t *offsets)
{
    const rmg_placement *placement = board->placement;
    size_t rows = 0;

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_sim_chip *chip = &board->chips[placement->rules[r].socket];
        uint16_t first = 0;

        while (placement->rules[first].socket != placement->rules[r].socket)
            first++;
        if (offsets)
            offsets[r] = first < r ? offsets[first] : rows;
        if (first == r && chip->row_lines)
            rows += (size_t)1 << chip->row_lines;
    }
    return rows;
}

/* Bytes of the marks, rounded so that what follows is aligned. */
static size_t slow_room(size_t words)
{
    return ((words >> RMG_SIM_PAGE_BITS) + 15u) / 8u * 8u;
}

size_t rmg_sim_kept_bytes(const rmg_sim_board *board, uint16_t fault_count)
{
    rmg_sim_window windows[RMG_SIM_WINDOWS + 1u];
    uint16_t count;
    size_t words;

    if (!rmg_sim_board_usable(board))
        return 0;
    count = rmg_sim_find_windows(board->placement, windows);
    if (!count)
        return 0;
    words = rmg_sim_place_windows(windows, count);
    return words * sizeof(rmg_word) + rmg_sim_all_rows(board, NULL) * sizeof(uint64_t) +
           rmg_sim_all_cells(board) * sizeof(uint32_t) + slow_room(words) +
           fault_count * sizeof(rmg_sim_memory);
}

size_t rmg_sim_bytes(const rmg_sim_board *board, uint16_t fault_count)
{
    const size_t kept = rmg_sim_kept_bytes(board, fault_count);

    return kept ? (kept + 7u) / 8u * 8u + rmg_sim_lists_bytes(board, fault_count) : 0;
}

rmg_sim_window *rmg_sim_window_of(rmg_sim *sim, rmg_addr address)
{
    rmg_sim_window *w = &sim->windows[sim->recent];

    if (address >= w->first && address <= w->last)
        return w;
    for (uint16_t i = 0; i < sim->window_count; i++) {
        w = &sim->windows[i];
        if (address >= w->first && address <= w->last) {
            sim->recent = i;
            return w;
        }
    }
    return NULL;
}

uint16_t rmg_rule_of_chip(const rmg_sim *sim, uint16_t chip)
{
    const rmg_placement *placement = sim->board->placement;

    for (uint16_t r = 0; r < placement->rule_count; r++)
        if (placement->rules[r].socket == chip)
            return r;
    return RMG_PLACE_RULES;
}
