/* Cells that depend on what was done before: transitions, couplings, disturbing reads and writes,
 * and addresses that reach the wrong cells. Definitions: docs/coverage.md; this file shares no code
 * with the small cell model that computes coverage, so that the two check each other. */
#include "internal.h"

static uint8_t level_at(rmg_sim *sim, uint16_t r, rmg_addr cell, uint8_t line)
{
    return (uint8_t)(rmg_cell_get(sim, r, cell) >> line & 1u);
}

static void flip_lines(rmg_sim *sim, uint16_t r, rmg_addr cell, uint32_t lines)
{
    rmg_cell_set(sim, r, cell, rmg_cell_get(sim, r, cell) ^ lines);
}

static void flip(rmg_sim *sim, uint16_t r, const rmg_sim_fault *f)
{
    flip_lines(sim, r, f->cell, (uint32_t)1 << f->data_line);
}

static void force(rmg_sim *sim, uint16_t r, const rmg_sim_fault *f)
{
    if (level_at(sim, r, f->cell, f->data_line) != f->level)
        flip(sim, r, f);
}

/* Does what the fault depends on hold now? */
static bool coupled(rmg_sim *sim, uint16_t r, const rmg_sim_fault *f)
{
    return !f->coupled || level_at(sim, r, f->cell2, f->data_line2) == f->state;
}

/* Do the cells around the victim hold the fault's pattern? One that is beyond the edge does. */
static bool surrounded(rmg_sim *sim, uint16_t r, const rmg_sim_fault *f)
{
    const rmg_sim_chip *chip = &sim->board->chips[sim->board->placement->rules[r].socket];

    for (unsigned side = 0; side < 4; side++) {
        const rmg_addr cell = rmg_cell_beside(chip, f->cell, side);

        if ((f->around_mask >> side & 1u) && cell != RMG_NO_CELL &&
            level_at(sim, r, cell, f->data_line) != (f->around >> side & 1u))
            return false;
    }
    return true;
}

/* Victims that a state holds. */
static void settle(rmg_sim *sim, uint16_t r)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_STATE);
    const rmg_sim_fault *f;

    while ((f = rmg_acting_next(sim, &acting)) != NULL)
        if (f->kind == RMG_FAULT_PATTERN_HOLDS
                ? surrounded(sim, r, f)
                : level_at(sim, r, f->cell2, f->data_line2) == f->state)
            force(sim, r, f);
}

void rmg_cells_settle(rmg_sim *sim)
{
    for (uint16_t r = 0; sim->lively && r < sim->board->placement->rule_count; r++)
        settle(sim, r);
}

/* Is the victim in the word that is written, at a line that the write changes, and spared then? */
static bool spared(const rmg_sim_fault *f, rmg_addr cell, uint32_t changed)
{
    return f->unchanged_only && f->cell == cell && (changed >> f->data_line & 1u);
}

/* An operation on an aggressor, and the victims it flips. `changed`: lines of its word that a write
 * changes. */
static void flip_by(rmg_sim *sim, uint16_t r, rmg_addr cell, uint8_t line, rmg_sim_operation done,
                    uint32_t changed)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_ACCESSED);

    for (; acting.at != acting.end; acting.at++) {
        const rmg_sim_fault *f = &sim->faults[*acting.at];

        if (f->cell2 == cell && f->data_line2 == line && f->operation == done &&
            !spared(f, cell, changed) && coupled(sim, r, f) && rmg_fault_awake(sim, f) &&
            level_at(sim, r, f->cell, f->data_line) == f->level)
            flip(sim, r, f);
    }
}

/* Is it the fault's aggressor, the way things stand? */
static bool turned_by(rmg_sim *sim, uint16_t r, const rmg_sim_fault *f, rmg_addr cell, uint8_t line,
                      uint32_t changed)
{
    const rmg_sim_chip *chip = &sim->board->chips[sim->board->placement->rules[r].socket];

    if (f->kind == RMG_FAULT_PATTERN_SETS)
        return line == f->data_line && cell == rmg_cell_beside(chip, f->cell, f->by) &&
               surrounded(sim, r, f);
    return f->cell2 == cell && f->data_line2 == line && !spared(f, cell, changed) &&
           coupled(sim, r, f);
}

