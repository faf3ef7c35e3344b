/* Lines that others disturb: how often a run names the line and those that disturb it, and how
 * often it says so of what is something else.
 *
 *   bench-noisy [COUNT] [SEED]
 *
 * The lines are a bus of the bench's own, not that of the simulated board: what is disturbed may be
 * the level that it has, or the change, now or only in one access of some; and the others are lines
 * that touch, a dead line, a chip whose output is dead, cells that are stuck, bits that flip by
 * chance, and boards with nothing at all. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "demo_boards.h"
#include "rimeglass/replay.h"
#include "rimeglass/rimeglass.h"
#include "rimeglass/run.h"
#include "rimeglass/suspect.h"

typedef enum flaw {
    DATA_DISTURBED,
    DATA_SOMETIMES, /* one access in 2 to 10 */
    ADDRESS_DISTURBED,
    ADDRESS_SOMETIMES,
    NOT_NOISY, /* from here on */
    DATA_TOUCH = NOT_NOISY,
    ADDRESS_TOUCH,
    LINE_DEAD,
    CHIP_DEAD,
    CELLS_STUCK,
    BITS_FLIP,
    HEALTHY,
    FLAWS
} flaw;

static const char *const flaw_names[FLAWS] = {"data line disturbed",
                                              "... in one access of 2 to 10",
                                              "address line disturbed",
                                              "... in one access of 2 to 10",
                                              "data lines that touch",
                                              "address lines that touch",
                                              "a dead data line",
                                              "a chip with a dead output",
                                              "stuck cells",
                                              "bits that flip by chance",
                                              "nothing"};

typedef struct world {
    uint64_t random;
    flaw what;
    rmg_word *words;
    rmg_word last_data, bits; /* bits: of what is dead or stuck */
    rmg_addr last_address, cell;
    unsigned line, other, rarely;
    uint64_t by;        /* lines that disturb `line` ... */
    bool rise, turning; /* ... when they rise, else fall; where it is to change, else to stay */
    bool wins;
    rmg_where chip;
} world;

static uint64_t dice(world *w, uint64_t below)
{
    return demo_dice(&w->random, below);
}

/* What the line is taken for, where the others go from `before` to `now`. */
static uint64_t disturbed(world *w, uint64_t before, uint64_t now)
{
    const uint64_t own = (uint64_t)1 << w->line;
    const bool all = w->rise ? !(before & w->by) && (now & w->by) == w->by
                             : (before & w->by) == w->by && !(now & w->by);
    const bool against = ((now & own) != 0) != w->rise;
    const bool turns = ((before ^ now) & own) != 0;

    if (!all || !against || turns != w->turning || (w->rarely && dice(w, w->rarely)))
        return now;
    return now ^ own;
}

static uint64_t touching(const world *w, uint64_t lines)
{
    const uint64_t both = (uint64_t)1 << w->line | (uint64_t)1 << w->other;
    const bool high = w->wins ? (lines & both) != 0 : (lines & both) == both;

    return high ? lines | both : lines & ~both;
}

static rmg_addr at_chips(world *w, rmg_addr address)
{
    const rmg_addr before = w->last_address;

    w->last_address = address;
    if (w->what == ADDRESS_DISTURBED || w->what == ADDRESS_SOMETIMES)
        return (rmg_addr)disturbed(w, before, address);
    return w->what == ADDRESS_TOUCH ? (rmg_addr)touching(w, address) : address;
}

/* A value on its way, from or to the chips. */
static rmg_word on_lines(world *w, rmg_addr address, rmg_word value, bool reading)
{
    const rmg_word before = w->last_data;

    if (w->what == LINE_DEAD ||
        (reading && w->what == CHIP_DEAD && rmg_where_holds(&w->chip, address)) ||
        (reading && w->what == CELLS_STUCK && address == w->cell))
        value = w->wins ? value | w->bits : value & (rmg_word)~w->bits;
    w->last_data = value;
    if (w->what == DATA_DISTURBED || w->what == DATA_SOMETIMES)
        return (rmg_word)disturbed(w, before, value);
    if (reading && w->what == BITS_FLIP && !dice(w, w->rarely))
        value ^= (rmg_word)1 << dice(w, w->other);
    return w->what == DATA_TOUCH ? (rmg_word)touching(w, value) : value;
}

static rmg_status world_write(void *context, rmg_addr address, rmg_word value)
{
    world *w = context;
    const rmg_addr at = at_chips(w, address);

    w->words[at] = on_lines(w, address, value, false);
    return RMG_OK;
}

static rmg_status world_read(void *context, rmg_addr address, rmg_word *value)
{
    world *w = context;
    const rmg_addr at = at_chips(w, address);

    *value = on_lines(w, address, w->words[at], true);
    return RMG_OK;
}

static rmg_status world_wait(void *context, uint32_t hold_us)
{
    (void)context;
    (void)hold_us;
    return RMG_OK;
}

static const rmg_bus world_bus = {
    .version = RMG_BUS_VERSION, .read = world_read, .write = world_write, .wait = world_wait};

