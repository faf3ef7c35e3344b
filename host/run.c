/* Carrying out a plan: wiring, first memory, march, pass after pass. Knows no words for results. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "board_internal.h"
#include "keep.h"
#include "paging.h"
#include "run_internal.h"

/* The run's target, pages selected as needed: the user's, with every access counted. */
typedef struct counted {
    const rmg_target *to;
    rmg_run *run;
    const rmg_watch *watch;
    const char *step;
    uint64_t planned; /* accesses of the whole run */
} counted;

static rmg_status counted_read(void *context, rmg_addr address, rmg_word *value)
{
    counted *c = context;

    c->run->reads++;
    return c->to->bus->read(c->to->context, address, value);
}

static rmg_status counted_write(void *context, rmg_addr address, rmg_word value)
{
    counted *c = context;

    c->run->writes++;
    return c->to->bus->write(c->to->context, address, value);
}

static rmg_status counted_wait(void *context, uint32_t hold_us)
{
    counted *c = context;

    return c->to->bus->wait ? c->to->bus->wait(c->to->context, hold_us) : RMG_ERR_PORT_CANNOT;
}

static const rmg_bus counted_bus = {
    .version = RMG_BUS_VERSION,
    .read = counted_read,
    .write = counted_write,
    .wait = counted_wait,
};

static bool report(const counted *c)
{
    rmg_run_progress p;

    if (!c->watch || !c->watch->progress)
        return true;
    p.step = c->step;
    p.pass = (uint32_t)c->run->pass_count + 1u;
    p.passes = c->run->plan.passes;
    p.share = (double)(c->run->reads + c->run->writes) / (double)c->planned;
    p.failing_reads = c->run->tally.failing;
    return c->watch->progress(c->watch->context, &p);
}

static bool on_progress(void *context, const rmg_progress *progress)
{
    (void)progress;
    return report(context);
}

static void on_failure(void *context, const rmg_failure *failure)
{
    const counted *c = context;
    const rmg_word high = failure->actual & ~failure->expected;
    const rmg_word low = failure->expected & ~failure->actual;

    rmg_failset_add(c->run->failures, failure->address, high, low);
    rmg_failset_add(c->run->pass_failures, failure->address, high, low);
}

/* splitmix64 of seed and pass: the same word for the same pass, whatever ran before. */
static rmg_word background_of(const rmg_run *run, uint32_t pass, rmg_word mask)
{
    uint64_t x = run->plan.seed + (uint64_t)pass * UINT64_C(0x9E3779B97F4A7C15);

    if (!pass)
        return 0;
    x = (x ^ x >> 30) * UINT64_C(0xBF58476D1CE4E5B9);
    x = (x ^ x >> 27) * UINT64_C(0x94D049BB133111EB);
    return (rmg_word)(x ^ x >> 31) & mask;
}

/* The word of a bank at this offset from its first; false: it is not tested. */
static bool bank_word(const rmg_run *run, size_t bank, rmg_addr offset, rmg_addr *address)
{
    const rmg_where *where = &run->board->bank_wheres[bank];

    return rmg_next_match(where->first + offset, where->mask, where->match, address) &&
           rmg_where_holds(&run->wired_where[bank], *address);
}

/* Two banks against each other, at two offsets: what shows at both counts. */
static rmg_status check_bank_pair(counted *c, const rmg_target *target, size_t a, size_t b)
{
    rmg_run *run = c->run;
    rmg_bank_pair *pair = &run->bank_pairs[a * run->board->bank_count + b];
    const rmg_addr start = MAX(run->wired_where[a].first - run->board->bank_wheres[a].first,
                               run->wired_where[b].first - run->board->bank_wheres[b].first);
    const rmg_addr end = MIN(run->wired_where[a].last - run->board->bank_wheres[a].first,
                             run->wired_where[b].last - run->board->bank_wheres[b].first);
    const rmg_word sound =
        ~(run->wirings[a].high | run->wirings[a].opposite | run->wirings[a].unsteady |
          run->wirings[b].high | run->wirings[b].opposite | run->wirings[b].unsteady);

    for (unsigned i = 0; i < 2; i++) {
        const rmg_addr offset = i && end > start ? start + (end - start) / 2u : start;
        rmg_bank_pair one;
        rmg_addr at, other;
        rmg_status status;

        if (!bank_word(run, a, offset, &at) || !bank_word(run, b, offset, &other))
            return RMG_OK;
        status = rmg_wiring_bank_pair(target, at, other, sound & target->mask, &one);
        if (status != RMG_OK)
            return status;
        pair->same = i ? pair->same & one.same : one.same;
        pair->a_answers = i ? pair->a_answers & one.a_answers : one.a_answers;
        pair->b_answers = i ? pair->b_answers & one.b_answers : one.b_answers;
        pair->a_dragged = i ? pair->a_dragged & one.a_dragged : one.a_dragged;
        pair->b_dragged = i ? pair->b_dragged & one.b_dragged : one.b_dragged;
    }
    return RMG_OK;
}

