/* The passes of a run, kept in bounded room: when there are many, neighbours are summed up, all
 * alike, so that the list stays a course over time. */
#include <glib.h>
#include <stdlib.h>

#include "runner.h"

static rmg_stretch sum_of(const rmg_stretch *a, const rmg_stretch *b)
{
    rmg_stretch sum = *b; /* how things stood at the end */

    sum.passes += a->passes;
    sum.failing_passes += a->failing_passes;
    sum.failing_reads = a->failing_reads > RMG_COUNT_MAX - b->failing_reads
                            ? RMG_COUNT_MAX
                            : a->failing_reads + b->failing_reads;
    sum.failing_words = MAX(a->failing_words, b->failing_words);
    return sum;
}

/* Pairs of neighbours become one. */
static void halve(rmg_run *run)
{
    const size_t count = run->stretch_count;

    for (size_t i = 0; i < count / 2u; i++)
        run->stretches[i] = sum_of(&run->stretches[2u * i], &run->stretches[2u * i + 1u]);
    if (count % 2u)
        run->stretches[count / 2u] = run->stretches[count - 1u];
    run->stretch_count = (count + 1u) / 2u;
    run->stretch_passes *= 2u;
}

static rmg_status make_room(rmg_run *run)
{
    const size_t room = run->own->stretch_room ? 2u * run->own->stretch_room : 16u;
    rmg_stretch *more;

    if (run->stretch_count < run->own->stretch_room)
        return RMG_OK;
    more = realloc(run->stretches, room * sizeof *more);
    if (!more)
        return RMG_ERR_MEMORY;
    run->stretches = more;
    run->own->stretch_room = room;
    return RMG_OK;
}

rmg_status rmg_run_add_pass(rmg_run *run, const rmg_stretch *pass, uint64_t fingerprint)
{
    rmg_stretch *last = run->stretch_count ? &run->stretches[run->stretch_count - 1u] : NULL;
    rmg_status status = RMG_OK;

    if (last && last->passes < run->stretch_passes) {
        *last = sum_of(last, pass);
    } else {
        if (run->stretch_count == RMG_STRETCHES_MOST)
            halve(run);
        status = make_room(run);
        if (status != RMG_OK)
            return status;
        run->stretches[run->stretch_count++] = *pass;
    }
    if (!run->own->has_first || !run->pass_count)
        run->own->fingerprint = fingerprint;
    run->own->has_first = true;
    run->own->differs |= fingerprint != run->own->fingerprint;
    run->pass_count++;
    return RMG_OK;
}

bool rmg_run_repeats(const rmg_run *run)
{
    return run->pass_count > 1 && !run->own->differs;
}
