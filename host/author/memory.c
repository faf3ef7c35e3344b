/* Answers about what is where, and which address lines reach the chips. */
#include <string.h>

#include "questions.h"

/* "0x8000-0xBFFF" as the file has it; false: it is no range. */
static bool read_range(const char *text, rmg_range *range, gchar **written)
{
    uint64_t first, last;

    if (!rmg_range_parse(text, &first, &last) || first > last)
        return false;
    *range = (rmg_range){first, last};
    *written =
        g_strdup_printf("0x%04" G_GINT64_MODIFIER "X-0x%04" G_GINT64_MODIFIER "X", first, last);
    return true;
}

static rmg_status no_range(const char *text, rmg_error *error)
{
    return rmg_fail(error, RMG_ERR_CONTENT, NULL,
                    "found \"%s\", expected a range like 0x8000-0xBFFF, its last address not below "
                    "its first%s",
                    text, rmg_number_hint(text));
}

/* The next word of the text, which moves on behind it. To be freed with g_free. */
static gchar *next_word(const char **text)
{
    const size_t size = strcspn(*text, " ");
    gchar *word = g_strndup(*text, size);

    *text += size;
    *text += strspn(*text, " ");
    return word;
}

/* What follows the range: "KIND NAME", or "mirror of RANGE NAME". */
static rmg_status read_kind(draft_region *r, const char **text, rmg_error *error)
{
    static const char *const kinds[] = {"ram",  "rom",   "reserved", "shadow",
                                        "kept", "empty", "mirror",   NULL};
    const char *near;
    rmg_range range;
    gchar *word;

    r->kind = next_word(text);
    if (!g_strv_contains(kinds, r->kind)) {
        near = rmg_nearest(r->kind, kinds);
        return rmg_fail(error, RMG_ERR_CONTENT, NULL,
                        "found \"%s\", expected after the range one of ram, rom, reserved, shadow, "
                        "kept, empty, mirror%s%s%s",
                        r->kind, near ? "; did you mean " : "", near ? near : "", near ? "?" : "");
    }
    if (strcmp(r->kind, "mirror") != 0)
        return RMG_OK;
    word = next_word(text);
    if (strcmp(word, "of") == 0) {
        g_free(word);
        word = next_word(text);
        if (read_range(word, &range, &r->of)) {
            g_free(word);
            return RMG_OK;
        }
    }
    g_free(word);
    return rmg_fail(error, RMG_ERR_CONTENT, NULL,
                    "expected after mirror the range that it shows: mirror of 0x0000-0x0FFF");
}

rmg_status rmg_take_region(draft *d, const char *text, asked *next, rmg_error *error)
{
    draft_region r = {0};
    gchar **halves;
    gchar *range;
    rmg_status status;

    *next = ASK_REGION;
    if (strcmp(text, "done") == 0 && d->regions->len) {
        const draft_region *free_one;
        uint64_t address;

        *next = rmg_draft_first_free(d, &address, &free_one) ? ASK_BANK : ASK_UNDRIVEN;
        return RMG_OK;
    }
    halves = g_strsplit(text, ";", 2);
    text = g_strstrip(halves[0]);
    range = next_word(&text);
    status = read_range(range, &r.bytes, &r.range) ? read_kind(&r, &text, error)
                                                   : no_range(range, error);
    if (status == RMG_OK && !*text)
        status = rmg_fail(error, RMG_ERR_CONTENT, NULL,
                          "expected a name after the kind, like 0x0000-0x3FFF ram low RAM");
    r.name = g_strdup(text);
    r.note = halves[1] && *g_strstrip(halves[1]) ? g_strdup(halves[1]) : NULL;
    g_array_append_val(d->regions, r); /* frees its texts, in any case */
    if (status == RMG_OK)
        status = rmg_draft_check(d, false, NULL, error);
    g_free(range);
    g_strfreev(halves);
    return status;
}

/* Lines A0, A1 ... that choose the bank, as bits of the address as written; false: the text is no
 * such list. */
