/* The sheet of a job as PDF, A4. */
#include <cairo-pdf.h>
#include <string.h>

#include "base/internal.h"
#include "internal.h"
#include "pen.h"
#include "sheet.h"

#define PAGE_W 595.0 /* points */
#define PAGE_H 842.0
#define EDGE   48.0
#define WIDE   (PAGE_W - 2 * EDGE)

/* How a block is set. */
static const struct {
    double size, above;
    bool bold;
    unsigned ink;
    double indent;
} forms[] = {
    [SHEET_TITLE] = {19, 0, true, RMG_INK_DARK, 0},
    [SHEET_HEADING] = {12.5, 14, true, RMG_INK_DARK, 0},
    [SHEET_RECORD] = {12.5, 0, true, RMG_INK_DARK, 0},
    [SHEET_SOFT] = {10, 4, false, RMG_INK_SOFT, 0},
    [SHEET_WORDS] = {10, 4, false, RMG_INK_DARK, 12},
    [SHEET_RESULT] = {12, 4, true, RMG_INK_DARK, 0},
    [SHEET_TEXT] = {10, 4, false, RMG_INK_DARK, 0},
    [SHEET_ITEM] = {10, 3, false, RMG_INK_DARK, 12},
    [SHEET_HEADS] = {8.5, 4, true, RMG_INK_DARK, 0},
    [SHEET_ROW] = {8.5, 3, false, RMG_INK_DARK, 0},
    [SHEET_STRUCK] = {8.5, 3, false, RMG_INK_SOFT, 0},
    [SHEET_DRAWING] = {0, 6, false, RMG_INK_DARK, 0},
};

typedef struct page_setter {
    cairo_t *cr;
    double y;
    enum { TABLE_OTHER, TABLE_TIMELINE, TABLE_CAUSES } table; /* that is open */
} page_setter;

static void new_page(page_setter *p)
{
    cairo_show_page(p->cr);
    p->y = EDGE;
}

/* The text broken to lines of that width; words that are wider are broken too. */
static GPtrArray *broken(cairo_t *cr, const char *text, double size, bool bold, double width)
{
    GPtrArray *lines = g_ptr_array_new_with_free_func(g_free);
    GString *line = g_string_new(NULL);
    const char *end = NULL; /* of the last blank in the line, within it */
    gsize blank = 0;

    cairo_select_font_face(cr, "DejaVu Sans", CAIRO_FONT_SLANT_NORMAL,
                           bold ? CAIRO_FONT_WEIGHT_BOLD : CAIRO_FONT_WEIGHT_NORMAL);
    cairo_set_font_size(cr, size);
    for (const char *c = text; *c; c = end) {
        cairo_text_extents_t extents;

        end = g_utf8_next_char(c);
        if (*c == '\n') {
            g_ptr_array_add(lines, g_strdup(line->str));
            g_string_truncate(line, 0);
            blank = 0;
            continue;
        }
        if (*c == ' ')
            blank = line->len;
        g_string_append_len(line, c, end - c);
        cairo_text_extents(cr, line->str, &extents);
        if (extents.x_advance > width && line->len > (gsize)(end - c)) {
            const gsize cut = blank ? blank : line->len - (gsize)(end - c);
            gchar *rest = g_strdup(line->str + cut + (blank ? 1 : 0));

            g_string_truncate(line, cut);
            g_ptr_array_add(lines, g_strdup(line->str));
            g_string_assign(line, rest);
            g_free(rest);
            blank = 0;
        }
    }
    g_ptr_array_add(lines, g_string_free(line, FALSE));
    return lines;
}

static void set_text(page_setter *p, const sheet_block *b)
{
    const double size = forms[b->kind].size, step = size * 1.4;
    GPtrArray *lines =
        broken(p->cr, b->text, size, forms[b->kind].bold, WIDE - forms[b->kind].indent);

    for (guint i = 0; i < lines->len; i++) {
        if (p->y + step > PAGE_H - EDGE)
            new_page(p);
        p->y += step;
        if (b->kind == SHEET_ITEM && !i) {
            rmg_pen_ink(p->cr, RMG_INK_SOFT);
            rmg_pen_say(p->cr, EDGE + 2, p->y, size, false, 0, "\xE2\x80\xA2");
        }
        if (b->kind == SHEET_WORDS)
            rmg_pen_box(p->cr, EDGE, p->y - size, 2.5, step, 0x8A8F98);
        rmg_pen_ink(p->cr, forms[b->kind].ink);
        rmg_pen_say(p->cr, EDGE + forms[b->kind].indent, p->y, size, forms[b->kind].bold, 0,
                    lines->pdata[i]);
    }
    g_ptr_array_free(lines, TRUE);
}

/* Width of a column of the table that this row opens, or of the one that is open. */
static double column_width(const page_setter *p, size_t columns, size_t column)
{
    static const double timeline[] = {0.06, 0.2, 0.12, 0.62}, causes[] = {0.12, 0.26, 0.62};

    return WIDE * (p->table == TABLE_TIMELINE && column < G_N_ELEMENTS(timeline) ? timeline[column]
                   : p->table == TABLE_CAUSES && column < G_N_ELEMENTS(causes)
                       ? causes[column]
                       : 1.0 / (double)columns);
}

