/* Plans: built in and from files, errors in them, what their steps cost and touch. */
#include <glib.h>
#include <string.h>

#include "rimeglass/report.h"
#include "../check.h"
#include "bench_board.h"
#include "suites.h"
#include "temporary.h"

static void built_in_plans(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    uint32_t before = 0;

    for (size_t i = 0; rmg_plan_names[i]; i++) {
        rmg_errors none = {0};
        uint32_t ops = 0;
        rmg_steps steps;

        CHECK(rmg_steps_load(rmg_plan_names[i], &steps, &none) == RMG_OK && !none.count, "%s",
              rmg_plan_names[i]);
        CHECK(strcmp(steps.name, rmg_plan_names[i]) == 0 &&
                  (i == 0 || steps.list[0].kind == RMG_STEP_WIRING),
              "%s", rmg_plan_names[i]);
        for (size_t s = 0; s < steps.count; s++)
            ops += rmg_step_operations(&steps.list[s], board);
        CHECK(ops > before, "%s costs more than the one before: %u", rmg_plan_names[i], ops);
        before = ops;
        rmg_steps_free(&steps);
    }
    rmg_board_free(board);
}

static void errors_in_plans(void)
{
    static const struct {
        const char *text, *says;
    } rows[] = {
        {"plan: x\nsteps: []\n", "p.yaml:2: steps: expected at least one step"},
        {"plan: x\nsteps: [wiring]\n", "that tests cells"},
        {"plan: x\n", "steps"},
        {"steps: [copy]\n", "plan"},
        {"plan: x\nsteps:\n  - wirring\n", "p.yaml:3: expected a step: wiring"},
        {"plan: x\nsteps:\n  - march: March Q\n", "p.yaml:3: march: \"March Q\" is neither"},
        {"plan: x\nsteps:\n  - march: any(w0,q1)\n", "expected r0, r1, w0 or w1"},
        {"plan: x\nsteps:\n  - {march: MATS, background: chess}\n", "checkerboard"},
        {"plan: x\nsteps:\n  - {march: MATS, order: sideways}\n", "rows first"},
        {"plan: x\nsteps:\n  - {march: MATS, passes: 3}\n", "passes"},
        {"plan: x\nsteps:\n  - {hold-ms: 0}\n", "p.yaml:3: hold-ms"},
        {"plan: x\nsteps:\n  - {hold-ms: 10, refresh: off and on}\n", "stopped"},
        {"plan: x\nsteps:\n  - {row-accesses: many}\n", "p.yaml:3: row-accesses"},
        {"plan: x\nsteps:\n  - {neighbours: [all]}\n", "p.yaml:3: neighbours"},
        {"plan: x\nsteps:\n  - {moving: gallop}\n",
         "p.yaml:3: moving: found \"gallop\", expected one of "},
        {"plan: x\nsteps:\n  - {moving: butterfly, partners: 0}\n", "expected a number from 1 to"},
        {"plan: x\nsteps:\n  - {moving: butterfly, with: 3}\n", "p.yaml:3: with"},
        {"plan: x\nsteps:\n  - {noisy-lines: 3}\n  - copy\n", "expected a number from 8 to 10000"},
        {"plan: x\nsteps:\n  - noisy lines\n", "at least one step that tests cells"},
        {"plan: [x\n", "this is not YAML"},
        {"", "the file is empty"},
    };
    rmg_errors found = {0};
    rmg_steps steps;

    for (size_t i = 0; i < COUNT(rows); i++) {
        bool said = false;

        CHECK(rmg_steps_load(temporary_file("p.yaml", rows[i].text), &steps, &found) ==
                  RMG_ERR_CONTENT,
              "row %zu", i);
        for (size_t n = 0; n < found.count; n++)
            said |= strstr(found.list[n].what, rows[i].says) != NULL;
        CHECK(said && !steps.count, "row %zu: %s", i,
              found.count ? found.list[0].what : "nothing said");
        rmg_errors_free(&found);
    }
    CHECK(rmg_steps_load("none.yaml", &steps, &found) == RMG_ERR_FILE && found.count == 1,
          "no file");
    rmg_errors_free(&found);
}

