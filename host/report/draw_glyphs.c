/* Pictures of images as glyphs. What differs is shown by form as well as by colour. */
#include <glib.h>

#include "base/internal.h"
#include "draw_rom.h"

#define MARGIN     2.0  /* of a marked glyph's frame */
#define LEGIBLE    3.0  /* pixels of paper a pixel of a glyph, at least, where pages allow it */
#define LARGEST    12.0 /* of all glyphs; */
#define LARGE      24.0 /* of the marked ones, where there is room */
#define BESIDE     40.0 /* between the two */
#define KEY_SIZE   16.0
#define PAGES_MOST 128u

typedef struct sheet {
    const rmg_rom_view *view;
    const rmg_glyph_form *form;
    const char *title;
    size_t count, marked;
    bool used[2][4]; /* dark and lit pixels, by their mark */
    /* how they lie on a page */
    size_t columns, a_page;
    bool pages; /* there may be several */
    double scale, gap;
} sheet;

/* A pixel: an inner square is what it should be, a cross that it should not be lit, a slash that it
 * was not always so. */
static void pixel(cairo_t *cr, double x, double y, double size, bool lit, rmg_pixel_mark mark)
{
    if (mark == RMG_PIXEL_SAME) {
        if (lit)
            rmg_pen_box(cr, x, y, size, size, RMG_INK_DARK);
        return;
    }
    rmg_pen_box(cr, x, y, size, size, mark == RMG_PIXEL_UNSTEADY ? RMG_INK_MOVED : RMG_INK_WRONG);
    if (!lit)
        rmg_pen_box(cr, x + size * 0.22, y + size * 0.22, size * 0.56, size * 0.56, RMG_INK_PAPER);
    if (mark == RMG_PIXEL_MISSING)
        return;
    rmg_pen_ink(cr, lit ? RMG_INK_PAPER : RMG_INK_MOVED);
    cairo_set_line_width(cr, size * 0.2);
    cairo_move_to(cr, x + size * 0.15, y + size * 0.85);
    cairo_line_to(cr, x + size * 0.85, y + size * 0.15);
    if (mark == RMG_PIXEL_EXTRA) {
        cairo_move_to(cr, x + size * 0.15, y + size * 0.15);
        cairo_line_to(cr, x + size * 0.85, y + size * 0.85);
    }
    cairo_stroke(cr);
}

static void glyph(cairo_t *cr, const sheet *s, size_t number, double x, double y, double scale)
{
    const double w = s->form->width * scale, h = s->form->height * scale;
    rmg_pixel_mark mark;

    rmg_pen_box(cr, x, y, w, h, RMG_INK_FIELD);
    for (uint8_t row = 0; row < s->form->height; row++)
        for (uint8_t column = 0; column < s->form->width; column++) {
            const bool lit = rmg_glyph_pixel(s->view, s->form, number, column, row, &mark);

            pixel(cr, x + column * scale, y + row * scale, scale, lit, mark);
        }
    if (rmg_glyph_marked(s->view, s->form, number)) {
        const double off = MIN(MARGIN, s->gap / 2);

        rmg_pen_ink(cr, RMG_INK_WRONG);
        cairo_set_line_width(cr, 1.5);
        cairo_rectangle(cr, x - off, y - off, w + 2 * off, h + 2 * off);
        cairo_stroke(cr);
    }
}

/* What the pixels of this sheet mean, as far as there are such. */
static void key(cairo_t *cr, const sheet *s)
{
    static const struct {
        rmg_pixel_mark mark;
        bool lit;
        const char *text;
    } keys[] = {{RMG_PIXEL_SAME, true, "lit"},
                {RMG_PIXEL_MISSING, false, "dark, should be lit"},
                {RMG_PIXEL_EXTRA, true, "lit, should be dark"},
                {RMG_PIXEL_UNSTEADY, true, "lit, but not always"},
                {RMG_PIXEL_UNSTEADY, false, "dark, but not always"}};
    double x = RMG_ROM_LEFT;

    for (size_t i = 0; i < G_N_ELEMENTS(keys); i++) {
        if (!s->used[keys[i].lit][keys[i].mark])
            continue;
        pixel(cr, x, RMG_PEN_HEIGHT - 38, KEY_SIZE, keys[i].lit, keys[i].mark);
        rmg_pen_ink(cr, RMG_INK_DARK);
        rmg_pen_say(cr, x + 24, RMG_PEN_HEIGHT - 25, 14, false, 0, keys[i].text);
        x += 210;
    }
}

