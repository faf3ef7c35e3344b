/* Findings of a ROM that are no line: scattered bits, unsteady bits, nothing at all; and what can
 * be said with no image to compare with. */
#include <math.h>
#include <string.h>

#include "find.h"

#define LINES_NAMED 4u   /* as rivals, of those that show a blank part everywhere */
#define LEAST_ODDS  0.02 /* of several lines at once, that show a blank part everywhere */
#define FEW         8u   /* unsteady bits, that tell little of where they come from */

/* Slow, weak, enabled at the wrong time, not alone on the bus: what a chip that is right on its own
 * pins can suffer from in its board. */
static void board_rivals(rmg_rom_finding *w)
{
    const rmg_comparison *c = w->rc->comparison;

    if (c && c->left_to_one && !c->left_to_zero) {
        romfind_rival(w, 0.4, RMG_SAY_WEAKLY_PROGRAMMED);
        romfind_step(w, RMG_SAY_PROGRAM_AGAIN);
    }
    romfind_rival_by(w, 0.35, RMG_CAUSE_CHIP_SLOW, RMG_SAY_TOO_SLOW);
    romfind_rival(w, 0.25, RMG_SAY_ANOTHER_ANSWERS);
    romfind_rival(w, 0.2, RMG_SAY_SUPPLY_CONTACTS);
    romfind_rival(w, 0.2, RMG_SAY_ENABLE_LATE);
    romfind_rival(w, 0.1, RMG_SAY_NOISE_ON_LINES);
    romfind_step(w, RMG_SAY_VERIFY_AT_STEPS);
    romfind_step(w, RMG_SAY_PULL_OTHERS);
}

static void chip_cells(rmg_rom_finding *w, bool fading)
{
    romfind_rival_by(w, fading ? 0.8 : 0.6, RMG_CAUSE_CHIP_CELLS,
                     fading ? RMG_SAY_CELLS_FADE : RMG_SAY_CELLS_BAD);
    romfind_rival(w, fading ? 0.15 : 0.2, RMG_SAY_OUTSIDE_LIMITS);
    if (!w->rc->rom->bare)
        romfind_rival(w, fading ? 0.05 : 0.2, RMG_SAY_LINE_NOISE);
}

/* The data bit that has nearly all of `count`; rom->bits: none has. */
static uint8_t one_bit(const rmg_rom *rom, const uint64_t *by_bit, uint64_t count)
{
    for (uint8_t bit = 0; bit < rom->bits && count >= 8; bit++)
        if (by_bit[bit] >= count - count / 20u)
            return bit;
    return rom->bits;
}

/* A saying about one data bit. */
static rmg_saying of_bit(const rmg_rom_finding *w, rmg_said said, uint8_t bit)
{
    rmg_saying s = romfind_say(w, said);

    s.bit = bit;
    s.difference = RMG_DIFF_DATA_STUCK; /* a data bit, not an address line */
    return s;
}

/* Another version, in few places. */
static void patched(rmg_rom_finding *w)
{
    romfind_rival(w, 0.75, RMG_SAY_ANOTHER_BUILD);
    romfind_rival_by(w, 0.25, RMG_CAUSE_CHIP_CELLS, RMG_SAY_CELLS_BAD);
    romfind_step(w, RMG_SAY_IDENTIFY);
    romfind_step(w, RMG_SAY_READ_WARM_AND_COLD);
}

/* Something else drives the lines too. */
static void another(rmg_rom_finding *w)
{
    romfind_rival(w, 0.8, RMG_SAY_ANOTHER_ANSWERS);
    romfind_rival(w, 0.2, RMG_SAY_UNKNOWN_IMAGE);
    romfind_step(w, RMG_SAY_PULL_OTHERS);
    romfind_step(w, RMG_SAY_TEST_RAM_TOO);
    rmg_romfind_steps(w, false, RMG_NO_POINT);
}

/* Of a chip that the board shows a part of, it may be the other part. */
static bool shows_all(const rmg_rom *rom)
{
    const rmg_part *part =
        rom->region ? NULL : rom->board->sockets[rom->bare ? 0 : rom->socket].part;

    return !part || (uint64_t)1 << part->address_lines <= rom->words;
}

static void unknown(rmg_rom_finding *w)
{
    if (!shows_all(w->rc->rom)) {
        w->s.confidence *= 0.5;
        romfind_rival(w, 0.6, RMG_SAY_WRONG_HALF);
    }
    romfind_rival(w, 0.6, RMG_SAY_UNKNOWN_IMAGE);
    romfind_rival(w, 0.2, RMG_SAY_SEVERAL_FAULTS);
    romfind_rival_by(w, 0.2, RMG_CAUSE_CHIP_CELLS, RMG_SAY_BAD_CHIP);
    romfind_step(w, RMG_SAY_IDENTIFY);
    rmg_romfind_steps(w, false, RMG_NO_POINT);
}

