/* Faults that depend on what was done before, on time and on conditions, each at seeded places of
 * the three boards: found by every plan that claims it. And the simulator's whole elements. */
#include <glib.h>
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/plan.h"
#include "suites.h"
#include "temporary.h"

static const char *const plans[] = {"quick", "full", "deep"};
static const char *const boards[] = {"demo/boards/halvorn64.yaml", "demo/boards/ostrel16.yaml",
                                     "demo/boards/tarnbeck.yaml"};

/* A fault to be injected at a place drawn at random, and which built-in plans claim to find it: by
 * explain's share of its class, or because a step is there for it. */
typedef struct living {
    const char *title;
    rmg_fault_kind kind;
    bool coupled;
    bool rows; /* only in chips with rows */
    uint32_t after_us, count;
    bool found_by[3]; /* quick, full, deep */
} living;

static const living faults[] = {
    {"transition", RMG_FAULT_TRANSITION, false, false, 0, 0, {true, true, true}},
    {"write destructive", RMG_FAULT_WRITE_FLIPS, false, false, 0, 0, {false, true, true}},
    {"read destructive", RMG_FAULT_READ_FLIPS, false, false, 0, 0, {true, true, true}},
    {"deceptive read", RMG_FAULT_READ_FLIPS_AFTER, false, false, 0, 0, {false, true, true}},
    {"incorrect read", RMG_FAULT_READ_WRONG, false, false, 0, 0, {true, true, true}},
    {"coupled transition", RMG_FAULT_TRANSITION, true, false, 0, 0, {false, true, true}},
    {"coupled write", RMG_FAULT_WRITE_FLIPS, true, false, 0, 0, {false, true, true}},
    {"coupled read", RMG_FAULT_READ_FLIPS, true, false, 0, 0, {false, true, true}},
    {"coupled deceptive read", RMG_FAULT_READ_FLIPS_AFTER, true, false, 0, 0, {false, true, true}},
    {"coupled incorrect read", RMG_FAULT_READ_WRONG, true, false, 0, 0, {false, true, true}},
    {"inversion", RMG_FAULT_COUPLING_INVERTS, true, false, 0, 0, {false, true, true}},
    {"idempotent", RMG_FAULT_COUPLING_SETS, true, false, 0, 0, {false, true, true}},
    {"state", RMG_FAULT_COUPLING_HOLDS, true, false, 0, 0, {false, true, true}},
    {"disturb", RMG_FAULT_COUPLING_FLIPS, true, false, 0, 0, {false, true, true}},
    {"address, no cell", RMG_FAULT_ADDRESS_CELLS, false, false, 0, 0, {true, true, true}},
    {"address, other cell", RMG_FAULT_ADDRESS_CELLS, true, false, 0, 0, {true, true, true}},
    {"retention of 50 ms", RMG_FAULT_RETENTION, false, false, 50000, 0, {false, true, true}},
    {"row disturbed by 900 accesses", RMG_FAULT_DISTURB, false, true, 0, 900, {false, false, true}},
    {"half of the rows not refreshed",
     RMG_FAULT_REFRESH,
     false,
     true,
     2000,
     0,
     {false, false, true}},
    {"late output", RMG_FAULT_LATE, false, false, 0, 0, {true, true, true}},
    {"stale output", RMG_FAULT_STALE, false, false, 0, 0, {true, true, true}},
};

/* A place of the board that a plan tests, as a chip and a cell. */
static bool draw_place(const rmg_board *board, bool rows, uint64_t *dice, rmg_sim_fault *f)
{
    for (unsigned tries = 0; tries < 1000; tries++) {
        const rmg_region *region = &board->regions[bench_dice(dice, board->region_count)];
        const rmg_addr words = region->range.last - region->range.first + 1u;
        const rmg_addr address = region->range.first + bench_dice(dice, words);
        const rmg_part *part;
        rmg_place place;

        if (region->kind != RMG_REGION_RAM ||
            !rmg_place_find(&board->placement, address, (uint8_t)bench_dice(dice, board->word_bits),
                            &place))
            continue;
        part = board->sockets[place.socket].part;
        if (rows && !part->row_lines)
            continue;
        f->chip = place.socket;
        f->cell = place.cell;
        f->data_line = place.data_line;
        return true;
    }
    return false;
}

