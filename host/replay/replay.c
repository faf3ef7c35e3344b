/* Proposals put into the simulated board, one suspect after another and then all together; what
 * follows from it. */
#include <string.h>

#include "board/internal.h"
#include "internal.h"
#include "diagnose/internal.h"
#include "rimeglass/heard.h"

#define TOGETHER_MOST 8u   /* more suspects than these are not played together */
#define CONTRADICTED  0.4  /* of what would have failed in the passes, and did not */
#define EVEN          0.45 /* chip, and chance; the rest is what both share */
#define NEEDLESS      0.5  /* times the confidence, of a suspect that it takes none of */

/* What the replays say of the suspect as a whole. `alone`: it is the only one. */
static void take_in(const rmg_run *run, rmg_suspect *s, bool alone)
{
    const rmg_replayed *best = s->replay_count ? &s->replays[0] : NULL;
    bool poor; /* no fault that can be there gives what was measured, nor most of it */

    if (!best)
        return;
    poor = !s->untried && best->left + best->unseen > best->explained / 2u;
    if (best->same) {
        rmg_suspect_add_reason(s, rmg_say_of(&s->finding, RMG_SAY_REPLAY_SAME));
        rmg_replay_tell_undriven(run->board, s);
        if (rmg_replay_comes_and_goes(run))
            rmg_suspect_add_reason(s, rmg_say_of(&s->finding, RMG_SAY_REPLAY_PASSES));
        rmg_replay_rule_out(s);
        rmg_replay_steps(s);
    } else if (alone && poor) {
        rmg_suspect_add_reason(s, rmg_say_of(&s->finding, RMG_SAY_REPLAY_NONE));
    }
    s->confidence = rmg_suspect_replayed(run, s, best->same, alone, poor);
    if (run->pass_count && !best->same && !best->explained && !best->left && best->unseen) {
        rmg_saying gone = rmg_say_of(&s->finding, RMG_SAY_REPLAY_MORE);

        gone.n = best->unseen;
        rmg_suspect_add_reason(s, gone);
        s->confidence = MIN(s->confidence, CONTRADICTED);
    }
}

/* A read or two that failed once: chance, until a fault of that chip is found that gives just these
 * and no others. Then it is even, and the chip is said first: it is what can be looked at. */
static void weigh_few(rmg_suspects *suspects)
{
    for (size_t i = 1; i < suspects->count; i++) {
        const rmg_suspect s = suspects->list[i];

        if (s.finding.kind != RMG_FINDING_CELLS || !s.finding.weighed || s.finding.together ||
            s.finding.cause || !s.replay_count || !s.replays[0].same ||
            suspects->list[i - 1].finding.kind != RMG_FINDING_SPREAD)
            continue;
        suspects->list[i] = suspects->list[i - 1];
        suspects->list[i].confidence = EVEN;
        suspects->list[i - 1] = s;
        suspects->list[i - 1].confidence = EVEN;
    }
}

/* The result of the same thing before, or NULL. */
static rmg_replayed *of_saying(GArray *list, const rmg_saying *is)
{
    for (guint i = 0; i < list->len; i++) {
        rmg_replayed *r = &g_array_index(list, rmg_replayed, i);

        if (r->is.said == is->said && r->is.socket == is->socket && r->is.bank == is->bank &&
            r->is.bank2 == is->bank2 && r->is.line == is->line && r->is.point == is->point &&
            r->is.level == is->level && r->is.n == is->n && r->first_floats == RMG_FLOATS_AS_FILE)
            return r;
    }
    return NULL;
}

static void keep(GArray *list, rmg_replayed *old, const proposal *p, const rmg_replayed *result)
{
    rmg_replayed r = *result;

    if (old && rmg_replay_better(old, result) <= 0)
        return;
    r.is = p->is;
    r.faults = g_memdup2(p->faults, p->count * sizeof *p->faults);
    r.fault_count = p->count;
    r.causes = p->causes;
    r.first_floats = old ? old->first_floats : r.floats;
    if (old) {
        g_free(old->faults);
        *old = r;
    } else {
        g_array_append_val(list, r);
    }
}

/* Which proposals of a suspect are played: not what is said already, nor what is excluded. */
typedef struct choosing {
    const rmg_suspect *suspect;
    bool differ;  /* passes do, which what is vague would not distinguish */
    GArray *list; /* of rmg_replayed: what came of those before */
} choosing;

static bool is_wanted(void *context, const proposal *p)
{
    const choosing *c = context;
    const rmg_replayed *old = of_saying(c->list, &p->is);

    return p->count && !(old && old->same) && (p->causes & ~c->suspect->excluded) &&
           !(c->differ && p->vague);
}

