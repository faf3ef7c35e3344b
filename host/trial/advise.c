/* What to change next: each change that the board allows, played for every cause that is left; its
 * possible results part the causes more or less, and cost more or less. */
#include <math.h>
#include <string.h>

#include "base/internal.h"
#include "internal.h"

#define TELLS     0.02 /* bits: a change that is expected to give less is not worth doing */
#define CANDIDATE 0.02 /* share of the causes at a socket from which on it is thought of */
#define SETTLED                                                                                    \
    0.9 /* share at which mending it is the next step, whatever else could be learnt               \
         */

/* A result: which sockets fail. */
typedef struct result {
    guint64 print; /* of the failing cells, as they would be */
    rmg_foreseen is;
} result;

/* A board on which prospects are played, results that were seen by their faults. */
typedef struct playing {
    const rmg_run *run;
    const rmg_suspects *suspects;
    const rmg_hypothesis *list;
    size_t count;
    rmg_change *changes; /* [done + 1]: those made since the run, and the one that is thought of */
    size_t done;
    rmg_stage *stage;
    uint64_t *before; /* failing cells by socket as it stands now */
    guint64 before_print;
    GHashTable *seen; /* of faults as text: played_as * */
} playing;

typedef struct played_as {
    guint64 print;
    uint64_t *after; /* by socket */
} played_as;

static void free_played(gpointer data)
{
    played_as *p = data;

    g_free(p->after);
    g_free(p);
}

/* What a prospect gives: played once. */
static const played_as *play(playing *w, const prospect *p, rmg_floats floats)
{
    const size_t sockets = w->run->board->socket_count;
    gchar *key = g_compute_checksum_for_data(G_CHECKSUM_SHA1, (const guchar *)p->faults,
                                             p->count * sizeof *p->faults);
    gchar *whole = g_strdup_printf("%s %d %d", key, (int)p->known, (int)floats);
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

        rmg_stage_float(w->stage, floats);
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

static result *result_of(GArray *results, guint64 print, size_t count)
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

/* What belongs together is one thing to mend: the chip, the contact and the track of one socket are
 * three. */
static void tell_result(const playing *w, const rmg_foreseen *r, rmg_forecast *f)
{
    double best = 0;

    *f = (rmg_forecast){.outcome = r->outcome, .chance = r->chance};
    for (rmg_belongs b = RMG_BELONGS_CHIP; b <= RMG_BELONGS_UNKNOWN; b++) {
        double share = 0;

        for (size_t i = 0; i < w->count; i++)
            if (w->list[i].belongs == b)
                share += r->shares[i];
        if (share > best) {
            best = share;
            f->belongs = b;
            f->share = share / r->chance;
        }
    }
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
        rmg_foreseen *r = &result_of(results, m, w->count)->is;
        const double chance =
            h->after * rmg_measured_fits(w->run, w->suspects, h, change->socket, m);

        r->shares[i] += chance;
        r->chance += chance;
        r->outcome = (rmg_outcome)(RMG_OUTCOME_WHOLE + m);
    }
}

/* What the same plan shows after the change, for one cause; false: that is not known. */
static bool add_played(playing *w, const rmg_change *change, size_t i, GArray *results)
{
    const rmg_hypothesis *h = &w->list[i];
    const rmg_replayed *best = rmg_trial_replay(w->suspects, h);
    prospect list[PROSPECTS];
    const size_t count = h->rival == SIZE_MAX ? 0
                                              : rmg_prospects_of(w->run, w->suspects, h, w->changes,
                                                                 w->done + 1u, w->done, list);

    for (size_t n = 0; n < count; n++) {
        const played_as *as = play(w, &list[n], best ? best->floats : RMG_FLOATS_AS_FILE);
        rmg_foreseen *r = &result_of(results, as->print, w->count)->is;

        r->shares[i] += h->after * list[n].chance;
        r->chance += h->after * list[n].chance;
        r->outcome = rmg_outcome_by_sockets(w->run->board, change, 1, w->before, as->after,
                                            as->print == w->before_print, false);
    }
    rmg_prospects_end(list, count);
    return count != 0;
}