/* An aggressor that the plans test too: a neighbour whose address is in RAM as well. */
static void draw_aggressor(const rmg_board *board, uint64_t *dice, rmg_sim_fault *f)
{
    for (;;) {
        rmg_sim_fault other = {0};

        if (!draw_place(board, false, dice, &other))
            return;
        if (other.chip != f->chip || other.cell == f->cell)
            continue;
        f->cell2 = other.cell;
        f->data_line2 = other.data_line;
        return;
    }
}

static void inject(const living *l, const rmg_board *board, uint64_t *dice, rmg_sim_fault *f)
{
    memset(f, 0, sizeof *f);
    f->kind = l->kind;
    CHECK(draw_place(board, l->rows, dice, f), "a place");
    f->level = (uint8_t)bench_dice(dice, 2);
    f->state = (uint8_t)bench_dice(dice, 2);
    f->operation = (rmg_sim_operation)bench_dice(dice, 6);
    f->coupled = l->coupled && l->kind <= RMG_FAULT_READ_WRONG;
    f->after_us = l->after_us;
    f->count = l->count;
    f->reaches = l->coupled ? (rmg_sim_reaches)(1u + bench_dice(dice, 3)) : RMG_REACHES_NONE;
    f->reads = (rmg_sim_reads)bench_dice(dice, 3);
    if (l->coupled)
        draw_aggressor(board, dice, f);
    if (l->kind == RMG_FAULT_REFRESH) {
        f->cell = (rmg_addr)1 << (board->sockets[f->chip].part->row_lines - 1u);
        rmg_fault_include(f, f->chip);
    }
    if (l->kind == RMG_FAULT_DISTURB) {
        const uint8_t row_lines = board->sockets[f->chip].part->row_lines;
        const rmg_addr mask = ((rmg_addr)1 << row_lines) - 1u;

        f->row = (f->cell & mask) == mask ? (f->cell & mask) - 1u : (f->cell & mask) + 1u;
    }
}

static bool finds(const rmg_board *board, const rmg_sim_fault *f, const rmg_steps *steps,
                  uint64_t seed)
{
    const rmg_plan plan = {.steps = steps, .passes = 1, .seed = seed};
    rmg_sim_board_run bench;
    rmg_run run;
    rmg_error error = {0};
    bool found;

    bench_start(&bench, board, f, 1, seed);
    CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK, "begins");
    CHECK(rmg_run_carry_out(&run, &bench.target, NULL) == RMG_OK, "runs");
    found = rmg_run_failed(&run);
    rmg_run_end(&run);
    rmg_sim_board_end(&bench);
    return found;
}

/* At few places each plan is run on a part of the faults only, the long ones on fewer. */
static bool passed_over(uint64_t places, size_t board, size_t plan, size_t fault)
{
    static const size_t every[3][3] = {{1, 4, 18}, {2, 5, 18}, {4, 18, 100}};

    return (places < 3 || board == 2) && fault % every[board][plan] &&
           !(plan == 2 && board == 0 && (fault == 17 || fault == 18));
}

/* One pass of each plan at so many places. A DRAM that is refreshed does not forget in a hold, so
 * retention is put into static memories or held against refresh being on. */
static void claimed_faults_found(void)
{
    const char *setting = getenv("RMG_TEST_PLACES");
    const uint64_t places = setting ? MIN(strtoull(setting, NULL, 10), 40) : 1;
    uint64_t dice = 2026;

    for (size_t b = 0; b < COUNT(boards); b++) {
        rmg_board *board = bench_load(boards[b]);

        for (size_t p = 0; p < COUNT(plans); p++) {
            rmg_errors none = {0};
            rmg_steps steps;

            CHECK(rmg_steps_load(plans[p], &steps, &none) == RMG_OK, "plan");
            for (size_t i = (b + p) % ONE_IN; i < COUNT(faults); i += ONE_IN)
                for (uint64_t n = 0;
                     faults[i].found_by[p] && n < (b == 2 ? (places + 9) / 10 : places); n++) {
                    rmg_sim_fault f;

                    if ((faults[i].rows && b == 2) || passed_over(places, b, p, i))
                        continue; /* no rows there */
                    inject(&faults[i], board, &dice, &f);
                    if (f.kind == RMG_FAULT_RETENTION && board->sockets[f.chip].part->row_lines)
                        f.after_us = 1500; /* weaker than refresh every 2 ms or more */
                    CHECK(finds(board, &f, &steps, n + 1), "%s: %s, %s at cell %lx of %s",
                          board->name, plans[p], faults[i].title, (unsigned long)f.cell,
                          board->sockets[f.chip].name);
                }
            rmg_steps_free(&steps);
        }
        rmg_board_free(board);
    }
}

