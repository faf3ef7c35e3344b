/* Who chooses the next change of a repair: the advice, or a fixed order. */
#ifndef RMG_BENCH_TRIAL_POLICY_H
#define RMG_BENCH_TRIAL_POLICY_H

#include "diag.h"
#include "rimeglass/trial.h"

#define TRIAL_SURE 0.995 /* share of one cause from which on it is mended */
#define TRIAL_TEST 1.0   /* minutes */

/* As advised; always the cheapest change at a socket that a cause is at; always the cheapest of
 * those that the advice knows to tell something; the best order of three changes, where there are
 * few causes, and the advice in just those cases. */
enum { AS_ADVISED, CHEAPEST_FIRST, CHEAPEST_TELLING, SEARCHED, ADVISED_THERE, POLICIES };

#define TRIAL_FEW 8u /* causes that the search can take */

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
    const rmg_changes *changes; /* that the board has for good */
    rmg_advice own;             /* of a fixed order */
} choice;

/* In minutes, the chance of damage with it. */
double trial_price(const rmg_cost *cost);

/* Was it done before, to the chip that is there now? */
bool trial_is_done(const rmg_change *c, const rmg_change *list, size_t count);

/* The best one by search; NULL: none is left, or the causes are more than eight. */
const rmg_advice *trial_searched(choice *c);

/* The next; NULL: none is left. */
const rmg_advice *trial_choose(choice *c, int policy);

#endif