/* All results of a change, of result, the likeliest first. */
static GArray *results_of(playing *w, const rmg_change *change)
{
    GArray *results = g_array_new(FALSE, TRUE, sizeof(result));

    w->changes[w->done] = *change;
    for (size_t i = 0; i < w->count; i++) {
        if (is_measured(change)) {
            add_measured(w, change, i, results);
            continue;
        }
        if (add_played(w, change, i, results))
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

/* What a change is worth. */
static bool weigh(playing *w, const rmg_change *change, const rmg_cost_table *costs,
                  rmg_advice *advice)
{
    const rmg_mount mount = change->socket == RMG_NO_SOCKET
                                ? RMG_MOUNT_SOCKET
                                : w->run->board->sockets[change->socket].mount;
    GArray *results = results_of(w, change);
    double *prior = g_new0(double, w->count);
    double left = 0;

    *advice = (rmg_advice){.change = *change, .cost = costs->costs[change->kind][mount]};
    for (size_t i = 0; i < w->count; i++)
        prior[i] = w->list[i].after;
    for (guint n = 0; n < results->len; n++) {
        const rmg_foreseen *r = &g_array_index(results, result, n).is;

        left += r->chance * entropy_of(r->shares, w->count, r->chance);
        if (n < RMG_FORECASTS && r->chance > 0.005)
            tell_result(w, r, &advice->results[advice->result_count++]);
        g_free(r->shares);
    }
    advice->bits = entropy_of(prior, w->count, 1) - left;
    g_array_free(results, TRUE);
    g_free(prior);
    return advice->cost.minutes >= 0;
}

static double price(const rmg_cost *cost)
{
    return cost->minutes + cost->damage * RMG_DAMAGE_MINUTES + 1; /* and the test afterwards */
}

static gint by_worth(gconstpointer a, gconstpointer b)
{
    const rmg_advice *x = a, *y = b;
    const bool x_sure = x->settles && x->share >= SETTLED,
               y_sure = y->settles && y->share >= SETTLED;

    if (x_sure != y_sure)
        return x_sure ? -1 : 1;
    if (x->settles != y->settles) /* what tells more comes before what only may mend */
        return x->settles ? 1 : -1;
    return x->settles ? rmg_by_real(y->share / price(&y->cost), x->share / price(&x->cost))
                      : rmg_by_real(y->bits / price(&y->cost), x->bits / price(&x->cost));
}

/* The socket that a cause is at now; RMG_NO_SOCKET: none. */
static uint16_t socket_now(const playing *w, const rmg_hypothesis *h)
{
    return h->socket != RMG_NO_SOCKET && h->belongs == RMG_BELONGS_CHIP
               ? rmg_chip_now(w->changes, w->done, h->socket)
               : h->socket;
}

/* A sound socket whose chip could be changed for that one's; RMG_NO_SOCKET: none. */
static uint16_t partner(const playing *w, uint16_t socket)
{
    const rmg_board *board = w->run->board;
    uint16_t best = RMG_NO_SOCKET;

    for (uint16_t s = 0; s < board->socket_count; s++)
        if (s != socket && board->sockets[s].part == board->sockets[socket].part &&
            board->sockets[s].mount == RMG_MOUNT_SOCKET && !w->before[s] &&
            (best == RMG_NO_SOCKET || ABS((int)s - socket) < ABS((int)best - socket)))
            best = s;
    return best;
}

static void consider(playing *w, rmg_change change, const rmg_cost_table *costs, GArray *list)
{
    rmg_advice one;

    change.bank = RMG_NO_BANK;
    change.value = INT64_MIN;
    if (weigh(w, &change, costs, &one) && one.bits >= TELLS)
        g_array_append_val(list, one);
}

/* What is mended together: a chip; a contact and the track at a pin; a line; a select. */
static bool mended_with(const rmg_hypothesis *a, const rmg_hypothesis *b)
{
    const bool joint = a->belongs == RMG_BELONGS_CONTACT || a->belongs == RMG_BELONGS_PLACE,
               other = b->belongs == RMG_BELONGS_CONTACT || b->belongs == RMG_BELONGS_PLACE;

    return a->rival != SIZE_MAX && b->rival != SIZE_MAX && a->socket == b->socket &&
           (joint ? other : a->belongs == b->belongs) &&
           (a->socket != RMG_NO_SOCKET || a->suspect == b->suspect);
}

/* The repair of a cause, as a change; false: it is none that can be told. */
static bool repair_of(const playing *w, const rmg_hypothesis *h, rmg_change *c)
{
    const rmg_board *board = w->run->board;
    const rmg_finding *f =
        h->suspect < w->suspects->count ? &w->suspects->list[h->suspect].finding : NULL;
    const uint16_t at = socket_now(w, h);

    *c = (rmg_change){.kind = RMG_CHANGE_REPAIR,
                      .socket = RMG_NO_SOCKET,
                      .other = RMG_NO_SOCKET,
                      .bank = RMG_NO_BANK,
                      .value = INT64_MIN};
    if (!f || h->rival == SIZE_MAX || h->belongs == RMG_BELONGS_UNKNOWN ||
        (h->belongs == RMG_BELONGS_CHIP && at == RMG_NO_SOCKET))
        return false;
    if (h->belongs == RMG_BELONGS_CHIP) {
        c->kind = RMG_CHANGE_REPLACE;
        c->socket = at;
    } else if (h->belongs == RMG_BELONGS_CONTACT || h->belongs == RMG_BELONGS_PLACE) {
        c->socket = at;
        return at != RMG_NO_SOCKET;
    } else if (h->belongs == RMG_BELONGS_LINE && f->point != RMG_NO_POINT &&
               f->line < board->line_count) {
        c->text = g_strdup_printf("%s at %s", board->lines[f->line].name,
                                  board->lines[f->line].points[f->point].name);
    } else {
        c->text = g_strdup(rmg_belongs_name(h->belongs));
    }
    return true;
}

/* Repairs, one for what is mended together. */
static void consider_repairs(const playing *w, const rmg_cost_table *costs, GArray *list)
{
    for (size_t i = 0; i < w->count; i++) {
        rmg_advice one = {.settles = true};
        bool told = false;
        rmg_mount mount;

        for (size_t n = 0; n < i; n++)
            told |= mended_with(&w->list[n], &w->list[i]);
        for (size_t n = 0; n < w->count; n++)
            one.share += mended_with(&w->list[i], &w->list[n]) ? w->list[n].after : 0;
        if (told || one.share < CANDIDATE || !repair_of(w, &w->list[i], &one.change))
            continue;
        mount = one.change.socket != RMG_NO_SOCKET ? w->run->board->sockets[one.change.socket].mount
                                                   : RMG_MOUNT_SOCKET;
        one.cost = costs->costs[one.change.kind][mount];
        if (one.cost.minutes >= 0)
            g_array_append_val(list, one);
        else
            g_free(one.change.text);
    }
}

/* Changes at a socket that some cause is at. */
static void consider_socket(playing *w, uint16_t s, const rmg_cost_table *costs, GArray *list)
{
    const rmg_board *board = w->run->board;
    const uint16_t other = partner(w, s);

    consider(w, (rmg_change){.kind = RMG_CHANGE_LIFT, .socket = s, .other = RMG_NO_SOCKET}, costs,
             list);
    consider(w, (rmg_change){.kind = RMG_CHANGE_MEASURE, .socket = s, .other = RMG_NO_SOCKET},
             costs, list);
    consider(w, (rmg_change){.kind = RMG_CHANGE_HOLD, .socket = s, .other = RMG_NO_SOCKET}, costs,
             list);
    if (board->sockets[s].mount != RMG_MOUNT_SOCKET)
        return;
    consider(w, (rmg_change){.kind = RMG_CHANGE_RESEAT, .socket = s, .other = RMG_NO_SOCKET}, costs,
             list);
    consider(w, (rmg_change){.kind = RMG_CHANGE_PULL, .socket = s, .other = RMG_NO_SOCKET}, costs,
             list);
    if (other != RMG_NO_SOCKET)
        consider(w, (rmg_change){.kind = RMG_CHANGE_SWAP, .socket = s, .other = other}, costs,
                 list);
    else
        consider(w, (rmg_change){.kind = RMG_CHANGE_FIT, .socket = s, .other = RMG_NO_SOCKET},
                 costs, list);
}

/* What fails as it stands now: of the likeliest cause, with the changes made since the run. */
static void see_now(playing *w)
{
    const rmg_hypothesis *h = &w->list[0];
    const rmg_replayed *best = rmg_trial_replay(w->suspects, h);
    prospect list[PROSPECTS];
    size_t count = 0;

    for (uint16_t s = 0; s < w->run->board->socket_count; s++)
        w->before[s] = rmg_failing_at(w->run, s);
    w->before_print = rmg_failset_fingerprint(w->run->failures);
    if (w->done && h->rival != SIZE_MAX)
        count = rmg_prospects_of(w->run, w->suspects, h, w->changes, w->done, w->done, list);
    if (count) {
        const played_as *as = play(w, &list[0], best ? best->floats : RMG_FLOATS_AS_FILE);

        memcpy(w->before, as->after, w->run->board->socket_count * sizeof *w->before);
        w->before_print = as->print;
    }
    rmg_prospects_end(list, count);
}

/* Ready to play; false: the board cannot be simulated. To be ended in any case. */
static bool begin(playing *w, const rmg_run *run, const rmg_suspects *suspects,
                  const rmg_hypothesis *list, size_t count, const rmg_changes *done,
                  rmg_stage *stage)
{
    *w = (playing){.run = run,
                   .suspects = suspects,
                   .list = list,
                   .count = count,
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

static void end(playing *w)
{
    if (w->stage)
        rmg_stage_end(w->stage);
    g_hash_table_destroy(w->seen);
    g_free(w->before);
    g_free(w->changes);
}

void rmg_advise(const rmg_run *run, const rmg_suspects *suspects, const rmg_hypothesis *list,
                size_t count, const rmg_changes *done, const rmg_cost_table *costs,
                rmg_advice **advice, size_t *advice_count)
{
    GArray *found = g_array_new(FALSE, TRUE, sizeof(rmg_advice));
    rmg_stage stage;
    playing w;

    if (begin(&w, run, suspects, list, count, done, &stage)) {
        for (uint16_t s = 0; s < run->board->socket_count; s++) {
            double share = 0;

            for (size_t i = 0; i < count; i++)
                if (socket_now(&w, &list[i]) == s)
                    share += list[i].after;
            if (share >= CANDIDATE)
                consider_socket(&w, s, costs, found);
        }
        consider_repairs(&w, costs, found);
    }
    end(&w);
    g_array_sort(found, by_worth);
    *advice_count = found->len;
    *advice = rmg_array_take(found);
}

void rmg_foresee(const rmg_run *run, const rmg_suspects *suspects, const rmg_hypothesis *list,
                 size_t count, const rmg_changes *done, const rmg_change *change,
                 rmg_foreseen **results, size_t *result_count)
{
    GArray *all = g_array_new(FALSE, TRUE, sizeof(rmg_foreseen));
    rmg_stage stage;
    playing w;

    if (begin(&w, run, suspects, list, count, done, &stage)) {
        GArray *found = results_of(&w, change);

        for (guint n = 0; n < found->len; n++)
            g_array_append_val(all, g_array_index(found, result, n).is);
        g_array_free(found, TRUE);
    }
    end(&w);
    *result_count = all->len;
    *results = rmg_array_take(all);
}

void rmg_foreseen_free(rmg_foreseen *results, size_t count)
{
    for (size_t i = 0; i < count; i++)
        g_free(results[i].shares);
    g_free(results);
}

void rmg_advice_free(rmg_advice *advice, size_t count)
{
    for (size_t i = 0; i < count; i++)
        g_free(advice[i].change.text);
    g_free(advice);
}