/* One to three lines near the victim, or all of them; lines are the lowest `count` ones. */
static void draw_lines(world *w, unsigned count)
{
    const unsigned near = 1u + (unsigned)dice(w, 3);
    const bool all = dice(w, 3) == 0;

    w->line = (unsigned)dice(w, count);
    do
        w->other = (unsigned)dice(w, count);
    while (w->other == w->line);
    w->by = 0;
    if (all)
        w->by = (UINT64_MAX >> (64u - count)) & ~((uint64_t)1 << w->line);
    for (unsigned n = 1; !all && n <= near; n++) {
        if (w->line + n < count)
            w->by |= (uint64_t)1 << (w->line + n);
        if (w->line >= n && dice(w, 2))
            w->by |= (uint64_t)1 << (w->line - n);
    }
    if (!w->by)
        w->by = (uint64_t)1 << w->other;
}

static void make(world *w, const rmg_board *board, uint64_t seed)
{
    const rmg_rule *rule;
    const rmg_part *part;
    unsigned lines = 0;

    memset(w, 0, sizeof *w);
    w->random = demo_dice_start(seed);
    w->what = (flaw)(seed % FLAWS);
    do {
        rule = &board->placement.rules[dice(w, board->placement.rule_count)];
        part = board->sockets[rule->socket].part;
    } while (part->kind == RMG_PART_ROM);
    /* address lines that each chip of the board has, from the lowest on */
    for (bool fed = true; fed && lines < RMG_ADDR_BITS; lines += fed) {
        fed = false;
        for (uint8_t i = 0; i < rule->address_lines; i++)
            fed |= rule->address_bits[i] == lines;
    }
    w->rise = dice(w, 2);
    w->turning = dice(w, 2);
    w->wins = dice(w, 2);
    draw_lines(w, w->what == ADDRESS_DISTURBED || w->what == ADDRESS_SOMETIMES ||
                          w->what == ADDRESS_TOUCH
                      ? lines
                      : board->word_bits);
    w->rarely = w->what == DATA_SOMETIMES || w->what == ADDRESS_SOMETIMES
                    ? 2u + (unsigned)dice(w, 9)
                : w->what == BITS_FLIP ? 200u + (unsigned)dice(w, 2000)
                                       : 0;
    w->chip = rule->where;
    w->cell = rmg_rule_address(rule, (rmg_addr)dice(w, (uint64_t)1 << rule->address_lines));
    w->bits = w->what == LINE_DEAD ? (rmg_word)1 << w->line
                                   : (rmg_word)1 << rule->data_bits[dice(w, rule->width)];
    w->other = w->what == BITS_FLIP ? board->word_bits : w->other;
    w->words = calloc(board->last_address + 1u, sizeof *w->words);
    for (rmg_addr a = 0; w->words && a <= board->last_address; a++)
        w->words[a] = (rmg_word)dice(w, UINT32_MAX);
    if (!w->words)
        exit(2);
}

typedef struct score {
    unsigned cases, noisy, line, all;
} score;

static void examine(score *s, const rmg_steps *steps, uint64_t seed)
{
    const rmg_plan plan = {.steps = steps, .passes = 2, .seed = seed};
    rmg_board *board = demo_board(seed / FLAWS);
    rmg_error error = {0};
    rmg_suspects found;
    rmg_target target;
    bool noisy = false;
    rmg_run run;
    world w;

    make(&w, board, seed);
    target =
        (rmg_target){&world_bus, &w, (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits)};
    if (rmg_run_begin(&run, board, &plan, "bench", &error) != RMG_OK ||
        rmg_run_carry_out(&run, &target, NULL) != RMG_OK)
        exit(2);
    rmg_suspects_find(&run, NULL, &found);
    rmg_replay(&run, &found, RMG_REPLAY_WORK, NULL, NULL);
    for (size_t i = 0; i < found.count; i++)
        noisy |= found.list[i].finding.kind == RMG_FINDING_DATA_NOISY ||
                 found.list[i].finding.kind == RMG_FINDING_ADDRESS_NOISY;
    s->cases++;
    s->noisy += noisy;
    if (noisy && found.count) {
        const rmg_finding *f = &found.list[0].finding;
        const bool data = w.what <= DATA_SOMETIMES;
        const bool line =
            f->kind == (data ? RMG_FINDING_DATA_NOISY : RMG_FINDING_ADDRESS_NOISY) &&
            (data ? f->bits == (rmg_word)1 << w.line : f->lines == (rmg_addr)1 << w.line);

        s->line += line;
        s->all += line && f->by == w.by;
    }
    rmg_suspects_free(&found);
    rmg_run_end(&run);
    free(w.words);
    rmg_board_free(board);
}

int main(int argc, char **argv)
{
    const uint64_t count = argc > 1 ? strtoull(argv[1], NULL, 10) : 275;
    const uint64_t seed = argc > 2 ? strtoull(argv[2], NULL, 10) : 1;
    score scores[FLAWS] = {{0}};
    rmg_steps steps;

    demo_steps("[wiring, noisy lines, march: March C-]", &steps);
    for (uint64_t i = 0; i < count; i++)
        examine(&scores[(seed + i) % FLAWS], &steps, seed + i);
    printf("wiring, noisy lines and March C-, two passes\n");
    printf("%-32s %6s %12s %12s %18s\n", "", "cases", "called noisy", "line first",
           "and all that do it");
    for (unsigned f = 0; f < FLAWS; f++)
        printf("%-32s %6u %12u %12u %18u\n", flaw_names[f], scores[f].cases, scores[f].noisy,
               scores[f].line, scores[f].all);
    rmg_steps_free(&steps);
    return 0;
}
