/* The simulated board: power-on, and the fast path of an access. */
#include "internal.h"

#include <string.h>

static size_t depth(const rmg_sim_chip *chip)
{
    return (size_t)1 << chip->address_lines;
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
                sim->ways[r].cells = sim->cells + offset;
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

/* A DRAM that the board refreshes so often, against the time its cells hold, that none leaks below
 * 85 degrees Celsius: there they hold a sixty-fourth of what they do at 25. */
static bool held_by_refresh(const rmg_sim_chip *chip)
{
    return !chip->keep_us || (chip->refresh_us && chip->keep_us / 64u >= chip->refresh_us);
}

/* What the faults make of one rule's chip. */
static void know_rule(rmg_sim *sim, uint16_t r)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_sim_chip *chip = &sim->board->chips[rule->socket];
    const uint32_t beside = RMG_STAGE_BIT(OTHERS);

    sim->ways[r].plain = !rmg_chip_leaks(chip) && !(sim->ways[r].acts & ~beside);
    sim->ways[r].held = !(sim->ways[r].acts & (RMG_STAGE_BIT(TIME) | RMG_STAGE_BIT(REFRESH))) &&
                        held_by_refresh(chip);
    sim->ways[r].still =
        !(sim->ways[r].acts & RMG_HISTORY_STAGES) && (!chip->row_lines || sim->ways[r].held);
    rmg_chips_fold(sim, r);
    sim->is_apart[r] = !sim->ways[r].plain || (sim->ways[r].acts & beside);
    if (sim->is_apart[r])
        sim->apart[sim->apart_count++] = r;
}

/* The faults, and everything that is not memory, as after power-on. */
static void power_on(rmg_sim *sim, const rmg_sim_fault *faults, uint16_t fault_count)
{
    const rmg_sim_board *board = sim->board;

    sim->faults = faults;
    sim->fault_count = fault_count;
    sim->access_ns = board->access_ns;
    sim->supply_mv = 5000;
    sim->refreshed = true;
    rmg_sim_warm(sim, 25000, 25000, 0);
    sim->strays = sim->lively = sim->conditional = false;
    sim->apart_count = 0;
    rmg_sim_list_faults(sim);
    for (uint16_t i = 0; i < fault_count; i++) {
        sim->strays |= rmg_fault_is(faults[i].kind, RMG_TRAIT_STRAYS);
        sim->lively |= rmg_fault_is(faults[i].kind, RMG_TRAIT_HISTORY);
        sim->conditional |= !rmg_fault_always(&faults[i]);
    }
    for (uint16_t c = 0; c < board->chip_count; c++)
        sim->lively |= rmg_chip_leaks(&board->chips[c]);
    for (uint16_t r = 0; r < board->placement->rule_count; r++)
        know_rule(sim, r);
    rmg_sim_mark_faults(sim);
    rmg_cells_settle(sim);
}

/* The memory laid out for so many faults, and the chips with what they come up with. */
static rmg_status lay_out(rmg_sim *sim, const rmg_sim_board *board, uint16_t fault_room,
                          uint64_t world_seed, void *memory)
{
    const size_t bytes = rmg_sim_kept_bytes(board, fault_room);
    const uint16_t rules = board->placement->rule_count;
    rmg_sim_window windows[RMG_SIM_WINDOWS + 1u];
    size_t row_offsets[RMG_PLACE_RULES];
    size_t words;

    if (!bytes)
        return RMG_ERR_ARGUMENT;
    memset(sim, 0, sizeof *sim);
    sim->board = board;
    sim->world_seed = world_seed;
    sim->mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits);
    sim->window_count = rmg_sim_find_windows(board->placement, windows);
    words = rmg_sim_place_windows(windows, sim->window_count);
    memcpy(sim->windows, windows, sizeof sim->windows);
    sim->words = memory;
    sim->row_ns = (uint64_t *)(void *)(sim->words + words);
    sim->row_count = rmg_sim_all_rows(board, row_offsets);
    sim->cells = (uint32_t *)(void *)(sim->row_ns + sim->row_count);
    sim->slow = (uint8_t *)(sim->cells + rmg_sim_all_cells(board));
    sim->slow_bytes = words >> RMG_SIM_PAGE_BITS;
    sim->memories =
        (rmg_sim_memory *)(void *)(sim->slow + (bytes - fault_room * sizeof *sim->memories -
                                                (size_t)(sim->slow - (uint8_t *)memory)));
    sim->list_start = (uint32_t *)(void *)((uint8_t *)memory + (bytes + 7u) / 8u * 8u);
    sim->list = (uint16_t *)(void *)(sim->list_start + ((size_t)rules + 1u) * RMG_STAGES + 1u);
    sim->list_room = fault_room;
    memset(memory, 0, rmg_sim_bytes(board, fault_room));
    for (uint16_t r = 0; r < rules; r++) {
        const rmg_rule *rule = &board->placement->rules[r];
        rmg_sim_way *way = &sim->ways[r];

        way->where = rule->where;
        way->bits = rmg_rule_bits(rule);
        way->row_ns = sim->row_ns + row_offsets[r];
        way->cell_mask = ((rmg_addr)1 << rule->address_lines) - 1u;
        way->row_mask = ((rmg_addr)1 << board->chips[rule->socket].row_lines) - 1u;
        way->from = feed_from(rule);
        way->width = rule->width;
    }
    rmg_sim_mark_board(sim);
    fill_cells(sim);
    return RMG_OK;
}

static bool all_usable(const rmg_sim_board *board, const rmg_sim_fault *faults,
                       uint16_t fault_count)
{
    for (uint16_t i = 0; i < fault_count; i++)
        if (!rmg_fault_usable(board, &faults[i]))
            return false;
    return true;
}

rmg_status rmg_sim_start(rmg_sim *sim, const rmg_sim_board *board, const rmg_sim_fault *faults,
                         uint16_t fault_count, uint64_t world_seed, void *memory)
{
    if (!all_usable(board, faults, fault_count) ||
        lay_out(sim, board, fault_count, world_seed, memory) != RMG_OK)
        return RMG_ERR_ARGUMENT;
    power_on(sim, faults, fault_count);
    for (uint16_t r = 0; r < board->placement->rule_count; r++)
        rmg_sim_fill(sim, r);
    return RMG_OK;
}

rmg_status rmg_sim_start_healthy(rmg_sim *sim, const rmg_sim_board *board, uint16_t fault_room,
                                 uint64_t world_seed, void *memory)
{
    if (lay_out(sim, board, fault_room, world_seed, memory) != RMG_OK)
        return RMG_ERR_ARGUMENT;
    power_on(sim, NULL, 0);
    for (uint16_t r = 0; r < board->placement->rule_count; r++)
        rmg_sim_fill(sim, r);
    return RMG_OK;
}

rmg_status rmg_sim_start_again(rmg_sim *sim, const rmg_sim_fault *faults, uint16_t fault_count)
{
    if (fault_count > sim->list_room || !all_usable(sim->board, faults, fault_count))
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

        value = (value & driven) | (undriven(sim) & ~driven);
        if (sim->bus_acts)
            value = rmg_chips_noise(sim, rmg_chips_bus(sim, address, value));
        sim->last_bus = value & sim->mask;
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
