/* Moving addresses, and chips that are slow from one access to the next: what the tests find and
 * cost, on cells of their own and on the simulated board, which shares no code with these; and what
 * a run on a board makes of such a chip. */
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/coverage.h"
#include "rimeglass/plan.h"
#include "rimeglass/replay.h"
#include "rimeglass/sim.h"
#include "suites.h"

#define LINES 4u
#define CELLS RMG_SUCCESSIVE_CELLS

/* What is run: a test with moving addresses, or a march, in linear order or in that of complements.
 */
typedef struct trial {
    int moving; /* -1: the march */
    const char *march;
    bool complement, columns_low, found, strange;
    uint32_t partners;
} trial;

static const trial trials[] = {
    {RMG_MOVING_GALLOP_ROW, .partners = 9},
    {RMG_MOVING_GALLOP_COLUMN, .partners = 9},
    {RMG_MOVING_GALLOP_LINES, .partners = 99},
    {RMG_MOVING_WALK_ROW, .partners = 9},
    {RMG_MOVING_WALK_COLUMN, .partners = 2},
    {RMG_MOVING_DIAGONAL, .partners = 9},
    {RMG_MOVING_BUTTERFLY, .partners = 9},
    {RMG_MOVING_SURROUND, .partners = 9},
    {-1, "up(w0); up(r0,w1); up(r1,w0); down(r0,w1); down(r1,w0); up(r0)"},
    {-1, "up(w0); up(r0,w1); up(r1,w0); down(r0,w1); down(r1,w0); up(r0)", .complement = true},
    {-1, "up(w0); up(r0,w1); down(r1)"}};

static bool address_of(const void *context, rmg_addr row, rmg_addr column, rmg_addr *address)
{
    *address = ((const trial *)context)->columns_low ? row << 2 | column : column << 2 | row;
    return true;
}

static void on_read(void *context, unsigned what, rmg_addr address, rmg_word expected,
                    rmg_word actual)
{
    trial *t = context;

    t->strange |= what > 2 * t->partners + 1 || address >= CELLS;
    t->found |= expected != actual;
}

static bool go_on(void *context, unsigned what)
{
    (void)what;
    return context != NULL;
}

static bool runs(void *context, const rmg_target *target)
{
    trial *t = context;
    const rmg_grid grid = {4, 4, NULL, address_of, t};
    const rmg_range all = {0, CELLS - 1u};
    uint8_t code[RMG_MARCH_BYTES];
    rmg_march_job job = {.code = code, .ranges = &all, .range_count = 1};
    rmg_order order;
    rmg_tally tally;

    t->found = false;
    if (t->moving >= 0) {
        CHECK(rmg_moving_run(target, &grid, (rmg_moving)t->moving, t->partners,
                             &(rmg_grid_watch){on_read, go_on, t}) == RMG_OK,
              "runs");
        CHECK(!t->strange, "reads are of cells, and are told");
        return t->found;
    }
    CHECK(rmg_march_parse(t->march, code, sizeof code, NULL) == RMG_OK, "%s", t->march);
    rmg_order_linear(&order, &all, 1);
    order.complement = t->complement;
    rmg_tally_clear(&tally, NULL, 0);
    CHECK(rmg_march_run_patterned(target, &job, &(rmg_background){.start = 0}, &order, &tally) ==
              RMG_OK,
          "runs");
    return tally.failing != 0;
}

/* The same on the simulated board: a chip of 4 rows and 4 columns. */
static bool on_board(trial *t, const rmg_sim_fault *fault, unsigned contents)
{
    static const uint8_t data[] = {0}, rows_low[] = {0, 1, 2, 3}, columns_low[] = {2, 3, 0, 1};
    static uint64_t memory[256];
    const rmg_rule rule = {{0, CELLS - 1u, 0, 0},
                           data,
                           NULL,
                           NULL,
                           t->columns_low ? columns_low : rows_low,
                           NULL,
                           0,
                           0,
                           1,
                           LINES};
    const rmg_placement placement = {&rule, 1};
    const rmg_sim_chip chip = {.width = 1, .address_lines = LINES, .row_lines = 2};
    const rmg_sim_board board = {
        .placement = &placement, .chips = &chip, .chip_count = 1, .word_bits = 1, .access_ns = 1};
    rmg_sim sim;
    rmg_target target = {&rmg_sim_bus, &sim, 1};

    CHECK(rmg_sim_bytes(&board, 1) <= sizeof memory &&
              rmg_sim_start(&sim, &board, fault, 1, 1, memory) == RMG_OK,
          "starts");
    for (rmg_addr cell = 0; cell < CELLS; cell++)
        rmg_sim_put(&sim, 0, cell, contents >> cell & 1u);
    return runs(t, &target);
}

