/* What the diagnosis makes of boards with a fault that no fault file has: nets that touch, buffers,
 * supplies, drives (wired_board.h). One seed a case.
 * Call: bench-wired [CASES [FIRST-SEED]]: so many of each kind, a row a kind. Or bench-wired case
 * KIND SEED: one, told in full. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "rimeglass/report.h"
#include "tell.h"
#include "wired_board.h"

#define CELLS_MOST 600000u /* of a board */
#define WORDS_MOST 70000u

/* How many chips a fault reaches. */
typedef enum reach { ONE_CHIP, OF_BANK, OF_LINE, OF_ALL } reach;

typedef struct kind {
    const char *name;
    wired_fault_kind fault;
    wired_sort net, other; /* of those that touch */
    reach reach;
} kind;

static const kind kinds[] = {
    {"data, address touch", WIRED_TOUCH, WIRED_DATA, WIRED_ADDRESS, OF_ALL},
    {"data, select touch", WIRED_TOUCH, WIRED_DATA, WIRED_SELECT, OF_ALL},
    {"address, select touch", WIRED_TOUCH, WIRED_ADDRESS, WIRED_SELECT, OF_ALL},
    {"address, write touch", WIRED_TOUCH, WIRED_ADDRESS, WIRED_WRITE, OF_ALL},
    {"data, write touch", WIRED_TOUCH, WIRED_DATA, WIRED_WRITE, OF_ALL},
    {"select, write touch", WIRED_TOUCH, WIRED_SELECT, WIRED_WRITE, OF_ALL},
    {"selects touch", WIRED_TOUCH, WIRED_SELECT, WIRED_SELECT, OF_ALL},
    {"data, data touch", WIRED_TOUCH, WIRED_DATA, WIRED_DATA, OF_ALL},
    {"address, address touch", WIRED_TOUCH, WIRED_ADDRESS, WIRED_ADDRESS, OF_ALL},
    {"data pulled", WIRED_PULL, WIRED_DATA, WIRED_DATA, OF_LINE},
    {"buffer: no writes", WIRED_NO_WRITES, 0, 0, OF_BANK},
    {"buffer: no reads", WIRED_NO_READS, 0, 0, OF_BANK},
    {"bank always written", WIRED_WRITES_ALL, 0, 0, OF_BANK},
    {"chip always written", WIRED_WRITES_CHIP, 0, 0, ONE_CHIP},
    {"two banks fight", WIRED_FIGHT, 0, 0, OF_ALL},
    {"supply sags", WIRED_SAG, 0, 0, OF_BANK},
    {"outputs fall at once", WIRED_SWITCHING, 0, 0, OF_BANK},
    {"address lines bounce", WIRED_BOUNCE, WIRED_ADDRESS, 0, OF_ALL},
    {"late select", WIRED_LATE_SELECT, 0, 0, OF_BANK},
    {"rows as columns", WIRED_ONE_HALF, 0, 0, OF_BANK},
    {"slow data line", WIRED_SLOW_LINE, WIRED_DATA, 0, OF_LINE},
    {"weak output", WIRED_WEAK_OUTPUT, 0, 0, ONE_CHIP},
    {"half of a chip", WIRED_HALF_CHIP, 0, 0, ONE_CHIP},
    {"two defects of a chip", WIRED_TWO_DEFECTS, 0, 0, ONE_CHIP},
};
#define KINDS (sizeof kinds / sizeof *kinds)

typedef struct score {
    unsigned cases, silent, right, nobody, wrong, doubt;
} score;

typedef struct wired_case {
    diag_board board;
    wired_fault fault;
    rmg_run run;
    rmg_suspects suspects;
    bool failing[RMG_PLACE_RULES]; /* sockets of which a bit failed */
    unsigned failing_count;
    bool failed;
} wired_case;

static wired_net some_net(const rmg_board *board, wired_sort sort, diag_dice *dice)
{
    return (wired_net){sort, (unsigned)diag_roll(dice, sort == WIRED_ADDRESS  ? board->address_bits
                                                       : sort == WIRED_DATA   ? board->word_bits
                                                       : sort == WIRED_SELECT ? board->bank_count
                                                                              : 1)};
}

