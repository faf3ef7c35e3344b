/* Two causes at once that come and go, at least one of which several chips share: which failures
 * are of the one, and which of the other. */
#include <math.h>
#include <string.h>

#include "moments.h"

#define BITS_MOST  6u       /* at more none is parted but bits and banks alone */
#define SETS_MOST  48u      /* that are tried; fewer where very much failed: */
#define LOOKS_MOST 2000000u /* words that are looked at for them */
#define PRIOR_BOTH 0.05     /* of two at once, times their own */

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

rest_of_all rmg_take_failures(weigher *w, const failed_part *part)
{
    const rest_of_all rest = {w->failed,
                              g_memdup2(w->taken, w->board->bank_count * sizeof *w->taken)};
    GArray *list = g_array_new(FALSE, FALSE, sizeof(socket_failed));

    for (guint i = 0; i < rest.failed->len; i++) {
        socket_failed f = g_array_index(rest.failed, socket_failed, i);
        rmg_finding reads = {0};

        f.bits = bits_within(w, &f, part);
        w->taken[f.bank] |=
            failing_of(w, &f) ^ failing_of(w, &g_array_index(rest.failed, socket_failed, i));
        f.failing = rmg_ones_of(failing_of(w, &f));
        rmg_count_reads(w, &reads, f.bank, f.bits);
        f.reads = (double)(reads.failed_high + reads.failed_low);
        if (f.failing)
            g_array_append_val(list, f);
    }
    w->failed = list;
    return rest;
}

void rmg_give_back(weigher *w, rest_of_all rest)
{
    g_array_free(w->failed, TRUE);
    w->failed = rest.failed;
    memcpy(w->taken, rest.taken, w->board->bank_count * sizeof *w->taken);
    g_free(rest.taken);
}

/* How likely all that failed of a part is, whichever place it is; `noise` is added to the logarithm
 * of what chance is worth. */
typedef struct evidence {
    double sum;      /* of the places' weights, as a logarithm */
    double failed;   /* bits, as often as they count; */
    double stride;   /* ... of so many one was taken */
    bank_set banks;  /* in which they failed; */
    bank_set spoilt; /* ... and in which anything may, as the likeliest place is a bank, or all */
} evidence;

static evidence evidence_of(weigher *w, const failed_part *part, double noise)
{
    const rest_of_all rest = rmg_take_failures(w, part);
    evidence e = {.sum = -INFINITY};
    double most = -INFINITY;

    rmg_look_at_failed(w);
    for (guint i = 0; i < w->moments->len; i++) {
        e.failed += g_array_index(w->moments, moment, i).failed;
        rmg_include_bank(&e.banks, g_array_index(w->moments, moment, i).bank);
    }
    e.stride = (double)w->stride;
    e.failed *= e.stride;
    if (w->moments->len)
        rmg_find_places(w);
    for (guint i = 0; i < w->sites->len; i++) {
        site *s = &g_array_index(w->sites, site, i);

        s->weight += s->kind == SITE_NOISE ? noise : 0;
        if (s->weight > most) {
            const bool any = s->kind == SITE_BANK || s->kind == SITE_ALL;

            most = s->weight;
            e.spoilt = any ? s->banks : (bank_set){{0}};
        }
        e.sum = isinf(e.sum) ? s->weight
                             : fmax(e.sum, s->weight) + log1p(exp(-fabs(e.sum - s->weight)));
    }
    rmg_give_back(w, rest);
    return e;
}

static bool meet(const bank_set *a, const bank_set *b)
{
    bool any = false;

    for (size_t n = 0; n < G_N_ELEMENTS(a->bits); n++)
        any |= (a->bits[n] & b->bits[n]) != 0;
    return any;
}

/* Logarithm of how likely two causes are, one for the part and one for the rest; `stride`: of so
 * many failures one is taken where they are weighed as one. */
static double both_of(weigher *w, failed_part part, double stride)
{
    const evidence one = evidence_of(w, &part, log(NOISE_DRAWN));
    double share;
    evidence rest;

    part.others = true;
    rest = evidence_of(w, &part, log(NOISE_DRAWN));
    /* what spoils whole banks may do the rest, too */
    if (one.failed <= 0 || rest.failed <= 0 || meet(&one.spoilt, &rest.banks) ||
        meet(&rest.spoilt, &one.banks))
        return -INFINITY;
    share = one.failed / (one.failed + rest.failed);
    /* which failures are whose, as it counts where both are weighed as one */
    return log(PRIOR_BOTH) + one.sum + rest.sum +
           (one.failed * log(share) + rest.failed * log(1 - share)) / stride;
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
    if (!inside || !outside)
        return false;
    g_array_append_val(keys, key);
    return true;
}

static void add_part(const weigher *w, GArray *parts, GArray *keys, rmg_word bits, uint8_t bank)
{
    const failed_part part = {bits, bank, false};

    if (bits && keys->len < SETS_MOST && parts_anew(w, &part, keys))
        g_array_append_val(parts, part);
}

/* What one cause may account for: a line, two lines, in all banks or in one; a bank; a chip. */
static GArray *parts_to_try(const weigher *w, uint64_t words)
{
    const guint most = (guint)MIN(SETS_MOST, LOOKS_MOST / (2u * words + 1u));
    GArray *parts = g_array_new(FALSE, FALSE, sizeof(failed_part));
    GArray *keys = g_array_new(FALSE, FALSE, sizeof(guint64));
    rmg_word failing = 0;
    unsigned pairs;

    for (guint i = 0; i < w->failed->len; i++)
        failing |= failing_of(w, &g_array_index(w->failed, socket_failed, i));
    pairs = rmg_ones_of(failing) <= BITS_MOST;
    for (unsigned a = 0; a < RMG_WORD_BITS; a++)
        add_part(w, parts, keys, failing & (rmg_word)1 << a, RMG_NO_BANK);
    for (guint i = 0; i < w->failed->len; i++) {
        const socket_failed *f = &g_array_index(w->failed, socket_failed, i);

        add_part(w, parts, keys, f->bits, f->bank);
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
    for (guint i = 0; i < w->failed->len; i++)
        add_part(w, parts, keys, (rmg_word) ~(rmg_word)0,
                 g_array_index(w->failed, socket_failed, i).bank);
    g_array_set_size(parts, MIN(parts->len, most));
    g_array_free(keys, TRUE);
    return parts;
}

bool rmg_part_failed(weigher *w, failed_part *best, double *sure)
{
    const failed_part everything = {(rmg_word) ~(rmg_word)0, RMG_NO_BANK, false};
    const evidence one = evidence_of(w, &everything, 0);
    /* a chip with two defects is one cause */
    const bool may_be = one.failed > 0 && w->failed->len > 1 && !one_fits(w);
    GArray *parts = may_be ? parts_to_try(w, w->seen) : NULL;
    double most = -INFINITY;

    for (guint i = 0; parts && i < parts->len; i++) {
        const double both = both_of(w, g_array_index(parts, failed_part, i), one.stride);

        if (both > most) {
            most = both;
            *best = g_array_index(parts, failed_part, i);
        }
    }
    if (parts)
        g_array_free(parts, TRUE);
    *sure = 1 / (1 + exp(one.sum - most));
    return most > one.sum;
}
