/* Findings of a ROM that are no line: scattered bits, unsteady bits, nothing at all; and what can
 * be said with no image to compare with. */
#include <string.h>

#include "find.h"

/* Slow, weak, enabled at the wrong time, not alone on the bus: what a chip that is right on its own
 * pins can suffer from in its board. */
static void board_rivals(rmg_rom_words_in *w)
{
    romfind_rival(w, 0.35,
                  g_strdup("the chip is too slow for the board's clock, or weak at its "
                           "supply"));
    romfind_rival(w, 0.25, g_strdup("another chip answers at the same time"));
    romfind_rival(w, 0.2, g_strdup("contacts, above all supply, enable and output enable"));
    romfind_rival(w, 0.2, g_strdup("the enable comes late or is not steady"));
    romfind_rival(w, 0.1, g_strdup("noise on lines or supply"));
    g_ptr_array_add(w->next, g_strdup("Verify at several clocks and supplies (--clock-hz, "
                                      "--supply-mv), if the port can set them: a slow or weak chip "
                                      "has a first step at which it fails."));
    g_ptr_array_add(w->next, g_strdup("Pull other chips on the same data lines one by one and "
                                      "verify again: contention goes with one of them."));
}

static void chip_cells(rmg_rom_words_in *w, bool fading)
{
    romfind_rival(w, fading ? 0.8 : 0.6,
                  g_strdup_printf("the chip: %s", fading ? "its cells lose their charge"
                                                         : "cells that are bad or were badly "
                                                           "programmed"));
    romfind_rival(w, fading ? 0.15 : 0.2, g_strdup("supply or clock outside what the chip stands"));
    if (!w->rc->rom->bare)
        romfind_rival(w, fading ? 0.05 : 0.2, g_strdup("noise on the lines"));
}

/* "D3 (U5 pin 15)" where one data bit has nearly all of `count`; else NULL. */
static char *one_bit(const rmg_rom *rom, const uint64_t *by_bit, uint64_t count)
{
    char text[64];

    for (uint8_t bit = 0; bit < rom->bits && count >= 8; bit++)
        if (by_bit[bit] >= count - count / 20u)
            return g_strdup(rmg_rom_bit_text(rom, bit, text, sizeof text));
    return NULL;
}

static void say_bare(rmg_rom_words_in *w)
{
    g_ptr_array_add(w->because, g_strdup("The same chip reads right on its own pins, so it holds "
                                         "what it should."));
}

/* Nearly all on one data line, all in one direction: something pulls that line. */
static void one_line(rmg_rom_words_in *w, const rmg_comparison *c, const char *bit)
{
    const bool high = c->left_to_one > c->left_to_zero;

    w->s.site = g_strdup_printf("data line %s", bit);
    w->s.kind = g_strdup_printf("reads %u where it should be %u, at some words only", high, !high);
    w->s.headline = g_strdup_printf("%s: %s reads %u for %u at %" G_GUINT64_FORMAT
                                    " words, though not at all of them: something pulls it.",
                                    w->name, bit, high, !high, c->left);
    w->s.explained = c->wrong_bits ? (double)c->left / (double)c->wrong_bits : 0;
    w->s.confidence = 0.85;
    g_ptr_array_add(w->because, g_strdup_printf("Nearly all of %" G_GUINT64_FORMAT
                                                " wrong bits lie on this one data line.",
                                                c->left));
    if (!w->rc->rom->bare)
        romfind_rival(w, 0.5, g_strdup("another chip drives the line at the same time"));
    if (w->rc->bare != RMG_BARE_GOOD || w->rc->rom->bare)
        romfind_rival(w, 0.3, g_strdup("the chip: a weak output, or cells of this bit"));
    if (w->rc->rom->bare)
        return;
    romfind_rival(w, 0.2, g_strdup("a bad contact or joint on this line"));
    g_ptr_array_add(w->next, g_strdup("Test the RAM (rimeglass test): a chip that drives this line "
                                      "at the wrong time shows there too."));
    g_ptr_array_add(w->next, g_strdup("Pull the socketed chips on this data line one by one and "
                                      "verify again: contention goes with one of them."));
    rmg_romfind_steps(w, false, NULL);
}