/* A fault of the kind at a random place; false: this board cannot have it. */
static bool make_fault(const rmg_board *board, const kind *k, diag_dice *dice, wired_fault *f)
{
    const unsigned banks = (unsigned)board->bank_count;

    *f = (wired_fault){.kind = k->fault,
                       .net = some_net(board, k->net, dice),
                       .other = some_net(board, k->other, dice),
                       .bank = (unsigned)diag_roll(dice, banks),
                       .bank2 = (unsigned)diag_roll(dice, banks),
                       .chip = (unsigned)diag_roll(dice, board->placement.rule_count),
                       .level = (unsigned)diag_roll(dice, 2),
                       .strength = 8u + (unsigned)diag_roll(dice, 8)};
    if (k->fault == WIRED_SAG)
        f->strength = 20u << diag_roll(dice, 6);
    if (k->fault == WIRED_BOUNCE)
        f->strength = 3u + (unsigned)diag_roll(dice, 5);
    if (k->fault == WIRED_TOUCH && k->net == k->other && f->net.index == f->other.index)
        return false;
    if (k->fault == WIRED_ONE_HALF)
        return board->sockets[board->placement.rules[0].socket].part->row_lines != 0;
    if (k->fault == WIRED_FIGHT || k->fault == WIRED_LATE_SELECT)
        return f->bank != f->bank2;
    return true;
}

static void count_failing(wired_case *c)
{
    const rmg_placement *p = &c->board.board->placement;

    for (uint16_t r = 0; r < p->rule_count; r++) {
        const rmg_rule *rule = &p->rules[r];
        c->failing[rule->socket] =
            rmg_failset_words(c->run.failures, &rule->where, rmg_rule_bits(rule)) != 0;
        c->failing_count += c->failing[rule->socket];
    }
}

static bool make_case(const kind *k, uint64_t seed, wired_case *c)
{
    const rmg_plan plan = {
        .passes = 2, .seed = 1, .march = rmg_march_c_minus, .march_name = "March C-"};
    diag_dice dice = diag_seed(seed, 21);
    bool made = false;
    rmg_error error = {0};
    wired_board *b;
    rmg_target target;

    memset(c, 0, sizeof *c);
    for (unsigned tries = 0; tries < 200 && !made; tries++) {
        diag_board_make(seed * 1000 + tries, diag_roll(&dice, 2) ? DIAG_HIGH : DIAG_INTERLEAVED,
                        &c->board);
        made = diag_board_cells(c->board.board) <= CELLS_MOST &&
               c->board.board->last_address < WORDS_MOST &&
               make_fault(c->board.board, k, &dice, &c->fault);
        if (!made)
            rmg_board_free(c->board.board);
    }
    if (!made)
        return false;
    b = wired_board_new(&c->board, &c->fault, dice);
    target = (rmg_target){.bus = &wired_board_bus,
                          .context = b,
                          .mask = (rmg_word) ~(rmg_word)0 >>
                                  (RMG_WORD_BITS - c->board.board->word_bits)};
    if (rmg_run_begin(&c->run, c->board.board, &plan, "wired", &error) != RMG_OK ||
        rmg_run_carry_out(&c->run, &target, NULL) != RMG_OK)
        exit(2);
    wired_board_free(b);
    c->failed = rmg_run_failed(&c->run);
    rmg_suspects_find(&c->run, NULL, &c->suspects);
    rmg_replay(&c->run, &c->suspects, 0, NULL, NULL);
    rmg_suspects_word(&c->run, &c->suspects);
    count_failing(c);
    return true;
}

static void end_case(wired_case *c)
{
    rmg_suspects_free(&c->suspects);
    rmg_run_end(&c->run);
    rmg_board_free(c->board.board);
}

static bool reaches(const wired_case *c, const kind *k, const rmg_rule *rule)
{
    return k->reach == ONE_CHIP  ? rule == &c->board.board->placement.rules[c->fault.chip]
           : k->reach == OF_BANK ? rule->bank == c->fault.bank
           : k->reach == OF_LINE ? rmg_rule_bits(rule) >> c->fault.net.index & 1u
                                 : true;
}

/* A suspect that names a chip which is not at fault; where but one chip fails in all, naming it is
 * not wrong: nothing tells it from what is beside it. */
static bool names_wrongly(const wired_case *c, const kind *k, const rmg_suspect *s)
{
    const rmg_placement *p = &c->board.board->placement;

    if (s->finding.socket == RMG_NO_SOCKET || (c->failing_count == 1 && k->reach != ONE_CHIP))
        return false;
    for (uint16_t r = 0; r < p->rule_count && k->reach == ONE_CHIP; r++)
        if (p->rules[r].socket == s->finding.socket && reaches(c, k, &p->rules[r]))
            return false;
    return true;
}