/* A change of an aggressor, and what it does to its victims. */
static void change_by(rmg_sim *sim, uint16_t r, rmg_addr cell, uint8_t line, uint8_t to,
                      uint32_t changed)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_CHANGED);

    for (; acting.at != acting.end; acting.at++) {
        const rmg_sim_fault *f = &sim->faults[*acting.at];

        if (f->state != to || !turned_by(sim, r, f, cell, line, changed) ||
            !rmg_fault_awake(sim, f))
            continue;
        if (f->kind == RMG_FAULT_COUPLING_INVERTS)
            flip(sim, r, f);
        else
            force(sim, r, f);
    }
}

/* What the victims among the lines of one word show when it is read, and what that does to them. */
static uint32_t read_word(rmg_sim *sim, uint16_t r, rmg_addr cell)
{
    const uint8_t width = sim->board->placement->rules[r].width;
    const uint32_t before = rmg_cell_get(sim, r, cell);
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_READING);
    uint32_t shown = before;

    for (; acting.at != acting.end; acting.at++) {
        const rmg_sim_fault *f = &sim->faults[*acting.at];
        const uint32_t bit = (uint32_t)1 << f->data_line;

        if (f->cell != cell || (before >> f->data_line & 1u) != f->level || !coupled(sim, r, f) ||
            !rmg_fault_awake(sim, f))
            continue;
        if (f->kind != RMG_FAULT_READ_FLIPS_AFTER)
            shown ^= bit;
        if (f->kind != RMG_FAULT_READ_WRONG)
            flip_lines(sim, r, cell, bit);
    }
    for (uint8_t line = 0; (sim->ways[r].acts & RMG_STAGE_BIT(ACCESSED)) && line < width; line++)
        flip_by(sim, r, cell, line, before >> line & 1u ? RMG_OPERATION_1R1 : RMG_OPERATION_0R0, 0);
    return shown;
}

/* Does what the fault depends on hold, when this word is stored? An aggressor in the word itself
 * holds what it is given. */
static bool coupled_by(rmg_sim *sim, uint16_t r, const rmg_sim_fault *f, rmg_addr cell,
                       uint32_t word)
{
    if (f->coupled && f->cell2 == cell)
        return (word >> f->data_line2 & 1u) == f->state;
    return coupled(sim, r, f);
}

/* What a word becomes that is to be `word`: victims may keep what they held, or take the other
 * level. */
static uint32_t stored(rmg_sim *sim, uint16_t r, rmg_addr cell, uint32_t word, uint32_t taken)
{
    const uint32_t before = rmg_cell_get(sim, r, cell);
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_WRITING);
    uint32_t after = word;

    for (; acting.at != acting.end; acting.at++) {
        const rmg_sim_fault *f = &sim->faults[*acting.at];
        const uint32_t bit = (uint32_t)1 << f->data_line;
        const bool changes = (before ^ word) & bit;

        if (f->cell != cell || !(taken & bit) || (word >> f->data_line & 1u) != f->level ||
            !coupled_by(sim, r, f, cell, word) || !rmg_fault_awake(sim, f))
            continue;
        if ((f->kind == RMG_FAULT_PATTERN_KEEPS && changes && surrounded(sim, r, f)) ||
            (f->kind == RMG_FAULT_TRANSITION && changes) ||
            (f->kind == RMG_FAULT_WRITE_FLIPS && !changes))
            after = (after & ~bit) | (~word & bit); /* in both cases not what it was given */
    }
    return after;
}

/* A word is written: all lines at once, then what comes of it. */
static void write_word(rmg_sim *sim, uint16_t r, rmg_addr cell, uint32_t word, uint32_t taken)
{
    static const rmg_sim_operation operations[2][2] = {{RMG_OPERATION_0W0, RMG_OPERATION_0W1},
                                                       {RMG_OPERATION_1W0, RMG_OPERATION_1W1}};
    const uint8_t width = sim->ways[r].width;
    const uint32_t before = rmg_cell_get(sim, r, cell);
    const uint32_t given = (before & ~taken) | (word & taken), changed = before ^ given;

    rmg_cell_set(sim, r, cell, stored(sim, r, cell, given, taken));
    for (uint8_t line = 0; line < width; line++) {
        const uint8_t from = before >> line & 1u, to = given >> line & 1u;

        if (!(taken >> line & 1u))
            continue;
        flip_by(sim, r, cell, line, operations[from][to], changed);
        if (from != to)
            change_by(sim, r, cell, line, to, changed);
    }
}

