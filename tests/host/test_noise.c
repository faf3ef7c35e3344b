/* Lines that others disturb, on the simulated board: which line and which others are named, in
 * which ways; what is not called so; and what the run file keeps of it. */
#include <stdio.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/plan.h"
#include "rimeglass/run.h"
#include "rimeglass/report.h"
#include "rimeglass/sim.h"
#include "suites.h"
#include "temporary.h"

static rmg_steps noisy_steps(const char *step)
{
    rmg_errors errors = {0};
    rmg_steps steps;
    gchar *text = g_strdup_printf("plan: n\nsteps:\n  - wiring\n  - %s\n  - march: MATS++\n", step);

    CHECK(rmg_steps_parse("n", text, &steps, &errors) == RMG_OK, "%s", text);
    g_free(text);
    return steps;
}

static void everywhere(const rmg_board *board, rmg_sim_fault *f)
{
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        rmg_fault_include(f, board->placement.rules[r].socket);
}

/* A disturbed line of the demo board: the first suspect is it, with what disturbs it. */
static void named(void)
{
    static const struct {
        bool address;
        uint8_t line, state, of; /* of: 0 any, 1 still, 2 turning */
        uint64_t with;
        uint8_t ways; /* that show it */
        uint32_t rate_ppb;
    } rows[] = {{false, 3, 1, 0, 0x14, 9, 0},         {false, 0, 0, 0, 0xFE, 6, 0},
                {false, 7, 1, 1, 0x40, 1, 0},         {false, 5, 0, 2, 0x51, 4, 0},
                {true, 5, 0, 0, 0x50, 6, 0},          {true, 0, 1, 1, 0x102, 1, 0},
                {true, 13, 1, 2, 0x1000, 8, 0},       {true, 6, 0, 0, 0x3FBF, 6, 0},
                {false, 2, 1, 0, 0x8, 9, 250000000u}, {true, 9, 1, 0, 0x500, 9, 200000000u}};
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_steps steps = noisy_steps("noisy lines");
    const rmg_plan plan = {.steps = &steps, .passes = 1, .seed = 1};

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_sim_fault f = {.kind =
                               rows[i].address ? RMG_FAULT_ADDRESS_CROSSTALK : RMG_FAULT_CROSSTALK,
                           .line = rows[i].line,
                           .state = rows[i].state,
                           .by = rows[i].of,
                           .when.rate_ppb = rows[i].rate_ppb};
        const rmg_noisy_line *n;
        const rmg_finding *first;
        rmg_suspects s;
        rmg_run run;

        if (rows[i].address)
            f.lines = (rmg_addr)rows[i].with;
        else
            f.with = (rmg_word)rows[i].with;
        everywhere(board, &f);
        bench_examine(board, &f, 1, &plan, i, &run, &s);
        first = s.count ? &s.list[0].finding : NULL;
        CHECK(first &&
                  first->kind ==
                      (rows[i].address ? RMG_FINDING_ADDRESS_NOISY : RMG_FINDING_DATA_NOISY) &&
                  (rows[i].address ? first->lines == (rmg_addr)1 << rows[i].line
                                   : first->bits == (rmg_word)1 << rows[i].line) &&
                  first->by == rows[i].with && s.list[0].confidence > 0.5 &&
                  first->socket == RMG_NO_SOCKET,
              "row %zu: %s", i, s.count ? s.list[0].headline : "nothing");
        n = run.noisy;
        CHECK(rmg_run_failed(&run) && run.noisy_count && n->ways == rows[i].ways && n->failed > 4 &&
                  n->failed <= n->tries &&
                  (rows[i].rate_ppb ? n->failed < n->tries : n->failed == n->tries),
              "row %zu: ways %u, %u of %u", i, n ? n->ways : 0, n ? n->failed : 0,
              n ? n->tries : 0);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    rmg_steps_free(&steps);
    rmg_board_free(board);
}

