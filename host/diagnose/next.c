/* What looks the same from here, and the steps that distinguish it: cheapest first, and only those
 * this board allows. */
#include <string.h>

#include "kinds.h"
#include "moments.h"
#include "share.h"

#define FEW_TO_SWAP_FOR 2u  /* failing reads: run it again before a chip is touched */
#define TOUCHES         0.5 /* times: lines that touch show at one pair of levels only */

/* A cause that looks the same from here; left out where what is known speaks against it. */
void rmg_next_rival(wording *w, rmg_cause cause, rmg_said said)
{
    const uint16_t socket = w->s->finding.socket;
    const bool soldered =
        socket != RMG_NO_SOCKET && w->board->sockets[socket].mount != RMG_MOUNT_SOCKET;
    const rmg_cause_table *table = &w->facts->causes;
    const rmg_rival one = {.is = rmg_say_of(&w->s->finding, said),
                           .share = soldered ? table->soldered[cause] : table->socketed[cause],
                           .cause = cause};

    g_array_append_val(w->rivals, one);
}

/* Several sockets alike. One fault of what they share is likelier by far than one at each: with a
 * chance of one in some hundred for each socket, two such faults at once are that chance squared.
 */
void rmg_next_each_of_these(wording *w)
{
    bool *sockets = g_new0(bool, MAX(w->board->socket_count, 1u));
    const rmg_rival each = {.is = rmg_say_of(&w->s->finding, RMG_SAY_EACH_OF_THESE),
                            .share = 0.05 * w->facts->causes.socketed[RMG_CAUSE_LINE_TRACK],
                            .cause = RMG_CAUSES};
    unsigned count = 0;

    rmg_finding_sockets(w->run, &w->s->finding, sockets);
    for (size_t i = 0; i < w->board->socket_count; i++)
        count += sockets[i];
    g_free(sockets);
    if (count > 1 && !w->s->finding.or_each) /* else they are suspects of their own */
        g_array_append_val(w->rivals, each);
}

void rmg_next_settle(wording *w, rmg_said said)
{
    rmg_add_settling_step(w, rmg_say_of(&w->s->finding, said));
}

static const rmg_socket *socket_of(const wording *w)
{
    return &w->board->sockets[w->s->finding.socket];
}

static bool is_soldered(const wording *w)
{
    return socket_of(w)->mount != RMG_MOUNT_SOCKET;
}

/* Would an empty socket, or an output that does not reach the bus, read like this? */
bool rmg_next_reads_undriven(const wording *w)
{
    const rmg_finding *f = &w->s->finding;

    if (!w->board->undriven_known) /* any steady reading may be that */
        return f->high == f->bits || f->low == f->bits || f->opposite == f->bits;
    switch (w->board->undriven) {
    case RMG_UNDRIVEN_HIGH:
        return f->high == f->bits;
    case RMG_UNDRIVEN_LOW:
        return f->low == f->bits;
    default:
        return f->opposite == f->bits;
    }
}

/* Does something pull undriven lines to a level, as far as is known? */
bool rmg_next_may_be_pulled(const wording *w)
{
    return w->board->undriven_known ? w->board->undriven != RMG_UNDRIVEN_HOLDS
                                    : w->s->finding.opposite != w->s->finding.bits;
}

/* The track, or where the line is traced the very stretch of it. */
rmg_said rmg_next_track(const wording *w, rmg_said untraced)
{
    return w->s->finding.point != RMG_NO_POINT ? RMG_SAY_TRACED_STRETCH : untraced;
}

/* Parts that the traced line passes on its last stretch to the chip: a resistor, a buffer. */
static void parts_on_the_way(wording *w)
{
    const rmg_finding *f = &w->s->finding;
    const rmg_line *line = f->point == RMG_NO_POINT ? NULL : &w->board->lines[f->line];

    for (uint16_t p = f->point; line && p < line->point_count; p++) {
        uint16_t up = p;

        while (up != RMG_NO_POINT && up != f->point)
            up = line->points[up].parent;
        if (up == f->point && line->points[p].parent != RMG_NO_POINT &&
            rmg_point_is_part(&line->points[p])) {
            rmg_saying across = rmg_say_of(f, RMG_SAY_METER_ACROSS);

            /* a resistor breaks less often than a buffer */
            rmg_next_rival(
                w, strchr(line->points[p].name, '>') ? RMG_CAUSE_LINE_PART : RMG_CAUSE_LINE_JOINT,
                RMG_SAY_METER_PART);
            g_array_index(w->rivals, rmg_rival, w->rivals->len - 1u).is.point = p;
            across.point = p;
            across.n = rmg_line_far_side(line->points[p].parent);
            across.m = rmg_line_far_side((uint16_t)MIN(p + 1u, line->point_count - 1u));
            rmg_add_step(w, across);
        }
    }
}

