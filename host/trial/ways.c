/* The ways in which a board may stand after a trial: of each fault one of those that its causes
 * leave, all together played with the plan of the second run and held against it. */
#include <math.h>
#include <string.h>

#include "internal.h"

#define UNTHOUGHT_FITS 0.02 /* what nobody thought of could have given any result */
#define ALIKE          0.05 /* the same sockets fail, but not just so */
#define UNLIKE         1e-4
#define FAILED_ALWAYS  0.98 /* in each pass: of a fault that is there all the time */

/* The ways of one fault, each once. */
typedef struct fault_ways {
    GArray *list; /* of prospect; `chance`: share of all its ways */
} fault_ways;

/* A way of a cause: which of its fault's, and how likely. */
typedef struct of_cause {
    guint way;
    double chance;
} of_cause;

typedef struct weighing {
    rmg_trial *trial;
    rmg_stage *stage;
    unsigned fault_count;
    fault_ways *faults;      /* [fault_count] */
    GArray **causes;         /* [trial->count] of of_cause */
    GHashTable *played;      /* of ways as text: how well they agree, double * */
    const prospect **chosen; /* [fault_count]: one of each */
    guint *numbers;          /* ... which */
} weighing;

/* How likely it is that a cause which showed in so many passes shows in none of the second run's,
 * or in some. */
static double shows(const rmg_trial *t, bool in_some)
{
    const rmg_rate r = rmg_rate_of_passes(t->of.base);
    const uint64_t passes = MAX(t->of.after->pass_count, 1u);
    const double none = t->of.base->pass_count > 1 && !rmg_run_repeats(t->of.base)
                            ? rmg_clean_chance(r.events, r.trials, passes)
                            : pow(1 - FAILED_ALWAYS, (double)MIN(passes, 100u));

    return in_some ? 1 - none : none;
}

/* Does a socket of these fail in the second run? */
static bool fails_at(const rmg_trial *t, const bool *at)
{
    for (size_t i = 0; i < t->socket_count; i++)
        if (t->sockets[i].after && at[t->sockets[i].socket])
            return true;
    return false;
}

/* What the second run's failures say of sockets: those that may fail do, or others. */
static double fits_sockets(const weighing *w, const prospect *all)
{
    const rmg_trial *t = w->trial;
    double fits = 1;
    bool any = false;

    for (size_t i = 0; i < t->socket_count; i++)
        if (t->sockets[i].after && !all->sockets[t->sockets[i].socket])
            return UNLIKE;
    for (unsigned f = 0; f < w->fault_count; f++)
        if (!w->chosen[f]->gone) {
            fits *= shows(t, fails_at(t, w->chosen[f]->at));
            any = true;
        }
    return any ? fits : shows(t, fails_at(t, all->sockets));
}

/* The same sockets as in the play? */
static bool same_sockets(const rmg_trial *t, const rmg_run *again)
{
    bool same = true;

    for (uint16_t s = 0; s < again->board->socket_count && same; s++) {
        uint64_t after = 0;

        for (size_t i = 0; i < t->socket_count; i++)
            if (t->sockets[i].socket == s)
                after = t->sockets[i].after;
        same = (after > 0) == (rmg_failing_at(again, s) > 0);
    }
    return same;
}

/* How well what can be played agrees with the second run. */
static double fits_played(const rmg_trial *t, rmg_stage *stage, const prospect *p)
{
    const proposal none = {0};
    const bool failed = rmg_run_failed(t->of.after);
    double best = UNLIKE;

    if (!p->count) { /* it passes */
        return failed ? UNLIKE : 1;
    }
    rmg_stage_float(stage, p->floats);
    for (unsigned contents = 0; contents < rmg_stage_contents(p->faults, p->count); contents++) {
        rmg_run again;
        comparison c;
        double fits = UNLIKE;

        if (rmg_stage_play(stage, p->faults, p->count, true, contents, &again)) {
            c = rmg_replay_compare(t->of.after, &again, &none, NULL);
            if (!c.left && !c.unseen)
                fits = 1;
            else if (same_sockets(t, &again))
                fits = ALIKE +
                       (1 - ALIKE) * 0.5 * (double)c.both / (double)(c.both + c.left + c.unseen);
            else if (!failed)
                fits = MAX(fits, shows(t, false));
        }
        rmg_run_end(&again);
        best = MAX(best, fits);
    }
    rmg_stage_float(stage, RMG_FLOATS_AS_FILE);
    return best;
}

