/* Two runs side by side, and what became of the failures between them. */
#include <math.h>
#include <string.h>

#include "base/internal.h"
#include "internal.h"
#include "pen.h"
#include "sheet.h"

#define GAP  24.0
#define SIDE ((RMG_PEN_WIDTH - 3 * GAP) / 2)
#define TOP  96.0
#define MOST 12u /* sockets that are listed */

typedef struct two_sides {
    const rmg_trial *trial;
    const rmg_suspects *before, *after;
} two_sides;

static void draw_side(cairo_t *cr, const rmg_run *run, const rmg_suspects *suspects, double x,
                      const char *title)
{
    const double scale = SIDE / RMG_PEN_WIDTH;

    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, x, TOP - 10, 15, true, 0, title);
    cairo_save(cr);
    cairo_translate(cr, x, TOP);
    cairo_scale(cr, scale, scale);
    cairo_rectangle(cr, 0, 0, RMG_PEN_WIDTH, RMG_PEN_HEIGHT);
    cairo_clip_preserve(cr);
    cairo_new_path(cr);
    rmg_draw_run_on(cr, run, suspects);
    cairo_restore(cr);
    rmg_pen_ink(cr, 0xC9CCD1);
    cairo_set_line_width(cr, 1);
    cairo_rectangle(cr, x, TOP, SIDE, RMG_PEN_HEIGHT * scale);
    cairo_stroke(cr);
}

/* Failing bits of memory by socket: a bar each way, as long as the logarithm of the number. */
static void draw_sockets(cairo_t *cr, const rmg_trial *t, double y)
{
    const double middle = RMG_PEN_WIDTH / 2, unit = 22;

    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, middle - 60, y, 13, true, 1, "failing bits (bars: logarithmic), before");
    rmg_pen_say(cr, middle + 60, y, 13, true, 0, "after");
    for (size_t i = 0; i < t->socket_count && i < MOST; i++) {
        const rmg_trial_socket *s = &t->sockets[i];
        const double at = y + 20 + 17 * (double)i, b = unit * log2((double)s->before + 1),
                     a = unit * log2((double)s->after + 1);
        const char *mark = s->before && !s->after ? "gone" : !s->before ? "new" : "";
        gchar *text;

        rmg_pen_box(cr, middle - 60 - b, at - 10, b, 12, RMG_INK_LOW);
        rmg_pen_box(cr, middle + 60, at - 10, a, 12, RMG_INK_HIGH);
        rmg_pen_ink(cr, RMG_INK_DARK);
        rmg_pen_say(cr, middle, at, 13, true, 0.5, t->of.after->board->sockets[s->socket].name);
        text = g_strdup_printf("%" G_GUINT64_FORMAT, s->before);
        rmg_pen_say(cr, middle - 66 - b, at, 12, false, 1, text);
        g_free(text);
        text = g_strdup_printf("%" G_GUINT64_FORMAT "%s%s", s->after, *mark ? "  " : "", mark);
        rmg_pen_say(cr, middle + 66 + a, at, 12, false, 0, text);
        g_free(text);
    }
    if (t->socket_count > MOST) {
        gchar *text = g_strdup_printf("and %zu more", t->socket_count - MOST);

        rmg_pen_say(cr, middle, y + 20 + 17 * MOST, 12, false, 0.5, text);
        g_free(text);
    }
}

static void draw_all(cairo_t *cr, void *context)
{
    const two_sides *d = context;
    char **lines = rmg_trial_lines(d->trial, d->before);

    rmg_pen_ink(cr, RMG_INK_PAPER);
    cairo_paint(cr);
    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, GAP, 34, 20, true, 0, lines[0]);
    rmg_pen_ink(cr, RMG_INK_SOFT);
    rmg_pen_say(cr, GAP, 58, 14, false, 0, lines[1]);
    draw_side(cr, d->trial->of.before, d->before, GAP, "Before");
    draw_side(cr, d->trial->of.after, d->after, 2 * GAP + SIDE, "After");
    draw_sockets(cr, d->trial, TOP + RMG_PEN_HEIGHT * SIDE / RMG_PEN_WIDTH + 40);
    rmg_texts_free(lines);
}

rmg_status rmg_draw_trial(const rmg_trial *trial, const rmg_suspects *before,
                          const rmg_suspects *after, const char *file, rmg_error *error)
{
    two_sides d = {trial, before, after};

    if (rmg_draw_check(trial->of.after->board, error) != RMG_OK)
        return RMG_ERR_ARGUMENT;
    return rmg_pen_picture(file, draw_all, &d, error);
}
