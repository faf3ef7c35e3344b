/* The port a run goes through: counts accesses, holds in slices that can be stopped, and stops
 * refresh where a step asks for it. */
#include <glib.h>

#include "runner.h"

#define SLICE_US 100000u

static rmg_status counted_read(void *context, rmg_addr address, rmg_word *value)
{
    runner *c = context;

    c->run->reads++;
    return c->under->bus->read(c->under->context, address, value);
}

static rmg_status counted_write(void *context, rmg_addr address, rmg_word value)
{
    runner *c = context;

    c->run->writes++;
    return c->under->bus->write(c->under->context, address, value);
}

static rmg_status counted_element(void *context, rmg_element_call *call)
{
    runner *c = context;
    const rmg_addr before = call->address;
    const rmg_addr end = call->down ? call->range.first : call->range.last;
    const rmg_status status = c->under->bus->run_element(c->under->context, call);
    uint64_t words, writes = 0;

    words = call->down ? before - call->address : call->address - before;
    if (status == RMG_OK)
        words = (call->down ? before - end : end - before) + 1u;
    for (uint8_t i = 0; i < call->op_count; i++)
        writes += (call->ops[i] & RMG_OP_WRITE) != 0;
    c->run->writes += words * writes;
    c->run->reads += words * (call->op_count - writes);
    return status;
}

static rmg_status set_refresh(const runner *c, bool on)
{
    const rmg_target *t = c->under;

    if (!t->bus->set_condition)
        return RMG_ERR_PORT_CANNOT;
    return t->bus->set_condition(t->context, RMG_CONDITION_REFRESH, on);
}

/* A port that cannot wait is simply not called for so long. */
static rmg_status wait_slices(const runner *c, uint32_t hold_us)
{
    for (uint32_t left = hold_us; left;) {
        const uint32_t slice = MIN(left, SLICE_US);
        rmg_status status = RMG_OK;

        if (c->under->bus->wait)
            status = c->under->bus->wait(c->under->context, slice);
        else
            g_usleep(slice);
        if (status != RMG_OK)
            return status;
        left -= slice;
        if (left && !rmg_run_report(c))
            return RMG_ERR_CANCELLED;
    }
    return RMG_OK;
}

static rmg_status counted_wait(void *context, uint32_t hold_us)
{
    runner *c = context;
    rmg_status status, back;

    if (!c->stops_refresh)
        return wait_slices(c, hold_us);
    status = set_refresh(c, false);
    if (status == RMG_ERR_PORT_CANNOT) {
        c->run->refresh_kept = true;
        return wait_slices(c, hold_us);
    }
    if (status != RMG_OK)
        return status;
    status = wait_slices(c, hold_us);
    back = set_refresh(c, true);
    return status == RMG_OK ? back : status;
}

static const rmg_bus by_word = {
    .version = RMG_BUS_VERSION, .read = counted_read, .write = counted_write, .wait = counted_wait};
static const rmg_bus by_element = {.version = RMG_BUS_VERSION,
                                   .read = counted_read,
                                   .write = counted_write,
                                   .run_element = counted_element,
                                   .wait = counted_wait};

void rmg_run_bus_begin(runner *c)
{
    c->target.bus = c->under->bus->run_element ? &by_element : &by_word;
    c->target.context = c;
    c->target.mask = c->under->mask & c->run->mask;
}

void rmg_run_times(const runner *c, double *wall, double *target)
{
    *wall = c->before_wall + (double)(g_get_monotonic_time() - c->start_us) / 1e6;
    *target = -1;
    if (c->watch && c->watch->clock_ns)
        *target =
            c->before_target + (double)(c->watch->clock_ns(c->watch->context) - c->start_ns) / 1e9;
}

/* What part of the run is done, by passes or by time. */
static double share_done(const runner *c)
{
    const rmg_plan *plan = &c->run->plan;
    const double done = (double)(c->run->reads + c->run->writes);
    double wall, target, share = -1;

    if (plan->passes)
        share = done / ((double)c->planned * plan->passes + (double)c->planned_first);
    if (plan->seconds > 0) {
        rmg_run_times(c, &wall, &target);
        share = MAX(share, (target < 0 ? wall : target) / plan->seconds);
    }
    return MIN(share, 1.0);
}

bool rmg_run_report(const runner *c)
{
    const rmg_run *run = c->run;
    const uint64_t planned = c->planned + (run->pass_count ? 0 : c->planned_first);
    rmg_run_progress p;

    if (!c->watch || !c->watch->progress)
        return true;
    p.step = c->step;
    p.pass = run->pass_count + 1u;
    p.passes = run->plan.passes;
    p.pass_share =
        MIN((double)(run->reads + run->writes - c->at_pass) / (double)MAX(planned, 1), 1.0);
    p.share = share_done(c);
    p.failing_reads = run->tally.failing;
    return c->watch->progress(c->watch->context, &p);
}
