/* Chips of which address lines are stuck, for good: their words stay flat. What such a chip holds
 * for an address stands in the word at the address that it gets instead.
 *
 * Invariant: the bits of a moved chip are the truth at the addresses that it can get; elsewhere
 * nobody ever sees them. All words of its place lie in pages that the board keeps flat. */
#include "walk.h"

/* The bus lines by which the chip gets another address, and their levels; false: it is more than
 * that. */
static bool find_lines(const rmg_sim *sim, uint16_t r, rmg_addr *lines, rmg_addr *level)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_sim_way *way = &sim->ways[r];
    const rmg_addr high = way->lines_or, low = (rmg_addr) ~(way->lines_and | way->lines_or);
    rmg_addr fed = 0;

    *lines = high | low;
    *level = high;
    for (uint8_t k = 0; k < rule->address_lines; k++) {
        const uint8_t bit = rule->address_bits[k];
        const rmg_addr line = bit < RMG_ADDR_BITS ? (rmg_addr)1 << bit : 0;
        const bool one = way->pins_or >> k & 1u, zero = !(way->pins_and >> k & 1u) && !one;

        if ((fed & line) || ((one || zero) && !line))
            return false;
        fed |= line;
        if (one || zero) {
            *lines |= line;
            *level = one ? *level | line : *level & ~line;
        }
    }
    *lines &= fed; /* others do not reach the chip */
    *level &= fed;
    return true;
}

bool rmg_place_closed(const rmg_where *where, rmg_addr lines)
{
    const rmg_addr all = where->last - where->first;

    return !(where->mask & lines) && !(all & (all + 1u)) && !(where->first & all) &&
           !(lines & ~all);
}

bool rmg_moved_rule(rmg_sim *sim, uint16_t r, rmg_word bits)
{
    const rmg_where *where = &sim->board->placement->rules[r].where;
    rmg_addr lines, level;

    if (!find_lines(sim, r, &lines, &level) || !rmg_place_closed(where, lines))
        return false;
    if (!lines || !bits)
        return true;
    if (sim->late.act || !rmg_lies_flat(sim, r))
        return false;
    for (uint16_t i = 0; i < sim->moved_count; i++)
        if (rmg_same_place(&sim->moved[i].where, where) && sim->moved[i].lines == lines &&
            sim->moved[i].level == level) {
            sim->moved[i].bits |= bits;
            return true;
        }
    if (sim->moved_count == RMG_SIM_MOVED)
        return false;
    sim->moved[sim->moved_count++] = (rmg_sim_moved){*where, bits, lines, level};
    return true;
}

size_t rmg_flat_place(rmg_sim *sim, rmg_addr address, size_t at, rmg_addr other)
{
    const size_t place = at + (size_t)(other - address);

    if (sim->slow[place >> RMG_SIM_PAGE_BITS] & RMG_SLOW_NEW)
        rmg_page_bring(sim, rmg_sim_window_of(sim, other), place >> RMG_SIM_PAGE_BITS);
    return place;
}

/* The bits of the i-th that stand elsewhere for an address, and where. */
static rmg_word bits_elsewhere(const rmg_sim *sim, uint16_t i, rmg_addr address, rmg_addr *other)
{
    const rmg_sim_moved *m = &sim->moved[i];

    *other = (address & ~m->lines) | m->level;
    return *other != address && rmg_where_holds(&m->where, address) ? m->bits : 0;
}

rmg_word rmg_moved_load(rmg_sim *sim, rmg_addr address, size_t at, rmg_word word)
{
    for (uint16_t i = 0; i < sim->moved_count; i++) {
        rmg_addr other;
        const rmg_word bits = bits_elsewhere(sim, i, address, &other);

        if (bits)
            word = (word & ~bits) |
                   (rmg_flat_load(sim, rmg_flat_place(sim, address, at, other)) & bits);
    }
    return word;
}

rmg_word rmg_moved_store(rmg_sim *sim, rmg_addr address, size_t at, rmg_word value,
                         rmg_word strobed)
{
    for (uint16_t i = 0; i < sim->moved_count; i++) {
        rmg_addr other;
        const rmg_word bits = bits_elsewhere(sim, i, address, &other) & strobed;

        if (bits) {
            const size_t place = rmg_flat_place(sim, address, at, other);

            rmg_flat_store(sim, place, (rmg_flat_load(sim, place) & ~bits) | (value & bits));
            strobed &= ~bits;
        }
    }
    return strobed;
}

rmg_addr rmg_moved_run(const rmg_sim *sim, rmg_addr from, bool down, rmg_addr most,
                       rmg_moved_here *here)
{
    *here = (rmg_moved_here){.bits = 0};
    for (uint16_t i = 0; i < sim->moved_count; i++) {
        const rmg_sim_moved *m = &sim->moved[i];
        const rmg_addr high = m->lines & ~(rmg_addr)15u, step = high & (~high + 1u);
        const rmg_addr away = ((from & ~high) | (m->level & high)) - from;

        most = rmg_same_run(&m->where, from, down, most);
        if (!rmg_where_holds(&m->where, from))
            continue;
        if (step)
            most = MIN_OF(most, down ? (from & (step - 1u)) + 1u : step - (from & (step - 1u)));
        if (!away && !(m->lines & 15u))
            continue;
        here->several |= here->bits != 0;
        here->bits = m->bits;
        here->away = away;
        here->low = (unsigned)m->lines & 15u;
        here->level = (unsigned)m->level & 15u;
    }
    return most;
}
