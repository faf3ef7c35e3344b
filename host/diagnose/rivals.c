/* The shares of what looks the same from here, and what is known that rules some of it out. */
#include <string.h>

#include "meter.h"
#include "base/internal.h"

#define TOLD_RIGHT 0.98 /* how often what is reported is right */

/* What is known by other means rules these causes out. */
static bool ruled_out(const wording *w, rmg_cause cause)
{
    const rmg_finding *f = &w->s->finding;

    switch (cause) {
    case RMG_CAUSE_CHIP_OUTPUT:
    case RMG_CAUSE_CHIP_INPUT:
    case RMG_CAUSE_CHIP_ADDRESS:
    case RMG_CAUSE_CHIP_WRITE:
    case RMG_CAUSE_CHIP_ALWAYS_ON:
    case RMG_CAUSE_CHIP_CELLS:
    case RMG_CAUSE_CHIP_SCATTERED:
    case RMG_CAUSE_CHIP_SLOW:
    case RMG_CAUSE_PART_MISSING:
    case RMG_CAUSE_PART_SMALLER:
        return f->socket != RMG_NO_SOCKET && rmg_facts_chip_good(w->facts, f->socket);
    case RMG_CAUSE_CHIP_DRAGS:
    case RMG_CAUSE_CHIP_DRAGS_FAR:
    case RMG_CAUSE_CHIP_BRIDGE:
        return w->run && rmg_suspect_chips_good(w);
    case RMG_CAUSE_TRACK_DATA:
    case RMG_CAUSE_TRACK_ADDRESS:
    case RMG_CAUSE_TRACK_WRITE:
    case RMG_CAUSE_LINE_TRACK:
    case RMG_CAUSE_LINE_JOINT:
        return f->point != RMG_NO_POINT && rmg_facts_sound(w->facts, f->line, f->point, false);
    case RMG_CAUSE_LINE_PART:
        return f->point != RMG_NO_POINT && rmg_facts_sound(w->facts, f->line, f->point, true);
    default:
        return false;
    }
}

/* Takes out what is ruled out, to the end of the list, and says so; the share of all that was
 * taken. */
static double take_out(wording *w, const rmg_meter *m)
{
    const guint count = w->rivals->len;
    double gone = 0;
    guint looked = 0;

    for (unsigned cause = 0; cause < RMG_CAUSES; cause++)
        if (ruled_out(w, (rmg_cause)cause) || rmg_meter_rules_out(m, (rmg_cause)cause))
            w->s->excluded |= RMG_CAUSE_BIT(cause);
    for (guint i = 0; i < count; i++) {
        rmg_rival r = g_array_index(w->rivals, rmg_rival, looked);

        if (r.cause >= RMG_CAUSES || !(w->s->excluded & RMG_CAUSE_BIT(r.cause))) {
            looked++;
            continue;
        }
        gone += r.share;
        r.ruled = RMG_RULED_TOLD;
        w->s->ruled_count++;
        g_array_remove_index(w->rivals, looked);
        g_array_append_val(w->rivals, r);
    }
    if (w->s->ruled_count)
        rmg_reason(w, RMG_SAY_TOLD_NOT);
    return gone;
}

void rmg_rule_out(wording *w)
{
    rmg_meter measured = {.left = NULL};
    const bool traced = w->s->finding.point != RMG_NO_POINT;
    double gone;

    if (traced)
        rmg_meter_look(w->facts, w->board, w->s->finding.line, &measured);
    rmg_rivals_settle((rmg_rival *)(void *)w->rivals->data, w->rivals->len);
    gone = take_out(w, &measured);
    gone = MIN(gone, TOLD_RIGHT);
    /* the doubt stays as large as it was, what could be at fault here grows smaller; but what was
     * measured to be open is at fault */
    if (!measured.told)
        w->s->confidence *= (1 - gone) / (1 - gone * w->s->confidence);
    if (traced) {
        rmg_meter_tell(w, &measured);
        rmg_meter_end(&measured);
    }
    if (w->rivals->len == w->s->ruled_count) {
        const rmg_rival other = {.is = rmg_say_of(&w->s->finding, RMG_SAY_NOTHING_FITS),
                                 .share = 1,
                                 .cause = RMG_CAUSES};

        g_array_prepend_val(w->rivals, other);
    }
    rmg_rivals_settle((rmg_rival *)(void *)w->rivals->data, w->rivals->len - w->s->ruled_count);
}

void rmg_add_rivals_and_steps(wording *w)
{
    rmg_finding_row(w->s->finding.kind)->list(w);
    rmg_rule_out(w);
}