/* How well the chosen ways agree, one of each fault. */
static double fits_together(weighing *w)
{
    const rmg_run *after = w->trial->of.after;
    GString *key = g_string_new(NULL);
    double *fits;

    for (unsigned f = 0; f < w->fault_count; f++)
        g_string_append_printf(key, "%u ", w->numbers[f]);
    fits = g_hash_table_lookup(w->played, key->str);
    if (!fits) {
        prospect all;

        rmg_prospects_join(after->board, w->chosen, w->fault_count, &all);
        fits = g_new(double, 1);
        *fits = all.known && (rmg_run_repeats(after) || after->pass_count < 2)
                    ? fits_played(w->trial, w->stage, &all)
                    : fits_sockets(w, &all);
        rmg_prospects_end(&all, 1);
        g_hash_table_insert(w->played, g_strdup(key->str), fits);
    }
    g_string_free(key, TRUE);
    return *fits;
}

/* How many ways of each other fault are played with one: fewer where there are more faults. */
static guint beside(const weighing *w)
{
    static const guint most[] = {1, 1, 12, 4, 2};

    return w->fault_count < G_N_ELEMENTS(most) ? most[w->fault_count] : 1;
}

/* The same, of the chosen way of one fault, over the ways of the others from number `from` on. */
static double fits_over_others(weighing *w, unsigned own, unsigned from)
{
    const GArray *list;
    double sum = 0, all = 0;

    if (from == own)
        return fits_over_others(w, own, from + 1u);
    if (from == w->fault_count)
        return fits_together(w);
    list = w->faults[from].list;
    for (guint i = 0; i < list->len && i < beside(w); i++) {
        const prospect *p = &g_array_index(list, prospect, i);

        w->chosen[from] = p;
        w->numbers[from] = i;
        sum += p->chance * fits_over_others(w, own, from + 1u);
        all += p->chance;
    }
    return all > 0 ? sum / all : UNLIKE;
}

static bool same_way(const prospect *a, const prospect *b, size_t sockets)
{
    return a->known == b->known && a->gone == b->gone && a->floats == b->floats &&
           a->own == b->own && a->count == b->count &&
           !memcmp(a->faults, b->faults, a->count * sizeof *a->faults) &&
           !memcmp(a->sockets, b->sockets, sockets * sizeof *a->sockets) &&
           !memcmp(a->at, b->at, sockets * sizeof *a->at);
}

/* Takes a prospect over; its number. */
static guint add_way(GArray *list, prospect *p, double chance, size_t sockets)
{
    for (guint i = 0; i < list->len; i++)
        if (same_way(&g_array_index(list, prospect, i), p, sockets)) {
            g_array_index(list, prospect, i).chance += chance;
            rmg_prospects_end(p, 1);
            return i;
        }
    p->chance = chance;
    g_array_append_vals(list, p, 1);
    return list->len - 1u;
}

/* May the fault be no more than what others do? Then nobody's fault is one of its ways. */
static bool need_not_be(const rmg_trial *t, unsigned fault)
{
    bool any = false;

    for (size_t i = 0; i < t->count; i++) {
        const rmg_hypothesis *h = &t->list[i];

        if (h->fault != fault || h->rival == SIZE_MAX)
            continue;
        if (!t->of.suspects->list[h->suspect].finding.may_follow &&
            !t->of.suspects->list[h->suspect].finding.or_each)
            return false;
        any = true;
    }
    return any;
}