static void step_supplies(wording *w)
{
    const char *supplies = socket_of(w)->part->supplies;

    if (supplies[strspn(supplies, " ")])
        rmg_step_to_take(w, RMG_SAY_MEASURE_SUPPLIES);
}

static void step_contact(wording *w, rmg_pins pins)
{
    rmg_saying step =
        rmg_say_of(&w->s->finding, is_soldered(w) ? RMG_SAY_SOLDER_JOINTS : RMG_SAY_RESEAT);

    step.pins = pins;
    rmg_add_step(w, step);
}

/* Is a joint at certain pins among the rivals? Then a meter can tell it from the chip. */
static bool joint_is_rival(const wording *w)
{
    for (guint i = 0; i < w->rivals->len; i++) {
        const rmg_cause cause = g_array_index(w->rivals, rmg_rival, i).cause;

        if (cause >= RMG_CAUSE_CONTACT_OUTPUT && cause < RMG_CAUSE_CONTACT_SELECT)
            return true;
    }
    return false;
}

/* The step that distinguishes chip from place: a swap where both are in sockets, a meter where a
 * joint is a rival, else another way. */
static void step_settle(wording *w, rmg_pins pins)
{
    const bool soldered = is_soldered(w);
    const uint16_t other = rmg_neighbour_of(w);
    rmg_saying step = rmg_say_of(&w->s->finding, RMG_SAY_PIGGYBACK);

    if (rmg_facts_chip_good(w->facts, w->s->finding.socket))
        step.said = RMG_SAY_MEASURE_FROM_LEGS;
    else if (!soldered && other != RMG_NO_SOCKET)
        step.said = RMG_SAY_SWAP;
    else if (!soldered)
        step.said = RMG_SAY_KNOWN_GOOD_CHIP;
    if (step.said == RMG_SAY_SWAP)
        step.other = other;
    step.pins = pins;
    if (step.said == RMG_SAY_PIGGYBACK && socket_of(w)->mount == RMG_MOUNT_SOLDERED &&
        joint_is_rival(w)) {
        rmg_saying measure = step;

        measure.said = RMG_SAY_MEASURE_TO_LEG;
        rmg_add_settling_step(w, measure);
        rmg_add_step(w, step);
        return;
    }
    rmg_add_settling_step(w, step);
}

/* Are all outputs of a chip with several silent? Then it is not their eight contacts. */
static bool silent_chip(const wording *w)
{
    const rmg_finding *f = &w->s->finding;

    return socket_of(w)->part->width > 1 && f->bits == rmg_board_bits(w->board, f->bank, f->socket);
}

/* A chip that answers on none of its outputs. */
static void silent_chip_rivals(wording *w)
{
    const bool soldered = is_soldered(w);

    rmg_next_rival(w, RMG_CAUSE_CHIP_OUTPUT, RMG_SAY_SILENT_CHIP);
    rmg_next_rival(w, RMG_CAUSE_CONTACT_SELECT,
                   soldered ? RMG_SAY_SELECT_JOINT : RMG_SAY_SELECT_CONTACT);
    rmg_next_rival(w, RMG_CAUSE_PART_MISSING, RMG_SAY_CHIP_MISSING);
    rmg_step_to_take(w, RMG_SAY_LOOK_FOR_CHIP);
    step_supplies(w);
    rmg_step_to_take(w, RMG_SAY_PROBE_SELECT_OF);
    step_settle(w, RMG_PINS_DATA);
}

/* A bit that reads as it would with nothing behind the pin. Where a resistor pulls the line, a
 * short to that level looks the same. */
