/* What every way of running an element needs: the observer asked, a failure noted. */
#include "march_state.h"

bool rmg_march_watch(const run_state *s)
{
    const rmg_observer *observer = s->job->observer;
    rmg_progress progress;

    if (!observer || !observer->progress)
        return true;
    progress.words = s->words;
    progress.pass = s->job->pass;
    progress.step = s->job->step;
    progress.element = s->element;
    return observer->progress(observer->context, &progress);
}

void rmg_march_record(const run_state *s, rmg_addr address, uint8_t operation, rmg_word expected,
                      rmg_word actual)
{
    const rmg_observer *observer = s->job->observer;
    rmg_failure failure;

    failure.address = address;
    failure.expected = expected;
    failure.actual = actual;
    failure.pass = s->job->pass;
    failure.step = s->job->step;
    failure.element = s->element;
    failure.operation = operation;
    failure.down = s->down;
    rmg_tally_add(s->tally, &failure);
    if (observer && observer->failure)
        observer->failure(observer->context, &failure);
}
