/* A fault that begins while a run goes on, and is there for good then: it is located as if it had
 * been there from the start, with the lines checked again; and what comes and goes is not taken
 * for one. */
#include <glib.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/replay.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

#define HALVORN "demo/boards/halvorn64.yaml"
#define BEGINS  40000 /* thousandths of a degree */
#define PASSES  14u

/* Sockets of the Halvorn by number: U11 (D7 of the lower bank) is 0, U19 (of the upper) 8. */
static const struct {
    const char *title, *site;
    rmg_sim_fault fault;
    bool lower, upper; /* whose chips it acts for */
} rows[] = {
    {"output stuck", "U19", {.kind = RMG_FAULT_OUTPUT, .chip = 8}, false, false},
    {"data pin open", "U19", {.kind = RMG_FAULT_DATA_OPEN, .chip = 8, .line = 7}, false, false},
    {"chip missing", "U19", {.kind = RMG_FAULT_MISSING, .chip = 8}, false, false},
    {"never written", "U19", {.kind = RMG_FAULT_NO_WRITE, .chip = 8}, false, false},
    {"always on", "U19", {.kind = RMG_FAULT_ALWAYS_ON, .chip = 8}, false, false},
    {"one cell", "U19", {.kind = RMG_FAULT_CELL, .chip = 8, .cell = 300, .level = 1}, false, false},
    {"a row", "U19", {.kind = RMG_FAULT_ROW, .chip = 8, .cell = 5, .level = 1}, false, false},
    {"address pin", "U19", {.kind = RMG_FAULT_ADDRESS_CHIP, .chip = 8, .lines = 8}, false, false},
    {"data line", "data line D7", {.kind = RMG_FAULT_DATA_LINE, .line = 7, .level = 1}, true, true},
    {"address line",
     "address line A3 of the upper bank",
     {.kind = RMG_FAULT_ADDRESS_BANK, .chip = 8, .bank = 1, .lines = 8},
     false,
     true},
    {"never selected",
     "select, strobes or supply of the upper bank",
     {.kind = RMG_FAULT_DESELECTED, .chip = 8, .bank = 1},
     false,
     true},
};

/* So many passes of a board that warms up from 25 degrees on, by a degree in `per_degree_us`. */
static void examine(const rmg_board *board, const rmg_sim_fault *fault, uint32_t passes,
                    uint64_t per_degree_us, rmg_run *run)
{
    const rmg_plan plan = bench_plan(false, passes);
    rmg_sim_board_run bench;
    rmg_error error = {0};

    bench_start(&bench, board, fault, 1, 7);
    rmg_sim_warm(&bench.sim, 25000, 125000, per_degree_us * 100u * 1000u);
    CHECK(rmg_run_begin(run, board, &plan, "sim", &error) == RMG_OK, "begins");
    CHECK(rmg_run_carry_out(run, &bench.target, NULL) == RMG_OK, "runs");
    rmg_sim_board_end(&bench);
}

static void find(const rmg_run *run, rmg_suspects *suspects)
{
    rmg_suspects_find(run, NULL, suspects);
    rmg_replay(run, suspects, 0, NULL, NULL);
    rmg_suspects_word(run, suspects);
}

/* The run once more, from its file. */
static void same_from_file(const rmg_run *run, const rmg_suspects *suspects, const char *title)
{
    const char *file = temporary_path("since.run");
    rmg_run_writer *writer = rmg_run_writer_new(file);
    rmg_run_file kept;
    rmg_suspects again;
    rmg_error error;

    CHECK(rmg_run_writer_close(writer, run, NULL, 0, &error) == RMG_OK, "%s", error.what);
    rmg_error_free(&error);
    rmg_run_writer_free(writer);
    CHECK(rmg_run_file_read(file, false, &kept, &error) == RMG_OK, "%s", error.what);
    rmg_error_free(&error);
    CHECK(rmg_run_began(&kept.run) == rmg_run_began(run), "%s: began", title);
    find(&kept.run, &again);
    CHECK(again.count == suspects->count, "%s: as many suspects", title);
    for (size_t i = 0; i < again.count && i < suspects->count; i++)
        CHECK(strcmp(again.list[i].headline, suspects->list[i].headline) == 0 &&
                  fabs(again.list[i].confidence - suspects->list[i].confidence) < 1e-9,
              "%s: %s", title, again.list[i].headline);
    rmg_suspects_free(&again);
    rmg_run_file_free(&kept);
}

static bool is_said(const rmg_suspect *s, rmg_said said)
{
    for (size_t i = 0; i < s->reason_count; i++)
        if (s->reasons[i].said == said)
            return true;
    return false;
}