/* The Halvorn's rows are A0 to A6, its columns A7 to A13, in both banks. */
static void backgrounds_of_the_board(void)
{
    static const struct {
        const char *ground;
        unsigned variant;
        uint32_t pass;
        rmg_addr address;
        rmg_word word;
    } rows[] = {
        {"solid", 0, 0, 0x8001, 0x00},        {"checkerboard", 0, 0, 0x8000, 0x00},
        {"checkerboard", 0, 0, 0x8001, 0xFF}, {"checkerboard", 0, 0, 0x8080, 0xFF},
        {"checkerboard", 0, 0, 0x0081, 0x00}, {"checkerboard", 0, 1, 0x0081, 0xFF},
        {"rows", 0, 0, 0x0081, 0xFF},         {"rows", 0, 0, 0x0080, 0x00},
        {"columns", 0, 0, 0x0081, 0xFF},      {"columns", 0, 0, 0x0001, 0x00},
        {"walking", 3, 0, 0x1234, 0x08},      {"address", 0, 0, 0x1234, 0x34},
        {"address", 1, 0, 0x1234, 0x12},      {"word", 0, 0, 0x1234, 0x00},
        {"word", 1, 0, 0x1234, 0xAA},         {"word", 2, 0, 0x1234, 0xCC},
        {"word", 3, 0, 0x1234, 0xF0},
    };
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_range ranges[] = {{0, 0x3BFF}, {0x8000, 0xBFFF}};

    for (size_t i = 0; i < COUNT(rows); i++) {
        char *text =
            g_strdup_printf("plan: x\nsteps: [{march: MATS, background: %s}]\n", rows[i].ground);
        rmg_background_term terms[RMG_TERMS_MOST];
        rmg_background background;
        rmg_errors none = {0};
        rmg_order order;
        rmg_steps steps;

        CHECK(rmg_steps_parse("x", text, &steps, &none) == RMG_OK, "row %zu", i);
        CHECK(rows[i].variant < rmg_step_variants(&steps.list[0], board), "row %zu: variants", i);
        CHECK(!rmg_step_pattern(&steps.list[0], rows[i].variant, board, ranges, 2, 1, rows[i].pass,
                                &background, terms, &order),
              "row %zu: linear", i);
        CHECK((rmg_background_word(&background, rows[i].address) & 0xFFu) == rows[i].word,
              "row %zu, %s: %02x", i, rows[i].ground,
              (unsigned)rmg_background_word(&background, rows[i].address) & 0xFFu);
        rmg_steps_free(&steps);
        g_free(text);
    }
    rmg_board_free(board);
}

