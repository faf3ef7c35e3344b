/* What fails now and then: places that all of it fits, and chance. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/fault.h"
#include "rimeglass/replay.h"
#include "suites.h"
#include "temporary.h"

/* Noise while the lines are checked, and clean passes after it: no chip. Half of all reads are
 * disturbed until the board has cooled down, after so many accesses. */
static void noise_at_the_start(void)
{
    static const rmg_sim_fault noise = {
        .kind = RMG_FAULT_NOISE,
        .line = RMG_ALL_DATA_LINES,
        .when = {.rate_ppb = 500000000, .warm = true, .from_millic = 50000}};
    rmg_errors errors = {0};
    const rmg_plan plan = bench_plan(false, 2);
    rmg_board *board = NULL;
    unsigned noisy = 0;

    CHECK(rmg_board_load_text("made", made_bits, &board, &errors) == RMG_OK, "loads");
    for (uint64_t seed = 0; seed < 60; seed++) {
        rmg_sim_board_run bench;
        rmg_suspects s;
        rmg_error error = {0};
        rmg_run run;

        bench_start(&bench, board, &noise, 1, seed);
        rmg_sim_warm(&bench.sim, 51000, 0, 51000 * seed * 200);
        CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK &&
                  rmg_run_carry_out(&run, &bench.target, NULL) == RMG_OK,
              "runs");
        noisy += run.wiring_accesses > 200;
        rmg_suspects_find(&run, NULL, &s);
        for (size_t i = 0; i < s.count; i++)
            CHECK(s.list[i].finding.socket == RMG_NO_SOCKET || s.list[i].confidence <= 0.5,
                  "seed %u: socket %u at %g", (unsigned)seed, s.list[i].finding.socket,
                  s.list[i].confidence);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_sim_board_end(&bench);
    }
    CHECK(noisy > 0, "some checks were disturbed");
    rmg_board_free(board);
}

/* Of one pass nothing says whether what failed repeats: a read here and there names no chip, a row
 * of cells does. */
