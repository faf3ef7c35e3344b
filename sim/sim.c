/* The simulated board: power-on, and the fast path of an access. */
#include "internal.h"

#include <string.h>

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

    if (!sim->ways[r].acts && sim->ways[r].sound)
        return; /* as it was left */
    sim->ways[r].sound = !sim->ways[r].acts && !rmg_chip_leaks(chip);
    sim->ways[r].plain = !rmg_chip_leaks(chip) && !(sim->ways[r].acts & ~beside);
    sim->ways[r].held = !(sim->ways[r].acts & (RMG_STAGE_BIT(TIME) | RMG_STAGE_BIT(REFRESH))) &&
                        held_by_refresh(chip);
    sim->ways[r].still =
        !(sim->ways[r].acts & RMG_HISTORY_STAGES) && (!chip->row_lines || sim->ways[r].held);
    sim->ways[r].least_us = rmg_rows_least_us(sim, r);
    rmg_chips_fold(sim, r);
    sim->is_forced[r] = rmg_force_rule(sim, r) || rmg_late_rule(sim, r);
    sim->is_apart[r] = !sim->is_forced[r] &&
                       (!sim->ways[r].plain || ((sim->ways[r].acts & beside) && !sim->pairs.act));
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
    sim->strays = sim->lively = sim->conditional = sim->high_wins = false;
    sim->apart_count = 0;
    rmg_sim_list_faults(sim);
    for (uint16_t i = 0; i < fault_count; i++) {
        sim->strays |= rmg_fault_is(faults[i].kind, RMG_TRAIT_STRAYS);
        sim->high_wins |= rmg_fault_is(faults[i].kind, RMG_TRAIT_STRAYS) && faults[i].level;
        sim->lively |= rmg_fault_is(faults[i].kind, RMG_TRAIT_HISTORY);
        sim->conditional |= !rmg_fault_always(&faults[i]);
    }
    for (uint16_t c = 0; c < board->chip_count; c++)
        sim->lively |= rmg_chip_leaks(&board->chips[c]);
    rmg_pairs_begin(sim);
    rmg_forces_begin(sim);
    for (uint16_t r = 0; r < board->placement->rule_count; r++)
        know_rule(sim, r);
    rmg_forces_of_bus(sim);
    rmg_stray_begin(sim);
    rmg_stale_begin(sim);
    rmg_touching_begin(sim);
    rmg_watch_begin(sim);
    rmg_sim_mark_faults(sim);
    rmg_cells_settle(sim);
}

/* The memory laid out for so many faults, and what the placement makes of each rule. */
static rmg_status lay_out(rmg_sim *sim, const rmg_sim_board *board, uint16_t fault_room,
                          uint64_t world_seed, void *memory)
{
    const uint16_t rules = board->placement->rule_count;

    if (!rmg_sim_lay_out(NULL, board, fault_room, NULL))
        return RMG_ERR_ARGUMENT;
    rmg_sim_lay_out(sim, board, fault_room, memory);
    sim->board = board;
    sim->world_seed = world_seed;
    sim->room = SIZE_MAX;
    sim->mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits);
    for (uint16_t r = 0; r < rules; r++) {
        const rmg_rule *rule = &board->placement->rules[r];
        rmg_sim_way *way = &sim->ways[r];

        way->where = rule->where;
        way->bits = rmg_rule_bits(rule);
        way->cell_mask = ((rmg_addr)1 << rule->address_lines) - 1u;
        way->row_mask = ((rmg_addr)1 << board->chips[rule->socket].row_lines) - 1u;
        way->from = feed_from(rule);
        way->width = rule->width;
    }
    rmg_sim_mark_board(sim);
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
    return RMG_OK;
}

rmg_status rmg_sim_start_healthy(rmg_sim *sim, const rmg_sim_board *board, uint16_t fault_room,
                                 uint64_t world_seed, void *memory)
{
    if (lay_out(sim, board, fault_room, world_seed, memory) != RMG_OK)
        return RMG_ERR_ARGUMENT;
    power_on(sim, NULL, 0);
    return RMG_OK;
}