static void undriven_rivals(wording *w)
{
    const bool pulled = rmg_next_may_be_pulled(w);

    rmg_next_rival(w, RMG_CAUSE_CHIP_OUTPUT, RMG_SAY_DEAD_CHIP);
    if (is_soldered(w)) {
        rmg_next_rival(w, RMG_CAUSE_CONTACT_OUTPUT, RMG_SAY_JOINT_AT_DATA);
        rmg_next_rival(w, RMG_CAUSE_TRACK_DATA, rmg_next_track(w, RMG_SAY_TRACK_TO_DATA));
        rmg_next_rival(w, RMG_CAUSE_PART_MISSING, RMG_SAY_CHIP_MISSING);
    } else {
        rmg_next_rival(w, RMG_CAUSE_CONTACT_OUTPUT, RMG_SAY_CONTACT_AT_DATA);
        rmg_next_rival(w, RMG_CAUSE_PART_MISSING, RMG_SAY_CHIP_MISSING);
        rmg_next_rival(w, RMG_CAUSE_TRACK_DATA, rmg_next_track(w, RMG_SAY_TRACK_TO_DATA));
    }
    parts_on_the_way(w);
    if (pulled)
        rmg_next_rival(w, RMG_CAUSE_SHORT_PIN, RMG_SAY_SHORT_TO_PULL);
    rmg_step_to_take(w, RMG_SAY_LOOK_FOR_CHIP);
}

/* A bit that something holds at a level. An open output would read otherwise; an open input of a
 * part that has one may not. */
static void driven_rivals(wording *w)
{
    const rmg_socket *s = socket_of(w);

    rmg_next_rival(w, RMG_CAUSE_CHIP_OUTPUT, RMG_SAY_OUTPUT_STUCK);
    if (s->part->width == 1)
        rmg_next_rival(w, RMG_CAUSE_CONTACT_INPUT,
                       is_soldered(w) ? RMG_SAY_INPUT_JOINT : RMG_SAY_INPUT_CONTACT);
    rmg_next_rival(w, RMG_CAUSE_SHORT_PIN, RMG_SAY_SHORT_AT_OUTPUT);
}

/* A bit that reads now this, now that: a contact as likely as the chip. */
static void unsteady_rivals(wording *w)
{
    const bool soldered = is_soldered(w);

    rmg_next_rival(w, RMG_CAUSE_CHIP_OUTPUT, RMG_SAY_OUTPUT_UNSTEADY);
    rmg_next_rival(w, RMG_CAUSE_CONTACT_OUTPUT,
                   soldered ? RMG_SAY_JOINT_AT_DATA : RMG_SAY_CONTACT_AT_DATA);
    rmg_next_rival(w, RMG_CAUSE_TRACK_DATA, rmg_next_track(w, RMG_SAY_TRACK_TO_DATA));
    rmg_next_rival(w, RMG_CAUSE_CONTACT_SELECT,
                   soldered ? RMG_SAY_SELECT_JOINT : RMG_SAY_SELECT_CONTACT);
    parts_on_the_way(w);
}

static bool unsteady(const wording *w)
{
    const rmg_finding *f = &w->s->finding;

    return (f->low | f->high | f->opposite) != f->bits;
}

/* A ROM cannot be. */
static bool can_test(const wording *w, uint8_t bank)
{
    const rmg_part *part = w->board->banks[bank].part;

    return part && part->kind != RMG_PART_ROM;
}

/* A bank of RAM that was not tested, with chips on the same data lines; RMG_NO_BANK: none. */
static uint8_t untested_on_lines(const wording *w)
{
    const rmg_finding *f = &w->s->finding;

    for (uint16_t r = 0; r < w->board->placement.rule_count && !w->run->heard; r++) {
        const rmg_rule *rule = &w->board->placement.rules[r];

        if (rule->bank < w->board->bank_count && rule->bank != f->bank &&
            !w->run->bank_words[rule->bank] && (rmg_rule_bits(rule) & f->bits) &&
            can_test(w, rule->bank) && rmg_one_bus(w->board, rule->bank, f->bank))
            return rule->bank;
    }
    return RMG_NO_BANK;
}

/* Where no other chip on the line was tested it may be the line. */
static bool line_not_tested(wording *w, rmg_saying *step)
{
    const uint8_t bank = untested_on_lines(w);

    if (bank == RMG_NO_BANK || w->s->finding.bits & (w->s->finding.bits - 1u))
        return false;
    rmg_next_rival(w, RMG_CAUSE_LINE_DRIVER, RMG_SAY_LINE_NOT_TESTED);
    *step = rmg_say_of(&w->s->finding, RMG_SAY_TEST_ON_LINES);
    step->bank = bank;
    rmg_add_step(w, *step);
    return true;
}

void rmg_next_data_at_socket(wording *w)
{
    rmg_saying others;
    bool may_be_line;

    if (rmg_next_reads_undriven(w) && silent_chip(w)) {
        silent_chip_rivals(w);
        return;
    }
    if (rmg_next_reads_undriven(w))
        undriven_rivals(w);
    else if (unsteady(w))
        unsteady_rivals(w);
    else
        driven_rivals(w);
    may_be_line = line_not_tested(w, &others);
    step_supplies(w);
    step_contact(w, RMG_PINS_DATA);
    step_settle(w, RMG_PINS_DATA);
    if (may_be_line)
        w->s->settles = others;
}

