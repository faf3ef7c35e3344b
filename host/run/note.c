/* A failure of a run: noted, and shown to whoever watches. */
#include "runner.h"

void rmg_run_note(runner *c, const rmg_failure *failure)
{
    const rmg_word high = failure->actual & ~failure->expected;
    const rmg_word low = failure->expected & ~failure->actual;

    rmg_failset_add(c->run->failures, failure->address, high, low, rmg_failure_step(failure));
    rmg_failset_add(c->run->own->pass_failures, failure->address, high, low, 0);
    if (c->run->own->since)
        rmg_failset_add(c->run->own->since->failures, failure->address, high, low,
                        rmg_failure_step(failure));
    if (c->watch && c->watch->failure && c->told < RMG_TALLY_FIRST) {
        c->told++;
        c->watch->failure(c->watch->context, failure);
    }
}