rmg_status rmg_sim_start_again(rmg_sim *sim, const rmg_sim_fault *faults, uint16_t fault_count)
{
    if (fault_count > sim->list_room || !all_usable(sim->board, faults, fault_count))
        return RMG_ERR_ARGUMENT;
    for (uint16_t r = 0; r < sim->board->placement->rule_count; r++)
        if (sim->ways[r].row_mask && sim->ways[r].row_used) {
            memset(sim->ways[r].row_ns, 0, ((size_t)sim->ways[r].row_mask + 1u) * sizeof(uint64_t));
            sim->ways[r].row_used = false;
        }
    memset(sim->memories, 0, fault_count * sizeof *sim->memories);
    sim->reads = sim->writes = sim->chipwise = sim->now_ns = sim->driven_ns = sim->refresh_ns = 0;
    sim->last_bus = sim->page = 0;
    sim->last_address = 0;
    sim->recent = 0;
    if (!sim->refreshed) /* all pages were marked for that */
        sim->marked_count = RMG_SIM_MARKED + 1u;
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

/* Why the word's page goes chip by chip; 0: it does not. A page that is new is brought. */
static inline uint8_t slow_at(rmg_sim *sim, const rmg_sim_window *w, size_t at)
{
    const size_t page = at >> RMG_SIM_PAGE_BITS;

    if ((sim->slow[page] & (RMG_SLOW_NEW | RMG_SLOW_FOR_NOW)) == RMG_SLOW_NEW)
        rmg_page_bring(sim, w, page);
    return sim->slow[page];
}

/* What the flat words give for an address, the word at `at` with what stands elsewhere. */
static rmg_word read_flat(rmg_sim *sim, rmg_addr address, size_t at)
{
    rmg_word word = rmg_pairs_load(sim, address, at);

    if (sim->moved_count)
        word = rmg_moved_load(sim, address, at, word);
    if (sim->late.act) {
        rmg_addr other;
        const rmg_word bits = rmg_late_bits(sim, address, &other);

        if (bits)
            word = (word & ~bits) |
                   (rmg_flat_load(sim, rmg_flat_place(sim, address, at, other)) & bits);
    }
    if (sim->stray.count)
        word = rmg_stray_load(sim, address, word);
    return sim->touching ? rmg_touching_read(sim, address, word) : word;
}

static void write_flat(rmg_sim *sim, rmg_addr address, size_t at, rmg_word value, rmg_word strobed)
{
    if (sim->force_count)
        value = rmg_force_taken(sim, address, read_flat(sim, address, at), value);
    if (sim->touching)
        value = rmg_touching_taken(sim, address, value);
    if (sim->moved_count)
        strobed = rmg_moved_store(sim, address, at, value, strobed);
    if (sim->late.act) {
        rmg_addr other;
        const rmg_word bits = rmg_late_bits(sim, address, &other) & strobed;

        if (bits) {
            const size_t there = rmg_flat_place(sim, address, at, other);

            rmg_flat_store(sim, there, (rmg_flat_load(sim, there) & ~bits) | (value & bits));
            strobed &= ~bits;
        }
    }
    rmg_flat_store(sim, at, (rmg_flat_load(sim, at) & ~strobed) | (value & strobed));
}

void rmg_sim_limit(rmg_sim *sim, size_t bytes)
{
    sim->room = bytes;
}

void rmg_sim_carry(rmg_sim *sim, rmg_word value)
{
    sim->last_bus = value & sim->mask;
    sim->driven_ns = sim->now_ns;
}

rmg_word rmg_sim_read(rmg_sim *sim, rmg_addr bus_address)
{
    const rmg_addr address = reached(sim, bus_address);
    const rmg_sim_window *w = rmg_sim_window_of(sim, address);
    const size_t at = w ? w->offset + (size_t)(address - w->first) : 0;

    sim->now_ns += sim->access_ns;
    sim->reads++;
    if (sim->watch_count)
        rmg_watch_look(sim, address);
    if (w && !slow_at(sim, w, at)) {
        sim->last_bus = rmg_stale_read(sim, address, read_flat(sim, address, at));
        rmg_late_note(sim, address);
        if (!sim->force_count || !rmg_forced(sim, address, &sim->last_bus))
            sim->driven_ns = sim->now_ns;
        if (sim->watch_count)
            rmg_watch_note(sim, address);
    } else {
        rmg_word driven = 0;
        rmg_word value = 0, taken;

        sim->chipwise++;
        if (w && sim->slow[at >> RMG_SIM_PAGE_BITS] == RMG_SLOW_FAULT) {
            value = rmg_chips_read_apart(
                sim, address, rmg_stale_read(sim, address, read_flat(sim, address, at)), &driven);
            rmg_late_note(sim, address);
        } else if (w)
            value = rmg_chips_read(sim, address, &driven);

        value = (value & driven) | (undriven(sim) & ~driven);
        if (sim->bus_acts)
            value = rmg_chips_noise(sim, rmg_chips_bus(sim, address, value));
        value &= sim->mask;
        taken = sim->bus_acts & RMG_STAGE_BIT(NEARBY) ? rmg_chips_nearby(sim, value) : value;
        sim->last_bus = value;
        sim->last_address = address;
        return taken;
    }
    return sim->last_bus;
}

bool rmg_sim_sound(rmg_sim *sim, rmg_addr bus_address)
{
    const rmg_addr address = reached(sim, bus_address);
    const rmg_addr words = (rmg_addr)1 << RMG_SIM_PAGE_BITS, first = address & ~(words - 1u);
    const rmg_sim_window *w = rmg_sim_window_of(sim, address);

    if (!w || (sim->bus_acts && !sim->bus_forced) ||
        ((w->first | (bus_address ^ address)) & (words - 1u)))
        return false;
    for (uint16_t i = 0; i < sim->watch_count; i++) {
        const rmg_where *where = &sim->ways[sim->watches[i]].where;

        if (where->first <= first + (words - 1u) && where->last >= first)
            return false;
    }
    for (rmg_addr n = 0; sim->force_count && n < words; n++) {
        rmg_word any = 0;

        if (rmg_forced(sim, first + n, &any))
            return false;
    }
    return !(sim->slow[(w->offset + (size_t)(address - w->first)) >> RMG_SIM_PAGE_BITS] &
             (uint8_t)~RMG_SLOW_NEW);
}

/* A write of which only the bits of `strobed` are taken by the chips. */
static void write_bits(rmg_sim *sim, rmg_addr bus_address, rmg_word value, rmg_word strobed)
{
    const rmg_addr address = reached(sim, bus_address);
    const rmg_sim_window *w = rmg_sim_window_of(sim, address);
    size_t at = w ? w->offset + (size_t)(address - w->first) : 0;
    rmg_word taken;

    sim->now_ns += sim->access_ns;
    sim->driven_ns = sim->now_ns;
    sim->writes++;
    if (sim->board->pages.mask && bus_address == sim->board->pages.select)
        sim->page = value & sim->board->pages.mask;
    if (sim->watch_count)
        rmg_watch_look(sim, address);
    if (w && !slow_at(sim, w, at)) {
        write_flat(sim, address, at, value & sim->mask, strobed);
        rmg_late_note(sim, address);
        if (sim->watch_count)
            rmg_watch_note(sim, address);
        sim->last_bus = (sim->bus_acts ? rmg_chips_bus(sim, address, value) : value) & sim->mask;
    } else {
        sim->chipwise++;
        value = rmg_chips_bus(sim, address, value) & sim->mask;
        taken = sim->bus_acts & RMG_STAGE_BIT(NEARBY) ? rmg_chips_nearby(sim, value) : value;
        sim->last_bus = value;
        if (w && sim->slow[at >> RMG_SIM_PAGE_BITS] == RMG_SLOW_FAULT) {
            write_flat(sim, address, at, taken, strobed);
            if (rmg_pairs_second(sim, address, &at))
                write_flat(sim, address, at, taken, strobed);
            rmg_late_note(sim, address);
            rmg_chips_write_apart(sim, address, taken, strobed);
        } else if (w)
            rmg_chips_write(sim, address, taken, strobed);
        sim->last_address = address;
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