static rmg_status check_bank(counted *c, const rmg_target *target, size_t b)
{
    rmg_run *run = c->run;
    const rmg_where *where = &run->wired_where[b];
    rmg_status status = rmg_wiring_check(target, where, &run->wirings[b]);

    if (status == RMG_OK)
        status = rmg_wiring_data_detail(target, where, &run->wirings[b], &run->data_details[b]);
    if (status == RMG_OK)
        status =
            rmg_wiring_address_detail(target, where, &run->wirings[b], &run->address_details[b]);
    run->wired[b] = status == RMG_OK;
    return status;
}

static rmg_status check_wiring(counted *c, const rmg_target *target)
{
    rmg_run *run = c->run;
    const size_t banks = run->board->bank_count;
    const uint64_t before = run->reads + run->writes;
    rmg_status status = RMG_OK;

    c->step = "wiring";
    for (size_t b = 0; b < banks && status == RMG_OK; b++)
        if (rmg_run_wiring_where(run, b, &run->wired_where[b]))
            status = report(c) ? check_bank(c, target, b) : RMG_ERR_CANCELLED;
    for (size_t a = 0; a < banks && status == RMG_OK; a++)
        for (size_t b = a + 1; b < banks && status == RMG_OK; b++)
            if (run->wired[a] && run->wired[b])
                status = check_bank_pair(c, target, a, b);
    run->wiring_accesses = run->reads + run->writes - before;
    return status;
}

/* One march over the job's ranges; with a keeper block by block, each put back when it is done. */
static rmg_status march(const rmg_target *target, keeper *keep, rmg_march_job job, rmg_tally *tally)
{
    const rmg_range *ranges = job.ranges;
    const uint8_t count = job.range_count;
    rmg_status status = RMG_OK, back;

    if (!keep)
        return rmg_march_run(target, &job, tally);
    for (uint8_t i = 0; i < count && status == RMG_OK; i++) {
        rmg_range block = {ranges[i].first, ranges[i].first};

        for (; status == RMG_OK; block.first = block.last + 1u) {
            block.last = ranges[i].last - block.first < RMG_KEEP_WORDS
                             ? ranges[i].last
                             : block.first + (RMG_KEEP_WORDS - 1u);
            job.ranges = &block;
            job.range_count = 1;
            status = rmg_march_run(target, &job, tally);
            back = rmg_keep_restore(keep);
            if (status == RMG_OK)
                status = back;
            if (block.last == ranges[i].last)
                break;
        }
    }
    return status;
}

static rmg_status march_pass(counted *c, const rmg_target *target, keeper *keep, uint32_t pass)
{
    rmg_run *run = c->run;
    const rmg_observer observer = {c, on_progress, on_failure, 8};
    rmg_march_job job = {
        .code = run->plan.march,
        .observer = &observer,
        .hold_us = 100000,
        .pass = (uint16_t)pass,
        .background = background_of(run, pass, target->mask),
    };
    rmg_status status = RMG_OK;
    rmg_pass result;

    rmg_failset_empty(run->pass_failures);
    if (!pass && rmg_run_has_first_memory(run)) {
        c->step = "first memory";
        job.step = 1;
        job.ranges = &run->board->first_memory;
        job.range_count = 1;
        status = march(target, keep, job, &run->tally);
    }
    if (status == RMG_OK) {
        c->step = run->plan.march_name;
        job.step = 2;
        job.ranges = run->tested;
        job.range_count = (uint8_t)run->tested_count;
        status = march(target, keep, job, &run->tally);
    }
    if (status != RMG_OK)
        return status;
    result.background = job.background;
    result.failing_reads = run->tally.failing_pass;
    result.failing_words = rmg_failset_words(run->pass_failures, NULL, (rmg_word) ~(rmg_word)0);
    result.fingerprint = rmg_failset_fingerprint(run->pass_failures);
    run->passes[run->pass_count++] = result;
    rmg_tally_pass_end(&run->tally);
    return RMG_OK;
}

const char *rmg_keep_misses(void)
{
    return "Contents were kept, block by block. So faults between cells of different blocks of "
           "1024 "
           "words were not looked for, nor cells that lose their contents with time.";
}