/* Writes all of the upper bank, waits, counts the words that changed. */
static unsigned changed_after(rmg_sim *sim, rmg_word value, uint64_t wait_ns)
{
    unsigned changed = 0;

    for (rmg_addr a = 0x8000; a <= 0xBFFF; a++)
        rmg_sim_write(sim, a, value);
    rmg_sim_wait(sim, wait_ns);
    for (rmg_addr a = 0x8000; a <= 0xBFFF; a++)
        changed += rmg_sim_read(sim, a) != value;
    return changed;
}

#define SECOND UINT64_C(1000000000)

static void refresh_keeps(void)
{
    rmg_board *board = bench_load(boards[0]);
    rmg_sim_fault half = {.kind = RMG_FAULT_REFRESH, .cell = 64, .after_us = 2000};
    rmg_sim_board_run bench;
    rmg_sim *sim = &bench.sim;
    unsigned changed = 0;

    for (uint16_t c = 0; c < 16; c++)
        rmg_fault_include(&half, c);
    bench_start(&bench, board, NULL, 0, 1);
    CHECK(!changed_after(sim, 0x00, 60 * SECOND), "refreshed, it keeps for ever");
    CHECK(!changed_after(sim, 0xFF, 60 * SECOND), "both levels"); /* row 0 would leak to 0 */
    CHECK(rmg_sim_set(sim, RMG_CONDITION_REFRESH, 0) == RMG_OK, "refresh stops");
    for (rmg_addr a = 0x8000; a <= 0xBFFF; a++)
        changed += rmg_sim_read(sim, a) != 0xFF;
    CHECK(!changed, "what was refreshed until then is there: %u words are not", changed);
    CHECK(!changed_after(sim, 0xFF, SECOND / 5), "not refreshed, it keeps a while");
    CHECK(changed_after(sim, 0xFF, 4 * SECOND) == 0x2000, "then half of the rows are 0");
    CHECK(changed_after(sim, 0x00, 4 * SECOND) == 0x2000, "and the other half 1");
    CHECK(rmg_sim_set(sim, RMG_CONDITION_HEAT_MILLIC, 65000) == RMG_OK, "it gets warm");
    CHECK(changed_after(sim, 0xFF, SECOND / 5) > 0x1000, "warm, it keeps a sixteenth as long");
    CHECK(rmg_sim_set(sim, RMG_CONDITION_REFRESH, 1) == RMG_OK, "refresh goes on");
    CHECK(!changed_after(sim, 0xFF, 60 * SECOND) && !changed_after(sim, 0x00, 60 * SECOND),
          "and keeps");
    rmg_sim_board_end(&bench);
    bench_start(&bench, board, &half, 1, 1);
    CHECK(changed_after(&bench.sim, 0xFF, 4 * SECOND) == 0, "rows 64 to 127 leak to 1 only");
    CHECK(changed_after(&bench.sim, 0x00, 4 * SECOND) == 0x2000, "rows past the 64th are lost");
    rmg_sim_board_end(&bench);
    rmg_board_free(board);
}

/* A weak cell loses its value between two refreshes, however near both ends are to one. */
static void weak_between_refreshes(void)
{
    const rmg_sim_fault weak = {
        .kind = RMG_FAULT_RETENTION, .chip = 8, .cell = 0, .after_us = 1500};
    rmg_board *board = bench_load(boards[0]);

    for (unsigned turn = 0; turn < 3; turn++) { /* row 0 is refreshed at 2, 4 and 6 ms */
        static const uint64_t from_us[] = {1900, 2100, 1900}, to_us[] = {6100, 3500, 2100};
        rmg_sim_board_run bench;

        bench_start(&bench, board, &weak, 1, 1);
        rmg_sim_wait(&bench.sim, from_us[turn] * 1000u);
        rmg_sim_write(&bench.sim, 0x8000, 0xFF);
        rmg_sim_wait(&bench.sim, (to_us[turn] - from_us[turn]) * 1000u);
        CHECK((rmg_sim_read(&bench.sim, 0x8000) != 0xFF) == (turn == 0), "turn %u", turn);
        rmg_sim_board_end(&bench);
    }
    rmg_board_free(board);
}

