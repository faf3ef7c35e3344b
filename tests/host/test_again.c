/* A simulation started again with other faults does what one just begun does; only its memory comes
 * up with what it had. And the way from a cell back to its address. */
#include <glib.h>
#include <stdlib.h>
#include <string.h>

#include "../../bench/diag.h"
#include "../check.h"
#include "bench_board.h"
#include "suites.h"

/* A board under simulation with room for two faults. */
typedef struct stage {
    rmg_board *board;
    rmg_sim_model model;
    rmg_sim sim;
    void *memory;
} stage;

static void begin(stage *s, const char *file)
{
    s->board = bench_load(file);
    rmg_board_to_sim(s->board, &s->model);
    s->memory = g_malloc(rmg_sim_bytes(&s->model.board, 2));
}

static void end(stage *s)
{
    g_free(s->memory);
    rmg_sim_model_free(&s->model);
    rmg_board_free(s->board);
}

/* All RAM comes up with the same word, so that a first start and a later one can be compared. */
static void come_up(stage *s)
{
    for (size_t i = 0; i < s->board->region_count; i++)
        for (rmg_addr a = s->board->regions[i].range.first;
             s->board->regions[i].kind == RMG_REGION_RAM && a <= s->board->regions[i].range.last;
             a++)
            rmg_sim_put_word(&s->sim, a, 0x5A5A);
}

static uint64_t failures_of(stage *s, uint64_t *reads)
{
    const rmg_plan plan = bench_plan(false, 1);
    const rmg_target target = {&rmg_sim_bus, &s->sim, s->sim.mask};
    rmg_error error = {0};
    uint64_t print;
    rmg_run run;

    CHECK(rmg_run_begin(&run, s->board, &plan, "sim", &error) == RMG_OK &&
              rmg_run_carry_out(&run, &target, NULL) == RMG_OK,
          "runs");
    print = rmg_failset_fingerprint(run.failures) ^ run.wirings[0].low ^ run.wirings[1].high << 8 ^
            run.wirings[0].opposite << 16;
    *reads = run.tally.failing;
    rmg_run_end(&run);
    return print;
}

/* Every kind of fault, first on a board just begun, then on one that had another fault before. */
static void like_a_first_start(void)
{
    static const char *const files[] = {"demo/boards/halvorn64.yaml", "demo/boards/ostrel16.yaml"};
    unsigned compared = 0;

    for (size_t n = 0; n < COUNT(files); n++) {
        stage s;

        begin(&s, files[n]);
        for (size_t k = n % ONE_IN; k < diag_kind_count; k += ONE_IN) {
            diag_dice dice = diag_seed(k + 1, 40 + n);
            const diag_board of = {.board = s.board};
            rmg_sim_fault fault, before;
            uint64_t first, again, reads, reads_again;

            if (diag_kinds[k].time || !diag_fault_make(&dice, &of, &diag_kinds[k], &fault) ||
                !diag_fault_make(&dice, &of, &diag_kinds[(k * 7 + 3) % diag_kind_count], &before))
                continue;
            CHECK(rmg_sim_start_healthy(&s.sim, &s.model.board, 1, 4, s.memory) == RMG_OK,
                  "starts");
            come_up(&s);
            CHECK(rmg_sim_start_again(&s.sim, &fault, 1) == RMG_OK, "%s", diag_kinds[k].name);
            first = failures_of(&s, &reads);
            CHECK(rmg_sim_start_again(&s.sim, &before, 1) == RMG_OK, "another");
            failures_of(&s, &reads_again);
            rmg_sim_wait(&s.sim, 123456789);
            come_up(&s);
            CHECK(rmg_sim_start_again(&s.sim, &fault, 1) == RMG_OK, "and back");
            CHECK(!s.sim.now_ns && !s.sim.reads, "the clock begins anew");
            again = failures_of(&s, &reads_again);
            CHECK(first == again && reads == reads_again, "%s on %s: %llu and %llu failing reads",
                  diag_kinds[k].name, files[n], (unsigned long long)reads,
                  (unsigned long long)reads_again);
            compared++;
        }
        CHECK(rmg_sim_start_again(&s.sim, NULL, 0) == RMG_OK, "healthy again");
        {
            uint64_t reads;

            failures_of(&s, &reads);
            CHECK(!reads, "and it is");
        }
        end(&s);
    }
    CHECK(compared > 60u / ONE_IN, "%u kinds", compared);
}

static void refused(void)
{
    const rmg_sim_fault good = {.kind = RMG_FAULT_MISSING, .chip = 1};
    const rmg_sim_fault bad = {.kind = RMG_FAULT_CELL, .chip = 1, .cell = 1u << 20};
    stage s;

    begin(&s, "demo/boards/halvorn64.yaml");
    CHECK(rmg_sim_start(&s.sim, &s.model.board, &good, 1, 4, s.memory) == RMG_OK, "starts");
    CHECK(rmg_sim_start_again(&s.sim, &bad, 1) == RMG_ERR_ARGUMENT, "no such cell");
    CHECK(s.sim.fault_count == 1 && s.sim.faults == &good, "it is as it was");
    end(&s);
}

/* rmg_rule_address is the way back of rmg_rule_cell, on every rule of every demo board. */
static void back_from_a_cell(void)
{
    static const char *const files[] = {"demo/boards/halvorn64.yaml", "demo/boards/ostrel16.yaml",
                                        "demo/boards/tarnbeck.yaml"};
    uint64_t dice = 5;

    for (size_t n = 0; n < COUNT(files); n++) {
        rmg_board *board = bench_load(files[n]);

        for (uint16_t r = 0; r < board->placement.rule_count; r++)
            for (unsigned i = 0; i < 20; i++) {
                const rmg_rule *rule = &board->placement.rules[r];
                const rmg_addr cell = bench_dice(&dice, (uint64_t)1 << rule->address_lines);
                const rmg_addr address = rmg_rule_address(rule, cell);

                CHECK(rmg_where_holds(&rule->where, address) &&
                          rmg_rule_cell(rule, address) == cell,
                      "%s, rule %u, cell %llx", files[n], r, (unsigned long long)cell);
            }
        rmg_board_free(board);
    }
}

/* Words of a bank that are tested, counted without a walk over them. */
static void words_of_a_bank(void)
{
    rmg_board *board = bench_load("demo/boards/tarnbeck.yaml");
    uint64_t dice = 8;

    for (unsigned i = 0; i < 40; i++) {
        rmg_plan plan = bench_plan(true, 1);
        rmg_error error = {0};
        rmg_run run;

        plan.limited = true;
        plan.limit.first = bench_dice(&dice, board->regions[0].range.last - 0x900);
        plan.limit.last = plan.limit.first + 8 + bench_dice(&dice, 0x800);
        CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK, "begins");
        for (size_t b = 0; b < board->bank_count; b++) {
            uint64_t words = 0;

            for (rmg_addr a = plan.limit.first; a <= plan.limit.last; a++)
                words += rmg_where_holds(&board->bank_wheres[b], a);
            CHECK(run.bank_words[b] == words, "bank %zu from %llx: %llu, not %llu", b,
                  (unsigned long long)plan.limit.first, (unsigned long long)run.bank_words[b],
                  (unsigned long long)words);
        }
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

CU_TestInfo again_tests[] = {
    {"like a first start", like_a_first_start},
    {"refused", refused},
    {"back from a cell", back_from_a_cell},
    {"words of a bank", words_of_a_bank},
    CU_TEST_INFO_NULL,
};
