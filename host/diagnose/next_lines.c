/* What looks the same of lines, banks and of what several sockets share, and the steps that
 * distinguish it. */
#include <string.h>

#include "kinds.h"

/* How sure chance is, at most, where all of it lies in one place: with a chip beside it, of which a
 * fault may give just that; without. */
#define BESIDE_A_CHIP 0.57
#define IN_ONE_PLACE  0.9
#define TWO_CHIPS     0.4 /* as likely as a bridge, that chips on one line are bad each by itself */

/* What could make a whole data line read like this. */
static void data_line_rivals(wording *w)
{
    const bool undriven = rmg_next_reads_undriven(w);
    const bool pulled = rmg_next_may_be_pulled(w);

    if (undriven && !pulled) { /* nothing drives it, so nothing holds it either */
        rmg_next_rival(w, RMG_CAUSE_LINE_DRIVER, RMG_SAY_BUFFER_DOES_NOT_PASS);
        rmg_next_rival(w, RMG_CAUSE_LINE_TRACK, RMG_SAY_TRACK_CUT);
        return;
    }
    rmg_next_rival(w, RMG_CAUSE_CHIP_DRAGS, RMG_SAY_CHIP_DRAGS);
    rmg_next_rival(w, RMG_CAUSE_LINE_DRIVER, RMG_SAY_BUFFER_DRIVES);
    rmg_next_rival(w, RMG_CAUSE_LINE_TRACK,
                   undriven ? RMG_SAY_TRACK_CUT_OR_SHORTED : RMG_SAY_TRACK_SHORTED);
}

void rmg_finding_pulls(const rmg_board *board, const rmg_finding *f, bool *sockets)
{
    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        if (board->sockets[rule->socket].mount == RMG_MOUNT_SOCKET &&
            rmg_finding_on_lane(board, f, rule) && (rmg_rule_bits(rule) & f->bits))
            sockets[rule->socket] = true;
    }
}

void rmg_next_data_line(wording *w)
{
    bool *pulls = g_new0(bool, MAX(w->board->socket_count, 1u));
    bool any = false;

    data_line_rivals(w);
    rmg_next_each_of_these(w);
    rmg_finding_pulls(w->board, &w->s->finding, pulls);
    for (size_t s = 0; s < w->board->socket_count; s++)
        any |= pulls[s];
    g_free(pulls);
    if (w->s->finding.opposite == w->s->finding.bits)
        rmg_next_settle(w, RMG_SAY_MEASURE_TO_FIRST_CHIP);
    else
        rmg_next_settle(w, any ? RMG_SAY_PULL_ONE_BY_ONE : RMG_SAY_LIFT_ONE_BY_ONE);
    rmg_step_to_take(w, RMG_SAY_MEASURE_LINE);
}

void rmg_next_address_line(wording *w)
{
    const bool bank = w->s->finding.kind == RMG_FINDING_ADDRESS_OF_BANK;

    rmg_next_rival(w, bank ? RMG_CAUSE_LINE_PART : RMG_CAUSE_LINE_DRIVER,
                   bank ? RMG_SAY_BANK_MULTIPLEXER : RMG_SAY_LINE_BUFFER);
    rmg_next_rival(w, RMG_CAUSE_LINE_TRACK, rmg_next_track(w, RMG_SAY_TRACK_TO_CHIPS));
    rmg_next_rival(w, RMG_CAUSE_CHIP_DRAGS_FAR, RMG_SAY_ONE_CHIP_DRAGS);
    rmg_next_still(w);
    rmg_next_each_of_these(w);
    rmg_next_settle(w, bank ? RMG_SAY_PROBE_PINS : RMG_SAY_PROBE_LINES);
    rmg_step_to_take(w, RMG_SAY_CHECK_LINE_BACK);
}

void rmg_next_silent(wording *w)
{
    const bool all = w->s->finding.kind == RMG_FINDING_ALL_SILENT;

    rmg_next_rival(w, all ? RMG_CAUSE_LINK : RMG_CAUSE_STROBE,
                   all ? RMG_SAY_LINK_PORT_BUFFER : RMG_SAY_BANK_STROBE);
    rmg_next_rival(w, RMG_CAUSE_SUPPLY_BANK, RMG_SAY_SUPPLY_MISSING);
    rmg_next_rival(w, RMG_CAUSE_CHIPS_MISSING, RMG_SAY_CHIPS_MISSING);
    rmg_next_each_of_these(w);
    rmg_step_to_take(w, RMG_SAY_MEASURE_ONE_CHIP);
    rmg_next_settle(w, RMG_SAY_PROBE_STROBES);
}

