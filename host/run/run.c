/* Carrying out a plan, pass after pass. Knows no words for results. */
#include <glib.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "base/internal.h"
#include "board/internal.h"
#include "keep.h"
#include "paging.h"
#include "rimeglass/heard.h"
#include "runner.h"

const char *rmg_keep_misses(void)
{
    return "Contents were kept, block by block. So faults between cells of different blocks of "
           "1024 "
           "words were not looked for, nor cells that lose their contents over time.";
}

/* Accesses of one pass, and how many more the first one makes. */
static void plan_accesses(runner *c)
{
    const rmg_run *run = c->run;
    uint64_t march = 0;

    for (size_t i = 0; i < run->steps.count; i++) {
        const rmg_step *step = &run->steps.list[i];

        c->planned += rmg_step_accesses(step, run->board, run->tested_words);
        c->planned_first += rmg_step_first_accesses(step, run->board);
        if (step->kind == RMG_STEP_MARCH && !march)
            march = rmg_march_operations(step->code);
    }
    for (size_t i = 0; i < run->first_memory_count; i++)
        c->planned_first += (run->first_memory[i].last - run->first_memory[i].first + 1u) * march;
    c->planned = MAX(c->planned, 1);
}

/* The plan's steps, its own copy. */
static rmg_status take_steps(rmg_run *run)
{
    rmg_status status = RMG_OK;

    if (run->plan.steps) {
        run->steps.name = g_strdup(run->plan.steps->name);
        run->steps.text = g_strdup(run->plan.steps->text);
        run->steps.count = run->plan.steps->count;
        run->steps.list =
            g_memdup2(run->plan.steps->list, run->steps.count * sizeof *run->steps.list);
    } else {
        status = rmg_steps_of_march(run->plan.march_name, run->plan.march, &run->steps);
    }
    run->plan.steps = NULL;
    run->plan.march = NULL;
    run->plan.march_name = run->steps.name;
    return status;
}

/* All but the tally, which is large, and cleared when a run begins. */
static void clear(rmg_run *run)
{
    const size_t behind = offsetof(rmg_run, tally) + sizeof run->tally;

    memset(run, 0, offsetof(rmg_run, tally));
    memset((char *)run + behind, 0, sizeof *run - behind);
}

rmg_status rmg_run_begin(rmg_run *run, const rmg_board *board, const rmg_plan *plan,
                         const char *target_name, rmg_error *error)
{
    const size_t banks = MAX(board->bank_count, 1);

    clear(run);
    run->own = g_new0(struct rmg_run_own, 1);
    rmg_error_none(error);
    run->board = board;
    run->plan = *plan;
    run->target = g_strdup(target_name);
    run->seconds_target = -1;
    run->stretch_passes = 1;
    run->wired = g_new0(bool, banks);
    run->wired_where = g_new0(rmg_where, banks);
    run->wirings = g_new0(rmg_wiring, banks);
    run->data_details = g_new0(rmg_data_detail, banks);
    run->address_details = g_new0(rmg_address_detail, banks);
    run->bank_pairs = g_new0(rmg_bank_pair, banks * banks);
    run->bank_words = g_new0(uint64_t, banks);
    run->own->bit_reads = g_new0(rmg_bit_reads, banks * board->word_bits);
    run->failures = rmg_failset_new();
    run->own->pass_failures = rmg_failset_new();
    for (size_t i = 0; i < G_N_ELEMENTS(run->conditions); i++)
        run->conditions[i] = RMG_NOT_KNOWN;
    rmg_tally_clear(&run->tally, board->bank_wheres, (uint8_t)board->bank_count);
    if (plan->passes > RMG_PASSES_MOST ||
        (!plan->passes && !(plan->seconds > 0) && !plan->endless) ||
        (!plan->march && !plan->steps)) {
        return run->status = rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                                      "the number of passes must be from 1 to %u", RMG_PASSES_MOST);
    }
    if (take_steps(run) != RMG_OK)
        return run->status = rmg_fail(
                   error, RMG_ERR_ROOM, NULL,
                   "the march is too long: its elements and operations together may be at most %u",
                   RMG_MARCH_BYTES - 1u);
    run->status = rmg_run_choose_ranges(run, error);
    rmg_run_choose_first_memory(run);
    for (size_t b = 0; b < board->bank_count; b++)
        run->bank_words[b] = rmg_run_bank_words(run, b);
    return run->status;
}

static int32_t condition(const rmg_target *target, rmg_condition which)
{
    int32_t value;

    if (!target->bus->get_condition ||
        target->bus->get_condition(target->context, which, &value) != RMG_OK)
        return RMG_NOT_KNOWN;
    return value;
}

