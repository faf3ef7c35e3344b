/* Findings of a ROM's lines: data and address lines, halves, offsets, other images. */
#include <string.h>

#include "find.h"

static bool is_data(rmg_difference kind)
{
    return kind <= RMG_DIFF_DATA_SHORTED;
}

static bool is_line(rmg_difference kind)
{
    return kind == RMG_DIFF_LINE_STUCK || kind == RMG_DIFF_LINE_SWAPPED ||
           kind == RMG_DIFF_LINE_SHORTED;
}

/* The traced line of a bus bit, as far as the board file has it; not of a bare chip. */
static const rmg_line *traced(const rmg_rom_words_in *w, rmg_difference kind, uint8_t a)
{
    const rmg_rom *rom = w->rc->rom;
    const rmg_line_kind wanted = is_data(kind) ? RMG_LINE_DATA : RMG_LINE_ADDRESS;

    for (size_t i = 0; !rom->bare && i < rom->board->line_count; i++) {
        const rmg_line *line = &rom->board->lines[i];

        if (line->kind == wanted &&
            line->bit == (is_data(kind) ? rom->bus_bit[a] : rom->bus_line[a]))
            return line;
    }
    return NULL;
}

/* The last point before the chip's own pin, where it is traced. */
static const char *point_before(const rmg_rom_words_in *w, const rmg_line *line)
{
    for (size_t p = 0; line && p < line->point_count; p++)
        if (line->points[p].socket == w->socket && line->points[p].parent != RMG_NO_POINT)
            return line->points[line->points[p].parent].name;
    return NULL;
}

void rmg_romfind_steps(rmg_rom_words_in *w, bool data_line, const rmg_line *line)
{
    const char *before = point_before(w, line);
    const bool chip = w->socket != RMG_NO_SOCKET;

    if (w->rc->rom->bare)
        return;
    if (chip && !w->soldered)
        g_ptr_array_add(w->next, g_strdup_printf("Reseat the chip in %s, clean its legs, and read "
                                                 "it again: a bad contact is the cheapest cause.",
                                                 w->name));
    if (chip && !w->soldered && w->rc->bare == RMG_BARE_UNKNOWN) {
        g_ptr_array_add(
            w->next, g_strdup_printf("Pull the chip and verify it bare (--bare): good there, and "
                                     "the fault is in the socket or on the line; bad there, and "
                                     "it is the chip."));
        g_free(w->s.settle);
        w->s.settle = g_strdup_printf("verify the chip of %s bare", w->name);
    }
    if (data_line && !w->rc->ram_good)
        g_ptr_array_add(w->next, g_strdup_printf("Test the RAM on the same data lines (rimeglass "
                                                 "test): if it passes, the line is sound as far as "
                                                 "the RAM, and only the stretch to %s is left.",
                                                 w->name));
    if (before)
        g_ptr_array_add(w->next, g_strdup_printf("With the power off, measure from %s's pin to %s "
                                                 "(line %s).",
                                                 w->name, before, line->name));
}

/* "U5 pin 15", as far as it is known. */
static char *chip_pin(const rmg_rom *rom, bool data, uint8_t line)
{
    uint16_t socket;
    uint8_t pin;

    (data ? rmg_rom_bit_pin : rmg_rom_line_pin)(rom, line, &socket, &pin);
    return socket == RMG_NO_SOCKET
               ? g_strdup("the chip")
               : g_strdup_printf("%s pin %u", rom->board->sockets[socket].name, pin);
}

/* Contact, line, chip and what else is on the line, as the bare reading leaves them. */
static void pin_rivals(rmg_rom_words_in *w, const char *pin, const char *at, bool data_line,
                       const rmg_line *line)
{
    const char *before = point_before(w, line);
    const rmg_bare_result bare = w->rc->bare;

    if (w->rc->rom->bare) {
        romfind_rival(w, 0.9, g_strdup_printf("the chip itself, at %s", pin));
        romfind_rival(w, 0.1, g_strdup("the adapter's contact"));
        return;
    }
    if (bare != RMG_BARE_GOOD)
        romfind_rival(
            w, bare == RMG_BARE_BAD ? 5.0 : 0.3,
            g_strdup_printf("the chip: its %s at %s", data_line ? "output" : "input", pin));
    romfind_rival(w, 0.4, g_strdup_printf("the %s at %s", w->soldered ? "joint" : "contact", pin));
    romfind_rival(w, 0.2,
                  before ? g_strdup_printf("the track between %s and %s", before, at)
                         : g_strdup("the track to it"));
    if (data_line && !w->rc->ram_good)
        romfind_rival(w, 0.1, g_strdup("another chip that holds the line"));
}

