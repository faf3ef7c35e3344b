/* A picture of a run's course: failing reads over the passes, and the temperature. */
#include <glib.h>

#include "base/internal.h"
#include "pen.h"
#include "rimeglass/report.h"

#define LEFT 96.0
#define TOP  112.0

/* Failing reads of each pass, and the temperature where the port reported it. */
static void course_sheet(cairo_t *cr, void *context)
{
    const rmg_run *run = context;
    const double w = RMG_PEN_WIDTH - LEFT - 120, h = RMG_PEN_HEIGHT - TOP - 90;
    const size_t n = run->stretch_count;
    double most = 1, coldest = 1e9, hottest = -1e9;
    bool heat = true;
    gchar *text;

    rmg_pen_ink(cr, RMG_INK_PAPER);
    cairo_paint(cr);
    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, 24, 40, 22, true, 0,
                run->stretch_passes > 1 ? "Failing reads over the run"
                                        : "Failing reads, pass by pass");
    rmg_pen_ink(cr, RMG_INK_SOFT);
    rmg_pen_say(cr, 24, 64, 14, false, 0, run->board->name);
    for (size_t i = 0; i < n; i++) {
        most = MAX(most, (double)run->stretches[i].failing_reads);
        heat &= run->stretches[i].heat_millic != RMG_NOT_KNOWN;
        coldest = MIN(coldest, run->stretches[i].heat_millic / 1000.0);
        hottest = MAX(hottest, run->stretches[i].heat_millic / 1000.0);
    }
    rmg_pen_box(cr, LEFT, TOP, w, h, RMG_INK_FIELD);
    for (size_t i = 0; i < n; i++) {
        const double bar = h * (double)run->stretches[i].failing_reads / most;

        if (run->stretches[i].failing_reads)
            rmg_pen_box(cr, LEFT + w * (double)i / (double)n, TOP + h - bar,
                        MAX(w / (double)n - (w / (double)n > 4 ? 1 : 0), 1.5), bar, RMG_INK_LOW);
    }
    rmg_pen_number(cr, LEFT - 10, TOP + 10, 1, (uint64_t)most);
    rmg_pen_number(cr, LEFT - 10, TOP + h, 1, 0);
    rmg_pen_number(cr, LEFT, TOP + h + 20, 0, 1);
    rmg_pen_number(cr, LEFT + w, TOP + h + 20, 1, run->pass_count);
    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, LEFT + w / 2, TOP + h + 24, 14, true, 0.5, "pass");
    text = run->stretch_passes > 1
               ? g_strdup_printf("failing reads in each %" G_GUINT64_FORMAT " passes (bars)",
                                 run->stretch_passes)
               : g_strdup("failing reads in the pass (bars)");
    rmg_pen_say(cr, LEFT, TOP - 12, 14, true, 0, text);
    g_free(text);
    if (!heat || hottest - coldest < 0.1)
        return;
    rmg_pen_ink(cr, RMG_INK_HIGH);
    cairo_set_line_width(cr, 2.5);
    cairo_new_path(cr);
    for (size_t i = 0; i < n; i++)
        cairo_line_to(
            cr, LEFT + w * ((double)i + 0.5) / (double)n,
            TOP + h - h * (run->stretches[i].heat_millic / 1000.0 - coldest) / (hottest - coldest));
    cairo_stroke(cr);
    text = g_strdup_printf("%.0f C", hottest);
    rmg_pen_say(cr, LEFT + w + 10, TOP + 10, 14, true, 0, text);
    g_free(text);
    text = g_strdup_printf("%.0f C", coldest);
    rmg_pen_say(cr, LEFT + w + 10, TOP + h, 14, true, 0, text);
    g_free(text);
    rmg_pen_say(cr, LEFT + w, TOP - 12, 14, true, 1, "temperature at its end (line)");
}

rmg_status rmg_draw_course(const rmg_run *run, const char *file, rmg_error *error)
{
    if (!run->pass_count) {
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL, "the run has not one whole pass to draw");
    }
    return rmg_pen_picture(file, course_sheet, (void *)(uintptr_t)run, error);
}
