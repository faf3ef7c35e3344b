/* Answers about parts, sockets and the data bits that they hold. */
#include <string.h>

#include "questions.h"

rmg_status rmg_take_part(draft *d, const char *text, asked *next, rmg_error *error)
{
    draft_bank *b = rmg_draft_last_bank(d);
    const rmg_part *part = rmg_part_find(text);

    (void)error;
    b->part = g_strdup(text);
    *next = part ? ASK_RANGE : ASK_FACTS;
    for (guint i = 0; i + 1u < d->banks->len && !part; i++) { /* described for a bank before */
        const draft_bank *other = d->banks->pdata[i];

        if (strcmp(other->part, text) == 0) {
            b->facts = other->facts;
            *next = ASK_RANGE;
        }
    }
    if (part)
        b->facts = *part;
    return RMG_OK;
}

/* "dram 1 15 8" */
rmg_status rmg_take_facts(draft *d, const char *text, asked *next, rmg_error *error)
{
    static const char *const kinds[] = {"dram", "sram", "rom", NULL};
    draft_bank *b = rmg_draft_last_bank(d);
    gchar **words = g_strsplit(text, " ", -1);
    const guint count = g_strv_length(words);
    uint64_t width = 0, lines = 0, rows = 0;
    rmg_status status = RMG_OK;
    unsigned kind = 0;

    while (kinds[kind] && (!count || strcmp(kinds[kind], words[0]) != 0))
        kind++;
    if (!kinds[kind] || count != (kind == RMG_PART_DRAM ? 4u : 3u) ||
        !rmg_number_parse(words[1], &width) || !rmg_number_parse(words[2], &lines) ||
        (kind == RMG_PART_DRAM && !rmg_number_parse(words[3], &rows)) || !width || width > 32 ||
        !lines || lines > 32 || rows > lines || (kind == RMG_PART_DRAM && !rows)) {
        status =
            rmg_fail(error, RMG_ERR_CONTENT, NULL,
                     "found \"%s\", expected its kind, data lines (1 to 32), address lines (1 to "
                     "32) and of a DRAM its row lines: dram 1 15 8, sram 8 11 or rom 8 13",
                     text);
    } else {
        GString *entry = g_string_new("number: \"");

        for (const char *c = b->part; *c; c++)
            g_string_append_printf(entry, "%s%c", *c == '"' || *c == '\\' ? "\\" : "", *c);
        g_string_append_printf(
            entry, "\", kind: %s, width: %" G_GUINT64_FORMAT ", address-lines: %" G_GUINT64_FORMAT,
            kinds[kind], width, lines);
        if (kind == RMG_PART_DRAM)
            g_string_append_printf(entry, ", row-lines: %" G_GUINT64_FORMAT, rows);
        g_ptr_array_add(d->parts, g_string_free(entry, FALSE));
        b->facts = (rmg_part){.kind = (rmg_part_kind)kind,
                              .width = (uint8_t)width,
                              .address_lines = (uint8_t)lines,
                              .row_lines = (uint8_t)rows};
        status = rmg_draft_check(d, false, NULL, error);
    }
    *next = ASK_RANGE;
    g_strfreev(words);
    return status;
}

/* "U11-U18" or "U5" into single designators; false: it is neither. */
static bool add_designators(GPtrArray *names, const char *text)
{
    gchar **ends = g_strsplit(text, "-", 2);
    char stem[16], stem2[16];
    uint64_t from, to;
    bool ok = ends[0] && rmg_designator_parse(ends[0], stem, sizeof stem, &from);

    if (ok && !ends[1]) {
        g_ptr_array_add(names, g_strdup(text));
    } else if (ok) {
        ok = rmg_designator_parse(ends[1], stem2, sizeof stem2, &to) && strcmp(stem, stem2) == 0 &&
             (from < to ? to - from : from - to) < 64;
        for (uint64_t n = from; ok; n = from < to ? n + 1 : n - 1) {
            g_ptr_array_add(names, g_strdup_printf("%s%" G_GUINT64_FORMAT, stem, n));
            if (n == to)
                break;
        }
    }
    g_strfreev(ends);
    return ok;
}

rmg_status rmg_take_sockets(draft *d, const char *text, asked *next, rmg_error *error)
{
    draft_bank *b = rmg_draft_last_bank(d);
    gchar **parts = g_strsplit_set(text, ", ", -1);
    rmg_status status = RMG_OK;

    for (size_t i = 0; parts[i] && status == RMG_OK; i++)
        if (*parts[i] && !add_designators(b->names, parts[i]))
            status =
                rmg_fail(error, RMG_ERR_CONTENT, NULL,
                         "found \"%s\", expected designators like U11-U18, or U3 U5 U9", parts[i]);
    for (guint i = 0; i < b->names->len && status == RMG_OK; i++)
        for (guint j = 0; j < i && status == RMG_OK; j++)
            if (g_ascii_strcasecmp(b->names->pdata[i], b->names->pdata[j]) == 0)
                status = rmg_fail(error, RMG_ERR_CONTENT, NULL, "%s is named twice",
                                  (char *)b->names->pdata[i]);
    if (status == RMG_OK && b->names->len * b->facts.width > d->word)
        status =
            rmg_fail(error, RMG_ERR_CONTENT, NULL,
                     "%u sockets of %u bit%s each hold more than the %u bits of a word; expected "
                     "at most %u",
                     b->names->len, b->facts.width, b->facts.width == 1 ? "" : "s", d->word,
                     d->word / b->facts.width);
    if (status == RMG_OK && !b->names->len)
        status = rmg_fail(error, RMG_ERR_CONTENT, NULL,
                          "expected designators like U11-U18, or U3 U5 U9");
    if (status == RMG_OK && b->facts.width == d->word) { /* there is no choice */
        g_ptr_array_add(b->bits, b->facts.width == 1 ? g_strdup("D0")
                                                     : g_strdup_printf("D0-D%u", d->word - 1u));
        status = rmg_draft_check(d, false, NULL, error);
        *next = ASK_MOUNT;
    } else {
        *next = ASK_BITS;
    }
    g_strfreev(parts);
    return status;
}

