/* Cells that depend on what was done before: transitions, couplings, disturbing reads and writes,
 * and addresses that reach the wrong cells. Definitions: docs/coverage.md; this file shares no code
 * with the small cell model that computes coverage, so that the two check each other. */
#include "internal.h"

static uint32_t *word_at(rmg_sim *sim, uint16_t r, rmg_addr cell)
{
    return &sim->cells[sim->chip_offset[r] + cell];
}

static uint8_t level_at(rmg_sim *sim, uint16_t r, rmg_addr cell, uint8_t line)
{
    return (uint8_t)(*word_at(sim, r, cell) >> line & 1u);
}

static void flip(rmg_sim *sim, uint16_t r, const rmg_sim_fault *f)
{
    *word_at(sim, r, f->cell) ^= (uint32_t)1 << f->data_line;
}

static void force(rmg_sim *sim, uint16_t r, const rmg_sim_fault *f)
{
    if (level_at(sim, r, f->cell, f->data_line) != f->level)
        flip(sim, r, f);
}

/* Is the fault in this chip, and does what it depends on hold now? */
static bool acts(rmg_sim *sim, uint16_t r, const rmg_sim_fault *f)
{
    return f->chip == sim->board->placement->rules[r].socket &&
           (!f->coupled || level_at(sim, r, f->cell2, f->data_line2) == f->state) &&
           rmg_fault_awake(sim, f);
}

/* Victims that a state holds. */
static void settle(rmg_sim *sim, uint16_t r)
{
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (f->kind == RMG_FAULT_COUPLING_HOLDS &&
            f->chip == sim->board->placement->rules[r].socket &&
            level_at(sim, r, f->cell2, f->data_line2) == f->state && rmg_fault_awake(sim, f))
            force(sim, r, f);
    }
}

void rmg_cells_settle(rmg_sim *sim)
{
    for (uint16_t r = 0; sim->lively && r < sim->board->placement->rule_count; r++)
        settle(sim, r);
}

/* An operation on an aggressor, and the victims it flips. */
static void flip_by(rmg_sim *sim, uint16_t r, rmg_addr cell, uint8_t line, rmg_sim_operation done)
{
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (f->kind == RMG_FAULT_COUPLING_FLIPS && f->cell2 == cell && f->data_line2 == line &&
            f->operation == done && acts(sim, r, f) &&
            level_at(sim, r, f->cell, f->data_line) == f->level)
            flip(sim, r, f);
    }
}

/* A change of an aggressor, and what it does to its victims. */
static void change_by(rmg_sim *sim, uint16_t r, rmg_addr cell, uint8_t line, uint8_t to)
{
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (f->cell2 != cell || f->data_line2 != line || f->state != to || !acts(sim, r, f))
            continue;
        if (f->kind == RMG_FAULT_COUPLING_INVERTS)
            flip(sim, r, f);
        else if (f->kind == RMG_FAULT_COUPLING_SETS)
            force(sim, r, f);
    }
}

/* What the victims among the lines of one word show when it is read, and what that does to them. */
static uint32_t read_word(rmg_sim *sim, uint16_t r, rmg_addr cell)
{
    const uint8_t width = sim->board->placement->rules[r].width;
    const uint32_t before = *word_at(sim, r, cell);
    uint32_t shown = before;

    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];
        const uint32_t bit = (uint32_t)1 << f->data_line;

        if (f->kind < RMG_FAULT_READ_FLIPS || f->kind > RMG_FAULT_READ_WRONG || f->cell != cell ||
            (before >> f->data_line & 1u) != f->level || !acts(sim, r, f))
            continue;
        if (f->kind != RMG_FAULT_READ_FLIPS_AFTER)
            shown ^= bit;
        if (f->kind != RMG_FAULT_READ_WRONG)
            *word_at(sim, r, cell) ^= bit;
    }
    for (uint8_t line = 0; line < width; line++)
        flip_by(sim, r, cell, line, before >> line & 1u ? RMG_OPERATION_1R1 : RMG_OPERATION_0R0);
    return shown;
}