static void gather(weighing *w)
{
    const rmg_trial_of *of = &w->trial->of;
    /* what was made anew and still failed is not gone; what was gone may be back */
    const size_t done = rmg_run_failed(of->before) ? of->done : 0;

    for (size_t i = 0; i < w->trial->count; i++) {
        const rmg_hypothesis *h = &w->trial->list[i];
        const bool played = h->rival != SIZE_MAX || need_not_be(w->trial, h->fault);
        prospect list[PROSPECTS];
        const size_t count = !played
                                 ? 0
                                 : rmg_prospects_of(of->base, of->suspects, h, of->changes->list,
                                                    of->changes->count, done, list);

        w->causes[i] = g_array_new(FALSE, FALSE, sizeof(of_cause));
        for (size_t n = 0; n < count; n++) {
            const double chance = list[n].chance;
            of_cause one = {.chance = chance};

            one.way = add_way(w->faults[h->fault].list, &list[n], h->before * chance,
                              of->base->board->socket_count);
            g_array_append_val(w->causes[i], one);
        }
    }
}

/* The likeliest ways first, for only some are played beside those of others. */
static void put_in_order(weighing *w, unsigned fault)
{
    GArray *list = w->faults[fault].list;

    for (guint i = 0; i < list->len; i++)
        for (guint n = i + 1u; n < list->len; n++) {
            prospect *a = &g_array_index(list, prospect, i), *b = &g_array_index(list, prospect, n);

            if (b->chance <= a->chance)
                continue;
            const prospect kept = *a;

            *a = *b;
            *b = kept;
            for (size_t c = 0; c < w->trial->count; c++)
                for (guint k = 0; w->trial->list[c].fault == fault && k < w->causes[c]->len; k++) {
                    guint *way = &g_array_index(w->causes[c], of_cause, k).way;

                    *way = *way == i ? n : *way == n ? i : *way;
                }
        }
}

static void weigh_cause(weighing *w, size_t i)
{
    rmg_hypothesis *h = &w->trial->list[i];
    double fits = 0, gone = 0;

    for (guint k = 0; k < w->causes[i]->len; k++) {
        const of_cause *c = &g_array_index(w->causes[i], of_cause, k);
        const prospect *p = &g_array_index(w->faults[h->fault].list, prospect, c->way);
        double now;

        w->chosen[h->fault] = p;
        w->numbers[h->fault] = c->way;
        now = c->chance * fits_over_others(w, h->fault, 0);
        fits += now;
        gone += p->gone ? now : 0;
    }
    h->gone = fits > 0 ? gone / fits : 0;
    h->fits = h->rival == SIZE_MAX ? MAX(fits, UNTHOUGHT_FITS) : fits;
}

void rmg_ways_weigh(rmg_trial *trial, rmg_stage *stage)
{
    weighing w = {.trial = trial,
                  .stage = stage,
                  .fault_count = rmg_faults_at_once(trial->list, trial->count),
                  .causes = g_new0(GArray *, trial->count + 1u),
                  .played = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free)};

    w.faults = g_new0(fault_ways, w.fault_count + 1u);
    w.chosen = g_new0(const prospect *, w.fault_count + 1u);
    w.numbers = g_new0(guint, w.fault_count + 1u);
    for (unsigned f = 0; f < w.fault_count; f++)
        w.faults[f].list = g_array_new(FALSE, FALSE, sizeof(prospect));
    gather(&w);
    for (unsigned f = 0; f < w.fault_count; f++)
        put_in_order(&w, f);
    for (size_t i = 0; i < trial->count; i++)
        weigh_cause(&w, i);
    for (unsigned f = 0; f < w.fault_count; f++) {
        rmg_prospects_end((prospect *)(void *)w.faults[f].list->data, w.faults[f].list->len);
        g_array_free(w.faults[f].list, TRUE);
    }
    for (size_t i = 0; i < trial->count; i++)
        g_array_free(w.causes[i], TRUE);
    g_hash_table_destroy(w.played);
    g_free(w.faults);
    g_free(w.causes);
    g_free(w.chosen);
    g_free(w.numbers);
}
