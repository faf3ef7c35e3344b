/* Two causes at once that come and go, at least one of which several chips share: which sockets
 * failed by the one, and which by the other. */
#include <math.h>

#include "moments.h"

#define SOCKETS_MOST 8u
#define PRIOR_BOTH   0.05 /* of two at once, times their own */

GArray *rmg_part_of(const GArray *failed, uint64_t which)
{
    GArray *part = g_array_new(FALSE, FALSE, sizeof(socket_failed));

    for (guint i = 0; i < failed->len; i++)
        if (which >> i & 1u)
            g_array_append_val(part, g_array_index(failed, socket_failed, i));
    return part;
}

/* Logarithm of how likely all that failed of these sockets is, whichever place it is; `noise`: of
 * chance too. `own`: failing bits, as often as they count. */
static double evidence(weigher *w, const GArray *failed, uint64_t which, bool noise, double *own)
{
    GArray *all = w->failed;
    double sum = -INFINITY;

    w->failed = rmg_part_of(failed, which);
    rmg_look_at_failed(w);
    *own = 0;
    for (guint i = 0; i < w->moments->len; i++)
        *own += g_array_index(w->moments, moment, i).failed;
    if (w->moments->len)
        rmg_find_places(w);
    for (guint i = 0; i < w->sites->len; i++) {
        const site *s = &g_array_index(w->sites, site, i);

        if (noise || s->kind != SITE_NOISE)
            sum = isinf(sum) ? s->weight
                             : fmax(sum, s->weight) + log1p(exp(-fabs(sum - s->weight)));
    }
    g_array_free(w->failed, TRUE);
    w->failed = all;
    return sum;
}

/* The bits at which a socket's cells fail. */
static rmg_word failing_of(const weigher *w, const socket_failed *f)
{
    rmg_word bits = 0;

    for (unsigned i = 0; f->bank < RMG_TALLY_BANKS && i < RMG_WORD_BITS; i++)
        if (w->run->tally.bits[f->bank][i].high || w->run->tally.bits[f->bank][i].low)
            bits |= (rmg_word)1 << i;
    return bits & f->bits;
}

/* Sockets that fail at some of these bits only; in a bank, or in all. */
static uint64_t failing_within(const weigher *w, rmg_word bits, unsigned bank)
{
    uint64_t which = 0;

    for (guint i = 0; i < w->failed->len; i++) {
        const socket_failed *f = &g_array_index(w->failed, socket_failed, i);

        if (!(failing_of(w, f) & ~bits) && (bank == RMG_NO_BANK || f->bank == bank))
            which |= (uint64_t)1 << i;
    }
    return which;
}

/* Sets of sockets that one cause may account for: all of a line, of two, of a bank, each alone. */
static GArray *sets_of_sockets(const weigher *w)
{
    GArray *sets = g_array_new(FALSE, FALSE, sizeof(uint64_t));
    const uint64_t all = ((uint64_t)1 << w->failed->len) - 1u;
    const guint count = w->failed->len;

    for (guint i = 0; i < count; i++)
        for (guint k = i; k < count; k++) {
            const socket_failed *a = &g_array_index(w->failed, socket_failed, i);
            const socket_failed *b = &g_array_index(w->failed, socket_failed, k);
            const rmg_word bits = failing_of(w, a) | failing_of(w, b);
            const uint64_t found[] = {
                i == k ? (uint64_t)1 << i : 0,
                rmg_ones_of(bits) <= 2 ? failing_within(w, bits, RMG_NO_BANK) : 0,
                rmg_ones_of(bits) <= 2 && a->bank == b->bank ? failing_within(w, bits, a->bank) : 0,
                i == k ? failing_within(w, (rmg_word) ~(rmg_word)0, a->bank) : 0};

            for (size_t n = 0; n < G_N_ELEMENTS(found); n++) {
                bool known = !found[n] || found[n] == all;

                for (guint m = 0; m < sets->len && !known; m++)
                    known = g_array_index(sets, uint64_t, m) == found[n] ||
                            g_array_index(sets, uint64_t, m) == (all & ~found[n]);
                if (!known)
                    g_array_append_val(sets, found[n]);
            }
        }
    return sets;
}

uint64_t rmg_part_failed(weigher *w, double *sure)
{
    const uint64_t all = ((uint64_t)1 << w->failed->len) - 1u;
    double most = -INFINITY, one, own, rest;
    uint64_t best = 0;
    GArray *sets;

    if (w->failed->len < 3 || w->failed->len > SOCKETS_MOST)
        return 0;
    sets = sets_of_sockets(w);
    one = evidence(w, w->failed, all, true, &own);
    for (guint i = 0; i < sets->len && own > 0; i++) {
        const uint64_t set = g_array_index(sets, uint64_t, i);
        double both = log(PRIOR_BOTH) + evidence(w, w->failed, set, false, &own);

        both += evidence(w, w->failed, all & ~set, false, &rest);
        /* which failures are whose */
        both += own > 0 && rest > 0
                    ? own * log(own / (own + rest)) + rest * log(rest / (own + rest))
                    : -INFINITY;
        if (both > most) {
            most = both;
            best = set;
        }
    }
    g_array_free(sets, TRUE);
    *sure = 1 / (1 + exp(one - most));
    return most > one ? best : 0;
}
