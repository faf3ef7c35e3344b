/* Inside the core: one march element while it runs, shared by the engine's files. */
#ifndef RMG_CORE_MARCH_STATE_H
#define RMG_CORE_MARCH_STATE_H

#include "bus_call.h"
#include "rimeglass/march.h"

typedef struct run_state {
    const rmg_target *target;
    const rmg_march_job *job;
    rmg_tally *tally;
    const uint8_t *ops; /* of the element that runs */
    rmg_count words;    /* done in this element */
    rmg_count every;    /* the observer is asked after each so many words, less one: 2^n - 1 */
    uint8_t op_count;
    uint8_t element;
    bool down;
} run_state;

/* Asks the observer; false: stop. */
bool rmg_march_watch(const run_state *s);

/* A read that did not give what was expected. */
void rmg_march_record(const run_state *s, rmg_addr address, uint8_t operation, rmg_word expected,
                      rmg_word actual);

rmg_status rmg_march_check_job(const rmg_target *target, const rmg_march_job *job,
                               const rmg_tally *tally);

/* The element over `more` + 1 words from `address` on, in its direction. */
rmg_status rmg_march_stretch(run_state *s, rmg_addr address, rmg_addr more);

/* The element over a range, handed to the port. RMG_ERR_PORT_CANNOT: nothing was done. */
rmg_status rmg_march_in_port(run_state *s, const rmg_range *range);

/* The operations of the element on one word, "0" being `zero`. */
static inline rmg_status march_word(const run_state *s, rmg_addr address, rmg_word zero)
{
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
                rmg_march_record(s, address, i, value, actual);
        }
        if (status != RMG_OK)
            return status;
    }
    return RMG_OK;
}

/* All elements of the job in turn, each by `run_element`. */
static inline rmg_status march_elements(run_state *s, rmg_status (*run_element)(run_state *s))
{
    const rmg_march_job *job = s->job;
    const uint8_t *code;

    s->every = RMG_COUNT_MAX;
    if (job->observer)
        s->every = (rmg_count)(((rmg_count)1u << job->observer->every_log2) - 1u);
    s->element = 0;
    for (code = job->code; *code; code = s->ops + s->op_count, s->element++) {
        const uint8_t order = *code & RMG_ORDER_MASK;
        rmg_status status;

        s->op_count = (uint8_t)(*code & ~RMG_ORDER_MASK);
        s->ops = code + 1;
        s->down = order == RMG_ORDER_DOWN || (order == RMG_ORDER_EITHER && job->either_down);
        s->words = 0;
        if (!rmg_march_watch(s))
            return RMG_ERR_CANCELLED;
#if RMG_MARCH_LOOPS
        if (job->observer) /* it may have changed its mind */
            s->every = (rmg_count)(((rmg_count)1u << job->observer->every_log2) - 1u);
#endif
        status = s->op_count ? run_element(s) : bus_wait(s->target, job->hold_us);
        if (status != RMG_OK)
            return status;
    }
    return RMG_OK;
}

#endif
