/* Findings of a ROM's lines: data and address lines, halves, offsets, other images. */
#include <glib.h>
#include <string.h>

#include "find.h"

#define SUREST      0.97
#define REST_WEIGHT 5.0 /* by which a share that is left unexplained makes a step less sure, */
#define REST_MOST   0.6 /* at most so */
#define RARELY_CHIP 0.3 /* what comes and goes is a contact more often than an output */
#define NAMED       5u  /* explanations that fit as well, in words; the JSON result has them all */

static bool is_line(rmg_difference kind)
{
    return rmg_difference_of_lines(kind) && kind != RMG_DIFF_LINE_INVERTED &&
           kind != RMG_DIFF_LINE_PERMUTED;
}

/* The traced line of a bus bit, as far as the board file has it; not of a bare chip. RMG_NO_POINT:
 * none. */
static uint16_t traced(const rmg_rom_finding *w, rmg_difference kind, uint8_t a)
{
    const rmg_rom *rom = w->rc->rom;
    const bool data = rmg_difference_of_data(kind);
    const rmg_line_kind wanted = data ? RMG_LINE_DATA : RMG_LINE_ADDRESS;

    for (size_t i = 0; !rom->bare && i < rom->board->line_count; i++) {
        const rmg_line *line = &rom->board->lines[i];

        if (line->kind == wanted && line->bit == (data ? rom->bus_bit[a] : rom->bus_line[a]))
            return (uint16_t)i;
    }
    return RMG_NO_POINT;
}

/* The chip's own point on the line, behind another one, where it is traced; else RMG_NO_POINT. */
static uint16_t own_point(const rmg_rom_finding *w, uint16_t number)
{
    const rmg_line *line = number == RMG_NO_POINT ? NULL : &w->rc->rom->board->lines[number];

    for (uint16_t p = 0; line && p < line->point_count; p++)
        if (line->points[p].socket == w->socket && line->points[p].parent != RMG_NO_POINT)
            return p;
    return RMG_NO_POINT;
}

/* A saying about the explanation's bits or lines, and where they run. */
static rmg_saying say_of(const rmg_rom_finding *w, rmg_said said, const rmg_explanation *e,
                         uint16_t line)
{
    rmg_saying s = romfind_say(w, said);

    s.bit = e->a;
    s.bit2 = e->b;
    s.level = e->level;
    s.k = w->reference;
    s.difference = (uint8_t)e->kind;
    s.line = line;
    s.point = own_point(w, line);
    return s;
}

/* Was this end of the line measured already? */
static bool is_measured(const rmg_rom_finding *w, uint16_t line, uint16_t point)
{
    for (size_t i = 0; i < w->facts->open_count; i++)
        if (w->facts->open[i].line == line)
            return true;
    return rmg_facts_sound(w->facts, line, point, false);
}

void rmg_romfind_steps(rmg_rom_finding *w, bool data_line, uint16_t line)
{
    const bool chip = w->socket != RMG_NO_SOCKET;
    rmg_saying measure = romfind_say(w, RMG_SAY_MEASURE_FROM_PIN);

    if (w->rc->rom->bare)
        return;
    if (chip && !w->soldered)
        romfind_step(w, RMG_SAY_RESEAT_AND_READ);
    if (chip && !w->soldered && w->rc->bare == RMG_BARE_UNKNOWN &&
        !rmg_facts_chip_good(w->facts, w->socket)) {
        romfind_step(w, RMG_SAY_PULL_AND_VERIFY);
        w->s.settles = romfind_say(w, RMG_SAY_SETTLE_BARE);
    }
    if (data_line && !w->rc->ram_good)
        romfind_step(w, RMG_SAY_TEST_RAM_ON_LINES);
    measure.line = line;
    measure.point = own_point(w, line);
    if (measure.point != RMG_NO_POINT && !is_measured(w, line, measure.point))
        g_array_append_val(w->steps, measure);
}

