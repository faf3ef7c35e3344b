/* One explanation of a difference in a few words. */
#include <glib.h>

#include "rimeglass/report.h"

static char *bit_text(const rmg_rom *rom, uint8_t bit, char *text, size_t room)
{
    return rmg_rom_bit_text(rom, bit, text, room);
}

/* A permutation as a list, from the lowest line up; a slash before an inverted one. */
static char *order_text(const rmg_rom *rom, const rmg_explanation *e, bool data)
{
    const unsigned shift = data || !rom->board ? 0 : rom->board->byte_shift;
    const char letter = data ? 'D' : 'A';
    GString *text = g_string_new(NULL);

    g_string_printf(text,
                    data ? "the data lines are permuted: from D0 up they carry "
                         : "the address lines are permuted: from A%u up they go to the chip's ",
                    shift);
    for (uint8_t i = 0; i < (data ? rom->bits : rom->lines); i++)
        g_string_append_printf(text, "%s%s%c%u", i ? ", " : "",
                               e->invert >> i & 1u ? "inverted " : "", letter, e->order[i] + shift);
    return g_string_free(text, FALSE);
}

/* Bytes from one address on: "0x1F40". */
static char *place(const rmg_rom *rom, uint64_t word, char *text, size_t room)
{
    if (word < rom->words)
        return rmg_rom_address_text(rom, word, text, room);
    g_snprintf(text, (gulong)room, "the end");
    return text;
}

static char *data_text(const rmg_rom *rom, const rmg_explanation *e, const char *a, const char *b)
{
    switch (e->kind) {
    case RMG_DIFF_DATA_FLOATS:
        return g_strdup_printf("%s is not driven: it reads what was last on the line", a);
    case RMG_DIFF_DATA_STUCK:
        return g_strdup_printf("%s %s %u", a, e->sometimes ? "reads" : "always reads", e->level);
    case RMG_DIFF_DATA_SWAPPED:
        return g_strdup_printf("%s and %s are swapped", a, b);
    case RMG_DIFF_DATA_SHORTED:
        return g_strdup_printf("%s and %s touch: both read %u where they should differ", a, b,
                               e->level);
    case RMG_DIFF_DATA_PERMUTED:
        return order_text(rom, e, true);
    default:
        return g_strdup("every bit is inverted");
    }
}

static char *line_text(const rmg_rom *rom, const rmg_explanation *e, const char *a, const char *b)
{
    switch (e->kind) {
    case RMG_DIFF_LINE_STUCK:
        return g_strdup_printf("%s is seen as %u: the words where it is %u appear twice", a,
                               e->level, e->level);
    case RMG_DIFF_LINE_SWAPPED:
        return g_strdup_printf("%s and %s are swapped", a, b);
    case RMG_DIFF_LINE_SHORTED:
        return g_strdup_printf("%s and %s touch: both are %u where they should differ", a, b,
                               e->level);
    case RMG_DIFF_LINE_PERMUTED:
        return order_text(rom, e, false);
    default:
        return e->a + 1u == rom->lines
                   ? g_strdup_printf("the two halves are swapped (%s inverted)", a)
               : e->a == 0 && rom->bytes == 1 ? g_strdup("even and odd bytes are swapped")
                                              : g_strdup_printf("%s is inverted", a);
    }
}

static char *shifted_text(const rmg_rom *rom, const rmg_explanation *e)
{
    const guint64 bytes = e->offset * rom->bytes;
    char at[40], before[40];
    gchar *from = e->count ? g_strdup_printf("from somewhere between %s and %s",
                                             place(rom, e->first - e->count, before, sizeof before),
                                             place(rom, e->first, at, sizeof at))
                           : g_strdup_printf("from %s", place(rom, e->first, at, sizeof at));
    gchar *text =
        bytes == 1
            ? g_strdup_printf("%s on, %s", from,
                              e->level ? "one byte more than the image has pushes the rest up"
                                       : "one byte of the image is missing, and the rest "
                                         "follows lower")
            : g_strdup_printf("%s on, %" G_GUINT64_FORMAT " bytes %s", from, bytes,
                              e->level ? "more than the image has push the rest up"
                                       : "of the image are missing, and the rest follows lower");

    g_free(from);
    return text;
}

static char *moved_text(const rmg_rom *rom, const rmg_explanation *e)
{
    const guint64 bytes = e->offset * rom->bytes;

    switch (e->kind) {
    case RMG_DIFF_OFFSET:
        return g_strdup_printf("it is the image from its byte 0x%" G_GINT64_MODIFIER
                               "X on: the offset is wrong",
                               bytes);
    case RMG_DIFF_MOVED:
        return g_strdup_printf("the image begins %" G_GUINT64_FORMAT " byte%s too %s", bytes,
                               bytes == 1 ? "" : "s", e->level ? "high" : "low");
    case RMG_DIFF_SHIFTED:
        return shifted_text(rom, e);
    default:
        return g_strdup_printf(
            "only the %" G_GUINT64_FORMAT " bytes of the image from its byte 0x%" G_GINT64_MODIFIER
            "X on are there, again and again",
            (guint64)rom->bytes << e->a, (guint64)((e->offset << e->a) * rom->bytes));
    }
}