/* All failures lie in one chip: it, or what connects it. */
static void add_socket(wording *w, uint16_t socket)
{
    const bool soldered = w->board->sockets[socket].mount != RMG_MOUNT_SOCKET;
    const rmg_cause_table *causes = &w->facts->causes;
    const struct {
        rmg_cause cause;
        rmg_said said;
    } rows[] = {
        {RMG_CAUSE_CHIP_SCATTERED, RMG_SAY_ALL_IN_SOCKET},
        {RMG_CAUSE_CONTACT_ANY, soldered ? RMG_SAY_ANY_JOINT : RMG_SAY_ANY_CONTACT},
        {RMG_CAUSE_TRACK_DATA, RMG_SAY_TRACK_TO_SOCKET},
    };

    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        rmg_rival rival = {.is = rmg_say_of(&w->s->finding, rows[i].said),
                           .share = (soldered ? causes->soldered : causes->socketed)[rows[i].cause],
                           .cause = rows[i].cause};

        rival.is.socket = socket;
        g_array_append_val(w->rivals, rival);
    }
}

/* Failures that do not rule out chance may all lie in one chip, or on one data line. */
static void in_one_place(wording *w)
{
    const rmg_placement *placement = &w->board->placement;
    uint16_t socket = RMG_NO_SOCKET;
    unsigned sockets = 0, others = 0;
    rmg_word bits = 0;

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];
        rmg_word failing = 0;

        for (unsigned i = 0; rule->bank < RMG_TALLY_BANKS && i < RMG_WORD_BITS; i++)
            if (w->run->tally.bits[rule->bank][i].high || w->run->tally.bits[rule->bank][i].low)
                failing |= (rmg_word)1 << i;
        failing &= rmg_rule_bits(rule);
        bits |= failing;
        sockets += failing != 0;
        if (failing)
            socket = rule->socket;
    }
    for (uint16_t r = 0; r < placement->rule_count; r++)
        others += (rmg_rule_bits(&placement->rules[r]) & bits) &&
                  w->run->bank_words[placement->rules[r].bank];
    if (sockets == 1 && !rmg_facts_chip_good(w->facts, socket))
        add_socket(w, socket);
    if (bits && !(bits & (bits - 1u)) && others > 1)
        rmg_next_rival(w, RMG_CAUSE_LINE_JOINT, RMG_SAY_ALL_ON_LINE);
}

/* Lets the rivals from `first` to before `end` share so much of all. */
static void let_share(wording *w, guint first, guint end, double share)
{
    double sum = 0;

    for (guint i = first; i < end; i++)
        sum += g_array_index(w->rivals, rmg_rival, i).share;
    for (guint i = first; i < end && sum > 0; i++)
        g_array_index(w->rivals, rmg_rival, i).share *= share / sum;
}

void rmg_next_spread(wording *w)
{
    guint places;

    in_one_place(w);
    places = w->rivals->len;
    if (places) /* then chance is less sure of it */
        w->s->confidence = MIN(w->s->confidence, w->all->count > 1 ? BESIDE_A_CHIP : IN_ONE_PLACE);
    rmg_next_rival(w, RMG_CAUSE_NOISE, RMG_SAY_SUPPLY_NOISY);
    rmg_next_rival(w, RMG_CAUSE_REFRESH, RMG_SAY_REFRESH_TIMING);
    rmg_next_rival(w, RMG_CAUSE_LINK_NOISE, RMG_SAY_LINK_DROPS_BITS);
    if (places) {
        const double share = MIN(1 - w->s->confidence, 0.5); /* as long as it may be chance */

        let_share(w, 0, places, share);
        let_share(w, places, w->rivals->len, 1 - share);
    }
    rmg_step_to_take(w, RMG_SAY_MEASURE_SEVERAL_CHIPS);
    rmg_next_settle(w, RMG_SAY_COLD_AND_WARM);
}