/* What was lost while refresh rested is not there again when it goes on: in the first row, in the
 * last, in the first and last chip. */
static void lost_while_at_rest(void)
{
    rmg_board *board = bench_load(boards[0]);
    static const char *const sockets[] = {"U11", "U26"};

    for (unsigned turn = 0; turn < 8; turn++) {
        const rmg_addr row = turn & 1u ? 127 : 0;
        const bool rests = turn & 4u;
        const rmg_sim_fault weak = {.kind = RMG_FAULT_RETENTION,
                                    .chip = rmg_board_socket(board, sockets[turn >> 1 & 1u]),
                                    .cell = row,
                                    .after_us = 3000};
        const rmg_addr address = (turn & 2u ? 0x8000u : 0u) + row;
        rmg_sim_board_run bench;

        bench_start(&bench, board, &weak, 1, 1);
        CHECK(rmg_sim_set(&bench.sim, RMG_CONDITION_REFRESH, !rests) == RMG_OK, "set");
        rmg_sim_write(&bench.sim, address, 0xFF);
        rmg_sim_wait(&bench.sim, 10000000);
        CHECK(rmg_sim_set(&bench.sim, RMG_CONDITION_REFRESH, 1) == RMG_OK, "goes on");
        CHECK((rmg_sim_read(&bench.sim, address) != 0xFF) == rests, "turn %u", turn);
        rmg_sim_board_end(&bench);
    }
    rmg_board_free(board);
}

/* A row step alone finds a cell that its neighbours' accesses set, to 0 and to 1. */
static void rows_both_ways(void)
{
    rmg_board *board = bench_load(boards[0]);

    for (uint8_t level = 0; level < 2; level++) {
        const rmg_sim_fault set = {.kind = RMG_FAULT_DISTURB,
                                   .chip = rmg_board_socket(board, "U20"),
                                   .cell = 5 * 128 + 36,
                                   .row = 37,
                                   .count = 400,
                                   .level = level};
        rmg_plan plan = bench_plan(false, 1);
        rmg_errors errors = {0};
        rmg_steps steps;
        rmg_suspects s;
        rmg_run run;

        CHECK(rmg_steps_load(
                  temporary_file("rows.yaml", "plan: rows\nsteps:\n  - {row-accesses: 500}\n"),
                  &steps, &errors) == RMG_OK,
              "loads");
        plan.steps = &steps;
        bench_examine(board, &set, 1, &plan, 4, &run, &s);
        CHECK(run.tally.failing && rmg_failset_words(run.failures, NULL, 1u << 6) == 1 &&
                  rmg_failset_words(run.failures, NULL, ~(rmg_word)0) == 1,
              "set to %u", level);
        CHECK(level ? run.tally.bits[1][6].high && !run.tally.bits[1][6].low
                    : run.tally.bits[1][6].low && !run.tally.bits[1][6].high,
              "in that direction");
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_steps_free(&steps);
    }
    rmg_board_free(board);
}

