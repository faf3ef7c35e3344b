/* The slow path of the simulated board: each chip on its own, with every fault it can have. */
#include "internal.h"

static rmg_addr force(rmg_addr lines, uint8_t level, rmg_addr value)
{
    return level ? value | lines : value & ~lines;
}

/* Two lines that touch: both take the level that wins. */
static rmg_addr join(rmg_addr lines, uint8_t high_wins, rmg_addr value)
{
    const rmg_addr both = value & lines;

    return force(lines, high_wins ? both != 0 : both == lines, value);
}

/* Two lines that changed places. */
static rmg_addr exchange(rmg_addr lines, rmg_addr value)
{
    const rmg_addr both = value & lines;

    return both == 0 || both == lines ? value : value ^ lines;
}

rmg_addr rmg_chips_bank_address(const rmg_sim *sim, const rmg_rule *rule, rmg_addr address)
{
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (!rmg_fault_awake(sim, f))
            continue;
        if ((f->kind == RMG_FAULT_ADDRESS_BANK && f->bank == rule->bank) ||
            (f->kind == RMG_FAULT_ADDRESS_STUCK && rmg_fault_acts_for(f, rule->socket)))
            address = force(f->lines, f->level, address);
        else if (f->kind == RMG_FAULT_ADDRESS_SHORT && rmg_fault_acts_for(f, rule->socket))
            address = join(f->lines, f->level, address);
        else if (f->kind == RMG_FAULT_ADDRESS_SWAP && rmg_fault_acts_for(f, rule->socket))
            address = exchange(f->lines, address);
    }
    return address;
}

rmg_addr rmg_chips_cell(const rmg_sim *sim, const rmg_rule *rule, rmg_addr address)
{
    const uint8_t from = sim->feed_from[rule - sim->board->placement->rules];
    rmg_addr cell;

    address = rmg_chips_bank_address(sim, rule, address);
    if (from < RMG_ADDR_BITS)
        cell = (address >> from) & (((rmg_addr)1 << rule->address_lines) - 1u);
    else
        cell = rmg_rule_cell(rule, address);
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (f->kind == RMG_FAULT_ADDRESS_CHIP && f->chip == rule->socket && rmg_fault_awake(sim, f))
            cell = force(f->lines, f->level, cell);
    }
    return cell;
}

rmg_word rmg_chips_bus(const rmg_sim *sim, rmg_addr address, rmg_word value)
{
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (f->kind == RMG_FAULT_DATA_LINE && (address & f->cell) == f->lines &&
            rmg_fault_awake(sim, f))
            value = (rmg_word)force((rmg_addr)1 << f->line, f->level, value);
    }
    return value;
}

static bool missing(const rmg_sim *sim, uint16_t chip)
{
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (((f->kind == RMG_FAULT_MISSING && f->chip == chip) ||
             (f->kind == RMG_FAULT_DESELECTED && rmg_fault_acts_for(f, chip))) &&
            rmg_fault_awake(sim, f))
            return true;
    }
    return false;
}

/* The address in the middle of another bank that reaches the rule's chips too, by a fault; false if
 * there is none. */
static bool also_selected(const rmg_sim *sim, const rmg_rule *rule, rmg_addr address,
                          rmg_addr *inside)
{
    const rmg_placement *placement = sim->board->placement;

    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (f->kind != RMG_FAULT_ALSO_SELECTED || f->bank != rule->bank || !rmg_fault_awake(sim, f))
            continue;
        for (uint16_t r = 0; r < placement->rule_count; r++) {
            const rmg_where *there = &placement->rules[r].where;

            if (placement->rules[r].bank != f->bank2 || !rmg_where_holds(there, address))
                continue;
            *inside = address - there->first + rule->where.first;
            return rmg_where_holds(&rule->where, *inside);
        }
    }
    return false;
}

/* The cell of a chip that no fault concerns. */
static rmg_addr plain_cell(const rmg_sim *sim, uint16_t r, rmg_addr address)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const uint8_t from = sim->feed_from[r];

    return from < RMG_ADDR_BITS ? (address >> from) & (((rmg_addr)1 << rule->address_lines) - 1u)
                                : rmg_rule_cell(rule, address);
}

/* Does the rule's chip answer a read at this address, and at which address of its own? */
static bool answers(const rmg_sim *sim, const rmg_rule *rule, rmg_addr address, bool reading,
                    rmg_addr *inside)
{
    const bool own = rmg_where_holds(&rule->where, address);

    *inside = address;
    if (!own && !sim->strays)
        return false;
    if (own && sim->plain[rule - sim->board->placement->rules])
        return true;
    if (missing(sim, rule->socket))
        return false;
    if (own || also_selected(sim, rule, address, inside))
        return true;
    for (uint16_t i = 0; reading && i < sim->fault_count; i++)
        if (sim->faults[i].kind == RMG_FAULT_ALWAYS_ON &&
            rmg_fault_acts_for(&sim->faults[i], rule->socket) &&
            rmg_fault_awake(sim, &sim->faults[i]))
            return true;
    return false;
}