/* Is the chip's last address line among those without effect? */
static bool is_last_line(const wording *w)
{
    const rmg_placement *placement = &w->board->placement;

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];
        const uint8_t last =
            rule->address_lines ? rule->address_bits[rule->address_lines - 1u] : RMG_FEED_0;

        if (rule->socket == w->s->finding.socket && rule->bank == w->s->finding.bank)
            return last < RMG_ADDR_BITS && (w->s->finding.lines >> last & 1u);
    }
    return false;
}

/* Address lines that are at both levels within a range. */
static rmg_addr lines_within(const rmg_range *range)
{
    rmg_addr lines = 0;

    for (unsigned i = 0; i < RMG_ADDR_BITS; i++)
        if (range->first >> i != range->last >> i)
            lines |= (rmg_addr)1 << i;
    return lines;
}

void rmg_next_still(wording *w)
{
    const rmg_board *board = w->board;
    rmg_addr of_ram = 0, tested = 0, still;
    const rmg_addr at_first = w->run->tested_count ? w->run->tested[0].first : 0;

    for (size_t i = 0; i < w->run->tested_count; i++)
        tested |= lines_within(&w->run->tested[i]) | (w->run->tested[i].first ^ at_first);
    for (size_t i = 0; i < board->region_count; i++)
        if (board->regions[i].kind == RMG_REGION_RAM)
            of_ram |=
                lines_within(&board->regions[i].range) | (board->regions[i].range.first ^ at_first);
    still = of_ram & ~tested;
    if (!still || w->run->heard || !w->run->tested_count)
        return;
    rmg_next_rival(w, RMG_CAUSE_LINE_BRIDGE, RMG_SAY_TOUCHES_STILL);
    g_array_index(w->rivals, rmg_rival, w->rivals->len - 1u).is.lines = still;
    g_array_index(w->rivals, rmg_rival, w->rivals->len - 1u).share *=
        TOUCHES * rmg_ones_of(still) / board->address_bits;
    rmg_step_to_take(w, RMG_SAY_TEST_MORE);
}

void rmg_next_address_at_socket(wording *w)
{
    rmg_next_rival(w, RMG_CAUSE_CONTACT_ADDRESS,
                   is_soldered(w) ? RMG_SAY_ADDRESS_JOINT : RMG_SAY_ADDRESS_CONTACT);
    rmg_next_rival(w, RMG_CAUSE_CHIP_ADDRESS, RMG_SAY_CHIP_ADDRESS);
    rmg_next_rival(w, RMG_CAUSE_TRACK_ADDRESS, rmg_next_track(w, RMG_SAY_TRACK_TO_ADDRESS));
    parts_on_the_way(w);
    rmg_next_rival(w, RMG_CAUSE_PART_SMALLER, RMG_SAY_SMALLER_PART);
    if (is_last_line(w)) /* the very line that a part of the next smaller size lacks */
        g_array_index(w->rivals, rmg_rival, w->rivals->len - 1u).share *= 5;
    rmg_next_still(w);
    rmg_step_to_take(w, RMG_SAY_READ_MARKING);
    step_contact(w, RMG_PINS_ADDRESS);
    step_settle(w, RMG_PINS_ADDRESS);
}

/* What the chips of a bank hold is known once it was tested. */
static rmg_saying test_it(const wording *w, uint8_t bank)
{
    rmg_saying step = rmg_say_of(&w->s->finding, RMG_SAY_TEST_ITS_BANK);

    step.bank = bank;
    return step;
}

