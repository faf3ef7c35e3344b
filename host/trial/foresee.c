/* What a change would show: each cause that is left played on the simulated board as the change
 * leaves it, the other faults as they most likely are. */
#include <math.h>
#include <string.h>

#include "base/internal.h"
#include "foresee.h"

static void free_played(gpointer data)
{
    played_as *p = data;

    g_free(p->after);
    g_free(p);
}

/* What a prospect gives: played once. */
static const played_as *play(playing *w, const prospect *p)
{
    const size_t sockets = w->run->board->socket_count;
    gchar *key = g_compute_checksum_for_data(G_CHECKSUM_SHA1, (const guchar *)p->faults,
                                             p->count * sizeof *p->faults);
    gchar *whole = g_strdup_printf("%s %d %d", key, (int)p->known, (int)p->floats);
    played_as *as = g_hash_table_lookup(w->seen, whole);

    g_free(key);
    if (as && p->known) {
        g_free(whole);
        return as;
    }
    as = g_new0(played_as, 1);
    as->after = g_new0(uint64_t, sockets + 1u);
    if (!p->known) {
        for (size_t s = 0; s < sockets; s++) {
            as->after[s] = p->sockets[s];
            as->print = as->print * 31u + (p->sockets[s] ? s + 7u : 0);
        }
        as->print |= (guint64)1 << 63;
    } else if (p->count) {
        rmg_run again;

        rmg_stage_float(w->stage, p->floats);
        if (rmg_stage_play(w->stage, p->faults, p->count, true, 0, &again)) {
            as->print = rmg_failset_fingerprint(again.failures);
            for (uint16_t s = 0; s < sockets; s++)
                as->after[s] = rmg_failing_at(&again, s);
        }
        rmg_run_end(&again);
        rmg_stage_float(w->stage, RMG_FLOATS_AS_FILE);
    }
    if (!p->known) { /* each its own: only what is played is the same again */
        g_free(whole);
        whole = g_strdup_printf("unknown %u", g_hash_table_size(w->seen));
    }
    g_hash_table_insert(w->seen, whole, as);
    return as;
}

result *rmg_playing_result(GArray *results, guint64 print, size_t count)
{
    result one = {.print = print};

    for (guint i = 0; i < results->len; i++)
        if (g_array_index(results, result, i).print == print)
            return &g_array_index(results, result, i);
    one.is.shares = g_new0(double, count);
    g_array_append_val(results, one);
    return &g_array_index(results, result, results->len - 1u);
}

static gint by_chance(gconstpointer a, gconstpointer b)
{
    return rmg_by_real(((const result *)b)->is.chance, ((const result *)a)->is.chance);
}

static double entropy_of(const double *shares, size_t count, double all)
{
    double bits = 0;

    for (size_t i = 0; i < count; i++)
        if (shares[i] > 0)
            bits -= shares[i] / all * log2(shares[i] / all);
    return bits;
}

/* Is it looked at, not changed? */
static bool is_measured(const rmg_change *change)
{
    return change->kind == RMG_CHANGE_MEASURE || change->kind == RMG_CHANGE_LIFT;
}

/* What a meter shows, or a look at a lifted pin, for one cause. */
static void add_measured(const playing *w, const rmg_change *change, size_t i, GArray *results)
{
    const bool meter = change->kind == RMG_CHANGE_MEASURE;
    const rmg_measured last = meter ? RMG_MEASURED_SHORT : RMG_MEASURED_PAD_BAD;

    for (rmg_measured m = meter ? RMG_MEASURED_WHOLE : RMG_MEASURED_CHIP_BAD; m <= last; m++) {
        const rmg_hypothesis *h = &w->list[i];
        rmg_foreseen *r = &rmg_playing_result(results, m, w->count)->is;
        const double chance =
            h->after * rmg_measured_fits(w->run, w->suspects, h, change->socket, m);

        r->shares[i] += chance;
        r->chance += chance;
        r->outcome = (rmg_outcome)(RMG_OUTCOME_WHOLE + m);
    }
}

/* The likeliest way in which a fault stands after all of w->changes: of its likeliest cause. To be
 * ended; false: nothing is known of it. */
