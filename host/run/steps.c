/* Marches and holds of a plan, with every background and order a step asks for. */
#include <glib.h>

#include "runner.h"

/* Failures of neighbouring words at once: the watcher sees the first ones only. */
static void on_failures(void *context, const rmg_mismatch_block *block, const rmg_failure *like)
{
    runner *c = context;

    rmg_failset_add_block(c->run->failures, block, rmg_failure_step(like));
    rmg_failset_add_block(c->run->own->pass_failures, block, 0);
    if (c->run->own->since)
        rmg_failset_add_block(c->run->own->since->failures, block, rmg_failure_step(like));
    for (uint8_t i = 0; c->watch && c->watch->failure && i < 64; i++)
        if ((block->failing >> i & 1u) && c->told < RMG_TALLY_FIRST) {
            rmg_failure failure = *like;

            failure.address = block->first + i;
            failure.actual = block->actual[i];
            c->told++;
            c->watch->failure(c->watch->context, &failure);
        }
}

/* The same of words that all read alike. */
static void on_failure_run(void *context, const rmg_mismatch_run *run, const rmg_failure *like)
{
    runner *c = context;

    rmg_failset_add_run(c->run->failures, run, rmg_failure_step(like));
    rmg_failset_add_run(c->run->own->pass_failures, run, 0);
    if (c->run->own->since)
        rmg_failset_add_run(c->run->own->since->failures, run, rmg_failure_step(like));
    for (rmg_addr i = 0; c->watch && c->watch->failure && i < run->words; i++) {
        rmg_failure failure = *like;

        if (c->told >= RMG_TALLY_FIRST)
            break;
        failure.address = run->first + (like->down ? run->words - 1u - i : i);
        if (!rmg_in_run(run, failure.address))
            continue;
        c->told++;
        c->watch->failure(c->watch->context, &failure);
    }
}

static void on_failure(void *context, const rmg_failure *failure)
{
    rmg_run_note(context, failure);
}

#define WATCH_FIRST                                                                                \
    4u /* the watcher is asked after 2^4 words at first, for a prompt is slow, ... */
#define WATCH_LOG2 22u   /* ... or after so many words, as where nobody watches */
#define SLICE_LOG2 16u   /* words that a target with slices of its own is asked for at once */
#define WATCH_US   20000 /* ... then so that about this time lies between, whatever the port */

/* At most a few hundred times an element, and at least every 4 Mi words. */
static unsigned watch_most(const rmg_run *run)
{
    unsigned log2 = 8;

    while (log2 < WATCH_LOG2 && run->tested_words >> (log2 + 8u))
        log2++;
    return log2;
}

/* How many words until the watcher is asked again, by the time that the last ones took: heeded from
 * the next element on, and at once where the port runs elements itself. */
static void adapt(runner *c, rmg_count words)
{
    const gint64 now = g_get_monotonic_time(), took = now - c->asked_us;
    const unsigned most = watch_most(c->run);
    const rmg_count did = (rmg_count)(words - c->asked_words);
    unsigned log2 = c->observer.every_log2;

    c->asked_us = now;
    c->asked_words = words;
    if (!words || did < (rmg_count)1 << log2 || c->run->by_slices)
        return;
    for (gint64 us = MAX(took, 1); us < WATCH_US && log2 < most; us *= 2)
        log2++;
    for (gint64 us = took; us > 2 * WATCH_US && log2 > 1; us /= 2)
        log2--;
    c->observer.every_log2 = (uint8_t)log2;
}

static bool on_progress(void *context, const rmg_progress *progress)
{
    runner *c = context;

    adapt(c, progress->words);
    return !rmg_failset_starved(c->run->failures) && rmg_run_report(c);
}

/* A march over the job's ranges in one background and order. */
typedef struct one_march {
    rmg_march_job job;
    rmg_background background;
    rmg_background_term terms[RMG_TERMS_MOST];
    rmg_order order;
    bool ordered;
} one_march;

static rmg_status run_one(const rmg_target *to, const one_march *m, rmg_tally *tally)
{
    if (!m->ordered && !m->background.term_count && !m->background.random)
        return rmg_march_run(to, &m->job, tally);
    return rmg_march_run_patterned(to, &m->job, &m->background, m->ordered ? &m->order : NULL,
                                   tally);
}