/* All proposals of suspect i. */
static void replay_one(rmg_stage *s, rmg_suspects *suspects, size_t i, const rmg_replay_budget *b)
{
    rmg_suspect *suspect = &suspects->list[i];
    const bool differ = rmg_replay_comes_and_goes(s->run);
    /* what comes and goes cannot be replayed, and passes beyond those played are not compared */
    GPtrArray *proposals = differ && s->run->pass_count > RMG_REPLAY_PASSES
                               ? g_ptr_array_new()
                               : rmg_propose(s->run, suspect);
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_replayed));
    const bool alone = suspects->count == 1;
    const rmg_finding *within = alone ? NULL : &suspect->finding;
    choosing c = {suspect, differ, list};

    s->proofs = 0;
    rmg_order_begin(s);
    for (guint n = 0; n < proposals->len; n++) {
        const proposal *p = proposals->pdata[n];
        const rmg_beside from = {(proposal *const *)(void *)&proposals->pdata[n],
                                 proposals->len - n, is_wanted, &c};
        rmg_replayed result = {0};

        if (!is_wanted(&c, p))
            continue;
        if (!rmg_replay_more(b,
                             ((double)i + (double)n / proposals->len) / (double)suspects->count)) {
            suspect->untried += proposals->len - n;
            break;
        }
        if (s->proofs && s->run->tested_words > RMG_LARGE_BOARD &&
            !rmg_stage_in_part(s, p->faults, p->count)) {
            suspect->untried++; /* it takes as long as the run, and changes no answer */
            continue;
        }
        rmg_replay_side_by_side(s, &from, within, alone);
        if (rmg_replay_play(s, p, within, alone, &result))
            keep(list, of_saying(list, &p->is), p, &result);
    }
    g_array_sort(list, rmg_replay_better);
    suspect->replay_count = list->len;
    suspect->replays = rmg_array_take(list);
    g_ptr_array_free(proposals, TRUE);
}

/* The rule of a chip that shows its contents elsewhere, by the faults of a proposal; or NULL. */
static const rmg_rule *shown_by(const rmg_run *run, const rmg_replayed *r)
{
    const rmg_placement *placement = &run->board->placement;

    for (size_t n = 0; n < r->fault_count; n++)
        for (uint16_t i = 0; i < placement->rule_count; i++)
            if (rmg_fault_is(r->faults[n].kind, RMG_TRAIT_SHOWS) &&
                rmg_fault_acts_for(&r->faults[n], placement->rules[i].socket))
                return &placement->rules[i];
    return NULL;
}

/* What undriven lines did in the best replays, where one of them needed another mode than the board
 * file's. */
static rmg_floats floats_of(const rmg_suspects *suspects, const bool *left_out)
{
    for (size_t i = 0; i < suspects->count; i++)
        if (!left_out[i] && suspects->list[i].replays[0].floats != RMG_FLOATS_AS_FILE)
            return suspects->list[i].replays[0].floats;
    return RMG_FLOATS_AS_FILE;
}

/* Plays the best of each suspect that is not left out, all at once; what came of it on the whole
 * board, and in the cells of suspect `own`. */
static bool play_together(rmg_stage *s, const rmg_suspects *suspects, const bool *left_out,
                          size_t own, comparison *result, comparison *in_own)
{
    GArray *faults = g_array_new(FALSE, FALSE, sizeof(rmg_sim_fault));
    proposal all = {.causes = 0};
    bool done = false;
    rmg_run again;

    for (size_t i = 0; i < suspects->count; i++) {
        const rmg_replayed *best = &suspects->list[i].replays[0];

        if (left_out[i])
            continue;
        g_array_append_vals(faults, best->faults, (guint)best->fault_count);
        all.shows = all.shows ? all.shows : shown_by(s->run, best);
        for (size_t n = 0; n < best->fault_count; n++)
            all.vague |= rmg_propose_vague(&best->faults[n]);
    }
    if (faults->len && faults->len <= PROPOSAL_FAULTS) {
        rmg_stage_float(s, floats_of(suspects, left_out));
        done = rmg_stage_play(s, (const rmg_sim_fault *)(const void *)faults->data,
                              (uint16_t)faults->len, true, 0, &again);
        rmg_stage_float(s, RMG_FLOATS_AS_FILE);
        if (done) {
            *result = rmg_replay_compare(s->run, &again, &all, NULL);
            *in_own = rmg_replay_compare(s->run, &again, &all, &suspects->list[own].finding);
        }
        rmg_run_end(&again);
    }
    g_array_free(faults, TRUE);
    return done;
}

/* The suspect to try without next: not one that gives the same where it lies, if there is another,
 * and the least sure; count: all were tried. */
static size_t next_to_try(const rmg_suspects *suspects, const bool *tried)
{
    size_t next = suspects->count;

    for (size_t i = 0; i < suspects->count; i++) {
        const rmg_suspect *a = &suspects->list[i], *b = &suspects->list[next];

        if (!tried[i] && (next == suspects->count || (a->replays[0].same != b->replays[0].same
                                                          ? !a->replays[0].same
                                                          : a->confidence < b->confidence)))
            next = i;
    }
    return next;
}