static bool likeliest_way(const playing *w, unsigned fault, size_t changes, prospect *way)
{
    prospect list[PROSPECTS];
    size_t count = 0, best = 0;

    for (size_t i = 0; i < w->count && !count; i++)
        if (w->list[i].fault == fault && w->list[i].rival != SIZE_MAX)
            count = rmg_prospects_of(w->run, w->suspects, &w->list[i], w->changes, changes, w->done,
                                     list);
    for (size_t i = 1; i < count; i++)
        best = list[i].chance > list[best].chance ? i : best;
    for (size_t i = 0; i < count; i++)
        if (i == best)
            *way = list[i];
        else
            rmg_prospects_end(&list[i], 1);
    return count > 0;
}

/* What the plan shows with one fault so, and the others as they most likely are after so many of
 * w->changes; `own` NULL: that one too. NULL: nothing is known. */
static const played_as *play_with_others(playing *w, unsigned fault, const prospect *own,
                                         size_t changes)
{
    const prospect **each = g_new0(const prospect *, w->fault_count + 1u);
    prospect *others = g_new0(prospect, w->fault_count + 1u), all;
    const played_as *as = NULL;
    size_t count = 0;

    for (unsigned f = 0; f < w->fault_count; f++)
        if (own && f == fault)
            each[count++] = own;
        else if (likeliest_way(w, f, changes, &others[f]))
            each[count++] = &others[f];
    if (count) {
        rmg_prospects_join(w->run->board, each, count, &all);
        as = play(w, &all);
        rmg_prospects_end(&all, 1);
    }
    rmg_prospects_end(others, w->fault_count);
    g_free(others);
    g_free(each);
    return as;
}

/* What the same plan shows after the change, for one cause; false: that is not known. */
static bool add_played(playing *w, const rmg_change *change, size_t i, GArray *results)
{
    const rmg_hypothesis *h = &w->list[i];
    prospect list[PROSPECTS];
    const size_t count = h->rival == SIZE_MAX ? 0
                                              : rmg_prospects_of(w->run, w->suspects, h, w->changes,
                                                                 w->done + 1u, w->done, list);

    for (size_t n = 0; n < count; n++) {
        const played_as *as = play_with_others(w, h->fault, &list[n], w->done + 1u);
        rmg_foreseen *r = &rmg_playing_result(results, as->print, w->count)->is;

        r->shares[i] += h->after * list[n].chance;
        r->chance += h->after * list[n].chance;
        r->outcome = rmg_outcome_by_sockets(w->run->board, change, 1, w->before, as->after,
                                            as->print == w->before_print, false);
    }
    rmg_prospects_end(list, count);
    return count != 0;
}

/* All results of a change, of result, by what they say of one fault, the likeliest first. */
static GArray *results_of_fault(playing *w, const rmg_change *change, unsigned fault)
{
    GArray *results = g_array_new(FALSE, TRUE, sizeof(result));

    w->changes[w->done] = *change;
    for (size_t i = 0; i < w->count; i++) {
        if (w->list[i].fault != fault)
            continue;
        if (is_measured(change)) {
            add_measured(w, change, i, results);
            continue;
        }
        if (w->add(w, change, i, results))
            continue;
        /* what none of them is may give anything: it tells nothing */
        for (guint n = 0; n < results->len; n++) {
            rmg_foreseen *r = &g_array_index(results, result, n).is;

            r->shares[i] += w->list[i].after / results->len;
            r->chance += w->list[i].after / results->len;
        }
    }
    g_array_sort(results, by_chance);
    return results;
}

void rmg_playing_free_results(GArray *results)
{
    for (guint n = 0; n < results->len; n++)
        g_free(g_array_index(results, result, n).is.shares);
    g_array_free(results, TRUE);
}

/* Bits that the results of a change give of one fault. */
static double bits_of(const playing *w, const GArray *results, unsigned fault)
{
    double *prior = g_new0(double, w->count + 1u);
    double left = 0, bits;

    for (size_t i = 0; i < w->count; i++)
        prior[i] = w->list[i].fault == fault ? w->list[i].after : 0;
    for (guint n = 0; n < results->len; n++) {
        const rmg_foreseen *r = &g_array_index(results, result, n).is;

        left += r->chance * entropy_of(r->shares, w->count, r->chance);
    }
    bits = entropy_of(prior, w->count, 1) - left;
    g_free(prior);
    return bits;
}

/* The socket that a cause is at now; RMG_NO_SOCKET: none. */
uint16_t rmg_playing_socket_now(const playing *w, const rmg_hypothesis *h)
{
    return h->socket != RMG_NO_SOCKET && h->belongs == RMG_BELONGS_CHIP
               ? rmg_chip_now(w->changes, w->done, h->socket)
               : h->socket;
}

