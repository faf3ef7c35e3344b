/* Runs: which addresses are touched, what is left out, counts, ends before the end. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "suites.h"
#include "temporary.h"

/* A port around the simulation that notes which addresses were touched and may fail. */
typedef struct guard {
    rmg_sim *sim;
    unsigned char touched[1 << 18];
    unsigned long accesses, fail_at;
    rmg_status fail_with;
} guard;

static rmg_status guard_next(guard *g, rmg_addr address)
{
    g->touched[address & (sizeof g->touched - 1)] = 1;
    return ++g->accesses == g->fail_at ? g->fail_with : RMG_OK;
}

static rmg_status guard_read(void *context, rmg_addr address, rmg_word *value)
{
    guard *g = context;
    const rmg_status status = guard_next(g, address);

    return status == RMG_OK ? rmg_sim_bus.read(g->sim, address, value) : status;
}

static rmg_status guard_write(void *context, rmg_addr address, rmg_word value)
{
    guard *g = context;
    const rmg_status status = guard_next(g, address);

    return status == RMG_OK ? rmg_sim_bus.write(g->sim, address, value) : status;
}

static const rmg_bus guard_bus = {
    .version = RMG_BUS_VERSION, .read = guard_read, .write = guard_write};

static bool is_tested(const rmg_run *run, rmg_addr address)
{
    for (size_t i = 0; i < run->tested_count; i++)
        if (address >= run->tested[i].first && address <= run->tested[i].last)
            return true;
    return false;
}

/* Every address of the board is either tested, and then touched, or left out with a reason, and
 * then not touched; on both boards, whole and within limits. */
static void nothing_else_is_touched(void)
{
    static const struct {
        const char *board;
        bool limited;
        rmg_range limit;
        uint64_t words;
    } rows[] = {
        {"demo/boards/halvorn64.yaml", false, {0, 0}, 0x3C00 + 0x4000},
        {"demo/boards/halvorn64.yaml", true, {0x3000, 0x80FF}, 0xC00 + 0x100},
        {"demo/boards/halvorn64.yaml", true, {0x8001, 0x8001}, 1},
        {"demo/boards/ostrel16.yaml", false, {0, 0}, 0x8000},
        {"demo/boards/ostrel16.yaml", true, {0, 0x20001}, 2},
    };
    static guard g;

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_board *board = bench_load(rows[i].board);
        rmg_plan plan = bench_plan(true, 1);
        const rmg_target target = {&guard_bus, &g, board->word_bits == 8 ? 0xFF : 0xFFFF};
        rmg_sim_board_run bench;
        rmg_run run;
        rmg_error error = {0};
        bool right = true;

        plan.limited = rows[i].limited;
        plan.limit = rows[i].limit;
        bench_start(&bench, board, NULL, 0, 1);
        memset(&g, 0, sizeof g);
        g.sim = &bench.sim;
        CHECK(rmg_run_begin(&run, board, &plan, "guard", &error) == RMG_OK, "row %zu", i);
        CHECK(rmg_run_carry_out(&run, &target, NULL) == RMG_OK && run.complete, "row %zu", i);
        CHECK(run.tested_words == rows[i].words, "row %zu: %lu words", i,
              (unsigned long)run.tested_words);
        CHECK(run.reads + run.writes == g.accesses, "row %zu: accesses are all counted", i);
        for (rmg_addr a = 0; a >> board->address_bits == 0; a++) {
            unsigned told = is_tested(&run, a);

            right &= told == g.touched[a];
            for (size_t l = 0; l < run.left_out_count; l++)
                told += a >= run.left_out[l].range.first && a <= run.left_out[l].range.last &&
                        *run.left_out[l].reason;
            right &= told == 1;
        }
        CHECK(right, "row %zu: each address tested and touched, or left out with a reason", i);
        CHECK(!rmg_run_failed(&run), "row %zu: healthy", i);
        rmg_run_end(&run);
        rmg_sim_board_end(&bench);
        rmg_board_free(board);
    }
}

static void accesses_follow_the_plan(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_plan plan = bench_plan(false, 3);
    rmg_sim_board_run bench;
    rmg_run run;
    rmg_error error = {0};
    uint64_t wiring = 0;

    bench_start(&bench, board, NULL, 0, 1);
    CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK, "begins");
    CHECK(rmg_run_carry_out(&run, &bench.target, NULL) == RMG_OK, "runs");
    wiring = run.wiring_accesses;
    CHECK(wiring > 0 && wiring <= 100u * 14u * 2u, "wiring: %lu accesses", (unsigned long)wiring);
    CHECK(run.reads + run.writes == wiring + 10 * (3 * run.tested_words + 0x400),
          "wiring + 10N a pass + 10N of the first memory");
    CHECK(run.wired[0] && run.wired[1] && !run.wired[2], "wiring of RAM, not of ROM");
    CHECK(run.pass_count == 3 && run.stretches[0].background == 0 &&
              run.stretches[1].background != run.stretches[2].background,
          "other data in each pass");
    CHECK(bench.sim.now_ns == (run.reads + run.writes) * board->access_ns, "the board's own time");
    rmg_run_end(&run);
    rmg_sim_board_end(&bench);
    rmg_board_free(board);
}