/* The words of the walk one after the other; what one word goes through in a pass. */
static void walk_of_words(void)
{
    rmg_board *board = bench_load("demo/boards/ostrel16.yaml");
    rmg_errors none = {0};
    const rmg_word *words;
    const unsigned count = rmg_within_words(16, &words);
    const rmg_range range = {0, board->last_address};
    rmg_background_term terms[RMG_TERMS_MOST];
    rmg_word_run *runs;
    rmg_steps steps;
    size_t run_count;

    CHECK(rmg_steps_parse("p.yaml",
                          "plan: x\nsteps:\n  - wiring\n  - within a word\n  - {march: MATS, "
                          "background: within a word}\n  - {march: MATS, background: address}\n  - "
                          "{hold-ms: 10, background: rows}\n  - {march: MATS, background: word}\n",
                          &steps, &none) == RMG_OK,
          "%s", none.count ? none.list[0].what : "");
    CHECK(rmg_step_variants(&steps.list[1], board) == count &&
              rmg_step_operations(&steps.list[1], board) == 5 * count &&
              rmg_step_operations(&steps.list[2], board) == 4 * count &&
              strcmp(steps.list[1].name, "within a word") == 0 &&
              strcmp(steps.list[2].name, "MATS, within a word") == 0,
          "%u words", count);
    for (unsigned n = 0; n < count; n++)
        for (unsigned pass = 0; pass < 2; pass++) {
            rmg_background background;
            rmg_order order;

            CHECK(!rmg_step_pattern(&steps.list[1], n, board, &range, 1, 7, pass, &background,
                                    terms, &order) &&
                      !background.term_count &&
                      (background.start & 0xFFFF) ==
                          (pass ? ~words[n] & 0xFFFF : words[n] & 0xFFFF),
                  "word %u, pass %u", n, pass);
        }
    rmg_steps_word_runs(&steps, board, &runs, &run_count);
    CHECK(run_count == 2 * count + 1 + 5, "%zu runs: no address as data, one of rows, five words",
          run_count);
    CHECK(runs[0].background == 0 && runs[1].background == words[1] &&
              runs[0].code == steps.list[1].code && runs[count].code == steps.list[2].code,
          "in order");
    rmg_text_free((char *)runs);
    rmg_steps_free(&steps);
    rmg_board_free(board);
}

static void orders_of_the_board(void)
{
    static const struct {
        const char *way;
        unsigned variant;
        bool ordered;
        rmg_addr second, third;
    } rows[] = {
        {"linear", 0, false, 0, 0},
        {"rows first", 0, true, 0x0001, 0x0002},
        {"columns first", 0, true, 0x0080, 0x0100},
        {"complement", 0, true, 0xFFFF, 0x0001},
        {"powers of two", 0, false, 0, 0},
        {"powers of two", 5, true, 0x0020, 0x0001},
    };
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_range ranges[] = {{0, 0x3BFF}, {0x8000, 0xBFFF}};

    for (size_t i = 0; i < COUNT(rows); i++) {
        char *text = g_strdup_printf("plan: x\nsteps: [{march: MATS, order: %s}]\n", rows[i].way);
        rmg_background_term terms[RMG_TERMS_MOST];
        rmg_background background;
        rmg_errors none = {0};
        rmg_order order;
        rmg_steps steps;

        CHECK(rmg_steps_parse("x", text, &steps, &none) == RMG_OK, "row %zu", i);
        CHECK(rmg_step_pattern(&steps.list[0], rows[i].variant, board, ranges, 2, 1, 0, &background,
                               terms, &order) == rows[i].ordered,
              "row %zu", i);
        if (rows[i].ordered)
            CHECK(rmg_order_address(&order, 1) == rows[i].second &&
                      rmg_order_address(&order, 2) == rows[i].third,
                  "row %zu, %s: %lx, %lx", i, rows[i].way,
                  (unsigned long)rmg_order_address(&order, 1),
                  (unsigned long)rmg_order_address(&order, 2));
        rmg_steps_free(&steps);
        g_free(text);
    }
    rmg_board_free(board);
}

/* A run makes the accesses that the plan's steps were said to make, and nothing fails. */
static void costs_are_met(void)
{
    static const char *const text = "plan: x\nsteps:\n  - {march: MATS+, order: complement}\n"
                                    "  - {march: MATS, background: word, order: powers of two}\n"
                                    "  - {hold-ms: 20, background: rows, refresh: stopped}\n"
                                    "  - copy\n";
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_errors none = {0};
    rmg_steps steps;
    rmg_plan plan = {.steps = &steps, .passes = 2, .seed = 5};
    rmg_sim_board_run bench;
    uint64_t accesses = 0;
    rmg_run run;
    rmg_error error = {0};

    CHECK(rmg_steps_parse("x", text, &steps, &none) == RMG_OK, "plan");
    bench_start(&bench, board, NULL, 0, 1);
    CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK, "begins");
    for (size_t i = 0; i < steps.count; i++)
        accesses += rmg_step_accesses(&steps.list[i], board, run.tested_words);
    CHECK(rmg_run_carry_out(&run, &bench.target, NULL) == RMG_OK, "runs");
    CHECK(run.reads + run.writes == 2 * accesses, "%lu accesses of %lu",
          (unsigned long)(run.reads + run.writes), (unsigned long)(2 * accesses));
    CHECK(!rmg_run_failed(&run) && run.copied_words == 2 * run.tested_words && !run.refresh_kept,
          "healthy");
    CHECK(bench.sim.now_ns ==
              (run.reads + run.writes) * board->access_ns + 2u * 2u * UINT64_C(20000000),
          "two holds a pass");
    rmg_run_end(&run);
    rmg_sim_board_end(&bench);
    rmg_steps_free(&steps);
    rmg_board_free(board);
}

