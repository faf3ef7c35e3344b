/* The pen of all pictures: ink, words, and the file a picture goes to, PNG or SVG. */
#include "pen.h"

#include <cairo-svg.h>
#include <glib.h>

#include "base/internal.h"
#include "rimeglass/report.h"

void rmg_pen_ink(cairo_t *cr, unsigned rgb)
{
    cairo_set_source_rgb(cr, (rgb >> 16 & 255u) / 255.0, (rgb >> 8 & 255u) / 255.0,
                         (rgb & 255u) / 255.0);
}

void rmg_pen_say(cairo_t *cr, double x, double y, double size, bool bold, double align,
                 const char *text)
{
    cairo_text_extents_t extents;

    cairo_select_font_face(cr, "DejaVu Sans", CAIRO_FONT_SLANT_NORMAL,
                           bold ? CAIRO_FONT_WEIGHT_BOLD : CAIRO_FONT_WEIGHT_NORMAL);
    cairo_set_font_size(cr, size);
    cairo_text_extents(cr, text, &extents);
    cairo_move_to(cr, x - align * extents.x_advance, y);
    cairo_show_text(cr, text);
}

void rmg_pen_number(cairo_t *cr, double x, double y, double align, uint64_t number)
{
    gchar *text = g_strdup_printf("%" G_GUINT64_FORMAT, number);

    rmg_pen_ink(cr, RMG_INK_SOFT);
    rmg_pen_say(cr, x, y, 12, false, align, text);
    g_free(text);
}

void rmg_pen_box(cairo_t *cr, double x, double y, double w, double h, unsigned rgb)
{
    rmg_pen_ink(cr, rgb);
    cairo_rectangle(cr, x, y, w, h);
    cairo_fill(cr);
}

void rmg_pen_hatch(cairo_t *cr, double x, double y, double w, double h)
{
    cairo_save(cr);
    cairo_rectangle(cr, x, y, w, h);
    cairo_clip(cr);
    rmg_pen_ink(cr, RMG_INK_SOFT);
    cairo_set_line_width(cr, 0.7);
    for (double at = 5; at < w + h; at += 7) {
        cairo_move_to(cr, x, y + at);
        cairo_line_to(cr, x + at, y);
    }
    cairo_stroke(cr);
    cairo_rectangle(cr, x, y, w, h);
    cairo_set_line_width(cr, 1.5);
    cairo_stroke(cr);
    cairo_restore(cr);
}

static cairo_status_t collect(void *closure, const unsigned char *data, unsigned int length)
{
    g_byte_array_append(closure, data, length);
    return CAIRO_STATUS_SUCCESS;
}

rmg_status rmg_pen_picture(const char *file, void (*draw)(cairo_t *cr, void *context),
                           void *context, rmg_error *error)
{
    const bool svg = g_str_has_suffix(file, ".svg");
    GByteArray *bytes;
    cairo_surface_t *surface;
    cairo_status_t drawn;
    rmg_status status;
    cairo_t *cr;

    rmg_error_none(error);
    if (!svg && !g_str_has_suffix(file, ".png")) {
        return rmg_fail(error, RMG_ERR_ARGUMENT, file,
                        "%s: a picture's name must end in .png or .svg", file);
    }
    bytes = g_byte_array_new();
    surface =
        svg ? cairo_svg_surface_create_for_stream(collect, bytes, RMG_PEN_WIDTH, RMG_PEN_HEIGHT)
            : cairo_image_surface_create(CAIRO_FORMAT_RGB24, (int)RMG_PEN_WIDTH,
                                         (int)RMG_PEN_HEIGHT);
    cr = cairo_create(surface);
    draw(cr, context);
    drawn = cairo_status(cr); /* of everything that was drawn */
    cairo_destroy(cr);
    if (svg)
        cairo_surface_finish(surface);
    else if (drawn == CAIRO_STATUS_SUCCESS)
        drawn = cairo_surface_write_to_png_stream(surface, collect, bytes);
    if (drawn == CAIRO_STATUS_SUCCESS &&
        cairo_surface_status(surface) != CAIRO_STATUS_SURFACE_FINISHED)
        drawn = cairo_surface_status(surface);
    if (drawn != CAIRO_STATUS_SUCCESS) {
        status = rmg_fail(error, RMG_ERR_FILE, file, "%s could not be drawn: %s", file,
                          cairo_status_to_string(drawn));
    } else {
        rmg_own_mark(bytes, svg);
        status = rmg_file_write(file, bytes->data, bytes->len, error);
    }
    cairo_surface_destroy(surface);
    g_byte_array_free(bytes, TRUE);
    return status;
}
