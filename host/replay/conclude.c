/* What follows for a suspect from its replays: rivals ruled out, steps put last, levels that
 * undriven lines have. */
#include <string.h>

#include "internal.h"
#include "diagnose/internal.h"

/* Rivals whose every fault was tried and gave something else, where another's gave the same. */
void rmg_replay_rule_out(rmg_suspect *s)
{
    GArray *left = g_array_new(FALSE, FALSE, sizeof(rmg_rival));
    GArray *out = g_array_new(FALSE, FALSE, sizeof(rmg_rival));
    uint64_t tried = 0, same = 0;

    for (size_t i = 0; i < s->replay_count; i++) {
        tried |= s->replays[i].causes;
        same |= s->replays[i].same ? s->replays[i].causes : 0;
    }
    for (size_t i = 0; i < s->rival_count; i++) {
        rmg_rival r = s->rivals[i];
        const uint64_t bit = r.cause < RMG_CAUSES ? RMG_CAUSE_BIT(r.cause) : 0;

        if (same && (bit & tried) && !(bit & same)) {
            r.ruled = RMG_RULED_REFUTED;
            g_array_append_val(out, r);
        } else {
            g_array_append_val(left, r);
        }
    }
    if (out->len && left->len) {
        s->rival_count = left->len;
        g_array_append_vals(left, out->data, out->len);
        memcpy(s->rivals, left->data, left->len * sizeof *s->rivals);
        s->ruled_count += out->len;
        rmg_rivals_settle(s->rivals, s->rival_count);
        rmg_suspect_add_reason(s, rmg_say_of(&s->finding, RMG_SAY_REPLAY_NOT));
    }
    g_array_free(left, TRUE);
    g_array_free(out, TRUE);
}

/* Steps that look for what was ruled out come last. */
void rmg_replay_steps(rmg_suspect *s)
{
    const uint64_t contacts =
        RMG_CAUSE_BIT(RMG_CAUSE_CONTACT_OUTPUT) | RMG_CAUSE_BIT(RMG_CAUSE_CONTACT_INPUT) |
        RMG_CAUSE_BIT(RMG_CAUSE_CONTACT_ADDRESS) | RMG_CAUSE_BIT(RMG_CAUSE_CONTACT_WRITE);
    uint64_t left = 0;
    size_t kept = 0;
    rmg_saying *steps = g_new(rmg_saying, s->step_count + 1u);

    for (size_t i = 0; i < s->rival_count; i++)
        left |= s->rivals[i].cause < RMG_CAUSES ? RMG_CAUSE_BIT(s->rivals[i].cause) : 0;
    for (int last = 0; last < 2; last++)
        for (size_t i = 0; i < s->step_count; i++) {
            const rmg_said said = s->steps[i].said;
            const uint64_t looks_for =
                said == RMG_SAY_RESEAT || said == RMG_SAY_SOLDER_JOINTS ||
                        said == RMG_SAY_PRESS_ON_BALLS
                    ? contacts
                : said == RMG_SAY_LOOK_FOR_CHIP ? RMG_CAUSE_BIT(RMG_CAUSE_PART_MISSING)
                : said == RMG_SAY_READ_MARKING  ? RMG_CAUSE_BIT(RMG_CAUSE_PART_SMALLER)
                                                : 0;

            if ((looks_for && !(looks_for & left)) == last)
                steps[kept++] = s->steps[i];
        }
    memcpy(s->steps, steps, s->step_count * sizeof *steps);
    g_free(steps);
}

/* Where the board file does not say what undriven lines do, and every fault that gives the same
 * leaves lines undriven in one way, the measurement has said it. */
void rmg_replay_tell_undriven(const rmg_board *board, rmg_suspect *s)
{
    static const rmg_said said[RMG_FLOATS] = {
        [RMG_FLOATS_AS_FILE] = RMG_SAY_UNDRIVEN_HIGH, /* as where the file does not say */
        [RMG_FLOATS_HIGH] = RMG_SAY_UNDRIVEN_HIGH,
        [RMG_FLOATS_LOW] = RMG_SAY_UNDRIVEN_LOW,
        [RMG_FLOATS_HOLDS] = RMG_SAY_UNDRIVEN_HOLDS};
    rmg_said seen = RMG_SAY_NOTHING;

    for (size_t i = 0; i < s->replay_count && s->replays[i].same; i++) {
        const rmg_replayed *r = &s->replays[i];

        if (r->fault_count > 1)
            continue; /* several pins, each at that level by a fault of its own */
        if (!rmg_stage_undriven(r->faults, r->fault_count) ||
            (seen != RMG_SAY_NOTHING && said[r->floats] != seen))
            return;
        seen = said[r->floats];
    }
    if (!board->undriven_known && seen != RMG_SAY_NOTHING)
        rmg_suspect_add_reason(s, rmg_say_of(&s->finding, seen));
}
