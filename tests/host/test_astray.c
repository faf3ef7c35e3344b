/* Accesses that go astray at times: the address line is named where the words that fail lie on its
 * two sides as it would spoil them, and only there. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "suites.h"

#define HALVORN "demo/boards/halvorn64.yaml"
#define OSTREL  "demo/boards/ostrel16.yaml"

/* Chips of the Halvorn's upper bank, and of both. */
#define UPPER UINT64_C(0xFF00)
#define BOTH  UINT64_C(0xFFFF)

static rmg_sim_fault line_fault(rmg_addr lines, uint8_t level, uint64_t chips, uint32_t rate_ppb)
{
    return (rmg_sim_fault){.kind = RMG_FAULT_ADDRESS_STUCK,
                           .bank = 1,
                           .chip = 8,
                           .lines = lines,
                           .level = level,
                           .scope = {chips},
                           .when = {.rate_ppb = rate_ppb}};
}

/* Does the finding name these lines, or none? */
static bool names(const rmg_suspects *s, rmg_addr lines, uint8_t bank)
{
    const rmg_finding *f = s->count ? &s->list[0].finding : NULL;

    return f && f->kind == RMG_FINDING_NOW_AND_THEN && f->lines == lines && f->bank == bank;
}

static void named(void)
{
    static const struct {
        rmg_addr lines;
        uint8_t level;
        uint64_t chips;
        uint32_t rate_ppb;
    } rows[] = {{0x1, 0, UPPER, 200000},      {0x8, 1, UPPER, 200000},
                {0x2000, 0, UPPER, 200000},   {0x40, 1, BOTH, 1000000},
                {0x2000, 1, BOTH, 500000000}, {0x10, 0, UPPER, 200000000},
                {0x204, 0, UPPER, 200000}, /* one pin of a DRAM: two lines behind the multiplexer */
                {0x204, 1, BOTH, 50000000}};
    rmg_board *board = bench_load(HALVORN);
    const rmg_plan plan = bench_plan(false, 6);

    for (size_t i = 0; i < COUNT(rows); i++) {
        const rmg_sim_fault fault =
            line_fault(rows[i].lines, rows[i].level, rows[i].chips, rows[i].rate_ppb);
        rmg_suspects s;
        rmg_run run;

        bench_examine(board, &fault, 1, &plan, 5, &run, &s);
        CHECK(names(&s, rows[i].lines, rows[i].chips == BOTH ? RMG_NO_BANK : 1) &&
                  s.list[0].confidence > 0.85,
              "line %X, %u: %s, %.2f", (unsigned)rows[i].lines, rows[i].rate_ppb,
              s.count ? s.list[0].site : "nobody", s.count ? s.list[0].confidence : 0);
        CHECK(s.count && s.list[0].is.said == RMG_SAY_NOW_AND_THEN_ADDRESS &&
                  s.list[0].rival_count == 3,
              "line %X: what it is", (unsigned)rows[i].lines);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

/* Selects that are not there for moments, whatever the words, noise, and so few accesses astray
 * that nothing tells: no line is named. */
static void not_named(void)
{
    static const struct {
        rmg_fault_kind kind;
        uint32_t rate_ppb, passes;
    } rows[] = {{RMG_FAULT_DESELECTED, 100000, 6},   {RMG_FAULT_DESELECTED, 20000000, 6},
                {RMG_FAULT_DESELECTED, 5000, 10},    {RMG_FAULT_DESELECTED, 500000000, 4},
                {RMG_FAULT_ADDRESS_STUCK, 30000, 2}, {RMG_FAULT_NO_WRITE, 1000000, 6},
                {RMG_FAULT_NOISE, 20000, 6}};
    static const char *const boards[] = {HALVORN, OSTREL};
    unsigned failed = 0;

    for (size_t b = 0; b < COUNT(boards); b++)
        for (size_t i = 0; i < COUNT(rows); i++) {
            rmg_board *board = bench_load(boards[b]);
            const rmg_plan plan = bench_plan(true, rows[i].passes);
            rmg_sim_fault fault = line_fault(0x8, 0, b ? 0xF : UPPER, rows[i].rate_ppb);
            rmg_suspects s;
            rmg_run run;

            fault.kind = rows[i].kind;
            fault.line = rows[i].kind == RMG_FAULT_NOISE ? RMG_ALL_DATA_LINES : 0;
            bench_examine(board, &fault, 1, &plan, 11 + i, &run, &s);
            failed += rmg_run_failed(&run);
            for (size_t n = 0; n < s.count; n++)
                CHECK(!s.list[n].finding.lines, "%s, row %zu: %s", boards[b], i, s.list[n].site);
            rmg_suspects_free(&s);
            rmg_run_end(&run);
            rmg_board_free(board);
        }
    CHECK(failed > 11, "%u of 14 failed", failed);
}

/* Some chips of a bank, or of both: what leads to these alone. Where hardly anything failed yet,
 * all of the bank. */
static void some_chips(void)
{
    static const struct {
        rmg_fault_kind kind;
        rmg_addr lines;
        uint64_t chips;
        uint32_t rate_ppb;
        const char *sockets;
        rmg_said is;
    } rows[] = {
        {RMG_FAULT_DESELECTED, 0, 0x2D00, 200000, "U19 U21 U22 U24", RMG_SAY_NOW_AND_THEN_SOME},
        {RMG_FAULT_DESELECTED, 0, 0x0303, 1000000, "U11 U12 U19 U20", RMG_SAY_NOW_AND_THEN_SOME},
        {RMG_FAULT_ADDRESS_STUCK, 0x10, 0x2D00, 1000000, "U19 U21 U22 U24",
         RMG_SAY_NOW_AND_THEN_ADDRESS_SOME},
        {RMG_FAULT_DESELECTED, 0, 0xFF00, 1000000, "U19 U20 U21 U22 U23 U24 U25 U26",
         RMG_SAY_NOW_AND_THEN_BANK},
        {RMG_FAULT_DESELECTED, 0, 0x2D00, 8000, "U19 U20 U21 U22 U23 U24 U25 U26",
         RMG_SAY_NOW_AND_THEN_BANK}};
    rmg_board *board = bench_load(HALVORN);
    const rmg_plan plan = bench_plan(false, 6);

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_sim_fault fault = line_fault(rows[i].lines, 0, rows[i].chips, rows[i].rate_ppb);
        gchar *sockets = NULL;
        rmg_suspects s;
        rmg_run run;

        fault.kind = rows[i].kind;
        bench_examine(board, &fault, 1, &plan, 3, &run, &s);
        if (s.count)
            sockets = bench_sockets_of(&run, &s.list[0].finding);
        CHECK(s.count && s.list[0].is.said == rows[i].is && strcmp(sockets, rows[i].sockets) == 0,
              "row %zu: %s, at %s", i, s.count ? s.list[0].site : "nobody", sockets);
        g_free(sockets);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

/* One word that several chips got wrong once, in one pass: a moment, and nothing that answers
 * there. */
static void once_is_no_place(void)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_plan plan = bench_plan(true, 1);
    unsigned failed = 0;

    for (uint64_t seed = 0; seed < 30; seed++) {
        const rmg_sim_fault fault = {
            .kind = RMG_FAULT_DESELECTED, .scope = {UPPER}, .when = {.rate_ppb = 20000}};
        rmg_suspects s;
        rmg_run run;

        bench_examine(board, &fault, 1, &plan, seed, &run, &s);
        failed += s.count > 0;
        for (size_t i = 0; i < s.count; i++)
            CHECK(s.list[i].finding.kind != RMG_FINDING_SAME_WORDS, "seed %u: %s", (unsigned)seed,
                  s.list[i].headline);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    CHECK(failed > 15, "%u of 30 failed", failed);
    rmg_board_free(board);
}

CU_TestInfo astray_tests[] = {
    {"the line named", named},  {"no line named", not_named},
    {"some chips", some_chips}, {"once is no place", once_is_no_place},
    CU_TEST_INFO_NULL,
};
