/* The engine's fast loops: one for each common shape of element, and the general one. Each keeps
 * what does not change within an element at hand. Small builds leave this file out. */
#include "march_state.h"

#if RMG_MARCH_LOOPS

/* What one word's loop needs, apart from the run's state. */
typedef struct loop {
    rmg_status (*read)(void *context, rmg_addr address, rmg_word *value);
    rmg_status (*write)(void *context, rmg_addr address, rmg_word value);
    void *context;
    rmg_word mask;
    rmg_word values[2]; /* "0" and "1" */
    rmg_addr step;      /* 1, or all ones for downwards */
} loop;

static rmg_status loop_read(run_state *s, const loop *l, rmg_addr address, rmg_addr more)
{
    const rmg_word expected = l->values[s->ops[0] & RMG_OP_ONE];
    rmg_status (*const read)(void *, rmg_addr, rmg_word *) = l->read;
    void *const context = l->context;
    const rmg_word mask = l->mask;
    const rmg_addr step = l->step;

    for (;; address = (rmg_addr)(address + step)) {
        rmg_word actual = 0;
        const rmg_status status = read(context, address, &actual);

        if (status != RMG_OK)
            return status;
        if ((rmg_word)(actual & mask) != expected)
            rmg_march_record(s, address, 0, expected, (rmg_word)(actual & mask));
        if (!more--)
            return RMG_OK;
    }
}

static rmg_status loop_write(run_state *s, const loop *l, rmg_addr address, rmg_addr more)
{
    const rmg_word value = l->values[s->ops[0] & RMG_OP_ONE];
    rmg_status (*const write)(void *, rmg_addr, rmg_word) = l->write;
    void *const context = l->context;
    const rmg_addr step = l->step;

    for (;; address = (rmg_addr)(address + step)) {
        const rmg_status status = write(context, address, value);

        if (status != RMG_OK || !more--)
            return status;
    }
}

static rmg_status loop_read_write(run_state *s, const loop *l, rmg_addr address, rmg_addr more)
{
    const rmg_word expected = l->values[s->ops[0] & RMG_OP_ONE];
    const rmg_word value = l->values[s->ops[1] & RMG_OP_ONE];
    rmg_status (*const read)(void *, rmg_addr, rmg_word *) = l->read;
    rmg_status (*const write)(void *, rmg_addr, rmg_word) = l->write;
    void *const context = l->context;
    const rmg_word mask = l->mask;
    const rmg_addr step = l->step;

    for (;; address = (rmg_addr)(address + step)) {
        rmg_word actual = 0;
        rmg_status status = read(context, address, &actual);

        if (status != RMG_OK)
            return status;
        if ((rmg_word)(actual & mask) != expected)
            rmg_march_record(s, address, 0, expected, (rmg_word)(actual & mask));
        status = write(context, address, value);
        if (status != RMG_OK || !more--)
            return status;
    }
}

static rmg_status loop_any(run_state *s, const loop *l, rmg_addr address, rmg_addr more)
{
    for (;; address = (rmg_addr)(address + l->step))
        for (uint8_t i = 0;;) {
            const uint8_t op = s->ops[i];
            const rmg_word value = l->values[op & RMG_OP_ONE];
            rmg_word actual = 0;
            const rmg_status status = op & RMG_OP_WRITE ? l->write(l->context, address, value)
                                                        : l->read(l->context, address, &actual);

            if (status != RMG_OK)
                return status;
            if (!(op & RMG_OP_WRITE) && (rmg_word)(actual & l->mask) != value)
                rmg_march_record(s, address, i, value, (rmg_word)(actual & l->mask));
            if (++i < s->op_count)
                continue;
            if (!more--)
                return RMG_OK;
            break;
        }
}

rmg_status rmg_march_stretch(run_state *s, rmg_addr address, rmg_addr more)
{
    const rmg_target *t = s->target;
    const rmg_word zero = (rmg_word)(s->job->background & t->mask);
    const loop l = {t->bus->read,
                    t->bus->write,
                    t->context,
                    t->mask,
                    {zero, (rmg_word)(zero ^ t->mask)},
                    s->down ? (rmg_addr) ~(rmg_addr)0 : 1u};
    const bool writes_first = s->ops[0] & RMG_OP_WRITE;

    if (s->op_count == 1)
        return writes_first ? loop_write(s, &l, address, more) : loop_read(s, &l, address, more);
    if (s->op_count == 2 && !writes_first && (s->ops[1] & RMG_OP_WRITE))
        return loop_read_write(s, &l, address, more);
    return loop_any(s, &l, address, more);
}

