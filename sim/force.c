/* Faults that are always there and only force what is read, or what is taken of a write, at some
 * bits: levels laid over the flat words, instead of chips gone through one by one.
 *
 * Invariant: at a bit that reads a forced level nobody ever sees what the cells hold; at all other
 * bits of such a chip the flat word is the truth. */
#include "internal.h"

#define BUS_ONLY RMG_STAGE_BIT(BUS)

/* The bits of the bus on which the rule's chip has these data lines. */
static rmg_word on_bus(const rmg_rule *rule, uint32_t lines)
{
    rmg_word bits = 0;

    for (uint8_t line = 0; line < rule->width; line++)
        bits |= (rmg_word)(lines >> line & 1u) << rule->data_bits[line];
    return bits;
}

/* Chips of one place have no bit in common: they share an entry. */
static bool add(rmg_sim *sim, uint16_t most, const rmg_sim_force *force)
{
    for (uint16_t i = 0; i < sim->force_count; i++) {
        rmg_sim_force *f = &sim->forces[i];

        if (!rmg_same_place(&f->where, &force->where))
            continue;
        f->and &= force->and;
        f->or = (f->or &force->and) | force->or ;
        f->keeps |= force->keeps;
        f->take_and &= force->take_and;
        f->take_or = (f->take_or & force->take_and) | force->take_or;
        sim->keeps |= f->keeps != 0;
        return true;
    }
    if (sim->force_count >= most)
        return false;
    sim->keeps |= force->keeps != 0;
    sim->forces[sim->force_count++] = *force;
    return true;
}

static uint16_t bus_faults(const rmg_sim *sim)
{
    const rmg_acting acting = rmg_acting_on_bus(sim, RMG_STAGE_BUS);

    return (uint16_t)(acting.end - acting.at);
}

void rmg_forces_begin(rmg_sim *sim)
{
    sim->force_count = 0;
    sim->moved_count = 0;
    sim->late.act = false;
    sim->keeps = false;
    sim->bus_forced =
        sim->bus_acts == BUS_ONLY && !sim->conditional && bus_faults(sim) <= RMG_SIM_FORCES;
}

/* They come last: what is stuck behind all chips has the last word. */
void rmg_forces_of_bus(rmg_sim *sim)
{
    rmg_acting acting = rmg_acting_on_bus(sim, RMG_STAGE_BUS);

    for (; sim->bus_forced && acting.at != acting.end; acting.at++) {
        const rmg_sim_fault *f = &sim->faults[*acting.at];
        const rmg_word bit = (rmg_word)1 << f->line;
        const rmg_sim_force force = {.where = {0, (rmg_addr) ~(rmg_addr)0, f->cell, f->lines},
                                     .and = ~bit,
                                     .or = f->level ? bit : 0,
                                     .take_and = ~(rmg_word)0};

        add(sim, RMG_SIM_FORCES, &force);
    }
}

/* Do lines that are exchanged make some chip drive another one's? */
static bool crossed(const rmg_sim *sim)
{
    for (uint16_t i = 0; i < sim->fault_count; i++)
        if (rmg_fault_rows[sim->faults[i].kind].stages & RMG_STAGE_BIT(ORDER))
            return true;
    return false;
}

bool rmg_force_nothing(rmg_sim *sim, const rmg_where *where)
{
    const rmg_sim_force force = {.where = *where, .and = ~(rmg_word)0, .take_and = ~(rmg_word)0};

    return add(sim, RMG_SIM_FORCES, &force);
}

/* The addresses of a row or a column of the rule's chip: bus lines and their levels, added to a
 * place; false: not each of its lines is fed by one of the bus. */
static bool add_row(const rmg_rule *rule, uint8_t from, uint8_t to, rmg_addr number,
                    rmg_where *where)
{
    for (uint8_t k = from; k < to; k++) {
        const uint8_t bit = rule->address_bits[k];
        const rmg_addr line = bit < RMG_ADDR_BITS ? (rmg_addr)1 << bit : 0;

        if (!line || (where->mask & line))
            return false;
        where->mask |= line;
        where->match |= number >> (k - from) & 1u ? line : 0;
    }
    return true;
}

