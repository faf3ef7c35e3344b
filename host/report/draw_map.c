/* Pictures of images as maps by address: the share of ones, of all bits or of each, and where bits
 * differ or are not steady. */
#include <glib.h>
#include <math.h>

#include "base/internal.h"
#include "draw_rom.h"

#define COLUMNS     64u
#define ROWS        32u
#define BIT_COLUMNS 128u
#define LEFT        (RMG_ROM_LEFT + 40.0)
#define LEAST       0.12 /* of a cell's height: the lowest bar is seen too */

typedef struct map {
    const rmg_rom_view *view;
    rmg_map_by by;
    const char *title;
    size_t step;
    rmg_map_span span;
} map;

void rmg_rom_paper(cairo_t *cr, const char *title, const char *under)
{
    rmg_pen_ink(cr, RMG_INK_PAPER);
    cairo_paint(cr);
    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, 24, 40, 22, true, 0, title);
    rmg_pen_ink(cr, RMG_INK_SOFT);
    rmg_pen_say(cr, 24, 66, 15, false, 0, under);
}

static void line(cairo_t *cr, double x1, double y1, double x2, double y2)
{
    cairo_move_to(cr, x1, y1);
    cairo_line_to(cr, x2, y2);
    cairo_stroke(cr);
}

/* How full a cell is: of ones between the lowest and the highest share; of differences by their
 * number's logarithm. */
static double fill_of(const map *m, const rmg_map_cell *cell)
{
    const double span = m->span.highest - m->span.lowest;
    const uint64_t wrong = cell->different + cell->unsteady;

    if (m->by == RMG_MAP_DIFFERENCE)
        return !wrong ? 0
               : m->span.most < 2
                   ? 1
                   : LEAST + (1 - LEAST) * log2((double)wrong) / log2((double)m->span.most);
    return span <= 0 ? 0.5 : LEAST + (1 - LEAST) * (cell->ones - m->span.lowest) / span;
}

/* The fuller, the darker. */
static unsigned shade(double full)
{
    const unsigned grey = (unsigned)(0xB8 - 0x90 * full);

    return grey << 16 | (grey + 8) << 8 | (grey + 18);
}

/* Erased is empty, zeros a line at the bottom; a cross is different, a slash not steady. */
static void draw_cell(cairo_t *cr, const map *m, double x, double y, double w, double h,
                      const rmg_map_cell *cell)
{
    const bool differs = m->by == RMG_MAP_DIFFERENCE;
    const double full = h * fill_of(m, cell);

    rmg_pen_box(cr, x, y, w, h, RMG_INK_FIELD);
    if (differs) {
        rmg_pen_box(cr, x, y + h - full, w, full, cell->different ? RMG_INK_WRONG : RMG_INK_MOVED);
        return;
    }
    if (cell->zeros)
        rmg_pen_box(cr, x, y + h - 2, w, 2, RMG_INK_DARK);
    else if (!cell->erased)
        rmg_pen_box(cr, x, y + h - full, w, full, shade(full / h));
    cairo_set_line_width(cr, w < 12 ? 1.5 : 2.5);
    if (cell->unsteady) {
        rmg_pen_ink(cr, RMG_INK_MOVED);
        line(cr, x + 1, y + h - 1, x + w - 1, y + 1);
    }
    if (cell->different) {
        rmg_pen_ink(cr, RMG_INK_WRONG);
        line(cr, x + 1, y + 1, x + w - 1, y + h - 1);
        line(cr, x + 1, y + h - 1, x + w - 1, y + 1);
    }
}

/* One entry of the key; moves x on. */
static void entry(cairo_t *cr, const map *m, double *x, const rmg_map_cell *cell, gchar *text)
{
    cairo_text_extents_t extents;

    draw_cell(cr, m, *x, RMG_PEN_HEIGHT - 40, 18, 18, cell);
    rmg_pen_ink(cr, RMG_INK_DARK);
    rmg_pen_say(cr, *x + 26, RMG_PEN_HEIGHT - 26, 14, false, 0, text);
    cairo_text_extents(cr, text, &extents);
    *x += extents.x_advance + 66;
    g_free(text);
}

/* "different: 1 to 23 bits a cell" */
static gchar *bits_text(const map *m, const char *what)
{
    return m->by != RMG_MAP_DIFFERENCE ? g_strdup(what)
           : m->span.most == 1         ? g_strdup_printf("%s: 1 bit a cell", what)
                               : g_strdup_printf("%s: up to %" G_GUINT64_FORMAT " bits a cell",
                                                 what, (guint64)m->span.most);
}

static void key(cairo_t *cr, const map *m)
{
    const rmg_map_span *span = &m->span;
    const bool ones = m->by != RMG_MAP_DIFFERENCE;
    double x = RMG_ROM_LEFT;

    if (!ones)
        entry(cr, m, &x, &(rmg_map_cell){0}, g_strdup("equal"));
    if (ones && span->erased)
        entry(cr, m, &x, &(rmg_map_cell){.erased = true},
              g_strdup(m->by == RMG_MAP_BITS ? "ones only" : "erased (0xFF)"));
    if (ones && span->zeros)
        entry(cr, m, &x, &(rmg_map_cell){.zeros = true},
              g_strdup(m->by == RMG_MAP_BITS ? "zeros only" : "zeros"));
    if (ones && span->mixed)
        entry(cr, m, &x, &(rmg_map_cell){.ones = span->highest},
              g_strdup_printf("share of ones, %.0f to %.0f %%", 100 * span->lowest,
                              100 * span->highest));
    if (span->unsteady)
        entry(cr, m, &x, &(rmg_map_cell){.ones = span->highest, .unsteady = span->most},
              bits_text(m, "not steady"));
    if (span->different)
        entry(cr, m, &x, &(rmg_map_cell){.ones = span->highest, .different = span->most},
              bits_text(m, "different"));
}