/* Contact, line, chip and what else is on the line, as the bare reading leaves them. */
static void pin_rivals(rmg_rom_finding *w, const rmg_explanation *e, uint16_t line)
{
    const bool data = rmg_difference_of_data(e->kind);
    const bool before = own_point(w, line) != RMG_NO_POINT;
    const rmg_bare_result bare = w->rc->bare;

    if (w->rc->rom->bare) {
        romfind_rival_of(w, 0.9, say_of(w, RMG_SAY_CHIP_ITSELF_AT, e, line));
        romfind_rival(w, 0.1, RMG_SAY_ADAPTER_CONTACT);
        return;
    }
    if (bare != RMG_BARE_GOOD)
        romfind_cause(w,
                      bare == RMG_BARE_BAD ? 10
                      : e->sometimes       ? RARELY_CHIP
                                           : 1,
                      data ? RMG_CAUSE_CHIP_OUTPUT : RMG_CAUSE_CHIP_ADDRESS,
                      say_of(w, data ? RMG_SAY_CHIP_OUTPUT_AT : RMG_SAY_CHIP_INPUT_AT, e, line));
    romfind_cause(w, 1, data ? RMG_CAUSE_CONTACT_OUTPUT : RMG_CAUSE_CONTACT_ADDRESS,
                  say_of(w, w->soldered ? RMG_SAY_JOINT_AT : RMG_SAY_CONTACT_AT, e, line));
    romfind_cause(w, 1, data ? RMG_CAUSE_TRACK_DATA : RMG_CAUSE_TRACK_ADDRESS,
                  say_of(w, before ? RMG_SAY_TRACK_TO_PIN : RMG_SAY_TRACK_TO_IT, e, line));
    if (data && !w->rc->ram_good && e->kind != RMG_DIFF_DATA_FLOATS) /* what floats, none holds */
        romfind_cause(w, e->steady ? 1 : 0.2, RMG_CAUSE_CHIP_DRAGS,
                      romfind_say(w, RMG_SAY_ANOTHER_CHIP_HOLDS));
}

/* The line serves the RAM, the chip is good on its own pins: only what lies between is left. */
static void only_stretch(rmg_rom_finding *w, const rmg_explanation *e, uint16_t line)
{
    rmg_saying passes = say_of(w, RMG_SAY_RAM_PASSES, e, line);

    if (!rmg_difference_of_data(e->kind) || !w->rc->ram_good || w->rc->bare != RMG_BARE_GOOD ||
        passes.point == RMG_NO_POINT || w->rc->rom->bare)
        return;
    w->s.is = say_of(w, RMG_SAY_ROM_STRETCH, e, line);
    g_array_append_val(w->reasons, passes);
    w->s.settles = say_of(w, RMG_SAY_SETTLE_STRETCH, e, line);
}

static void data_or_address(rmg_rom_finding *w, const rmg_explanation *e)
{
    const rmg_rom *rom = w->rc->rom;
    const bool data = rmg_difference_of_data(e->kind);
    const uint16_t line = traced(w, e->kind, e->a);
    const bool two = rmg_difference_of_two(e->kind);
    const bool swapped = e->kind == RMG_DIFF_DATA_SWAPPED || e->kind == RMG_DIFF_LINE_SWAPPED;
    const bool good_bare = w->rc->bare == RMG_BARE_GOOD;

    w->s.finding.line = line;
    w->s.finding.point = own_point(w, line);
    w->s.is = say_of(w,
                     data  ? two ? RMG_SAY_ROM_DATA_LINES : RMG_SAY_ROM_DATA_LINE
                     : two ? RMG_SAY_ROM_ADDRESS_LINES
                           : RMG_SAY_ROM_ADDRESS_LINE,
                     e, line);
    if (swapped) {
        romfind_rival(w, 0.45, RMG_SAY_BOARD_CROSSES);
        romfind_rival(w, 0.35, RMG_SAY_CROSSED_IN_REPAIR);
        if (!good_bare)
            romfind_rival(w, 0.3, RMG_SAY_PROGRAMMED_CROSSED);
    } else if (two) {
        romfind_cause(w, 0.75, RMG_CAUSE_LINE_BRIDGE, romfind_say(w, RMG_SAY_BRIDGE_OR_LEG));
        romfind_cause(w, 0.25, RMG_CAUSE_LINE_BRIDGE, romfind_say(w, RMG_SAY_TRACKS_TOUCH));
        if (!good_bare)
            romfind_cause(w, 1, RMG_CAUSE_CHIP_BRIDGE, romfind_say(w, RMG_SAY_CHIP_ITSELF));
    } else {
        pin_rivals(w, e, line);
        only_stretch(w, e, line);
    }
    if (e->kind == RMG_DIFF_LINE_STUCK && e->a + 1u == rom->lines) {
        if (!good_bare)
            romfind_rival_by(w, rom->bare ? 0.3 : 30, RMG_CAUSE_PART_SMALLER,
                             RMG_SAY_SMALLER_OR_REPEATED);
        if (!rom->bare)
            romfind_rival(w, 10, RMG_SAY_WRONG_HALF);
    }
    rmg_romfind_steps(w, data, line);
    if (swapped)
        romfind_step(w, RMG_SAY_MAKE_CROSSED);
}

