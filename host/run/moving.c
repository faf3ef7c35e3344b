/* Addresses that move to and fro: each cell in turn holds another level than all others of its
 * chip, and is accessed in turn with some of them. What is slow to let go of an address, a line or
 * a bit line shows where two accesses follow each other directly. Galloping, walking, sliding
 * diagonal, butterfly and surround tests: A. J. van de Goor, *Testing Semiconductor Memories*
 * (1991), chapters 4 and 6; which partners a cell has where there are too many is our own. */
#include <glib.h>

#include "grid.h"
#include "rimeglass/plan.h"

#define WATCH_EVERY 256u /* cells that moved */
#define TOLD_MOST   127u /* numbers of partners */

/* A partner of a cell: lines of the row and column address that differ; or how far it is away. */
typedef struct partner {
    int64_t rows, columns;
    bool away;
} partner;

typedef struct moving {
    const rmg_target *target;
    const rmg_grid *grid;
    const rmg_grid_watch *watch;
    rmg_moving which;
    rmg_addr rows, columns;
    GArray *partners; /* of partner */
    uint32_t most;
    rmg_word ground; /* what all others hold */
} moving;

static unsigned lines_in(rmg_addr lines)
{
    return (unsigned)__builtin_popcountll(lines);
}

static void add_lines(moving *m, rmg_addr rows, rmg_addr columns)
{
    const partner p = {(int64_t)rows, (int64_t)columns, false};

    if (m->partners->len < m->most)
        g_array_append_val(m->partners, p);
}

static void add_away(moving *m, int64_t rows, int64_t columns)
{
    const partner p = {rows, columns, true};

    if (m->partners->len < m->most)
        g_array_append_val(m->partners, p);
}

/* The cells of one row or column: first the ones whose address differs in one line, then the one
 * that differs in all, then two lines and more. */
static void of_one_line(moving *m, rmg_addr cells, bool columns)
{
    const unsigned all = lines_in(cells - 1u);

    for (unsigned turn = 0; turn <= all; turn++) {
        const unsigned differ = turn == 1 ? all : turn == 0 ? 1u : turn;

        for (rmg_addr lines = 1; lines < cells && m->partners->len < m->most; lines++)
            if (lines_in(lines) == differ && !(turn > 1 && differ == all) &&
                !(turn == 1 && all == 1))
                add_lines(m, columns ? 0 : lines, columns ? lines : 0);
    }
}

static void of_lines(moving *m)
{
    const rmg_addr cells = m->rows * m->columns;
    const unsigned count = lines_in(cells - 1u);

    for (unsigned i = 0; i < count; i++)
        add_lines(m, (rmg_addr)1 << i & (m->rows - 1u), ((rmg_addr)1 << i) / m->rows);
    if (count > 1)
        add_lines(m, m->rows - 1u, m->columns - 1u);
    for (unsigned i = 0; i < count && count > 2; i++)
        for (unsigned k = i + 1u; k < count; k++) {
            const rmg_addr lines = (rmg_addr)1 << i | (rmg_addr)1 << k;

            add_lines(m, lines & (m->rows - 1u), lines / m->rows);
        }
}

static void of_distances(moving *m)
{
    for (rmg_addr far = 1; far < m->rows || far < m->columns; far *= 2u)
        for (int side = -1; side <= 1; side += 2) {
            if (far < m->rows)
                add_away(m, side * (int64_t)far, 0);
            if (far < m->columns)
                add_away(m, 0, side * (int64_t)far);
        }
}

static void find_partners(moving *m)
{
    switch (m->which) {
    case RMG_MOVING_GALLOP_ROW:
    case RMG_MOVING_WALK_ROW:
        of_one_line(m, m->columns, true);
        break;
    case RMG_MOVING_GALLOP_COLUMN:
    case RMG_MOVING_WALK_COLUMN:
        of_one_line(m, m->rows, false);
        break;
    case RMG_MOVING_GALLOP_LINES:
        of_lines(m);
        break;
    case RMG_MOVING_BUTTERFLY:
        of_distances(m);
        break;
    case RMG_MOVING_SURROUND:
        for (int row = -1; row <= 1; row++)
            for (int column = -1; column <= 1; column++)
                if (row || column)
                    add_away(m, row, column);
        break;
    case RMG_MOVING_DIAGONAL:
        break;
    }
}

/* Its row and column; false: it lies beyond the edge. */
static bool partner_at(const moving *m, const partner *p, rmg_addr row, rmg_addr column,
                       rmg_addr *to_row, rmg_addr *to_column)
{
    if (!p->away) {
        *to_row = row ^ (rmg_addr)p->rows;
        *to_column = column ^ (rmg_addr)p->columns;
        return true;
    }
    *to_row = (rmg_addr)((int64_t)row + p->rows); /* wraps below 0 */
    *to_column = (rmg_addr)((int64_t)column + p->columns);
    return *to_row < m->rows && *to_column < m->columns;
}

