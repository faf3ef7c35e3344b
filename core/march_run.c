/* The march engine: compiled march, ranges and background in; accesses in exactly that order out.
 * Knows nothing of notation, chips or what a failure means. */
#include "march_state.h"

#if RMG_MARCH_LOOPS
static rmg_status run_range(run_state *s, const rmg_range *range)
{
    rmg_addr left = (rmg_addr)(range->last - range->first); /* words, less one */
    rmg_addr address = s->down ? range->last : range->first;

    if (s->target->bus->run_element) {
        const rmg_status status = rmg_march_in_port(s, range);

        if (status != RMG_ERR_PORT_CANNOT)
            return status;
    }
    for (;;) {
        rmg_addr more = (rmg_addr)(s->every - (s->words & s->every));
        rmg_status status;

        if (more > left)
            more = left;
        status = rmg_march_stretch(s, address, more);
        if (status != RMG_OK)
            return status;
        left = (rmg_addr)(left - more);
        more = (rmg_addr)(more + 1u);
        s->words = (rmg_count)(s->words + more);
        if (!(s->words & s->every) && !rmg_march_watch(s))
            return RMG_ERR_CANCELLED;
        if (!left)
            return RMG_OK;
        left--;
        address = s->down ? (rmg_addr)(address - more) : (rmg_addr)(address + more);
    }
}

#else
static rmg_status run_range(run_state *s, const rmg_range *range)
{
    const rmg_word zero = (rmg_word)(s->job->background & s->target->mask);
    const rmg_addr end = s->down ? range->first : range->last;
    rmg_addr address = s->down ? range->last : range->first;

    for (;;) {
        const rmg_status status = march_word(s, address, zero);

        if (status != RMG_OK)
            return status;
        s->words++;
        if (!(s->words & s->every) && !rmg_march_watch(s))
            return RMG_ERR_CANCELLED;
        if (address == end)
            return RMG_OK;
        address = s->down ? (rmg_addr)(address - 1u) : (rmg_addr)(address + 1u);
    }
}
#endif

static rmg_status run_ranges(run_state *s)
{
    const rmg_range_count count = s->job->range_count;

    for (rmg_range_count i = 0; i < count; i++) {
        const rmg_range_count n = s->down ? (rmg_range_count)(count - 1u - i) : i;
        const rmg_status status = run_range(s, &s->job->ranges[n]);

        if (status != RMG_OK)
            return status;
    }
    return RMG_OK;
}

rmg_status rmg_march_check_job(const rmg_target *target, const rmg_march_job *job,
                               const rmg_tally *tally)
{
    if (!bus_usable(target) || !job || !job->code || !job->ranges || !tally)
        return RMG_ERR_ARGUMENT;
    if (!job->range_count)
        return RMG_ERR_RANGE;
    for (rmg_range_count i = 0; i < job->range_count; i++) {
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
    const rmg_status status = rmg_march_check_job(target, job, tally);

    if (status != RMG_OK)
        return status;
    s.target = target;
    s.job = job;
    s.tally = tally;
    return march_elements(&s, run_ranges);
}
