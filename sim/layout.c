/* How a simulation lies in its memory: windows of flat words, cells and rows of the chips, marks of
 * the pages, what faults remember; and, apart from what is saved, the lists of faults. */
#include "internal.h"

#include <string.h>

static uint64_t depth(const rmg_sim_chip *chip)
{
    return (uint64_t)1 << chip->address_lines;
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

#define MOST_WORDS ((uint64_t)1 << 50) /* of a board: so that no count of bytes runs over */

/* Lays the windows one after another. Returns the words they take. */
static uint64_t place_windows(rmg_sim_window *windows, uint16_t count)
{
    uint64_t words = 0;

    for (uint16_t i = 0; i < count && words <= MOST_WORDS; i++) {
        const uint64_t more = (uint64_t)(windows[i].last - windows[i].first);

        if (more > MOST_WORDS)
            return more;
        windows[i].offset = (size_t)words;
        words += more + 1u;
        words = (words + (1u << RMG_SIM_PAGE_BITS) - 1u) >> RMG_SIM_PAGE_BITS << RMG_SIM_PAGE_BITS;
    }
    return words;
}

static bool board_usable(const rmg_sim_board *board)
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

/* Bits that a cell takes in memory, as a power of two. */
static uint8_t cell_log2(const rmg_sim_chip *chip)
{
    uint8_t log2 = 0;

    while (1u << log2 < chip->width)
        log2++;
    return log2;
}

static uint8_t word_log2(const rmg_sim_board *board)
{
    return board->word_bits <= 8 ? 0 : board->word_bits <= 16 ? 1 : board->word_bits <= 32 ? 2 : 3;
}

static uint64_t rounded(uint64_t bytes)
{
    return (bytes + 7u) / 8u * 8u;
}

/* Does no rule before this one lead to its chip? */
static bool first_of_chip(const rmg_placement *placement, uint16_t r, uint16_t *first)
{
    for (*first = 0; placement->rules[*first].socket != placement->rules[r].socket;)
        ++*first;
    return *first == r;
}

/* Where each rule's rows and block marks lie; rules of one chip share them. */
static void place_rows(rmg_sim *sim, const rmg_sim_board *board, uint8_t *memory, uint64_t *used)
{
    const rmg_placement *placement = board->placement;
    uint16_t first;

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_sim_chip *chip = &board->chips[placement->rules[r].socket];
        const bool own = first_of_chip(placement, r, &first);
        const size_t rows = chip->row_lines ? sizeof(uint64_t) << chip->row_lines : 0;

        if (sim) {
            sim->ways[r].row_ns =
                own ? (uint64_t *)(void *)(memory + *used) : sim->ways[first].row_ns;
            sim->ways[r].known = own ? memory + *used + rows : sim->ways[first].known;
        }
        if (own)
            *used += rows + rounded((depth(chip) >> (RMG_SIM_BLOCK_BITS + 3u)) + 1u);
    }
}

/* The same of its cells. */
static void place_cells(rmg_sim *sim, const rmg_sim_board *board, uint8_t *memory, uint64_t *used)
{
    const rmg_placement *placement = board->placement;
    uint16_t first;

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_sim_chip *chip = &board->chips[placement->rules[r].socket];
        const bool own = first_of_chip(placement, r, &first);

        if (sim) {
            sim->ways[r].cell_log2 = cell_log2(chip);
            sim->ways[r].cells = own ? memory + *used : sim->ways[first].cells;
        }
        if (own)
            *used += rounded((depth(chip) << cell_log2(chip) >> 3) + 1u);
    }
}

/* What is zeroed at the start comes first: lists of faults, what they remember, rows, marks. Flat
 * words and cells come last and are not touched before they are brought. */
size_t rmg_sim_lay_out(rmg_sim *sim, const rmg_sim_board *board, uint16_t fault_count, void *memory)
{
    rmg_sim_window windows[RMG_SIM_WINDOWS + 1u];
    const size_t lists = (size_t)rounded(rmg_sim_lists_bytes(board, fault_count));
    uint64_t used = lists + fault_count * sizeof(rmg_sim_memory), words;
    uint8_t *bytes = memory;
    uint16_t count;

    if (!board_usable(board))
        return 0;
    count = rmg_sim_find_windows(board->placement, windows);
    words = place_windows(windows, count);
    if (!count || words > MOST_WORDS)
        return 0;
    if (sim) {
        memset(sim, 0, sizeof *sim);
        memcpy(sim->windows, windows, sizeof sim->windows);
        sim->window_count = count;
        sim->list_start = memory;
        sim->list = (uint16_t *)(void *)(sim->list_start + rmg_sim_list_starts(board));
        sim->list_room = fault_count;
        sim->memories = (rmg_sim_memory *)(void *)(bytes + lists);
        sim->rows = bytes + used;
    }
    place_rows(sim, board, bytes, &used);
    if (sim) {
        sim->rows_bytes = (size_t)(bytes + used - sim->rows);
        sim->slow = bytes + used;
        sim->slow_bytes = (size_t)(words >> RMG_SIM_PAGE_BITS);
    }
    used += rounded(words >> RMG_SIM_PAGE_BITS);
    if (sim) {
        memset(memory, 0, (size_t)used);
        sim->words = bytes + used;
        sim->word_log2 = word_log2(board);
    }
    used += rounded(words << word_log2(board));
    place_cells(sim, board, bytes, &used);
    return used <= SIZE_MAX / 2u ? (size_t)used : 0;
}

size_t rmg_sim_bytes(const rmg_sim_board *board, uint16_t fault_count)
{
    return rmg_sim_lay_out(NULL, board, fault_count, NULL);
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
