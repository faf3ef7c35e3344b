/* How the failing cells of one socket lie at the chip's pins: one, a row, a column, scattered. */
#include <string.h>

#include "internal.h"

typedef struct looker {
    const rmg_rule *rule; /* of the finding's socket; several rules feed the chip alike */
    const rmg_where *where;
    rmg_word bits;
    uint8_t row_lines;
    cell_report *report;
    bool rows_differ;
    bool columns_differ;
} looker;

static void look(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    looker *l = context;
    cell_report *report = l->report;
    rmg_addr cell, row, column;

    if (!((high | low) & l->bits) || !rmg_where_holds(l->where, address))
        return;
    cell = rmg_rule_cell(l->rule, address);
    row = cell & (((rmg_addr)1 << l->row_lines) - 1u);
    column = cell >> l->row_lines;
    if (!report->cells) {
        report->first = address;
        report->row = row;
        report->column = column;
    }
    l->rows_differ |= row != report->row;
    l->columns_differ |= column != report->column;
    report->cells++;
}

void rmg_cells_look(const rmg_run *run, const rmg_finding *finding, cell_report *report)
{
    const rmg_board *board = run->board;
    looker l = {.bits = finding->bits, .report = report};

    memset(report, 0, sizeof *report);
    for (uint16_t r = 0; r < board->placement.rule_count && !l.rule; r++)
        if (board->placement.rules[r].socket == finding->socket &&
            board->placement.rules[r].bank == finding->bank)
            l.rule = &board->placement.rules[r];
    if (!l.rule)
        return;
    l.where = &l.rule->where;
    l.row_lines = board->sockets[finding->socket].part->row_lines;
    report->has_rows = l.row_lines > 0;
    rmg_failset_each(run->failures, look, &l);
    if (report->cells == 1)
        report->shape = SHAPE_ONE;
    else if (report->has_rows && !l.rows_differ)
        report->shape = SHAPE_ROW;
    else if (report->has_rows && !l.columns_differ)
        report->shape = SHAPE_COLUMN;
    else
        report->shape = SHAPE_SCATTERED;
}

typedef struct rows {
    const rmg_rule *rule;
    rmg_word bits;
    rmg_addr mask, least;
} rows;

static void see_row(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    rows *r = context;

    if ((high | low) & r->bits && rmg_where_holds(&r->rule->where, address))
        r->least = MIN(r->least, rmg_rule_cell(r->rule, address) & r->mask);
}

bool rmg_cells_least_row(const rmg_run *run, const rmg_finding *f, rmg_addr *row)
{
    rows r = {.bits = f->bits};

    for (uint16_t i = 0; i < run->board->placement.rule_count && !r.rule; i++)
        if (run->board->placement.rules[i].socket == f->socket &&
            run->board->placement.rules[i].bank == f->bank)
            r.rule = &run->board->placement.rules[i];
    if (!r.rule)
        return false;
    r.mask = ((rmg_addr)1 << run->board->sockets[f->socket].part->row_lines) - 1u;
    r.least = r.mask + 1u;
    rmg_failset_each(run->failures, see_row, &r);
    *row = r.least;
    return r.least <= r.mask;
}