static void begins_during_the_run(void)
{
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_sim_fault fault = rows[i].fault;
        rmg_suspects suspects;
        rmg_run run, since;

        fault.when = (rmg_sim_when){.warm = true, .from_millic = BEGINS};
        for (uint16_t s = 0; s < 16; s++)
            if (s < 8 ? rows[i].lower : rows[i].upper)
                rmg_fault_include(&fault, s);
        if (!rows[i].upper)
            rmg_fault_include(&fault, fault.chip);
        examine(board, &fault, PASSES, 40000, &run);
        CHECK(rmg_run_began(&run) > 2 && rmg_run_began(&run) < 7, "%s: began in pass %u",
              rows[i].title, (unsigned)rmg_run_began(&run));
        if (rmg_run_since(&run, &since)) {
            rmg_count reads = 0;

            for (size_t n = 0; n < since.stretch_count; n++)
                reads += since.stretches[n].failing_reads;
            CHECK(reads && since.tally.failing == reads, "%s: reads of the passes since",
                  rows[i].title);
            CHECK(since.pass_count + rmg_run_began(&run) + 2u == PASSES &&
                      rmg_run_repeats(&since) && !rmg_run_repeats(&run),
                  "%s: %u passes since", rows[i].title, (unsigned)since.pass_count);
            rmg_run_since_end(&since);
        } else {
            CHECK(false, "%s: no passes of their own", rows[i].title);
        }
        find(&run, &suspects);
        CHECK(suspects.count && strcmp(suspects.list[0].site, rows[i].site) == 0 &&
                  suspects.list[0].confidence > 0.95 && is_said(&suspects.list[0], RMG_SAY_BEGAN) &&
                  suspects.list[0].replay_count && suspects.list[0].replays[0].same,
              "%s: %s, %.2f", rows[i].title, suspects.count ? suspects.list[0].site : "nobody",
              suspects.count ? suspects.list[0].confidence : 0);
        same_from_file(&run, &suspects, rows[i].title);
        rmg_suspects_free(&suspects);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

/* It begins in the first pass already, whenever that is: little or much of it failed yet. */
static void begins_in_the_first(void)
{
    static const size_t lines[] = {8, 9, 10}; /* of the rows */
    const uint64_t step = getenv("RMG_TEST_ALL") ? 1500 : 3000;
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(lines); i++)
        for (uint64_t us = 1000 + 500 * i; us < 9000; us += step) {
            rmg_sim_fault fault = rows[lines[i]].fault;
            rmg_suspects suspects;
            rmg_run run;

            fault.when = (rmg_sim_when){.warm = true, .from_millic = BEGINS};
            for (uint16_t s = 0; s < 16; s++)
                if (s < 8 ? rows[lines[i]].lower : rows[lines[i]].upper)
                    rmg_fault_include(&fault, s);
            examine(board, &fault, 8, us, &run);
            find(&run, &suspects);
            CHECK(rmg_run_began(&run) == 1, "%s, %u us: in pass %u", rows[lines[i]].title,
                  (unsigned)us, (unsigned)rmg_run_began(&run));
            CHECK(suspects.count && strcmp(suspects.list[0].site, rows[lines[i]].site) == 0 &&
                      suspects.list[0].confidence > 0.95 &&
                      is_said(&suspects.list[0], RMG_SAY_BEGAN_FIRST),
                  "%s, %u us: %s, %.2f", rows[lines[i]].title, (unsigned)us,
                  suspects.count ? suspects.list[0].site : "nobody",
                  suspects.count ? suspects.list[0].confidence : 0);
            same_from_file(&run, &suspects, rows[lines[i]].title);
            rmg_suspects_free(&suspects);
            rmg_run_end(&run);
        }
    rmg_board_free(board);
}