static bool read_where(const char *text, uint64_t *mask, gchar **written)
{
    gchar **parts = g_strsplit_set(text, ", ", -1);
    GString *list = g_string_new(NULL);
    bool ok = true;

    *mask = 0;
    for (size_t i = 0; parts[i] && ok; i++) {
        gchar **sides = g_strsplit(parts[i], "=", 2);
        char stem[4];
        uint64_t line;

        if (*parts[i]) {
            ok = sides[0] && sides[1] && rmg_designator_parse(sides[0], stem, sizeof stem, &line) &&
                 strcmp(stem, "A") == 0 && line < 64 &&
                 (strcmp(sides[1], "0") == 0 || strcmp(sides[1], "1") == 0);
            if (ok) {
                *mask |= (uint64_t)1 << line;
                g_string_append_printf(list, "%s%s", list->len ? ", " : "", parts[i]);
            }
        }
        g_strfreev(sides);
    }
    ok = ok && list->len;
    *written = ok ? g_string_free(list, FALSE) : NULL;
    if (!ok)
        g_string_free(list, TRUE);
    g_strfreev(parts);
    return ok;
}

/* Lines of the address as written that choose the bank. */
static uint64_t chosen_by(const draft_bank *b)
{
    uint64_t mask = 0;
    gchar *written = NULL;

    if (b->where)
        read_where(b->where, &mask, &written);
    g_free(written);
    return mask;
}

/* Where a bank like this would lie: from the first address that no bank holds, as deep as the part,
 * on a multiple of that. The other half, where the bank before takes one. */
gchar *rmg_standard_range(const draft *d)
{
    const draft_bank *b = rmg_draft_last_bank(d);
    const draft_bank *before = d->banks->len > 1 ? d->banks->pdata[d->banks->len - 2u] : NULL;
    const draft_region *region;
    uint64_t first, size = (uint64_t)1 << (b->facts.address_lines + rmg_draft_shift(d));

    if (!rmg_draft_first_free(d, &first, &region))
        return NULL;
    if (before && before->where && !strchr(before->where, ',') && before->bytes.first <= first &&
        first <= before->bytes.last) {
        gchar *where = g_strdup(before->where);
        char *level = &where[strlen(where) - 1u];
        gchar *text;

        *level = *level == '0' ? '1' : '0';
        text = g_strdup_printf("%s where %s", before->range, where);
        g_free(where);
        return text;
    }
    first = first / size * size;
    if (size > ((uint64_t)1 << d->lines))
        size = (uint64_t)1 << d->lines;
    return g_strdup_printf("0x%04" G_GINT64_MODIFIER "X-0x%04" G_GINT64_MODIFIER "X", first,
                           first + size - 1u);
}

rmg_status rmg_take_range(draft *d, const char *text, asked *next, rmg_error *error)
{
    draft_bank *b = rmg_draft_last_bank(d);
    gchar **halves = g_strsplit(text, "where", 2);
    rmg_status status = RMG_OK;
    uint64_t mask;

    if (!read_range(g_strstrip(halves[0]), &b->bytes, &b->range) || b->bytes.first == b->bytes.last)
        status = no_range(halves[0], error);
    else if (b->bytes.last >> d->lines && !d->pages)
        status = rmg_fail(
            error, RMG_ERR_CONTENT, NULL,
            "found %s, expected a range up to the last address of %u lines, 0x%" G_GINT64_MODIFIER
            "X",
            b->range, d->lines, ((uint64_t)1 << d->lines) - 1u);
    else if (halves[1] && !read_where(g_strstrip(halves[1]), &mask, &b->where))
        status = rmg_fail(error, RMG_ERR_CONTENT, NULL,
                          "found \"where %s\", expected address lines and their levels, like where "
                          "A0=0, A15=1",
                          halves[1]);
    *next = ASK_FEEDS;
    g_strfreev(halves);
    return status;
}

