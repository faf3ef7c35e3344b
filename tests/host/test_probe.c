/* Spot checks: typed-in values with known causes; on a target, with what was there put back. */
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/report.h"
#include "suites.h"

#define UP 0x9C40 /* an address of the upper bank, and one more */
#define UQ 0x8001
#define LO 0x1C40 /* one of the lower bank */

/* Values as a technician types them, from a known cause, and what must be said first. */
static const struct {
    const char *cause;
    rmg_pair pairs[6];
    size_t count;
    const char *says[2]; /* the first in the first line; the second anywhere */
    int bit;             /* whose verdict at the first address is looked at; -1: none is wrong */
    rmg_bit_verdict verdict;
} typed[] = {
    {"sound, both ways",
     {{UP, 0, 0}, {UP, 255, 255}},
     2,
     {"Every value", "Every value"},
     -1,
     RMG_BIT_SOUND},
    {"sound, zeros only",
     {{UP, 0, 0}},
     1,
     {"Every value", "never written both ways: D0-D7"},
     -1,
     RMG_BIT_RIGHT},
    {"U19 dead low",
     {{UP, 0, 0}, {UP, 255, 127}},
     2,
     {"U19", "second in the same bank"},
     7,
     RMG_BIT_STUCK_LOW},
    {"U19 dead high",
     {{UP, 0, 128}, {UP, 255, 255}},
     2,
     {"U19", "stuck high"},
     7,
     RMG_BIT_STUCK_HIGH},
    {"U26 low, alternating",
     {{UP, 0x55, 0x54}, {UP, 0xAA, 0xAA}},
     2,
     {"U26", "stuck low"},
     0,
     RMG_BIT_STUCK_LOW},
    {"ones never written",
     {{UP, 0, 1}},
     1,
     {"U26", "never written both ways"},
     0,
     RMG_BIT_WRONG_HIGH},
    {"zeros never written",
     {{UP, 255, 0xEF}},
     1,
     {"U22", "never written both ways"},
     4,
     RMG_BIT_WRONG_LOW},
    {"wrong both ways",
     {{UP, 0, 8}, {UP, 255, 0xF7}},
     2,
     {"U23", "contradict a stuck D3"},
     3,
     RMG_BIT_NOT_STUCK},
    {"right at times",
     {{UP, 255, 255}, {UP, 255, 0xF7}, {UP, 0, 0}},
     3,
     {"U23", "contradict"},
     3,
     RMG_BIT_NOT_STUCK},
    {"right at times, high",
     {{UP, 0, 0}, {UP, 0, 2}, {UP, 255, 255}},
     3,
     {"U25", "contradict"},
     1,
     RMG_BIT_NOT_STUCK},
    {"two chips", {{UP, 0, 0}, {UP, 255, 0x7E}}, 2, {"U26", "U19"}, 7, RMG_BIT_STUCK_LOW},
    {"two chips, two ways",
     {{UP, 0, 1}, {UP, 255, 0x7F}},
     2,
     {"U26", "U19"},
     0,
     RMG_BIT_STUCK_HIGH},
    {"lower bank D0", {{LO, 0, 0}, {LO, 255, 254}}, 2, {"U18", "lower bank"}, 0, RMG_BIT_STUCK_LOW},
    {"lower bank D7",
     {{LO, 0, 128}, {LO, 255, 255}},
     2,
     {"U11", "lower bank"},
     7,
     RMG_BIT_STUCK_HIGH},
    {"the line in both banks",
     {{UP, 0, 0}, {UP, 255, 0xDF}, {LO, 0, 0}, {LO, 255, 0xDF}},
     4,
     {"data line D5.", "the data line itself"},
     5,
     RMG_BIT_STUCK_LOW},
    {"the line in one bank only",
     {{UP, 0, 0}, {UP, 255, 0xDF}, {LO, 0, 0}, {LO, 255, 255}},
     4,
     {"U21", "stuck low"},
     5,
     RMG_BIT_STUCK_LOW},
    {"one cell: right elsewhere in the bank",
     {{UP, 0, 0}, {UP, 255, 0xDF}, {UQ, 0, 0}, {UQ, 255, 255}},
     4,
     {"U21", "a cell, row or column"},
     5,
     RMG_BIT_STUCK_LOW},
    {"a dead bank",
     {{UP, 0, 255}, {UP, 255, 255}, {LO, 0, 0}, {LO, 255, 255}},
     4,
     {"select, strobes and supply of the upper bank", "no single chip"},
     7,
     RMG_BIT_STUCK_HIGH},
    {"an address without a socket",
     {{0x4123, 0, 255}, {0x4123, 255, 255}},
     2,
     {"no socket", "At 0x4123 no socket"},
     3,
     RMG_BIT_STUCK_HIGH},
    {"a single bit's value",
     {{UP, 0x10, 0x00}, {UP, 0xEF, 0xEF}},
     2,
     {"U22", "stuck low"},
     4,
     RMG_BIT_STUCK_LOW},
    {"a bit that drops with its neighbour",
     {{UP, 3, 3}, {UP, 1, 0}, {UP, 2, 0}, {UP, 0, 0}},
     4,
     {"U26", "contradict a stuck D0"},
     1,
     RMG_BIT_NOT_STUCK},
};