/* The same block by block, each put back when it is done; in linear order. */
static rmg_status run_kept(runner *c, const rmg_target *to, one_march *m)
{
    const rmg_range *ranges = m->job.ranges;
    const rmg_range_count count = m->job.range_count;
    rmg_status status = RMG_OK, back;

    m->ordered = false;
    for (rmg_range_count i = 0; i < count && status == RMG_OK; i++) {
        rmg_range block = {ranges[i].first, ranges[i].first};

        for (; status == RMG_OK; block.first = block.last + 1u) {
            block.last = ranges[i].last - block.first < RMG_KEEP_WORDS
                             ? ranges[i].last
                             : block.first + (RMG_KEEP_WORDS - 1u);
            m->job.ranges = &block;
            m->job.range_count = 1;
            status = run_one(to, m, &c->run->tally);
            back = rmg_keep_restore(c->keep);
            if (status == RMG_OK)
                status = back;
            if (block.last == ranges[i].last)
                break;
        }
    }
    m->job.ranges = ranges;
    m->job.range_count = count;
    return status;
}

/* How many words of the bank in these ranges have a background with a 1 in each bit: exactly, since
 * a rate must never have more failures than trials. Counted for all bits at once: planes[k] holds
 * bit k of the count of every data bit. */
static void count_ones(const one_march *m, const rmg_where *where, uint64_t *ones)
{
    rmg_word planes[RMG_ADDR_BITS] = {0};

    for (rmg_range_count r = 0; r < m->job.range_count; r++) {
        const rmg_addr first = MAX(where->first, m->job.ranges[r].first);
        const rmg_addr last = MIN(where->last, m->job.ranges[r].last);

        for (rmg_addr a = first; a <= last && a >= first; a++) {
            rmg_word carry = rmg_where_holds(where, a) ? rmg_background_word(&m->background, a) : 0;

            for (unsigned k = 0; carry && k < RMG_ADDR_BITS; k++) {
                const rmg_word both = planes[k] & carry;

                planes[k] ^= carry;
                carry = both;
            }
        }
    }
    for (unsigned i = 0; i < RMG_WORD_BITS; i++)
        for (unsigned k = 0; k < RMG_ADDR_BITS; k++)
            ones[i] += (uint64_t)(planes[k] >> i & 1u) << k;
}

/* How many reads of each bit of each bank expected 0 and 1. */
static void count_expected(rmg_run *run, const one_march *m, bool first_memory)
{
    const uint8_t *code = m->job.code;
    uint64_t reads[2] = {0, 0};

    for (; *code; code += (*code & ~RMG_ORDER_MASK) + 1u)
        for (uint8_t i = 1; i <= (*code & ~RMG_ORDER_MASK); i++)
            if (!(code[i] & RMG_OP_WRITE))
                reads[code[i] & RMG_OP_ONE]++;
    for (size_t b = 0; b < run->board->bank_count; b++) {
        const rmg_where *where = &run->board->bank_wheres[b];
        uint64_t words = run->bank_words[b], ones[RMG_WORD_BITS] = {0};

        if (first_memory)
            words = rmg_where_holds(where, m->job.ranges[0].first)
                        ? m->job.ranges[0].last - m->job.ranges[0].first + 1u
                        : 0;
        if (words && (m->background.term_count || m->background.random))
            count_ones(m, where, ones);
        else
            for (uint8_t i = 0; i < run->board->word_bits; i++)
                ones[i] = m->background.start >> i & 1u ? words : 0;
        for (uint8_t i = 0; i < run->board->word_bits; i++) {
            rmg_bit_reads *bit = &run->own->bit_reads[b * run->board->word_bits + i];

            bit->expected[0] += (words - ones[i]) * reads[0] + ones[i] * reads[1];
            bit->expected[1] += (words - ones[i]) * reads[1] + ones[i] * reads[0];
        }
    }
}

