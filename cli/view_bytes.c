/* Images as maps and as hex listings, on a terminal. */
#include <string.h>

#include "view.h"

#define COLUMNS   64u
#define ROWS      32u
#define HEX_A_ROW 16u

/* How many signs an address takes behind its 0x. */
static int address_digits(const rmg_rom_view *view)
{
    const uint64_t last = view->size ? rmg_view_address(view, view->size - 1) : 0;

    return last >> 24 ? 8 : last >> 16 ? 6 : 4;
}

/* Denser where there are more ones, between the fewest and the most of any cell. */
static const char *ones_text(const rmg_map_cell *cell, const rmg_map_span *span)
{
    static const char *const density[] = {"\u2591", "\u2592", "\u2593", "\u2588"};
    const double wide = span->highest - span->lowest;

    if (cell->different)
        return "x";
    if (cell->unsteady)
        return "?";
    if (cell->erased)
        return "\u00B7";
    if (cell->zeros)
        return "_";
    return density[wide > 0 ? MIN((unsigned)((cell->ones - span->lowest) / wide * 4), 3u) : 1u];
}

/* How many bits: a digit, or a sign for more; behind what differs all else is left unsaid. */
static const char *difference_text(const rmg_map_cell *cell)
{
    static const char *const digits[] = {"\u00B7", "1", "2", "3", "4", "5", "6", "7", "8", "9"};
    const uint64_t wrong = cell->different ? cell->different : cell->unsteady;

    return wrong && !cell->different ? "?" : wrong > 9 ? "#" : digits[wrong];
}

/* What the signs mean, as far as they are there. */
static void print_key(FILE *to, rmg_map_by by, size_t step, const rmg_map_span *span)
{
    GString *text = g_string_new(NULL);
    const bool bits = by == RMG_MAP_BITS;

    g_string_printf(text, "Each sign %zu byte%s:", step, step == 1 ? "" : "s");
    if (by == RMG_MAP_DIFFERENCE) {
        g_string_append(text, " \u00B7 equal");
        if (span->different)
            g_string_append(text, ", 1 to 9: so many bits differ");
        if (span->different && span->most > 9)
            g_string_append(text, ", # more");
    } else {
        if (span->erased)
            g_string_append(text, bits ? " \u00B7 ones only," : " \u00B7 erased (0xFF),");
        if (span->zeros)
            g_string_append(text, bits ? " _ zeros only," : " _ zeros,");
        if (span->mixed)
            g_string_append_printf(text,
                                   " \u2591\u2592\u2593\u2588 share of ones (%.0f to %.0f %%),",
                                   100 * span->lowest, 100 * span->highest);
        if (span->different)
            g_string_append(text, " x different,");
        if (text->str[text->len - 1] == ',')
            g_string_truncate(text, text->len - 1);
    }
    if (span->unsteady)
        g_string_append(text, ", ? not steady");
    print_wrapped(to, "", 2, text->str);
    g_string_free(text, TRUE);
}

/* Which address the columns stand for, behind the start of the row. */
static void print_columns(FILE *to, const rmg_rom_view *view, size_t step, size_t cells, int lead,
                          bool whole)
{
    fprintf(to, "%*s", lead, "");
    for (size_t i = 0; i < MIN(cells, COLUMNS); i += 16) {
        const uint64_t address = rmg_view_address(view, i * step);
        gchar *text =
            whole ? g_strdup_printf("0x%04" G_GINT64_MODIFIER "X", (guint64)address)
                  : g_strdup_printf("+%" G_GINT64_MODIFIER "X", (guint64)(address - view->address));

        if (i + 16 < MIN(cells, COLUMNS))
            fprintf(to, "%-16s", text);
        else
            fprintf(to, "%s\n", text);
        g_free(text);
    }
}

static void print_rows(FILE *to, const rmg_rom_view *view, rmg_map_by by, size_t step,
                       const rmg_map_span *span)
{
    const int digits = address_digits(view);

    print_columns(to, view, step, (view->size + step - 1) / step, digits + 6, false);
    for (size_t at = 0; at < view->size; at += step) {
        rmg_map_cell cell;

        if (at / step % COLUMNS == 0)
            fprintf(to, "%s  0x%0*" G_GINT64_MODIFIER "X  ", at ? "\n" : "", digits,
                    (guint64)rmg_view_address(view, at));
        rmg_map_at(view, at, step, &cell);
        fputs(by == RMG_MAP_DIFFERENCE ? difference_text(&cell) : ones_text(&cell, span), to);
    }
    fputc('\n', to);
}