/* Does a fault of the cell array speak for this cell of this data line? */
static bool in_array(const rmg_sim *sim, const rmg_sim_fault *f, const rmg_sim_chip *chip,
                     uint8_t data_line, rmg_addr cell)
{
    const rmg_addr row_mask = ((rmg_addr)1 << chip->row_lines) - 1u;

    if (f->data_line != data_line &&
        (f->kind == RMG_FAULT_CELL || f->data_line != RMG_ALL_DATA_LINES))
        return false;
    switch (f->kind) {
    case RMG_FAULT_CELL:
        return cell == f->cell;
    case RMG_FAULT_ROW:
        return (cell & row_mask) == f->cell;
    case RMG_FAULT_COLUMN:
        return cell >> chip->row_lines == f->cell;
    case RMG_FAULT_WEAK:
        return rmg_sim_dice(sim, 0x30000u + (uint64_t)(f - sim->faults),
                            (uint64_t)cell << 6 | data_line) %
                   f->count ==
               0;
    default:
        return false;
    }
}

/* What one data line of a chip puts out; false if it does not drive. */
static bool data_line_out(const rmg_sim *sim, const rmg_rule *rule, uint8_t line, rmg_addr cell,
                          uint32_t word, uint8_t *level)
{
    const rmg_sim_chip *chip = &sim->board->chips[rule->socket];
    bool drives = true;

    *level = (uint8_t)((word >> line) & 1u);
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (f->chip != rule->socket || !rmg_fault_awake(sim, f))
            continue;
        if (in_array(sim, f, chip, line, cell))
            *level = f->level;
        if ((f->kind == RMG_FAULT_DATA_OPEN && f->data_line == line) || f->kind == RMG_FAULT_LATE)
            drives = false;
    }
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];
        const bool on_line =
            f->line == rule->data_bits[line] && rmg_fault_acts_for(f, rule->socket);

        if (!rmg_fault_awake(sim, f))
            continue;
        if (f->kind == RMG_FAULT_OUTPUT && f->chip == rule->socket && f->data_line == line)
            *level = f->level;
        if (f->kind == RMG_FAULT_LINE_STUCK && on_line)
            *level = f->level;
        if (f->kind == RMG_FAULT_LINE_OPEN && on_line)
            drives = false;
    }
    return drives;
}

/* A value as data lines that changed places near the chip bring it. */
static rmg_word swapped(const rmg_sim *sim, uint16_t chip, rmg_word value)
{
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (f->kind == RMG_FAULT_DATA_SWAP && rmg_fault_acts_for(f, chip) &&
            rmg_fault_awake(sim, f))
            value = (rmg_word)exchange((rmg_addr)1 << f->line | (rmg_addr)1 << f->line2, value);
    }
    return value;
}

static void chip_read(rmg_sim *sim, uint16_t r, rmg_addr address, rmg_word *driven, rmg_word *value)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const bool plain = sim->plain[r] && sim->refreshed;
    const rmg_addr cell = plain ? plain_cell(sim, r, address) : rmg_chips_cell(sim, rule, address);
    const uint32_t word =
        plain ? sim->cells[sim->chip_offset[r] + cell] : rmg_cells_read(sim, r, cell);
    const bool direct = plain || sim->direct[r];

    for (uint8_t line = 0; line < rule->width; line++) {
        const rmg_word bit = direct
                                 ? (rmg_word)1 << rule->data_bits[line]
                                 : swapped(sim, rule->socket, (rmg_word)1 << rule->data_bits[line]);
        uint8_t level = (uint8_t)(word >> line & 1u);

        if (!direct && !data_line_out(sim, rule, line, cell, word, &level))
            continue;
        /* Where two chips drive one line, a low level wins. */
        if (!(*driven & bit))
            *value |= level ? bit : 0;
        else if (!level)
            *value &= ~bit;
        *driven |= bit;
    }
}

/* Data lines that touch behind these chips' branch, as far as one of them answers. */
static void short_lines(const rmg_sim *sim, rmg_addr address, rmg_word *driven, rmg_word *value)
{
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];
        rmg_word lines;
        bool here = false;

        if (f->kind != RMG_FAULT_DATA_SHORT || !rmg_fault_awake(sim, f))
            continue;
        lines = (rmg_word)1 << f->line | (rmg_word)1 << f->line2;
        if (!(*driven & lines))
            continue;
        for (uint16_t r = 0; r < sim->board->placement->rule_count && !here; r++) {
            const rmg_rule *rule = &sim->board->placement->rules[r];
            rmg_addr inside;

            here =
                rmg_fault_acts_for(f, rule->socket) && answers(sim, rule, address, true, &inside);
        }
        if (!here)
            continue;
        if ((*driven & lines) == lines) /* else the one that is driven moves both */
            *value = join(lines, f->level, *value);
        else
            *value = force(lines, (*value & *driven & lines) != 0, *value);
        *driven |= lines;
    }
}

