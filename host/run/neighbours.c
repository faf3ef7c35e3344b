/* Each cell and its four neighbours go through all patterns of five bits, and through every change
 * of one of them.
 *
 * The cells are given five numbers, column + 2 row modulo 5: then a cell and the ones above, below,
 * left and right of it have all five, wherever it lies. All cells of one number are written in turn
 * with the other level, which changes one cell in every neighbourhood; in which order the numbers
 * take their turns is a walk over the 32 patterns: through each of them once (Hamilton: a Gray
 * code), or through each of the 160 changes once (Euler). Tilings of this kind: A. J. van de Goor,
 * *Testing Semiconductor Memories* (1991), chapter 7. */
#include <glib.h>

#include "grid.h"
#include "rimeglass/plan.h"

#define CELLS    5u /* of a neighbourhood, its middle among them */
#define PATTERNS (1u << CELLS)
#define CHANGES  (PATTERNS * CELLS)

/* Which number takes its turn, one after the other, from 0 everywhere on. Returns how many. */
static unsigned walk_patterns(uint8_t *turns)
{
    for (unsigned i = 1; i < PATTERNS; i++)
        turns[i - 1u] = (uint8_t)__builtin_ctz(i);
    return PATTERNS - 1u;
}

/* Hierholzer: go on until there is no way out, then put in what was left at the last place that has
 * one. Every pattern is left as often as it is entered, so the way always closes. */
static unsigned walk_changes(uint8_t *turns)
{
    uint8_t left[PATTERNS] = {0}; /* how many ways out were taken: the numbers below */
    uint8_t places[CHANGES + 1u], ways[CHANGES + 1u], depth = 0;
    unsigned count = CHANGES;

    places[0] = 0;
    ways[0] = CELLS;
    for (;;) {
        const uint8_t here = places[depth];

        if (left[here] < CELLS) {
            ways[depth + 1u] = left[here]++;
            places[depth + 1u] = (uint8_t)(here ^ 1u << ways[depth + 1u]);
            depth++;
        } else if (depth) {
            turns[--count] = ways[depth--];
        } else {
            return CHANGES;
        }
    }
}

static unsigned walk(rmg_neighbours which, uint8_t turns[CHANGES])
{
    return which == RMG_NEIGHBOURS_STATIC ? walk_patterns(turns) : walk_changes(turns);
}

/* Cells of which numbers are read after a turn of `turn`, ones at the numbers. */
static unsigned read_after(rmg_neighbours which, unsigned turn)
{
    const unsigned all = PATTERNS - 1u;

    return which == RMG_NEIGHBOURS_PASSIVE  ? 1u << turn
           : which == RMG_NEIGHBOURS_ACTIVE ? all & ~(1u << turn)
                                            : all;
}

unsigned rmg_neighbours_fifths(rmg_neighbours which)
{
    uint8_t turns[CHANGES];
    const unsigned count = walk(which, turns);
    unsigned fifths = 2u * CELLS; /* all are written, and read or written once more */

    for (unsigned i = 0; i < count; i++)
        fifths += 1u + (unsigned)__builtin_popcount(read_after(which, turns[i]));
    return fifths;
}

typedef struct walking {
    const rmg_target *target;
    const rmg_grid *grid;
    const rmg_grid_watch *watch;
    unsigned pattern; /* bit n: what cells of number n hold */
    unsigned step;    /* changes made so far */
    GArray *few;      /* of few_cell, where the grid names its rows; else NULL */
} walking;

typedef struct few_cell {
    rmg_addr address;
    unsigned number;
} few_cell;

static unsigned number_of(rmg_addr row, rmg_addr column)
{
    return (unsigned)((column + 2u * (row % CELLS)) % CELLS);
}

static rmg_status visit(walking *w, rmg_addr address, rmg_word value, bool write)
{
    const rmg_target *to = w->target;
    rmg_status status;
    rmg_word actual;

    if (write)
        return to->bus->write(to->context, address, value);
    status = to->bus->read(to->context, address, &actual);
    if (status != RMG_OK)
        return status;
    w->watch->read(w->watch->context, w->step, address, value, actual & to->mask);
    if ((actual & to->mask) != value) /* so that it is not found again and again */
        return to->bus->write(to->context, address, value);
    return RMG_OK;
}

/* The words of a grid that has few rows to be visited. */
static GArray *list_few(const rmg_grid *grid)
{
    GArray *few = g_array_new(FALSE, FALSE, sizeof(few_cell));

    for (rmg_addr row = 0; row < grid->rows; row++)
        for (rmg_addr column = 0; grid->row(grid->context, row) && column < grid->columns;
             column++) {
            few_cell cell = {.number = number_of(row, column)};

            if (grid->address(grid->context, row, column, &cell.address))
                g_array_append_val(few, cell);
        }
    return few;
}

static rmg_word held_by(const walking *w, unsigned number)
{
    return w->pattern >> number & 1u ? w->target->mask : 0;
}

/* Cells of the numbers in `which`, written or read. */
static rmg_status each(walking *w, unsigned which, bool write)
{
    rmg_status status = RMG_OK;

    for (guint i = 0; w->few && i < w->few->len && status == RMG_OK; i++) {
        const few_cell *cell = &g_array_index(w->few, few_cell, i);

        if (which >> cell->number & 1u)
            status = visit(w, cell->address, held_by(w, cell->number), write);
    }
    for (rmg_addr row = 0; !w->few && row < w->grid->rows && status == RMG_OK; row++) {
        if (!w->watch->go_on(w->watch->context, w->step))
            return RMG_ERR_CANCELLED;
        for (rmg_addr column = 0; column < w->grid->columns && status == RMG_OK; column++) {
            const unsigned number = number_of(row, column);
            rmg_addr address;

            if ((which >> number & 1u) && w->grid->address(w->grid->context, row, column, &address))
                status = visit(w, address, held_by(w, number), write);
        }
    }
    return status;
}