/* The highest data bit first. */
static void print_bits(FILE *to, const rmg_rom_view *view, size_t step, const rmg_map_span *span)
{
    print_columns(to, view, step, (view->size + step - 1) / step, 7, true);
    for (unsigned name = 64; name-- > 0;)
        for (unsigned bit = 0; bit < rmg_view_bits(view); bit++) {
            if (rmg_view_bit_name(view, bit) != name)
                continue;
            fprintf(to, "  D%-2u  ", name);
            for (size_t at = 0; at < view->size; at += step) {
                rmg_map_cell cell;

                rmg_map_bit_at(view, at, step, bit, &cell);
                fputs(ones_text(&cell, span), to);
            }
            fputc('\n', to);
        }
}

void print_map(FILE *to, const rmg_rom_view *view, rmg_map_by by)
{
    size_t step = rmg_map_step(view, by == RMG_MAP_BITS ? COLUMNS : COLUMNS * ROWS);
    rmg_map_span span;

    step = MAX(step, by == RMG_MAP_BITS ? MAX(view->unit, 1) : 1);
    rmg_map_span_of(view, by, step, &span);
    print_key(to, by, step, &span);
    if (by == RMG_MAP_BITS)
        print_bits(to, view, step, &span);
    else
        print_rows(to, view, by, step, &span);
}

static bool is_marked(const rmg_rom_view *view, size_t at)
{
    return (view->good && view->good[at] != view->bytes[at]) ||
           (view->unsteady && view->unsteady[at]);
}

/* The same bytes as the row before, and none of them marked: not listed again. */
static bool is_repeated(const rmg_rom_view *view, size_t at)
{
    if (at < HEX_A_ROW || at + HEX_A_ROW > view->size ||
        memcmp(view->bytes + at, view->bytes + at - HEX_A_ROW, HEX_A_ROW) != 0)
        return false;
    for (size_t i = 0; i < HEX_A_ROW; i++)
        if (is_marked(view, at + i) || is_marked(view, at + i - HEX_A_ROW))
            return false;
    return true;
}

/* A row beneath: of some bytes, `said` of each; nothing where there is none. */
static void print_beneath(FILE *to, const char *lead, int wide, const uint8_t *said,
                          const bool *which, size_t count)
{
    GString *row = g_string_new(NULL);
    bool any = false;

    for (size_t i = 0; i < count; i++) {
        g_string_append(row, i % 8 == 0 ? "  " : " ");
        if (which[i])
            g_string_append_printf(row, "%02X", said[i]);
        else
            g_string_append(row, "  ");
        any |= which[i];
    }
    if (any)
        fprintf(to, "%-*s%s\n", wide, lead, g_strchomp(row->str));
    g_string_free(row, TRUE);
}

static void print_row(FILE *to, const rmg_rom_view *view, size_t at, int digits)
{
    const size_t count = MIN(HEX_A_ROW, view->size - at);
    bool wrong[HEX_A_ROW] = {false}, moved[HEX_A_ROW] = {false};

    fprintf(to, "  0x%0*" G_GINT64_MODIFIER "X", digits, (guint64)rmg_view_address(view, at));
    for (size_t i = 0; i < HEX_A_ROW; i++) {
        fputs(i % 8 == 0 ? "  " : " ", to);
        if (i < count)
            fprintf(to, "%02X", view->bytes[at + i]);
        else
            fputs("  ", to);
    }
    fputs("  ", to);
    for (size_t i = 0; i < count; i++) {
        const uint8_t byte = view->bytes[at + i];

        fputc(g_ascii_isprint((gchar)byte) ? byte : '.', to);
        wrong[i] = view->good && view->good[at + i] != byte;
        moved[i] = view->unsteady && view->unsteady[at + i];
    }
    fputc('\n', to);
    if (view->good)
        print_beneath(to, "  expected", digits + 4, view->good + at, wrong, count);
    if (view->unsteady)
        print_beneath(to, "  unsteady", digits + 4, view->unsteady + at, moved, count);
}

void print_hex(FILE *to, const rmg_rom_view *view)
{
    const int digits = MAX(address_digits(view), 6);

    rmg_map_span span;

    rmg_map_span_of(view, RMG_MAP_DIFFERENCE, view->size, &span);
    if (span.unsteady)
        fprintf(to, "Beneath a row, where bits were not steady: ones at those bits.\n");
    for (size_t at = 0; at < view->size; at += HEX_A_ROW) {
        size_t end = at;

        while (end < view->size && is_repeated(view, end))
            end += HEX_A_ROW;
        if (end > at + HEX_A_ROW) { /* of one alone the row itself says as much */
            fprintf(to, "  the same up to 0x%0*" G_GINT64_MODIFIER "X\n", digits,
                    (guint64)rmg_view_address(view, end - 1));
            at = end - HEX_A_ROW;
        } else {
            print_row(to, view, at, digits);
        }
    }
}
