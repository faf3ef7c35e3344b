/* What one cell does to another in a march follows from which of them is reached first, not from
 * where it is: proposals that differ in no more than that are played once. */
#include <string.h>

#include "internal.h"
#include "run/internal.h"

#define APART 2u /* words; what a cell reads that reaches none is what was read just before */

/* Are the run's words all tested one after another, each with the same? */
static bool in_order(const rmg_run *run)
{
    for (size_t i = 0; i < run->steps.count; i++) {
        const rmg_step *step = &run->steps.list[i];

        switch (step->kind) {
        case RMG_STEP_WIRING: /* which is left out in part */
        case RMG_STEP_NOISE:
        case RMG_STEP_FIRST_MEMORY:
            break;
        case RMG_STEP_MARCH:
            if (step->way != RMG_WAY_LINEAR || step->ground != RMG_GROUND_SOLID)
                return false;
            break;
        default:
            return false;
        }
    }
    return !run->plan.keep && !run->heard;
}

static void see_only(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    (void)high;
    (void)low;
    *(rmg_addr *)context = address;
}

void rmg_order_begin(rmg_stage *s)
{
    s->plain = in_order(s->run);
    s->in_order = s->plain && rmg_failset_words(s->run->failures, NULL, ~(rmg_word)0) == 1;
    if (s->in_order)
        rmg_failset_each(s->run->failures, see_only, &s->only);
    g_array_set_size(s->known, 0);
}

const rmg_rule *rmg_replay_only_rule(const rmg_placement *placement, uint16_t chip)
{
    const rmg_rule *rule = NULL;

    for (uint16_t r = 0; r < placement->rule_count; r++)
        if (placement->rules[r].socket == chip) {
            if (rule)
                return NULL;
            rule = &placement->rules[r];
        }
    return rule;
}

/* The range of `list` that holds the address and so many words on both sides; count: none does. */
static size_t range_of(const rmg_range *list, size_t count, rmg_addr address, rmg_addr apart)
{
    size_t i = 0;

    while (i < count && (list[i].last - list[i].first < 2u * apart ||
                         address < list[i].first + apart || list[i].last - apart < address))
        i++;
    return i;
}

/* Where it lies as seen from the only word that failed, more than so many words away. */
static bool place_of(const rmg_stage *s, const rmg_rule *rule, rmg_addr other, rmg_addr apart,
                     bool *after)
{
    const rmg_run *run = s->run;
    const size_t range = range_of(run->tested, run->tested_count, s->only, apart);

    *after = other > s->only;
    if (range == run->tested_count ||
        range != range_of(run->tested, run->tested_count, other, apart) ||
        (*after ? other - s->only : s->only - other) <= apart)
        return false;
    for (size_t i = 0; i < run->first_memory_count; i++) {
        const rmg_range *first = &run->first_memory[i];

        if ((first->first <= s->only && s->only <= first->last) ||
            (first->first <= other && other <= first->last))
            return false;
    }
    for (rmg_addr n = 1; n <= apart; n++)
        if (!rmg_where_holds(&rule->where, s->only - n) ||
            !rmg_where_holds(&rule->where, s->only + n) ||
            !rmg_where_holds(&rule->where, other - n) || !rmg_where_holds(&rule->where, other + n))
            return false;
    return true;
}

/* Of two cells of which one is in the only word that failed, the other elsewhere: which of them it
 * is, and whether the other is reached after it, instead of where that is. */
static void by_order(const rmg_stage *s, const rmg_rule *rule, rmg_known_play *wanted)
{
    rmg_sim_fault *f = &wanted->fault;
    const rmg_addr at[2] = {rmg_rule_address(rule, f->cell), rmg_rule_address(rule, f->cell2)};
    const bool second = at[0] == s->only; /* the second is the other */
    const rmg_addr apart = f->kind == RMG_FAULT_ADDRESS_CELLS ? APART : 0;
    bool after;

    if ((!second && at[1] != s->only) || !place_of(s, rule, at[second], apart, &after))
        return;
    if (second)
        f->cell2 = after;
    else
        f->cell = after;
    wanted->by_order = true;
    wanted->second = second;
}

rmg_known_play *rmg_order_known(rmg_stage *s, const proposal *p)
{
    const rmg_sim_fault *f = &p->faults[0];
    rmg_known_play wanted = {.undriven = s->model.board.undriven,
                             .hold_ns = s->model.board.hold_ns};
    const rmg_rule *rule;

    if (!s->plain || p->count != 1 || !rmg_fault_is(f->kind, RMG_TRAIT_CELLS))
        return NULL;
    wanted.fault = *f;
    if (s->in_order && rmg_fault_has_second(f) &&
        (rule = rmg_replay_only_rule(&s->run->board->placement, f->chip)) != NULL)
        by_order(s, rule, &wanted);
    for (guint i = 0; i < s->known->len; i++) {
        rmg_known_play *old = &g_array_index(s->known, rmg_known_play, i);

        if (old->by_order == wanted.by_order && old->second == wanted.second &&
            old->undriven == wanted.undriven && old->hold_ns == wanted.hold_ns &&
            memcmp(&old->fault, &wanted.fault, sizeof wanted.fault) == 0)
            return old;
    }
    g_array_append_val(s->known, wanted);
    return &g_array_index(s->known, rmg_known_play, s->known->len - 1u);
}
