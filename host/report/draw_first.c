/* See draw_first.h. */
#include "draw_first.h"

#include <glib.h>

#include "pen.h"

#define CELL 56.0 /* drawn side of a cell */
#define GAP  6.0

typedef struct looking {
    const rmg_run *run;
    uint16_t socket;
    unsigned count; /* failing bits */
    rmg_addr cell;
    uint64_t first;
    bool high;
} looking;

static void see(void *context, rmg_addr address, uint32_t record, const rmg_fail_part *parts,
                size_t count)
{
    looking *l = context;
    const rmg_placement *placement = &l->run->board->placement;

    (void)record;
    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];
        const rmg_word bits = rmg_rule_bits(rule);
        rmg_word failing = 0;
        uint64_t first = UINT64_MAX;

        if (rule->socket != l->socket || !rmg_where_holds(&rule->where, address))
            continue;
        for (size_t i = 0; i < count; i++) {
            const rmg_word here = (parts[i].high | parts[i].low) & bits;

            failing |= here;
            if (here && parts[i].first < first) {
                first = parts[i].first;
                l->high = (parts[i].high & bits) != 0;
            }
        }
        l->count += (unsigned)__builtin_popcountll(failing);
        l->cell = rmg_rule_cell(rule, address);
        l->first = first;
    }
}

rmg_first_failed rmg_first_failed_of(const rmg_run *run, uint16_t socket, uint8_t row_lines)
{
    looking l = {.run = run, .socket = socket};
    rmg_first_failed f = {.step = NULL};
    const rmg_part *part = run->board->sockets[socket].part;
    rmg_addr rows = 0, columns = 0;
    size_t step;

    rmg_failset_each_record(run->failures, see, &l);
    step = (size_t)(l.first >> 16 & 0xFFu);
    if (l.count != 1 || !l.first || step >= run->steps.count)
        return f;
    f.step = &run->steps.list[step];
    f.element = (unsigned)(l.first >> 8 & 0xFFu);
    f.high = l.high;
    f.row = l.cell & (((rmg_addr)1 << row_lines) - 1u);
    f.column = l.cell >> row_lines;
    f.partner = f.step->kind == RMG_STEP_MOVING &&
                rmg_moving_partner(f.step->moving, (rmg_addr)1 << row_lines,
                                   (rmg_addr)1 << (part->address_lines - row_lines), f.element / 2u,
                                   &rows, &columns);
    f.partner_row = f.row ^ rows;
    f.partner_column = f.column ^ columns;
    return f;
}

/* A cell that holds a level; one that just changed has a thick frame. */
static void draw_cell(cairo_t *cr, double x, double y, unsigned level, bool changed)
{
    const double frame = changed ? 6 : 2;

    rmg_pen_box(cr, x, y, CELL, CELL, RMG_INK_DARK);
    rmg_pen_box(cr, x + frame, y + frame, CELL - 2 * frame, CELL - 2 * frame,
                level ? RMG_INK_FIELD : RMG_INK_PAPER);
    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, x + CELL / 2, y + CELL / 2 + 8, 22, changed, 0.5, level ? "1" : "0");
}

static void draw_around(cairo_t *cr, const rmg_first_failed *f, double x, double y)
{
    static const int places[][2] = {{0, -1}, {0, 1}, {-1, 0}, {1, 0}}; /* columns, rows */
    const rmg_surroundings s =
        rmg_neighbours_at(f->step->neighbours, f->element, f->row, f->column);
    const double across = CELL + GAP;
    gchar *text;

    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, x, y, 15, true, 0, "Around it, when it first failed");
    y += 24;
    for (unsigned side = 0; side < 4; side++)
        draw_cell(cr, x + across * (1 + places[side][0]), y + across * (1 + places[side][1]),
                  (unsigned)s.around >> side & 1u, s.by == side);
    draw_cell(cr, x + across, y + across, s.level, s.by == 4);
    rmg_pen_box(cr, x + across + CELL - 16, y + across + 4, 12, 12,
                f->high ? RMG_INK_HIGH : RMG_INK_LOW);
    rmg_pen_ink(cr, RMG_INK_DARK);
    y += 3 * across + 24;
    text = g_strdup_printf("Row %u, column %u, read %u for %u.", (unsigned)f->row,
                           (unsigned)f->column, s.level ^ 1u, s.level);
    rmg_pen_say(cr, x, y, 15, false, 0, text);
    g_free(text);
    if (s.by < 5)
        rmg_pen_say(cr, x, y + 24, 15, false, 0, "Thick frame: what changed last.");
}

static void draw_before(cairo_t *cr, const rmg_first_failed *f, double x, double y)
{
    gchar *text = g_strdup_printf("row %u, column %u (ring), in %s.", (unsigned)f->partner_row,
                                  (unsigned)f->partner_column, f->step->name);

    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, x, y, 15, true, 0, "It first failed directly after");
    rmg_pen_say(cr, x, y + 24, 15, false, 0, text);
    g_free(text);
}

void rmg_draw_first_failed(cairo_t *cr, const rmg_first_failed *f, double x, double y)
{
    if (f->step && f->step->kind == RMG_STEP_NEIGHBOURS)
        draw_around(cr, f, x, y);
    else if (f->step && f->partner)
        draw_before(cr, f, x, y);
}