static void scattered(rmg_rom_words_in *w, const rmg_comparison *c)
{
    const bool fading = !c->left_to_zero, badly = !c->left_to_one;
    const bool good_bare = w->rc->bare == RMG_BARE_GOOD && !w->rc->rom->bare;
    const guint64 left = c->left;

    w->s.site = g_strdup_printf(good_bare ? "%s in its board" : "%s", w->name);
    w->s.kind = g_strdup(good_bare ? "reads wrong in the board, right on its own pins"
                         : fading  ? "bits return to the erased state"
                         : badly   ? "bits read 0 that should be erased"
                                   : "single bits are wrong both ways");
    w->s.explained = c->wrong_bits ? (double)c->left / (double)c->wrong_bits : 0;
    w->s.headline =
        good_bare
            ? g_strdup_printf("%s reads wrong in its board but right on its own pins: the "
                              "line, the contact, the enable, a slow or weak chip, or another "
                              "chip on the bus.",
                              w->name)
            : g_strdup_printf("%s: %" G_GUINT64_FORMAT " bit%s %s, in no pattern of a line: "
                              "the chip's own cells.",
                              w->name, left, left == 1 ? " is wrong" : "s are wrong",
                              fading  ? "(all read 1 for 0: fading)"
                              : badly ? "(all read 0 for 1: badly programmed, or another "
                                        "version)"
                                      : "(both ways)");
    g_ptr_array_add(w->because,
                    g_strdup_printf("%" G_GUINT64_FORMAT " wrong bits fit no line: %" //
                                    G_GUINT64_FORMAT " read 1 for 0, %" G_GUINT64_FORMAT
                                    " read 0 for 1.",
                                    left, c->left_to_one, c->left_to_zero));
    if (c->left_unsteady)
        g_ptr_array_add(w->because, g_strdup_printf("%" G_GUINT64_FORMAT
                                                    " of them were not the same in all readings.",
                                                    c->left_unsteady));
    w->s.confidence = good_bare                  ? 0.9
                      : c->left > c->words / 20u ? 0.4
                      : c->left < 3              ? 0.6
                      : fading                   ? 0.9
                                                 : 0.7;
    if (good_bare) {
        say_bare(w);
        board_rivals(w);
    } else if (c->left > c->words / 20u) {
        romfind_rival(w, 0.6, g_strdup("an image that the catalogue does not have"));
        romfind_rival(w, 0.2, g_strdup("several faults of lines at once"));
        romfind_rival(w, 0.2, g_strdup("a bad chip"));
        g_ptr_array_add(w->next, g_strdup("Identify what was read (rimeglass identify), and look "
                                          "for its version text."));
    } else {
        chip_cells(w, fading);
        rmg_romfind_steps(w, false, NULL);
        if (fading)
            g_ptr_array_add(w->next, g_strdup_printf("Program the good image into a new chip for "
                                                     "%s now; cover its window.",
                                                     w->name));
        else
            g_ptr_array_add(w->next, g_strdup_printf("Program the good image into another chip for "
                                                     "%s and verify that.",
                                                     w->name));
        return;
    }
    rmg_romfind_steps(w, false, NULL);
}

void rmg_romfind_left(rmg_rom_words_in *w, const void *what)
{
    const rmg_comparison *c = what;
    const bool one_way = !c->left_to_one || !c->left_to_zero;
    char *bit = one_way ? one_bit(w->rc->rom, c->left_by_bit, c->left) : NULL;

    if (bit && c->left >= 64 && c->left > c->words / 200u)
        one_line(w, c, bit);
    else
        scattered(w, c);
    g_free(bit);
}