/* Several sockets beyond one point of a traced line. */
void rmg_next_branch(wording *w)
{
    const rmg_finding *f = &w->s->finding;
    const char *bad = w->board->lines[f->line].points[f->point].name;

    if (strchr(bad, '>') || !strchr(bad, '.')) { /* a part of the line; it also parts a chip that
                                                    drags the line from the sound ones */
        rmg_next_rival(w, RMG_CAUSE_LINE_PART, RMG_SAY_PART_ON_THE_WAY);
        rmg_next_rival(w, RMG_CAUSE_LINE_TRACK, RMG_SAY_TRACK_OR_JOINT_BETWEEN);
        rmg_next_rival(w, RMG_CAUSE_CHIP_DRAGS_FAR, RMG_SAY_CHIP_BEYOND_DRAGS);
    } else {
        rmg_next_rival(w, RMG_CAUSE_LINE_TRACK, RMG_SAY_TRACK_BETWEEN);
        rmg_next_rival(w, RMG_CAUSE_LINE_JOINT, RMG_SAY_JOINT_BETWEEN);
    }
    rmg_next_settle(w, rmg_facts_sound(w->facts, f->line, f->point, false)
                           ? RMG_SAY_MEASURE_AGAIN
                           : RMG_SAY_MEASURE_BETWEEN);
    rmg_step_to_take(w, RMG_SAY_PROBE_BETWEEN);
}

/* Two lines that touch. */
void rmg_next_touching(wording *w)
{
    rmg_next_rival(w, RMG_CAUSE_LINE_BRIDGE, RMG_SAY_BRIDGE);
    rmg_next_rival(w, RMG_CAUSE_CHIP_BRIDGE, RMG_SAY_CHIP_SHORTED);
    rmg_next_rival(w, RMG_CAUSE_LINE_DRIVER, RMG_SAY_DRIVER_OF_BOTH);
    rmg_next_settle(w, RMG_SAY_MEASURE_BRIDGE);
}

/* A line that others disturb. */
void rmg_next_noisy(wording *w)
{
    rmg_next_rival(w, RMG_CAUSE_LINE_PART, RMG_SAY_NOISY_PART);
    rmg_next_rival(w, RMG_CAUSE_NOISE, RMG_SAY_NOISY_GROUND);
    rmg_next_rival(w, RMG_CAUSE_LINE_DRIVER, RMG_SAY_NOISY_DRIVER);
    rmg_next_rival(w, RMG_CAUSE_LINE_JOINT, RMG_SAY_NOISY_JOINT);
    rmg_step_to_take(w, RMG_SAY_MEASURE_NOISY);
    rmg_next_settle(w, RMG_SAY_SCOPE_NOISY);
}

void rmg_next_bank_never_written(wording *w)
{
    rmg_next_rival(w, RMG_CAUSE_LINE_TRACK, rmg_next_track(w, RMG_SAY_WRITE_LINE));
    rmg_next_rival(w, RMG_CAUSE_NOT_RAM, RMG_SAY_NOT_RAM);
    rmg_next_rival(w, RMG_CAUSE_DATA_BUFFER, RMG_SAY_DATA_BUFFER);
    rmg_next_settle(w, RMG_SAY_PROBE_WRITE);
}

void rmg_next_selects(wording *w)
{
    rmg_next_rival(w, RMG_CAUSE_SELECT_DECODER, RMG_SAY_DECODER);
    rmg_next_rival(w, RMG_CAUSE_SELECT_ADDRESS, RMG_SAY_DECODER_ADDRESS);
    rmg_next_rival(w, RMG_CAUSE_SELECT_TRACK, RMG_SAY_SELECT_TRACK);
    rmg_next_settle(w, w->s->finding.untested ? RMG_SAY_PROBE_IDLE_SELECT : RMG_SAY_PROBE_SELECTS);
}

void rmg_next_shared(wording *w)
{
    if (w->s->finding.of == RMG_FINDING_BANK_SILENT) {
        rmg_next_rival(w, RMG_CAUSE_STROBE, RMG_SAY_SELECT_TO_THESE);
        rmg_next_rival(w, RMG_CAUSE_SUPPLY_BANK, RMG_SAY_SUPPLY_TO_THESE);
        rmg_next_each_of_these(w);
        rmg_step_to_take(w, RMG_SAY_MEASURE_SUPPLY_OF_THESE);
        rmg_next_settle(w, RMG_SAY_PROBE_SELECT_OF_THESE);
        return;
    }
    if (w->s->finding.of == RMG_FINDING_DATA_LINE) {
        const guint before = w->rivals->len;

        rmg_next_rival(w, RMG_CAUSE_LINE_BRIDGE, RMG_SAY_BRIDGE_TO_OTHERS);
        rmg_next_rival(w, RMG_CAUSE_LINE_DRIVER, RMG_SAY_BUFFER_DRIVES);
        rmg_next_each_of_these(w);
        g_array_index(w->rivals, rmg_rival, w->rivals->len - 1u).share =
            TWO_CHIPS * g_array_index(w->rivals, rmg_rival, before).share;
        rmg_next_settle(w, RMG_SAY_MEASURE_TO_OTHERS);
        return;
    }
    rmg_next_rival(w, RMG_CAUSE_LINE_TRACK, RMG_SAY_TRACK_TO_THESE);
    rmg_next_rival(w, RMG_CAUSE_LINE_PART, RMG_SAY_PART_TO_THESE);
    rmg_next_each_of_these(w);
    rmg_next_settle(w, RMG_SAY_MEASURE_TO_THESE);
}

