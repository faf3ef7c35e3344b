/* Pictures of images: glyphs and maps. What differs is shown by form as well as by colour. */
#include <glib.h>

#include "base/internal.h"
#include "pen.h"
#include "rimeglass/image.h"

#define LEFT   64.0
#define TOP    92.0
#define RIGHT  (RMG_PEN_WIDTH - 24.0)
#define BOTTOM (RMG_PEN_HEIGHT - 56.0)

#define INK_DARK  0x1D232C
#define INK_SOFT  0x5A616B
#define INK_PAPER 0xFBFAF7
#define INK_CELL  0xECEAE3
#define INK_BAD   0xB03A00
#define INK_WEAK  0x1F5FA8

typedef struct sheet {
    cairo_t *cr;
    const rmg_rom_view *view;
    const rmg_glyph_form *form;
    const char *title;
} sheet;

static void paper(const sheet *s, const char *under)
{
    rmg_pen_ink(s->cr, INK_PAPER);
    cairo_paint(s->cr);
    rmg_pen_ink(s->cr, INK_DARK);
    rmg_pen_say(s->cr, 24, 40, 22, true, 0, s->title);
    rmg_pen_ink(s->cr, INK_SOFT);
    rmg_pen_say(s->cr, 24, 66, 15, false, 0, under);
}

static void box(cairo_t *cr, double x, double y, double w, double h, unsigned rgb)
{
    rmg_pen_ink(cr, rgb);
    cairo_rectangle(cr, x, y, w, h);
    cairo_fill(cr);
}

/* One pixel of a glyph, `size` wide: an empty frame, a cross, or a slash show what is wrong. */
static void pixel(cairo_t *cr, double x, double y, double size, bool lit, rmg_pixel_mark mark)
{
    if (mark == RMG_PIXEL_SAME) {
        if (lit)
            box(cr, x, y, size, size, INK_DARK);
        return;
    }
    box(cr, x, y, size, size, mark == RMG_PIXEL_UNSTEADY ? INK_WEAK : INK_BAD);
    if (mark == RMG_PIXEL_MISSING) {
        box(cr, x + size * 0.22, y + size * 0.22, size * 0.56, size * 0.56, INK_PAPER);
        return;
    }
    rmg_pen_ink(cr, INK_PAPER);
    cairo_set_line_width(cr, size * 0.2);
    cairo_move_to(cr, x + size * 0.15, y + size * 0.85);
    cairo_line_to(cr, x + size * 0.85, y + size * 0.15);
    if (mark == RMG_PIXEL_EXTRA) {
        cairo_move_to(cr, x + size * 0.15, y + size * 0.15);
        cairo_line_to(cr, x + size * 0.85, y + size * 0.85);
    }
    cairo_stroke(cr);
}

static void glyph(const sheet *s, size_t number, double x, double y, double scale)
{
    rmg_pixel_mark mark;

    box(s->cr, x, y, s->form->width * scale, s->form->height * scale, INK_CELL);
    for (uint8_t row = 0; row < s->form->height; row++)
        for (uint8_t column = 0; column < s->form->width; column++) {
            const bool lit = rmg_glyph_pixel(s->view, s->form, number, column, row, &mark);

            pixel(s->cr, x + column * scale, y + row * scale, scale, lit, mark);
        }
    if (rmg_glyph_marked(s->view, s->form, number)) {
        rmg_pen_ink(s->cr, INK_BAD);
        cairo_set_line_width(s->cr, 1.5);
        cairo_rectangle(s->cr, x - 2, y - 2, s->form->width * scale + 4,
                        s->form->height * scale + 4);
        cairo_stroke(s->cr);
    }
}

static void glyph_key(const sheet *s)
{
    static const struct {
        rmg_pixel_mark mark;
        bool lit;
        const char *text;
    } keys[] = {{RMG_PIXEL_SAME, true, "lit"},
                {RMG_PIXEL_MISSING, false, "dark, should be lit"},
                {RMG_PIXEL_EXTRA, true, "lit, should be dark"},
                {RMG_PIXEL_UNSTEADY, true, "not steady"}};
    double x = LEFT;

    for (size_t i = 0; i < G_N_ELEMENTS(keys); i++) {
        pixel(s->cr, x, RMG_PEN_HEIGHT - 38, 16, keys[i].lit, keys[i].mark);
        rmg_pen_ink(s->cr, INK_DARK);
        rmg_pen_say(s->cr, x + 24, RMG_PEN_HEIGHT - 25, 14, false, 0, keys[i].text);
        x += 210;
    }
}

