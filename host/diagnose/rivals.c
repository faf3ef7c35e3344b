/* The shares of what looks the same from here, and what is known that rules some of it out. */
#include "internal.h"

#define TOLD_RIGHT 0.98 /* how often what is told is right */

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
        return rmg_suspect_chips_good(w);
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

static gint likelier(gconstpointer a, gconstpointer b)
{
    const rmg_rival *x = a, *y = b;

    return (x->share < y->share) - (x->share > y->share);
}

double rmg_rivals_settle(GArray *rivals)
{
    double sum = 0;

    for (guint i = 0; i < rivals->len; i++)
        sum += g_array_index(rivals, rmg_rival, i).share;
    for (guint i = 0; i < rivals->len; i++)
        g_array_index(rivals, rmg_rival, i).share =
            sum > 0 ? g_array_index(rivals, rmg_rival, i).share / sum : 1.0 / rivals->len;
    g_array_sort(rivals, likelier);
    return sum;
}

/* Takes out what is ruled out, and says so; the share of all that was taken. */
static double take_out(wording *w)
{
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);
    double gone = 0;

    for (unsigned cause = 0; cause < RMG_CAUSES; cause++)
        if (ruled_out(w, (rmg_cause)cause))
            w->s->excluded |= RMG_CAUSE_BIT(cause);
    for (guint i = w->rivals->len; i-- > 0;) {
        const rmg_rival r = g_array_index(w->rivals, rmg_rival, i);

        if (!ruled_out(w, r.cause))
            continue;
        gone += r.share;
        g_ptr_array_insert(names, 0, r.name);
        g_array_remove_index(w->rivals, i);
    }
    if (names->len) {
        gchar *list = rmg_join(names);

        add_text(w->because, g_strdup_printf("By what was told, it is not: %s.", list));
        g_free(list);
    } else {
        g_ptr_array_free(names, TRUE);
    }
    return gone;
}

void rmg_add_rivals_and_steps(wording *w)
{
    double gone;

    rmg_list_rivals_and_steps(w);
    rmg_rivals_settle(w->rivals);
    gone = take_out(w);
    gone = MIN(gone, TOLD_RIGHT);
    /* the doubt stays as large as it was, what could be at fault here grows smaller */
    w->s->confidence *= (1 - gone) / (1 - gone * w->s->confidence);
    if (!w->rivals->len) {
        const rmg_rival other = {
            g_strdup("nothing that fits: what was told, or the trace in the board file, "
                     "may not be right"),
            1, RMG_CAUSES};

        g_array_append_val(w->rivals, other);
    }
    rmg_rivals_settle(w->rivals);
}