/* Each condition of a fault, just outside and just inside. */
static void conditions(void)
{
    static const struct {
        const char *title;
        rmg_sim_when when;
        rmg_condition which;
        int32_t asleep, awake;
    } rows[] = {
        {"warm", {.warm = true, .from_millic = 40000}, RMG_CONDITION_HEAT_MILLIC, 39999, 40000},
        {"low supply", {.below_mv = 4700}, RMG_CONDITION_SUPPLY_MV, 4700, 4699},
        {"fast clock", {.from_hz = 4000000}, RMG_CONDITION_CLOCK_HZ, 3900000, 4000000},
    };
    rmg_board *board = bench_load(boards[0]);

    for (size_t i = 0; i < COUNT(rows); i++) {
        const rmg_sim_fault f = {
            .kind = RMG_FAULT_OUTPUT, .chip = 8, .level = 1, .when = rows[i].when};
        rmg_sim_board_run bench;
        int32_t told = 0;

        bench_start(&bench, board, &f, 1, 1);
        CHECK(rmg_sim_set(&bench.sim, rows[i].which, rows[i].asleep) == RMG_OK, "%s",
              rows[i].title);
        rmg_sim_write(&bench.sim, 0x8000, 0);
        CHECK(rmg_sim_read(&bench.sim, 0x8000) == 0, "%s: not yet", rows[i].title);
        CHECK(bench.target.bus->set_condition(&bench.sim, rows[i].which, rows[i].awake) == RMG_OK &&
                  bench.target.bus->get_condition(&bench.sim, rows[i].which, &told) == RMG_OK,
              "%s", rows[i].title);
        CHECK(abs(told - rows[i].awake) <= rows[i].awake / 100, "%s: told %d", rows[i].title, told);
        CHECK(rmg_sim_read(&bench.sim, 0x8000) != 0, "%s: now", rows[i].title);
        CHECK(rmg_sim_set(&bench.sim, rows[i].which, -60000) == RMG_ERR_PORT_CANNOT,
              "%s: out of range", rows[i].title);
        rmg_sim_board_end(&bench);
    }
    rmg_board_free(board);
}

/* A rate is met, by the same dice at every start; another world has other dice. */
static void rates(void)
{
    const rmg_sim_fault f = {
        .kind = RMG_FAULT_NOISE, .line = RMG_ALL_DATA_LINES, .when = {.rate_ppb = 10000000}};
    rmg_board *board = bench_load(boards[0]);
    unsigned wrong[3] = {0, 0, 0}, bits = 0, sum[3] = {0, 0, 0};

    for (unsigned turn = 0; turn < 3; turn++) {
        rmg_sim_board_run bench;

        bench_start(&bench, board, &f, 1, turn == 2 ? 6 : 5);
        rmg_sim_write(&bench.sim, 0x8000, 0);
        for (unsigned i = 0; i < 20000; i++) {
            const rmg_word value = rmg_sim_read(&bench.sim, 0x8000);

            wrong[turn] += value != 0;
            sum[turn] += value ? i : 0;
            bits |= (unsigned)value;
            CHECK(!(value & (value - 1u)), "one bit at a time");
        }
        rmg_sim_board_end(&bench);
    }
    CHECK(wrong[0] > 140 && wrong[0] < 260, "1 %% of 20,000: %u", wrong[0]);
    CHECK(wrong[0] == wrong[1] && sum[0] == sum[1], "the same world");
    CHECK(sum[0] != sum[2], "another world");
    CHECK(bits == 0xFF, "every bit in turn");
    rmg_board_free(board);
}

static void warming_up(void)
{
    rmg_board *board = bench_load(boards[0]);
    rmg_sim_board_run bench;
    int32_t heat;

    bench_start(&bench, board, NULL, 0, 1);
    rmg_sim_warm(&bench.sim, 20000, 40000, 100 * SECOND);
    for (unsigned i = 0; i <= 10; i++) {
        const int32_t wanted = i < 5 ? 20000 + (int32_t)i * 5000 : 40000;

        rmg_sim_get(&bench.sim, RMG_CONDITION_HEAT_MILLIC, &heat);
        CHECK(abs(heat - wanted) < 10, "after %u s: %d", i * 25, heat);
        rmg_sim_wait(&bench.sim, 25 * SECOND);
    }
    rmg_sim_board_end(&bench);
    rmg_board_free(board);
}

/* Do two simulations hold the same? */
static bool same_state(const rmg_sim *one, const rmg_sim *other)
{
    const size_t bytes = rmg_sim_state_bytes(one);
    unsigned char *states[2];
    bool same = rmg_sim_state_bytes(other) == bytes;

    for (unsigned i = 0; i < 2; i++) {
        states[i] = malloc(rmg_sim_state_bytes(i ? other : one));
        rmg_sim_save(i ? other : one, states[i]);
    }
    same = same && memcmp(states[0], states[1], bytes) == 0;
    free(states[0]);
    free(states[1]);
    return same;
}