/* What is gone again, what fails otherwise each time, and what is there from the start. */
static void is_no_such_fault(void)
{
    static const struct {
        const char *title;
        uint32_t rate_ppb;
        uint64_t per_degree_us;
        int32_t from_millic;
        uint32_t passes;
    } cases[] = {{"from the start", 0, 40000, 0, 8},
                 {"never", 0, 40000000, BEGINS, 8},
                 {"at times, from then on", 200000, 40000, BEGINS, PASSES},
                 {"at times", 3000, 40000, 0, PASSES},
                 {"too late to tell", 0, 40000, BEGINS, 6}};
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(cases); i++) {
        rmg_sim_fault fault = {.kind = RMG_FAULT_OUTPUT,
                               .chip = 8,
                               .when = {.rate_ppb = cases[i].rate_ppb,
                                        .warm = cases[i].from_millic != 0,
                                        .from_millic = cases[i].from_millic}};
        rmg_suspects suspects;
        rmg_run run, since;

        rmg_fault_include(&fault, 8);
        examine(board, &fault, cases[i].passes, cases[i].per_degree_us, &run);
        CHECK(!rmg_run_since(&run, &since), "%s: %u passes", cases[i].title,
              (unsigned)run.pass_count);
        find(&run, &suspects);
        for (size_t n = 0; n < suspects.count; n++)
            CHECK(!is_said(&suspects.list[n], RMG_SAY_BEGAN), "%s", cases[i].title);
        rmg_suspects_free(&suspects);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

/* A run that is stopped before it is known, and resumed from its file, knows it at the end. */
static void resumed_in_between(void)
{
    rmg_board *board = bench_load(HALVORN);
    rmg_sim_fault fault = {
        .kind = RMG_FAULT_OUTPUT, .chip = 8, .when = {.warm = true, .from_millic = BEGINS}};

    rmg_fault_include(&fault, 8);
    for (uint32_t stopped = 2; stopped < 10; stopped += 2) {
        const char *file = temporary_path("resumed.run");
        rmg_run_writer *writer = rmg_run_writer_new(file);
        const rmg_plan plan = bench_plan(false, stopped);
        rmg_sim_board_run bench;
        rmg_run_file kept;
        rmg_error error;
        rmg_run run, since;

        bench_start(&bench, board, &fault, 1, 7);
        rmg_sim_warm(&bench.sim, 25000, 125000, UINT64_C(4000000000));
        CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK, "begins");
        CHECK(rmg_run_carry_out(&run, &bench.target, NULL) == RMG_OK, "runs");
        CHECK(rmg_run_writer_close(writer, &run, NULL, 0, &error) == RMG_OK, "%s", error.what);
        rmg_error_free(&error);
        rmg_run_writer_free(writer);
        rmg_run_end(&run);
        CHECK(rmg_run_file_read(file, true, &kept, &error) == RMG_OK, "%s", error.what);
        rmg_error_free(&error);
        kept.run.plan.passes = PASSES;
        CHECK(rmg_run_carry_out(&kept.run, &bench.target, NULL) == RMG_OK, "goes on");
        if (rmg_run_since(&kept.run, &since)) {
            CHECK(since.pass_count + rmg_run_began(&kept.run) + 2u == PASSES, "%u since",
                  (unsigned)since.pass_count);
            rmg_run_since_end(&since);
        } else {
            CHECK(false, "stopped after %u passes", stopped);
        }
        rmg_run_file_free(&kept);
        rmg_sim_board_end(&bench);
    }
    rmg_board_free(board);
}

/* It fails in one pass, not in the next, and then in all that follow: that comes and goes. */
static void gone_again(void)
{
    static const struct {
        uint32_t passes; /* in all, at the end of this stretch */
        bool fails;
    } stretches[] = {{2, false}, {3, true}, {4, false}, {12, true}};
    rmg_board *board = bench_load(HALVORN);
    rmg_sim_fault fault = {.kind = RMG_FAULT_OUTPUT, .chip = 8};
    const rmg_plan plan = bench_plan(false, 2);
    rmg_error error = {0};
    rmg_run run, since;

    rmg_fault_include(&fault, 8);
    CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK, "begins");
    for (size_t i = 0; i < COUNT(stretches); i++) {
        rmg_sim_board_run bench;

        bench_start(&bench, board, &fault, stretches[i].fails, 7);
        run.plan.passes = stretches[i].passes;
        CHECK(rmg_run_carry_out(&run, &bench.target, NULL) == RMG_OK, "goes on");
        rmg_sim_board_end(&bench);
    }
    CHECK(run.pass_count == 12 && rmg_rate_of_passes(&run).events == 9, "nine passes fail");
    CHECK(!rmg_run_began(&run), "it was gone again");
    if (rmg_run_since(&run, &since)) {
        CHECK(false, "no passes of their own");
        rmg_run_since_end(&since);
    }
    rmg_run_end(&run);
    rmg_board_free(board);
}

CU_TestInfo since_tests[] = {
    {"gone again", gone_again},
    {"begins during the run", begins_during_the_run},
    {"begins in the first pass", begins_in_the_first},
    {"is no such fault", is_no_such_fault},
    {"resumed in between", resumed_in_between},
    CU_TEST_INFO_NULL,
};
