/* What follows from a trial: each cause as it stands after the changes is weighed by how well its
 * failures agree with the measured ones. */
#include <string.h>

#include "base/internal.h"
#include "internal.h"

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
    bool starved = false;

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
    for (size_t i = 0; i < t->count; i++)
        t->list[i].fits = 1;
    if (t->count && rmg_stage_begin(&stage, of->after)) {
        rmg_ways_weigh(t, &stage);
        starved = stage.starved;
        rmg_stage_end(&stage);
    }
    for (size_t i = 0; i < t->count; i++)
        t->list[i].after = t->list[i].before * t->list[i].fits;
    rmg_hypotheses_settle(t->list, t->count);
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
