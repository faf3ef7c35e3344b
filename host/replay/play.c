/* One proposal: put into the simulated board, played, compared. */
#include "internal.h"

gint rmg_replay_better(gconstpointer a, gconstpointer b)
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

bool rmg_replay_comes_and_goes(const rmg_run *run)
{
    return run->pass_count > 1 && !rmg_run_repeats(run);
}

bool rmg_replay_far_off(const rmg_replayed *result)
{
    return result->left + result->unseen > 4;
}

void rmg_replay_judge(const rmg_stage *s, const proposal *p, const rmg_run *again,
                      const rmg_lane *lane, const rmg_finding *within, bool alone,
                      rmg_replayed *result)
{
    const comparison c = p->by_rows   ? rmg_replay_compare_rows(s->run, again, &p->faults[0])
                         : s->sampled ? rmg_replay_compare_sample(s->run, again, p, within)
                                      : rmg_replay_compare_lane(s->run, again, p, within, lane);

    result->explained = c.both;
    result->left = c.left;
    result->unseen = c.unseen;
    result->as_often = p->vague || p->by_rows || s->run->heard ||
                       rmg_replay_as_often(s->run, again, within, s->sampled, lane);
    result->same = !c.left && !c.unseen && result->as_often;
    if (p->by_rows && rmg_replay_comes_and_goes(s->run)) /* rows do not tell passes apart */
        result->same &= rmg_replay_comes_and_goes(again);
    result->whole = !again->wiring_narrowed;
    if (alone && !p->vague && !p->by_rows && result->whole)
        result->same &= rmg_replay_same_wiring(s->run, again);
    else if (!s->sampled) /* a sample that does not fail may stand for words that do */
        result->same &= c.both != 0;
}

/* Plays a proposal once, and compares. */
static bool play_once(rmg_stage *s, const proposal *p, const rmg_finding *within, bool alone,
                      bool whole, unsigned contents, rmg_replayed *result)
{
    rmg_run again;
    const bool done = rmg_stage_play(s, p->faults, p->count, whole, contents, &again);

    if (done)
        rmg_replay_judge(s, p, &again, NULL, within, alone, result);
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

        if (contents >= 2 && rmg_replay_far_off(result))
            break;
        if (contents == 1 || contents == 2) /* the last two are seldom reached */
            worth = worth_while(s, p, contents == 1 ? 2u : count, &looked, known);
        if (contents && !(worth >> contents & 1u))
            continue;
        if (!play_in_part(s, p, within, alone, contents, known, &one))
            break;
        if (one.same && !one.whole && !proved_enough(s)) {
            one.whole = !p->vague && !p->by_rows && rmg_stage_sound(s, p->faults, p->count);
            if (!one.whole && !play_once(s, p, within, alone, true, contents, &one))
                break;
            s->proofs += one.same;
        }
        if (!done || rmg_replay_better(&one, result) < 0)
            *result = one;
        done = true;
    }
    return done;
}

/* The same; where it leaves lines undriven, and they do not read as the board file says, also with
 * lines that do otherwise. */
bool rmg_replay_play(rmg_stage *s, const proposal *p, const rmg_finding *within, bool alone,
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
            if (rmg_replay_better(&other, result) < 0) {
                *result = other;
                result->floats = (rmg_floats)f;
            }
        }
    }
    rmg_stage_float(s, RMG_FLOATS_AS_FILE);
    return done;
}
