/* Two causes at once that come and go, at least one of which several chips share: which failures
 * are of the one, and which of the other. */
#include <math.h>

#include "moments.h"

#define BITS_MOST  6u   /* at more none is parted but bits and banks alone */
#define SETS_MOST  48u  /* that are tried */
#define PRIOR_BOTH 0.05 /* of two at once, times their own */

/* The bits at which a socket's cells fail. */
static rmg_word failing_of(const weigher *w, const socket_failed *f)
{
    return rmg_failing_bits(w->run, f->bank, f->bits);
}

/* Of the socket's bits those of the part: what does not fail belongs to both. */
static rmg_word bits_within(const weigher *w, const socket_failed *f, const failed_part *part)
{
    const bool here = part->bank == RMG_NO_BANK || part->bank == f->bank;
    const rmg_word inside = here ? part->bits : 0, failing = failing_of(w, f);

    return f->bits & ~(failing & (part->others ? inside : ~inside));
}

GArray *rmg_part_of(const weigher *w, const GArray *failed, const failed_part *part)
{
    GArray *list = g_array_new(FALSE, FALSE, sizeof(socket_failed));

    for (guint i = 0; i < failed->len; i++) {
        socket_failed f = g_array_index(failed, socket_failed, i);
        rmg_finding reads = {0};

        f.bits = bits_within(w, &f, part);
        f.failing = rmg_ones_of(failing_of(w, &f));
        rmg_count_reads(w, &reads, f.bank, f.bits);
        f.reads = (double)(reads.failed_high + reads.failed_low);
        if (f.failing)
            g_array_append_val(list, f);
    }
    return list;
}

/* Logarithm of how likely all that failed of these is, whichever place it is; `noise`: of chance
 * too. `own`: failing bits, as often as they count. Takes the list. */
static double evidence(weigher *w, GArray *failed, bool noise, double *own)
{
    GArray *all = w->failed;
    double sum = -INFINITY;

    w->failed = failed;
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
    g_array_free(failed, TRUE);
    w->failed = all;
    return sum;
}

/* Does one place that is not all there is fit all that failed, and best? */
static bool one_fits(const weigher *w)
{
    double most = -INFINITY;
    bool fits = false;

    for (guint i = 0; i < w->sites->len; i++) {
        const site *s = &g_array_index(w->sites, site, i);

        if (s->weight <= most)
            continue;
        most = s->weight;
        fits = s->kind == SITE_CHIP || s->kind == SITE_LINE || s->kind == SITE_PAIR ||
               s->kind == SITE_DRIVER || s->kind == SITE_BANK;
        for (guint n = 0; n < w->moments->len && fits; n++)
            fits = rmg_fits_site(s, &g_array_index(w->moments, moment, n));
    }
    return fits;
}

/* Is it some of the failures, not all of them, and not parted so before? `key`: what is within. */
static bool parts_anew(const weigher *w, const failed_part *part, GArray *keys)
{
    guint64 key = 0;
    unsigned inside = 0, outside = 0;

    for (guint i = 0; i < w->failed->len; i++) {
        const socket_failed *f = &g_array_index(w->failed, socket_failed, i);
        const rmg_word within = failing_of(w, f) & bits_within(w, f, part);

        inside += rmg_ones_of(within);
        outside += rmg_ones_of(failing_of(w, f) & ~within);
        key = (key ^ within) * UINT64_C(0x9E3779B97F4A7C15) + i;
    }
    for (guint i = 0; i < keys->len; i++)
        if (g_array_index(keys, guint64, i) == key)
            return false;
    if (!inside || !outside || keys->len >= SETS_MOST)
        return false;
    g_array_append_val(keys, key);
    return true;
}

static void add_part(const weigher *w, GArray *parts, GArray *keys, rmg_word bits, uint8_t bank)
{
    const failed_part part = {bits, bank, false};

    if (bits && parts_anew(w, &part, keys))
        g_array_append_val(parts, part);
}

/* What one cause may account for: a line, two lines, in all banks or in one; a bank; a chip. */
static GArray *parts_to_try(const weigher *w)
{
    GArray *parts = g_array_new(FALSE, FALSE, sizeof(failed_part));
    GArray *keys = g_array_new(FALSE, FALSE, sizeof(guint64));
    rmg_word failing = 0;
    unsigned pairs;

    for (guint i = 0; i < w->failed->len; i++)
        failing |= failing_of(w, &g_array_index(w->failed, socket_failed, i));
    pairs = rmg_ones_of(failing) <= BITS_MOST;
    for (guint i = 0; i < w->failed->len; i++) {
        const socket_failed *f = &g_array_index(w->failed, socket_failed, i);

        add_part(w, parts, keys, f->bits, f->bank);
        add_part(w, parts, keys, (rmg_word) ~(rmg_word)0, f->bank);
    }
    for (unsigned a = 0; a < RMG_WORD_BITS; a++)
        for (unsigned b = a; b < (pairs ? RMG_WORD_BITS : a + 1u); b++) {
            const rmg_word bits = (rmg_word)1 << a | (rmg_word)1 << b;

            if (bits & ~failing)
                continue;
            add_part(w, parts, keys, bits, RMG_NO_BANK);
            for (guint i = 0; i < w->failed->len; i++)
                add_part(w, parts, keys, bits, g_array_index(w->failed, socket_failed, i).bank);
        }
    g_array_free(keys, TRUE);
    return parts;
}

bool rmg_part_failed(weigher *w, failed_part *best, double *sure)
{
    const failed_part everything = {(rmg_word) ~(rmg_word)0, RMG_NO_BANK, false};
    double most = -INFINITY, own, rest;
    const double one = evidence(w, rmg_part_of(w, w->failed, &everything), true, &own);
    GArray *parts = own > 0 && !one_fits(w) ? parts_to_try(w) : NULL;

    for (guint i = 0; parts && i < parts->len; i++) {
        failed_part part = g_array_index(parts, failed_part, i);
        double both = log(PRIOR_BOTH) + evidence(w, rmg_part_of(w, w->failed, &part), false, &own);

        part.others = true;
        both += evidence(w, rmg_part_of(w, w->failed, &part), false, &rest);
        if (own <= 0 || rest <= 0)
            continue;
        /* which failures are whose */
        both += own * log(own / (own + rest)) + rest * log(rest / (own + rest));
        if (both > most) {
            most = both;
            *best = g_array_index(parts, failed_part, i);
        }
    }
    if (parts)
        g_array_free(parts, TRUE);
    *sure = 1 / (1 + exp(one - most));
    return most > one;
}