/* The line serves the RAM, the chip is good on its own pins: only what lies between is left. */
static void only_stretch(rmg_rom_words_in *w, const char *at, bool data_line, const rmg_line *line)
{
    const char *before = point_before(w, line);

    if (!data_line || !w->rc->ram_good || w->rc->bare != RMG_BARE_GOOD || !before ||
        w->rc->rom->bare)
        return;
    g_free(w->s.site);
    w->s.site = g_strdup_printf("%s between %s and %s", line->name, before, at);
    g_free(w->s.headline);
    w->s.headline =
        g_strdup_printf("Look at %s between %s and %s: %s.", line->name, before, at, w->s.kind);
    g_ptr_array_add(w->because,
                    g_strdup_printf("The RAM passes on %s, so the line is sound as far as %s.",
                                    line->name, before));
    g_free(w->s.settle);
    w->s.settle = g_strdup_printf("power off, measure from %s to %s", before, at);
}

static void data_or_address(rmg_rom_words_in *w, const rmg_explanation *e)
{
    const rmg_rom *rom = w->rc->rom;
    const bool data = is_data(e->kind);
    const rmg_line *line = traced(w, e->kind, e->a);
    char pin[64], other[64];
    const bool two = e->kind == RMG_DIFF_DATA_SWAPPED || e->kind == RMG_DIFF_DATA_SHORTED ||
                     e->kind == RMG_DIFF_LINE_SWAPPED || e->kind == RMG_DIFF_LINE_SHORTED;

    (data ? rmg_rom_bit_text : rmg_rom_line_text)(rom, e->a, pin, sizeof pin);
    if (two) {
        (data ? rmg_rom_bit_text : rmg_rom_line_text)(rom, e->b, other, sizeof other);
        w->s.site = g_strdup_printf("%s lines %s and %s", data ? "data" : "address", pin, other);
    } else {
        w->s.site = g_strdup_printf("%s line %s", data ? "data" : "address", pin);
    }
    if (e->kind == RMG_DIFF_DATA_SWAPPED || e->kind == RMG_DIFF_LINE_SWAPPED) {
        romfind_rival(w, 0.45,
                      g_strdup("this board crosses these lines, and its file does not say "
                               "so"));
        romfind_rival(w, 0.35, g_strdup("the lines were exchanged in a repair"));
        if (w->rc->bare != RMG_BARE_GOOD)
            romfind_rival(w, 0.3,
                          g_strdup("the chip was programmed for a board that crosses these "
                                   "lines"));
    } else if (two) {
        romfind_rival(w, 0.6, g_strdup("a solder bridge or a bent leg between the two"));
        romfind_rival(w, 0.2, g_strdup("the tracks touch elsewhere"));
        if (w->rc->bare != RMG_BARE_GOOD)
            romfind_rival(w, 0.2, g_strdup("the chip itself"));
    } else {
        char *at = chip_pin(rom, data, e->a);

        pin_rivals(w, pin, at, data, line);
        only_stretch(w, at, data, line);
        g_free(at);
    }
    if (e->kind == RMG_DIFF_LINE_STUCK) {
        if (w->rc->bare != RMG_BARE_GOOD)
            romfind_rival(w, 0.3,
                          g_strdup("a smaller chip, or an image that was repeated to fill "
                                   "this one"));
        if (e->a + 1u == rom->lines && !rom->bare)
            romfind_rival(w, 0.1, g_strdup("a jumper or select that enables the wrong half"));
    }
    rmg_romfind_steps(w, data, line);
    if (e->kind == RMG_DIFF_DATA_SWAPPED || e->kind == RMG_DIFF_LINE_SWAPPED)
        g_ptr_array_add(w->next,
                        g_strdup("An image for a board with crossed lines: rimeglass image "
                                 "FILE --data-lines or --address-lines makes it."));
}