rmg_status rmg_neighbours_run(const rmg_target *target, const rmg_grid *grid, rmg_neighbours which,
                              const rmg_grid_watch *watch)
{
    walking w = {.target = target, .grid = grid, .watch = watch};
    uint8_t turns[CHANGES];
    const unsigned count = walk(which, turns);
    rmg_status status;

    w.few = grid->row ? list_few(grid) : NULL;
    status = each(&w, PATTERNS - 1u, true);
    /* what was there before can have done something while that was written: written once more, a
     * cell fails first where a pattern of the walk makes it fail */
    if (status == RMG_OK)
        status = each(&w, PATTERNS - 1u, which != RMG_NEIGHBOURS_STATIC);
    while (w.step < count && status == RMG_OK) {
        const unsigned turn = turns[w.step++];

        w.pattern ^= 1u << turn;
        status = each(&w, 1u << turn, true);
        if (status == RMG_OK)
            status = each(&w, read_after(which, turn), false);
    }
    if (w.few)
        g_array_free(w.few, TRUE);
    return status;
}

rmg_surroundings rmg_neighbours_at(rmg_neighbours which, unsigned changes, rmg_addr row,
                                   rmg_addr column)
{
    /* of the cell, and from it to those above, below, left and right */
    const unsigned here = number_of(row, column), from[] = {0, CELLS - 2u, 2u, CELLS - 1u, 1u};
    rmg_surroundings s = {.by = CELLS};
    uint8_t turns[CHANGES];
    const unsigned count = walk(which, turns);
    unsigned pattern = 0;

    for (unsigned i = 0; i < changes && i < count; i++)
        pattern ^= 1u << turns[i];
    s.level = (uint8_t)(pattern >> here & 1u);
    for (unsigned side = 0; side < CELLS; side++) {
        const unsigned number = (here + from[side]) % CELLS;

        if (side)
            s.around |= (uint8_t)((pattern >> number & 1u) << (side - 1u));
        if (changes && changes <= count && turns[changes - 1u] == number)
            s.by = (uint8_t)(side ? side - 1u : CELLS - 1u);
    }
    return s;
}

/* As a step of a run. */
typedef struct bank_walk {
    runner *c;
    bank_grid grid;
    bool *rows; /* [of the grid]: is a word of it tested? NULL: all may be */
    uint64_t pass, reads[2];
} bank_walk;

static bool address_of(const void *context, rmg_addr row, rmg_addr column, rmg_addr *address)
{
    return rmg_grid_address(&((const bank_walk *)context)->grid, row, column, address);
}

static bool has_row(const void *context, rmg_addr row)
{
    return ((const bank_walk *)context)->rows[row];
}

static void on_read(void *context, unsigned changes, rmg_addr address, rmg_word expected,
                    rmg_word actual)
{
    bank_walk *w = context;

    w->reads[expected != 0]++;
    if (expected != actual)
        rmg_grid_wrong(w->c, w->pass, (uint8_t)changes, address, expected, actual);
}

static bool on_step(void *context, unsigned step)
{
    const bank_walk *w = context;

    (void)step;
    return rmg_run_report(w->c);
}

/* Of a replay that is narrowed to some words: those, and their rows. */
static void narrow(bank_walk *w)
{
    const rmg_run *run = w->c->run;

    if (run->own->march_ranges) {
        w->grid.ranges = run->own->march_ranges;
        w->grid.range_count = run->own->march_range_count;
    } else if (!run->wiring_narrowed) {
        return;
    }
    w->rows = g_new0(bool, (size_t)grid_rows(&w->grid));
    for (size_t i = 0; i < w->grid.range_count; i++)
        for (rmg_addr a = w->grid.ranges[i].first;; a++) {
            if (rmg_where_holds(&w->grid.rule->where, a))
                w->rows[rmg_rule_cell(w->grid.rule, a) & (grid_rows(&w->grid) - 1u)] = true;
            if (a == w->grid.ranges[i].last)
                break;
        }
}

rmg_status rmg_run_neighbours(runner *c, const rmg_target *to, const rmg_step *step, uint64_t pass)
{
    rmg_status status = RMG_OK;

    for (uint8_t b = 0; b < c->run->board->bank_count && status == RMG_OK; b++) {
        bank_walk w = {.c = c, .grid = rmg_grid_of_bank(c->run, b, false), .pass = pass};
        const rmg_grid_watch watch = {on_read, on_step, &w};
        rmg_grid grid = {.address = address_of, .context = &w};

        if (!w.grid.row_lines)
            continue;
        grid.rows = grid_rows(&w.grid);
        grid.columns = grid_columns(&w.grid);
        narrow(&w);
        grid.row = w.rows ? has_row : NULL;
        status = rmg_neighbours_run(to, &grid, step->neighbours, &watch);
        g_free(w.rows);
        rmg_grid_end(&w.grid);
        if (status == RMG_OK)
            rmg_grid_trials(&w.grid, w.reads);
    }
    return status;
}