static rmg_coverage inject(rmg_successive_class class, trial *t)
{
    static const unsigned contents[] = {0x0000, 0xFFFF, 0x5A5A, 0xA5A5, 0x3C96, 0xC369};
    rmg_coverage sum = {0, 0};

    for (unsigned n = 0; n < CELLS * CELLS; n++) {
        const unsigned differ = (unsigned)__builtin_popcount(n % CELLS ^ n / CELLS);
        rmg_sim_fault f = {.kind = RMG_FAULT_SLOW_DECODER,
                           .cell = n % CELLS,
                           .cell2 = n / CELLS,
                           .reaches = RMG_REACHES_OTHER};
        bool found = true;

        if (class <= RMG_SUCCESSIVE_ALL_LINES) {
            if (differ != (class == RMG_SUCCESSIVE_ALL_LINES ? LINES : (unsigned)class + 1u))
                continue;
        } else if (n >= 8) {
            break;
        } else {
            f = (rmg_sim_fault){.kind = class == RMG_SUCCESSIVE_LINE ? RMG_FAULT_SLOW_LINE
                                        : class == RMG_SUCCESSIVE_PRECHARGE
                                            ? RMG_FAULT_LATE_PRECHARGE
                                            : RMG_FAULT_WRITE_RECOVERY,
                                .lines = (rmg_addr)1 << n / 2,
                                .cell = class == RMG_SUCCESSIVE_LINE ? 0 : n / 2,
                                .level = class == RMG_SUCCESSIVE_LINE ? 0 : n % 2,
                                .state = n % 2};
        }
        for (size_t c = 0; found && c < COUNT(contents); c++)
            found = on_board(t, &f, contents[c]);
        sum.instances++;
        sum.found += found;
    }
    return sum;
}

static void board_agrees(void)
{
    unsigned some = 0; /* shares that are neither nothing nor all */

    for (size_t i = 0; i < 2 * COUNT(trials); i++)
        for (int k = 0; k < RMG_SUCCESSIVE_CLASSES; k++) {
            trial t = trials[i / 2];
            rmg_coverage model, board;

            t.columns_low = i % 2;
            CHECK(rmg_successive_coverage((rmg_successive_class)k, t.columns_low, runs, &t,
                                          &model) == RMG_OK,
                  "computed");
            board = inject((rmg_successive_class)k, &t);
            CHECK(model.instances == board.instances && model.found == board.found,
                  "test %zu, class %d: %u of %u, on the board %u of %u", i, k, model.found,
                  model.instances, board.found, board.instances);
            some += model.found && model.found < model.instances;
        }
    CHECK(some > 40, "%u shares between nothing and all", some);
}

/* Known beforehand: the pairs that a test accesses one after the other, both ways, are found. */
static void shares(void)
{
    static const unsigned instances[] = {64, 96, 16, 8, 8, 8};
    trial t = trials[2];
    rmg_coverage c;

    for (int k = 0; k < RMG_SUCCESSIVE_CLASSES; k++) {
        CHECK(rmg_successive_coverage((rmg_successive_class)k, false, runs, &t, &c) == RMG_OK &&
                  c.instances == instances[k] && c.found == c.instances,
              "galloping by lines, class %d: %u of %u", k, c.found, c.instances);
    }
    t.partners = 4; /* those that differ in one line come first, */
    rmg_successive_coverage(RMG_SUCCESSIVE_ONE_LINE, false, runs, &t, &c);
    CHECK(c.found == 64, "four partners: %u", c.found);
    rmg_successive_coverage(RMG_SUCCESSIVE_ALL_LINES, false, runs, &t, &c);
    CHECK(c.found < 16, "four partners, all lines: %u", c.found);
    t.partners = 5; /* and then the one that differs in all */
    rmg_successive_coverage(RMG_SUCCESSIVE_ALL_LINES, false, runs, &t, &c);
    CHECK(c.found == 16, "five partners, all lines: %u", c.found);
    CHECK(rmg_successive_coverage(RMG_SUCCESSIVE_CLASSES, false, runs, &t, &c) == RMG_ERR_ARGUMENT,
          "no class");
}

/* Counts accesses; nothing reads wrong. */
typedef struct counter {
    rmg_word cells[64];
    unsigned accesses;
} counter;

static rmg_status counter_read(void *context, rmg_addr address, rmg_word *value)
{
    counter *c = context;

    c->accesses++;
    *value = c->cells[address];
    return RMG_OK;
}