/* The largest scale at which all glyphs fit in so many columns; 0: they do not. */
static double scale_for(const sheet *s, size_t count, size_t columns)
{
    const size_t rows = (count + columns - 1) / columns;
    const double wide = (RIGHT - LEFT) / (double)columns - 6.0;
    const double high = (BOTTOM - TOP) / (double)rows - 6.0;
    const double scale = MIN(wide / s->form->width, high / s->form->height);

    return scale < 1 ? 0 : MIN((double)(int)scale, 12.0);
}

#define LARGE 12.0 /* scale of the marked ones */

/* The marked glyphs once more, large, as far as there is room right of `left`. */
static void marked_large(const sheet *s, double left, size_t count)
{
    const double w = s->form->width * LARGE + 28, h = s->form->height * LARGE + 34;
    const size_t columns = RIGHT - left < w ? 0 : (size_t)((RIGHT - left) / w);
    size_t shown = 0;

    for (size_t i = 0; i < count && columns; i++) {
        const double x = left + (double)(shown % columns) * w;
        const double y = TOP + 22 + (double)(shown / columns) * h;
        gchar *text;

        if (!rmg_glyph_marked(s->view, s->form, i))
            continue;
        if (y + h > BOTTOM)
            return;
        text = g_strdup_printf("%zX", i);
        rmg_pen_ink(s->cr, INK_DARK);
        rmg_pen_say(s->cr, x, y - 8, 14, true, 0, text);
        g_free(text);
        glyph(s, i, x, y, LARGE);
        shown++;
    }
}

static void glyph_sheet(cairo_t *cr, void *context)
{
    sheet *s = context;
    size_t count = rmg_glyph_count(s->view, s->form), shown = count, columns = 16, marked = 0;
    double scale = 0;
    gchar *text;

    s->cr = cr;
    for (size_t i = 0; i < count; i++)
        marked += rmg_glyph_marked(s->view, s->form, i);
    for (size_t n = 8; n <= 128; n *= 2) {
        const double here = scale_for(s, count, n);

        if (here > scale) {
            scale = here;
            columns = n;
        }
    }
    if (scale == 0) {
        scale = 1;
        columns = (size_t)((RIGHT - LEFT) / (s->form->width + 6.0));
        shown = MIN(count, columns * (size_t)((BOTTOM - TOP) / (s->form->height + 6.0)));
    }
    text =
        g_strdup_printf("%zu glyphs of %u by %u%s; %zu with marks", count, s->form->width,
                        s->form->height, shown < count ? ", the first of them shown" : "", marked);
    paper(s, text);
    g_free(text);
    for (size_t i = 0; i < shown; i++) {
        const double x = LEFT + (double)(i % columns) * (s->form->width * scale + 6.0);
        const double y = TOP + (double)(i / columns) * (s->form->height * scale + 6.0);

        glyph(s, i, x, y, scale);
        if (i % columns == 0) {
            text = g_strdup_printf("%zX", i);
            rmg_pen_ink(cr, INK_SOFT);
            rmg_pen_say(cr, LEFT - 12, y + s->form->height * scale * 0.7, 12, false, 1, text);
            g_free(text);
        }
    }
    marked_large(s, LEFT + (double)columns * (s->form->width * scale + 6.0) + 40, shown);
    glyph_key(s);
}

rmg_status rmg_draw_glyphs(const rmg_rom_view *view, const rmg_glyph_form *form, const char *title,
                           const char *file, rmg_error *error)
{
    sheet s = {.view = view, .form = form, .title = title};

    rmg_error_none(error);
    if (!rmg_glyph_count(view, form)) {
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL, "%zu bytes hold not one glyph of %u bytes",
                        view->size, form->bytes);
    }
    return rmg_pen_picture(file, glyph_sheet, &s, error);
}

