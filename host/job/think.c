/* What follows from a job: its tests one after the other, each a trial of what was changed since
 * the one before; what was seen and measured weighed with them. */
#include <string.h>

#include "internal.h"
#include "rimeglass/heard.h"
#include "rimeglass/replay.h"

#define ELSE 0.5 /* share of what nobody thought of from which on the diagnosis begins again */

/* What was measured at a socket. */
typedef struct at_socket {
    uint16_t socket;
    rmg_measured measured;
} at_socket;

/* Everything that the thinking is done with. */
typedef struct thinking {
    rmg_job *job;
    rmg_entry *entries;
    size_t count;
    bool (*go_on)(void *context, double share);
    void *context;
    rmg_job_state *state;
    GArray *steps;       /* of rmg_job_step */
    GArray *changes;     /* of rmg_change: since the base, or before it is known */
    GArray *measured;    /* of at_socket: since that socket was last changed */
    size_t followed;     /* of these, before the last run */
    const rmg_run *last; /* the last comparable run */
    bool *apart;         /* [socket_count]: what fails there now has a cause of its own; */
    bool *brought;       /* ... and came with its chip */
    size_t clean;        /* the last step before the base, if it passed; SIZE_MAX */
    rmg_error *error;
} thinking;

/* A meter that is held there once more tells nothing new. */
static bool was_measured(const thinking *t, uint16_t socket, bool lifted)
{
    for (guint i = 0; i < t->measured->len; i++) {
        const at_socket *m = &g_array_index(t->measured, at_socket, i);

        if (m->socket == socket && (m->measured > RMG_MEASURED_SHORT) == lifted)
            return true;
    }
    return false;
}

static void take_measured(thinking *t, const at_socket *m)
{
    if (was_measured(t, m->socket, m->measured > RMG_MEASURED_SHORT))
        return;
    g_array_append_val(t->measured, *m);
    rmg_measured_weigh(&t->state->steps[t->state->base].file.run, &t->state->suspects, m->socket,
                       m->measured, t->state->list, t->state->count);
}

static rmg_status add_changes(thinking *t, const rmg_entry *e)
{
    const guint before = t->changes->len;
    const rmg_status status = rmg_job_changes_add(t->job->board, e->text, t->changes, t->error);

    for (guint i = before; i < t->changes->len; i++)
        for (guint n = t->measured->len; n-- > 0;) {
            const rmg_change *c = &g_array_index(t->changes, rmg_change, i);
            const uint16_t at = g_array_index(t->measured, at_socket, n).socket;

            if (at == c->socket || at == c->other)
                g_array_remove_index_fast(t->measured, n);
        }
    return status;
}

/* What was right before the last changes, if that was tested. */
static void weigh_passed(const thinking *t, const rmg_job_step *step)
{
    rmg_job_state *state = t->state;
    const size_t made = step->changes.count - step->done;

    if (t->clean < state->step_count && made &&
        rmg_passed_weigh(&step->file.run, &state->suspects, &state->steps[t->clean].file.run,
                         &step->changes.list[step->done], made, state->list, state->count))
        state->passed_before = state->steps[t->clean].entry;
}

/* What was measured at any time holds for the base: a meter does not change the board. */
static rmg_status find_causes(thinking *t, const rmg_run *run)
{
    rmg_job_state *state = t->state;
    rmg_facts facts;
    rmg_status status = rmg_job_facts(t->job->board, t->entries, t->count, &facts, t->error);

    for (uint16_t s = 0; s < t->job->board->socket_count; s++)
        if (t->apart[s])
            rmg_facts_apart(&facts, s);
    if (status == RMG_OK) {
        rmg_suspects_find(run, &facts, &state->suspects);
        if (!run->heard || rmg_heard_replayable(run))
            status = rmg_replay(run, &state->suspects, RMG_REPLAY_WORK, t->go_on, t->context);
        state->list = rmg_hypotheses(run, &state->suspects, &state->count);
        rmg_job_weigh_elsewhere(state, t->job->board, state->list, state->count);
    }
    rmg_facts_end(&facts);
    return status;
}

const rmg_suspects *rmg_job_suspects_at(const rmg_job_state *state, size_t step)
{
    if (state->base < step || !state->past_count)
        return &state->suspects;
    for (size_t i = state->past_count; i-- > 0;)
        if (state->past[i].base < step)
            return &state->past[i].suspects;
    return &state->past[0].suspects;
}

