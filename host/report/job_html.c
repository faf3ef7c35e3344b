/* The sheet of a job as one page of HTML: nothing is loaded from elsewhere, there is no script, and
 * every text is escaped. */
#include <string.h>
#include <unistd.h>

#include "internal.h"
#include "sheet.h"

static const char style[] =
    "@page{size:A4;margin:16mm}"
    "body{font:11pt/1.45 'DejaVu Sans',sans-serif;color:#1d232c;background:#fbfaf7;margin:0}"
    "main{max-width:178mm;margin:8mm auto;padding:0 6mm}"
    "h1{font-size:20pt;margin:0 0 1mm}h2{font-size:13pt;margin:7mm 0 2mm}"
    "h2.record{break-before:page;border-top:1.5pt solid #39414d;padding-top:4mm}"
    ".soft{color:#5a616b}"
    ".words{border-left:3pt solid #8a8f98;padding-left:3mm;overflow-wrap:anywhere}"
    ".result{font-size:13pt;font-weight:bold}"
    "table{border-collapse:collapse;width:100%;font-size:9.5pt}"
    "th,td{text-align:left;vertical-align:top;padding:1mm 2mm;border-bottom:.5pt solid #c9ccd1}"
    "td:last-child{width:60%;overflow-wrap:anywhere}.undone td{text-decoration:line-through}"
    "svg{width:100%;height:auto;border:.5pt solid #c9ccd1}"
    "ul{margin:0}li{margin:.5mm 0}";

/* What stands around a block's text. */
static const struct {
    const char *before, *after;
} rows[] = {
    [SHEET_TITLE] = {"<h1>", "</h1>\n"},
    [SHEET_HEADING] = {"<h2>", "</h2>\n"},
    [SHEET_RECORD] = {"<h2 class=\"record\">", "</h2>\n"},
    [SHEET_SOFT] = {"<p class=\"soft\">", "</p>\n"},
    [SHEET_WORDS] = {"<p class=\"words\">", "</p>\n"},
    [SHEET_RESULT] = {"<p class=\"result\">", "</p>\n"},
    [SHEET_TEXT] = {"<p>", "</p>\n"},
    [SHEET_ITEM] = {"<li>", "</li>\n"},
    [SHEET_HEADS] = {"<tr>", "</tr>\n"},
    [SHEET_ROW] = {"<tr>", "</tr>\n"},
    [SHEET_STRUCK] = {"<tr class=\"undone\">", "</tr>\n"},
    [SHEET_DRAWING] = {"", "\n"},
};

static void add(GString *out, const char *text)
{
    gchar *escaped = g_markup_escape_text(text, -1);

    g_string_append(out, escaped);
    g_free(escaped);
}

/* The board with what failed, as SVG without its first line. */
static void add_drawing(GString *out, const rmg_job_state *state)
{
    const rmg_run *run = &state->steps[state->base].file.run;
    gchar *folder = g_dir_make_tmp("rimeglass-XXXXXX", NULL);
    gchar *file = folder ? g_build_filename(folder, "board.svg", NULL) : NULL;
    gchar *svg = NULL;
    const char *start;
    rmg_error error = {0};

    if (file && rmg_draw_run(run, &state->suspects, file, &error) == RMG_OK)
        g_file_get_contents(file, &svg, NULL, NULL);
    if (file)
        unlink(file);
    if (folder)
        rmdir(folder);
    start = svg ? strstr(svg, "<svg") : NULL;
    g_string_append(out, start ? start : "");
    g_free(svg);
    g_free(file);
    g_free(folder);
    rmg_error_free(&error);
}

static void add_cells(GString *out, const sheet_block *b)
{
    const char *cell = b->kind == SHEET_HEADS ? "th" : "td";

    for (size_t i = 0; b->cells[i]; i++) {
        gchar **lines = g_strsplit(b->cells[i], "\n", -1);

        g_string_append_printf(out, "<%s>", cell);
        for (size_t n = 0; lines[n]; n++) {
            g_string_append(out, n ? "<br><span class=\"soft\">" : "");
            add(out, lines[n]);
            g_string_append(out, n ? "</span>" : "");
        }
        g_string_append_printf(out, "</%s>", cell);
        g_strfreev(lines);
    }
}

static bool is_row(sheet_kind kind)
{
    return kind == SHEET_HEADS || kind == SHEET_ROW || kind == SHEET_STRUCK;
}

static void add_block(GString *out, const sheet_block *b, const rmg_job_state *state)
{
    g_string_append(out, rows[b->kind].before);
    if (b->kind == SHEET_DRAWING)
        add_drawing(out, state);
    else if (b->cells)
        add_cells(out, b);
    else
        add(out, b->text);
    g_string_append(out, rows[b->kind].after);
}

char *rmg_job_html(const rmg_job *job, const rmg_job_state *state, const rmg_entry *entries,
                   size_t count)
{
    GArray *sheet = rmg_sheet_of(job, state, entries, count);
    GString *out =
        g_string_new("<!DOCTYPE html>\n<!-- Rimeglass -->\n<html lang=\"en\"><head><meta "
                     "charset=\"utf-8\"><meta name=\"viewport\" "
                     "content=\"width=device-width\"><title>");
    const char *open = ""; /* the list or table that is open */

    add(out, g_array_index(sheet, sheet_block, 0).text);
    g_string_append_printf(out, "</title><style>%s</style></head><body><main>\n", style);
    for (guint i = 0; i < sheet->len; i++) {
        const sheet_block *b = &g_array_index(sheet, sheet_block, i);
        const char *wanted = is_row(b->kind) ? "table" : b->kind == SHEET_ITEM ? "ul" : "";

        if (*open && (strcmp(open, wanted) != 0 || b->kind == SHEET_HEADS))
            g_string_append_printf(out, "</%s>\n", open);
        if (*wanted && (strcmp(open, wanted) != 0 || b->kind == SHEET_HEADS))
            g_string_append_printf(out, "<%s>\n", wanted);
        open = wanted;
        add_block(out, b, state);
    }
    if (*open)
        g_string_append_printf(out, "</%s>\n", open);
    g_string_append(out, "</main></body></html>\n");
    g_array_free(sheet, TRUE);
    return g_string_free(out, FALSE);
}