static void one_pass(void)
{
    const rmg_plan plan = bench_plan(true, 1);
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const uint16_t u24 = rmg_board_socket(board, "U24");
    const rmg_sim_fault row = {
        .kind = RMG_FAULT_ROW, .chip = u24, .cell = 5, .level = 1, .data_line = 0};
    unsigned failed = 0, even = 0, either = 0;
    rmg_suspects s;
    rmg_run run;

    for (uint64_t seed = 0; seed < 60; seed++) {
        const rmg_sim_fault noise = {
            .kind = RMG_FAULT_NOISE, .line = RMG_ALL_DATA_LINES, .when = {.rate_ppb = 15000}};

        bench_examine(board, &noise, 1, &plan, seed, &run, &s);
        rmg_replay(&run, &s, 0, NULL, NULL);
        failed += s.count > 0;
        for (size_t i = 0; i < s.count; i++) {
            CHECK(s.list[i].finding.socket == RMG_NO_SOCKET || s.list[i].confidence <= 0.5,
                  "seed %u: %s at %g", (unsigned)seed, s.list[i].site, s.list[i].confidence);
            even += s.list[i].finding.kind == RMG_FINDING_SPREAD;
        }
        /* one read: the chip or chance, and there is room for what they share */
        if (s.count == 2 && s.list[0].finding.kind == RMG_FINDING_CELLS && run.tally.failing == 1) {
            CHECK(s.list[0].confidence == 0.45 && s.list[1].confidence == 0.45,
                  "seed %u: %g and %g", (unsigned)seed, s.list[0].confidence, s.list[1].confidence);
            either++;
        }
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    CHECK(failed > 20 && even > failed / 2u && either > 5,
          "%u failed, chance named in %u, one read in %u", failed, even, either);
    bench_examine(board, &row, 1, &plan, 1, &run, &s);
    rmg_replay(&run, &s, 0, NULL, NULL);
    CHECK(s.count == 1 && s.list[0].finding.socket == u24 && s.list[0].confidence > 0.9,
          "a row: %zu suspects, the first at %g", s.count, s.count ? s.list[0].confidence : 0);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
}

/* One read that failed in one of two passes, which no simulated fault gives just so: the chip and
 * chance are alike, chance is said first, and there is room for what they share. */
static void one_read_of_two_passes(void)
{
    const rmg_plan plan = bench_plan(true, 2);
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    unsigned alike = 0;

    for (uint64_t seed = 0; seed < 100; seed++) {
        const rmg_sim_fault noise = {
            .kind = RMG_FAULT_NOISE, .line = RMG_ALL_DATA_LINES, .when = {.rate_ppb = 1500}};
        rmg_suspects s;
        rmg_run run;

        bench_examine(board, &noise, 1, &plan, seed, &run, &s);
        rmg_replay(&run, &s, 0, NULL, NULL);
        if (run.tally.failing == 1 && s.count == 2 &&
            s.list[0].finding.kind == RMG_FINDING_SPREAD) {
            const double chance = s.list[0].confidence, chip = s.list[1].confidence;

            CHECK(chip > 0.35 && chip <= chance && chance < 0.5 && chip + chance < 0.95,
                  "seed %u: chance %g, the chip %g", (unsigned)seed, chance, chip);
            alike++;
        }
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    CHECK(alike > 3, "%u runs in which one read failed", alike);
    rmg_board_free(board);
}

/* What fails now and then: the place that all of it fits, be it shared, and none where chance may
 * do the same. Confidences of places that exclude each other do not add up to more than 1. */
static void now_and_then(void)
{
    static const struct {
        const char *title, *board;
        rmg_sim_fault fault;
        uint32_t rate_ppb;
        rmg_finding_kind kind;
        const char *sockets;
        double least;
    } rows[] = {
        {"a data line of four banks",
         made_wide,
         {.kind = RMG_FAULT_LINE_STUCK, .line = 6, .level = 1, .scope = {0xF}},
         1000000,
         RMG_FINDING_NOW_AND_THEN,
         "U1 U2 U3 U4",
         0.9},
        {"a data line open before two of four banks",
         made_wide,
         {.kind = RMG_FAULT_LINE_OPEN, .line = 2, .scope = {0xA}},
         3000000,
         RMG_FINDING_NOW_AND_THEN,
         "U2 U4",
         0.9},
        {"the same bit of one chip",
         made_wide,
         {.kind = RMG_FAULT_OUTPUT, .chip = 1, .data_line = 6, .level = 1},
         1000000,
         RMG_FINDING_CELLS,
         "U2",
         0.9},
        {"the select of a bank of two chips",
         made_lanes,
         {.kind = RMG_FAULT_DESELECTED, .scope = {0xC}},
         2000000,
         RMG_FINDING_NOW_AND_THEN,
         "U3 U4",
         0.9},
        {"an address line of a bank",
         made_lanes,
         {.kind = RMG_FAULT_ADDRESS_STUCK, .lines = 1u << 5, .level = 1, .scope = {0x3}},
         2000000,
         RMG_FINDING_NOW_AND_THEN,
         "U1 U2",
         0.9},
        {"the select of one chip",
         made_lanes,
         {.kind = RMG_FAULT_DESELECTED, .scope = {0x4}},
         2000000,
         RMG_FINDING_CELLS,
         "U3",
         0.9},
        {"what leads to the only chip of a bank counts with the chip, seen a few times",
         made_wide,
         {.kind = RMG_FAULT_DESELECTED, .scope = {0x2}},
         15000,
         RMG_FINDING_CELLS,
         "U2",
         0.96},
        {"noise",
         made_wide,
         {.kind = RMG_FAULT_NOISE, .line = RMG_ALL_DATA_LINES},
         100000,
         RMG_FINDING_SPREAD,
         "U1 U2 U3 U4",
         0.9},
        {"little noise",
         made_wide,
         {.kind = RMG_FAULT_NOISE, .line = RMG_ALL_DATA_LINES},
         12000,
         RMG_FINDING_SPREAD,
         "U1 U2 U3 U4",
         0},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_sim_fault fault = rows[i].fault;
        rmg_errors errors = {0};
        const rmg_plan plan = bench_plan(false, 8);
        rmg_board *board = NULL;
        rmg_suspects s;
        gchar *sockets;
        double sum = 0;
        rmg_run run;

        fault.when.rate_ppb = rows[i].rate_ppb;
        CHECK(rmg_board_load_text("made", rows[i].board, &board, &errors) == RMG_OK, "loads");
        bench_examine(board, &fault, 1, &plan, 3, &run, &s);
        CHECK(s.count > 0, "%s: nobody", rows[i].title);
        for (size_t n = 0; n < s.count; n++)
            sum += s.list[n].confidence;
        CHECK(sum <= 1.0, "%s: %zu suspects, together %g", rows[i].title, s.count, sum);
        if (s.count) {
            sockets = bench_sockets_of(&run, &s.list[0].finding);
            CHECK(s.list[0].finding.kind == rows[i].kind && strcmp(sockets, rows[i].sockets) == 0,
                  "%s: %s; %s", rows[i].title, sockets, s.list[0].headline);
            CHECK(s.list[0].confidence >= rows[i].least, "%s: %g", rows[i].title,
                  s.list[0].confidence);
            g_free(sockets);
        }
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
    }
}

/* What is there at every second or fourth access only: the wiring check sees it now so, now so. And
 * data lines that touch at times: no chip on them is named. */
static void often_but_not_always(void)
{
    static const struct {
        const char *fault;
        rmg_finding_kind of;
        rmg_word bits;
        double least;
    } rows[] = {
        {"never selected, bank: upper, one-in: 2", RMG_FINDING_BANK_SILENT, 0xFF, 0.9},
        {"never selected, bank: upper, one-in: 3", RMG_FINDING_BANK_SILENT, 0xFF, 0.9},
        {"never selected, bank: lower, one-in: 5", RMG_FINDING_BANK_SILENT, 0xFF, 0.9},
        {"lines touch, line: D2, with: D5, one-in: 9", RMG_FINDING_DATA_SHORT, 0x24, 0.9},
        {"lines touch, line: D2, with: D5, wins: 1, one-in: 3", RMG_FINDING_DATA_SHORT, 0x24, 0.9},
        {"lines touch, line: D0, with: D7, one-in: 2000", RMG_FINDING_DATA_SHORT, 0x81, 0.9},
        {"lines touch, line: D2, with: D5, bank: upper, one-in: 50", RMG_FINDING_DATA_SHORT, 0x24,
         0.4},
        {"output stuck, socket: U20, bit: D6, level: 0, one-in: 50", RMG_FINDING_CELLS, 0, 0.9}};
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_plan plan = {.passes = 4, .seed = 1};
    rmg_errors errors = {0};
    rmg_steps steps;

    CHECK(rmg_steps_load("quick", &steps, &errors) == RMG_OK, "plan");
    plan.steps = &steps;
    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar *text = g_strdup_printf("faults: [{kind: %s}]\n", rows[i].fault);
        rmg_faults faults;
        rmg_suspects s;
        rmg_run run;

        CHECK(rmg_faults_load(temporary_file("often.yaml", text), board, &faults, &errors) ==
                  RMG_OK,
              "%s", text);
        bench_examine(board, faults.list, faults.count, &plan, i, &run, &s);
        CHECK(s.count && s.list[0].confidence >= rows[i].least, "%s: %zu suspects, the first at %g",
              rows[i].fault, s.count, s.count ? s.list[0].confidence : 0);
        if (s.count && rows[i].of != RMG_FINDING_CELLS)
            CHECK(s.list[0].finding.kind == RMG_FINDING_NOW_AND_THEN &&
                      s.list[0].finding.of == rows[i].of && s.list[0].finding.bits == rows[i].bits,
                  "%s: %s", rows[i].fault, s.list[0].headline);
        for (size_t n = 0; n < s.count; n++)
            CHECK(s.list[n].finding.socket == RMG_NO_SOCKET || s.list[n].confidence <= 0.5 ||
                      (rows[i].of == RMG_FINDING_CELLS &&
                       s.list[n].finding.socket == rmg_board_socket(board, "U20")),
                  "%s: %s at %g", rows[i].fault, s.list[n].site, s.list[n].confidence);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_faults_free(&faults);
        g_free(text);
    }
    rmg_steps_free(&steps);
    rmg_board_free(board);
}

/* A demo board with faults, tested and diagnosed; to be ended with `drop`. */
typedef struct examined {
    rmg_board *board;
    rmg_run run;
    rmg_suspects s;
} examined;

static void examine(examined *e, const char *board, const char *faults, const rmg_plan *plan,
                    uint64_t seed)
{
    gchar *file = g_strdup_printf("demo/boards/%s.yaml", board);
    gchar *text = g_strdup_printf("faults: [%s]\n", faults);
    rmg_errors errors = {0};
    rmg_faults list;

    e->board = bench_load(file);
    CHECK(rmg_faults_load(temporary_file("some.yaml", text), e->board, &list, &errors) == RMG_OK,
          "%s", text);
    bench_examine(e->board, list.list, list.count, plan, seed, &e->run, &e->s);
    rmg_faults_free(&list);
    g_free(text);
    g_free(file);
}

static void drop(examined *e)
{
    rmg_suspects_free(&e->s);
    rmg_run_end(&e->run);
    rmg_board_free(e->board);
}

/* A chip of another bank that drives its line at times is named, not the one whose reads it spoils;
 * and the other way round. */
static void always_on_at_times(void)
{
    static const struct {
        const char *board, *fault, *named;
        rmg_finding_kind kind;
    } rows[] = {
        {"halvorn64", "{kind: always on, socket: U12, one-in: 3}", "U12", RMG_FINDING_DRAGGED},
        {"halvorn64", "{kind: always on, socket: U20, one-in: 400}", "U20", RMG_FINDING_DRAGGED},
        {"halvorn64", "{kind: output stuck, socket: U20, bit: D6, level: 0, one-in: 30}", "U20",
         RMG_FINDING_CELLS},
        {"halvorn64", "{kind: output stuck, socket: U12, bit: D6, level: 0, one-in: 400}", "U12",
         RMG_FINDING_CELLS},
        {"ostrel16", "{kind: always on, socket: U33, one-in: 20}", "U33", RMG_FINDING_DRAGGED},
        {"tarnbeck", "{kind: always on, socket: U4, one-in: 300}", "U4", RMG_FINDING_DRAGGED}};
    const rmg_plan plan = bench_plan(false, 10);
    examined e;

    for (size_t i = 0; i < COUNT(rows); i++) {
        examine(&e, rows[i].board, rows[i].fault, &plan, i);
        CHECK(e.s.count && e.s.list[0].finding.kind == rows[i].kind &&
                  e.s.list[0].finding.socket == rmg_board_socket(e.board, rows[i].named) &&
                  e.s.list[0].confidence > 0.5,
              "%s: %g, %s", rows[i].fault, e.s.count ? e.s.list[0].confidence : 0,
              e.s.count ? e.s.list[0].headline : "nothing");
        drop(&e);
    }
}

/* A data line at times where the bus is not yet parted into halves, and beside an address line that
 * is open: the line is named, and none of the chips on it. */
static void a_line_among_others(void)
{
    static const struct {
        const char *board, *faults;
        rmg_finding_kind of;
        rmg_word bits;
        const char *own; /* a chip with a fault of its own */
    } rows[] = {
        {"tarnbeck", "{kind: data line stuck, line: D26, level: 1, one-in: 60}",
         RMG_FINDING_DATA_LINE, 1u << 26, NULL},
        {"ostrel16",
         "{kind: data line stuck, line: D2, level: 0, one-in: 7}, "
         "{kind: line open, line: A4, bank: near, floats: 0}",
         RMG_FINDING_DATA_LINE, 1u << 2, NULL},
        {"tarnbeck", /* a few reads among very many */
         "{kind: data line stuck, line: D30, level: 0, one-in: 20000}, "
         "{kind: data line stuck, line: D23, level: 0}",
         RMG_FINDING_DATA_LINE, 1u << 30, NULL},
        {"halvorn64",
         "{kind: lines touch, line: D2, with: D5, bank: upper, one-in: 7}, "
         "{kind: cell stuck, socket: U11, bit: D7, cell: 900, level: 1}",
         RMG_FINDING_DATA_SHORT, 0x24, "U11"},
        {"ostrel16", /* one of its two chips hides it */
         "{kind: data line stuck, line: D2, level: 1, one-in: 7}, "
         "{kind: stale output, socket: U31}",
         RMG_FINDING_DATA_LINE, 1u << 2, "U31"},
        {"halvorn64", "{kind: noise, line: D7, one-in: 7}", RMG_FINDING_DATA_LINE, 0x80, NULL}};
    const rmg_plan plan = bench_plan(true, 4);
    examined e;

    for (size_t i = 0; i < COUNT(rows); i++) {
        bool named = false;

        examine(&e, rows[i].board, rows[i].faults, &plan, i);
        for (size_t n = 0; n < e.s.count; n++) {
            const rmg_finding *f = &e.s.list[n].finding;

            named |= f->kind == RMG_FINDING_NOW_AND_THEN && f->of == rows[i].of &&
                     f->bits == rows[i].bits && e.s.list[n].confidence > 0.4;
            CHECK(f->socket == RMG_NO_SOCKET || e.s.list[n].confidence <= 0.5 ||
                      (rows[i].own && f->socket == rmg_board_socket(e.board, rows[i].own)),
                  "%s: %s at %g: %s", rows[i].faults, e.s.list[n].site, e.s.list[n].confidence,
                  e.s.list[n].headline);
        }
        CHECK(named, "%s: %s", rows[i].faults, e.s.count ? e.s.list[0].headline : "nothing");
        drop(&e);
    }
}

/* A bank that is not selected for a moment fails in all of its chips, and in one pass some words of
 * it twice: no chip is at fault, and none is named. */
static void a_moment_of_a_bank(void)
{
    const rmg_plan plan = bench_plan(true, 1);
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_sim_fault fault = {
        .kind = RMG_FAULT_DESELECTED, .scope = {0xFF00}, .when = {.rate_ppb = 10000000}};

    for (uint64_t seed = 0; seed < 6; seed++) {
        gchar *sockets;
        rmg_suspects s;
        rmg_run run;

        bench_examine(board, &fault, 1, &plan, seed, &run, &s);
        rmg_replay(&run, &s, 0, NULL, NULL);
        CHECK(run.tally.failing > 100 && s.count > 0, "seed %u: nobody", (unsigned)seed);
        for (size_t i = 0; i < s.count; i++)
            CHECK(s.list[i].finding.socket == RMG_NO_SOCKET || s.list[i].confidence <= 0.5,
                  "seed %u: %s at %g", (unsigned)seed, s.list[i].site, s.list[i].confidence);
        sockets = bench_sockets_of(&run, &s.list[0].finding);
        CHECK(strcmp(sockets, "U19 U20 U21 U22 U23 U24 U25 U26") == 0, "seed %u: %s",
              (unsigned)seed, sockets);
        g_free(sockets);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

CU_TestInfo chance_tests[] = {
    {"now and then", now_and_then},
    {"noise at the start", noise_at_the_start},
    {"one pass", one_pass},
    {"one read of two passes", one_read_of_two_passes},
    {"a moment of a bank", a_moment_of_a_bank},
    {"often, but not always", often_but_not_always},
    {"always on, at times", always_on_at_times},
    {"a line among others", a_line_among_others},
    CU_TEST_INFO_NULL,
};