/* The cells that a chip address reaches: at most two. Returns how many; *fault is the fault that
 * has to do with it, or NULL. */
static unsigned reached(const rmg_sim *sim, uint16_t r, rmg_addr cell, rmg_addr at[2],
                        const rmg_sim_fault **fault)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_REACH);
    const rmg_sim_fault *f;

    *fault = NULL;
    at[0] = cell;
    while ((f = rmg_acting_next(sim, &acting)) != NULL) {
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

#define READS_ACT  (RMG_STAGE_BIT(READING) | RMG_STAGE_BIT(ACCESSED))
#define WRITES_ACT (RMG_STAGE_BIT(WRITING) | RMG_STAGE_BIT(ACCESSED) | RMG_STAGE_BIT(CHANGED))

/* An access to a cell's row, as far as it does anything. */
static inline void access_row(rmg_sim *sim, uint16_t r, rmg_addr cell, bool writing)
{
    rmg_sim_way *way = &sim->ways[r];

    way->row_used = true;
    if (!way->held || !sim->calm || (way->acts & RMG_STAGE_BIT(ROWS)))
        rmg_rows_access(sim, r, cell, writing);
    else if (way->row_mask) /* refresh always comes in time */
        way->row_ns[cell & way->row_mask] = sim->now_ns;
}

/* One word that is reached: its row is accessed, it is read. */
static uint32_t cell_read(rmg_sim *sim, uint16_t r, rmg_addr cell)
{
    access_row(sim, r, cell, false);
    return sim->ways[r].acts & READS_ACT ? read_word(sim, r, cell) : rmg_cell_get(sim, r, cell);
}

static void cell_write(rmg_sim *sim, uint16_t r, rmg_addr cell, uint32_t word, uint32_t taken)
{
    access_row(sim, r, cell, true);
    if (!(sim->ways[r].acts & WRITES_ACT))
        rmg_cell_set(sim, r, cell, (rmg_cell_get(sim, r, cell) & ~taken) | (word & taken));
    else
        write_word(sim, r, cell, word, taken);
}

static uint32_t word_read(rmg_sim *sim, uint16_t r, rmg_addr cell)
{
    const rmg_sim_fault *fault;
    rmg_addr at[2];
    unsigned count;
    uint32_t all = UINT32_MAX, any = 0;

    if (!(sim->ways[r].acts & RMG_STAGE_BIT(REACH))) {
        all = cell_read(sim, r, cell);
        if (sim->ways[r].acts & RMG_STAGE_BIT(STATE))
            settle(sim, r);
        return all;
    }
    count = reached(sim, r, cell, at, &fault);
    for (unsigned i = 0; i < count; i++) {
        const uint32_t word = cell_read(sim, r, at[i]);

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

uint32_t rmg_cells_read(rmg_sim *sim, uint16_t r, rmg_addr cell)
{
    rmg_addr at;
    uint32_t word;

    if (!(sim->ways[r].acts & RMG_STAGE_BIT(FOLLOWING)))
        return word_read(sim, r, cell);
    at = rmg_following_cell(sim, r, cell);
    word = rmg_following_word(sim, r, at, word_read(sim, r, at));
    rmg_following_note(sim, r, cell, at, false);
    return word;
}

static void word_write(rmg_sim *sim, uint16_t r, rmg_addr cell, uint32_t word, uint32_t taken)
{
    const rmg_sim_fault *fault;
    rmg_addr at[2];
    unsigned count;

    if (!(sim->ways[r].acts & RMG_STAGE_BIT(REACH))) {
        cell_write(sim, r, cell, word, taken);
    } else {
        count = reached(sim, r, cell, at, &fault);
        for (unsigned i = 0; i < count; i++)
            cell_write(sim, r, at[i], word, taken);
    }
    if (sim->ways[r].acts & RMG_STAGE_BIT(STATE))
        settle(sim, r);
}

void rmg_cells_write(rmg_sim *sim, uint16_t r, rmg_addr cell, uint32_t word, uint32_t taken)
{
    rmg_addr at = cell;

    if (sim->ways[r].acts & RMG_STAGE_BIT(FOLLOWING))
        at = rmg_following_cell(sim, r, cell);
    word_write(sim, r, at, word, taken);
    if (sim->ways[r].acts & RMG_STAGE_BIT(FOLLOWING))
        rmg_following_note(sim, r, cell, at, true);
}