rmg_word rmg_chips_read_apart(rmg_sim *sim, rmg_addr address, rmg_word flat, rmg_word *driven)
{
    rmg_word value;

    *driven = sim->mask;
    for (uint16_t i = 0; i < sim->apart_count; i++) {
        const rmg_rule *rule = &sim->board->placement->rules[sim->apart[i]];

        if (rmg_where_holds(&rule->where, address))
            *driven &= ~sim->rule_bits[sim->apart[i]];
    }
    value = flat & *driven;
    for (uint16_t i = 0; i < sim->apart_count; i++) {
        rmg_addr inside;

        if (answers(sim, &sim->board->placement->rules[sim->apart[i]], address, true, &inside))
            chip_read(sim, sim->apart[i], inside, driven, &value);
    }
    short_lines(sim, address, driven, &value);
    return value;
}

rmg_word rmg_chips_read(rmg_sim *sim, rmg_addr address, rmg_word *driven)
{
    rmg_word value = 0;

    *driven = 0;
    for (uint16_t r = 0; r < sim->board->placement->rule_count; r++) {
        const rmg_rule *rule = &sim->board->placement->rules[r];
        rmg_addr inside;

        if (answers(sim, rule, address, true, &inside))
            chip_read(sim, r, inside, driven, &value);
    }
    short_lines(sim, address, driven, &value);
    return value;
}

rmg_word rmg_chips_noise(const rmg_sim *sim, rmg_word value)
{
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];
        uint64_t bit = f->line;

        if (f->kind != RMG_FAULT_NOISE || !rmg_fault_awake(sim, f))
            continue;
        if (f->line == RMG_ALL_DATA_LINES)
            bit = rmg_sim_dice(sim, 0x20000u + i, sim->reads) % sim->board->word_bits;
        value ^= (rmg_word)1 << bit;
    }
    return value;
}

/* What a chip finds on its data lines of what was put on the bus; false: it takes nothing. */
static bool value_at_chip(const rmg_sim *sim, uint16_t chip, rmg_word *value)
{
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (!rmg_fault_acts_for(f, chip) || !rmg_fault_awake(sim, f))
            continue;
        if (f->kind == RMG_FAULT_NO_WRITE)
            return false;
        if (f->kind == RMG_FAULT_LINE_STUCK)
            *value = force((rmg_word)1 << f->line, f->level, *value);
        else if (f->kind == RMG_FAULT_DATA_SHORT)
            *value = join((rmg_word)1 << f->line | (rmg_word)1 << f->line2, f->level, *value);
    }
    return true;
}

static void chip_write(rmg_sim *sim, uint16_t r, rmg_addr address, rmg_word value, rmg_word strobed)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const bool plain = sim->plain[r] && sim->refreshed;
    const rmg_addr cell = plain ? plain_cell(sim, r, address) : rmg_chips_cell(sim, rule, address);
    const bool direct = plain || sim->direct[r];
    uint32_t word = 0, taken = 0;

    if (!direct && !value_at_chip(sim, rule->socket, &value))
        return;
    if (!direct)
        value = swapped(sim, rule->socket, value);
    for (uint8_t line = 0; line < rule->width; line++) {
        uint32_t level = (uint32_t)((value >> rule->data_bits[line]) & 1u);
        bool arrives = strobed >> rule->data_bits[line] & 1u;

        for (uint16_t i = 0; !direct && i < sim->fault_count; i++) {
            const rmg_sim_fault *f = &sim->faults[i];

            if (!rmg_fault_awake(sim, f))
                continue;
            if (f->kind == RMG_FAULT_LINE_OPEN && f->line == rule->data_bits[line] &&
                rmg_fault_acts_for(f, rule->socket))
                arrives = false;
            if (f->chip != rule->socket || f->data_line != line)
                continue;
            if (f->kind == RMG_FAULT_DATA_OPEN)
                arrives = false;
            if (f->kind == RMG_FAULT_INPUT_OPEN)
                level = f->level;
        }
        word |= level << line;
        taken |= (uint32_t)arrives << line;
    }
    if (plain) {
        uint32_t *to = &sim->cells[sim->chip_offset[r] + cell];

        *to = (*to & ~taken) | (word & taken);
        return;
    }
    rmg_cells_write(sim, r, cell, word, taken);
}

void rmg_chips_write(rmg_sim *sim, rmg_addr address, rmg_word value, rmg_word strobed)
{
    for (uint16_t r = 0; r < sim->board->placement->rule_count; r++) {
        const rmg_rule *rule = &sim->board->placement->rules[r];
        rmg_addr inside;

        if (!sim->board->chips[rule->socket].rom && answers(sim, rule, address, false, &inside))
            chip_write(sim, r, inside, value, strobed);
    }
}

void rmg_chips_write_apart(rmg_sim *sim, rmg_addr address, rmg_word value, rmg_word strobed)
{
    for (uint16_t i = 0; i < sim->apart_count; i++) {
        rmg_addr inside;

        if (answers(sim, &sim->board->placement->rules[sim->apart[i]], address, false, &inside))
            chip_write(sim, sim->apart[i], inside, value, strobed);
    }
}