/* Says what came of it; suspects that it takes none of go to the end. */
static void tell_together(rmg_suspects *suspects, const bool *needless, const comparison *all,
                          const uint64_t *without)
{
    rmg_suspect *list = g_new(rmg_suspect, suspects->count);
    size_t count = 0, needed = 0;
    double surest = 0;

    for (size_t i = 0; i < suspects->count; i++)
        if (!needless[i]) {
            needed++;
            surest = MAX(surest, suspects->list[i].confidence);
        }
    for (size_t i = 0; i < suspects->count; i++) {
        rmg_suspect *s = &suspects->list[i];

        rmg_saying together = rmg_say_of(&s->finding, RMG_SAY_EXPLAINS_TOGETHER);

        together.n = needed;
        together.m = without[i];
        if (needless[i]) {
            if (!s->finding.or_each)
                rmg_suspect_add_reason(s, rmg_say_of(&s->finding, RMG_SAY_NEEDLESS));
            /* it excludes those that explain it: together they are not more than certain */
            s->confidence = MIN(s->confidence * (s->finding.or_each ? 1 : NEEDLESS), 1 - surest);
        } else if (!all->left && !all->unseen && needed == 1) {
            rmg_suspect_add_reason(s, rmg_say_of(&s->finding, RMG_SAY_EXPLAINS_ALL));
        } else if (!all->left && !all->unseen) {
            rmg_suspect_add_reason(s, together);
        }
    }
    for (int last = 0; last < 2; last++)
        for (size_t i = 0; i < suspects->count; i++)
            if (needless[i] == last)
                list[count++] = suspects->list[i];
    memcpy(suspects->list, list, count * sizeof *list);
    g_free(list);
}

/* All suspects at once; one after another is taken out, and stays out where the others predict what
 * failed in its own cells as well without it. What is right or wrong elsewhere does not count:
 * where the others are not quite right, leaving out a fault that is there must not pay. */
static void replay_together(rmg_stage *s, rmg_suspects *suspects, const rmg_replay_budget *b)
{
    bool needless[TOGETHER_MOST + 1u] = {false}, tried[TOGETHER_MOST + 1u] = {false};
    uint64_t without[TOGETHER_MOST + 1u] = {0};
    comparison all, with;
    uint64_t measured;
    size_t i;

    for (i = 0; i < suspects->count; i++)
        if (!suspects->list[i].replay_count)
            return;
    if (suspects->count < 2 || suspects->count > TOGETHER_MOST)
        return;
    while ((i = next_to_try(suspects, tried)) < suspects->count) {
        comparison rest = {0, UINT32_MAX, 0}, alone = {0, UINT32_MAX, 0};

        tried[i] = true;
        if (!rmg_replay_more(b, 0.95) || !play_together(s, suspects, needless, i, &all, &with))
            return;
        needless[i] = true;
        measured = suspects->list[i].replays[0].explained + suspects->list[i].replays[0].left;
        /* the others must predict it: that all together do not either says nothing */
        if (!play_together(s, suspects, needless, i, &rest, &alone) || alone.left > with.left ||
            2u * alone.left > measured)
            needless[i] = false;
        else
            all = rest;
        without[i] = rest.left;
    }
    tell_together(suspects, needless, &all, without);
}

static rmg_status replay_run(const rmg_run *run, rmg_suspects *suspects, uint64_t work,
                             bool (*go_on)(void *context, double share), void *context)
{
    rmg_stage s;
    const rmg_replay_budget b = {work, go_on, context, &s};
    rmg_status status;

    if (!run->board->placement.rule_count || !suspects->count)
        return RMG_OK;
    if (rmg_stage_begin(&s, run) && run->heard && run->heard->told) {
        rmg_replay_told(&s, suspects, work, go_on, context);
    } else if (s.memory) {
        for (size_t i = 0; i < suspects->count; i++)
            replay_one(&s, suspects, i, &b);
        for (size_t i = 0; i < suspects->count; i++)
            take_in(run, &suspects->list[i], suspects->count == 1);
        if (suspects->count == 1)
            rmg_replay_hold(&s, &suspects->list[0], &b);
        weigh_few(suspects);
        replay_together(&s, suspects, &b);
    }
    status = s.starved ? RMG_ERR_MEMORY : RMG_OK;
    rmg_stage_end(&s);
    return status;
}

rmg_status rmg_replay(const rmg_run *run, rmg_suspects *suspects, uint64_t work,
                      bool (*go_on)(void *context, double share), void *context)
{
    rmg_run since;
    const bool began = rmg_run_since(run, &since);
    const rmg_status status = replay_run(began ? &since : run, suspects, work, go_on, context);

    if (began)
        rmg_run_since_end(&since);
    return status;
}