#define MAP_COLUMNS 64u
#define MAP_ROWS    32u

/* Density as height of a bar: erased is empty, zeros a line at the bottom. */
static void map_cell(cairo_t *cr, double x, double y, double w, double h, const rmg_map_cell *cell)
{
    box(cr, x, y, w, h, INK_CELL);
    if (cell->zeros)
        box(cr, x, y + h - 3, w, 3, INK_SOFT);
    else if (!cell->erased)
        box(cr, x, y + h * (1 - cell->ones), w, h * cell->ones, 0x9AA3AE);
    if (cell->unsteady) {
        rmg_pen_ink(cr, INK_WEAK);
        cairo_set_line_width(cr, 2.5);
        cairo_move_to(cr, x + 1, y + h - 1);
        cairo_line_to(cr, x + w - 1, y + 1);
        cairo_stroke(cr);
    }
    if (cell->different) {
        rmg_pen_ink(cr, INK_BAD);
        cairo_set_line_width(cr, 2.5);
        cairo_move_to(cr, x + 1, y + 1);
        cairo_line_to(cr, x + w - 1, y + h - 1);
        cairo_move_to(cr, x + 1, y + h - 1);
        cairo_line_to(cr, x + w - 1, y + 1);
        cairo_stroke(cr);
    }
}

static void map_key(const sheet *s)
{
    static const struct {
        rmg_map_cell cell;
        const char *text;
    } keys[] = {{{.erased = true, .ones = 1}, "erased (0xFF)"},
                {{.zeros = true}, "zeros"},
                {{.ones = 0.5}, "share of ones"},
                {{.ones = 0.5, .unsteady = 1}, "not steady"},
                {{.ones = 0.5, .different = 1}, "different"}};
    double x = LEFT;

    for (size_t i = 0; i < G_N_ELEMENTS(keys); i++) {
        map_cell(s->cr, x, RMG_PEN_HEIGHT - 40, 18, 18, &keys[i].cell);
        rmg_pen_ink(s->cr, INK_DARK);
        rmg_pen_say(s->cr, x + 26, RMG_PEN_HEIGHT - 26, 14, false, 0, keys[i].text);
        x += 190;
    }
}

static void map_sheet(cairo_t *cr, void *context)
{
    sheet *s = context;
    const size_t step = rmg_map_step(s->view, MAP_COLUMNS * MAP_ROWS);
    const size_t cells = (s->view->size + step - 1) / step;
    const size_t rows = (cells + MAP_COLUMNS - 1) / MAP_COLUMNS;
    const double left = LEFT + 30, w = (RIGHT - left) / MAP_COLUMNS;
    const double h = MIN((BOTTOM - TOP) / (double)rows, 40.0);
    gchar *text =
        g_strdup_printf("%zu bytes from 0x%04" G_GINT64_MODIFIER "X; each cell %zu byte%s",
                        s->view->size, (guint64)s->view->address, step, step == 1 ? "" : "s");

    s->cr = cr;
    paper(s, text);
    g_free(text);
    for (size_t i = 0; i < cells; i++) {
        const double x = left + (double)(i % MAP_COLUMNS) * w;
        const double y = TOP + (double)(i / MAP_COLUMNS) * h;
        rmg_map_cell cell;

        rmg_map_at(s->view, i * step, step, &cell);
        map_cell(cr, x + 0.5, y + 0.5, w - 2, h - 2, &cell);
        if (i % MAP_COLUMNS == 0) {
            text = g_strdup_printf("0x%04" G_GINT64_MODIFIER "X",
                                   (guint64)(s->view->address + i * step));
            rmg_pen_ink(cr, INK_SOFT);
            rmg_pen_say(cr, left - 8, y + h * 0.5 + 4, 12, false, 1, text);
            g_free(text);
        }
    }
    map_key(s);
}

rmg_status rmg_draw_map(const rmg_rom_view *view, const char *title, const char *file,
                        rmg_error *error)
{
    sheet s = {.view = view, .title = title};

    return rmg_pen_picture(file, map_sheet, &s, error);
}