/* Something that several chips share, now and then. */
void rmg_next_now_and_then(wording *w)
{
    if (w->s->finding.of == RMG_FINDING_DATA_SHORT) {
        rmg_next_rival(w, RMG_CAUSE_LINE_BRIDGE, RMG_SAY_BRIDGE);
        rmg_next_rival(w, RMG_CAUSE_CHIP_BRIDGE, RMG_SAY_CHIP_SHORTED);
        rmg_next_rival(w, RMG_CAUSE_LINE_DRIVER, RMG_SAY_BUFFER_DRIVES);
        rmg_next_settle(w, RMG_SAY_PRESS_ALONG_LINE);
        rmg_step_to_take(w, RMG_SAY_MEASURE_BRIDGE);
        rmg_step_to_take(w, RMG_SAY_COLD_AND_WARM);
        return;
    }
    if (w->s->finding.of == RMG_FINDING_DATA_LINE || w->s->finding.lines) {
        const bool address = w->s->finding.lines != 0;

        rmg_next_rival(w, RMG_CAUSE_LINE_TRACK, RMG_SAY_LOOSE_ON_LINE);
        rmg_next_rival(w, RMG_CAUSE_LINE_DRIVER,
                       address ? RMG_SAY_BUFFER_DRIVES_LINES : RMG_SAY_BUFFER_DRIVES);
        rmg_next_rival(w, RMG_CAUSE_CHIP_DRAGS_FAR,
                       address ? RMG_SAY_ONE_CHIP_DRAGS : RMG_SAY_CHIP_DRAGS);
        rmg_next_settle(w, RMG_SAY_PRESS_ALONG_LINE);
        rmg_step_to_take(w, RMG_SAY_COLD_AND_WARM);
        return;
    }
    if (rmg_are_drams(w))
        rmg_next_rival(w, RMG_CAUSE_REFRESH, RMG_SAY_REFRESH_OF_THESE);
    if (!rmg_lost_together(w)) {
        rmg_next_rival(w, RMG_CAUSE_STROBE, RMG_SAY_SELECT_NOW_AND_THEN);
        rmg_next_rival(w, RMG_CAUSE_LINE_PART, RMG_SAY_ADDRESS_NOW_AND_THEN);
    }
    rmg_next_rival(w, RMG_CAUSE_SUPPLY_BANK, RMG_SAY_SUPPLY_NOW_AND_THEN);
    rmg_step_to_take(w, RMG_SAY_MEASURE_SEVERAL_CHIPS);
    rmg_next_settle(w, RMG_SAY_PRESS_ON_BANK);
    rmg_step_to_take(w, RMG_SAY_COLD_AND_WARM);
}

void rmg_next_pull_or_lift(wording *w)
{
    bool *pulls = g_new0(bool, MAX(w->board->socket_count, 1u));
    bool any = false;

    rmg_finding_pulls(w->board, &w->s->finding, pulls);
    for (size_t s = 0; s < w->board->socket_count; s++)
        any |= pulls[s];
    g_free(pulls);
    rmg_next_settle(w, any ? RMG_SAY_PULL_ONE_BY_ONE : RMG_SAY_LIFT_ONE_BY_ONE);
}

void rmg_next_reported_line(wording *w)
{
    rmg_next_rival(w, RMG_CAUSE_CHIP_DRAGS, RMG_SAY_CHIP_ON_LINE);
    rmg_next_rival(w, RMG_CAUSE_LINE_DRIVER, RMG_SAY_BUFFER_DRIVES);
    rmg_next_rival(w, RMG_CAUSE_LINE_TRACK, RMG_SAY_LINE_CUT_OR_SHORTED);
    rmg_next_pull_or_lift(w);
    rmg_step_to_take(w, RMG_SAY_MEASURE_LINE);
}

void rmg_next_reported_bit(wording *w)
{
    rmg_next_rival(w, RMG_CAUSE_CHIP_SCATTERED, RMG_SAY_ONE_OF_CHIPS);
    rmg_next_rival(w, RMG_CAUSE_LINE_TRACK, RMG_SAY_LINE_CUT_OR_SHORTED);
    rmg_next_settle(w, RMG_SAY_FIND_THE_BANK);
}
