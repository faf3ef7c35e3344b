/* The steps for what cells do to each other: how often a test names chip, row and column of a cell
 * that the cells around it make fail.
 *
 *   bench-neighbours [COUNT] [SEED] [slow]
 *
 * `slow`: faults of a decoder that lets go of an address too late, instead.
 *
 * The faults act in a memory of the bench's own, not in the simulated board that replay uses: they
 * may depend on some of the four neighbours only, or on a corner cell besides, which no proposal of
 * the diagnosis has. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "demo_boards.h"
#include "rimeglass/replay.h"
#include "rimeglass/rimeglass.h"
#include "rimeglass/run.h"
#include "rimeglass/suspect.h"
#include "rimeglass/target.h"

/* A cell that fails by what is around it, and the memory it is in. */
typedef enum flaw {
    HOLDS,
    KEEPS,
    SETS,
    CORNER,
    ONE_LINE,
    TWO_LINES,
    ALL_LINES,
    SOME_LINES,
    FLAWS
} flaw;
static const char *const flaw_names[FLAWS] = {"takes a level while",
                                              "cannot be changed while",
                                              "is set by a change while",
                                              "the same, and a corner cell",
                                              "reaches one that differs in 1 line",
                                              "... in two lines",
                                              "... in all lines",
                                              "... in any lines"};
#define SLOW  ONE_LINE /* from here on */
#define KINDS 4u       /* of either sort */

typedef struct world {
    uint64_t random;
    rmg_word *words;
    rmg_addr victim, around[5]; /* above, below, left, right, a corner: addresses */
    rmg_word bit, bits;         /* bits: of the victim's chip */
    unsigned pattern, counts;   /* bit i: of around[i]: its level, whether it matters */
    unsigned by, to, level;
    flaw what;
    rmg_where chip; /* of the slow one: where its words are, and the address before */
    rmg_addr after, last;
    bool any;
} world;

static uint64_t dice(world *w, uint64_t below)
{
    return demo_dice(&w->random, below);
}

static bool awake(const world *w, unsigned except)
{
    for (unsigned i = 0; i < 5; i++)
        if (i != except && (w->counts >> i & 1u) &&
            ((w->words[w->around[i]] & w->bit) != 0) != (w->pattern >> i & 1u))
            return false;
    return true;
}

static void set_victim(world *w)
{
    w->words[w->victim] =
        w->level ? w->words[w->victim] | w->bit : w->words[w->victim] & (rmg_word)~w->bit;
}

/* The word whose cell in the slow chip an access reaches. */
static rmg_addr reached(world *w, rmg_addr address)
{
    rmg_addr at = address;

    if (w->what < SLOW || !rmg_where_holds(&w->chip, address))
        return address;
    if (w->any && address == w->victim && w->last == w->after)
        at = w->after;
    w->last = address;
    w->any = true;
    return at;
}

static rmg_status world_write(void *context, rmg_addr address, rmg_word value)
{
    world *w = context;
    const rmg_word before = w->words[address];
    const bool changes = ((before ^ value) & w->bit) != 0, to = (value & w->bit) != 0;

    w->words[address] = value;
    if (w->what >= SLOW) {
        const rmg_addr at = reached(w, address);

        if (at != address) { /* the other chips take it where it belongs */
            w->words[address] = (value & (rmg_word)~w->bits) | (before & w->bits);
            w->words[at] = (w->words[at] & (rmg_word)~w->bits) | (value & w->bits);
        }
        return RMG_OK;
    }
    if (w->what == KEEPS && address == w->victim && changes && to == (w->level != 0) && awake(w, 9))
        w->words[address] ^= w->bit;
    if ((w->what == SETS || w->what == CORNER) && address == w->around[w->by] && changes &&
        to == (w->to != 0) && awake(w, w->by))
        set_victim(w);
    if (w->what == HOLDS && awake(w, 9))
        set_victim(w);
    return RMG_OK;
}

