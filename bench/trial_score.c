#include "trial_score.h"

#include <stdio.h>

const char *const trial_rows[ROWS] = {"chip",
                                      "contact",
                                      "place of a socket",
                                      "line or select",
                                      "supply",
                                      "chip and place together",
                                      "any, when warm",
                                      "two chips or places"};

const char *const trial_policies[POLICIES] = {"as advised", "  cheapest first",
                                              "  cheapest telling", "  searched, few causes",
                                              "  as advised, these"};

void trial_add(score *s, const outcome *o)
{
    s->cases++;
    s->right += o->right;
    s->sound_replaced += o->sound_replaced;
    s->sure_and_wrong += o->sure_and_wrong;
    s->cost += o->cost;
    s->changes[o->changes < TRIAL_STEPS ? o->changes : TRIAL_STEPS]++;
}

static unsigned median(const score *s)
{
    unsigned below = 0, n = 0;

    while (n < TRIAL_STEPS && (below += s->changes[n]) * 2u < s->cases)
        n++;
    return n;
}

void trial_merge(table *to, const table *from)
{
    to->hidden += from->hidden;
    to->none += from->none;
    for (unsigned o = 0; o < ROWS; o++)
        for (unsigned p = 0; p < POLICIES; p++) {
            score *a = &to->scores[o][p];
            const score *b = &from->scores[o][p];

            a->cases += b->cases;
            a->right += b->right;
            a->sound_replaced += b->sound_replaced;
            a->sure_and_wrong += b->sure_and_wrong;
            a->cost += b->cost;
            for (unsigned n = 0; n < TRIAL_STEPS + 2u; n++)
                a->changes[n] += b->changes[n];
        }
}

void trial_print(const table *t)
{
    score all[POLICIES] = {{0}, {0}};

    printf("%u faults did not show, %u boards could not have one\n\n", t->hidden, t->none);
    printf("%-22s %6s %18s %16s %16s %14s %8s\n", "fault of the", "cases", "right, advised",
           "sound replaced", "... above 95 %", "minutes, mean", "changes");
    for (unsigned o = 0; o <= ROWS; o++)
        for (unsigned p = 0; p < POLICIES; p++) {
            const score *s = o < ROWS ? &t->scores[o][p] : &all[p];

            if (o < ROWS) {
                table one = {.hidden = 0};
                table sum = {.hidden = 0};

                one.scores[0][p] = *s;
                sum.scores[0][p] = all[p];
                trial_merge(&sum, &one);
                all[p] = sum.scores[0][p];
            }
            if (s->cases)
                printf("%-22s %6u %11u (%5.1f%%) %14u %16u %15.1f %8u\n",
                       p          ? trial_policies[p]
                       : o < ROWS ? trial_rows[o]
                                  : "all",
                       s->cases, s->right, 100.0 * s->right / s->cases, s->sound_replaced,
                       s->sure_and_wrong, s->cost / s->cases, median(s));
        }
    printf("\n");
    for (unsigned p = 1; p < ADVISED_THERE; p++)
        if (all[p].cases)
            printf("mean cost, as advised over %s: %.3f\n", trial_policies[p] + 2,
                   all[p == SEARCHED ? ADVISED_THERE : AS_ADVISED].cost / all[p].cost);
}