/* The chip of a region that has all the bits that are left; RMG_NO_SOCKET: there is none. */
static uint16_t one_chip(const rmg_rom *rom, const rmg_comparison *c)
{
    uint16_t chip = RMG_NO_SOCKET;

    for (uint8_t bit = 0; rom->region && bit < rom->bits; bit++) {
        uint16_t socket;
        uint8_t pin;

        if (!c->left_by_bit[bit])
            continue;
        rmg_rom_bit_pin(rom, bit, &socket, &pin);
        if (chip != RMG_NO_SOCKET && socket != chip)
            return RMG_NO_SOCKET;
        chip = socket;
    }
    return chip;
}

static rmg_said said_of(const rmg_explanation *e, bool good_bare)
{
    if (good_bare)
        return RMG_SAY_ROM_WRONG_IN_BOARD;
    if (e->kind != RMG_DIFF_CELLS)
        return RMG_SAY_ROM_IMAGE;
    return e->level == 1   ? RMG_SAY_ROM_FADING
           : e->level == 0 ? RMG_SAY_ROM_BADLY_PROGRAMMED
                           : RMG_SAY_ROM_SCATTERED;
}

/* How far what is left is what such a rest usually is: many wrong bits in no order can also be what
 * this tool has no name for. */
static double known_for(const rmg_comparison *c)
{
    const rmg_explanation *e = &c->rest.is;

    if (e->kind == RMG_DIFF_CELLS && e->level == 2)
        return c->left > c->words / 50u ? 0.4 : 0.96;
    if (e->kind == RMG_DIFF_CELLS)
        return c->left > c->words / 2u ? 0.5 : 0.95;
    if (e->kind == RMG_DIFF_PATCHED)
        return e->count > 64 ? 0.6 : 0.95;
    return 0.97;
}

/* What no line and no pattern explains. */
void rmg_romfind_left(rmg_rom_finding *w, const void *what)
{
    const rmg_comparison *c = what;
    const rmg_explanation *e = &c->rest.is;
    const bool good_bare = w->rc->bare == RMG_BARE_GOOD && !w->rc->rom->bare;
    const bool fading = e->level == 1;

    w->reference = rmg_romfind_reference(c, &c->rest, 0);
    rmg_romfind_at(w, one_chip(w->rc->rom, c));
    w->s.is = romfind_say(w, said_of(e, good_bare));
    w->s.is.k = w->reference;
    w->s.is.difference = (uint8_t)e->kind;
    w->s.is.n = c->left;
    w->s.explained = c->wrong_bits ? (double)c->left / (double)c->wrong_bits : 0;
    w->s.confidence = good_bare ? 0.9 : rmg_romfind_share(&c->rest) * known_for(c);
    romfind_numbers(w, RMG_SAY_FIT_NO_LINE, c->left, c->left_to_one, c->left_to_zero);
    if (c->left_unsteady)
        romfind_numbers(w, RMG_SAY_SOME_UNSTEADY, c->left_unsteady, 0, 0);
    rmg_romfind_rivals(w, &c->rest);
    if (good_bare) {
        romfind_reason(w, RMG_SAY_RIGHT_BARE_SO_HOLDS);
        board_rivals(w);
        rmg_romfind_steps(w, false, RMG_NO_POINT);
    } else if (e->kind == RMG_DIFF_PATCHED) {
        patched(w);
    } else if (e->kind == RMG_DIFF_ANOTHER) {
        another(w);
    } else if (e->kind == RMG_DIFF_UNKNOWN) {
        unknown(w);
    } else {
        chip_cells(w, fading);
        rmg_romfind_steps(w, false, RMG_NO_POINT);
        romfind_step(w, fading ? RMG_SAY_PROGRAM_NEW : RMG_SAY_PROGRAM_ANOTHER);
    }
}

