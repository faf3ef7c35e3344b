/* What the answers say of a board, and the file that it makes. The file's own reader judges it:
 * what is wrong in a board file is said in one place alone. */
#include "draft.h"

#include <string.h>

#define ROW_MM  36.0 /* rows of sockets in the drawing, and sockets in a row */
#define STEP_MM 20.0
#define WIDE_MM 26.0
#define EDGE_MM 26.0

static void free_region(gpointer data)
{
    draft_region *r = data;

    g_free(r->name);
    g_free(r->range);
    g_free(r->kind);
    g_free(r->of);
    g_free(r->note);
}

static void free_bank(gpointer data)
{
    draft_bank *b = data;

    g_free(b->name);
    g_free(b->part);
    g_free(b->range);
    g_free(b->where);
    g_free(b->rows);
    g_free(b->columns);
    g_ptr_array_free(b->names, TRUE);
    g_ptr_array_free(b->bits, TRUE);
    g_free(b);
}

draft *rmg_draft_new(void)
{
    draft *d = g_new0(draft, 1);

    d->regions = g_array_new(FALSE, TRUE, sizeof(draft_region));
    g_array_set_clear_func(d->regions, free_region);
    d->banks = g_ptr_array_new_with_free_func(free_bank);
    d->parts = g_ptr_array_new_with_free_func(g_free);
    d->undriven = -1;
    return d;
}

void rmg_draft_free(draft *d)
{
    g_free(d->name);
    g_free(d->revision);
    g_free(d->pages);
    g_array_free(d->regions, TRUE);
    g_ptr_array_free(d->banks, TRUE);
    g_ptr_array_free(d->parts, TRUE);
    g_free(d);
}

draft_bank *rmg_draft_last_bank(const draft *d)
{
    return d->banks->len ? d->banks->pdata[d->banks->len - 1u] : NULL;
}

draft_bank *rmg_draft_add_bank(draft *d, const char *name)
{
    const draft_bank *before = rmg_draft_last_bank(d);
    draft_bank *b = g_new0(draft_bank, 1);

    b->name = g_strdup(name);
    b->names = g_ptr_array_new_with_free_func(g_free);
    b->bits = g_ptr_array_new_with_free_func(g_free);
    b->mount = before ? before->mount : RMG_MOUNT_SOLDERED;
    g_ptr_array_add(d->banks, b);
    return b;
}

unsigned rmg_draft_shift(const draft *d)
{
    unsigned shift = 0;

    while (!d->words && d->word >= 16 && 8u << (shift + 1u) <= d->word &&
           !(d->word & (d->word - 1u)))
        shift++;
    return shift;
}

static bool has_cells(const draft_region *r)
{
    return strcmp(r->kind, "ram") == 0 || strcmp(r->kind, "rom") == 0 ||
           strcmp(r->kind, "kept") == 0;
}

/* Is the condition the other one of "A0=0" and "A0=1"? Banks of both hold all addresses. */
static bool other_level(const char *a, const char *b)
{
    const size_t size = a ? strlen(a) : 0;

    return a && b && size > 1 && strlen(b) == size && !strchr(a, ',') &&
           strncmp(a, b, size - 1u) == 0 && a[size - 1u] != b[size - 1u];
}

/* Does a bank, or two that share their addresses, hold it? The last address of those that do. */
static bool is_held(const draft *d, uint64_t address, uint64_t *last)
{
    for (guint i = 0; i < d->banks->len; i++) {
        const draft_bank *b = d->banks->pdata[i];
        bool whole = !b->where;

        if (!b->range || address < b->bytes.first || address > b->bytes.last)
            continue;
        for (guint j = 0; j < d->banks->len && !whole; j++) {
            const draft_bank *other = d->banks->pdata[j];

            whole = other->range && other->bytes.first == b->bytes.first &&
                    other_level(b->where, other->where);
        }
        if (whole) {
            *last = b->bytes.last;
            return true;
        }
    }
    return false;
}

bool rmg_draft_first_free(const draft *d, uint64_t *address, const draft_region **region)
{
    bool found = false;

    for (guint i = 0; i < d->regions->len; i++) {
        const draft_region *r = &g_array_index(d->regions, draft_region, i);
        uint64_t at = r->bytes.first, last = 0;

        if (!has_cells(r))
            continue;
        while (at <= r->bytes.last && is_held(d, at, &last))
            at = last + 1u;
        if (at <= r->bytes.last && (!found || at < *address)) {
            *address = at;
            *region = r;
            found = true;
        }
    }
    return found;
}