/* The chip's one fault, where it is a row or a column of its cells that always read a level. */
static bool force_row(rmg_sim *sim, uint16_t r, uint16_t most)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_sim_chip *chip = &sim->board->chips[rule->socket];
    const rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_ARRAY);
    const rmg_sim_fault *f = acting.end - acting.at == 1 ? &sim->faults[*acting.at] : NULL;
    rmg_sim_force force = {.where = rule->where, .take_and = ~(rmg_word)0};
    rmg_word bits;

    if (!f || sim->ways[r].acts != RMG_STAGE_BIT(ARRAY) ||
        (f->kind == RMG_FAULT_ROW
             ? !add_row(rule, 0, chip->row_lines, f->cell, &force.where)
             : f->kind != RMG_FAULT_COLUMN ||
                   !add_row(rule, chip->row_lines, rule->address_lines, f->cell, &force.where)))
        return false;
    bits = on_bus(rule, f->data_line == RMG_ALL_DATA_LINES ? UINT32_MAX : 1u << f->data_line);
    force.and = ~bits;
    force.or = f->level ? bits : 0;
    return add(sim, most, &force);
}

/* What a write leaves of the bits that are seen. */
static void find_taken(const rmg_sim_way *way, const rmg_rule *rule, uint32_t seen,
                       rmg_sim_force *force)
{
    const rmg_word bits = on_bus(rule, seen), take_and = on_bus(rule, seen & way->take_and);

    force->keeps = way->deaf ? bits : on_bus(rule, seen & ~way->taken);
    force->take_and = ~bits | (take_and & way->input_and);
    force->take_or = on_bus(rule, seen & way->take_or) | (take_and & way->input_or);
}

bool rmg_force_rule(rmg_sim *sim, uint16_t r)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_sim_chip *chip = &sim->board->chips[rule->socket];
    const rmg_sim_way *way = &sim->ways[r];
    const uint32_t all = rule->width < 32u ? ((uint32_t)1 << rule->width) - 1u : UINT32_MAX;
    const uint32_t silent = way->gone ? all : all & ~way->drives;
    const uint32_t low = all & ~silent & ~(way->out_and | way->out_or);
    const uint32_t high = all & ~silent & way->out_or;
    const uint32_t seen = all & ~(silent | low | high);
    const bool floats_high = sim->board->undriven == RMG_UNDRIVEN_HIGH;
    const uint16_t most = (uint16_t)(RMG_SIM_FORCES - (sim->bus_forced ? bus_faults(sim) : 0u));
    const rmg_word read_low = on_bus(rule, low | (floats_high ? 0 : silent));
    const rmg_word read_high = on_bus(rule, high | (floats_high ? silent : 0));
    rmg_sim_force force = {.where = rule->where, .and = ~(read_low | read_high), .or = read_high};

    if (!way->acts || sim->conditional || sim->strays || crossed(sim) || chip->rom ||
        rmg_chip_leaks(chip) || (sim->bus_acts & ~BUS_ONLY) ||
        (sim->bus_acts && !sim->bus_forced) ||
        (silent && !floats_high && sim->board->undriven != RMG_UNDRIVEN_LOW))
        return false;
    if (way->live)
        return force_row(sim, r, most);
    find_taken(way, rule, seen, &force);
    return rmg_moved_rule(sim, r, on_bus(rule, seen)) && add(sim, most, &force);
}

rmg_word rmg_force_taken(const rmg_sim *sim, rmg_addr address, rmg_word held, rmg_word value)
{
    rmg_word keeps = 0;

    for (uint16_t i = 0; i < sim->force_count; i++) {
        const rmg_sim_force *f = &sim->forces[i];

        if (rmg_where_holds(&f->where, address)) {
            value = (value & f->take_and) | f->take_or;
            keeps |= f->keeps;
        }
    }
    return (held & keeps) | (value & ~keeps);
}

bool rmg_force_keeps(const rmg_sim *sim, rmg_addr address)
{
    const rmg_addr low = (1u << RMG_SIM_PAGE_BITS) - 1u;

    if (sim->keeps && (sim->pairs.act || sim->moved_count)) /* elsewhere, but for these words too */
        return true;
    for (uint16_t i = 0; sim->keeps && i < sim->force_count; i++) {
        const rmg_where *where = &sim->forces[i].where;

        if (sim->forces[i].keeps && where->first <= (address | low) &&
            where->last >= (address & ~low) && !((address ^ where->match) & where->mask & ~low))
            return true;
    }
    return false;
}

bool rmg_forced(const rmg_sim *sim, rmg_addr address, rmg_word *value)
{
    bool forced = false;

    for (uint16_t i = 0; i < sim->force_count; i++)
        if (rmg_where_holds(&sim->forces[i].where, address)) {
            *value = (*value & sim->forces[i].and) | sim->forces[i].or ;
            forced = true;
        }
    return forced;
}
