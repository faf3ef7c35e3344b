/* Is the confidence what it says? Cases that leave doubt, drawn until each tenth is full: what
 * comes and goes so seldom that it fails a few reads, an eighth of it in bursts and on the second
 * model of a board; one pass; a few words only. The causes are drawn as often as docs/diagnosis.md
 * supposes they are, noise beside them. */
#include <pthread.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "diag_score.h"
#include "other_board.h"

#define FULL       800u /* suspects that a tenth shall have */
#define WORDS_MOST 8192u
#define THREADS    2u
#define FROM       2u /* the tenth from which on they count */

typedef enum doubt { DOUBT_SINGLES, DOUBT_INTERLEAVED, DOUBT_SEVERAL, DOUBT_SOMETIMES } doubt;
#define DOUBTS 4u
static const char *const names[DOUBTS] = {"single faults", "interleaved banks",
                                          "two and three at once", "what comes and goes"};

/* A cause of what comes and goes, and how often it is drawn. */
typedef struct cause {
    unsigned weight;
    diag_kind kind;
} cause;

static const cause causes[] = {
    {120, {"output", RMG_FAULT_OUTPUT, TRUTH_CHIP, REACH_CHIP, WHEN_NOW_AND_THEN, 0, 0}},
    {80, {"data pin", RMG_FAULT_DATA_OPEN, TRUTH_CHIP, REACH_CHIP, WHEN_NOW_AND_THEN, 0, 0}},
    {40, {"address pin", RMG_FAULT_ADDRESS_CHIP, TRUTH_CHIP, REACH_CHIP, WHEN_NOW_AND_THEN, 0, 0}},
    {60, {"chip select", RMG_FAULT_DESELECTED, TRUTH_CHIP, REACH_CHIP, WHEN_NOW_AND_THEN, 0, 0}},
    {100, {"weak cells", RMG_FAULT_WEAK, TRUTH_CHIP, REACH_CHIP, WHEN_NOW_AND_THEN, 0, 0}},
    {100, {"data line", RMG_FAULT_LINE_STUCK, TRUTH_DATA, REACH_ALL, WHEN_NOW_AND_THEN, 0, 0}},
    {30, {"some of a line", RMG_FAULT_LINE_OPEN, TRUTH_DATA, REACH_SOME, WHEN_NOW_AND_THEN, 0, 0}},
    {100, {"bank select", RMG_FAULT_DESELECTED, TRUTH_BANK, REACH_BANK, WHEN_NOW_AND_THEN, 0, 0}},
    {50,
     {"bank address", RMG_FAULT_ADDRESS_STUCK, TRUTH_LINES, REACH_BANK, WHEN_NOW_AND_THEN, 0, 0}},
    {50, {"all selects", RMG_FAULT_DESELECTED, TRUTH_BANK, REACH_ALL, WHEN_NOW_AND_THEN, 0, 0}},
    {270, {"noise", RMG_FAULT_NOISE, TRUTH_NOBODY, REACH_ALL, WHEN_NOW_AND_THEN, 0, 0}},
    {5, {"data touch", RMG_FAULT_DATA_SHORT, TRUTH_TOUCH, REACH_ALL, WHEN_NOW_AND_THEN, 0, 0}},
    {2, {"bank touch", RMG_FAULT_DATA_SHORT, TRUTH_TOUCH, REACH_BANK, WHEN_NOW_AND_THEN, 0, 0}},
    {20, {"always on", RMG_FAULT_ALWAYS_ON, TRUTH_CHIP, REACH_CHIP, WHEN_NOW_AND_THEN, 0, 0}}};

typedef struct drawing {
    uint64_t seed;
    unsigned part, most; /* cases */
    bool of[DOUBTS];
    diag_bins bins[DOUBTS];
    unsigned cases[DOUBTS], failed[DOUBTS];
} drawing;

static const cause *draw_cause(diag_dice *dice)
{
    const cause *c = causes;
    unsigned all = 0, at;

    for (size_t i = 0; i < sizeof causes / sizeof *causes; i++)
        all += causes[i].weight;
    at = (unsigned)diag_roll(dice, all);

    while (at >= c->weight)
        at -= c++->weight;
    return c;
}

static double words_of(const rmg_board *board)
{
    double words = 0;

    for (size_t i = 0; i < board->region_count; i++)
        words += (double)board->regions[i].range.last - (double)board->regions[i].range.first + 1;
    return words;
}

/* Words at which the fault can show: those of its banks. */
static double words_met(const rmg_board *board, const diag_kind *k, const rmg_sim_fault *f)
{
    const rmg_placement *placement = &board->placement;
    double words = 0;

    for (size_t b = 0; b < board->bank_count; b++) {
        rmg_addr depth = 0;

        for (uint16_t r = 0; r < placement->rule_count; r++) {
            const rmg_rule *rule = &placement->rules[r];
            const bool met = k->reach == REACH_CHIP   ? rule->socket == f->chip
                             : k->reach == REACH_BANK ? rule->bank == f->bank
                                                      : rmg_fault_acts_for(f, rule->socket);

            if (rule->bank == b && met)
                depth = (rmg_addr)1 << rule->address_lines;
        }
        words += (double)depth;
    }
    return words && k->fault != RMG_FAULT_ALWAYS_ON ? words : words_of(board);
}