/* "D4-D7" or "D3": its lowest and highest bit. */
static bool read_bits(const char *text, unsigned *low, unsigned *high)
{
    gchar **ends = g_strsplit(text, "-", 2);
    char stem[4], stem2[4];
    uint64_t a = 0, z = 0;
    bool ok = ends[0] && rmg_designator_parse(ends[0], stem, sizeof stem, &a) &&
              strcmp(stem, "D") == 0 && a < 64;

    z = a;
    if (ok && ends[1])
        ok = rmg_designator_parse(ends[1], stem2, sizeof stem2, &z) && strcmp(stem2, "D") == 0 &&
             z < 64;
    *low = (unsigned)MIN(a, z);
    *high = (unsigned)MAX(a, z);
    g_strfreev(ends);
    return ok;
}

/* All bits of the row from those of its leftmost socket: up from the lowest, or down from the
 * highest. */
static rmg_status from_leftmost(const draft *d, draft_bank *b, const char *text, rmg_error *error)
{
    const unsigned width = b->facts.width, all = b->names->len * width;
    unsigned low = 0, high = 0;
    bool ok = read_bits(text, &low, &high);

    if (ok && high == low && width > 1 && low % width == width - 1u)
        low -= width - 1u; /* its highest bit alone */
    if (!ok || (high != low && high - low + 1u != width) || low % width != 0)
        return rmg_fail(error, RMG_ERR_CONTENT, NULL,
                        "found \"%s\", expected the %u data bit%s of %s, like %s", text, width,
                        width == 1 ? "" : "s", (char *)b->names->pdata[0],
                        width == 1 ? "D0 or D7" : "D0-D3 or D4-D7");
    if ((low % all && (low + width) % all) || low + width > d->word)
        return rmg_fail(error, RMG_ERR_CONTENT, NULL,
                        "%s is neither the lowest nor the highest of %u bits in a row; expected "
                        "D0 or D%u, or the bits of each socket from left to right",
                        text, all, all - 1u);
    for (unsigned i = 0; i < b->names->len; i++) {
        const unsigned first = low % all ? low - i * width : low + i * width;

        g_ptr_array_add(b->bits, width == 1
                                     ? g_strdup_printf("D%u", first)
                                     : g_strdup_printf("D%u-D%u", first, first + width - 1u));
    }
    return RMG_OK;
}

rmg_status rmg_take_bits(draft *d, const char *text, asked *next, rmg_error *error)
{
    draft_bank *b = rmg_draft_last_bank(d);
    gchar **parts = g_strsplit_set(text, ", ", -1);
    GPtrArray *given = g_ptr_array_new();
    rmg_status status = RMG_OK;
    unsigned low, high;

    for (size_t i = 0; parts[i]; i++)
        if (*parts[i])
            g_ptr_array_add(given, parts[i]);
    if (given->len == 1) {
        status = from_leftmost(d, b, given->pdata[0], error);
    } else if (given->len != b->names->len) {
        status =
            rmg_fail(error, RMG_ERR_CONTENT, NULL,
                     "found \"%s\", expected the bits of the leftmost socket, or of each of the "
                     "%u from left to right",
                     text, b->names->len);
    } else {
        for (guint i = 0; i < given->len && status == RMG_OK; i++) {
            if (!read_bits(given->pdata[i], &low, &high))
                status = rmg_fail(error, RMG_ERR_CONTENT, NULL,
                                  "found \"%s\", expected data bits like D3 or D4-D7",
                                  (char *)given->pdata[i]);
            g_ptr_array_add(b->bits, g_strdup(given->pdata[i]));
        }
    }
    if (status == RMG_OK)
        status = rmg_draft_check(d, false, NULL, error);
    *next = ASK_MOUNT;
    g_ptr_array_free(given, TRUE);
    g_strfreev(parts);
    return status;
}

rmg_status rmg_take_mount(draft *d, const char *text, asked *next, rmg_error *error)
{
    draft_bank *b = rmg_draft_last_bank(d);

    *next = ASK_BANK;
    for (rmg_mount mount = RMG_MOUNT_SOCKET; mount <= RMG_MOUNT_BALL; mount++)
        if (strcmp(text, rmg_mount_name(mount)) == 0) {
            b->mount = mount;
            return RMG_OK;
        }
    return rmg_fail(error, RMG_ERR_CONTENT, NULL, "found \"%s\", expected socket, soldered or ball",
                    text);
}