void rmg_romfind_unsteady(rmg_rom_finding *w, const void *what)
{
    const rmg_quality *q = what;
    const rmg_comparison *c = w->rc->comparison;
    const uint8_t bit = one_bit(w->rc->rom, q->by_bit, q->unsteady_bits);
    const bool one = bit != w->rc->rom->bits;
    unsigned lines = 0;

    w->s.is = of_bit(w, one ? RMG_SAY_ROM_UNSTEADY_LINE : RMG_SAY_ROM_UNSTEADY, one ? bit : 0);
    w->s.is.n = q->unsteady_bits;
    w->s.is.m = q->unsteady_words;
    w->s.is.k = q->readings;
    w->s.explained = 1;
    w->s.confidence = q->unsteady_bits < FEW ? 0.95 : 0.97;
    if (c && c->rest.is.share > 0) {
        w->s.confidence *= c->rest.is.share;
        rmg_romfind_rivals(w, &c->rest);
    }
    for (uint8_t i = 0; i < w->rc->rom->bits; i++)
        lines += q->by_bit[i] != 0;
    romfind_numbers(w,
                    one          ? RMG_SAY_UNSTEADY_ON_ONE
                    : lines == 1 ? RMG_SAY_UNSTEADY_FEW
                                 : RMG_SAY_UNSTEADY_ON_SEVERAL,
                    q->rows, RMG_ROW_WORDS, 0);
    if (one && !w->rc->rom->bare) {
        romfind_rival_of(w, 0.5, of_bit(w, RMG_SAY_CONTACT_AT, bit));
        romfind_rival_by(w, 0.3, RMG_CAUSE_CHIP_OUTPUT, RMG_SAY_OUTPUT_OF_CHIP);
        romfind_rival(w, 0.2, RMG_SAY_NOISE_ON_LINE);
    } else if (w->rc->bare == RMG_BARE_GOOD && !w->rc->rom->bare) {
        romfind_reason(w, RMG_SAY_RIGHT_BARE_SO_HOLDS);
        board_rivals(w);
    } else {
        romfind_rival_by(w, 0.6, RMG_CAUSE_CHIP_SCATTERED, RMG_SAY_WEAK_CELLS);
        romfind_rival_by(w, 0.25, RMG_CAUSE_CHIP_SLOW, RMG_SAY_AT_ITS_LIMIT);
        if (!w->rc->rom->bare)
            romfind_rival(w, 0.15, RMG_SAY_NOISE_OR_ANOTHER);
    }
    romfind_step(w, RMG_SAY_READ_WARM_AND_COLD);
    rmg_romfind_steps(w, one, RMG_NO_POINT);
}

/* `driven`: the chip is proved to drive what was read. */
static void nothing_rivals(rmg_rom_finding *w, bool driven, bool ones, bool floats)
{
    const bool bare = w->rc->rom->bare;
    const rmg_bare_result was = bare ? RMG_BARE_UNKNOWN : w->rc->bare;

    if (!floats && was != RMG_BARE_GOOD)
        romfind_rival(w, driven ? 1.0 : 0.3, ones ? RMG_SAY_ERASED : RMG_SAY_HOLDS_ZEROS);
    if (driven && was != RMG_BARE_GOOD) {
        romfind_step(w, RMG_SAY_PROGRAM_AND_VERIFY);
        return;
    }
    if (bare)
        romfind_rival(w, 0.4, RMG_SAY_ADAPTER_EMPTY);
    else if (was != RMG_BARE_BAD)
        romfind_rival(w, 0.4, RMG_SAY_NOT_ENABLED);
    if (!bare)
        romfind_rival(w, 0.3,
                      was == RMG_BARE_GOOD ? RMG_SAY_SEATED_BADLY : RMG_SAY_EMPTY_OR_SEATED);
    if (was != RMG_BARE_GOOD)
        romfind_rival_by(w, bare ? 0.3 : 0.1, RMG_CAUSE_CHIP_OUTPUT, RMG_SAY_DEAD);
    if (!bare && was != RMG_BARE_BAD) /* on its own pins it is read slowly */
        romfind_rival(w, was == RMG_BARE_GOOD ? 0.2 : 0.05, RMG_SAY_TOO_SLOW);
    rmg_romfind_steps(w, false, RMG_NO_POINT);
    if (!bare && w->socket != RMG_NO_SOCKET)
        romfind_step(w, RMG_SAY_PROBE_ENABLES);
}

static double share_of_rivals(const rmg_rom_finding *w)
{
    double sum = 0;

    for (guint i = 0; i < w->rivals->len; i++)
        sum += g_array_index(w->rivals, rmg_rival, i).share;
    return sum;
}

/* An address line, or several, that show a blank part of the image everywhere read the same: as
 * rivals, `odds` times as likely as all others; by name where they are few. */
