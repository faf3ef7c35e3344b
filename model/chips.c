/* The slow path of the simulated board: each chip on its own, with every fault it can have. */
#include "chips.h"

static rmg_addr force(rmg_addr lines, uint8_t level, rmg_addr value)
{
    return level ? value | lines : value & ~lines;
}

rmg_addr rmg_chips_bank_address(const rmg_sim *sim, const rmg_rule *rule, rmg_addr address)
{
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (f->kind == RMG_FAULT_ADDRESS_BANK && f->bank == rule->bank)
            address = force(f->lines, f->level, address);
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

        if (f->kind == RMG_FAULT_ADDRESS_CHIP && f->chip == rule->socket)
            cell = force(f->lines, f->level, cell);
    }
    return cell;
}

rmg_word rmg_chips_bus(const rmg_sim *sim, rmg_addr address, rmg_word value)
{
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (f->kind == RMG_FAULT_DATA_LINE && (address & f->cell) == f->lines)
            value = (rmg_word)force((rmg_addr)1 << f->line, f->level, value);
    }
    return value;
}

static bool missing(const rmg_sim *sim, uint16_t chip)
{
    for (uint16_t i = 0; i < sim->fault_count; i++)
        if (sim->faults[i].kind == RMG_FAULT_MISSING && sim->faults[i].chip == chip)
            return true;
    return false;
}

/* Does a fault of the cell array speak for this cell of this data line? */
static bool in_array(const rmg_sim_fault *f, const rmg_sim_chip *chip, uint8_t data_line,
                     rmg_addr cell)
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

        if (f->chip != rule->socket)
            continue;
        if (in_array(f, chip, line, cell))
            *level = f->level;
        if (f->kind == RMG_FAULT_DATA_OPEN && f->data_line == line)
            drives = false;
    }
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (f->kind == RMG_FAULT_OUTPUT && f->chip == rule->socket && f->data_line == line)
            *level = f->level;
    }
    return drives;
}

static void chip_read(const rmg_sim *sim, uint16_t r, rmg_addr address, rmg_word *driven,
                      rmg_word *value)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_addr cell = rmg_chips_cell(sim, rule, address);
    const uint32_t word = sim->cells[sim->chip_offset[r] + cell];

    for (uint8_t line = 0; line < rule->width; line++) {
        const rmg_word bit = (rmg_word)1 << rule->data_bits[line];
        uint8_t level;

        if (!data_line_out(sim, rule, line, cell, word, &level))
            continue;
        /* Where two chips drive one line, a low level wins. */
        if (!(*driven & bit))
            *value |= level ? bit : 0;
        else if (!level)
            *value &= ~bit;
        *driven |= bit;
    }
}

rmg_word rmg_chips_read(const rmg_sim *sim, rmg_addr address, rmg_word *driven)
{
    rmg_word value = 0;

    *driven = 0;
    for (uint16_t r = 0; r < sim->board->placement->rule_count; r++) {
        const rmg_rule *rule = &sim->board->placement->rules[r];

        if (rmg_where_holds(&rule->where, address) && !missing(sim, rule->socket))
            chip_read(sim, r, address, driven, &value);
    }
    return value;
}

static void chip_write(rmg_sim *sim, uint16_t r, rmg_addr address, rmg_word value)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_addr cell = rmg_chips_cell(sim, rule, address);
    uint32_t *word = &sim->cells[sim->chip_offset[r] + cell];

    for (uint8_t line = 0; line < rule->width; line++) {
        uint32_t level = (uint32_t)((value >> rule->data_bits[line]) & 1u);
        bool arrives = true;

        for (uint16_t i = 0; i < sim->fault_count; i++) {
            const rmg_sim_fault *f = &sim->faults[i];

            if (f->chip != rule->socket || f->data_line != line)
                continue;
            if (f->kind == RMG_FAULT_DATA_OPEN)
                arrives = false;
            if (f->kind == RMG_FAULT_INPUT_OPEN)
                level = f->level;
        }
        if (arrives)
            *word = (*word & ~((uint32_t)1 << line)) | level << line;
    }
}

void rmg_chips_write(rmg_sim *sim, rmg_addr address, rmg_word value)
{
    for (uint16_t r = 0; r < sim->board->placement->rule_count; r++) {
        const rmg_rule *rule = &sim->board->placement->rules[r];

        if (rmg_where_holds(&rule->where, address) && !sim->board->chips[rule->socket].rom &&
            !missing(sim, rule->socket))
            chip_write(sim, r, address, value);
    }
}