static char *blank_text(const rmg_rom *rom, const rmg_explanation *e)
{
    const char *how = e->level ? "blank" : "all zeros";
    char from[40], to[40];

    if (e->kind == RMG_DIFF_HALF_BLANK)
        return g_strdup_printf("the %s half is blank: only half of the image is there",
                               e->a ? "upper" : "lower");
    place(rom, e->first, from, sizeof from);
    if (e->first + e->count >= rom->words)
        return g_strdup_printf("it is %s from %s on", how, from);
    return g_strdup_printf("it is %s from %s to %s", how, from,
                           place(rom, e->first + e->count - 1u, to, sizeof to));
}

static char *rest_text(const rmg_explanation *e)
{
    switch (e->kind) {
    case RMG_DIFF_CELLS:
        return g_strdup(e->level == 1   ? "single bits read 1 for 0, in no pattern of a line"
                        : e->level == 0 ? "single bits read 0 for 1, in no pattern of a line"
                                        : "single bits are wrong both ways, in no pattern of a "
                                          "line");
    case RMG_DIFF_PATCHED:
        return e->count == 1 ? g_strdup("the contents differ in one place, as in another version")
                             : g_strdup_printf("the contents differ in %" G_GUINT64_FORMAT
                                               " places, as in another version",
                                               (guint64)e->count);
    case RMG_DIFF_ANOTHER:
        return g_strdup_printf("something else answers at the same time: wrong bits all read %u",
                               e->level);
    default:
        return g_strdup("what was read has nothing in common with the image");
    }
}

static char *lines_text(const rmg_rom *rom, const rmg_explanation *e)
{
    const uint16_t socket = rmg_rom_part_socket(rom, e->part);
    GString *text = g_string_new("the chip sees ");
    bool more = false;
    char name[64];

    for (uint8_t k = 0; k < rom->lines; k++) {
        if (!(e->offset >> k & 1u))
            continue;
        g_string_append_printf(text, "%s%s as %u", more ? ", " : "",
                               rmg_rom_line_text_at(rom, socket, k, name, sizeof name),
                               (unsigned)(e->first >> k & 1u));
        more = true;
    }
    g_string_append(text, ": what is read repeats");
    return g_string_free(text, FALSE);
}

static char *plain_text(const rmg_rom *rom, const rmg_explanation *e,
                        const char *const *other_names)
{
    const bool data = rmg_difference_of_data(e->kind), lines = rmg_difference_of_lines(e->kind);
    const char *other =
        other_names && (e->kind == RMG_DIFF_OTHER_IMAGE || e->kind == RMG_DIFF_WITH_IMAGE)
            ? other_names[e->other]
            : "another image";
    const uint16_t socket = rmg_rom_part_socket(rom, e->part);
    char a[64] = "", b[64] = "";

    if (data) {
        bit_text(rom, e->a, a, sizeof a);
        bit_text(rom, e->b < rom->bits ? e->b : 0, b, sizeof b);
    }
    if (lines) {
        rmg_rom_line_text_at(rom, socket, e->a < rom->lines ? e->a : 0, a, sizeof a);
        rmg_rom_line_text_at(rom, socket, e->b < rom->lines ? e->b : 0, b, sizeof b);
    }
    if (e->kind <= RMG_DIFF_DATA_INVERTED)
        return data_text(rom, e, a, b);
    if (lines)
        return line_text(rom, e, a, b);
    switch (e->kind) {
    case RMG_DIFF_BYTES_SWAPPED:
        return g_strdup("the even and odd bytes of each word are swapped");
    case RMG_DIFF_HALF_BLANK:
    case RMG_DIFF_BLANK:
        return blank_text(rom, e);
    case RMG_DIFF_OTHER_IMAGE:
        return g_strdup_printf("it is another image from the catalogue: %s", other);
    case RMG_DIFF_WITH_IMAGE:
        return g_strdup_printf("a chip with this image answers at the same time: %s", other);
    case RMG_DIFF_LINES_STUCK:
        return lines_text(rom, e);
    case RMG_DIFF_LATE:
        return g_strdup("it gives what was on the lines just before");
    case RMG_DIFF_CELLS:
    case RMG_DIFF_PATCHED:
    case RMG_DIFF_ANOTHER:
    case RMG_DIFF_UNKNOWN:
        return rest_text(e);
    default:
        return moved_text(rom, e);
    }
}

char *rmg_explanation_text(const rmg_rom *rom, const rmg_explanation *e,
                           const char *const *other_names)
{
    const uint16_t socket = rmg_rom_part_socket(rom, e->part);
    const bool named = socket != RMG_NO_SOCKET && !rmg_difference_of_lines(e->kind);
    char *text = plain_text(rom, e, other_names);
    char *whole = g_strdup_printf("%s%s%s%s", named ? rom->board->sockets[socket].name : "",
                                  named ? ": " : "",
                                  e->steady      ? "at some words "
                                  : e->steady    ? "at some words "
                                  : e->sometimes ? "now and then "
                                                 : "",
                                  text);

    g_free(text);
    return whole;
}