static void say_number(cairo_t *cr, double x, double y, double align, const char *format,
                       uint64_t value)
{
    gchar *text = g_strdup_printf(format, (guint64)value);

    rmg_pen_ink(cr, RMG_INK_SOFT);
    rmg_pen_say(cr, x, y, 12, false, align, text);
    g_free(text);
}

/* By rows of addresses. */
static void draw_rows(cairo_t *cr, const map *m)
{
    const size_t cells = (m->view->size + m->step - 1) / m->step;
    const size_t rows = (cells + COLUMNS - 1) / COLUMNS;
    const double w = (RMG_ROM_RIGHT - LEFT) / COLUMNS;
    const double h = MIN((RMG_ROM_BOTTOM - RMG_ROM_TOP) / (double)rows, 40.0);

    for (size_t i = 0; i < cells; i++) {
        const double x = LEFT + (double)(i % COLUMNS) * w;
        const double y = RMG_ROM_TOP + (double)(i / COLUMNS) * h;
        const uint64_t address = rmg_view_address(m->view, i * m->step);
        rmg_map_cell cell;

        rmg_map_at(m->view, i * m->step, m->step, &cell);
        draw_cell(cr, m, x + 0.5, y + 0.5, w - 2, h - 2, &cell);
        if (i % COLUMNS == 0)
            say_number(cr, LEFT - 8, y + h * 0.5 + 4, 1, "0x%04" G_GINT64_MODIFIER "X", address);
        if (i < COLUMNS && i % 8 == 0)
            say_number(cr, x, RMG_ROM_TOP - 8, 0, "+%" G_GINT64_MODIFIER "X",
                       address - m->view->address);
    }
}

/* The data bits in falling order of their numbers; row 0 is the highest. */
static unsigned bit_of_row(const map *m, unsigned row)
{
    const unsigned bits = rmg_view_bits(m->view);

    for (unsigned bit = 0; bit < bits; bit++) {
        unsigned above = 0;

        for (unsigned other = 0; other < bits; other++)
            above += rmg_view_bit_name(m->view, other) > rmg_view_bit_name(m->view, bit);
        if (above == row)
            return bit;
    }
    return row;
}

/* A row for each data bit. */
static void draw_bits(cairo_t *cr, const map *m)
{
    const size_t cells = (m->view->size + m->step - 1) / m->step;
    const unsigned bits = rmg_view_bits(m->view);
    const double w = (RMG_ROM_RIGHT - LEFT) / BIT_COLUMNS;
    const double h = MIN((RMG_ROM_BOTTOM - RMG_ROM_TOP) / bits, 76.0);

    for (unsigned row = 0; row < bits; row++) {
        const unsigned bit = bit_of_row(m, row);
        const double y = RMG_ROM_TOP + row * h;

        say_number(cr, LEFT - 8, y + h * 0.5 + 4, 1, "D%" G_GUINT64_FORMAT,
                   rmg_view_bit_name(m->view, bit));
        for (size_t i = 0; i < cells; i++) {
            rmg_map_cell cell;

            rmg_map_bit_at(m->view, i * m->step, m->step, bit, &cell);
            draw_cell(cr, m, LEFT + (double)i * w + 0.5, y + 0.5, w - 1.5, h - 4, &cell);
        }
    }
    for (size_t i = 0; i < cells; i += 16)
        say_number(cr, LEFT + (double)i * w, RMG_ROM_TOP - 8, 0, "0x%04" G_GINT64_MODIFIER "X",
                   rmg_view_address(m->view, i * m->step));
}

static void draw_map(cairo_t *cr, void *context)
{
    static const char *const what[] = {"", ", by data bit", ", what differs"};
    const map *m = context;
    gchar *text = g_strdup_printf(
        "%zu bytes from 0x%04" G_GINT64_MODIFIER "X%s; each cell is %zu byte%s", m->view->size,
        (guint64)m->view->address, what[m->by], m->step, m->step == 1 ? "" : "s");

    rmg_rom_paper(cr, m->title, text);
    g_free(text);
    if (m->by == RMG_MAP_BITS)
        draw_bits(cr, m);
    else
        draw_rows(cr, m);
    key(cr, m);
}

rmg_status rmg_draw_map(const rmg_rom_view *view, rmg_map_by by, const char *title,
                        const char *file, rmg_error *error)
{
    map m = {.view = view, .by = by, .title = title};

    m.step = rmg_map_step(view, by == RMG_MAP_BITS ? BIT_COLUMNS : COLUMNS * ROWS);
    m.step = MAX(m.step, by == RMG_MAP_BITS ? MAX(view->unit, 1) : 1);
    rmg_map_span_of(view, by, m.step, &m.span);
    return rmg_pen_picture(file, draw_map, &m, error);
}