/* So seldom that a few reads fail, wherever it acts; of a fault that shows at every other access,
 * say. */
static void set_rate(diag_case *c, diag_dice *dice, unsigned fault, const diag_kind *k)
{
    static const double failures[] = {2, 3, 4, 6, 8, 12};
    const double words = words_met(c->board->board, k, &c->faults[fault]);
    const double rate = failures[diag_roll(dice, sizeof failures / sizeof *failures)] /
                        (words * 10 * c->passes) * 1e9;

    c->faults[fault].when.rate_ppb = (uint32_t)(rate < 1 ? 1 : rate > 1e9 ? 1e9 : rate);
    if (k->truth == TRUTH_NOBODY)
        c->faults[fault].line = RMG_ALL_DATA_LINES;
}

/* One case, judged. */
static void draw(drawing *d, doubt of, uint64_t seed)
{
    diag_dice dice = diag_seed(seed, 21u + (uint64_t)of);
    const diag_family family = of == DOUBT_INTERLEAVED ? DIAG_INTERLEAVED
                               : of == DOUBT_SINGLES
                                   ? (diag_roll(&dice, 2) ? DIAG_HIGH : DIAG_LANES)
                                   : (diag_family)diag_roll(&dice, DIAG_FAMILIES);
    static const unsigned bursts[] = {1, 30, 1000};
    const diag_kind *kinds[DIAG_FAULTS] = {NULL};
    diag_board board = {0};
    diag_case c = {.board = &board};
    bool drawn = true;

    for (unsigned tries = 0; !board.board || words_of(board.board) > WORDS_MOST; tries++) {
        if (board.board)
            rmg_board_free(board.board);
        diag_board_make(seed * 1000 + tries, family, &board);
    }
    c.world = diag_world(&dice);
    c.fault_count = of == DOUBT_SEVERAL ? (uint16_t)(2 + diag_roll(&dice, 2)) : 1;
    if (of == DOUBT_SOMETIMES || (of != DOUBT_SEVERAL && diag_roll(&dice, 6))) {
        const cause *k = draw_cause(&dice);

        /* of one pass nothing says whether it comes and goes */
        c.passes = of == DOUBT_SOMETIMES ? 2 + (uint32_t)diag_roll(&dice, 9) : 1;
        c.when = WHEN_NOW_AND_THEN;
        kinds[0] = &k->kind;
        drawn = diag_fault_make(&dice, &board, kinds[0], &c.faults[0]);
        set_rate(&c, &dice, 0, kinds[0]);
        if (!diag_roll(&dice, 8) && other_board_has(kinds[0]->fault))
            c.burst = bursts[diag_roll(&dice, sizeof bursts / sizeof *bursts)];
    } else {
        c.passes = 1 + (uint32_t)diag_roll(&dice, 2);
        if (diag_roll(&dice, 2))
            c.limit = 7 + diag_roll(&dice, 500); /* a few words only */
        for (unsigned n = 0; n < c.fault_count && drawn; n++)
            drawn = diag_fault_beside(&c, &dice, n, c.fault_count > 1, &kinds[n]);
    }
    if (drawn) {
        d->cases[of]++;
        diag_case_run(&c, true);
        d->failed[of] += c.failed;
        if (c.failed)
            diag_calibrate(&c, kinds, &d->bins[of]);
        diag_case_end(&c);
    }
    rmg_board_free(board.board);
}

/* Is each tenth that has suspects at all full? */
static bool is_full(const diag_bins *bins)
{
    bool full = true;

    for (size_t i = FROM; i < DIAG_BINS; i++)
        full &= bins->cases[i] >= FULL / THREADS;
    return full;
}

static void *carry_out(void *context)
{
    drawing *d = context;

    for (unsigned of = 0; of < DOUBTS; of++)
        for (unsigned i = d->part; d->of[of] && i < d->most && !is_full(&d->bins[of]); i += THREADS)
            draw(d, (doubt)of, d->seed + i);
    return NULL;
}

void diag_ambiguous(uint64_t seed, unsigned most, int only)
{
    static drawing parts[THREADS];
    pthread_t threads[THREADS];

    for (unsigned i = 0; i < THREADS; i++) {
        parts[i].seed = seed;
        parts[i].part = i;
        parts[i].most = most;
        for (unsigned of = 0; of < DOUBTS; of++)
            parts[i].of[of] = only < 0 || (unsigned)only == of;
        if (pthread_create(&threads[i], NULL, carry_out, &parts[i]) != 0)
            exit(2);
    }
    for (unsigned i = 0; i < THREADS; i++)
        pthread_join(threads[i], NULL);
    for (unsigned of = 0; of < DOUBTS; of++) {
        for (unsigned i = 1; i < THREADS; i++) {
            diag_bins_add(&parts[0].bins[of], &parts[i].bins[of]);
            parts[0].cases[of] += parts[i].cases[of];
            parts[0].failed[of] += parts[i].failed[of];
        }
        if (!parts[0].of[of])
            continue;
        printf("\n%u cases, of which %u failed an access\n", parts[0].cases[of],
               parts[0].failed[of]);
        diag_print_bins(names[of], &parts[0].bins[of]);
    }
}
