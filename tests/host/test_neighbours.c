/* Faults of a cell that depend on the cells around it: what the tests for them find and cost, on
 * cells of their own and on the simulated board, which shares no code with these; where rows and
 * columns are in another order; and what a run on a board makes of them. */
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/coverage.h"
#include "rimeglass/plan.h"
#include "rimeglass/replay.h"
#include "rimeglass/sim.h"
#include "suites.h"

#define SIDE RMG_NEIGHBOURHOOD_SIDE

/* What is run: a test of neighbours, or a march. */
typedef struct trial {
    int neighbours; /* -1: the march */
    uint8_t code[RMG_MARCH_BYTES];
    uint8_t row_lines; /* of addresses: row lines lowest; 0: those of a neighbourhood */
    uint8_t row, column;
    bool found;
    unsigned accesses;
} trial;

static trial neighbours_of(rmg_neighbours which)
{
    return (trial){.neighbours = (int)which};
}

static trial march_of(const char *notation)
{
    trial t = {.neighbours = -1};

    CHECK(rmg_march_parse(notation, t.code, sizeof t.code, NULL) == RMG_OK, "%s", notation);
    return t;
}

static bool address_of(const void *context, rmg_addr row, rmg_addr column, rmg_addr *address)
{
    const trial *t = context;

    *address = t->row_lines ? column << t->row_lines | row : SIDE * row + column;
    return true;
}

static void on_read(void *context, unsigned changes, rmg_addr address, rmg_word expected,
                    rmg_word actual)
{
    trial *t = context;

    (void)changes;
    (void)address;
    t->found |= expected != actual;
}

static bool on_change(void *context, unsigned changes)
{
    (void)context;
    (void)changes;
    return true;
}

/* All of it over an array; true: something read wrong. */
static bool runs(trial *t, const rmg_target *target, uint8_t rows, uint8_t columns)
{
    const rmg_grid grid = {rows, columns, NULL, address_of, t};
    rmg_range ranges[SIDE];
    rmg_march_job job = {.code = t->code, .ranges = ranges, .range_count = rows};
    rmg_tally tally;

    t->found = false;
    if (t->neighbours >= 0) {
        CHECK(rmg_neighbours_run(target, &grid, (rmg_neighbours)t->neighbours,
                                 &(rmg_grid_watch){on_read, on_change, t}) == RMG_OK,
              "runs");
        return t->found;
    }
    for (uint8_t row = 0; row < rows; row++)
        ranges[row] = (rmg_range){SIDE * row, SIDE * row + columns - 1u};
    if (t->row_lines) { /* the march goes by rows in both */
        rmg_order order;

        ranges[0] = (rmg_range){0, (rmg_addr)rows * columns - 1u};
        job.range_count = 1;
        rmg_order_linear(&order, ranges, 1);
        for (uint8_t i = 0; i < order.lines; i++) /* the column counts fastest */
            order.line_of[i] = (uint8_t)((i + t->row_lines) % order.lines);
        rmg_tally_clear(&tally, NULL, 0);
        CHECK(rmg_march_run_patterned(target, &job, &(rmg_background){.start = 0}, &order,
                                      &tally) == RMG_OK,
              "runs");
        return tally.failing != 0;
    }
    rmg_tally_clear(&tally, NULL, 0);
    CHECK(rmg_march_run(target, &job, &tally) == RMG_OK, "runs");
    return tally.failing != 0;
}

static bool on_cells(void *context, const rmg_target *target, const rmg_neighbourhood *at)
{
    return runs(context, target, at->rows, at->columns);
}

static rmg_coverage share_of(const rmg_neighbourhood *at, rmg_pattern_class class, trial t)
{
    rmg_coverage c = {0, 0};

    CHECK(rmg_neighbour_coverage(at, class, on_cells, &t, &c) == RMG_OK, "computed");
    return c;
}

/* Each finds all of its own; how much of the others was computed here, and is kept. */
static void all_of_their_own(void)
{
    static const rmg_neighbourhood five = {.rows = 5, .columns = 5};
    static const struct {
        rmg_neighbours which;
        unsigned fifths, most; /* operations; as the literature has them, or UINT_MAX */
        uint32_t found[RMG_PATTERN_CLASSES];
    } rows[] = {{RMG_NEIGHBOURS_STATIC, 196, 217, {512, 145, 478}},
                {RMG_NEIGHBOURS_PASSIVE, 330, UINT_MAX, {512, 512, 0}},
                {RMG_NEIGHBOURS_ACTIVE, 810, 817, {512, 406, 1792}},
                {RMG_NEIGHBOURS_ALL, 970, 977, {512, 512, 1792}}};

    /* builds that run slowly take the shorter ones */
    for (size_t i = 0; i < (getenv("RMG_TEST_PLACES") ? 2 : COUNT(rows)); i++) {
        CHECK(rmg_neighbours_fifths(rows[i].which) == rows[i].fifths &&
                  rows[i].fifths <= rows[i].most,
              "%zu: %u fifths of an operation a word", i, rmg_neighbours_fifths(rows[i].which));
        for (int k = 0; k < RMG_PATTERN_CLASSES; k++) {
            const rmg_coverage c =
                share_of(&five, (rmg_pattern_class)k, neighbours_of(rows[i].which));

            CHECK(c.instances == (k == RMG_PATTERN_ACTIVE ? 1792 : 512) &&
                      c.found == rows[i].found[k],
                  "test %zu, class %d: %u of %u", i, k, c.found, c.instances);
        }
    }
}