/* A text as YAML takes it: as it is where that is plain. */
static void add_text(GString *out, const char *text)
{
    static const char plain[] =
        "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789 _/().-";
    const bool letter = g_ascii_isalpha(text[0]);

    if (letter && strspn(text, plain) == strlen(text) && text[strlen(text) - 1u] != ' ') {
        g_string_append(out, text);
        return;
    }
    g_string_append_c(out, '"');
    for (const char *c = text; *c; c++)
        if ((unsigned char)*c < 0x20 || *c == 0x7F)
            g_string_append_printf(out, "\\x%02X", (unsigned)(unsigned char)*c);
        else
            g_string_append_printf(out, "%s%c", *c == '"' || *c == '\\' ? "\\" : "", *c);
    g_string_append_c(out, '"');
}

static void add_entry(GString *out, const char *lead, const char *text)
{
    g_string_append(out, lead);
    add_text(out, text);
}

static void add_head(GString *out, const draft *d, bool whole)
{
    static const char *const levels[] = {"high", "low", "holds"};

    if (whole)
        g_string_append_printf(out,
                               "# %s: as answered to \"rimeglass board new\". Hold it against the "
                               "board itself,\n# and add what you trace: docs/board-file.md.\n",
                               d->name);
    add_entry(out, "board: ", d->name ? d->name : "board");
    if (d->revision)
        add_entry(out, "\nrevision: ", d->revision);
    g_string_append_printf(out, "\nword: %u\naddress-lines: %u\n", d->word, d->lines);
    if (d->words)
        g_string_append(out, "addresses: words\n");
    if (d->pages)
        g_string_append_printf(out, "pages: {%s}\n", d->pages);
    if (d->undriven >= 0)
        g_string_append_printf(out, "undriven: %s\n", levels[d->undriven]);
    else if (whole)
        g_string_append(out, "# undriven: not known (high, low or holds)\n");
}

static void add_regions(GString *out, const draft *d, bool whole)
{
    g_string_append(out, d->regions->len ? "regions:\n" : "regions: []\n");
    for (guint i = 0; i < d->regions->len; i++) {
        const draft_region *r = &g_array_index(d->regions, draft_region, i);

        add_entry(out, "  - {name: ", r->name);
        /* kept memory may have bits that no bank holds yet */
        g_string_append_printf(out, ", range: %s, kind: %s", r->range,
                               !whole && has_cells(r) ? "kept" : r->kind);
        if (r->of)
            g_string_append_printf(out, ", of: %s", r->of);
        if (r->note)
            add_entry(out, ", note: ", r->note);
        g_string_append(out, "}\n");
    }
}

static void add_bank(GString *out, const draft_bank *b, bool whole)
{
    add_entry(out, "  - name: ", b->name);
    g_string_append_printf(out, "\n    range: %s\n", b->range);
    if (b->where)
        g_string_append_printf(out, "    where: [%s]\n", b->where);
    add_entry(out, "    part: ", b->part);
    g_string_append_printf(out, "\n    %s: [%s]\n", b->facts.row_lines ? "rows" : "lines", b->rows);
    if (b->facts.row_lines)
        g_string_append_printf(out, "    columns: [%s]\n", b->columns);
    if (whole && b->bits->len > 1)
        g_string_append_printf(out, "    # %s is the leftmost, %s the rightmost\n",
                               (char *)b->names->pdata[0],
                               (char *)b->names->pdata[b->names->len - 1u]);
    g_string_append(out, "    data: {");
    for (guint i = 0; i < b->bits->len; i++)
        g_string_append_printf(out, strchr(b->bits->pdata[i], '-') ? "%s%s: [%s]" : "%s%s: %s",
                               i ? ", " : "", (char *)b->names->pdata[i],
                               (char *)b->bits->pdata[i]);
    g_string_append(out, "}\n");
}

/* Has an earlier bank that socket? */
static bool is_listed(const draft *d, guint bank, const char *name)
{
    for (guint i = 0; i < bank; i++) {
        const draft_bank *b = d->banks->pdata[i];

        for (guint n = 0; n < b->bits->len; n++)
            if (g_ascii_strcasecmp(b->names->pdata[n], name) == 0)
                return true;
    }
    return false;
}