/* Copying finds a bad cell, and its addresses name no chip. */
static void copies_name_no_chip(void)
{
    const rmg_sim_fault bad = {.kind = RMG_FAULT_OUTPUT, .chip = 9, .level = 0};
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_errors none = {0};
    rmg_steps steps;
    rmg_plan plan = {.steps = &steps, .passes = 1, .seed = 5};
    rmg_sim_board_run bench;
    rmg_suspects suspects;
    rmg_run run;
    rmg_error error = {0};

    CHECK(rmg_steps_parse("x", "plan: x\nsteps: [copy]\n", &steps, &none) == RMG_OK, "plan");
    bench_start(&bench, board, &bad, 1, 1);
    CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK, "begins");
    CHECK(rmg_run_carry_out(&run, &bench.target, NULL) == RMG_OK, "runs");
    rmg_suspects_find(&run, NULL, &suspects);
    rmg_suspects_word(&run, &suspects);
    CHECK(rmg_run_failed(&run) && run.copied_wrong > 10 && !run.tally.failing,
          "it comes out wrong");
    CHECK(!suspects.count, "but no place is named");
    rmg_suspects_free(&suspects);
    rmg_run_end(&run);
    rmg_sim_board_end(&bench);
    rmg_steps_free(&steps);
    rmg_board_free(board);
}

/* An output stuck at a level fails at every read that expects the other, whatever steps a plan has:
 * its rate is exactly 1, and no bit fails oftener than it could. */
static void every_judged_read_is_a_trial(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_sim_fault f = {
        .kind = RMG_FAULT_OUTPUT, .chip = 11, .level = 0}; /* D4 of the upper bank */

    for (size_t p = 0; rmg_plan_names[p]; p++) {
        rmg_plan plan = bench_plan(true, 1);
        rmg_errors found = {0};
        rmg_sim_board_run bench;
        rmg_steps steps;
        rmg_error error;
        rmg_run run;
        uint64_t failed, could;

        CHECK(rmg_steps_load(rmg_plan_names[p], &steps, &found) == RMG_OK, "%s", rmg_plan_names[p]);
        plan.steps = &steps;
        plan.march = NULL;
        plan.limited = true;
        plan.limit = (rmg_range){0x8000, 0x87FF};
        bench_start(&bench, board, &f, 1, 3);
        CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK &&
                  rmg_run_carry_out(&run, &bench.target, NULL) == RMG_OK,
              "%s runs", rmg_plan_names[p]);
        for (uint8_t bank = 0; bank < 2; bank++)
            for (uint8_t bit = 0; bit < 8; bit++) {
                rmg_run_bit_rate(&run, bank, (rmg_word)1 << bit, &failed, &could);
                CHECK(failed == (bank == 1 && bit == 4 ? could : 0) && (could > 0) == (bank == 1),
                      "%s, bank %u, D%u: %lu of %lu", rmg_plan_names[p], bank, bit,
                      (unsigned long)failed, (unsigned long)could);
            }
        rmg_run_end(&run);
        rmg_sim_board_end(&bench);
        rmg_steps_free(&steps);
    }
    rmg_board_free(board);
}

