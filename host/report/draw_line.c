/* The chain of a traced line: its points from the driver on, what is sound, what is concerned, and
 * the stretch to look at. */
#include <glib.h>
#include <string.h>

#include "draw_line.h"
#include "pen.h"

#define ROWS_MOST  5u
#define NODE_H     20.0
#define NODE_SHARE 0.76 /* of a column; the rest is the way to the next */
#define SOUND      0x39414D
#define CONCERNED  0x8C2F00

/* Where a point stands: the first branch goes on in its row, each other one begins a row. */
typedef struct spot {
    unsigned column, row;
    bool concerned; /* at or beyond the finding's point */
} spot;

typedef struct layout {
    const rmg_line *line;
    spot *spots; /* [line->point_count] */
    unsigned columns, rows;
} layout;

bool rmg_draw_line_wanted(const rmg_suspects *suspects)
{
    return suspects->count && suspects->list[0].finding.socket == RMG_NO_SOCKET &&
           suspects->list[0].finding.point != RMG_NO_POINT;
}

static void place_points(layout *l, uint16_t bad)
{
    bool *taken = g_new0(bool, l->line->point_count); /* its row goes on already */

    l->rows = 1;
    for (uint16_t p = 0; p < l->line->point_count; p++) { /* a point stands after its parent */
        const uint16_t parent = l->line->points[p].parent;
        spot *s = &l->spots[p];

        if (parent != RMG_NO_POINT) {
            s->column = l->spots[parent].column + 1u;
            s->row = taken[parent] ? l->rows++ : l->spots[parent].row;
            taken[parent] = true;
            s->concerned = l->spots[parent].concerned;
        }
        s->concerned |= p == bad;
        l->columns = MAX(l->columns, s->column + 1u);
    }
    g_free(taken);
}

/* The way from a point's parent to it: along the row, or down from the parent and then along. */
static void draw_way(cairo_t *cr, const layout *l, uint16_t p, double x, double y, double step_x,
                     double step_y, bool look_here)
{
    const spot *to = &l->spots[p], *from = &l->spots[l->line->points[p].parent];
    const double dashes[] = {7, 5};
    const double middle = x + to->column * step_x - step_x * (1 - NODE_SHARE) / 2;

    cairo_new_path(cr);
    cairo_move_to(cr, x + from->column * step_x + step_x * NODE_SHARE, y + from->row * step_y);
    if (to->row != from->row) {
        cairo_line_to(cr, middle, y + from->row * step_y);
        cairo_line_to(cr, middle, y + to->row * step_y);
    }
    cairo_line_to(cr, x + to->column * step_x, y + to->row * step_y);
    rmg_pen_ink(cr, to->concerned ? CONCERNED : SOUND);
    cairo_set_line_width(cr, look_here ? 5 : 1.6);
    if (look_here)
        cairo_set_dash(cr, dashes, 2, 0);
    cairo_stroke(cr);
    cairo_set_dash(cr, NULL, 0, 0);
}

static void draw_point(cairo_t *cr, const char *name, const spot *s, double x, double y, double w)
{
    const size_t letters = strlen(name);
    const double size = MIN(11.5, w * 1.55 / (double)MAX(letters, 1));

    cairo_rectangle(cr, x, y - NODE_H / 2, w, NODE_H);
    rmg_pen_ink(cr, s->concerned ? 0xFCE9DC : 0xFFFFFF);
    cairo_fill_preserve(cr);
    rmg_pen_ink(cr, s->concerned ? CONCERNED : SOUND);
    cairo_set_line_width(cr, s->concerned ? 3 : 1.2);
    cairo_stroke(cr);
    rmg_pen_say(cr, x + w / 2, y + size * 0.35, size, s->concerned, 0.5, name);
}

void rmg_draw_line(cairo_t *cr, const rmg_board *board, const rmg_finding *f, double x, double y,
                   double w, double h)
{
    layout l = {.line = &board->lines[f->line]};
    double step_x, step_y;
    gchar *text;

    l.spots = g_new0(spot, l.line->point_count);
    place_points(&l, f->point);
    step_x = w / l.columns;
    step_y = MIN((h - 24) / MIN(l.rows, ROWS_MOST), 30.0);
    rmg_pen_ink(cr, 0x1D232C);
    text = g_strdup_printf(
        "Line %s from its driver on. Thin: works. Bold: affected. Dashed: look here.%s",
        l.line->name, l.rows > ROWS_MOST ? " More branches are not drawn." : "");
    rmg_pen_say(cr, x, y + 8, 13, false, 0, text);
    g_free(text);
    y += 30;
    for (uint16_t p = 0; p < l.line->point_count; p++)
        if (l.spots[p].row < ROWS_MOST && l.line->points[p].parent != RMG_NO_POINT)
            draw_way(cr, &l, p, x, y, step_x, step_y, p == f->point);
    for (uint16_t p = 0; p < l.line->point_count; p++)
        if (l.spots[p].row < ROWS_MOST)
            draw_point(cr, l.line->points[p].name, &l.spots[p], x + l.spots[p].column * step_x,
                       y + l.spots[p].row * step_y, step_x * NODE_SHARE);
    g_free(l.spots);
}