/* The number with a point, whatever the locale. Returns `text`. */
static const char *in_mm(double mm, char text[G_ASCII_DTOSTR_BUF_SIZE])
{
    return g_ascii_formatd(text, G_ASCII_DTOSTR_BUF_SIZE, "%g", mm);
}

/* One entry a bank; its row beneath the one before. */
static void add_sockets(GString *out, const draft *d, bool whole)
{
    char at[3][G_ASCII_DTOSTR_BUF_SIZE];
    double wide = 0, y = EDGE_MM;
    bool any = false;

    for (guint i = 0; i < d->banks->len; i++) {
        const draft_bank *b = d->banks->pdata[i];
        const double step = b->facts.width > 4 ? WIDE_MM : STEP_MM;
        guint count = 0;

        for (guint n = 0; n < b->bits->len; n++)
            if (!is_listed(d, i, b->names->pdata[n])) {
                g_string_append_printf(out, "%s%s",
                                       count ? ", "
                                       : any ? "  - {names: ["
                                             : "sockets:\n  - {names: [",
                                       (char *)b->names->pdata[n]);
                any = true;
                count++;
            }
        if (!count)
            continue;
        g_string_append_printf(out, "], mount: %s", rmg_mount_name(b->mount));
        if (whole)
            g_string_append_printf(out, ", at: [%s, %s], step: [%s, 0]", in_mm(EDGE_MM, at[0]),
                                   in_mm(y, at[1]), in_mm(step, at[2]));
        g_string_append(out, "}\n");
        wide = MAX(wide, EDGE_MM + step * count);
        y += ROW_MM;
    }
    if (!any)
        g_string_append(out, "sockets: []\n");
    else if (whole)
        g_string_append_printf(out,
                               "# The places are not measured: a row a bank, in millimetres from "
                               "the top left.\ndrawing: {width: %s, height: %s}\n",
                               in_mm(wide + EDGE_MM / 2, at[0]), in_mm(y, at[1]));
}

gchar *rmg_draft_text(const draft *d, bool whole)
{
    GString *out = g_string_new(NULL);
    guint ready = 0;

    add_head(out, d, whole);
    add_regions(out, d, whole);
    for (guint i = 0; i < d->parts->len; i++)
        g_string_append_printf(out, "%s  - {%s}\n", i ? "" : "parts:\n",
                               (char *)d->parts->pdata[i]);
    for (guint i = 0; i < d->banks->len; i++) {
        const draft_bank *b = d->banks->pdata[i];

        if (b->range && b->rows && b->bits->len) {
            g_string_append(out, ready++ ? "" : "banks:\n");
            add_bank(out, b, whole);
        }
    }
    if (!ready)
        g_string_append(out, "banks: []\n");
    add_sockets(out, d, whole);
    if (whole)
        g_string_append(out, "# lines: nothing is traced yet; what is not listed is not suspected "
                             "(docs/tracing.md).\n");
    return g_string_free(out, FALSE);
}

/* What the reader says without its lines: they are those of a file that nobody sees. */
static gchar *without_lines(const char *what)
{
    GRegex *lines = g_regex_new(",? (in )?line [0-9]+", 0, 0, NULL);
    gchar *text = g_regex_replace_literal(lines, what, -1, 0, "", 0, NULL);

    g_regex_unref(lines);
    return text;
}

rmg_status rmg_draft_check(const draft *d, bool whole, rmg_board **board, rmg_error *error)
{
    gchar *text = rmg_draft_text(d, whole);
    rmg_board *loaded = NULL;
    rmg_errors errors = {0};
    const rmg_status status = rmg_board_load_text("board", text, &loaded, &errors);

    rmg_error_none(error);
    if (status != RMG_OK) { /* "board:12: range: ..." */
        const char *what = errors.count ? errors.list[0].what : rmg_status_text(status);

        what = g_str_has_prefix(what, "board:") ? what + strlen("board:") : what;
        what += strspn(what, "0123456789");
        what = without_lines(*what == ':' ? what + 2 : what);
        rmg_fail(error, RMG_ERR_CONTENT, NULL, "%s", what);
        g_free((gchar *)(uintptr_t)what);
    }
    rmg_errors_free(&errors);
    g_free(text);
    if (board)
        *board = loaded;
    else
        rmg_board_free(loaded);
    return status == RMG_OK ? RMG_OK : RMG_ERR_CONTENT;
}