void rmg_romfind_unsteady(rmg_rom_words_in *w, const void *what)
{
    const rmg_quality *q = what;
    char *bit = one_bit(w->rc->rom, q->by_bit, q->unsteady_bits);

    w->s.site = g_strdup_printf("%s", bit ? bit : w->name);
    w->s.kind = g_strdup("not the same in all readings");
    w->s.headline = g_strdup_printf("%s: %" G_GUINT64_FORMAT " bit%s in %" G_GUINT64_FORMAT
                                    " word%s not the same in all %u readings%s%s.",
                                    w->name, q->unsteady_bits, q->unsteady_bits == 1 ? "" : "s",
                                    q->unsteady_words, q->unsteady_words == 1 ? " is" : "s are",
                                    q->readings, bit ? ", nearly all on " : "", bit ? bit : "");
    w->s.explained = 1;
    w->s.confidence = 0.8;
    g_ptr_array_add(
        w->because,
        g_strdup_printf("They lie in %" G_GUINT64_FORMAT " rows of %u words%s.", q->rows,
                        RMG_ROW_WORDS,
                        bit ? ", on one data line: more likely its line or contact than "
                              "the cells"
                            : ", on several data lines: more likely cells than a line"));
    if (bit && !w->rc->rom->bare) {
        romfind_rival(w, 0.5, g_strdup_printf("the contact at %s", bit));
        romfind_rival(w, 0.3, g_strdup("the chip's output"));
        romfind_rival(w, 0.2, g_strdup("noise on the line"));
    } else if (w->rc->bare == RMG_BARE_GOOD && !w->rc->rom->bare) {
        say_bare(w);
        board_rivals(w);
    } else {
        romfind_rival(w, 0.6, g_strdup("the chip: weak cells"));
        romfind_rival(w, 0.25, g_strdup("supply, temperature or clock at its limit"));
        if (!w->rc->rom->bare)
            romfind_rival(w, 0.15, g_strdup("noise, or another chip on the bus"));
    }
    g_ptr_array_add(w->next, g_strdup("Read it while it warms up and cools down (rimeglass dump "
                                      "--watch): weak cells move with temperature and supply."));
    rmg_romfind_steps(w, bit != NULL, NULL);
    g_free(bit);
}

/* `driven`: the chip is proved to drive what was read. */
static void nothing_rivals(rmg_rom_words_in *w, bool driven, bool ones, bool floats)
{
    const bool bare = w->rc->rom->bare;
    const rmg_bare_result was = bare ? RMG_BARE_UNKNOWN : w->rc->bare;

    if (!floats && was != RMG_BARE_GOOD)
        romfind_rival(w, driven ? 1.0 : 0.3,
                      g_strdup(ones ? "the chip is erased: never programmed, or wiped"
                                    : "the chip holds zeros, or its outputs fail"));
    if (driven && was != RMG_BARE_GOOD) {
        g_ptr_array_add(w->next, g_strdup_printf("Program the good image into a chip for %s, and "
                                                 "verify it.",
                                                 w->name));
        return;
    }
    if (bare)
        romfind_rival(w, 0.4, g_strdup("the adapter is empty"));
    else if (was != RMG_BARE_BAD)
        romfind_rival(w, 0.4,
                      g_strdup("the chip is not enabled: its enable, output enable or "
                               "select is dead"));
    if (!bare)
        romfind_rival(w, 0.3,
                      g_strdup(was == RMG_BARE_GOOD ? "the chip is badly seated: supply or "
                                                      "enable makes no contact"
                                                    : "the socket is empty, or the chip is "
                                                      "badly seated"));
    if (was != RMG_BARE_GOOD)
        romfind_rival(w, bare ? 0.3 : 0.1, g_strdup("the chip is dead"));
    rmg_romfind_steps(w, false, NULL);
    if (!bare && w->socket != RMG_NO_SOCKET)
        g_ptr_array_add(w->next,
                        g_strdup_printf("While %s is read in a loop, look with a probe for "
                                        "pulses at its enable pins.",
                                        w->name));
}

