/* One explanation of a difference in a few words. */
#include <glib.h>

#include "rimeglass/report.h"

static char *bit_text(const rmg_rom *rom, uint8_t bit, char *text, size_t room)
{
    return rmg_rom_bit_text(rom, bit, text, room);
}

/* A permutation as a list, from the lowest line up. */
static char *order_text(const rmg_rom *rom, const rmg_explanation *e)
{
    GString *text = g_string_new("the data lines are permuted: from D0 up they carry ");

    for (uint8_t i = 0; i < rom->bits; i++)
        g_string_append_printf(text, "%sD%u", i ? ", " : "", e->order[i]);
    return g_string_free(text, FALSE);
}

char *rmg_explanation_text(const rmg_rom *rom, const rmg_explanation *e,
                           const char *const *other_names)
{
    const bool data = e->kind <= RMG_DIFF_DATA_SHORTED;
    const bool lines = e->kind >= RMG_DIFF_LINE_STUCK && e->kind <= RMG_DIFF_LINE_INVERTED;
    char a[64] = "", b[64] = "";

    if (data || (lines && e->a < rom->lines))
        (data ? bit_text : rmg_rom_line_text)(rom, e->a, a, sizeof a);
    if ((data && e->b < rom->bits) || (lines && e->b < rom->lines))
        (data ? bit_text : rmg_rom_line_text)(rom, e->b, b, sizeof b);
    switch (e->kind) {
    case RMG_DIFF_DATA_FLOATS:
        return g_strdup_printf("%s is not driven: it reads what was last on the line", a);
    case RMG_DIFF_DATA_STUCK:
        return g_strdup_printf("%s always reads %u", a, e->level);
    case RMG_DIFF_DATA_SWAPPED:
        return g_strdup_printf("%s and %s are swapped", a, b);
    case RMG_DIFF_DATA_SHORTED:
        return g_strdup_printf("%s and %s touch: both read %u where they should differ", a, b,
                               e->level);
    case RMG_DIFF_DATA_PERMUTED:
        return order_text(rom, e);
    case RMG_DIFF_DATA_INVERTED:
        return g_strdup("every bit is inverted");
    case RMG_DIFF_LINE_STUCK:
        return g_strdup_printf("%s is seen as %u: the words where it is %u appear twice", a,
                               e->level, e->level);
    case RMG_DIFF_LINE_SWAPPED:
        return g_strdup_printf("%s and %s are swapped", a, b);
    case RMG_DIFF_LINE_SHORTED:
        return g_strdup_printf("%s and %s touch: both are %u where they should differ", a, b,
                               e->level);
    case RMG_DIFF_LINE_INVERTED:
        return e->a + 1u == rom->lines
                   ? g_strdup_printf("the two halves are swapped (%s inverted)", a)
               : e->a == 0 && rom->bytes == 1 ? g_strdup("even and odd bytes are swapped")
                                              : g_strdup_printf("%s is inverted", a);
    case RMG_DIFF_BYTES_SWAPPED:
        return g_strdup("the even and odd bytes of each word are swapped");
    case RMG_DIFF_OFFSET:
        return g_strdup_printf("it is the image from its byte 0x%" G_GINT64_MODIFIER
                               "X on: the offset is wrong",
                               (guint64)(e->offset * rom->bytes));
    case RMG_DIFF_HALF_BLANK:
        return g_strdup_printf("the %s half is blank: only half of the image is there",
                               e->a ? "upper" : "lower");
    case RMG_DIFF_OTHER_IMAGE:
        return g_strdup_printf("it is another image from the catalogue: %s",
                               other_names ? other_names[e->other] : "another image");
    }
    return g_strdup("");
}
