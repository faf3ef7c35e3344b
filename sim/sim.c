/* The simulated board: memory layout, power-on, and the fast path of an access. */
#include "internal.h"

#include <string.h>

static size_t depth(const rmg_sim_chip *chip)
{
    return (size_t)1 << chip->address_lines;
}

/* The stretches of addresses that rules hold, rising and joined. Returns how many; 0 is too many.
 */
static uint16_t find_windows(const rmg_placement *placement, rmg_sim_window *windows)
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

static size_t place_windows(rmg_sim_window *windows, uint16_t count)
{
    size_t words = 0;

    for (uint16_t i = 0; i < count; i++) {
        windows[i].offset = words;
        words += (size_t)(windows[i].last - windows[i].first) + 1u;
        words = (words + (1u << RMG_SIM_PAGE_BITS) - 1u) >> RMG_SIM_PAGE_BITS << RMG_SIM_PAGE_BITS;
    }
    return words;
}

static bool usable(const rmg_sim_board *board)
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

static size_t all_cells(const rmg_sim_board *board)
{
    size_t cells = 0;

    for (uint16_t c = 0; c < board->chip_count; c++)
        cells += depth(&board->chips[c]);
    return cells;
}

/* Rows of all chips, each rule's chip counted once. */
static size_t all_rows(const rmg_sim_board *board, size_t *offsets)
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