/* To the end: programming ended early, unless it is a part of the chip that an enable may govern.
 */
static void blank_rivals(rmg_rom_finding *w, const rmg_explanation *e)
{
    const uint64_t end = e->first + e->count;
    const bool even = (e->first & (e->first - 1u)) == 0 && end == w->rc->rom->words;

    if (end == w->rc->rom->words)
        romfind_rival(w, even ? 0.7 : 0.9, RMG_SAY_STOPPED_EARLY);
    else
        romfind_rival(w, 0.7, RMG_SAY_BLOCK_NOT_PROGRAMMED);
    romfind_rival(w, 0.2, RMG_SAY_ANOTHER_BUILD);
    if (even)
        romfind_rival(w, 0.1, RMG_SAY_HALF_NOT_ENABLED);
    romfind_step(w, RMG_SAY_PROGRAM_ANOTHER);
}

static void image_kinds(rmg_rom_finding *w, const rmg_explanation *e)
{
    w->s.is = say_of(w, RMG_SAY_ROM_IMAGE, e, RMG_NO_POINT);
    switch (e->kind) {
    case RMG_DIFF_OTHER_IMAGE:
        romfind_rival(w, 1, RMG_SAY_ANOTHER_VERSION);
        romfind_step(w, RMG_SAY_COMPARE_WITH_FOUND);
        break;
    case RMG_DIFF_BYTES_SWAPPED:
        romfind_rival(w, 0.7, RMG_SAY_EXCHANGED_SOCKETS);
        romfind_rival(w, 0.3, RMG_SAY_SPLIT_EXCHANGED);
        romfind_step(w, RMG_SAY_EXCHANGE_CHIPS);
        break;
    case RMG_DIFF_LINE_INVERTED:
        romfind_rival(w, 0.6, RMG_SAY_PARTS_EXCHANGED);
        romfind_rival(w, 0.4, RMG_SAY_JUMPER_OR_INVERTER);
        break;
    case RMG_DIFF_OFFSET:
    case RMG_DIFF_MOVED:
        romfind_rival(w, 1, RMG_SAY_WRONG_OFFSET);
        romfind_step(w, RMG_SAY_MAKE_ANEW);
        break;
    case RMG_DIFF_SHIFTED:
        romfind_rival(w, 0.6, RMG_SAY_ANOTHER_BUILD);
        romfind_rival(w, 0.4, RMG_SAY_FILE_DAMAGED);
        romfind_step(w, RMG_SAY_IDENTIFY);
        break;
    case RMG_DIFF_LATE:
        romfind_rival_by(w, 0.45, RMG_CAUSE_CHIP_SLOW, RMG_SAY_TOO_SLOW);
        romfind_rival(w, 0.3, RMG_SAY_ENABLE_LATE);
        romfind_rival(w, 0.25, RMG_SAY_SUPPLY_CONTACTS);
        romfind_step(w, RMG_SAY_VERIFY_AT_STEPS);
        rmg_romfind_steps(w, false, RMG_NO_POINT);
        break;
    case RMG_DIFF_LINES_STUCK:
    case RMG_DIFF_REPEATED:
        romfind_rival(w, 0.6, RMG_SAY_SMALLER_OR_REPEATED);
        romfind_rival(w, 0.4, RMG_SAY_LINES_NOT_CONNECTED);
        rmg_romfind_steps(w, false, RMG_NO_POINT);
        break;
    case RMG_DIFF_HALF_BLANK:
        romfind_rival(w, 0.9, RMG_SAY_HALF_PROGRAMMED);
        romfind_rival(w, 0.1, RMG_SAY_HALF_NOT_ENABLED);
        break;
    case RMG_DIFF_BLANK:
        blank_rivals(w, e);
        break;
    case RMG_DIFF_WITH_IMAGE:
        romfind_rival(w, 1, RMG_SAY_ANOTHER_ANSWERS);
        romfind_step(w, RMG_SAY_PULL_OTHERS);
        break;
    default:
        romfind_rival(w, 0.6, RMG_SAY_OTHER_BOARD);
        romfind_rival(w, 0.4, RMG_SAY_BOARD_NOT_AS_TOLD);
        romfind_step(w, RMG_SAY_MAKE_FOR_BOARD);
        break;
    }
    if (e->kind == RMG_DIFF_HALF_BLANK || e->kind == RMG_DIFF_LINE_INVERTED)
        rmg_romfind_steps(w, false, RMG_NO_POINT);
}