/* A cell at an edge has fewer around it; other shapes; and what cannot be an array. */
static void shapes(void)
{
    static const uint8_t sides[] = {2, 3, 9};
    rmg_neighbourhood at = {.one_victim = true};
    rmg_coverage c;
    trial t = neighbours_of(RMG_NEIGHBOURS_ALL);

    for (size_t i = 0; i < COUNT(sides); i++) {
        at.rows = sides[i];
        at.columns = sides[COUNT(sides) - 1u - i];
        for (at.victim_row = 0; at.victim_row < 2; at.victim_row++) { /* a corner, and within */
            at.victim_column = at.victim_row;
            c = share_of(&at, RMG_PATTERN_ACTIVE, t);
            CHECK(c.found == c.instances && c.instances, "%u x %u: %u of %u", at.rows, at.columns,
                  c.found, c.instances);
        }
    }
    at = (rmg_neighbourhood){.rows = 1, .columns = 5};
    CHECK(rmg_neighbour_coverage(&at, RMG_PATTERN_STATIC, on_cells, &t, &c) == RMG_ERR_ARGUMENT,
          "one row");
    at = (rmg_neighbourhood){.rows = 5, .columns = SIDE + 1u};
    CHECK(rmg_neighbour_coverage(&at, RMG_PATTERN_STATIC, on_cells, &t, &c) == RMG_ERR_ARGUMENT,
          "too wide");
    at.columns = 5;
    CHECK(rmg_neighbour_coverage(&at, RMG_PATTERN_CLASSES, on_cells, &t, &c) == RMG_ERR_ARGUMENT,
          "no class");
}

/* The order 0, 2, 4, 1, 3 keeps the numbers of a neighbourhood apart; a row that lies beside the
 * fifth from it does not. */
static void orders_inside(void)
{
    static const uint8_t apart[] = {0, 2, 4, 1, 3}, swapped[] = {1, 0, 2, 3, 4};
    rmg_neighbourhood at = {.rows = 5, .columns = 5, .column_order = swapped};
    const trial t = neighbours_of(RMG_NEIGHBOURS_ALL);
    rmg_coverage c = share_of(&at, RMG_PATTERN_ACTIVE, t);

    CHECK(c.found < c.instances && c.found > c.instances / 4, "two columns exchanged: %u of %u",
          c.found, c.instances);
    at.row_order = apart; /* above and below are then 4 apart, as left and right are 1 */
    at.column_order = NULL;
    c = share_of(&at, RMG_PATTERN_ACTIVE, t);
    CHECK(c.found < c.instances, "rows two apart: %u of %u", c.found, c.instances);
    at.column_order = apart; /* left and right are 2 apart: all five differ again */
    at.row_order = apart;
    c = share_of(&at, RMG_PATTERN_STATIC, t);
    CHECK(c.found == c.instances, "both so: %u of %u", c.found, c.instances);
}

/* The same on the simulated board: a chip of 4 rows and 4 columns. */
#define LINES 2u

static bool on_board(trial *t, const rmg_sim_fault *fault, unsigned contents)
{
    static const uint8_t data[] = {0}, feeds[] = {0, 1, 2, 3};
    static uint64_t memory[128];
    const rmg_rule rule = {{0, 15, 0, 0}, data, NULL, NULL, feeds, NULL, 0, 0, 1, 2u * LINES};
    const rmg_placement placement = {&rule, 1};
    const rmg_sim_chip chip = {.width = 1, .address_lines = 2u * LINES, .row_lines = LINES};
    const rmg_sim_board board = {
        .placement = &placement, .chips = &chip, .chip_count = 1, .word_bits = 1, .access_ns = 1};
    rmg_sim sim;
    rmg_target target = {&rmg_sim_bus, &sim, 1};

    CHECK(rmg_sim_bytes(&board, 1) <= sizeof memory &&
              rmg_sim_start(&sim, &board, fault, 1, 1, memory) == RMG_OK,
          "starts");
    for (rmg_addr cell = 0; cell < 16; cell++)
        rmg_sim_put(&sim, 0, cell, contents >> ((cell & 1u) << 1 | (cell >> LINES & 1u)) & 1u);
    t->row_lines = LINES;
    return runs(t, &target, 4, 4);
}