static void image_kinds(rmg_rom_words_in *w, const rmg_explanation *e)
{
    w->s.site = g_strdup_printf("the image in %s", w->name);
    switch (e->kind) {
    case RMG_DIFF_OTHER_IMAGE:
        romfind_rival(w, 1, g_strdup("another version, or the chip of another socket, is fitted"));
        g_ptr_array_add(w->next, g_strdup("Compare with the image that was found; if it is the "
                                          "right one for this board, nothing is wrong."));
        break;
    case RMG_DIFF_BYTES_SWAPPED:
        romfind_rival(w, 0.7, g_strdup("the even and the odd chip sit in each other's socket"));
        romfind_rival(w, 0.3, g_strdup("the image was split with even and odd exchanged"));
        g_ptr_array_add(w->next, g_strdup("Exchange the even and the odd chip, and verify again."));
        break;
    case RMG_DIFF_LINE_INVERTED:
        romfind_rival(w, 0.6, g_strdup("the image was programmed with these parts exchanged"));
        romfind_rival(w, 0.4, g_strdup("a jumper or an inverter on that line is set otherwise"));
        break;
    case RMG_DIFF_OFFSET:
        romfind_rival(w, 1, g_strdup("the image was programmed at the wrong offset"));
        g_ptr_array_add(w->next, g_strdup("Make it anew: rimeglass image FILE --cut, --pad or "
                                          "--move, and program the chip again."));
        break;
    case RMG_DIFF_HALF_BLANK:
        romfind_rival(w, 0.9, g_strdup("only half of the image was programmed"));
        romfind_rival(w, 0.1, g_strdup("the other half is not enabled and reads as ones"));
        break;
    default:
        romfind_rival(w, 0.6, g_strdup("the image was made for another board"));
        romfind_rival(w, 0.4, g_strdup("lines or buffers of the board are not as its file says"));
        g_ptr_array_add(w->next,
                        g_strdup("If the board crosses its lines so, make the image for it: "
                                 "rimeglass image FILE --data-lines or --invert-data."));
        break;
    }
    if (e->kind == RMG_DIFF_HALF_BLANK || e->kind == RMG_DIFF_LINE_INVERTED)
        rmg_romfind_steps(w, false, NULL);
}

static double share_of(const rmg_comparison *c, uint64_t bits)
{
    return c->wrong_bits ? MIN((double)bits / (double)c->wrong_bits, 1.0) : 0;
}

void rmg_romfind_step(rmg_rom_words_in *w, const void *what)
{
    const rmg_explained *step = what;
    const rmg_explanation *e = &step->is;
    const rmg_rom_case *rc = w->rc;
    const rmg_comparison *c = rc->comparison;

    w->s.kind = rmg_explanation_text(rc->rom, e, rc->other_names);
    w->s.headline = g_strdup_printf("%s: %s.", w->name, w->s.kind);
    if (is_data(e->kind) || is_line(e->kind))
        data_or_address(w, e);
    else
        image_kinds(w, e);
    w->s.explained = share_of(c, e->seen);
    w->s.confidence = e->seen == e->foretold ? 0.95 : 0.85;
    if (e->kind == RMG_DIFF_DATA_FLOATS)
        g_ptr_array_add(w->because,
                        g_strdup_printf("At all %" G_GUINT64_FORMAT
                                        " words the line read what was put on it just before, low "
                                        "and high.",
                                        c->words));
    else
        g_ptr_array_add(w->because, g_strdup_printf("It foretells %" G_GUINT64_FORMAT
                                                    " wrong bits; %" G_GUINT64_FORMAT
                                                    " of them are wrong just so.",
                                                    e->foretold, e->seen));
    if (rc->bare == RMG_BARE_GOOD && !rc->rom->bare)
        g_ptr_array_add(w->because, g_strdup("The same chip reads right on its own pins."));
    for (size_t i = 0; i < step->alike_count; i++) {
        char *text = rmg_explanation_text(rc->rom, &step->alike[i], rc->other_names);

        g_ptr_array_add(w->because, g_strdup_printf("This would read the same: %s.", text));
        rmg_text_free(text);
    }
}
