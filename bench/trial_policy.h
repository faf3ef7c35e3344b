/* Who chooses the next change of a repair: the advice, or a fixed order. */
#ifndef RMG_BENCH_TRIAL_POLICY_H
#define RMG_BENCH_TRIAL_POLICY_H

#include "diag.h"
#include "rimeglass/trial.h"

#define TRIAL_SURE 0.995 /* share of one cause from which on it is mended */
#define TRIAL_TEST 1.0   /* minutes */

/* As advised; always the cheapest change at a socket that a cause is at; always the cheapest of
 * those that the advice knows to tell something. */
enum { AS_ADVISED, CHEAPEST_FIRST, CHEAPEST_TELLING, POLICIES };

/* The causes after something was seen of them. */
typedef struct causes {
    rmg_hypothesis *list;
    size_t count;
} causes;

/* What to choose from. */
typedef struct choice {
    const diag_case *base;
    const rmg_advice *list; /* [count] */
    size_t count;
    const causes *causes;
    const rmg_cost_table *costs;
    const rmg_change *made; /* [made_count] */
    size_t made_count;
    rmg_advice own; /* of a fixed order */
} choice;

/* In minutes, the chance of damage with it. */
double trial_price(const rmg_cost *cost);

/* The next; NULL: none is left. */
const rmg_advice *trial_choose(choice *c, int policy);

#endif
