/* The march engine on the simulated board, against loops written by hand. */
#include <stdio.h>
#include <stdlib.h>

#include "bench.h"
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
    rmg_sim faulty;
    rmg_bus words; /* the simulator's port, one word a call */
    rmg_target by_word, by_element, with_faults;
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

int main(void)
{
    static setup s;
    static rmg_sim_fault faults[8];
    const bench_row rows[] = {
        {"March C-, one word a call, 64 KiB", "loop by hand, the same calls", 0.80, by_word,
         by_hand, &s},
        {"March C-, the simulator's whole elements", "loop by hand, one word a call", 1.3,
         by_element, by_hand, &s},
        {"March C- with 8 single-cell faults", "without", 0.7, with_faults, by_word, &s},
    };
    bool reached;

    for (uint16_t i = 0; i < 8; i++) {
        rules[i] = (rmg_rule){{0, WORDS - 1u, 0, 0}, bits[i], NULL, NULL, feeds, NULL, i, 0, 1, 16};
        chips[i] = (rmg_sim_chip){.width = 1, .address_lines = 16, .row_lines = 8};
        faults[i] = (rmg_sim_fault){
            .kind = RMG_FAULT_CELL, .chip = i, .cell = 7919u * (i + 1u) % WORDS, .level = i & 1u};
    }
    if (rmg_sim_start(&s.sim, &board, NULL, 0, 1, malloc(rmg_sim_bytes(&board, 0))) != RMG_OK ||
        rmg_sim_start(&s.faulty, &board, faults, 8, 1, malloc(rmg_sim_bytes(&board, 8))) != RMG_OK)
        return 2;
    s.words = rmg_sim_bus;
    s.words.run_element = NULL;
    s.by_word = (rmg_target){&s.words, &s.sim, 0xFF};
    s.by_element = (rmg_target){&rmg_sim_bus, &s.sim, 0xFF};
    s.with_faults = (rmg_target){&s.words, &s.faulty, 0xFF};
    reached = bench_table(rows, sizeof rows / sizeof *rows);
    if (s.wrong) {
        fprintf(stderr, "the healthy board failed by hand\n");
        return 2;
    }
    return !reached;
}
