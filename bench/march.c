/* The march engine on the simulated board, against loops written by hand.
 *
 *   bench-march [steps]
 *
 * `steps`: what the steps beyond marches cost on the demo boards, instead. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "bench.h"
#include "demo_boards.h"
#include "rimeglass/rimeglass.h"
#include "rimeglass/sim.h"

#define WORDS  65536u
#define ROUNDS 4

/* Eight one-bit chips of 64 Ki cells. */
static const uint8_t bits[8][1] = {{0}, {1}, {2}, {3}, {4}, {5}, {6}, {7}};
static const uint8_t feeds[16] = {0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15};
static rmg_rule rules[8];
static const rmg_placement placement = {rules, 8};
static rmg_sim_chip chips[8];
static const rmg_sim_board board = {
    .placement = &placement, .chips = chips, .chip_count = 8, .word_bits = 8, .access_ns = 500};
static const rmg_range all = {0, WORDS - 1u};

typedef struct setup {
    rmg_sim sim;
    rmg_sim faulty, by_lines, by_history;
    rmg_bus words; /* the simulator's port, one word a call */
    rmg_target by_word, by_element, with_faults, with_lines, with_history;
    rmg_tally tally;
    unsigned long wrong;
} setup;

static void run(setup *s, const rmg_target *target)
{
    const rmg_march_job job = {.code = rmg_march_c_minus, .ranges = &all, .range_count = 1};

    for (unsigned i = 0; i < ROUNDS; i++) {
        rmg_tally_clear(&s->tally, NULL, 0);
        if (rmg_march_run(target, &job, &s->tally) != RMG_OK)
            exit(2);
    }
}

static void by_word(void *context)
{
    setup *s = context;

    run(s, &s->by_word);
}

static void by_element(void *context)
{
    setup *s = context;

    run(s, &s->by_element);
}

static void with_faults(void *context)
{
    setup *s = context;

    run(s, &s->with_faults);
}

static void with_lines(void *context)
{
    setup *s = context;

    run(s, &s->with_lines);
}

static void with_history(void *context)
{
    setup *s = context;

    run(s, &s->with_history);
}

/* Eight faults, one a chip, for which every access goes chip by chip. */
static const rmg_sim_fault of_lines[8] = {
    {.kind = RMG_FAULT_OUTPUT, .chip = 0, .level = 1},
    {.kind = RMG_FAULT_DATA_OPEN, .chip = 1},
    {.kind = RMG_FAULT_ADDRESS_CHIP, .chip = 2, .lines = 0x0808},
    {.kind = RMG_FAULT_LINE_STUCK, .line = 3, .scope = {1u << 3}},
    {.kind = RMG_FAULT_LATE, .chip = 4, .when = {.from_hz = 3000000}},
    {.kind = RMG_FAULT_ADDRESS_STUCK, .lines = 0x40, .level = 1, .scope = {1u << 5}},
    {.kind = RMG_FAULT_INPUT_OPEN, .chip = 6, .level = 1},
    {.kind = RMG_FAULT_NO_WRITE, .scope = {1u << 7}},
};
static const rmg_sim_fault of_history[8] = {
    {.kind = RMG_FAULT_ADDRESS_CELLS,
     .chip = 0,
     .cell = 9,
     .cell2 = 10,
     .reaches = RMG_REACHES_BOTH},
    {.kind = RMG_FAULT_RETENTION, .chip = 1, .cell = 77, .level = 1, .after_us = 500},
    {.kind = RMG_FAULT_DISTURB, .chip = 2, .cell = 300, .row = 45, .count = 200},
    {.kind = RMG_FAULT_TRANSITION, .chip = 3, .cell = 5000, .level = 1},
    {.kind = RMG_FAULT_COUPLING_SETS, .chip = 4, .cell = 8, .cell2 = 4000, .state = 1},
    {.kind = RMG_FAULT_COUPLING_HOLDS, .chip = 5, .cell = 7, .cell2 = 6, .state = 1, .level = 1},
    {.kind = RMG_FAULT_READ_FLIPS, .chip = 6, .cell = 60000, .level = 1},
    {.kind = RMG_FAULT_COUPLING_FLIPS,
     .chip = 7,
     .cell = 1,
     .cell2 = 2,
     .operation = RMG_OPERATION_1R1},
};

static void start(rmg_sim *sim, const rmg_sim_fault *faults, uint16_t count)
{
    if (rmg_sim_start(sim, &board, faults, count, 1, malloc(rmg_sim_bytes(&board, count))) !=
        RMG_OK)
        exit(2);
}

/* One element by hand: every call the library makes on the port, and every check. */
static void element(setup *s, bool down, bool reads, rmg_word expected, bool writes, rmg_word value)
{
    const rmg_target *t = &s->by_word;

    for (rmg_addr i = 0; i < WORDS; i++) {
        const rmg_addr a = down ? WORDS - 1u - i : i;
        rmg_word actual;

        if (reads) {
            if (t->bus->read(t->context, a, &actual) != RMG_OK)
                exit(2);
            if (actual != expected)
                s->wrong++;
        }
        if (writes && t->bus->write(t->context, a, value) != RMG_OK)
            exit(2);
    }
}