/* The largest scale at which so many glyphs fit in so many columns; below 1: they do not. */
static double scale_for(const sheet *s, size_t count, size_t columns, double gap)
{
    const size_t rows = (count + columns - 1) / columns;
    const double wide = (RMG_ROM_RIGHT - RMG_ROM_LEFT) / (double)columns - gap;
    const double high = (RMG_ROM_BOTTOM - RMG_ROM_TOP) / (double)rows - gap;

    return MIN(wide / s->form->width, high / s->form->height);
}

/* How so many glyphs lie best on one page. */
static double arrange(sheet *s, size_t count)
{
    static const double gaps[] = {6, 2};
    double best = 0;

    s->columns = 8;
    s->gap = gaps[0];
    for (size_t g = 0; g < G_N_ELEMENTS(gaps) && best < LEGIBLE; g++)
        for (size_t n = 8; n <= 128; n *= 2) {
            const double here = scale_for(s, count, n, gaps[g]);

            if (here > best) {
                best = here;
                s->columns = n;
                s->gap = gaps[g];
            }
        }
    s->scale = best < 1 ? best : MIN((double)(int)best, LARGEST);
    s->a_page = count;
    return s->scale;
}

/* All on one page; or where they are too small for that, and there may be several, on as many as
 * it takes. A picture has the first page alone, where not even a pixel each has room. Returns how
 * many. */
static unsigned lay_out(sheet *s, bool pages)
{
    const double least = pages ? LEGIBLE : 1;
    size_t count = s->count;

    s->pages = pages;
    arrange(s, count);
    while (s->scale < least && count > 8) {
        count = (count + 15) / 2 / 8 * 8;
        arrange(s, count);
    }
    return (unsigned)((s->count + s->a_page - 1) / s->a_page);
}

/* Of how many marked glyphs there is room at this scale, right of `left`. */
static size_t room_for(const sheet *s, double left, double scale, size_t *columns)
{
    const double w = s->form->width * scale + 28, h = s->form->height * scale + 34;

    *columns = RMG_ROM_RIGHT - left < w ? 0 : (size_t)((RMG_ROM_RIGHT - left) / w);
    return *columns * (size_t)((RMG_ROM_BOTTOM - RMG_ROM_TOP - 22) / h);
}

/* The marked glyphs of the page once more, as large as there is room for them beside it. */
static void marked_large(cairo_t *cr, const sheet *s, size_t first, size_t end)
{
    const double left =
        RMG_ROM_LEFT + (double)s->columns * (s->form->width * s->scale + s->gap) + BESIDE;
    double scale = LARGE;
    size_t columns, shown = 0;

    while (scale > 8 && room_for(s, left, scale, &columns) < s->marked)
        scale -= 4;
    if (scale <= s->scale || !room_for(s, left, scale, &columns))
        return;
    for (size_t i = first; i < end; i++) {
        const double x = left + (double)(shown % columns) * (s->form->width * scale + 28);
        const double y =
            RMG_ROM_TOP + 22 + (double)(shown / columns) * (s->form->height * scale + 34);
        gchar *text;

        if (!rmg_glyph_marked(s->view, s->form, i))
            continue;
        if (y + s->form->height * scale > RMG_ROM_BOTTOM)
            return;
        text = g_strdup_printf("0x%02zX", i);
        rmg_pen_ink(cr, RMG_INK_DARK);
        rmg_pen_say(cr, x, y - 8, 14, true, 0, text);
        g_free(text);
        glyph(cr, s, i, x, y, scale);
        shown++;
    }
}