static double share_of(const rmg_comparison *c, uint64_t bits)
{
    return c->wrong_bits ? MIN((double)bits / (double)c->wrong_bits, 1.0) : 0;
}

/* What explains it as well, the likelier first; by how much, where it does not read the same. */
void rmg_romfind_rivals(rmg_rom_finding *w, const rmg_explained *step)
{
    for (size_t i = 0; i < step->alike_count && i < NAMED; i++) {
        const rmg_explanation *other = &step->alike[i];
        rmg_saying s = say_of(w,
                              other->predicted == step->is.predicted && other->seen == step->is.seen
                                  ? RMG_SAY_READS_THE_SAME
                                  : RMG_SAY_FITS_TOO,
                              other, RMG_NO_POINT);

        s.k = rmg_romfind_reference(w->rc->comparison, step, i + 1u);
        s.n = (uint64_t)(100 * other->share + 0.5);
        g_array_append_val(w->reasons, s);
    }
    if (step->alike_count > NAMED)
        romfind_numbers(w, RMG_SAY_MORE_FIT, step->alike_count - NAMED, 0, 0);
}

/* How sure a step is of itself: its share, and never quite. */
double rmg_romfind_share(const rmg_explained *step)
{
    return step->is.share > 0 ? SUREST * step->is.share : SUREST;
}

/* What the steps together leave unexplained speaks against all of them. */
static double clear_of_rest(const rmg_comparison *c)
{
    const double all = (double)(c->wrong_bits + 1u), left = (double)c->left;

    return 1 - MIN(REST_MOST, REST_WEIGHT * left / all);
}

void rmg_romfind_at(rmg_rom_finding *w, uint16_t socket)
{
    if (socket == RMG_NO_SOCKET)
        return;
    w->socket = w->s.finding.socket = socket;
    w->soldered = w->rc->board->sockets[socket].mount != RMG_MOUNT_SOCKET;
}

void rmg_romfind_step(rmg_rom_finding *w, const void *what)
{
    const rmg_explained *step = what;
    const rmg_explanation *e = &step->is;
    const rmg_rom_case *rc = w->rc;
    const rmg_comparison *c = rc->comparison;

    w->reference = rmg_romfind_reference(c, step, 0);
    rmg_romfind_at(w, rmg_rom_part_socket(rc->rom, e->part));
    if (rmg_difference_of_data(e->kind) || is_line(e->kind))
        data_or_address(w, e);
    else
        image_kinds(w, e);
    w->s.explained = share_of(c, e->seen);
    w->s.confidence = rmg_romfind_share(step) * clear_of_rest(c);
    if (e->sometimes)
        romfind_numbers(w, RMG_SAY_COULD_SHOW, e->predicted, e->seen, 0);
    else if (e->kind == RMG_DIFF_DATA_FLOATS)
        romfind_numbers(w, RMG_SAY_FOLLOWED_THE_LINE, c->words, 0, 0);
    else
        romfind_numbers(w, RMG_SAY_PREDICTS, e->predicted, e->seen, 0);
    if (rc->bare == RMG_BARE_GOOD && !rc->rom->bare)
        romfind_reason(w, RMG_SAY_RIGHT_BARE);
    rmg_romfind_rivals(w, step);
}