/* A march that a step has no room for is refused, not cut. */
static void too_long_a_march(void)
{
    uint8_t code[RMG_MARCH_BYTES + 2] = {0};
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");

    for (unsigned bytes = RMG_MARCH_BYTES - 1; bytes <= RMG_MARCH_BYTES + 1; bytes++) {
        rmg_plan plan = {.march_name = "long", .march = code, .passes = 1};
        const bool fits = bytes < RMG_MARCH_BYTES;
        unsigned at = 0, n;
        rmg_error error;
        rmg_run run;

        memset(code, 0, sizeof code);
        for (; at < bytes; at += n + 1u) { /* elements of two bytes, the last of three if need be */
            n = bytes - at == 3 ? 2 : 1;
            code[at] = (uint8_t)(RMG_ORDER_UP | n);
            code[at + 1] = RMG_OP_WRITE;
            code[at + n] = RMG_OP_WRITE;
        }
        CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == (fits ? RMG_OK : RMG_ERR_ROOM) &&
                  (fits || strstr(error.what, "at most 127")),
              "%u bytes: %s", bytes, error.what ? error.what : "taken");
        rmg_error_free(&error);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

/* Memory that notes the first accesses made to it. */
typedef struct noting {
    rmg_word words[0x10000];
    rmg_addr at[4];
    rmg_word wrote[4];
    unsigned count;
} noting;

static rmg_status note_read(void *context, rmg_addr address, rmg_word *value)
{
    *value = ((noting *)context)->words[address];
    return RMG_OK;
}

static rmg_status note_write(void *context, rmg_addr address, rmg_word value)
{
    noting *n = context;

    if (n->count < COUNT(n->at)) {
        n->at[n->count] = address;
        n->wrote[n->count++] = value;
    }
    n->words[address] = value;
    return RMG_OK;
}

/* The first memory is tested in rising order and with zeros, whatever the step after it wants: it
 * may hold the stack of what carries the test out. */
static void first_memory_is_plain(void)
{
    static const rmg_bus bus = {.version = RMG_BUS_VERSION, .read = note_read, .write = note_write};
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    noting *n = g_new0(noting, 1);
    const rmg_target target = {&bus, n, 0xFF};
    rmg_errors errors = {0};
    rmg_error error = {0};
    rmg_plan plan = {.passes = 1, .seed = 1};
    rmg_steps steps;
    rmg_run run;

    CHECK(rmg_steps_parse("own",
                          "plan: x\nsteps:\n  - first memory\n"
                          "  - {march: MATS, background: checkerboard, order: complement}\n",
                          &steps, &errors) == RMG_OK,
          "parsed");
    plan.steps = &steps;
    CHECK(rmg_run_begin(&run, board, &plan, "noting", &error) == RMG_OK, "begins");
    CHECK(rmg_run_carry_out(&run, &target, NULL) == RMG_OK && !run.tally.failing, "runs");
    for (unsigned i = 0; i < COUNT(n->at); i++)
        CHECK(n->at[i] == board->first_memory.first + i && n->wrote[i] == 0, "access %u: %llx", i,
              (unsigned long long)n->at[i]);
    rmg_run_end(&run);
    rmg_steps_free(&steps);
    rmg_board_free(board);
    g_free(n);
}

CU_TestInfo plan_tests[] = {
    {"every judged read is a trial", every_judged_read_is_a_trial},
    {"a march that is too long", too_long_a_march},
    {"built-in plans", built_in_plans},
    {"errors in plan files", errors_in_plans},
    {"backgrounds by the chips' pins", backgrounds_of_the_board},
    {"walk of words", walk_of_words},
    {"orders by the chips' pins", orders_of_the_board},
    {"costs are met", costs_are_met},
    {"copies name no chip", copies_name_no_chip},
    {"first memory is plain", first_memory_is_plain},
    CU_TEST_INFO_NULL,
};
