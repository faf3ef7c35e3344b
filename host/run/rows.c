/* One row accessed many times, its neighbours read: cells that leak into the next row. Rows are the
 * row address at the pins; which rows lie side by side inside a chip is its maker's secret, so the
 * ones of neighbouring addresses are read. */
#include "grid.h"

typedef struct row_test {
    runner *c;
    const rmg_target *to;
    bank_grid grid;
    uint64_t pass;
    rmg_word value;
    uint64_t judged; /* words that were read and held against `value` */
} row_test;

/* Writes the row, or reads it and notes what is wrong. */
static rmg_status whole_row(row_test *t, rmg_addr row, bool write)
{
    rmg_status status = RMG_OK;
    rmg_addr address;
    rmg_word actual;

    for (rmg_addr column = 0; column < grid_columns(&t->grid) && status == RMG_OK; column++) {
        if (!rmg_grid_address(&t->grid, row, column, &address))
            continue;
        if (write) {
            status = t->to->bus->write(t->to->context, address, t->value);
            continue;
        }
        status = t->to->bus->read(t->to->context, address, &actual);
        actual &= t->to->mask;
        t->judged += status == RMG_OK;
        if (status == RMG_OK && actual != t->value)
            rmg_grid_wrong(t->c, t->pass, t->value ? 1 : 0, address, t->value, actual);
    }
    return status;
}

/* Accesses the first and the last column that is tested of the row, in turn. */
static rmg_status access_row(const row_test *t, rmg_addr row, uint32_t accesses)
{
    rmg_addr address[2] = {0, 0}, low = 0, high = grid_columns(&t->grid);
    rmg_status status = RMG_OK;
    rmg_word value;

    while (low < grid_columns(&t->grid) && !rmg_grid_address(&t->grid, row, low, &address[0]))
        low++;
    if (low == grid_columns(&t->grid))
        return RMG_OK;
    while (!rmg_grid_address(&t->grid, row, --high, &address[1]))
        ;
    for (uint32_t i = 0; i < accesses && status == RMG_OK; i++) {
        status = t->to->bus->read(t->to->context, address[i & 1u], &value);
        if (status == RMG_OK && !(i & 0xFFFu) && !rmg_run_report(t->c))
            status = RMG_ERR_CANCELLED;
    }
    return status;
}

static rmg_status test_bank(row_test *t, uint32_t accesses)
{
    const rmg_addr rows = grid_rows(&t->grid);
    rmg_status status = RMG_OK;

    for (rmg_addr row = 0; row < rows && status == RMG_OK; row++)
        status = whole_row(t, row, true);
    for (rmg_addr row = 0; row < rows && status == RMG_OK; row++) {
        status = access_row(t, row, accesses);
        if (row && status == RMG_OK)
            status = whole_row(t, row - 1u, false);
        if (row + 1u < rows && status == RMG_OK)
            status = whole_row(t, row + 1u, false);
        if (status == RMG_OK && row) /* what was disturbed is not to be found again and again */
            status = whole_row(t, row - 1u, true);
        if (status == RMG_OK && row + 1u < rows)
            status = whole_row(t, row + 1u, true);
    }
    if (status == RMG_OK)
        rmg_grid_trials(&t->grid,
                        (uint64_t[2]){t->value ? 0 : t->judged, t->value ? t->judged : 0});
    return status;
}

rmg_status rmg_run_rows(runner *c, const rmg_target *to, const rmg_step *step, uint64_t pass)
{
    rmg_status status = RMG_OK;

    for (uint8_t b = 0; b < c->run->board->bank_count && status == RMG_OK; b++) {
        row_test t = {.c = c, .to = to, .grid = rmg_grid_of_bank(c->run, b, false), .pass = pass};

        if (!t.grid.row_lines)
            continue;
        status = test_bank(&t, step->accesses);
        t.value = to->mask;
        t.judged = 0;
        if (status == RMG_OK)
            status = test_bank(&t, step->accesses);
        rmg_grid_end(&t.grid);
    }
    return status;
}
