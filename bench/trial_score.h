/* What becomes of simulated repairs, counted. */
#ifndef RMG_BENCH_TRIAL_SCORE_H
#define RMG_BENCH_TRIAL_SCORE_H

#include "trial_policy.h"
#include "trial_world.h"

#define TRIAL_STEPS 14u /* changes of one repair, at most */

/* What a fault belongs to; what only fails when it is warm, whatever it belongs to; two at once. */
enum { ROW_WARM = OWNERS, ROW_TWO, ROWS };

extern const char *const trial_rows[ROWS], *const trial_policies[POLICIES];

typedef struct score {
    unsigned cases, right, sound_replaced, sure_and_wrong;
    double cost;
    unsigned changes[TRIAL_STEPS + 2u];
} score;

/* [row][policy] */
typedef struct table {
    score scores[ROWS][POLICIES];
    unsigned hidden, none;
} table;

void trial_add(score *s, const outcome *o);
void trial_merge(table *to, const table *from);
void trial_print(const table *t);

#endif