void rmg_next_cells(wording *w)
{
    const rmg_socket *s = socket_of(w);
    /* what does not repeat may be anything, however few cells it hit */
    const bool comes_and_goes = w->run->pass_count > 1 && !rmg_run_repeats(w->run);
    const bool few = !comes_and_goes && w->cells.shape != SHAPE_SCATTERED;

    rmg_next_rival(w, few ? RMG_CAUSE_CHIP_CELLS : RMG_CAUSE_CHIP_SCATTERED, RMG_SAY_CHIP);
    if (!few) {
        rmg_next_rival(w, RMG_CAUSE_SUPPLY, RMG_SAY_SUPPLY_REFRESH_TIMING);
        rmg_next_rival(w, RMG_CAUSE_CONTACT_ANY,
                       is_soldered(w) ? RMG_SAY_ANY_JOINT : RMG_SAY_ANY_CONTACT);
        if (comes_and_goes)
            rmg_next_rival(w, RMG_CAUSE_TRACK_DATA, RMG_SAY_TRACK_TO_SOCKET);
    } else {
        rmg_next_rival(w, RMG_CAUSE_SUPPLY,
                       s->part->kind == RMG_PART_DRAM ? RMG_SAY_SUPPLY_OR_REFRESH : RMG_SAY_SUPPLY);
    }
    if (w->s->finding.untested && can_test(w, w->s->finding.bank2))
        rmg_add_step(w, test_it(w, w->s->finding.bank2));
    if (!rmg_run_repeats(w->run))
        rmg_step_to_take(w, w->run->pass_count < 4 ? RMG_SAY_MORE_PASSES : RMG_SAY_WARM_AND_COOL);
    step_supplies(w);
    step_settle(w, RMG_PINS_DATA);
    if (!rmg_run_repeats(w->run) &&
        w->s->finding.failed_high + w->s->finding.failed_low <= FEW_TO_SWAP_FOR)
        w->s->settles = rmg_say_of(&w->s->finding, RMG_SAY_MORE_PASSES);
    else if (w->s->finding.untested && can_test(w, w->s->finding.bank2))
        w->s->settles = test_it(w, w->s->finding.bank2);
}

void rmg_next_never_written(wording *w)
{
    const rmg_socket *s = socket_of(w);
    const bool whole = s->part->width > 1 || w->s->finding.bits == 0;

    rmg_next_rival(w, RMG_CAUSE_CONTACT_WRITE,
                   is_soldered(w) ? RMG_SAY_WRITE_JOINT : RMG_SAY_WRITE_CONTACT);
    rmg_next_rival(w, RMG_CAUSE_CHIP_WRITE, RMG_SAY_CHIP);
    rmg_next_rival(w, RMG_CAUSE_TRACK_WRITE, whole ? RMG_SAY_WRITE_TRACK : RMG_SAY_WRITE_AT_PINS);
    step_contact(w, RMG_PINS_IN);
    step_settle(w, RMG_PINS_IN);
}

/* The output latch is loaded at the wrong moment: the chip's, or what strobes it. */
void rmg_next_stale(wording *w)
{
    const bool soldered = is_soldered(w);

    rmg_next_rival(w, RMG_CAUSE_CHIP_OUTPUT, RMG_SAY_CHIP_LATCH);
    rmg_next_rival(w, RMG_CAUSE_CONTACT_SELECT,
                   soldered ? RMG_SAY_SELECT_JOINT : RMG_SAY_SELECT_CONTACT);
    rmg_step_to_take(w, RMG_SAY_PROBE_SELECT_OF);
    step_settle(w, RMG_PINS_DATA);
}

void rmg_next_dragged(wording *w)
{
    const bool soldered = is_soldered(w);

    rmg_next_rival(w, RMG_CAUSE_CHIP_ALWAYS_ON, RMG_SAY_ALWAYS_ON);
    rmg_next_rival(w, RMG_CAUSE_CONTACT_SELECT,
                   soldered ? RMG_SAY_SELECT_JOINT : RMG_SAY_SELECT_CONTACT);
    if (w->s->finding.untested) {
        if (can_test(w, w->s->finding.bank))
            rmg_add_step(w, test_it(w, w->s->finding.bank));
        rmg_next_settle(w, soldered ? RMG_SAY_MEASURE_IDLE_SELECT : RMG_SAY_PULL_IT);
        if (can_test(w, w->s->finding.bank))
            w->s->settles = test_it(w, w->s->finding.bank);
        return;
    }
    rmg_next_settle(w, soldered ? RMG_SAY_MEASURE_SELECT : RMG_SAY_PULL);
}

/* Reports of another program: what fails, not how. */
void rmg_next_reported(wording *w)
{
    const bool soldered = is_soldered(w);

    rmg_next_rival(w, RMG_CAUSE_CHIP_SCATTERED, RMG_SAY_CHIP_AT_FAULT);
    rmg_next_rival(w, RMG_CAUSE_CONTACT_OUTPUT,
                   soldered ? RMG_SAY_JOINT_AT_DATA : RMG_SAY_CONTACT_AT_DATA);
    rmg_next_rival(w, RMG_CAUSE_TRACK_DATA, rmg_next_track(w, RMG_SAY_TRACK_TO_DATA));
    step_supplies(w);
    step_contact(w, RMG_PINS_DATA);
    step_settle(w, RMG_PINS_DATA);
}
