/* One run of a board with faults. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "rimeglass/report.h"
#include "other_board.h"

/* Steps under which what depends on time shows too. */
static const char time_steps[] = "plan: time\nsteps:\n  - wiring\n  - first memory\n"
                                 "  - march: March C-\n  - {hold-ms: 50, refresh: stopped}\n"
                                 "  - {hold-ms: 3000}\n  - {row-accesses: 300}\n";

double diag_now(void)
{
    struct timespec t;

    clock_gettime(CLOCK_MONOTONIC, &t);
    return (double)t.tv_sec + (double)t.tv_nsec / 1e9;
}

/* A simulation of the case's board. */
typedef struct bench_sim {
    rmg_sim_model model;
    rmg_sim sim;
    void *memory;
} bench_sim;

static void start(const diag_case *c, const rmg_sim_fault *faults, uint16_t count, bench_sim *b)
{
    rmg_board_to_sim(c->board->board, &b->model);
    if (c->board->made_up) { /* what the diagnosis does not know */
        b->model.board.undriven = c->board->undriven;
        b->model.board.hold_ns = c->board->hold_ns;
    }
    b->memory = malloc(rmg_sim_bytes(&b->model.board, count));
    if (!b->memory ||
        rmg_sim_start(&b->sim, &b->model.board, faults, count, c->world, b->memory) != RMG_OK) {
        fprintf(stderr, "%s: the simulator refuses fault %d\n", c->board->board->name,
                (int)faults[0].kind);
        exit(2);
    }
}

static void stop(bench_sim *b)
{
    rmg_sim_model_free(&b->model);
    free(b->memory);
}

static void carry_out(const diag_case *c, rmg_target target, rmg_run *run)
{
    rmg_plan plan = {.passes = c->passes, .seed = 1};
    rmg_errors errors = {0};
    rmg_steps steps = {0};
    rmg_error error = {0};

    if (c->time && rmg_steps_parse("bench", time_steps, &steps, &errors) != RMG_OK)
        exit(2);
    plan.steps = c->time ? &steps : NULL;
    plan.march_name = c->longer ? "March SS" : "March C-";
    plan.limited = c->limit != 0;
    plan.limit.last = c->limit;
    plan.march = c->longer ? rmg_march_ss : rmg_march_c_minus;
    if (rmg_run_begin(run, c->board->board, &plan, "bench", &error) != RMG_OK ||
        rmg_run_carry_out(run, &target, NULL) != RMG_OK)
        exit(2);
    rmg_steps_free(&steps);
}

static rmg_target target_of(bench_sim *b)
{
    return (rmg_target){.bus = &rmg_sim_bus, .context = &b->sim, .mask = b->sim.mask};
}

/* The run on the second model. */
static void carry_out_on_other(diag_case *c)
{
    other_board *b = other_board_new(c, c->burst);
    const rmg_target target = {.bus = &other_board_bus,
                               .context = b,
                               .mask = (rmg_word) ~(rmg_word)0 >>
                                       (RMG_WORD_BITS - c->board->board->word_bits)};

    carry_out(c, target, &c->run);
    other_board_free(b);
}

void diag_case_run(diag_case *c, bool diagnose)
{
    bench_sim b;
    uint64_t over;
    double begin;

    start(c, c->faults, c->fault_count, &b);
    over = (c->onset ? c->onset : (uint64_t)c->settles * 100000u) * b.model.board.access_ns;
    if (c->when == WHEN_WARM)
        rmg_sim_warm(&b.sim, 25000, 60000, UINT64_C(100000000));
    else if (c->when == WHEN_AT_FIRST) /* down to 50 degrees after 1/70 of the time */
        rmg_sim_warm(&b.sim, 50500, 15500, over);
    else if (c->when == WHEN_LATER) /* only at the end of this time, and then for good */
        rmg_sim_warm(&b.sim, 15000, 51000, over);
    begin = diag_now();
    if (c->burst)
        carry_out_on_other(c);
    else
        carry_out(c, target_of(&b), &c->run);
    c->own_seconds = diag_now() - begin;
    c->failed = rmg_run_failed(&c->run);
    begin = diag_now();
    rmg_suspects_find(&c->run, NULL, &c->suspects);
    if (diagnose)
        rmg_replay(&c->run, &c->suspects, 0, NULL, NULL);
    rmg_suspects_word(&c->run, &c->suspects);
    c->diagnosis_seconds = diag_now() - begin;
    stop(&b);
}

void diag_case_end(diag_case *c)
{
    rmg_suspects_free(&c->suspects);
    rmg_run_end(&c->run);
}

static bool same_failures(const rmg_run *a, const rmg_run *b)
{
    return rmg_failset_fingerprint(a->failures) == rmg_failset_fingerprint(b->failures);
}

/* What cells came up with is not known to the diagnosis: all three are tried. */
bool diag_member_holds(const diag_case *c, const rmg_replayed *m)
{
    bool holds = false;

    for (unsigned contents = 0; contents < 3 && !holds; contents++) {
        bench_sim b;
        rmg_run run;

        start(c, m->faults, (uint16_t)m->fault_count, &b);
        for (size_t i = 0; contents && i < m->fault_count; i++) {
            rmg_sim_put(&b.sim, m->faults[i].chip, m->faults[i].cell, contents == 1 ? 0 : ~0u);
            rmg_sim_put(&b.sim, m->faults[i].chip, m->faults[i].cell2, contents == 1 ? 0 : ~0u);
        }
        carry_out(c, target_of(&b), &run);
        holds = same_failures(&run, &c->run);
        rmg_run_end(&run);
        stop(&b);
        if (m->faults[0].kind != RMG_FAULT_CELL && m->faults[0].kind < RMG_FAULT_TRANSITION)
            break;
    }
    return holds;
}