static bool find(const moving *m, rmg_addr row, rmg_addr column, rmg_addr *address)
{
    return m->grid->address(m->grid->context, row, column, address);
}

static rmg_status put(const moving *m, rmg_addr address, bool other)
{
    return m->target->bus->write(m->target->context, address,
                                 other ? m->ground ^ m->target->mask : m->ground);
}

static rmg_status look(const moving *m, rmg_addr address, bool other, guint partner_number)
{
    const rmg_word expected = other ? m->ground ^ m->target->mask : m->ground;
    rmg_word actual;
    const rmg_status status = m->target->bus->read(m->target->context, address, &actual);

    if (status != RMG_OK)
        return status;
    actual &= m->target->mask;
    m->watch->read(m->watch->context, 2u * MIN(partner_number, TOLD_MOST) + (other ? 1u : 0u),
                   address, expected, actual);
    /* so that it is not found again and again */
    return actual == expected ? RMG_OK
                              : m->target->bus->write(m->target->context, address, expected);
}

/* One partner of a cell that holds the other level. */
static rmg_status meet(const moving *m, rmg_addr cell, rmg_addr other, guint number)
{
    rmg_status status = RMG_OK;

    if (m->which == RMG_MOVING_SURROUND) {
        status = put(m, other, true);
        if (status == RMG_OK)
            status = put(m, other, false);
    } else {
        status = look(m, other, false, number);
    }
    if (status == RMG_OK && m->which != RMG_MOVING_WALK_ROW && m->which != RMG_MOVING_WALK_COLUMN)
        status = look(m, cell, true, number);
    return status;
}

static rmg_status move_to(const moving *m, rmg_addr row, rmg_addr column)
{
    rmg_addr cell, other, to_row, to_column;
    rmg_status status;

    if (!find(m, row, column, &cell))
        return RMG_OK;
    status = put(m, cell, true);
    for (guint i = 0; i < m->partners->len && status == RMG_OK; i++)
        if (partner_at(m, &g_array_index(m->partners, partner, i), row, column, &to_row,
                       &to_column) &&
            find(m, to_row, to_column, &other))
            status = meet(m, cell, other, i);
    if (status == RMG_OK && (m->which == RMG_MOVING_WALK_ROW || m->which == RMG_MOVING_WALK_COLUMN))
        status = look(m, cell, true, 0);
    return status == RMG_OK ? put(m, cell, false) : status;
}

/* How many diagonals there are, and where the n-th begins. */
static rmg_addr diagonals(const moving *m)
{
    return m->columns < m->most ? m->columns : m->most;
}

static rmg_status slide(const moving *m, rmg_addr n)
{
    const rmg_addr start = (rmg_addr)((uint64_t)n * m->columns / diagonals(m));
    rmg_status status = RMG_OK;
    rmg_addr address;

    for (rmg_addr row = 0; row < m->rows && status == RMG_OK; row++)
        if (find(m, row, (start + row) % m->columns, &address))
            status = put(m, address, true);
    for (rmg_addr column = 0; column < m->columns && status == RMG_OK; column++) {
        for (rmg_addr row = 0; row < m->rows && status == RMG_OK; row++)
            if (find(m, row, column, &address))
                status = look(m, address, (start + row) % m->columns == column, 0);
        if (status == RMG_OK && !m->watch->go_on(m->watch->context, 0))
            status = RMG_ERR_CANCELLED;
    }
    for (rmg_addr row = 0; row < m->rows && status == RMG_OK; row++)
        if (find(m, row, (start + row) % m->columns, &address))
            status = put(m, address, false);
    return status;
}

static rmg_status on_ground(const moving *m)
{
    rmg_status status = RMG_OK;
    unsigned moved = 0;
    rmg_addr address;

    for (rmg_addr column = 0; column < m->columns && status == RMG_OK; column++)
        for (rmg_addr row = 0; row < m->rows && status == RMG_OK; row++)
            if (find(m, row, column, &address))
                status = put(m, address, false);
    for (rmg_addr n = 0; m->which == RMG_MOVING_DIAGONAL && n < diagonals(m) && status == RMG_OK;
         n++)
        status = slide(m, n);
    for (rmg_addr column = 0;
         m->which != RMG_MOVING_DIAGONAL && column < m->columns && status == RMG_OK; column++)
        for (rmg_addr row = 0; row < m->rows && status == RMG_OK; row++) {
            if (moved++ % WATCH_EVERY == 0 && !m->watch->go_on(m->watch->context, 0))
                return RMG_ERR_CANCELLED;
            status = move_to(m, row, column);
        }
    return status;
}