static rmg_status counter_write(void *context, rmg_addr address, rmg_word value)
{
    counter *c = context;

    c->accesses++;
    c->cells[address] = value;
    return RMG_OK;
}

static bool eighths(const void *context, rmg_addr row, rmg_addr column, rmg_addr *address)
{
    (void)context;
    *address = row * 8u + column;
    return true;
}

static void count_read(void *context, unsigned what, rmg_addr address, rmg_word expected,
                       rmg_word actual)
{
    (void)context;
    CHECK(expected == actual && what < 202, "%u at %u", what, (unsigned)address);
}

/* What is told beforehand is what it makes, of any shape; it goes on, or stops, as it is told. */
static void costs(void)
{
    static const rmg_bus bus = {
        .version = RMG_BUS_VERSION, .read = counter_read, .write = counter_write};
    static const uint32_t partners[] = {1, 3, 5, 100};
    static const rmg_addr sides[][2] = {{8, 8}, {4, 8}, {8, 2}, {1, 8}, {2, 1}, {1, 1}};
    static counter c;
    const rmg_target target = {&bus, &c, 1};
    const rmg_grid_watch watch = {count_read, go_on, &c}, stop = {count_read, go_on, NULL};
    rmg_grid grid = {8, 8, NULL, eighths, NULL};

    CHECK(rmg_moving_accesses(RMG_MOVING_GALLOP_ROW, 8, 8, 100) == 2u * 64 * (3 + 2 * 7) &&
              rmg_moving_accesses(RMG_MOVING_WALK_COLUMN, 8, 8, 3) == 2u * 64 * (4 + 3) &&
              rmg_moving_accesses(RMG_MOVING_GALLOP_LINES, 8, 8, 100) == 2u * 64 * (3 + 2 * 22) &&
              rmg_moving_accesses(RMG_MOVING_DIAGONAL, 8, 8, 100) == 2u * (64 + 8 * (64 + 16)),
          "some by hand");
    for (unsigned n = 0; n < 8 * COUNT(partners) * COUNT(sides); n++) {
        const rmg_moving which = (rmg_moving)(n % 8);
        const uint32_t most = partners[n / 8 % COUNT(partners)];

        grid.rows = sides[n / 8 / COUNT(partners)][0];
        grid.columns = sides[n / 8 / COUNT(partners)][1];
        c.accesses = 0;
        CHECK(rmg_moving_run(&target, &grid, which, most, &watch) == RMG_OK &&
                  c.accesses == rmg_moving_accesses(which, grid.rows, grid.columns, most),
              "test %d, %u x %u, %u partners: %u accesses", which, (unsigned)grid.rows,
              (unsigned)grid.columns, most, c.accesses);
    }
    CHECK(rmg_moving_run(&target, &grid, RMG_MOVING_BUTTERFLY, 0, &watch) == RMG_ERR_ARGUMENT,
          "no partner");
    CHECK(rmg_moving_run(&target, &grid, RMG_MOVING_BUTTERFLY, 1, &stop) == RMG_ERR_CANCELLED,
          "stops");
    grid.columns = 6;
    CHECK(rmg_moving_run(&target, &grid, RMG_MOVING_BUTTERFLY, 1, &watch) == RMG_ERR_ARGUMENT,
          "six columns");
}

/* On demo boards: chip, row and column of one of the two addresses are named, and that it is let go
 * of too late; of a slow line and of bit lines the chip, and what they are. */