/* The chips of a suspect, where they are now: what fails there is not joined again. */
static void set_apart(thinking *t, const rmg_finding *f)
{
    const rmg_board *board = t->job->board;
    const rmg_change *changes = (const rmg_change *)(const void *)t->changes->data;
    bool *sockets = g_new0(bool, board->socket_count + 1u);

    rmg_finding_sockets(&t->state->steps[t->state->base].file.run, f, sockets);
    for (uint16_t s = 0; s < board->socket_count; s++) {
        const uint16_t now = sockets[s] ? rmg_chip_now(changes, t->changes->len, s) : RMG_NO_SOCKET;

        if (now == RMG_NO_SOCKET)
            continue;
        t->apart[now] = true;
        t->brought[now] = now != s && !sockets[now];
    }
    g_free(sockets);
}

/* Has each of several chips a fault of its own, by what was found since? */
static bool are_apart(thinking *t)
{
    const rmg_job_state *state = t->state;
    bool any = false;

    for (size_t i = 0; i < state->count; i++) {
        const rmg_hypothesis *h = &state->list[i];

        if (h->after < ELSE || h->gone >= ELSE || h->rival == SIZE_MAX ||
            state->suspects.list[h->suspect].rivals[h->rival].is.said != RMG_SAY_EACH_OF_THESE)
            continue;
        set_apart(t, &state->suspects.list[h->suspect].finding);
        any = true;
    }
    return any;
}

/* The last test is diagnosed by itself: the board as it is now. */
static rmg_status begin_again(thinking *t, bool apart)
{
    rmg_job_state *state = t->state;
    const rmg_job_past past = {state->base, state->suspects, apart};
    rmg_status status;

    state->past = g_renew(rmg_job_past, state->past, state->past_count + 1u);
    state->past[state->past_count++] = past;
    state->suspects = (rmg_suspects){NULL, 0, NULL};
    g_clear_pointer(&state->list, rmg_hypotheses_free);
    state->count = 0;
    state->base = state->step_count - 1u;
    state->passed_before = 0;
    g_array_set_size(t->changes, 0);
    t->followed = 0;
    status = find_causes(t, &state->steps[state->base].file.run);
    if (status == RMG_OK && apart)
        rmg_brought_weigh(t->brought, state->list, state->count);
    return status;
}

static void keep_list(rmg_job_state *state, const rmg_trial *trial)
{
    rmg_hypotheses_free(state->list);
    state->list = g_memdup2(trial->list, trial->count * sizeof *trial->list);
    state->count = trial->count;
}

/* A test of the job: the base, or a trial. */
static rmg_status take_test(thinking *t, const rmg_entry *e)
{
    rmg_job_state *state = t->state;
    rmg_job_step *step;
    rmg_status status;

    step = &state->steps[state->step_count++]; /* they do not move: trials point into them */
    step->entry = e->number;
    status = rmg_job_run(t->job, e->number, &step->file, t->error);
    if (status != RMG_OK)
        return status;
    state->passes = !rmg_run_failed(&step->file.run);
    step->changes = rmg_job_changes_copy(t->changes);
    step->done = t->followed;
    if (!t->last && rmg_run_failed(&step->file.run)) {
        state->base = state->step_count - 1u;
        t->last = &step->file.run;
        g_array_set_size(t->changes, 0); /* those before it are the board as it is */
        t->followed = 0;
        status = find_causes(t, &step->file.run);
        if (status == RMG_OK)
            weigh_passed(t, step);
        return status;
    }
    if (!t->last) {
        t->followed = t->changes->len;
        t->clean = state->step_count - 1u;
    }
    if (t->last) {
        const rmg_trial_of of = {.base = &state->steps[state->base].file.run,
                                 .suspects = &state->suspects,
                                 .before = t->last,
                                 .after = &step->file.run,
                                 .changes = &step->changes,
                                 .done = t->followed,
                                 .prior = state->list,
                                 .prior_count = state->count};
        rmg_error why = {0};

        status = rmg_trial_follow(&of, &step->trial, &why);
        step->followed = status == RMG_OK;
        if (status == RMG_ERR_ARGUMENT) {
            step->why_not = g_strdup(why.what);
            status = RMG_OK;
        }
        rmg_error_free(&why);
        if (step->followed) {
            keep_list(state, &step->trial);
            t->followed = t->changes->len;
            t->last = &step->file.run;
        }
        if (step->followed && rmg_run_failed(&step->file.run) &&
            step->trial.shown == step->trial.shown_as) {
            const bool apart = are_apart(t);

            if (apart || rmg_job_something_else(state->list, state->count))
                status = begin_again(t, apart);
        }
    }
    return status;
}