/* The same march on two simulations, element by element and word by word, with faults that
 * remember: the same failures, contents and clock. */
static void elements_are_words(void)
{
    static const rmg_sim_fault bad[] = {
        {.kind = RMG_FAULT_CELL, .chip = 3, .cell = 77, .level = 1},
        {.kind = RMG_FAULT_COUPLING_SETS,
         .chip = 9,
         .cell = 5,
         .cell2 = 900,
         .state = 1,
         .level = 1},
        {.kind = RMG_FAULT_ROW, .chip = 12, .data_line = 0, .cell = 9, .level = 0},
        {.kind = RMG_FAULT_TRANSITION, .chip = 0, .cell = 16383, .level = 1}};
    rmg_board *board = bench_load(boards[0]);
    rmg_bus words = rmg_sim_bus;
    rmg_sim_board_run one, other;
    rmg_tally tallies[2];

    words.run_element = NULL;
    bench_start(&one, board, bad, COUNT(bad), 4);
    bench_start(&other, board, bad, COUNT(bad), 4);
    other.target.bus = &words;
    for (uint8_t m = 0; m < rmg_march_name_count; m++) {
        const rmg_range ranges[] = {{0x0003 + m, 0x3BFF}, {0x8000, 0xBFFE - m}};
        const rmg_observer observer = {.every_log2 = (uint8_t)(m % 9)};
        const rmg_march_job job = {.code = rmg_march_names[m].code,
                                   .ranges = ranges,
                                   .range_count = 2,
                                   .observer = &observer,
                                   .hold_us = 1000,
                                   .background = m * 37u,
                                   .either_down = m & 1u};

        rmg_tally_clear(&tallies[0], board->bank_wheres, 2);
        rmg_tally_clear(&tallies[1], board->bank_wheres, 2);
        CHECK(rmg_march_run(&one.target, &job, &tallies[0]) == RMG_OK, "runs");
        CHECK(rmg_march_run(&other.target, &job, &tallies[1]) == RMG_OK, "runs");
        CHECK(tallies[0].failing && bench_same_tally(&tallies[0], &tallies[1]),
              "%s: the same failures", rmg_march_names[m].name);
        CHECK(one.sim.now_ns == other.sim.now_ns && one.sim.reads == other.sim.reads &&
                  one.sim.writes == other.sim.writes && one.sim.last_bus == other.sim.last_bus,
              "%s: the same accesses", rmg_march_names[m].name);
    }
    CHECK(same_state(&one.sim, &other.sim), "the same contents");
    rmg_sim_board_end(&one);
    rmg_sim_board_end(&other);
    rmg_board_free(board);
}

/* A fault of those that act only after something else, or a cell's. */
static rmg_sim_fault draw_waiting(const rmg_board *board, uint64_t *dice)
{
    static const rmg_fault_kind kinds[] = {RMG_FAULT_SLOW_DECODER,   RMG_FAULT_LATE_PRECHARGE,
                                           RMG_FAULT_WRITE_RECOVERY, RMG_FAULT_RETENTION,
                                           RMG_FAULT_REFRESH,        RMG_FAULT_SLOW_LINE,
                                           RMG_FAULT_TRANSITION};
    rmg_sim_fault f = {.kind = kinds[bench_dice(dice, COUNT(kinds))]};

    CHECK(draw_place(board, true, dice, &f), "a place");
    f.cell %= 0x800u;
    f.level = (uint8_t)bench_dice(dice, 2);
    f.state = (uint8_t)bench_dice(dice, 2);
    f.after_us = (uint32_t)(bench_dice(dice, 2) ? 100 + bench_dice(dice, 3000)
                                                : 3000 + bench_dice(dice, 90000));
    f.lines = (rmg_addr)1 << bench_dice(dice, 14);
    switch (f.kind) {
    case RMG_FAULT_SLOW_DECODER:
        f.cell2 = bench_dice(dice, 2) ? f.cell ^ 1u : (f.cell + 1u) % 16384u;
        break;
    case RMG_FAULT_LATE_PRECHARGE:
    case RMG_FAULT_WRITE_RECOVERY:
        f.cell >>= 7;
        break;
    case RMG_FAULT_REFRESH:
        f.cell = bench_dice(dice, 129);
        for (uint16_t c = 0; c < 16; c++)
            if (c == f.chip || f.level)
                rmg_fault_include(&f, c);
        break;
    default:
        break;
    }
    return f;
}