/* The numbers: of each row its first, of the columns what is to be added. */
static void number(cairo_t *cr, double x, double y, double align, size_t value, const char *format)
{
    gchar *text = g_strdup_printf(format, value);

    rmg_pen_ink(cr, RMG_INK_SOFT);
    rmg_pen_say(cr, x, y, 12, false, align, text);
    g_free(text);
}

static void draw_page(cairo_t *cr, void *context, unsigned page)
{
    const sheet *s = context;
    const size_t first = page * s->a_page, end = MIN(first + s->a_page, s->count);
    const double w = s->form->width * s->scale + s->gap, h = s->form->height * s->scale + s->gap;
    const size_t every = w < 22 ? 4 : 1; /* columns with a number */
    GString *text = g_string_new(NULL);

    g_string_printf(text, "%zu glyph%s of %u by %u", s->count, s->count == 1 ? "" : "s",
                    s->form->width, s->form->height);
    if (s->view->good || s->view->unsteady)
        g_string_append_printf(text, "; %zu with marks", s->marked);
    if (s->a_page < s->count && s->pages)
        g_string_append_printf(text, "; 0x%02zX to 0x%02zX, page %u of %zu", first, end - 1,
                               page + 1, (s->count + s->a_page - 1) / s->a_page);
    else if (s->a_page < s->count)
        g_string_append_printf(text, "; only 0x%02zX to 0x%02zX have room here", first, end - 1);
    else if (s->a_page == s->count && s->scale < LEGIBLE - 1)
        g_string_append(text, "; a .pdf has them larger, on several pages");
    rmg_rom_paper(cr, s->title, text->str);
    g_string_free(text, TRUE);
    for (size_t i = 0; i < s->columns && i < end - first; i += every)
        number(cr, RMG_ROM_LEFT + (double)i * w + (w - s->gap) / 2, RMG_ROM_TOP - 8, 0.5, i,
               s->columns > 16 ? "%02zX" : "%zX");
    for (size_t i = first; i < end; i++) {
        const double x = RMG_ROM_LEFT + (double)((i - first) % s->columns) * w;
        const double y = RMG_ROM_TOP + (double)((i - first) / s->columns) * h;

        glyph(cr, s, i, x, y, s->scale);
        if ((i - first) % s->columns == 0)
            number(cr, RMG_ROM_LEFT - 12, y + (h - s->gap) / 2 + 4, 1, i, "%02zX");
    }
    marked_large(cr, s, first, end);
    key(cr, s);
}

static void look_through(sheet *s)
{
    rmg_pixel_mark mark;

    for (size_t i = 0; i < s->count; i++) {
        for (uint8_t y = 0; y < s->form->height; y++)
            for (uint8_t x = 0; x < s->form->width; x++) {
                const bool lit = rmg_glyph_pixel(s->view, s->form, i, x, y, &mark);

                s->used[lit][mark] = true;
            }
        s->marked += rmg_glyph_marked(s->view, s->form, i);
    }
}

rmg_status rmg_draw_glyphs(const rmg_rom_view *view, const rmg_glyph_form *form, const char *title,
                           const char *file, rmg_error *error)
{
    sheet s = {.view = view, .form = form, .title = title, .count = rmg_glyph_count(view, form)};
    unsigned pages;

    rmg_error_none(error);
    if (!s.count) {
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL, "%zu bytes hold not one glyph of %u bytes",
                        view->size, form->bytes);
    }
    look_through(&s);
    pages = lay_out(&s, g_str_has_suffix(file, ".pdf"));
    if (s.pages && pages > PAGES_MOST)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        "%zu glyphs take %u pages; at most %u: draw a part of it", s.count, pages,
                        PAGES_MOST);
    return rmg_pen_pages(file, draw_page, pages, &s, error);
}