/* Is it about chips that the fault reaches, and nothing else, and of those that failed most? */
static bool names_rightly(const wired_case *c, const kind *k, const rmg_suspect *s)
{
    const rmg_placement *p = &c->board.board->placement;
    bool named[RMG_PLACE_RULES] = {false};
    unsigned both = 0, meant = 0, beside = 0;

    rmg_finding_sockets(&c->run, &s->finding, named);
    for (uint16_t r = 0; r < p->rule_count; r++) {
        const uint16_t socket = p->rules[r].socket;
        const bool is = reaches(c, k, &p->rules[r]) && c->failing[socket];

        meant += is;
        both += is && named[socket];
        beside += !reaches(c, k, &p->rules[r]) && named[socket];
    }
    return 2 * both >= meant && !beside;
}

static const char *net_name(wired_net net, char *text, size_t room)
{
    static const char *const sorts[] = {"A", "D", "select of bank ", "write "};

    snprintf(text, room, "%s%u", sorts[net.sort], net.index);
    return text;
}

static void tell(const wired_case *c, const kind *k, uint64_t seed)
{
    const wired_fault *f = &c->fault;
    char a[40], b[40], *board = rmg_board_text(c->board.board);

    printf("%s\n%s, seed %llu: %s, %s, banks b%u b%u, U%u, level %u, strength %u\n", board, k->name,
           (unsigned long long)seed, net_name(f->net, a, sizeof a), net_name(f->other, b, sizeof b),
           f->bank, f->bank2, c->board.board->placement.rules[f->chip].socket + 1u, f->level,
           f->strength);
    rmg_text_free(board);
    printf("%u sockets fail\n", c->failing_count);
    bench_tell_suspects(&c->suspects);
}

static void judge(const wired_case *c, const kind *k, uint64_t seed, score *to)
{
    bool wrong = false, doubt = false, right = false;

    for (size_t i = 0; i < c->suspects.count; i++) {
        const rmg_suspect *s = &c->suspects.list[i];
        const bool wrongly = names_wrongly(c, k, s);

        wrong |= wrongly && s->confidence > 0.5;
        doubt |= wrongly && s->confidence > 0.2;
        right |= !wrongly && names_rightly(c, k, s);
    }
    to->right += right;
    to->nobody += !c->suspects.count;
    to->wrong += wrong;
    to->doubt += doubt && !wrong;
    if (wrong)
        printf("  %s, %llu: %s at %.0f %%\n", k->name, (unsigned long long)seed,
               c->suspects.list[0].site, 100 * c->suspects.list[0].confidence);
}

int main(int argc, char **argv)
{
    const bool one = argc > 3 && strcmp(argv[1], "case") == 0;
    const unsigned count = one ? 1 : argc > 1 ? (unsigned)strtoul(argv[1], NULL, 10) : 10;
    const uint64_t first = one        ? strtoull(argv[3], NULL, 10)
                           : argc > 2 ? strtoull(argv[2], NULL, 10)
                                      : 1;
    score scores[KINDS] = {{0}};

    setvbuf(stdout, NULL, _IOLBF, 0);
    for (size_t i = 0; i < KINDS; i++)
        for (unsigned n = 0; n < count && (!one || strcmp(argv[2], kinds[i].name) == 0); n++) {
            wired_case c;

            if (!make_case(&kinds[i], first + n, &c))
                continue;
            scores[i].cases++;
            scores[i].silent += !c.failed;
            if (one)
                tell(&c, &kinds[i], first + n);
            if (c.failed)
                judge(&c, &kinds[i], first + n, &scores[i]);
            end_case(&c);
        }
    printf("%-24s %6s %6s %6s %6s %6s %8s\n", "fault", "cases", "silent", "named", "nobody",
           "wrong", "in doubt");
    for (size_t i = 0; i < KINDS; i++)
        if (scores[i].cases)
            printf("%-24s %6u %6u %6u %6u %6u %8u\n", kinds[i].name, scores[i].cases,
                   scores[i].silent, scores[i].right, scores[i].nobody, scores[i].wrong,
                   scores[i].doubt);
    return 0;
}