/* All faults of a class of one cell. */
static rmg_coverage inject(rmg_pattern_class class, trial t, uint8_t row, uint8_t column)
{
    static const rmg_fault_kind kinds[] = {RMG_FAULT_PATTERN_HOLDS, RMG_FAULT_PATTERN_KEEPS,
                                           RMG_FAULT_PATTERN_SETS};
    static const unsigned contents[] = {0x0, 0xF, 0x5, 0xA, 0x9, 0x3};
    const unsigned bys = class == RMG_PATTERN_ACTIVE ? 4 : 1;
    rmg_coverage sum = {0, 0};

    for (unsigned n = 0; n < 16u * 2u * 2u * bys; n++) {
        const unsigned by = n / 64 % 4;
        const unsigned there =
            (row > 0 ? 1u : 0) | (row < 3 ? 2u : 0) | (column > 0 ? 4u : 0) | (column < 3 ? 8u : 0);
        const unsigned others = there & ~(class == RMG_PATTERN_ACTIVE ? 1u << by : 0);
        const rmg_sim_fault f = {.kind = kinds[class],
                                 .cell = (rmg_addr)column << LINES | row,
                                 .level = n % 2,
                                 .around = (uint8_t)(n / 2 % 16),
                                 .around_mask = (uint8_t)others,
                                 .by = (uint8_t)by,
                                 .state = n / 32 % 2};
        bool found = true;

        if ((f.around & ~others) || (class == RMG_PATTERN_ACTIVE ? !(there >> by & 1u) : f.state))
            continue;
        for (size_t c = 0; found && c < COUNT(contents); c++)
            found = on_board(&t, &f, contents[c]);
        sum.instances++;
        sum.found += found;
    }
    return sum;
}

static void board_agrees(void)
{
    static const uint8_t victims[][2] = {{1, 2}, {0, 2}, {3, 3}}; /* within, at an edge, a corner */
    const trial trials[] = {
        neighbours_of(RMG_NEIGHBOURS_STATIC), neighbours_of(RMG_NEIGHBOURS_PASSIVE),
        neighbours_of(RMG_NEIGHBOURS_ALL),
        march_of("up(w0); up(r0,w1); up(r1,w0); down(r0,w1); down(r1,w0); up(r0)"),
        march_of("up(w0); up(r0,r0,w1,w1,r1,r1,w0,w0,r0); down(r0,w1); up(r1)")};
    unsigned some = 0; /* shares that are neither nothing nor all */

    for (size_t n = getenv("RMG_TEST_PLACES") ? 9 : 0; n < COUNT(trials) * COUNT(victims); n++)
        for (int k = 0; k < RMG_PATTERN_CLASSES; k++) {
            const trial *t = &trials[n / COUNT(victims)];
            const uint8_t *at = victims[n % COUNT(victims)];
            const rmg_neighbourhood four = {.rows = 4,
                                            .columns = 4,
                                            .one_victim = true,
                                            .victim_row = at[0],
                                            .victim_column = at[1]};
            const rmg_coverage here = inject((rmg_pattern_class)k, *t, at[0], at[1]),
                               there = share_of(&four, (rmg_pattern_class)k, *t);

            CHECK(here.instances == there.instances && here.found == there.found,
                  "trial and cell %zu, class %d: on the board %u of %u, in the model %u of %u", n,
                  k, here.found, here.instances, there.found, there.instances);
            some += there.found && there.found < there.instances;
        }
    CHECK(some > 6, "some are found in part: %u", some);
}

/* What is around a cell after so many changes, against the test itself watched on an array. */
typedef struct watched {
    uint8_t held[5][5];
    uint8_t last_row, last_column; /* of the middle neighbourhood, what was written last; 9: none */
    unsigned right, wrong, expected_changes;
    rmg_neighbours which;
} watched;

static rmg_status watched_write(void *context, rmg_addr address, rmg_word value)
{
    watched *w = context;
    const unsigned row = (unsigned)address / 16u, column = (unsigned)address % 16u;
    const unsigned far = (unsigned)(abs((int)row - 2) + abs((int)column - 2));

    if (far <= 1 && w->held[row][column] != (value & 1u)) {
        w->last_row = (uint8_t)row;
        w->last_column = (uint8_t)column;
    }
    w->held[row][column] = value & 1u;
    return RMG_OK;
}