static rmg_status take_entry(thinking *t, const rmg_entry *e)
{
    at_socket at;
    rmg_sight sight;

    if (e->undone)
        return RMG_OK;
    if (e->kind == RMG_ENTRY_CHANGE)
        return add_changes(t, e);
    if (e->kind == RMG_ENTRY_SAW && t->last) {
        sight = rmg_sight_parse(e->text);
        rmg_sight_weigh(&t->state->steps[t->state->base].file.run, &t->state->suspects, &sight,
                        t->state->list, t->state->count);
    }
    if (e->kind == RMG_ENTRY_MEASURED && t->last &&
        rmg_job_at_socket(t->job->board, e->text, &at.socket, &at.measured))
        take_measured(t, &at);
    return e->kind == RMG_ENTRY_RUN && e->has_run ? take_test(t, e) : RMG_OK;
}

/* Takes out of the advice what was done already. */
static void drop_measured(const thinking *t)
{
    rmg_job_state *state = t->state;
    size_t kept = 0;

    for (size_t i = 0; i < state->advice_count; i++) {
        const rmg_change *c = &state->advice[i].change;
        const bool lift = c->kind == RMG_CHANGE_LIFT;

        if ((c->kind == RMG_CHANGE_MEASURE || lift) && was_measured(t, c->socket, lift))
            g_free(state->advice[i].change.text);
        else
            state->advice[kept++] = state->advice[i];
    }
    state->advice_count = kept;
}

static void settle(thinking *t)
{
    rmg_job_state *state = t->state;

    if (!t->last)
        state->base = state->step_count;
    state->changes = rmg_job_changes_copy(t->changes);
    state->untested = state->changes.count - t->followed;
    for (size_t i = 0; i < state->step_count; i++)
        state->misnamed |= state->steps[i].followed &&
                           state->steps[i].trial.shown != state->steps[i].trial.shown_as;
    if (state->misnamed) {
        g_clear_pointer(&state->list, rmg_hypotheses_free);
        state->count = 0;
        return;
    }
    if (t->last && !state->passes)
        rmg_advise(&state->steps[state->base].file.run, &state->suspects, state->list, state->count,
                   &state->changes, &state->costs, &state->advice, &state->advice_count);
    drop_measured(t);
}

rmg_status rmg_job_think(rmg_job *job, const rmg_cost_table *costs,
                         bool (*go_on)(void *context, double share), void *context,
                         rmg_job_state *state, rmg_error *error)
{
    thinking t = {.job = job,
                  .go_on = go_on,
                  .context = context,
                  .state = state,
                  .clean = SIZE_MAX,
                  .apart = g_new0(bool, job->board->socket_count + 1u),
                  .brought = g_new0(bool, job->board->socket_count + 1u),
                  .error = error};
    rmg_status status;

    *state = (rmg_job_state){.step_count = 0};
    if (costs)
        state->costs = *costs;
    else
        rmg_costs_standard(&state->costs);
    status = rmg_job_entries(job, &t.entries, &t.count, error);
    state->steps = g_new0(rmg_job_step, t.count + 1u);
    t.changes = rmg_job_changes_new();
    t.measured = g_array_new(FALSE, TRUE, sizeof(at_socket));
    rmg_job_take_elsewhere(state, job->board, t.entries, t.count);
    for (size_t i = 0; i < t.count && status == RMG_OK; i++)
        status = take_entry(&t, &t.entries[i]);
    settle(&t);
    if (status == RMG_OK)
        status = rmg_job_think_roms(job, t.entries, t.count, state, error);
    g_array_free(t.changes, TRUE);
    g_array_free(t.measured, TRUE);
    g_free(t.apart);
    g_free(t.brought);
    rmg_entries_free(t.entries, t.count);
    return status;
}

void rmg_job_state_free(rmg_job_state *state)
{
    for (size_t i = 0; i < state->step_count; i++) {
        rmg_trial_free(&state->steps[i].trial);
        rmg_changes_free(&state->steps[i].changes);
        rmg_run_file_free(&state->steps[i].file);
        g_free(state->steps[i].why_not);
    }
    for (size_t i = 0; i < state->elsewhere_count; i++) {
        g_free(state->elsewhere[i].chip);
        g_free(state->elsewhere[i].place);
    }
    g_free(state->elsewhere);
    g_free(state->steps);
    rmg_suspects_free(&state->suspects);
    for (size_t i = 0; i < state->past_count; i++)
        rmg_suspects_free(&state->past[i].suspects);
    g_free(state->past);
    rmg_job_roms_free(state);
    rmg_changes_free(&state->changes);
    rmg_hypotheses_free(state->list);
    rmg_advice_free(state->advice, state->advice_count);
    *state = (rmg_job_state){.step_count = 0};
}