static void by_hand(void *context)
{
    setup *s = context;

    for (unsigned i = 0; i < ROUNDS; i++) {
        element(s, false, false, 0, true, 0);
        element(s, false, true, 0, true, 0xFF);
        element(s, false, true, 0xFF, true, 0);
        element(s, true, true, 0, true, 0xFF);
        element(s, true, true, 0xFF, true, 0);
        element(s, false, true, 0, false, 0);
    }
}

/* Operations a word, and seconds at one access a microsecond. */
static void costs(void)
{
    static const char *const steps[] = {"within a word",
                                        "{neighbours: static}",
                                        "{neighbours: passive}",
                                        "{neighbours: active}",
                                        "{neighbours: all}",
                                        "{moving: galloping by row}",
                                        "{moving: galloping by column}",
                                        "{moving: galloping by lines}",
                                        "{moving: walking by row}",
                                        "{moving: walking by column}",
                                        "{moving: sliding diagonal}",
                                        "{moving: butterfly}",
                                        "{moving: surround}",
                                        "noisy lines"};

    printf("%-30s", "operations a word, s");
    for (size_t b = 0; b < DEMO_BOARDS; b++)
        printf(" %20s", strrchr(demo_board_files[b], '/') + 1);
    putchar('\n');
    for (size_t i = 0; i < sizeof steps / sizeof *steps; i++) {
        printf("%-30s", steps[i]);
        for (size_t b = 0; b < DEMO_BOARDS; b++) {
            rmg_board *on = demo_board(b);
            char list[80];
            uint64_t words = 0, accesses;
            rmg_steps plan;

            snprintf(list, sizeof list, "[%s, copy]", steps[i]);
            demo_steps(list, &plan);
            for (size_t r = 0; r < on->region_count; r++)
                if (on->regions[r].kind == RMG_REGION_RAM)
                    words += on->regions[r].range.last - on->regions[r].range.first + 1u;
            accesses = rmg_step_accesses(&plan.list[0], on, words) +
                       rmg_step_first_accesses(&plan.list[0], on);
            printf("    %6.1f %7.2f s", (double)accesses / (double)words, (double)accesses / 1e6);
            rmg_steps_free(&plan);
            rmg_board_free(on);
        }
        putchar('\n');
    }
    printf("(seconds at one access a microsecond; noisy lines: of the first pass alone)\n");
}

int main(int argc, char **argv)
{
    static setup s;
    static rmg_sim_fault faults[8];
    const bench_row rows[] = {
        {"March C-, one word a call, 64 KiB", "loop by hand, the same calls", 0.80, by_word,
         by_hand, &s},
        {"March C-, the simulator's whole elements", "loop by hand, one word a call", 1.3,
         by_element, by_hand, &s},
        {"March C- with 8 single-cell faults", "without", 0.7, with_faults, by_word, &s},
        {"8 faults of pins and lines, chip by chip", "without", 0.045, with_lines, by_word, &s},
        {"8 faults with history, chip by chip", "without", 0.030, with_history, by_word, &s},
    };
    bool reached;

    if (argc > 1 && strcmp(argv[1], "steps") == 0) {
        costs();
        return 0;
    }
    for (uint16_t i = 0; i < 8; i++) {
        rules[i] = (rmg_rule){{0, WORDS - 1u, 0, 0}, bits[i], NULL, NULL, feeds, NULL, i, 0, 1, 16};
        chips[i] = (rmg_sim_chip){
            .width = 1, .address_lines = 16, .row_lines = 8, .refresh_us = 2000, .keep_us = 500000};
        faults[i] = (rmg_sim_fault){
            .kind = RMG_FAULT_CELL, .chip = i, .cell = 7919u * (i + 1u) % WORDS, .level = i & 1u};
    }
    start(&s.sim, NULL, 0);
    start(&s.faulty, faults, 8);
    start(&s.by_lines, of_lines, 8);
    start(&s.by_history, of_history, 8);
    s.words = rmg_sim_bus;
    s.words.run_element = NULL;
    s.by_word = (rmg_target){&s.words, &s.sim, 0xFF};
    s.by_element = (rmg_target){&rmg_sim_bus, &s.sim, 0xFF};
    s.with_faults = (rmg_target){&s.words, &s.faulty, 0xFF};
    s.with_lines = (rmg_target){&s.words, &s.by_lines, 0xFF};
    s.with_history = (rmg_target){&s.words, &s.by_history, 0xFF};
    reached = bench_table(rows, sizeof rows / sizeof *rows);
    if (s.wrong) {
        fprintf(stderr, "the healthy board failed by hand\n");
        return 2;
    }
    return !reached;
}