size_t rmg_sim_bytes(const rmg_sim_board *board, uint16_t fault_count)
{
    rmg_sim_window windows[RMG_SIM_WINDOWS + 1u];
    uint16_t count;
    size_t words;

    if (!usable(board))
        return 0;
    count = find_windows(board->placement, windows);
    if (!count)
        return 0;
    words = place_windows(windows, count);
    return words * sizeof(rmg_word) + all_rows(board, NULL) * sizeof(uint64_t) +
           all_cells(board) * sizeof(uint32_t) + slow_room(words) +
           fault_count * sizeof(rmg_sim_memory);
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

/* Where the chip's address lines are fed by neighbouring bus bits in order, a shift finds the cell.
 */
static uint8_t feed_from(const rmg_rule *rule)
{
    for (uint8_t i = 0; i < rule->address_lines; i++)
        if (rule->address_bits[i] != rule->address_bits[0] + i ||
            rule->address_bits[i] >= RMG_ADDR_BITS)
            return UINT8_MAX;
    return rule->address_lines ? rule->address_bits[0] : UINT8_MAX;
}

/* A word as the chip comes up with it: its image, or chance. */
static uint32_t first_word(const rmg_sim *sim, uint16_t chip, size_t cell)
{
    const rmg_sim_chip *c = &sim->board->chips[chip];
    const size_t bytes = (c->width + 7u) / 8u;
    uint32_t word = 0;

    if (!c->image)
        return (uint32_t)rmg_sim_dice(sim, 0, (uint64_t)chip << 40 | cell);
    for (size_t i = 0; i < bytes; i++) {
        const size_t at = cell * bytes + i;

        word |= (uint32_t)(at < c->image_bytes ? c->image[at] : 0xFFu) << 8 * i;
    }
    return word;
}

static void fill_cells(rmg_sim *sim)
{
    const rmg_sim_board *board = sim->board;
    size_t offset = 0;

    for (uint16_t c = 0; c < board->chip_count; c++) {
        for (size_t i = 0; i < depth(&board->chips[c]); i++)
            sim->cells[offset + i] = first_word(sim, c, i);
        for (uint16_t r = 0; r < board->placement->rule_count; r++)
            if (board->placement->rules[r].socket == c)
                sim->chip_offset[r] = offset;
        offset += depth(&board->chips[c]);
    }
}

uint32_t rmg_sim_word(const rmg_sim *sim, uint16_t chip, rmg_addr cell)
{
    size_t offset = 0;

    if (chip >= sim->board->chip_count || cell >= depth(&sim->board->chips[chip]))
        return 0;
    for (uint16_t c = 0; c < chip; c++)
        offset += depth(&sim->board->chips[c]);
    return sim->cells[offset + cell];
}

/* The faults, and everything that is not memory, as after power-on. */
static void power_on(rmg_sim *sim, const rmg_sim_fault *faults, uint16_t fault_count)
{
    const rmg_sim_board *board = sim->board;

    sim->faults = faults;
    sim->fault_count = fault_count;
    sim->access_ns = board->access_ns;
    sim->supply_mv = 5000;
    rmg_sim_warm(sim, 25000, 25000, 0);
    sim->refreshed = true;
    sim->strays = sim->lively = false;
    sim->apart_count = 0;
    for (uint16_t i = 0; i < fault_count; i++) {
        sim->strays |=
            faults[i].kind == RMG_FAULT_ALSO_SELECTED || faults[i].kind == RMG_FAULT_ALWAYS_ON;
        sim->lively |= rmg_fault_lively(&faults[i]);
    }
    for (uint16_t c = 0; c < board->chip_count; c++)
        sim->lively |= rmg_chip_leaks(&board->chips[c]);
    for (uint16_t r = 0; r < board->placement->rule_count; r++) {
        const rmg_rule *rule = &board->placement->rules[r];

        sim->plain[r] = !rmg_chip_leaks(&board->chips[rule->socket]);
        for (uint16_t i = 0; i < fault_count; i++)
            if (rmg_fault_concerns(&faults[i], rule))
                sim->plain[r] = false;
        sim->is_apart[r] = !sim->plain[r];
        sim->direct[r] = true;
        for (uint16_t i = 0; i < fault_count; i++)
            if (rmg_fault_concerns(&faults[i], rule) && rmg_fault_of_data_lines(&faults[i]))
                sim->direct[r] = false;
        for (uint16_t i = 0; i < fault_count; i++)
            if (faults[i].kind == RMG_FAULT_ALSO_SELECTED && faults[i].bank == rule->bank)
                sim->is_apart[r] = true;
        if (sim->is_apart[r])
            sim->apart[sim->apart_count++] = r;
    }
    rmg_sim_mark_faults(sim);
    rmg_cells_settle(sim);
}

rmg_status rmg_sim_start(rmg_sim *sim, const rmg_sim_board *board, const rmg_sim_fault *faults,
                         uint16_t fault_count, uint64_t world_seed, void *memory)
{
    const size_t bytes = rmg_sim_bytes(board, fault_count);
    rmg_sim_window windows[RMG_SIM_WINDOWS + 1u];
    size_t words;

    if (!bytes)
        return RMG_ERR_ARGUMENT;
    for (uint16_t i = 0; i < fault_count; i++)
        if (!rmg_fault_usable(board, &faults[i]))
            return RMG_ERR_ARGUMENT;
    memset(sim, 0, sizeof *sim);
    sim->board = board;
    sim->world_seed = world_seed;
    sim->mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits);
    sim->window_count = find_windows(board->placement, windows);
    words = place_windows(windows, sim->window_count);
    memcpy(sim->windows, windows, sizeof sim->windows);
    sim->words = memory;
    sim->row_ns = (uint64_t *)(void *)(sim->words + words);
    sim->row_count = all_rows(board, sim->row_offset);
    sim->cells = (uint32_t *)(void *)(sim->row_ns + sim->row_count);
    sim->slow = (uint8_t *)(sim->cells + all_cells(board));
    sim->slow_bytes = words >> RMG_SIM_PAGE_BITS;
    sim->memories =
        (rmg_sim_memory *)(void *)(sim->slow + (bytes - fault_count * sizeof *sim->memories -
                                                (size_t)(sim->slow - (uint8_t *)memory)));
    memset(memory, 0, bytes);
    for (uint16_t r = 0; r < board->placement->rule_count; r++)
        sim->feed_from[r] = feed_from(&board->placement->rules[r]);
    for (uint16_t r = 0; r < board->placement->rule_count; r++)
        sim->rule_bits[r] = rmg_rule_bits(&board->placement->rules[r]);
    rmg_sim_mark_board(sim);
    fill_cells(sim);
    power_on(sim, faults, fault_count);
    for (uint16_t r = 0; r < board->placement->rule_count; r++)
        rmg_sim_fill(sim, r);
    return RMG_OK;
}

rmg_status rmg_sim_start_again(rmg_sim *sim, const rmg_sim_fault *faults, uint16_t fault_count)
{
    for (uint16_t i = 0; i < fault_count; i++)
        if (!rmg_fault_usable(sim->board, &faults[i]))
            return RMG_ERR_ARGUMENT;
    memset(sim->row_ns, 0, sim->row_count * sizeof *sim->row_ns);
    memset(sim->memories, 0, fault_count * sizeof *sim->memories);
    sim->reads = sim->writes = sim->now_ns = sim->driven_ns = sim->refresh_ns = 0;
    sim->last_bus = sim->page = 0;
    sim->recent = 0;
    power_on(sim, faults, fault_count);
    return RMG_OK;
}