static rmg_status world_read(void *context, rmg_addr address, rmg_word *value)
{
    world *w = context;
    const rmg_addr at = reached(w, address);

    *value = (w->words[address] & (rmg_word)~w->bits) | (w->words[at] & w->bits);
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

/* Lines of the address that was there before. */
static rmg_addr differing(world *w, uint8_t lines)
{
    const rmg_addr all = ((rmg_addr)1 << lines) - 1u, one = (rmg_addr)1 << dice(w, lines);
    const rmg_addr other = (rmg_addr)1 << dice(w, lines);

    return w->what == ONE_LINE    ? one
           : w->what == TWO_LINES ? one | (other == one ? (one == 1u ? 2u : 1u) : other)
           : w->what == ALL_LINES ? all
                                  : 1u + dice(w, all);
}

/* A cell of a chip with rows, away from the edges, all of it and around it tested. */
static void place(world *w, const rmg_board *board, uint16_t *socket, rmg_addr *cell)
{
    for (;;) {
        const rmg_rule *rule = &board->placement.rules[dice(w, board->placement.rule_count)];
        const rmg_part *part = board->sockets[rule->socket].part;
        rmg_addr rows, row, column;
        bool right = true;

        if (!part || !part->row_lines)
            continue;
        rows = (rmg_addr)1 << part->row_lines;
        row = 1u + dice(w, rows - 2u);
        column = 1u + dice(w, ((rmg_addr)1 << (part->address_lines - part->row_lines)) - 2u);
        *cell = column * rows + row;
        *socket = rule->socket;
        w->victim = rmg_rule_address(rule, *cell);
        w->around[0] = rmg_rule_address(rule, *cell - 1u);
        w->around[1] = rmg_rule_address(rule, *cell + 1u);
        w->around[2] = rmg_rule_address(rule, *cell - rows);
        w->around[3] = rmg_rule_address(rule, *cell + rows);
        w->around[4] = rmg_rule_address(rule, *cell + rows + 1u);
        w->bit = (rmg_word)1 << rule->data_bits[dice(w, rule->width)];
        w->bits = rmg_rule_bits(rule);
        w->chip = rule->where;
        w->after = rmg_rule_address(rule, *cell ^ differing(w, part->address_lines));
        w->around[4] = w->what >= SLOW ? w->after : w->around[4];
        for (unsigned i = 0; i < 6; i++) { /* in RAM that is tested */
            const rmg_addr at = i == 5 ? w->victim : w->around[i];
            bool ram = false;

            for (size_t r = 0; r < board->region_count; r++)
                ram |= board->regions[r].kind == RMG_REGION_RAM &&
                       at >= board->regions[r].range.first && at <= board->regions[r].range.last;
            right &= ram;
        }
        if (right)
            return;
    }
}

static void make(world *w, const rmg_board *board, uint64_t seed, bool slow, uint16_t *socket,
                 rmg_addr *cell)
{
    memset(w, 0, sizeof *w);
    w->random = demo_dice_start(seed);
    w->what = (flaw)(seed % KINDS + (slow ? SLOW : 0));
    place(w, board, socket, cell);
    w->by = (unsigned)dice(w, 4);
    w->to = (unsigned)dice(w, 2);
    w->level = (unsigned)dice(w, 2);
    w->pattern = (unsigned)dice(w, 32);
    w->counts = dice(w, 2) ? 15u : 1u + (unsigned)dice(w, 15); /* all four, or some */
    if (w->what >= SETS)
        w->counts &= ~(1u << w->by);
    if (w->what == CORNER)
        w->counts |= 16u;
    w->words = calloc(board->last_address + 1u, sizeof *w->words);
    for (rmg_addr a = 0; w->words && a <= board->last_address; a++)
        w->words[a] = (rmg_word)dice(w, UINT32_MAX);
    if (!w->words)
        exit(2);
}

typedef struct score {
    unsigned cases, failed, named, sure_wrong, replayed;
} score;

static void examine(score *s, const rmg_steps *steps, uint64_t seed, bool slow)
{
    rmg_board *board = demo_board(seed / KINDS);
    const rmg_plan plan = {.steps = steps, .passes = 2, .seed = seed};
    rmg_error error = {0};
    rmg_suspects found;
    rmg_target target;
    rmg_addr cell;
    uint16_t socket;
    rmg_run run;
    world w;

    make(&w, board, seed, slow, &socket, &cell);
    target =
        (rmg_target){&world_bus, &w, (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits)};
    if (rmg_run_begin(&run, board, &plan, "bench", &error) != RMG_OK ||
        rmg_run_carry_out(&run, &target, NULL) != RMG_OK)
        exit(2);
    rmg_suspects_find(&run, NULL, &found);
    rmg_replay(&run, &found, RMG_REPLAY_WORK, NULL, NULL);
    s->cases++;
    s->failed += run.tally.failing != 0;
    if (found.count) {
        const rmg_suspect *first = &found.list[0];
        rmg_place place;
        const bool right = first->finding.kind == RMG_FINDING_CELLS &&
                           first->finding.socket == socket &&
                           rmg_place_find(&board->placement, first->is.address,
                                          (uint8_t)__builtin_ctzll(first->finding.bits), &place) &&
                           (place.cell == cell || (slow && first->is.address == w.after));
        bool same = false;

        for (size_t i = 0; i < first->replay_count; i++)
            same |= first->replays[i].same;
        s->named += right;
        s->replayed += right && same;
        s->sure_wrong += !right && first->confidence > 0.5;
    }
    rmg_suspects_free(&found);
    rmg_run_end(&run);
    free(w.words);
    rmg_board_free(board);
}

int main(int argc, char **argv)
{
    const uint64_t count = argc > 1 ? strtoull(argv[1], NULL, 10) : 300;
    const uint64_t seed = argc > 2 ? strtoull(argv[2], NULL, 10) : 1;
    score scores[FLAWS] = {{0}}, all = {0};
    rmg_steps steps;

    const bool slow = argc > 3 && strcmp(argv[3], "slow") == 0;

    demo_steps(slow ? "march: March C-\n  - {moving: galloping by lines}"
                    : "march: March C-\n  - {neighbours: all}",
               &steps);
    for (uint64_t i = 0; i < count; i++)
        examine(&scores[(seed + i) % KINDS + (slow ? SLOW : 0)], &steps, seed + i, slow);
    puts(slow ? "March C- and {moving: galloping by lines}, two passes: an address that, directly "
                "after "
                "another,"
              : "March C- and {neighbours: all}, two passes: a cell that, while others hold a "
                "pattern,");
    printf("%-36s %6s %7s %6s %20s %12s\n", "", "cases", "failed", "named", "wrong, above 50 %",
           "replayed");
    for (unsigned f = 0; f <= FLAWS; f++) {
        const score *s = f < FLAWS ? &scores[f] : &all;

        if (f < FLAWS && !s->cases)
            continue;

        printf("%-36s %6u %7u %6u %20u %12u\n", f < FLAWS ? flaw_names[f] : "all", s->cases,
               s->failed, s->named, s->sure_wrong, s->replayed);
        all.cases += f < FLAWS ? s->cases : 0;
        all.failed += f < FLAWS ? s->failed : 0;
        all.named += f < FLAWS ? s->named : 0;
        all.sure_wrong += f < FLAWS ? s->sure_wrong : 0;
        all.replayed += f < FLAWS ? s->replayed : 0;
    }
    rmg_steps_free(&steps);
    return 0;
}