static void mismatch(void *context, rmg_addr address, uint8_t operation, rmg_word expected,
                     rmg_word actual)
{
    rmg_march_record(context, address, operation, expected, actual);
}

static void mismatch_block(void *context, const rmg_mismatch_block *block)
{
    const run_state *s = context;
    const rmg_observer *observer = s->job->observer;
    rmg_failure failure = {.expected = block->expected,
                           .pass = s->job->pass,
                           .step = s->job->step,
                           .element = s->element,
                           .operation = block->operation,
                           .down = s->down};

    rmg_tally_add_block(s->tally, block, &failure);
    if (observer && observer->failures) {
        observer->failures(observer->context, block, &failure);
        return;
    }
    for (uint8_t i = 0; observer && observer->failure && i < 64; i++)
        if (block->failing >> i & 1u) {
            failure.address = (rmg_addr)(block->first + i);
            failure.actual = block->actual[i];
            observer->failure(observer->context, &failure);
        }
}

static void mismatch_run(void *context, const rmg_mismatch_run *run)
{
    const run_state *s = context;
    const rmg_observer *observer = s->job->observer;
    rmg_failure failure = {.expected = run->expected,
                           .actual = run->actual,
                           .pass = s->job->pass,
                           .step = s->job->step,
                           .element = s->element,
                           .operation = run->operation,
                           .down = s->down};

    rmg_tally_add_run(s->tally, run, &failure);
    if (observer && observer->failure_run) {
        observer->failure_run(observer->context, run, &failure);
        return;
    }
    for (rmg_addr i = 0; observer && observer->failure && i < run->words; i++) {
        failure.address = (rmg_addr)(run->first + (s->down ? run->words - 1u - i : i));
        if (rmg_in_run(run, failure.address))
            observer->failure(observer->context, &failure);
    }
}

rmg_status rmg_march_in_port(run_state *s, const rmg_range *range)
{
    const rmg_target *t = s->target;
    const rmg_addr end = s->down ? range->first : range->last;
    rmg_element_call call = {.range = *range,
                             .address = s->down ? range->last : range->first,
                             .ops = s->ops,
                             .op_count = s->op_count,
                             .down = s->down,
                             .background = (rmg_word)(s->job->background & t->mask),
                             .mask = t->mask,
                             .sink_context = s,
                             .mismatch = mismatch,
                             .mismatch_block = mismatch_block,
                             .mismatch_run = mismatch_run};

    for (;;) {
        const rmg_addr before = call.address;
        const uint8_t operation = call.operation;
        const rmg_addr more = (rmg_addr)(s->every - (s->words & s->every));
        rmg_addr done;
        rmg_status status;

        call.words_a_call = more == RMG_COUNT_MAX ? more : (rmg_addr)(more + 1u);
        status = t->bus->run_element(t->context, &call);
        if (status == RMG_ERR_PORT_CANNOT && before == (s->down ? range->last : range->first))
            return status;
        if (status != RMG_OK && status != RMG_ERR_CANCELLED)
            return status;
        done = s->down ? (rmg_addr)(before - call.address) : (rmg_addr)(call.address - before);
        if (status == RMG_OK)
            done = (rmg_addr)((s->down ? before - end : end - before) + 1u);
        else if (!done && operation == call.operation)
            return RMG_ERR_PORT; /* it breaks its promise to go on */
        s->words = (rmg_count)(s->words + done);
        /* a port that stops earlier than it was asked has reasons: its far end is slow */
        if ((!(s->words & s->every) || status != RMG_OK) && !rmg_march_watch(s))
            return RMG_ERR_CANCELLED;
        if (status == RMG_OK)
            return status;
        if (s->job->observer) /* it may have changed its mind */
            s->every = (rmg_count)(((rmg_count)1u << s->job->observer->every_log2) - 1u);
    }
}

#endif
