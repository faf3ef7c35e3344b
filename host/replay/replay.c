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

static gint better(gconstpointer a, gconstpointer b)
{
    const rmg_replayed *x = a, *y = b;
    const uint64_t wrong_x = x->left + x->unseen, wrong_y = y->left + y->unseen;

    if (x->same != y->same)
        return y->same - x->same;
    if (wrong_x != wrong_y)
        return wrong_x < wrong_y ? -1 : 1;
    if (x->explained != y->explained)
        return x->explained > y->explained ? -1 : 1;
    if (x->as_often != y->as_often)
        return y->as_often - x->as_often;
    return (x->floats != RMG_FLOATS_AS_FILE) - (y->floats != RMG_FLOATS_AS_FILE);
}

/* Did two passes fail differently? */
static bool comes_and_goes(const rmg_run *run)
{
    return run->pass_count > 1 && !rmg_run_repeats(run);
}

/* Plays a proposal once, and compares. */
static bool play_once(rmg_stage *s, const proposal *p, const rmg_finding *within, bool alone,
                      bool whole, unsigned contents, rmg_replayed *result)
{
    rmg_run again;
    comparison c;
    const bool done = rmg_stage_play(s, p->faults, p->count, whole, contents, &again);

    if (done) {
        c = p->by_rows   ? rmg_replay_compare_rows(s->run, &again, &p->faults[0])
            : s->sampled ? rmg_replay_compare_sample(s->run, &again, p, within)
                         : rmg_replay_compare(s->run, &again, p, within);
        result->explained = c.both;
        result->left = c.left;
        result->unseen = c.unseen;
        result->as_often = p->vague || p->by_rows || s->run->heard ||
                           rmg_replay_as_often(s->run, &again, within, s->sampled);
        result->same = !c.left && !c.unseen && result->as_often;
        if (p->by_rows && comes_and_goes(s->run)) /* rows do not tell passes apart */
            result->same &= comes_and_goes(&again);
        result->whole = !again.wiring_narrowed;
        if (alone && !p->vague && !p->by_rows && result->whole)
            result->same &= rmg_replay_same_wiring(s->run, &again);
        else if (!s->sampled) /* a sample that does not fail may stand for words that do */
            result->same &= c.both != 0;
    }
    rmg_run_end(&again);
    return done;
}

/* The same in part of the words, where that was not done already. */
static bool play_in_part(rmg_stage *s, const proposal *p, const rmg_finding *within, bool alone,
                         unsigned contents, rmg_known_play *known, rmg_replayed *result)
{
    if (known && known->played >> contents & 1u) {
        *result = known->results[contents];
        return true;
    }
    if (!play_once(s, p, within, alone, false, contents, result))
        return false;
    if (known) {
        known->results[contents] = *result;
        known->played |= 1u << contents;
    }
    return true;
}

/* Which of the first `count` contents are worth a play. *looked: at how many of them the stage
 * looked for this proposal. */
static unsigned worth_while(rmg_stage *s, const proposal *p, unsigned count, unsigned *looked,
                            rmg_known_play *known)
{
    unsigned worth;

    if (known && known->weighed >= count)
        return known->worth_while;
    worth = rmg_stage_contents_worth(s, p->faults, p->count, *looked, count);
    *looked = count;
    if (known) {
        known->worth_while = worth;
        known->weighed = (uint8_t)count;
    }
    return worth;
}

/* On a large board only the first that gives the same is played on all of it: that the words which
 * a fault does not touch pass is the same claim for each. */
static bool proved_enough(const rmg_stage *s)
{
    return s->proofs && s->run->tested_words > RMG_LARGE_BOARD;
}

/* Plays one proposal: on its own words first, and if that gives the same, on the whole board. What
 * single cells come up with is not known: both are tried. */
static bool play_contents(rmg_stage *s, const proposal *p, const rmg_finding *within, bool alone,
                          rmg_replayed *result)
{
    const unsigned count = rmg_stage_contents(p->faults, p->count);
    rmg_known_play *known = rmg_order_known(s, p);
    unsigned worth = 0, looked = 0;
    bool done = false;

    for (unsigned contents = 0; contents < count && !result->same; contents++) {
        rmg_replayed one = {0};

        if (contents >= 2 && result->left + result->unseen > 4)
            break;                          /* far off: other contents do not make it right */
        if (contents == 1 || contents == 2) /* the last two are seldom reached */
            worth = worth_while(s, p, contents == 1 ? 2u : count, &looked, known);
        if (contents && !(worth >> contents & 1u))
            continue;
        if (!play_in_part(s, p, within, alone, contents, known, &one))
            break;
        if (one.same && !one.whole && !proved_enough(s)) {
            if (!play_once(s, p, within, alone, true, contents, &one))
                break;
            s->proofs += one.same;
        }
        if (!done || better(&one, result) < 0)
            *result = one;
        done = true;
    }
    return done;
}

/* The same; where it leaves lines undriven, and they do not read as the board file says, also with
 * lines that do otherwise. */
static bool play(rmg_stage *s, const proposal *p, const rmg_finding *within, bool alone,
                 rmg_replayed *result)
{
    bool done = play_contents(s, p, within, alone, result);

    for (int f = RMG_FLOATS_HIGH; done && !result->same && f < RMG_FLOATS; f++) {
        rmg_replayed other = {0};

        if (!rmg_stage_undriven(p->faults, p->count) || !rmg_stage_float(s, (rmg_floats)f))
            continue;
        /* for how long they hold is not known: neither how often they fail nor what the few
         * accesses of the wiring check see counts */
        if (play_contents(s, p, within, alone && f != RMG_FLOATS_HOLDS, &other)) {
            other.same |= f == RMG_FLOATS_HOLDS && !other.left && !other.unseen && other.explained;
            if (better(&other, result) < 0) {
                *result = other;
                result->floats = (rmg_floats)f;
            }
        }
    }
    rmg_stage_float(s, RMG_FLOATS_AS_FILE);
    return done;
}

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
        if (comes_and_goes(run))
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
        suspects->list[i].confidence = MIN(suspects->list[i].confidence, EVEN);
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

    if (old && better(old, result) <= 0)
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

/* All proposals of suspect i. */
static void replay_one(rmg_stage *s, rmg_suspects *suspects, size_t i, const rmg_replay_budget *b)
{
    rmg_suspect *suspect = &suspects->list[i];
    const bool differ = comes_and_goes(s->run);
    /* what comes and goes cannot be replayed, and passes beyond those played are not compared */
    GPtrArray *proposals = differ && s->run->pass_count > RMG_REPLAY_PASSES
                               ? g_ptr_array_new()
                               : rmg_propose(s->run, suspect);
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_replayed));
    const bool alone = suspects->count == 1;

    s->proofs = 0;
    rmg_order_begin(s);
    for (guint n = 0; n < proposals->len; n++) {
        const proposal *p = proposals->pdata[n];
        rmg_replayed *old = of_saying(list, &p->is);
        rmg_replayed result = {0};

        if (!p->count || (old && old->same) || !(p->causes & ~suspect->excluded) ||
            (differ && p->vague)) /* which would not distinguish passes */
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
        if (play(s, p, alone ? NULL : &suspect->finding, alone, &result))
            keep(list, old, p, &result);
    }
    g_array_sort(list, better);
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
