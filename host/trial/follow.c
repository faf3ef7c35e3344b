/* What follows from a trial: each cause as it stands after the changes is played with the plan of
 * the second run, and weighed by how well its failures agree with the measured ones. */
#include <math.h>
#include <string.h>

#include "base/internal.h"
#include "internal.h"

#define UNTHOUGHT      0.02 /* share of what none of the causes is */
#define UNTHOUGHT_FITS 0.02 /* ... which could have given any result */
#define ALIKE          0.05 /* the same sockets fail, but not just so */
#define UNLIKE         1e-4
#define FAILED_ALWAYS  0.98 /* in each pass: of a fault that is there all the time */

int rmg_hypothesis_order(const void *a, const void *b)
{
    return rmg_by_real(((const rmg_hypothesis *)b)->after, ((const rmg_hypothesis *)a)->after);
}

static gint by_before(gconstpointer a, gconstpointer b)
{
    return rmg_by_real(((const rmg_hypothesis *)b)->before, ((const rmg_hypothesis *)a)->before);
}

rmg_hypothesis *rmg_hypotheses(const rmg_run *run, const rmg_suspects *suspects, size_t *count)
{
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_hypothesis));
    double all = 0;

    (void)run;
    for (size_t i = 0; i < suspects->count; i++) {
        const rmg_suspect *s = &suspects->list[i];

        for (size_t r = 0; r < s->rival_count; r++) {
            const rmg_hypothesis h = {.suspect = i,
                                      .rival = r,
                                      .socket = s->finding.socket != RMG_NO_SOCKET
                                                    ? s->finding.socket
                                                    : s->rivals[r].is.socket,
                                      .belongs = rmg_cause_belongs(s->rivals[r].cause),
                                      .before = s->confidence * s->rivals[r].share};

            if (h.before > 0)
                g_array_append_val(list, h);
            all += h.before;
        }
    }
    if (list->len) {
        const rmg_hypothesis none = {.suspect = suspects->count,
                                     .rival = SIZE_MAX,
                                     .socket = RMG_NO_SOCKET,
                                     .belongs = RMG_BELONGS_UNKNOWN,
                                     .before = all * UNTHOUGHT / (1 - UNTHOUGHT)};

        g_array_append_val(list, none);
        all += none.before;
    }
    for (guint i = 0; i < list->len; i++) {
        rmg_hypothesis *h = &g_array_index(list, rmg_hypothesis, i);

        h->before /= all;
        h->after = h->before;
    }
    g_array_sort(list, by_before);
    *count = list->len;
    return rmg_array_take(list);
}

void rmg_hypotheses_free(rmg_hypothesis *list)
{
    g_free(list);
}

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

/* What the second run's failures say of sockets: those that may fail do, or others. */
static double fits_sockets(const rmg_trial *t, const prospect *p)
{
    bool any = false, others = false;

    for (size_t i = 0; i < t->socket_count; i++) {
        any |= t->sockets[i].after && p->sockets[t->sockets[i].socket];
        others |= t->sockets[i].after && !p->sockets[t->sockets[i].socket];
    }
    if (others)
        return UNLIKE;
    return shows(t, any);
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

/* How well one prospect agrees with the second run. */
static double fits_played(const rmg_trial *t, rmg_stage *stage, const prospect *p)
{
    const proposal none = {0};
    const bool failed = rmg_run_failed(t->of.after);
    double best = UNLIKE;

    if (!p->count) { /* it passes */
        return failed ? UNLIKE : 1;
    }
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
    return best;
}

/* Undriven lines may do otherwise than the file says; what gave the same before says how. */
static double fits(const rmg_trial *t, rmg_stage *stage, const rmg_hypothesis *h)
{
    const rmg_trial_of *of = &t->of;
    const rmg_replayed *r = rmg_trial_replay(of->suspects, h);
    /* a contact that was made anew and still failed is not gone; one that was gone may be back */
    const size_t done = rmg_run_failed(of->before) ? of->done : 0;
    prospect list[PROSPECTS];
    const size_t count = rmg_prospects_of(of->base, of->suspects, h, of->changes->list,
                                          of->changes->count, done, list);
    double sum = 0;

    rmg_stage_float(stage, r ? r->floats : RMG_FLOATS_AS_FILE);
    for (size_t i = 0; i < count; i++)
        sum += list[i].chance *
               (list[i].known && (rmg_run_repeats(of->after) || of->after->pass_count < 2)
                    ? fits_played(t, stage, &list[i])
                    : fits_sockets(t, &list[i]));
    rmg_stage_float(stage, RMG_FLOATS_AS_FILE);
    rmg_prospects_end(list, count);
    return sum;
}

/* Were both runs over the same words of the same board? */
static rmg_status comparable(const rmg_run *before, const rmg_run *after, rmg_error *error)
{
    bool same = before->tested_count == after->tested_count;

    if (strcmp(before->board->hash, after->board->hash) != 0)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        "the runs are of different boards: %s, revision \"%s\", and %s, revision "
                        "\"%s\", or their files differ",
                        before->board->name, before->board->revision, after->board->name,
                        after->board->revision);
    for (size_t i = 0; i < before->tested_count && same; i++)
        same = before->tested[i].first == after->tested[i].first &&
               before->tested[i].last == after->tested[i].last;
    if (!same)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        "the runs are not over the same memory; test the same ranges before and "
                        "after");
    return RMG_OK;
}

rmg_status rmg_trial_follow(const rmg_trial_of *of, rmg_trial *t, rmg_error *error)
{
    rmg_stage stage;
    double all = 0;
    bool staged, starved = false;

    rmg_error_none(error);
    *t = (rmg_trial){.of = *of};
    if (comparable(of->before, of->after, error) != RMG_OK ||
        comparable(of->base, of->after, error) != RMG_OK)
        return RMG_ERR_ARGUMENT;
    rmg_trial_outcome(t);
    if (of->prior) {
        t->list = g_memdup2(of->prior, of->prior_count * sizeof *of->prior);
        t->count = of->prior_count;
        for (size_t i = 0; i < t->count; i++)
            t->list[i].before = t->list[i].after;
    } else {
        t->list = rmg_hypotheses(of->base, of->suspects, &t->count);
    }
    if (t->shown != t->shown_as) { /* by wrong names it says nothing of causes */
        g_clear_pointer(&t->list, g_free);
        t->count = 0;
        return RMG_OK;
    }
    staged = t->count && rmg_stage_begin(&stage, of->after);
    for (size_t i = 0; i < t->count; i++) {
        rmg_hypothesis *h = &t->list[i];

        h->fits = h->rival == SIZE_MAX ? UNTHOUGHT_FITS : staged ? fits(t, &stage, h) : 1;
        all += h->before * h->fits;
    }
    for (size_t i = 0; i < t->count && all > 0; i++)
        t->list[i].after = t->list[i].before * t->list[i].fits / all;
    if (t->count)
        qsort(t->list, t->count, sizeof *t->list, rmg_hypothesis_order);
    if (staged) {
        starved = stage.starved;
        rmg_stage_end(&stage);
    }
    return starved ? RMG_ERR_MEMORY : RMG_OK;
}

void rmg_trial_free(rmg_trial *t)
{
    g_free(t->list);
    g_free(t->sockets);
    t->list = NULL;
    t->sockets = NULL;
    t->count = t->socket_count = 0;
}