/* Nothing, ones or zeros everywhere: what can be told apart here, and what cannot. */
void rmg_romfind_nothing(rmg_rom_words_in *w, const void *what)
{
    const rmg_quality *q = what;
    const rmg_rom *rom = w->rc->rom;
    const rmg_board *board = rom->board;
    const bool floats = q->state == RMG_READ_NOTHING, ones = q->state == RMG_READ_ONES;
    const bool driven = board->undriven == RMG_UNDRIVEN_HOLDS && q->driven;
    const bool pulled = board->undriven == (ones ? RMG_UNDRIVEN_HIGH : RMG_UNDRIVEN_LOW);

    w->s.site = g_strdup(w->name);
    w->s.explained = 1;
    w->s.confidence = 0.9;
    if (floats) {
        w->s.kind = g_strdup("nothing drives the data lines");
        w->s.headline = g_strdup_printf("%s: nothing answers. Every bit reads what was last on its "
                                        "line.",
                                        w->name);
        g_ptr_array_add(
            w->because,
            g_strdup("The lines were driven low and high before each word, and read so."));
    } else {
        w->s.kind = g_strdup_printf("reads %s everywhere", ones ? "ones" : "zeros");
        w->s.headline =
            driven && ones
                ? g_strdup_printf("%s is blank: it drives ones at every address.", w->name)
            : driven ? g_strdup_printf("%s drives zeros at every address.", w->name)
                     : g_strdup_printf("%s reads %s everywhere: blank, empty or not enabled "
                                       "cannot be told apart here.",
                                       w->name, ones ? "ones" : "zeros");
        g_ptr_array_add(w->because,
                        driven ? g_strdup("The lines were driven the other way before; a floating "
                                          "line would have kept that.")
                        : pulled
                            ? g_strdup_printf("Lines that nobody drives read %s on this board "
                                              "too.",
                                              ones ? "ones" : "zeros")
                            : g_strdup("What this board's undriven lines read was not tried."));
    }
    nothing_rivals(w, driven && !floats, ones && !floats, floats);
}

/* Two data bits, or a data bit and a level. */
typedef struct oddity {
    rmg_explanation e;
    const char *why;
} oddity;

static void word_oddity(rmg_rom_words_in *w, const void *what)
{
    const oddity *o = what;
    const rmg_rom_case *own = w->rc;
    rmg_comparison none;
    rmg_rom_case rc = *own;
    rmg_explained step = {.is = o->e};

    memset(&none, 0, sizeof none);
    none.words = w->rc->rom->words;
    rc.comparison = &none;
    w->rc = &rc;
    rmg_romfind_step(w, &step);
    w->rc = own;
    if (o->e.kind != RMG_DIFF_DATA_FLOATS) {
        g_free(g_ptr_array_index(w->because, 0));
        g_ptr_array_index(w->because, 0) = g_strdup(o->why);
    }
    w->s.confidence = o->e.kind == RMG_DIFF_DATA_FLOATS ? 0.95 : 0.7;
    w->s.explained = 1;
}

void rmg_romfind_plausible(const rmg_rom_case *rc, rmg_romfind_add add, GArray *list)
{
    const rmg_quality *q = rc->quality;

    for (uint8_t bit = 0; bit < rc->rom->bits; bit++) {
        oddity o = {.e = {.kind = RMG_DIFF_DATA_FLOATS, .a = bit}};

        if ((q->follows & ~q->silent) >> bit & 1u)
            add(rc, word_oddity, &o, list);
        o.e.kind = RMG_DIFF_DATA_STUCK;
        o.why =
            "It never changes; in an image of code or text every bit does. With a good image it "
            "could be proved.";
        o.e.level = (uint8_t)(q->constant_level >> bit & 1u);
        if ((q->constant & ~q->silent) >> bit & 1u)
            add(rc, word_oddity, &o, list);
    }
    for (uint8_t bit = 0; bit < rc->rom->bits; bit++)
        for (uint8_t other = (uint8_t)(bit + 1); other < rc->rom->bits; other++) {
            oddity o = {.e = {.kind = RMG_DIFF_DATA_SHORTED, .a = bit, .b = other},
                        .why = "Both bits are the same at every word; in an image of code or text "
                               "no two are. With a good image it could be proved."};

            if (q->equal[bit] >> other & 1u)
                add(rc, word_oddity, &o, list);
        }
    for (uint8_t k = 0; k < rc->rom->lines; k++) {
        oddity o = {.e = {.kind = RMG_DIFF_LINE_STUCK, .a = k},
                    .why = "It makes no difference at any word: what is read repeats."};

        if (q->same_lines >> k & 1u)
            add(rc, word_oddity, &o, list);
    }
}