static void set_row(page_setter *p, const sheet_block *b)
{
    const double size = forms[b->kind].size, step = size * 1.35;
    const size_t columns = g_strv_length(b->cells);
    GPtrArray **cells = g_new(GPtrArray *, columns + 1u);
    guint most = 0;
    double x = EDGE;

    if (b->kind == SHEET_HEADS)
        p->table = strcmp(b->cells[0], "No.") == 0     ? TABLE_TIMELINE
                   : strcmp(b->cells[0], "Share") == 0 ? TABLE_CAUSES
                                                       : TABLE_OTHER;
    for (size_t i = 0; i < columns; i++) {
        cells[i] =
            broken(p->cr, b->cells[i], size, forms[b->kind].bold, column_width(p, columns, i) - 6);
        most = MAX(most, cells[i]->len);
    }
    if (p->y + most * step > PAGE_H - EDGE && most * step < PAGE_H / 2)
        new_page(p);
    for (guint n = 0; n < most; n++) {
        if (p->y + step > PAGE_H - EDGE)
            new_page(p);
        p->y += step;
        x = EDGE;
        for (size_t i = 0; i < columns; i++) {
            rmg_pen_ink(p->cr, forms[b->kind].ink);
            if (n < cells[i]->len)
                rmg_pen_say(p->cr, x, p->y, size, forms[b->kind].bold, 0, cells[i]->pdata[n]);
            if (b->kind == SHEET_STRUCK && n < cells[i]->len && *(char *)cells[i]->pdata[n])
                rmg_pen_box(p->cr, x, p->y - size * 0.35, column_width(p, columns, i) - 8, 0.6,
                            RMG_INK_SOFT);
            x += column_width(p, columns, i);
        }
    }
    rmg_pen_box(p->cr, EDGE, p->y + 3, WIDE, 0.4, 0xC9CCD1);
    p->y += 3;
    for (size_t i = 0; i < columns; i++)
        g_ptr_array_free(cells[i], TRUE);
    g_free(cells);
}

static void set_drawing(page_setter *p, const rmg_job_state *state)
{
    const double scale = WIDE / RMG_PEN_WIDTH, high = RMG_PEN_HEIGHT * scale;

    if (p->y + high > PAGE_H - EDGE)
        new_page(p);
    cairo_save(p->cr);
    cairo_translate(p->cr, EDGE, p->y);
    cairo_scale(p->cr, scale, scale);
    cairo_rectangle(p->cr, 0, 0, RMG_PEN_WIDTH, RMG_PEN_HEIGHT);
    cairo_clip(p->cr);
    rmg_draw_run_on(p->cr, &state->steps[state->base].file.run, &state->suspects);
    cairo_restore(p->cr);
    p->y += high;
}

static cairo_status_t collect(void *closure, const unsigned char *data, unsigned int length)
{
    g_byte_array_append(closure, data, length);
    return CAIRO_STATUS_SUCCESS;
}

rmg_status rmg_job_pdf(const rmg_job *job, const rmg_job_state *state, const rmg_entry *entries,
                       size_t count, const char *file, rmg_error *error)
{
    GArray *sheet = rmg_sheet_of(job, state, entries, count);
    GByteArray *bytes = g_byte_array_new();
    cairo_surface_t *surface = cairo_pdf_surface_create_for_stream(collect, bytes, PAGE_W, PAGE_H);
    page_setter p = {cairo_create(surface), EDGE, TABLE_OTHER};
    cairo_status_t drawn;
    rmg_status status;

    cairo_pdf_surface_restrict_to_version(surface, CAIRO_PDF_VERSION_1_4);
    cairo_pdf_surface_set_metadata(surface, CAIRO_PDF_METADATA_CREATOR, RMG_OWN_CREATOR);
    cairo_pdf_surface_set_metadata(surface, CAIRO_PDF_METADATA_TITLE,
                                   g_array_index(sheet, sheet_block, 0).text);
    for (guint i = 0; i < sheet->len; i++) {
        const sheet_block *b = &g_array_index(sheet, sheet_block, i);

        if (b->kind == SHEET_RECORD)
            new_page(&p);
        p.y += forms[b->kind].above;
        if (b->kind == SHEET_DRAWING)
            set_drawing(&p, state);
        else if (b->cells)
            set_row(&p, b);
        else
            set_text(&p, b);
    }
    drawn = cairo_status(p.cr);
    cairo_destroy(p.cr);
    cairo_surface_finish(surface);
    cairo_surface_destroy(surface);
    status = drawn == CAIRO_STATUS_SUCCESS
                 ? rmg_file_write(file, bytes->data, bytes->len, error)
                 : rmg_fail(error, RMG_ERR_FILE, file, "%s could not be drawn: %s", file,
                            cairo_status_to_string(drawn));
    g_byte_array_free(bytes, TRUE);
    g_array_free(sheet, TRUE);
    return status;
}
