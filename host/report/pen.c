/* The pen of all pictures: ink, words, and the file a picture goes to, PNG, SVG or PDF. */
#include "pen.h"

#include <cairo-pdf.h>
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

typedef enum picture_form { FORM_PNG, FORM_SVG, FORM_PDF, FORMS } picture_form;

static picture_form form_of(const char *file)
{
    static const char *const endings[] = {".png", ".svg", ".pdf"};
    picture_form form = FORM_PNG;

    while (form < FORMS && !g_str_has_suffix(file, endings[form]))
        form++;
    return form;
}

static cairo_surface_t *surface_of(picture_form form, GByteArray *bytes)
{
    cairo_surface_t *surface;

    switch (form) {
    case FORM_SVG:
        return cairo_svg_surface_create_for_stream(collect, bytes, RMG_PEN_WIDTH, RMG_PEN_HEIGHT);
    case FORM_PDF:
        surface =
            cairo_pdf_surface_create_for_stream(collect, bytes, RMG_PEN_WIDTH, RMG_PEN_HEIGHT);
        /* its facts then stand as they are, for rmg_file_is_ours */
        cairo_pdf_surface_restrict_to_version(surface, CAIRO_PDF_VERSION_1_4);
        cairo_pdf_surface_set_metadata(surface, CAIRO_PDF_METADATA_CREATOR, RMG_OWN_CREATOR);
        return surface;
    default:
        return cairo_image_surface_create(CAIRO_FORMAT_RGB24, (int)RMG_PEN_WIDTH,
                                          (int)RMG_PEN_HEIGHT);
    }
}

rmg_status rmg_pen_pages(const char *file, void (*draw)(cairo_t *cr, void *context, unsigned page),
                         unsigned pages, void *context, rmg_error *error)
{
    const picture_form form = form_of(file);
    GByteArray *bytes;
    cairo_surface_t *surface;
    cairo_status_t drawn;
    rmg_status status;
    cairo_t *cr;

    rmg_error_none(error);
    if (form == FORMS)
        return rmg_fail(error, RMG_ERR_ARGUMENT, file,
                        "%s: a picture's name must end in .png, .svg or .pdf", file);
    bytes = g_byte_array_new();
    surface = surface_of(form, bytes);
    cr = cairo_create(surface);
    for (unsigned page = 0; page < (form == FORM_PDF ? pages : 1u); page++) {
        draw(cr, context, page);
        if (form == FORM_PDF)
            cairo_show_page(cr);
    }
    drawn = cairo_status(cr); /* of everything that was drawn */
    cairo_destroy(cr);
    if (form != FORM_PNG)
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
        if (form != FORM_PDF)
            rmg_own_mark(bytes, form == FORM_SVG);
        status = rmg_file_write(file, bytes->data, bytes->len, error);
    }
    cairo_surface_destroy(surface);
    g_byte_array_free(bytes, TRUE);
    return status;
}

/* A picture of one page. */
typedef struct one_page {
    void (*draw)(cairo_t *cr, void *context);
    void *context;
} one_page;

static void draw_one(cairo_t *cr, void *context, unsigned page)
{
    const one_page *one = context;

    (void)page;
    one->draw(cr, one->context);
}

rmg_status rmg_pen_picture(const char *file, void (*draw)(cairo_t *cr, void *context),
                           void *context, rmg_error *error)
{
    one_page one = {draw, context};

    return rmg_pen_pages(file, draw_one, 1, &one, error);
}