/* Was there no memory for something that failed? */
static bool starved(const rmg_run *run)
{
    return rmg_failset_starved(run->failures) || rmg_failset_starved(run->own->pass_failures);
}

/* What a pass found, and how often each bit has failed up to here. */
static rmg_status end_pass(runner *c, const rmg_target *target)
{
    rmg_run *run = c->run;
    const uint8_t bits = run->board->word_bits;
    const uint64_t pass = run->pass_count;
    rmg_stretch result = {
        .passes = 1,
        .failing_passes = run->tally.failing_pass > 0,
        .background = pass ? (rmg_word)rmg_hash(run->plan.seed, pass - 1u) & c->target.mask : 0,
        .failing_reads = run->tally.failing_pass,
        .failing_words = rmg_failset_words(run->own->pass_failures, NULL, (rmg_word) ~(rmg_word)0),
        .heat_millic = condition(target, RMG_CONDITION_HEAT_MILLIC)};
    const uint64_t fingerprint = rmg_failset_fingerprint(run->own->pass_failures);
    rmg_status status;

    if (c->watch && c->watch->heat_millic) {
        const int32_t heat = c->watch->heat_millic(c->watch->context);

        result.heat_millic = heat == RMG_NOT_KNOWN ? result.heat_millic : heat;
    }
    rmg_run_times(c, &result.seconds_wall, &result.seconds_target);
    status = rmg_run_add_pass(run, &result, fingerprint);
    if (status != RMG_OK)
        return status;
    rmg_tally_pass_end(&run->tally);
    rmg_failset_count_pass(run->failures, run->own->pass_failures);
    if (starved(run))
        return RMG_ERR_MEMORY;
    for (size_t b = 0; b < MIN(run->board->bank_count, RMG_TALLY_BANKS); b++)
        for (uint8_t i = 0; i < bits; i++) {
            run->own->bit_reads[b * bits + i].failed[0] = run->tally.bits[b][i].high;
            run->own->bit_reads[b * bits + i].failed[1] = run->tally.bits[b][i].low;
        }
    rmg_since_pass(run, fingerprint, result.failing_passes > 0);
    run->seconds_wall = result.seconds_wall;
    run->seconds_target = result.seconds_target;
    if (c->watch && c->watch->pass_ended)
        c->watch->pass_ended(c->watch->context);
    return status;
}

static bool another_pass(const runner *c)
{
    const rmg_plan *plan = &c->run->plan;
    double wall, target;

    if (plan->passes && c->run->pass_count >= plan->passes)
        return false;
    rmg_run_times(c, &wall, &target);
    return !(plan->seconds > 0) || (target < 0 ? wall : target) < plan->seconds;
}

/* The passes, one after another; contents are put back on every way out. */
static void run_passes(runner *c, const rmg_target *target, const rmg_target *to)
{
    rmg_run *run = c->run;

    while (run->status == RMG_OK && another_pass(c)) {
        const uint64_t pass = run->plan.first_pass + run->pass_count;

        c->at_pass = run->reads + run->writes;
        rmg_failset_empty(run->own->pass_failures);
        for (size_t i = 0; i < run->steps.count && run->status == RMG_OK; i++) {
            c->step_number = (uint8_t)i;
            run->status = rmg_run_step(c, to, &run->steps.list[i], pass);
            run->status = starved(run) ? RMG_ERR_MEMORY : run->status;
        }
        if (run->status == RMG_OK)
            run->status = end_pass(c, target);
    }
}

static gint by_address(gconstpointer a, gconstpointer b)
{
    const rmg_saved_word *x = a, *y = b;

    return rmg_by_number(x->address, y->address);
}

/* What is left of the saved words could not be put back: their values go to the run. */
static void put_back(rmg_run *run, rmg_keeper *keep)
{
    const rmg_status back = rmg_keep_restore(keep);

    if (run->status == RMG_OK)
        run->status = back;
    g_free(run->not_restored);
    run->not_put_back_count = keep->count;
    run->not_restored = g_memdup2(keep->saved, keep->count * sizeof *keep->saved);
    if (keep->count)
        qsort(run->not_restored, keep->count, sizeof *keep->saved, by_address);
}