static void blank_by_line(rmg_rom_finding *w, double odds)
{
    const rmg_comparison *c = w->rc->comparison;
    const rmg_explained *step = c && c->step_count == 1 && !c->left_touched ? &c->steps[0] : NULL;
    /* several lines at once must meet a blank part, where there is hardly anything else */
    const bool several = c && c->wrong_words < c->words / 10u;
    const double others = share_of_rivals(w);
    const guint from = w->rivals->len;

    for (size_t i = 0; step && i <= step->alike_count; i++) {
        const rmg_explanation *e = i ? &step->alike[i - 1u] : &step->is;
        rmg_saying s = romfind_say(w, RMG_SAY_EXPLAINED_BY);

        if (!(rmg_difference_of_lines(e->kind) && e->kind != RMG_DIFF_LINE_PERMUTED) &&
            !(several && (e->kind == RMG_DIFF_REPEATED || e->kind == RMG_DIFF_LINES_STUCK)))
            continue;
        s.k = rmg_romfind_reference(c, step, i);
        romfind_rival_of(w, 0, s);
    }
    if (w->rivals->len > from + LINES_NAMED || (w->rivals->len == from && odds > 0)) {
        g_array_set_size(w->rivals, from);
        romfind_rival(w, 0, RMG_SAY_LINE_SHOWS_BLANK);
    }
    for (guint i = from; i < w->rivals->len; i++)
        g_array_index(w->rivals, rmg_rival, i).share =
            others * fmax(odds, LEAST_ODDS) / (w->rivals->len - from);
    if (w->rivals->len > from && w->steps->len < 2u) /* so far it was the chip's contents alone */
        rmg_romfind_steps(w, false, RMG_NO_POINT);
}

/* Nothing, ones or zeros everywhere: what can be distinguished here, and what cannot. */
void rmg_romfind_nothing(rmg_rom_finding *w, const void *what)
{
    const rmg_quality *q = what;
    const rmg_comparison *c = w->rc->comparison;
    const double odds = c ? w->bit < c->bits ? c->hidden_bit[w->bit] : c->hidden : 0;
    const rmg_board *board = w->rc->rom->board;
    const bool floats = q->state == RMG_READ_NOTHING, ones = q->state == RMG_READ_ONES;
    const bool driven = board->undriven == RMG_UNDRIVEN_HOLDS && q->driven;
    const bool pulled = board->undriven == (ones ? RMG_UNDRIVEN_HIGH : RMG_UNDRIVEN_LOW);

    w->s.explained = 1;
    w->s.confidence = 0.9;
    w->s.is = romfind_say(w, floats   ? RMG_SAY_ROM_NOTHING
                             : driven ? ones ? RMG_SAY_ROM_BLANK : RMG_SAY_ROM_DRIVES_ZEROS
                             : ones   ? RMG_SAY_ROM_ONES
                                      : RMG_SAY_ROM_ZEROS);
    romfind_reason(w, floats   ? RMG_SAY_DRIVEN_AND_READ_SO
                      : driven ? RMG_SAY_DRIVEN_OTHERWISE
                      : pulled ? ones ? RMG_SAY_PULLED_TO_ONES : RMG_SAY_PULLED_TO_ZEROS
                               : RMG_SAY_UNDRIVEN_NOT_TRIED);
    nothing_rivals(w, driven && !floats, ones && !floats, floats);
    if (!floats) {
        blank_by_line(w, odds);
        w->s.confidence /= 1 + odds;
    }
}

/* Two data bits, or a data bit and a level. */
typedef struct oddity {
    rmg_explanation e;
    rmg_said why;
} oddity;

static void put_oddity(rmg_rom_finding *w, const void *what)
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
        g_array_index(w->reasons, rmg_saying, 0).said = o->why;
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
            add(rc, put_oddity, &o, list);
        o.e.kind = RMG_DIFF_DATA_STUCK;
        o.why = RMG_SAY_NEVER_CHANGES;
        o.e.level = (uint8_t)(q->constant_level >> bit & 1u);
        if ((q->constant & ~q->silent) >> bit & 1u)
            add(rc, put_oddity, &o, list);
    }
    for (uint8_t bit = 0; bit < rc->rom->bits; bit++)
        for (uint8_t other = (uint8_t)(bit + 1); other < rc->rom->bits; other++) {
            oddity o = {.e = {.kind = RMG_DIFF_DATA_SHORTED, .a = bit, .b = other},
                        .why = RMG_SAY_ALIKE_EVERYWHERE};

            if (q->equal[bit] >> other & 1u)
                add(rc, put_oddity, &o, list);
        }
    for (uint8_t k = 0; k < rc->rom->lines; k++) {
        oddity o = {.e = {.kind = RMG_DIFF_LINE_STUCK, .a = k}, .why = RMG_SAY_MAKES_NO_DIFFERENCE};

        if (q->same_lines >> k & 1u)
            add(rc, put_oddity, &o, list);
    }
}
