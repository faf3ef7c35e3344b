/* A chart of grades as a picture: supply upwards, clock or time to the right, a field for each
 * step. */
#include <glib.h>
#include <stdlib.h>

#include "base/internal.h"
#include "pen.h"
#include "rimeglass/report.h"

#define LEFT   150.0
#define TOP    150.0
#define BOTTOM 110.0
#define RIGHT  60.0
#define MOST_W 120.0 /* of a field */
#define MOST_H 84.0

typedef struct drawing {
    const rmg_grade_chart *chart;
    const char *title, *under;
    int32_t own; /* the step at which the board runs; or RMG_NOT_KNOWN */
    int32_t *supplies, *steps;
    size_t supply_count, step_count;
} drawing;

static int rising(const void *a, const void *b)
{
    const int32_t x = *(const int32_t *)a, y = *(const int32_t *)b;

    return (x > y) - (x < y);
}

static void find_steps(drawing *d)
{
    size_t kept = 0;

    d->steps = g_new(int32_t, MAX(d->chart->count, 1u));
    for (size_t i = 0; i < d->chart->count; i++)
        d->steps[i] = d->chart->points[i].at;
    qsort(d->steps, d->chart->count, sizeof *d->steps, rising);
    for (size_t i = 0; i < d->chart->count; i++)
        if (!kept || d->steps[kept - 1] != d->steps[i])
            d->steps[kept++] = d->steps[i];
    d->step_count = kept;
}

static const rmg_grade_point *point_of(const rmg_grade_chart *chart, int32_t mv, int32_t at)
{
    for (size_t i = 0; i < chart->count; i++)
        if (chart->points[i].supply_mv == mv && chart->points[i].at == at)
            return &chart->points[i];
    return NULL;
}

static void draw_field(cairo_t *cr, const rmg_grade_point *p, double x, double y, double w,
                       double h)
{
    gchar *text;

    if (!p) {
        rmg_pen_hatch(cr, x, y, w - 3, h - 3);
        return;
    }
    rmg_pen_box(cr, x, y, w - 3, h - 3, p->failed ? RMG_INK_LOW : RMG_INK_HIGH);
    text = p->failed ? g_strdup("fails") : g_strdup_printf("%" G_GUINT64_FORMAT " clean", p->tests);
    rmg_pen_ink(cr, RMG_INK_PAPER);
    rmg_pen_say(cr, x + (w - 3) / 2, y + h / 2 + 4, MIN(16.0, w / 5), true, 0.5, text);
    g_free(text);
}

static void draw(cairo_t *cr, void *context)
{
    const drawing *d = context;
    const double w = MIN(MOST_W, (RMG_PEN_WIDTH - LEFT - RIGHT) / (double)MAX(d->step_count, 1u));
    const double h =
        MIN(MOST_H, (RMG_PEN_HEIGHT - TOP - BOTTOM) / (double)MAX(d->supply_count, 1u));
    const double under = TOP + h * (double)d->supply_count;

    rmg_pen_ink(cr, RMG_INK_PAPER);
    cairo_paint(cr);
    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, 24, 44, 24, true, 0, d->title);
    rmg_pen_ink(cr, RMG_INK_SOFT);
    rmg_pen_say(cr, 24, 74, 15, false, 0, d->under);
    rmg_pen_say(cr, LEFT - 12, TOP - 14, 15, true, 1, "supply");
    for (size_t i = 0; i < d->supply_count; i++) {
        const int32_t mv = d->supplies[d->supply_count - 1 - i];
        const double y = TOP + h * (double)i;
        char *text = rmg_grade_supply_text(mv);

        rmg_pen_ink(cr, RMG_INK_DARK);
        rmg_pen_say(cr, LEFT - 12, y + h / 2 + 4, 16, false, 1, text);
        rmg_text_free(text);
        for (size_t n = 0; n < d->step_count; n++)
            draw_field(cr, point_of(d->chart, mv, d->steps[n]), LEFT + w * (double)n, y, w, h);
    }
    for (size_t n = 0; n < d->step_count; n++) {
        const bool own = d->steps[n] == d->own && d->own != RMG_NOT_KNOWN;
        char *text = rmg_grade_step_text(d->chart->axis, d->steps[n]);

        rmg_pen_ink(cr, RMG_INK_DARK);
        rmg_pen_say(cr, LEFT + w * ((double)n + 0.5) - 1.5, under + 22, MIN(16.0, w / 5), own, 0.5,
                    text);
        if (own)
            rmg_pen_say(cr, LEFT + w * ((double)n + 0.5) - 1.5, under + 42, 14, true, 0.5,
                        "as it runs");
        rmg_text_free(text);
    }
    rmg_pen_ink(cr, RMG_INK_SOFT);
    rmg_pen_say(cr, LEFT, under + 66, 15, true, 0,
                d->chart->axis == RMG_GRADE_CLOCK ? "clock of the board"
                                                  : "time from the last strobe to the sample");
    rmg_pen_say(cr, LEFT, RMG_PEN_HEIGHT - 20, 14, false, 0,
                "A number counts the tests of that step, all clean. Slanted strokes: not tried.");
}

rmg_status rmg_draw_grades(const rmg_grade_chart *chart, const char *title, const char *under,
                           int32_t own, const char *file, rmg_error *error)
{
    drawing d = {chart, title, under, own, NULL, NULL, 0, 0};
    rmg_status status;

    d.supplies = rmg_grade_supplies(chart, &d.supply_count);
    if (!d.supplies)
        return rmg_fail(error, RMG_ERR_MEMORY, file, "%s: no memory is left", file);
    find_steps(&d);
    status = rmg_pen_picture(file, draw, &d, error);
    free(d.supplies);
    g_free(d.steps);
    return status;
}
