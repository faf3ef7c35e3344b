/* Random changes on boards with one fault, and whether what became of the failure is named as it is
 * in truth. */
#ifndef RMG_BENCH_TRIAL_CHANGES_H
#define RMG_BENCH_TRIAL_CHANGES_H

#include "trial_world.h"

#define OUTCOMES ((unsigned)RMG_OUTCOME_SHOWN + 1u)

typedef struct change_score {
    unsigned cases[2], right[2];        /* of one change, of two at once */
    unsigned named[OUTCOMES][OUTCOMES]; /* [in truth][as named] */
} change_score;

/* One board, changed as the dice say: one thing, or two at once. Where the name is wrong and `say`,
 * the case is printed. */
void change_case(const world *w, uint64_t seed, bool two, bool say, change_score *score);

void change_merge(change_score *to, const change_score *from);
void change_print(const change_score *score);

#endif