static uint64_t planned_accesses(const rmg_run *run)
{
    const uint64_t ops = rmg_march_operations(run->plan.march);
    uint64_t words = run->tested_words * run->plan.passes;

    if (rmg_run_has_first_memory(run))
        words += run->board->first_memory.last - run->board->first_memory.first + 1u;
    return MAX(words * ops, 1);
}

rmg_status rmg_run_begin(rmg_run *run, const rmg_board *board, const rmg_plan *plan,
                         const char *target_name, char **message)
{
    memset(run, 0, sizeof *run);
    *message = NULL;
    run->board = board;
    run->plan = *plan;
    run->target = g_strdup(target_name);
    run->seconds_target = -1;
    run->wired = g_new0(bool, MAX(board->bank_count, 1));
    run->wired_where = g_new0(rmg_where, MAX(board->bank_count, 1));
    run->wirings = g_new0(rmg_wiring, MAX(board->bank_count, 1));
    run->data_details = g_new0(rmg_data_detail, MAX(board->bank_count, 1));
    run->address_details = g_new0(rmg_address_detail, MAX(board->bank_count, 1));
    run->bank_pairs = g_new0(rmg_bank_pair, MAX(board->bank_count * board->bank_count, 1));
    run->passes = g_new0(rmg_pass, MAX(plan->passes, 1));
    run->failures = rmg_failset_new();
    run->pass_failures = rmg_failset_new();
    rmg_tally_clear(&run->tally, board->bank_wheres, (uint8_t)board->bank_count);
    if (!plan->passes || plan->passes > UINT16_MAX || !plan->march) {
        *message = g_strdup("the number of passes must be from 1 to 65535");
        return run->status = RMG_ERR_ARGUMENT;
    }
    return run->status = rmg_run_choose_ranges(run, message);
}

rmg_status rmg_run_carry_out(rmg_run *run, const rmg_target *target, const rmg_watch *watch)
{
    paging paged;
    counted c = {&paged.target, run, watch, "", planned_accesses(run)};
    const rmg_target through = {&counted_bus, &c, target->mask & run->mask};
    const bool clock = watch && watch->clock_ns;
    const uint64_t target_start = clock ? watch->clock_ns(watch->context) : 0;
    const gint64 start = g_get_monotonic_time();
    rmg_status back;

    keeper keep;
    const rmg_target *to = &through;

    rmg_paging_begin(&paged, run->board, target);
    rmg_keep_begin(&keep, &through);
    if (run->plan.keep)
        to = &keep.target;
    run->status = check_wiring(&c, to);
    back = rmg_keep_restore(&keep);
    if (run->status == RMG_OK)
        run->status = back;
    for (uint32_t pass = 0; pass < run->plan.passes && run->status == RMG_OK; pass++)
        run->status = march_pass(&c, to, run->plan.keep ? &keep : NULL, pass);
    rmg_keep_end(&keep);
    run->complete = run->status == RMG_OK;
    run->seconds_wall = (double)(g_get_monotonic_time() - start) / 1e6;
    if (clock)
        run->seconds_target = (double)(watch->clock_ns(watch->context) - target_start) / 1e9;
    return run->status;
}

void rmg_run_end(rmg_run *run)
{
    for (size_t i = 0; i < run->left_out_count; i++) {
        g_free(run->left_out[i].name);
        g_free(run->left_out[i].reason);
    }
    g_free(run->left_out);
    g_free(run->tested);
    g_free(run->wired);
    g_free(run->wired_where);
    g_free(run->wirings);
    g_free(run->data_details);
    g_free(run->address_details);
    g_free(run->bank_pairs);
    g_free(run->passes);
    g_free(run->target);
    rmg_failset_free(run->failures);
    rmg_failset_free(run->pass_failures);
    memset(run, 0, sizeof *run);
}

bool rmg_run_failed(const rmg_run *run)
{
    if (run->tally.failing)
        return true;
    for (size_t b = 0; b < run->board->bank_count; b++) {
        const rmg_wiring *w = &run->wirings[b];

        if (run->wired[b] && (w->low | w->high | w->opposite | w->unsteady))
            return true;
        if (run->address_details[b].pair_count)
            return true;
        for (size_t k = 0; run->wired[b] && k < RMG_ADDR_BITS; k++)
            if (w->ignored[k])
                return true;
    }
    return false;
}

bool rmg_run_repeats(const rmg_run *run)
{
    for (size_t i = 1; i < run->pass_count; i++)
        if (run->passes[i].fingerprint != run->passes[0].fingerprint)
            return false;
    return run->pass_count > 1;
}

double rmg_excluded_share(size_t passes)
{
    return passes ? 1.0 - pow(0.05, 1.0 / (double)passes) : 1.0;
}

void rmg_text_free(char *text)
{
    g_free(text);
}