typedef struct stopper {
    unsigned calls, stop_at;
    double share;
    bool rising;
} stopper;

static bool on_progress(void *context, const rmg_run_progress *p)
{
    stopper *s = context;

    s->rising &= p->share >= s->share && p->pass >= 1 && p->pass <= p->passes && *p->step;
    s->share = p->share;
    return ++s->calls != s->stop_at;
}

/* Stopped or cut off anywhere, a run says so and keeps what it found. */
static void early_ends(void)
{
    const rmg_sim_fault bad = {.kind = RMG_FAULT_OUTPUT, .chip = 0, .data_line = 0, .level = 0};
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_plan plan = bench_plan(true, 2);
    static guard g;
    const rmg_target target = {&guard_bus, &g, 0xFF};

    for (unsigned i = 0; i < 8; i++) {
        stopper s = {0, i < 4 ? 1 + i * 150 : 0, 0, true};
        const rmg_watch watch = {.context = &s, .progress = on_progress};
        rmg_sim_board_run bench;
        rmg_run run;
        rmg_error error = {0};
        rmg_status wanted = RMG_ERR_CANCELLED;

        bench_start(&bench, board, &bad, 1, 1);
        memset(&g, 0, sizeof g);
        g.sim = &bench.sim;
        if (i >= 4) {
            g.fail_at = 1 + (i - 4) * 60000ul;
            g.fail_with = wanted = i & 1 ? RMG_ERR_PORT : RMG_ERR_PORT_LOST;
        }
        CHECK(rmg_run_begin(&run, board, &plan, "guard", &error) == RMG_OK, "begins");
        CHECK(rmg_run_carry_out(&run, &target, &watch) == wanted && run.status == wanted &&
                  !run.complete,
              "end %u: %s", i, rmg_status_text(run.status));
        CHECK(s.rising, "end %u: progress rises", i);
        CHECK((i == 0 || i == 4) == !rmg_run_failed(&run), "end %u: what was found is kept", i);
        rmg_run_end(&run);
        rmg_sim_board_end(&bench);
    }
    rmg_board_free(board);
}