static rmg_status run_march(runner *c, const rmg_target *to, const rmg_step *step, uint64_t pass,
                            const rmg_range *ranges, rmg_range_count range_count, bool first_memory)
{
    rmg_run *run = c->run;
    const uint8_t every = run->by_slices           ? SLICE_LOG2
                          : !c->watch              ? WATCH_LOG2
                          : c->observer.every_log2 ? c->observer.every_log2
                                                   : (uint8_t)MIN(watch_most(run), WATCH_FIRST);
    /* a replay may be narrowed to words of which none is tested */
    const unsigned variants = !range_count   ? 0
                              : first_memory ? 1
                                             : rmg_step_variants(step, run->board);
    rmg_status status = RMG_OK;

    c->observer = (rmg_observer){c, on_progress, on_failure, every, on_failures, on_failure_run};
    for (unsigned v = 0; v < variants && status == RMG_OK; v++) {
        one_march m; /* large: its parts are filled by what follows */

        m.job = (rmg_march_job){.code = step->code,
                                .ranges = ranges,
                                .range_count = range_count,
                                .observer = &c->observer,
                                .hold_us = step->hold_us,
                                .pass = (uint16_t)MIN(pass, UINT16_MAX),
                                .step = c->step_number};
        m.ordered = rmg_step_pattern(step, v, run->board, ranges, range_count, run->plan.seed, pass,
                                     &m.background, m.terms, &m.order);
        m.job.background = m.background.start;
        c->stops_refresh = step->stops_refresh && !run->wiring_narrowed;
        status = c->keep ? run_kept(c, to, &m) : run_one(to, &m, &run->tally);
        c->stops_refresh = false;
        if (status == RMG_OK)
            count_expected(run, &m, first_memory);
    }
    return status;
}

/* The first memory alone, with the plan's first march. */
static rmg_status run_first_memory(runner *c, const rmg_target *to)
{
    const rmg_run *run = c->run;

    for (size_t i = 0; run->first_memory_count && i < run->steps.count; i++)
        if (run->steps.list[i].kind == RMG_STEP_MARCH) {
            rmg_step step = run->steps.list[i];

            step.ground = RMG_GROUND_SOLID;
            step.way = RMG_WAY_LINEAR;
            return run_march(c, to, &step, 0, run->first_memory, (uint8_t)run->first_memory_count,
                             true);
        }
    return RMG_OK;
}

rmg_status rmg_run_step(runner *c, const rmg_target *to, const rmg_step *step, uint64_t pass)
{
    rmg_run *run = c->run;
    rmg_status status = RMG_OK;

    c->step = step->name;
    switch (step->kind) {
    case RMG_STEP_WIRING:
        if (!run->own->wiring_done)
            status = rmg_run_check_wiring(c, to);
        else if (run->own->since && !run->own->since->checked)
            status = rmg_since_check_wiring(c, to);
        if (c->keep) {
            const rmg_status back = rmg_keep_restore(c->keep);

            status = status == RMG_OK ? back : status;
        }
        run->own->wiring_done |= status == RMG_OK;
        return status;
    case RMG_STEP_NOISE:
        if (pass)
            return RMG_OK;
        status = run->wiring_narrowed ? RMG_OK : rmg_run_noise(c, to, step);
        if (c->keep) {
            const rmg_status back = rmg_keep_restore(c->keep);

            status = status == RMG_OK ? back : status;
        }
        return status;
    case RMG_STEP_FIRST_MEMORY:
        return pass ? RMG_OK : run_first_memory(c, to);
    case RMG_STEP_MARCH:
    case RMG_STEP_HOLD:
        if (run->own->march_ranges)
            return run_march(c, to, step, pass, run->own->march_ranges,
                             (rmg_range_count)run->own->march_range_count, false);
        return run_march(c, to, step, pass, run->tested, (rmg_range_count)run->tested_count, false);
    case RMG_STEP_ROWS:
    case RMG_STEP_NEIGHBOURS:
    case RMG_STEP_MOVING:
    case RMG_STEP_COPY:
        if (c->keep || (run->wiring_narrowed && step->kind != RMG_STEP_NEIGHBOURS)) {
            run->steps_skipped = true;
            return RMG_OK;
        }
        return step->kind == RMG_STEP_ROWS         ? rmg_run_rows(c, to, step, pass)
               : step->kind == RMG_STEP_NEIGHBOURS ? rmg_run_neighbours(c, to, step, pass)
               : step->kind == RMG_STEP_MOVING     ? rmg_run_moving(c, to, step, pass)
                                                   : rmg_run_copy(c, to, pass);
    }
    return status;
}
