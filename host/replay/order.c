/* What one cell does to another in a march follows from which of them is reached first, not from
 * where it is: proposals that differ in no more than that are played once. */
#include <string.h>

#include "internal.h"
#include "run/internal.h"

#define APART 2u /* words; those nearer are among the words that are played with the other */

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
    s->in_order = in_order(s->run) && rmg_failset_words(s->run->failures, NULL, ~(rmg_word)0) == 1;
    if (s->in_order)
        rmg_failset_each(s->run->failures, see_only, &s->only);
    g_array_set_size(s->known, 0);
}

/* The rule of a chip that has but one; NULL: it has none, or more. */
static const rmg_rule *only_rule(const rmg_stage *s, uint16_t chip)
{
    const rmg_placement *placement = &s->run->board->placement;
    const rmg_rule *rule = NULL;

    for (uint16_t r = 0; r < placement->rule_count; r++)
        if (placement->rules[r].socket == chip) {
            if (rule)
                return NULL;
            rule = &placement->rules[r];
        }
    return rule;
}

/* The range of `list` that holds the address and as many words on both sides; count: none does. */
static size_t range_of(const rmg_range *list, size_t count, rmg_addr address)
{
    size_t i = 0;

    while (i < count && (address < list[i].first + APART || list[i].last - APART < address ||
                         list[i].last - list[i].first < APART + APART))
        i++;
    return i;
}

/* Where it lies as seen from the only word that failed. */
static bool place_of(const rmg_stage *s, const rmg_rule *rule, rmg_addr other, bool *after)
{
    const rmg_run *run = s->run;
    const size_t range = range_of(run->tested, run->tested_count, s->only);

    *after = other > s->only;
    if (range == run->tested_count || range != range_of(run->tested, run->tested_count, other) ||
        (*after ? other - s->only : s->only - other) <= APART)
        return false;
    for (size_t i = 0; i < run->first_memory_count; i++) {
        const rmg_range *first = &run->first_memory[i];

        if ((first->first <= s->only && s->only <= first->last) ||
            (first->first <= other && other <= first->last))
            return false;
    }
    for (rmg_addr n = 1; n <= APART; n++)
        if (!rmg_where_holds(&rule->where, s->only - n) ||
            !rmg_where_holds(&rule->where, s->only + n) ||
            !rmg_where_holds(&rule->where, other - n) || !rmg_where_holds(&rule->where, other + n))
            return false;
    return true;
}

rmg_known_play *rmg_order_known(rmg_stage *s, const proposal *p)
{
    const rmg_sim_fault *f = &p->faults[0];
    rmg_known_play wanted = {.undriven = s->model.board.undriven,
                             .hold_ns = s->model.board.hold_ns};
    const rmg_rule *rule;
    rmg_addr at[2];
    bool after, moves;

    if (!s->in_order || p->count != 1 || !rmg_fault_is(f->kind, RMG_TRAIT_CELLS) ||
        !rmg_fault_has_second(f) || (rule = only_rule(s, f->chip)) == NULL)
        return NULL;
    at[0] = rmg_rule_address(rule, f->cell);
    at[1] = rmg_rule_address(rule, f->cell2);
    moves = at[0] == s->only; /* the second is the other */
    if ((!moves && at[1] != s->only) || !place_of(s, rule, at[moves], &after))
        return NULL;
    wanted.fault = *f;
    if (moves)
        wanted.fault.cell2 = after;
    else
        wanted.fault.cell = after;
    wanted.second = moves;
    for (guint i = 0; i < s->known->len; i++) {
        rmg_known_play *old = &g_array_index(s->known, rmg_known_play, i);

        if (old->second == wanted.second && old->undriven == wanted.undriven &&
            old->hold_ns == wanted.hold_ns &&
            memcmp(&old->fault, &wanted.fault, sizeof wanted.fault) == 0)
            return old;
    }
    g_array_append_val(s->known, wanted);
    return &g_array_index(s->known, rmg_known_play, s->known->len - 1u);
}