rmg_status rmg_run_carry_out(rmg_run *run, const rmg_target *target, const rmg_watch *watch)
{
    paging paged;
    rmg_guard guard;
    rmg_target guarded;
    rmg_permit *permits = rmg_run_permits(run);
    rmg_keeper keep;
    runner c = {.run = run,
                .watch = watch,
                .under = &guarded,
                .step = "",
                .start_us = g_get_monotonic_time(),
                .before_wall = run->seconds_wall,
                .before_target = MAX(run->seconds_target, 0)};

    if (watch && watch->clock_ns)
        c.start_ns = watch->clock_ns(watch->context);
    rmg_paging_begin(&paged, run->board, target);
    rmg_guard_begin(&guard, &paged.target, permits, (uint16_t)run->tested_count, &guarded);
    rmg_run_bus_begin(&c);
    plan_accesses(&c);
    run->status = RMG_OK;
    if (run->plan.keep) {
        c.keep = &keep;
        run->status = rmg_keep_begin(&keep, &c.target);
    }
    for (uint8_t i = 0; !run->pass_count && i < G_N_ELEMENTS(run->conditions); i++)
        run->conditions[i] = condition(target, (rmg_condition)i);
    run_passes(&c, target, c.keep ? &keep.target : &c.target);
    if (c.keep) {
        put_back(run, &keep);
        rmg_keep_end(&keep);
    }
    g_free(permits);
    run->complete = run->status == RMG_OK;
    rmg_run_times(&c, &run->seconds_wall, &run->seconds_target);
    return run->status;
}

static void free_heard(rmg_heard *heard)
{
    if (!heard)
        return;
    for (unsigned i = 0; i < heard->first_count; i++)
        g_free(heard->first[i]);
    g_free(heard->profile);
    rmg_told_free(heard->told);
    g_free(heard->bits);
    g_free(heard->sockets);
    g_free(heard->banks);
    g_free(heard);
}

void rmg_run_end(rmg_run *run)
{
    for (size_t i = 0; i < run->left_out_count; i++) {
        g_free(run->left_out[i].name);
        g_free(run->left_out[i].reason);
    }
    g_free(run->left_out);
    g_free(run->tested);
    g_free(run->first_memory);
    g_free(run->wired);
    g_free(run->wired_where);
    g_free(run->wirings);
    g_free(run->data_details);
    g_free(run->address_details);
    g_free(run->bank_pairs);
    g_free(run->noisy);
    free(run->stretches);
    if (run->own) {
        g_free(run->own->bit_reads);
        g_free(run->own->pass_bits);
        g_clear_pointer(&run->own->told, g_array_unref);
        g_free(run->own->march_ranges);
        rmg_since_free(run->own->since);
        rmg_failset_free(run->own->pass_failures);
        g_free(run->own);
    }
    g_free(run->bank_words);
    rmg_steps_free(&run->steps);
    g_free(run->target);
    g_free(run->not_restored);
    g_free(run->caveat);
    g_free(run->remark);
    g_free(run->port_said);
    g_strfreev(run->places);
    rmg_failset_free(run->failures);
    free_heard(run->heard);
    clear(run);
}

bool rmg_run_failed(const rmg_run *run)
{
    if (run->tally.failing || run->copied_wrong || run->noisy_count)
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

void rmg_run_bit_rate(const rmg_run *run, uint8_t bank, rmg_word bits, uint64_t *failed,
                      uint64_t *could)
{
    uint64_t expected[2] = {0, 0}, wrong[2] = {0, 0};

    for (size_t b = 0; b < run->board->bank_count; b++)
        for (uint8_t i = 0; (bank == RMG_NO_BANK || b == bank) && i < run->board->word_bits; i++)
            for (unsigned level = 0; (bits >> i & 1u) && level < 2; level++) {
                const rmg_bit_reads *bit = &run->own->bit_reads[b * run->board->word_bits + i];

                expected[level] += bit->expected[level];
                wrong[level] += bit->failed[level];
            }
    *failed = wrong[0] + wrong[1];
    *could = (wrong[0] || !wrong[1] ? expected[0] : 0) + (wrong[1] || !wrong[0] ? expected[1] : 0);
}

double rmg_excluded_share(uint64_t passes)
{
    return passes ? 1.0 - pow(0.05, 1.0 / (double)passes) : 1.0;
}

uint64_t rmg_passes_to_exclude(double share)
{
    return (uint64_t)ceil(log(0.05) / log1p(-share));
}

/* The factor by which one more clean pass makes it less likely. */
static double clean_factor(uint64_t events, uint64_t trials, uint64_t clean)
{
    const double fails = (double)events + 0.5, passes = (double)(trials - events) + 0.5;

    return (passes + (double)clean) / (fails + passes + (double)clean);
}

double rmg_clean_chance(uint64_t events, uint64_t trials, uint64_t passes)
{
    double chance = 1;

    for (uint64_t i = 0; i < passes && chance > 1e-12; i++)
        chance *= clean_factor(events, trials, i);
    return chance;
}

uint64_t rmg_passes_to_tell(uint64_t events, uint64_t trials)
{
    double chance = 1;
    uint64_t passes = 0;

    do
        chance *= clean_factor(events, trials, passes);
    while (++passes < 100000 && chance > 0.05);
    return passes;
}