static rmg_word undriven(const rmg_sim *sim)
{
    const rmg_sim_board *board = sim->board;
    rmg_undriven level = board->undriven;

    if (level == RMG_UNDRIVEN_HOLDS && board->hold_ns &&
        sim->now_ns - sim->driven_ns > board->hold_ns)
        level = board->after;
    switch (level) {
    case RMG_UNDRIVEN_HIGH:
        return sim->mask;
    case RMG_UNDRIVEN_LOW:
        return 0;
    default:
        return sim->last_bus;
    }
}

/* The address that mirrors and pages make of the one on the bus. */
static rmg_addr reached(const rmg_sim *sim, rmg_addr address)
{
    const rmg_sim_pages *pages = &sim->board->pages;

    for (uint16_t i = 0; i < sim->board->mirror_count; i++) {
        const rmg_sim_mirror *m = &sim->board->mirrors[i];

        if (address >= m->first && address <= m->last)
            return address - m->first + m->to;
    }
    if (pages->mask && address >= pages->first && address <= pages->last)
        address |= sim->page << pages->shift;
    return address;
}

rmg_word rmg_sim_read(rmg_sim *sim, rmg_addr bus_address)
{
    const rmg_addr address = reached(sim, bus_address);
    const rmg_sim_window *w = rmg_sim_window_of(sim, address);
    const size_t at = w ? w->offset + (size_t)(address - w->first) : 0;

    sim->now_ns += sim->access_ns;
    sim->reads++;
    if (w && !sim->slow[at >> RMG_SIM_PAGE_BITS]) {
        sim->last_bus = sim->words[at];
        sim->driven_ns = sim->now_ns;
    } else {
        rmg_word driven = 0;
        rmg_word value = 0;

        if (w && sim->slow[at >> RMG_SIM_PAGE_BITS] == RMG_SLOW_FAULT)
            value = rmg_chips_read_apart(sim, address, sim->words[at], &driven);
        else if (w)
            value = rmg_chips_read(sim, address, &driven);

        sim->last_bus =
            rmg_chips_noise(
                sim, rmg_chips_bus(sim, address, (value & driven) | (undriven(sim) & ~driven))) &
            sim->mask;
    }
    return sim->last_bus;
}

/* A write of which only the bits of `strobed` are taken by the chips. */
static void write_bits(rmg_sim *sim, rmg_addr bus_address, rmg_word value, rmg_word strobed)
{
    const rmg_addr address = reached(sim, bus_address);
    const rmg_sim_window *w = rmg_sim_window_of(sim, address);
    const size_t at = w ? w->offset + (size_t)(address - w->first) : 0;

    sim->now_ns += sim->access_ns;
    sim->driven_ns = sim->now_ns;
    sim->writes++;
    if (sim->board->pages.mask && bus_address == sim->board->pages.select)
        sim->page = value & sim->board->pages.mask;
    if (w && !sim->slow[at >> RMG_SIM_PAGE_BITS]) {
        sim->words[at] = (sim->words[at] & ~strobed) | (value & strobed & sim->mask);
        sim->last_bus = value & sim->mask;
    } else {
        sim->last_bus = rmg_chips_bus(sim, address, value) & sim->mask;
        if (w && sim->slow[at >> RMG_SIM_PAGE_BITS] == RMG_SLOW_FAULT) {
            sim->words[at] = (sim->words[at] & ~strobed) | (sim->last_bus & strobed);
            rmg_chips_write_apart(sim, address, sim->last_bus, strobed);
        } else if (w)
            rmg_chips_write(sim, address, sim->last_bus, strobed);
    }
}

void rmg_sim_write(rmg_sim *sim, rmg_addr address, rmg_word value)
{
    write_bits(sim, address, value, ~(rmg_word)0);
}

uint8_t rmg_sim_read_byte(rmg_sim *sim, rmg_addr address, uint8_t lane)
{
    return (uint8_t)(rmg_sim_read(sim, address) >> (lane * 8u));
}

void rmg_sim_write_byte(rmg_sim *sim, rmg_addr address, uint8_t lane, uint8_t value)
{
    write_bits(sim, address, (rmg_word)value << (lane * 8u), (rmg_word)0xFF << (lane * 8u));
}

void rmg_sim_wait(rmg_sim *sim, uint64_t wait_ns)
{
    sim->now_ns += wait_ns;
}