static rmg_status watched_read(void *context, rmg_addr address, rmg_word *value)
{
    const watched *w = context;

    *value = w->held[address / 16u][address % 16u];
    return RMG_OK;
}

static void watched_told(void *context, unsigned changes, rmg_addr address, rmg_word expected,
                         rmg_word actual)
{
    watched *w = context;
    const rmg_surroundings s = rmg_neighbours_at(w->which, changes, 2, 2);
    const uint8_t around =
        (uint8_t)(w->held[1][2] | w->held[3][2] << 1 | w->held[2][1] << 2 | w->held[2][3] << 3);
    const uint8_t by = w->last_row == 9      ? 5
                       : w->last_row == 1    ? 0
                       : w->last_row == 3    ? 1
                       : w->last_column == 1 ? 2
                       : w->last_column == 3 ? 3
                                             : 4;

    (void)address;
    if (s.level == w->held[2][2] && s.around == around && s.by == by && expected == actual)
        w->right++;
    else
        w->wrong++;
}

static void surroundings(void)
{
    static const rmg_bus bus = {
        .version = RMG_BUS_VERSION, .read = watched_read, .write = watched_write};

    for (int which = 0; which <= RMG_NEIGHBOURS_ALL; which++) {
        watched w = {.last_row = 9, .which = (rmg_neighbours)which};
        const rmg_target target = {&bus, &w, 1};
        const trial plain = {0};
        const rmg_grid grid = {5, 5, NULL, address_of, &plain};

        CHECK(rmg_neighbours_run(&target, &grid, (rmg_neighbours)which,
                                 &(rmg_grid_watch){watched_told, on_change, &w}) == RMG_OK &&
                  w.right > 100 && w.wrong == 0,
              "%d: %u as told, %u not", which, w.right, w.wrong);
    }
}

/* On a demo board: the chip, the row and the column are named, and what the fault is. */
static void named_on_a_board(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_errors errors = {0};
    rmg_steps steps;
    uint64_t state = 4711;
    static const rmg_said said[] = {RMG_SAY_FAULT_PATTERN_HOLDS, RMG_SAY_FAULT_PATTERN_KEEPS,
                                    RMG_SAY_FAULT_PATTERN_SETS};
    unsigned named = 0, same = 0, cases = 0;

    CHECK(rmg_steps_parse("n", "plan: n\nsteps:\n  - {neighbours: all}\n", &steps, &errors) ==
              RMG_OK,
          "a plan");
    /* builds that run slowly; long tests */
    const unsigned most = getenv("RMG_TEST_ALL") ? 12 : getenv("RMG_TEST_PLACES") ? 3 : 6;

    for (unsigned n = 0; n < most; n++) {
        const uint16_t socket = rmg_board_socket(board, n % 2 ? "U20" : "U23");
        const uint8_t by = (uint8_t)bench_dice(&state, 4);
        const rmg_sim_fault f = {.kind = (rmg_fault_kind)(RMG_FAULT_PATTERN_HOLDS + n % 3),
                                 .chip = socket,
                                 .cell = (1u + bench_dice(&state, 126)) << 7 |
                                         (1u + bench_dice(&state, 126)),
                                 .level = (uint8_t)bench_dice(&state, 2),
                                 .around = (uint8_t)bench_dice(&state, 16),
                                 .around_mask = (uint8_t)(15u & ~(n % 3 == 2 ? 1u << by : 0)),
                                 .by = by,
                                 .state = (uint8_t)bench_dice(&state, 2)};
        rmg_plan plan = {.steps = &steps, .passes = 2, .seed = 1};
        rmg_suspects s;
        rmg_run run;
        const rmg_suspect *first;

        bench_examine(board, &f, 1, &plan, n, &run, &s);
        rmg_replay(&run, &s, RMG_REPLAY_WORK, NULL, NULL);
        first = s.count ? &s.list[0] : NULL;
        cases += run.tally.failing != 0;
        named += first && first->finding.socket == socket && first->confidence > 0.5 &&
                 first->finding.kind == RMG_FINDING_CELLS;
        for (size_t i = 0; first && i < first->replay_count; i++)
            same += first->replays[i].same && first->replays[i].is.said == said[n % 3];
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    CHECK(cases == most && named == most, "of %u that failed, %u are named", cases, named);
    CHECK(same == most, "%u of %u are found again in replay", same, cases);
    rmg_steps_free(&steps);
    rmg_board_free(board);
}

CU_TestInfo neighbours_tests[] = {
    {"all of their own", all_of_their_own},
    {"shapes", shapes},
    {"orders inside", orders_inside},
    {"the board agrees", board_agrees},
    {"surroundings", surroundings},
    {"named on a board", named_on_a_board},
    CU_TEST_INFO_NULL,
};