static void typed_values(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");

    for (size_t i = 0; i < COUNT(typed); i++) {
        rmg_probe probe;
        char **advice;
        bool said = false;

        CHECK(rmg_probe_judge(&probe, board, typed[i].pairs, typed[i].count) == RMG_OK, "%s",
              typed[i].cause);
        advice = rmg_probe_advice(&probe);
        CHECK(strstr(advice[0], typed[i].says[0]), "%s: %s", typed[i].cause, advice[0]);
        for (size_t a = 0; advice[a]; a++)
            said |= strstr(advice[a], typed[i].says[1]) != NULL;
        rmg_texts_free(advice);
        CHECK(said, "%s: says %s", typed[i].cause, typed[i].says[1]);
        if (typed[i].bit < 0)
            CHECK(!probe.wrong && probe.bits[0].verdict == typed[i].verdict, "%s: none wrong",
                  typed[i].cause);
        else
            CHECK(probe.bits[typed[i].bit].verdict == typed[i].verdict, "%s: %s", typed[i].cause,
                  rmg_bit_verdict_text(probe.bits[typed[i].bit].verdict));
        rmg_probe_end(&probe);
    }
    rmg_board_free(board);
}

static void wrong_values(void)
{
    static const rmg_pair pairs[] = {{UP, 256, 0}, {UP, 0, 256}, {0x10000, 0, 0}};
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");

    for (size_t i = 0; i < COUNT(pairs); i++) {
        rmg_probe probe;

        CHECK(rmg_probe_judge(&probe, board, &pairs[i], 1) == RMG_ERR_ARGUMENT, "pair %zu", i);
        rmg_probe_end(&probe);
    }
    rmg_board_free(board);
}

/* On a target: what is said of some faults, and every word as it was before. */
static void on_a_target(void)
{
    static const struct {
        const char *title;
        rmg_sim_fault fault;
        rmg_bit_verdict d7;
    } rows[] = {
        {"healthy", {.kind = RMG_FAULT_OUTPUT, .chip = 0, .level = 0}, RMG_BIT_SOUND},
        {"output low", {.kind = RMG_FAULT_OUTPUT, .chip = 8, .level = 0}, RMG_BIT_STUCK_LOW},
        {"chip missing", {.kind = RMG_FAULT_MISSING, .chip = 8}, RMG_BIT_FOLLOWS_BUS},
        {"data line high",
         {.kind = RMG_FAULT_DATA_LINE, .line = 7, .level = 1},
         RMG_BIT_STUCK_HIGH},
    };
    static const rmg_addr addresses[] = {0x9C40, 0x8000, 0xBFFF};
    static const rmg_addr outside[] = {0x3C00, 0x4000, 0xC000, 0x5000};
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_sim_board_run bench, same;
        rmg_probe probe;
        rmg_error error = {0};
        bool kept = true;

        bench_start(&bench, board, &rows[i].fault, 1, 4);
        bench_start(&same, board, &rows[i].fault, 1, 4);
        CHECK(rmg_probe_target(&probe, board, &bench.target, addresses, 3, NULL, 0, &error) ==
                      RMG_OK &&
                  probe.pair_count == 3 * 12,
              "%s", rows[i].title);
        for (size_t a = 0; a < 3; a++)
            CHECK(probe.bits[8 * a + 7].verdict == rows[i].d7, "%s: %s", rows[i].title,
                  rmg_bit_verdict_text(probe.bits[8 * a + 7].verdict));
        for (rmg_addr a = 0x8000; a <= 0xBFFF && i != 2; a++)
            kept &= rmg_sim_read(&bench.sim, a) == rmg_sim_read(&same.sim, a);
        CHECK(kept, "%s: every word as it was", rows[i].title);
        rmg_probe_end(&probe);
        for (size_t a = 0; a < COUNT(outside); a++) {
            const uint64_t writes = bench.sim.writes;

            CHECK(rmg_probe_target(&probe, board, &bench.target, &outside[a], 1, NULL, 0, &error) ==
                          RMG_ERR_RANGE &&
                      error.what && strstr(error.what, "expected an address in RAM") &&
                      bench.sim.writes == writes,
                  "%lx is not touched", (unsigned long)outside[a]);
            rmg_error_free(&error);
            rmg_probe_end(&probe);
        }
        rmg_sim_board_end(&bench);
        rmg_sim_board_end(&same);
    }
    rmg_board_free(board);
}

CU_TestInfo probe_tests[] = {
    {"typed-in values with known causes", typed_values},
    {"values that do not fit", wrong_values},
    {"on a target", on_a_target},
    CU_TEST_INFO_NULL,
};