/* Chips that are watched, and the same chip by chip all the time, which a fault of the bus that
 * never wakes makes them: accesses by themselves, elements, time, rest of refresh, a state brought
 * back. */
static void watched_chips(void)
{
    const char *setting = getenv("RMG_TEST_PLACES");
    const unsigned cases = setting ? 20u * (unsigned)atoi(setting) : 14;
    rmg_board *board = bench_load(boards[0]);
    unsigned failing = 0, flat = 0;
    uint64_t dice = 41;

    for (unsigned n = 0; n < cases; n++) {
        const uint16_t count = (uint16_t)(1u + bench_dice(&dice, 3));
        rmg_sim_fault bad[4];
        rmg_sim_board_run ways[2], other, *one = &ways[0], *back = &ways[1];
        rmg_tally tallies[2];

        for (uint16_t i = 0; i < count; i++)
            bad[i] = draw_waiting(board, &dice);
        bad[count] =
            (rmg_sim_fault){.kind = RMG_FAULT_NOISE, .line = 0, .when = {.from_hz = 1000000000}};
        bench_start(one, board, bad, count, n);
        for (uint16_t i = 0; i < count; i++)
            for (uint16_t r = 0; r < board->placement.rule_count; r++) {
                const rmg_rule *rule = &board->placement.rules[r];

                CHECK(rule->socket != bad[i].chip || bad[i].kind != RMG_FAULT_RETENTION ||
                          !rmg_sim_sound(&one->sim, rmg_rule_address(rule, bad[i].cell)),
                      "case %u: a weak cell's word is not sound", n);
            }
        bench_start(back, board, bad, count, n);
        bench_start(&other, board, bad, (uint16_t)(count + 1u), n);
        for (unsigned turn = 0; turn < 6; turn++) {
            const uint64_t rest = bench_dice(&dice, 3) ? 0 : bench_dice(&dice, 60000000);
            const rmg_range ranges[] = {
                {bench_dice(&dice, 0x200), 0x200 + bench_dice(&dice, 0x200)}, {0x8000, 0x87FF}};
            const rmg_march_job job = {
                .code = rmg_march_names[bench_dice(&dice, rmg_march_name_count)].code,
                .ranges = ranges,
                .range_count = 2,
                .hold_us = (uint32_t)bench_dice(&dice, 100000),
                .background = (rmg_word)bench_dice(&dice, 256)};

            rmg_tally_clear(&tallies[0], board->bank_wheres, 2);
            rmg_tally_clear(&tallies[1], board->bank_wheres, 2);
            rmg_march_run(&one->target, &job, &tallies[0]);
            rmg_march_run(&other.target, &job, &tallies[1]);
            CHECK(bench_same_tally(&tallies[0], &tallies[1]), "case %u, turn %u: the same failures",
                  n, turn);
            failing += tallies[0].failing != 0;
            for (unsigned i = 0; i < 200; i++) {
                const rmg_sim_fault *f = &bad[bench_dice(&dice, count)];
                const rmg_addr near = bench_dice(&dice, 4) ? bench_dice(&dice, 4) : i * 37u;
                const rmg_addr a = 0x8000u | (f->cell ^ near) % 0x4000u;
                const rmg_word value = (rmg_word)bench_dice(&dice, 256);

                if (bench_dice(&dice, 5) == 0) { /* elsewhere in the meantime */
                    const rmg_range few = {0x8000u + i * 4u, 0x8000u + i * 4u + 40u};
                    const rmg_march_job meantime = {
                        .code = rmg_march_mats_plus, .ranges = &few, .range_count = 1};

                    rmg_march_run(&one->target, &meantime, &tallies[0]);
                    rmg_march_run(&other.target, &meantime, &tallies[1]);
                }

                CHECK(rmg_sim_read(&one->sim, a) == rmg_sim_read(&other.sim, a), "case %u: reads",
                      n);
                if (bench_dice(&dice, 2)) {
                    rmg_sim_write(&one->sim, a, value);
                    rmg_sim_write(&other.sim, a, value);
                }
            }
            if (bench_dice(&dice, 2)) { /* goes on in the other one, which stands elsewhere */
                rmg_sim_board_run *const left = one;
                const size_t bytes = rmg_sim_state_bytes(&left->sim);
                unsigned char *state = malloc(bytes);

                rmg_sim_save(&left->sim, state);
                CHECK(rmg_sim_restore(&back->sim, state, bytes) == RMG_OK, "comes back");
                free(state);
                one = back;
                back = left;
                for (rmg_addr a = 0x8000; a < 0x8800; a += 3)
                    CHECK(rmg_sim_read(&one->sim, a) == rmg_sim_read(&other.sim, a),
                          "case %u, turn %u: reads after it", n, turn);
            }
            if (turn == 2 || turn == 3) {
                rmg_sim_set(&one->sim, RMG_CONDITION_REFRESH, turn == 3);
                rmg_sim_set(&other.sim, RMG_CONDITION_REFRESH, turn == 3);
            }
            rmg_sim_wait(&one->sim, rest);
            rmg_sim_wait(&other.sim, rest);
        }
        flat += one->sim.chipwise < other.sim.chipwise / 3u;
        CHECK(one->sim.now_ns == other.sim.now_ns, "the same time");
        rmg_sim_board_end(one);
        rmg_sim_board_end(back);
        rmg_sim_board_end(&other);
    }
    CHECK(failing > 2 * cases && flat > cases / 4u, "%u marches failed, %u cases were flat",
          failing, flat);
    rmg_board_free(board);
}

