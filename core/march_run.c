/* The march engine: compiled march, ranges and background in; accesses in exactly that order out.
 * Knows nothing of notation, chips or what a failure means. */
#include "rimeglass/march.h"

#include "bus_call.h"

typedef struct run_state {
    const rmg_target *target;
    const rmg_march_job *job;
    rmg_tally *tally;
    const uint8_t *ops; /* of the element that runs */
    rmg_count words;    /* done in this element */
    uint8_t op_count;
    uint8_t element;
    bool down;
} run_state;

static bool watch(const run_state *s)
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

static void record(const run_state *s, rmg_addr address, uint8_t operation, rmg_word expected,
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

static inline rmg_status run_word(const run_state *s, rmg_addr address)
{
    const rmg_word zero = (rmg_word)(s->job->background & s->target->mask);
    const rmg_word one = (rmg_word)(zero ^ s->target->mask);

    for (uint8_t i = 0; i < s->op_count; i++) {
        const uint8_t op = s->ops[i];
        const rmg_word value = (op & RMG_OP_ONE) ? one : zero;
        rmg_status status;

        if (op & RMG_OP_WRITE) {
            status = bus_write(s->target, address, value);
        } else {
            rmg_word actual;

            status = bus_read(s->target, address, &actual);
            if (status == RMG_OK && actual != value)
                record(s, address, i, value, actual);
        }
        if (status != RMG_OK)
            return status;
    }
    return RMG_OK;
}

static rmg_status run_range(run_state *s, const rmg_range *range, rmg_count every)
{
    const rmg_addr end = s->down ? range->first : range->last;
    rmg_addr address = s->down ? range->last : range->first;

    for (;;) {
        const rmg_status status = run_word(s, address);

        if (status != RMG_OK)
            return status;
        s->words++;
        if (!(s->words & every) && !watch(s))
            return RMG_ERR_CANCELLED;
        if (address == end)
            return RMG_OK;
        address = s->down ? (rmg_addr)(address - 1u) : (rmg_addr)(address + 1u);
    }
}

static rmg_status run_element(run_state *s, rmg_count every)
{
    const uint8_t count = s->job->range_count;

    s->words = 0;
    if (!watch(s))
        return RMG_ERR_CANCELLED;
    if (!s->op_count)
        return bus_wait(s->target, s->job->hold_us);
    for (uint8_t i = 0; i < count; i++) {
        const uint8_t n = s->down ? (uint8_t)(count - 1u - i) : i;
        const rmg_status status = run_range(s, &s->job->ranges[n], every);

        if (status != RMG_OK)
            return status;
    }
    return RMG_OK;
}

static rmg_status check_job(const rmg_target *target, const rmg_march_job *job,
                            const rmg_tally *tally)
{
    if (!bus_usable(target) || !job || !job->code || !job->ranges || !tally)
        return RMG_ERR_ARGUMENT;
    if (!job->range_count)
        return RMG_ERR_RANGE;
    for (uint8_t i = 0; i < job->range_count; i++) {
        if (job->ranges[i].first > job->ranges[i].last)
            return RMG_ERR_RANGE;
        if (i && job->ranges[i].first <= job->ranges[i - 1u].last)
            return RMG_ERR_RANGE;
    }
    return RMG_OK;
}

rmg_status rmg_march_run(const rmg_target *target, const rmg_march_job *job, rmg_tally *tally)
{
    run_state s;
    rmg_count every = 0;
    const uint8_t *code;
    rmg_status status = check_job(target, job, tally);

    if (status != RMG_OK)
        return status;
    if (job->observer)
        every = (rmg_count)(((rmg_count)1u << job->observer->every_log2) - 1u);
    s.target = target;
    s.job = job;
    s.tally = tally;
    s.element = 0;
    for (code = job->code; *code; code = s.ops + s.op_count, s.element++) {
        const uint8_t order = *code & RMG_ORDER_MASK;

        s.op_count = (uint8_t)(*code & ~RMG_ORDER_MASK);
        s.ops = code + 1;
        s.down = order == RMG_ORDER_DOWN || (order == RMG_ORDER_EITHER && job->either_down);
        status = run_element(&s, every);
        if (status != RMG_OK)
            return status;
    }
    return RMG_OK;
}