static void named_on_boards(void)
{
    static const char *const files[] = {"demo/boards/halvorn64.yaml", "demo/boards/quarle.yaml"};
    static const rmg_said said[] = {RMG_SAY_FAULT_SLOW_DECODER, RMG_SAY_FAULT_SLOW_LINE,
                                    RMG_SAY_FAULT_LATE_PRECHARGE, RMG_SAY_FAULT_WRITE_RECOVERY};
    static const rmg_fault_kind kinds[] = {RMG_FAULT_SLOW_DECODER, RMG_FAULT_SLOW_LINE,
                                           RMG_FAULT_LATE_PRECHARGE, RMG_FAULT_WRITE_RECOVERY};
    const unsigned most = getenv("RMG_TEST_PLACES") ? 1 : 4; /* builds that run slowly */
    rmg_errors errors = {0};
    uint64_t state = 815;
    rmg_steps steps;

    CHECK(rmg_steps_parse("m",
                          "plan: m\nsteps:\n  - wiring\n  - {moving: galloping by lines, "
                          "partners: 20}\n",
                          &steps, &errors) == RMG_OK,
          "a plan");
    for (unsigned n = 0; n < most; n++) {
        rmg_board *board = bench_load(files[n == 3]);
        const uint16_t socket = (uint16_t)(board->placement.rules[4 + n].socket);
        const rmg_part *part = board->sockets[socket].part;
        const uint8_t line = (uint8_t)bench_dice(&state, part->address_lines);
        const rmg_addr cell = (3u << part->row_lines) + 5u + n;
        const rmg_sim_fault f = {.kind = kinds[n],
                                 .chip = socket,
                                 .cell = n < 2 ? cell : 3,
                                 .cell2 = cell ^ (rmg_addr)1 << line,
                                 .lines = (rmg_addr)1 << line,
                                 .reaches = RMG_REACHES_OTHER,
                                 .level = n > 1,
                                 .state = 1};
        const rmg_plan plan = {.steps = &steps, .passes = 1, .seed = 1};
        const rmg_suspect *first;
        bool same = false;
        rmg_suspects s;
        rmg_run run;

        bench_examine(board, &f, 1, &plan, n, &run, &s);
        rmg_replay(&run, &s, RMG_REPLAY_WORK, NULL, NULL);
        first = s.count ? &s.list[0] : NULL;
        CHECK(first && first->finding.socket == socket && first->confidence > 0.5,
              "fault %u of %s: %s, %.2f", n, board->sockets[socket].name,
              first ? first->site : "nothing", first ? first->confidence : 0);
        for (size_t i = 0; first && i < first->replay_count; i++)
            same |= first->replays[i].same && first->replays[i].is.said == said[n];
        CHECK(same, "fault %u is found again in replay", n);
        if (first && n == 0) {
            rmg_place place;

            CHECK(first->finding.kind == RMG_FINDING_CELLS &&
                      rmg_place_find(&board->placement, first->is.address,
                                     (uint8_t)__builtin_ctzll(first->finding.bits), &place) &&
                      (place.cell == f.cell || place.cell == f.cell2),
                  "row and column");
        }
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
    }
    rmg_steps_free(&steps);
}

/* Chips whose lines are tied to a level: cells that no address reaches are left out of rows and
 * columns. A healthy board passes every step that goes by them, and a bad cell is found. */
static void tied_lines(void)
{
    static const char *const files[] = {"demo/shapes/tied-lines.yaml", "demo/shapes/lanes.yaml"};
    static const char *const steps[] = {"neighbours: static",
                                        "row-accesses: 3",
                                        "moving: galloping by row, partners: 4",
                                        "moving: galloping by lines, partners: 20",
                                        "moving: sliding diagonal, partners: 2",
                                        "moving: surround"};

    for (size_t i = 0; i < COUNT(files) * COUNT(steps); i++) {
        rmg_board *board = bench_load(files[i / COUNT(steps)]);
        const uint16_t socket = board->placement.rules[1].socket;
        rmg_place place;
        gchar *text = g_strdup_printf("plan: t\nsteps:\n  - {%s}\n", steps[i % COUNT(steps)]);
        rmg_errors errors = {0};
        rmg_steps plan_steps;
        rmg_plan plan = {.steps = &plan_steps, .passes = 1, .seed = 1};
        rmg_suspects s;
        rmg_run run;

        CHECK(rmg_steps_parse("t", text, &plan_steps, &errors) == RMG_OK, "%s", text);
        bench_examine(board, NULL, 0, &plan, i, &run, &s);
        CHECK(!rmg_run_failed(&run) && !s.count, "%s, %s: a healthy board fails",
              files[i / COUNT(steps)], text);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        CHECK(rmg_place_find(&board->placement, 0x124, board->placement.rules[1].data_bits[0],
                             &place),
              "a cell");
        if (board->sockets[place.socket].part->row_lines || !strstr(text, "neighbours")) {
            const rmg_sim_fault f = {
                .kind = RMG_FAULT_CELL, .chip = socket, .cell = place.cell, .level = 1};

            bench_examine(board, &f, 1, &plan, i, &run, &s);
            CHECK((s.count && s.list[0].finding.socket == socket) ||
                      (strstr(text, "row-") && !board->sockets[socket].part->row_lines),
                  "%s, %s: a bad cell of %s", files[i / COUNT(steps)], text,
                  board->sockets[socket].name);
            rmg_suspects_free(&s);
            rmg_run_end(&run);
        }
        g_free(text);
        rmg_steps_free(&plan_steps);
        rmg_board_free(board);
    }
}

CU_TestInfo moving_tests[] = {
    {"the simulated board agrees", board_agrees}, {"shares", shares},         {"costs", costs},
    {"named on boards", named_on_boards},         {"tied lines", tied_lines}, CU_TEST_INFO_NULL,
};