/* `count` lines from `from` on that do not choose the bank: "A0-A6". */
static gchar *lines_from(const draft *d, uint64_t chosen, unsigned *from, unsigned count)
{
    GString *text = g_string_new(NULL);
    unsigned first = 0, last = 0, run = 0;

    for (unsigned done = 0; done < count; (*from)++) {
        if (*from >= d->lines && !d->pages) { /* a part deeper than the board can address */
            g_string_append_printf(text, "%slow", text->len ? " " : "");
            done++;
            continue;
        }
        if (chosen >> *from & 1u)
            continue;
        done++;
        first = run ? first : *from;
        run++;
        last = *from;
        if (done < count && !(chosen >> (*from + 1u) & 1u) && *from + 1u < d->lines)
            continue;
        g_string_append_printf(text, run > 1 ? "%sA%u-A%u" : "%sA%u", text->len ? " " : "", first,
                               last);
        run = 0;
    }
    return g_string_free(text, FALSE);
}

gchar *rmg_standard_feeds(const draft *d)
{
    const draft_bank *b = rmg_draft_last_bank(d);
    const uint64_t chosen = chosen_by(b);
    unsigned from = rmg_draft_shift(d);
    gchar *rows = lines_from(d, chosen, &from,
                             b->facts.row_lines ? b->facts.row_lines : b->facts.address_lines);
    gchar *columns, *text;

    if (!b->facts.row_lines)
        return rows;
    columns = lines_from(d, chosen, &from, (unsigned)b->facts.address_lines - b->facts.row_lines);
    text = g_strdup_printf("%s / %s", rows, columns);
    g_free(rows);
    g_free(columns);
    return text;
}

/* "A0-A3 A5" as a list of YAML. */
static gchar *as_list(const char *text)
{
    gchar **parts = g_strsplit_set(text, ", ", -1);
    GString *list = g_string_new(NULL);

    for (size_t i = 0; parts[i]; i++)
        if (*parts[i])
            g_string_append_printf(list, "%s%s", list->len ? ", " : "", parts[i]);
    g_strfreev(parts);
    return g_string_free(list, FALSE);
}

rmg_status rmg_take_feeds(draft *d, const char *text, asked *next, rmg_error *error)
{
    static const char allowed[] =
        "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-, ";
    draft_bank *b = rmg_draft_last_bank(d);
    gchar **halves = g_strsplit(text, "/", 2);
    rmg_status status = RMG_OK;

    *next = ASK_SOCKETS;
    for (size_t i = 0; halves[i] && status == RMG_OK; i++)
        if (strspn(halves[i], allowed) < strlen(halves[i]))
            status =
                rmg_fail(error, RMG_ERR_CONTENT, NULL,
                         "found \"%s\", expected address lines like A0-A6, or lists of them", text);
    if (status == RMG_OK && b->facts.row_lines && !halves[1]) {
        status =
            rmg_fail(error, RMG_ERR_CONTENT, NULL,
                     "found \"%s\", expected row lines / column lines, like A0-A6 / A7-A13", text);
    } else if (status == RMG_OK && !b->facts.row_lines && halves[1]) {
        status = rmg_fail(error, RMG_ERR_CONTENT, NULL,
                          "found \"%s\", expected one list: a %s has no row and column lines", text,
                          b->part);
    } else if (status == RMG_OK) {
        b->rows = as_list(halves[0]);
        b->columns = halves[1] ? as_list(halves[1]) : NULL;
        /* as if its chips were known: the file's reader says whether the lines fit */
        for (unsigned i = 0; i < MAX(d->word / b->facts.width, 1u); i++) {
            g_ptr_array_add(b->names, g_strdup_printf("QX%u", i));
            g_ptr_array_add(b->bits, g_strdup_printf("D%u-D%u", i * b->facts.width,
                                                     (i + 1u) * b->facts.width - 1u));
        }
        status = rmg_draft_check(d, false, NULL, error);
        g_ptr_array_set_size(b->names, 0);
        g_ptr_array_set_size(b->bits, 0);
    }
    g_strfreev(halves);
    return status;
}