rmg_status rmg_moving_run(const rmg_target *target, const rmg_grid *grid, rmg_moving which,
                          uint32_t partners, const rmg_grid_watch *watch)
{
    moving m = {.target = target,
                .grid = grid,
                .watch = watch,
                .which = which,
                .rows = grid->rows,
                .columns = grid->columns,
                .most = partners};
    rmg_status status;

    if (!partners || !m.rows || !m.columns || lines_in(m.rows) != 1 || lines_in(m.columns) != 1)
        return RMG_ERR_ARGUMENT;
    m.partners = g_array_new(FALSE, FALSE, sizeof(partner));
    find_partners(&m);
    status = on_ground(&m);
    m.ground = target->mask;
    if (status == RMG_OK)
        status = on_ground(&m);
    g_array_free(m.partners, TRUE);
    return status;
}

bool rmg_moving_partner(rmg_moving which, rmg_addr rows, rmg_addr columns, uint32_t number,
                        rmg_addr *row_lines, rmg_addr *column_lines)
{
    moving m = {.which = which, .rows = rows, .columns = columns, .most = number + 1u};
    bool there = which == RMG_MOVING_GALLOP_ROW || which == RMG_MOVING_GALLOP_COLUMN ||
                 which == RMG_MOVING_GALLOP_LINES;

    m.partners = g_array_new(FALSE, FALSE, sizeof(partner));
    if (there)
        find_partners(&m);
    there = number < m.partners->len;
    if (there) {
        *row_lines = (rmg_addr)g_array_index(m.partners, partner, number).rows;
        *column_lines = (rmg_addr)g_array_index(m.partners, partner, number).columns;
    }
    g_array_free(m.partners, TRUE);
    return there;
}

/* Pairs of a cell and a partner that is not beyond the edge. */
static uint64_t pairs_of(const moving *m, const partner *p)
{
    const uint64_t rows = p->away ? (uint64_t)ABS(p->rows) : 0;
    const uint64_t columns = p->away ? (uint64_t)ABS(p->columns) : 0;

    return rows < m->rows && columns < m->columns ? (m->rows - rows) * (m->columns - columns) : 0;
}

uint64_t rmg_moving_accesses(rmg_moving which, rmg_addr rows, rmg_addr columns, uint32_t partners)
{
    moving m = {.which = which, .rows = rows, .columns = columns, .most = partners};
    const uint64_t cells = (uint64_t)rows * columns;
    uint64_t pairs = 0;

    if (which == RMG_MOVING_DIAGONAL)
        return 2u * (cells + diagonals(&m) * (cells + 2u * (uint64_t)rows));
    m.partners = g_array_new(FALSE, FALSE, sizeof(partner));
    find_partners(&m);
    for (guint i = 0; i < m.partners->len; i++)
        pairs += pairs_of(&m, &g_array_index(m.partners, partner, i));
    g_array_free(m.partners, TRUE);
    switch (which) {
    case RMG_MOVING_WALK_ROW:
    case RMG_MOVING_WALK_COLUMN:
        return 2u * (4u * cells + pairs);
    case RMG_MOVING_SURROUND:
        return 2u * (3u * cells + 3u * pairs);
    default:
        return 2u * (3u * cells + 2u * pairs);
    }
}

/* As a step of a run. */
typedef struct bank_move {
    runner *c;
    bank_grid grid;
    uint64_t pass, reads[2];
} bank_move;

static bool address_of(const void *context, rmg_addr row, rmg_addr column, rmg_addr *address)
{
    return rmg_grid_address(&((const bank_move *)context)->grid, row, column, address);
}

static void on_read(void *context, unsigned what, rmg_addr address, rmg_word expected,
                    rmg_word actual)
{
    bank_move *b = context;

    b->reads[expected != 0]++;
    if (expected != actual)
        rmg_grid_wrong(b->c, b->pass, (uint8_t)what, address, expected, actual);
}

static bool go_on(void *context, unsigned what)
{
    (void)what;
    return rmg_run_report(((const bank_move *)context)->c);
}

rmg_status rmg_run_moving(runner *c, const rmg_target *to, const rmg_step *step, uint64_t pass)
{
    rmg_status status = RMG_OK;

    for (uint8_t bank = 0; bank < c->run->board->bank_count && status == RMG_OK; bank++) {
        bank_move b = {.c = c, .grid = rmg_grid_of_bank(c->run, bank, true), .pass = pass};
        const rmg_grid_watch watch = {on_read, go_on, &b};
        rmg_grid grid = {.address = address_of, .context = &b};

        if (!b.grid.row_lines)
            continue;
        grid.rows = grid_rows(&b.grid);
        grid.columns = grid_columns(&b.grid);
        status = rmg_moving_run(to, &grid, step->moving, step->partners, &watch);
        rmg_grid_end(&b.grid);
        if (status == RMG_OK)
            rmg_grid_trials(&b.grid, b.reads);
    }
    return status;
}