/* One line of a word is written. */
static void write_line(rmg_sim *sim, uint16_t r, rmg_addr cell, uint8_t line, uint8_t level)
{
    static const rmg_sim_operation operations[2][2] = {{RMG_OPERATION_0W0, RMG_OPERATION_0W1},
                                                       {RMG_OPERATION_1W0, RMG_OPERATION_1W1}};
    const uint8_t before = level_at(sim, r, cell, line);
    uint8_t after = level;

    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (f->cell != cell || f->data_line != line || f->level != level ||
            (f->kind != RMG_FAULT_TRANSITION && f->kind != RMG_FAULT_WRITE_FLIPS) ||
            !acts(sim, r, f))
            continue;
        if (f->kind == RMG_FAULT_TRANSITION && before != level)
            after = before;
        else if (f->kind == RMG_FAULT_WRITE_FLIPS && before == level)
            after = !level;
    }
    if (after != before)
        *word_at(sim, r, cell) ^= (uint32_t)1 << line;
    flip_by(sim, r, cell, line, operations[before][level]);
    if (before != level)
        change_by(sim, r, cell, line, level);
}

/* The cells that a chip address reaches: at most two. Returns how many; *fault is the fault that
 * has to do with it, or NULL. */
static unsigned reached(const rmg_sim *sim, uint16_t chip, rmg_addr cell, rmg_addr at[2],
                        const rmg_sim_fault **fault)
{
    *fault = NULL;
    at[0] = cell;
    for (uint16_t i = 0; i < sim->fault_count; i++) {
        const rmg_sim_fault *f = &sim->faults[i];

        if (f->kind != RMG_FAULT_ADDRESS_CELLS || f->chip != chip || !rmg_fault_awake(sim, f))
            continue;
        *fault = f;
        if (cell == f->cell && f->reaches <= RMG_REACHES_NONE_TWO)
            return 0;
        if (cell == f->cell && f->reaches == RMG_REACHES_OTHER)
            at[0] = f->cell2;
        at[1] = f->cell ^ f->cell2 ^ cell;
        return (cell == f->cell && f->reaches == RMG_REACHES_BOTH) ||
                       (cell == f->cell2 && f->reaches == RMG_REACHES_NONE_TWO)
                   ? 2
                   : 1;
    }
    return 1;
}

uint32_t rmg_cells_read(rmg_sim *sim, uint16_t r, rmg_addr cell)
{
    const rmg_sim_fault *fault;
    rmg_addr at[2];
    unsigned count;
    uint32_t all = UINT32_MAX, any = 0;

    if (!sim->lively)
        return *word_at(sim, r, cell);
    count = reached(sim, sim->board->placement->rules[r].socket, cell, at, &fault);
    for (unsigned i = 0; i < count; i++) {
        uint32_t word;

        rmg_rows_access(sim, r, at[i], false);
        word = read_word(sim, r, at[i]);
        all &= word;
        any |= word;
    }
    settle(sim, r);
    if (fault) {
        uint32_t *latch = &sim->memories[fault - sim->faults].latch;

        *latch = fault->reads == RMG_READS_OR               ? any
                 : fault->reads == RMG_READS_LAST && !count ? *latch
                                                            : all;
        return *latch;
    }
    return all;
}

void rmg_cells_write(rmg_sim *sim, uint16_t r, rmg_addr cell, uint32_t word, uint32_t taken)
{
    const uint8_t width = sim->board->placement->rules[r].width;
    const rmg_sim_fault *fault;
    rmg_addr at[2];
    unsigned count;

    if (!sim->lively) {
        uint32_t *to = word_at(sim, r, cell);

        *to = (*to & ~taken) | (word & taken);
        return;
    }
    count = reached(sim, sim->board->placement->rules[r].socket, cell, at, &fault);
    for (unsigned i = 0; i < count; i++) {
        rmg_rows_access(sim, r, at[i], true);
        for (uint8_t line = 0; line < width; line++)
            if (taken >> line & 1u)
                write_line(sim, r, at[i], line, (uint8_t)(word >> line & 1u));
    }
    settle(sim, r);
}