/* Lines that touch, dead ones, chips and cells, and noise everywhere are no disturbed lines. */
static void not_noisy(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const uint16_t u20 = rmg_board_socket(board, "U20");
    rmg_sim_fault faults[] = {
        {.kind = RMG_FAULT_DATA_SHORT, .line = 2, .line2 = 3},
        {.kind = RMG_FAULT_DATA_SHORT, .line = 2, .line2 = 6, .level = 1},
        {.kind = RMG_FAULT_ADDRESS_SHORT, .lines = 0x30},
        {.kind = RMG_FAULT_ADDRESS_STUCK, .lines = 0x10},
        {.kind = RMG_FAULT_DATA_LINE, .line = 4, .level = 1},
        {.kind = RMG_FAULT_OUTPUT, .chip = u20, .level = 0},
        {.kind = RMG_FAULT_CELL, .chip = u20, .cell = 0, .level = 1},
        {.kind = RMG_FAULT_STALE, .chip = u20},
        {.kind = RMG_FAULT_SLOW_DECODER, .chip = u20, .cell = 1, .reaches = RMG_REACHES_OTHER},
        {.kind = RMG_FAULT_LATE_PRECHARGE, .chip = u20, .level = 1},
        {.kind = RMG_FAULT_NOISE, .line = RMG_ALL_DATA_LINES, .when.rate_ppb = 2000000},
        {.kind = RMG_FAULT_MISSING, .chip = u20}};
    rmg_steps steps = noisy_steps("{noisy-lines: 32}");
    const rmg_plan plan = {.steps = &steps, .passes = 1, .seed = 1};

    for (size_t i = 0; i <= COUNT(faults); i++) { /* none at the end */
        rmg_suspects s;
        rmg_run run;

        if (i < COUNT(faults))
            everywhere(board, &faults[i]);
        bench_examine(board, &faults[i < COUNT(faults) ? i : 0], i < COUNT(faults), &plan, i, &run,
                      &s);
        CHECK(!run.noisy_count, "fault %zu: line %u of bank %u", i, run.noisy ? run.noisy->line : 0,
              run.noisy ? run.noisy->bank : 0);
        CHECK(i < COUNT(faults) || !rmg_run_failed(&run), "nothing fails");
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    rmg_steps_free(&steps);
    rmg_board_free(board);
}

/* As many accesses as are told, but for those that look closer; contents are put back with `keep`.
 */
static void costs(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_steps with = noisy_steps("noisy lines"), without = noisy_steps("wiring");
    rmg_plan plan = {.steps = &with, .passes = 1, .seed = 1};
    rmg_suspects s;
    rmg_run run;
    uint64_t accesses;

    bench_examine(board, NULL, 0, &plan, 1, &run, &s);
    accesses = run.reads + run.writes;
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    plan.steps = &without;
    bench_examine(board, NULL, 0, &plan, 1, &run, &s);
    accesses -= run.reads + run.writes;
    /* two banks of 8 data and 14 address lines: 21 and 25 accesses a way and try; and few to begin
     */
    CHECK(rmg_step_first_accesses(&with.list[1], board) == 2u * 64u * 4u * (8u * 21u + 14u * 25u),
          "told");
    CHECK(accesses >= 265216 && accesses < 265216 + 50, "%u accesses", (unsigned)accesses);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_steps_free(&with);
    rmg_steps_free(&without);
    rmg_board_free(board);
}

/* The run file keeps what was found, and the same is said of it then; a file with a list that
 * cannot be is refused, and says which. */
static void kept_in_a_file(void)
{
    static const char *const lists[] = {"[[9,0,3,9,20,256,256]]",
                                        "[[0,2,3,9,20,256,256]]",
                                        "[[0,0,8,9,20,256,256]]",
                                        "[[0,1,64,9,20,256,256]]",
                                        "[[0,0,3,16,20,256,256]]",
                                        "[[0,0,3,9,20,256]]",
                                        "[3]",
                                        "{}"};
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_sim_fault f = {.kind = RMG_FAULT_CROSSTALK, .line = 3, .state = 1, .with = 0x14};
    rmg_steps steps = noisy_steps("noisy lines");
    const rmg_plan plan = {.steps = &steps, .passes = 1, .seed = 1};
    gchar *path = g_strdup(temporary_path("noisy.run")), *text = NULL;
    rmg_run_writer *writer = rmg_run_writer_new(path);
    rmg_error error = {0};
    rmg_run_file file;
    rmg_suspects s, again;
    GRegex *noisy = g_regex_new("\"noisy\":\\s*\\[(\\s*\\[[^]]*\\],?)*\\s*\\]", 0, 0, NULL);
    rmg_run run;

    bench_examine(board, &f, 1, &plan, 1, &run, &s);
    CHECK(rmg_run_writer_close(writer, &run, NULL, 0, &error) == RMG_OK, "%s", error.what);
    CHECK(rmg_run_file_read(path, false, &file, &error) == RMG_OK, "%s", error.what);
    CHECK(file.run.noisy_count == run.noisy_count && run.noisy_count == 2, "%zu lines",
          file.run.noisy_count);
    for (size_t i = 0; i < run.noisy_count && i < file.run.noisy_count; i++) {
        const rmg_noisy_line *x = &run.noisy[i], *y = &file.run.noisy[i];

        CHECK(x->bank == y->bank && x->address == y->address && x->line == y->line &&
                  x->ways == y->ways && x->by == y->by && x->failed == y->failed &&
                  x->tries == y->tries,
              "line %zu", i);
    }
    rmg_suspects_find(&file.run, NULL, &again);
    rmg_suspects_word(&file.run, &again);
    rmg_suspects_word(&run, &s);
    CHECK(again.count == s.count && s.count &&
              strcmp(again.list[0].headline, s.list[0].headline) == 0,
          "the same is said");
    rmg_suspects_free(&again);
    rmg_run_file_free(&file);
    CHECK(g_file_get_contents(path, &text, NULL, NULL) && g_regex_match(noisy, text, 0, NULL),
          "the list stands in the file");
    for (size_t i = 0; i < COUNT(lists); i++) {
        gchar *with = g_strdup_printf("\"noisy\": %s", lists[i]);
        gchar *wrong = g_regex_replace_literal(noisy, text, -1, 0, with, 0, NULL);

        CHECK(g_file_set_contents(path, wrong, -1, NULL) &&
                  rmg_run_file_read(path, false, &file, &error) == RMG_ERR_CONTENT &&
                  strstr(error.what, "noisy"),
              "%s: %s", lists[i], error.what ? error.what : "read");
        rmg_error_free(&error);
        rmg_run_file_free(&file);
        g_free(wrong);
        g_free(with);
    }
    g_free(text);
    g_free(path);
    g_regex_unref(noisy);
    rmg_run_writer_free(writer);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_steps_free(&steps);
    rmg_board_free(board);
}

CU_TestInfo noise_tests[] = {
    {"named", named},  {"not noisy", not_noisy},
    {"costs", costs},  {"kept in a file", kept_in_a_file},
    CU_TEST_INFO_NULL,
};