static void wrong_plans(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    static const struct {
        rmg_range limit;
        uint32_t passes;
        rmg_status status;
        const char *says;
    } rows[] = {
        {{0x8000, 0x10000}, 1, RMG_ERR_RANGE, "last address is 0xFFFF"},
        {{0x4000, 0x7FFF}, 1, RMG_ERR_RANGE, "0x4000-0x7FFF holds no RAM"},
        {{0xC000, 0xC001}, 1, RMG_ERR_RANGE, "holds no RAM"},
        {{0x0000, 0x0001}, 0, RMG_ERR_ARGUMENT, "from 1 to 1000000"},
        {{0x0000, 0x0001}, 1000001, RMG_ERR_ARGUMENT, "from 1 to 1000000"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_plan plan = bench_plan(true, rows[i].passes);
        rmg_run run;
        rmg_error error = {0};
        rmg_status status;

        plan.limited = true;
        plan.limit = rows[i].limit;
        status = rmg_run_begin(&run, board, &plan, "sim", &error);
        CHECK(status == rows[i].status && error.what && strstr(error.what, rows[i].says),
              "row %zu: %s", i, error.what ? error.what : "");
        rmg_error_free(&error);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

/* A run that keeps contents leaves every word as it was, also when it is stopped anywhere; and it
 * finds a bad chip all the same. */
static void contents_kept(void)
{
    const rmg_sim_fault bad = {.kind = RMG_FAULT_OUTPUT, .chip = 9, .data_line = 0, .level = 1};
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_plan plan = bench_plan(true, 2);
    static rmg_word before[0x10000];

    plan.keep = true;
    for (unsigned stop = 0; stop < 1000; stop = stop * 5 + 1) {
        stopper s = {0, stop, 0, true};
        const rmg_watch watch = {.context = &s, .progress = on_progress};
        rmg_sim_board_run bench;
        rmg_run run;
        rmg_error error = {0};
        bool same = true;

        bench_start(&bench, board, &bad, 1, 3);
        for (rmg_addr a = 0; a < 0x10000; a++)
            before[a] = rmg_sim_read(&bench.sim, a);
        CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK, "begins");
        rmg_run_carry_out(&run, &bench.target, &watch);
        CHECK(run.complete == (stop == 0 || s.calls < stop), "stop %u", stop);
        CHECK(stop || (rmg_run_failed(&run) && run.pass_count == 2), "finds the fault");
        for (rmg_addr a = 0; a < 0x10000; a++)
            same &= a < 0x4000 || a >= 0x8000 ? rmg_sim_read(&bench.sim, a) == before[a] : true;
        CHECK(same, "stopped at call %u: every word as it was", stop);
        rmg_run_end(&run);
        rmg_sim_board_end(&bench);
    }
    rmg_board_free(board);
}

static const char paged_text[] =
    "board: pages\nword: 8\naddress-lines: 14\nundriven: high\n"
    "pages: {window: 0x1000-0x1FFF, select: 0x3000, count: 4}\n"
    "regions:\n"
    "  - {name: fixed, range: 0x0000-0x0FFF, kind: ram}\n"
    "  - {name: page 0, range: 0x1000-0x1FFF, kind: ram}\n"
    "  - {name: select, range: 0x3000-0x3000, kind: reserved}\n"
    "  - {name: page 1, range: 0x5000-0x5FFF, kind: ram}\n"
    "  - {name: page 2, range: 0x9000-0x9FFF, kind: ram}\n"
    "  - {name: page 3, range: 0xD000-0xDFFF, kind: ram}\n"
    "banks:\n"
    "  - {name: low, range: 0x0000-0x1FFF, part: 6264, lines: A0-A12, data: {M1: D0-D7}}\n"
    "  - {name: one, range: 0x5000-0x5FFF, part: 6264, lines: [A0-A11, low], data: {M2: D0-D7}}\n"
    "  - {name: two, range: 0x9000-0x9FFF, part: 6264, lines: [A0-A11, high], data: {M2: D0-D7}}\n"
    "  - {name: three, range: 0xD000-0xDFFF, part: 6264, lines: [A0-A11, low], data: {M3: D0-D7}}\n"
    "sockets: [{names: M1-M3, mount: socket}]\n";

/* Memory behind a select write: every page is tested, and a cell of one page is put to its chip. */
static void paged_memory(void)
{
    const rmg_sim_fault bad = {
        .kind = RMG_FAULT_CELL, .chip = 1, .data_line = 5, .cell = 0x1234, .level = 1};
    rmg_errors found = {0};
    rmg_plan plan = bench_plan(false, 1);
    rmg_sim_board_run bench;
    rmg_board *board;
    rmg_run run;
    rmg_error error = {0};

    CHECK(rmg_board_load(temporary_file("paged.yaml", paged_text), &board, &found) == RMG_OK, "%s",
          found.count ? found.list[0].what : "");
    if (!board)
        return;
    bench_start(&bench, board, &bad, 1, 1);
    CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK, "begins");
    CHECK(run.tested_words == 0x1000 * 5, "all pages");
    CHECK(rmg_run_carry_out(&run, &bench.target, NULL) == RMG_OK, "runs");
    CHECK(rmg_failset_words(run.failures, NULL, 0xFF) == 1 && run.tally.first[0].address == 0x9234,
          "one cell of page 2: %lx", (unsigned long)run.tally.first[0].address);
    rmg_run_end(&run);
    rmg_sim_board_end(&bench);
    rmg_board_free(board);
}

/* Values worked out by hand from 1 - 0.05^(1/N). */
static void excluded_shares(void)
{
    static const struct {
        size_t passes;
        double share;
    } rows[] = {{0, 1.0}, {1, 0.95}, {4, 0.527}, {10, 0.259}, {59, 0.0495}};

    for (size_t i = 0; i < COUNT(rows); i++)
        CHECK(fabs(rmg_excluded_share(rows[i].passes) - rows[i].share) < 0.001, "%zu passes",
              rows[i].passes);
    for (uint64_t n = 1; n < 2000; n++) {
        const double share = rmg_excluded_share(n);

        CHECK(rmg_passes_to_exclude(share * 1.0000001) == n &&
                  rmg_passes_to_exclude(share * 0.9999) == n + 1,
              "%lu passes and back", (unsigned long)n);
    }
    /* of known rates it must be cautious: one failing pass in two is not a rate of a half */
    CHECK(fabs(rmg_clean_chance(0, 0, 1) - 0.5) < 1e-9 &&
              fabs(rmg_clean_chance(1, 2, 1) - 0.5) < 1e-9 &&
              fabs(rmg_clean_chance(1, 2, 2) - 0.5 * 2.5 / 4) < 1e-9,
          "by hand");
    for (uint64_t trials = 1; trials < 200; trials += 7)
        for (uint64_t events = 1; events <= trials; events++) {
            const uint64_t n = rmg_passes_to_tell(events, trials);

            CHECK(rmg_clean_chance(events, trials, n) <= 0.05 &&
                      (n == 1 || rmg_clean_chance(events, trials, n - 1) > 0.05) &&
                      n + 1 >= rmg_passes_to_exclude(((double)events - 1e-9) / (double)trials),
                  "%lu of %lu: %lu passes", (unsigned long)events, (unsigned long)trials,
                  (unsigned long)n);
        }
    CHECK(rmg_passes_to_exclude(0.01) == 299 && rmg_passes_to_exclude(0.05) == 59, "by hand");
}

CU_TestInfo run_tests[] = {
    {"nothing else is touched", nothing_else_is_touched},
    {"accesses follow the plan", accesses_follow_the_plan},
    {"early ends", early_ends},
    {"contents kept", contents_kept},
    {"paged memory", paged_memory},
    {"wrong plans", wrong_plans},
    {"what clean passes exclude", excluded_shares},
    CU_TEST_INFO_NULL,
};