/* Does the change concern the fault, which is still there? */
static bool concerns(const playing *w, const rmg_change *change, unsigned fault)
{
    if (w->fault_count == 1)
        return true;
    if (rmg_fault_gone(w->list, w->count, fault) >= RMG_GONE)
        return false;
    for (size_t i = 0; i < w->count; i++) {
        const uint16_t at =
            w->list[i].fault == fault ? rmg_playing_socket_now(w, &w->list[i]) : RMG_NO_SOCKET;

        if (at != RMG_NO_SOCKET && (at == change->socket || at == change->other))
            return true;
    }
    return false;
}

/* The results of a change by what they say of the fault of which it tells most; NULL: of none. */
GArray *rmg_playing_results(playing *w, const rmg_change *change, unsigned *fault, double *bits)
{
    GArray *best = NULL;

    *bits = 0;
    for (unsigned f = 0; f < w->fault_count; f++) {
        GArray *results;
        double now;

        if (!concerns(w, change, f))
            continue;
        results = results_of_fault(w, change, f);
        now = bits_of(w, results, f);
        if (best && now <= *bits) {
            rmg_playing_free_results(results);
            continue;
        }
        if (best)
            rmg_playing_free_results(best);
        best = results;
        *bits = now;
        *fault = f;
    }
    return best;
}

/* What fails as it stands now: of the likeliest causes, with the changes made since the run. */
static void see_now(playing *w)
{
    const played_as *as = NULL;

    for (uint16_t s = 0; s < w->run->board->socket_count; s++)
        w->before[s] = rmg_failing_at(w->run, s);
    w->before_print = rmg_failset_fingerprint(w->run->failures);
    if (w->done && (w->fault_count > 1 || w->list[0].rival != SIZE_MAX))
        as = play_with_others(w, 0, NULL, w->done);
    if (as) {
        memcpy(w->before, as->after, w->run->board->socket_count * sizeof *w->before);
        w->before_print = as->print;
    }
}

/* Ready to play; false: the board cannot be simulated. To be ended in any case. */
bool rmg_playing_begin(playing *w, const rmg_run *run, const rmg_suspects *suspects,
                       const rmg_hypothesis *list, size_t count, const rmg_changes *done,
                       rmg_stage *stage)
{
    *w = (playing){.run = run,
                   .suspects = suspects,
                   .list = list,
                   .count = count,
                   .add = add_played,
                   .fault_count = rmg_faults_at_once(list, count),
                   .changes = g_new0(rmg_change, (done ? done->count : 0) + 1u),
                   .done = done ? done->count : 0,
                   .before = g_new0(uint64_t, run->board->socket_count + 1u),
                   .seen = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, free_played)};
    if (w->done)
        memcpy(w->changes, done->list, w->done * sizeof *done->list);
    if (!count || !rmg_stage_begin(stage, run))
        return false;
    w->stage = stage;
    see_now(w);
    return true;
}

void rmg_playing_end(playing *w)
{
    if (w->stage)
        rmg_stage_end(w->stage);
    g_hash_table_destroy(w->seen);
    g_free(w->before);
    g_free(w->changes);
}

void rmg_foresee(const rmg_run *run, const rmg_suspects *suspects, const rmg_hypothesis *list,
                 size_t count, const rmg_changes *done, const rmg_change *change,
                 rmg_foreseen **results, size_t *result_count)
{
    GArray *all = g_array_new(FALSE, TRUE, sizeof(rmg_foreseen));
    rmg_stage stage;
    playing w;

    if (rmg_playing_begin(&w, run, suspects, list, count, done, &stage)) {
        unsigned fault = 0;
        double bits;
        GArray *found = rmg_playing_results(&w, change, &fault, &bits);

        for (guint n = 0; found && n < found->len; n++) {
            rmg_foreseen *r = &g_array_index(found, result, n).is;

            for (size_t i = 0; i < count; i++) /* it says nothing of the others */
                r->shares[i] = list[i].fault == fault ? r->shares[i] : list[i].after * r->chance;
            g_array_append_val(all, *r);
        }
        if (found)
            g_array_free(found, TRUE);
    }
    rmg_playing_end(&w);
    *result_count = all->len;
    *results = rmg_array_take(all);
}

void rmg_foreseen_free(rmg_foreseen *results, size_t count)
{
    for (size_t i = 0; i < count; i++)
        g_free(results[i].shares);
    g_free(results);
}