/* A simulation brought back goes on as the one that was left. */
static void state_comes_back(void)
{
    const rmg_sim_fault bad[] = {
        {.kind = RMG_FAULT_NOISE, .line = 3, .when = {.rate_ppb = 50000000}},
        {.kind = RMG_FAULT_COUPLING_INVERTS, .chip = 9, .cell = 5, .cell2 = 9, .state = 1}};
    rmg_board *board = bench_load(boards[0]);
    rmg_sim_board_run left, found;
    unsigned char *state;
    size_t bytes;
    bool same = true;

    bench_start(&left, board, bad, 2, 1);
    bench_start(&found, board, bad, 2, 1);
    for (rmg_addr a = 0x8000; a < 0x8400; a++)
        rmg_sim_write(&left.sim, a, a & 0xFFu);
    bytes = rmg_sim_state_bytes(&left.sim);
    state = malloc(bytes);
    rmg_sim_save(&left.sim, state);
    CHECK(rmg_sim_restore(&found.sim, state, bytes - 1) == RMG_ERR_ARGUMENT, "too short");
    state[0]--; /* of a program that kept other chips' words flat */
    CHECK(rmg_sim_restore(&found.sim, state, bytes) == RMG_ERR_ARGUMENT, "of another form");
    state[0]++;
    CHECK(rmg_sim_restore(&found.sim, state, bytes) == RMG_OK, "comes back");
    for (unsigned i = 0; i < 3000; i++) {
        const rmg_addr a = 0x8000 + i * 7u % 0x400u;

        same &= rmg_sim_read(&left.sim, a) == rmg_sim_read(&found.sim, a);
        rmg_sim_write(&left.sim, a, i & 0xFFu);
        rmg_sim_write(&found.sim, a, i & 0xFFu);
    }
    CHECK(same && left.sim.now_ns == found.sim.now_ns, "goes on alike");
    free(state);
    rmg_sim_board_end(&left);
    rmg_sim_board_end(&found);
    rmg_board_free(board);
}

CU_TestInfo living_tests[] = {
    {"every fault is found by the plans that claim it", claimed_faults_found},
    {"refresh, and cells that leak", refresh_keeps},
    {"weak cells between refreshes", weak_between_refreshes},
    {"faults under conditions", conditions},
    {"faults at a rate", rates},
    {"warming up", warming_up},
    {"whole elements are their words", elements_are_words},
    {"a state that comes back", state_comes_back},
    {"watched chips", watched_chips},
    {"row steps in both polarities", rows_both_ways},
    {"lost while refresh rests", lost_while_at_rest},
    CU_TEST_INFO_NULL,
};
