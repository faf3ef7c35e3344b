/* Random faults, one seed a case, put into the demo's boards; what the diagnosis makes of them. It
 * knows what was injected and judges the answer; it shares no code with the proposals.
 * Call: bench-diagnosis [CASES [FIRST-SEED [BOARD...]]]; a BOARD may be random:SEED, a board made
 * up at random, whose undriven lines behave otherwise than its file says. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "rimeglass/fault.h"
#include "rimeglass/replay.h"

#define CONFIDENCE_BINS 10u

/* What kind of case it is, and what a right answer names. */
typedef enum truth {
    TRUTH_CHIP,
    TRUTH_BIT,
    TRUTH_BITS,
    TRUTH_LINES,
    TRUTH_BANK,
    TRUTH_NOBODY
} truth;

typedef struct kind {
    const char *name;
    rmg_fault_kind fault;
    truth truth;
    bool bank; /* for the chips of one bank; else of one chip, or of all */
    bool rated;
} kind;

static const kind kinds[] = {
    {"cell stuck", RMG_FAULT_CELL, TRUTH_CHIP, false, false},
    {"row stuck", RMG_FAULT_ROW, TRUTH_CHIP, false, false},
    {"column stuck", RMG_FAULT_COLUMN, TRUTH_CHIP, false, false},
    {"output stuck", RMG_FAULT_OUTPUT, TRUTH_CHIP, false, false},
    {"data pin open", RMG_FAULT_DATA_OPEN, TRUTH_CHIP, false, false},
    {"chip missing", RMG_FAULT_MISSING, TRUTH_CHIP, false, false},
    {"address pin", RMG_FAULT_ADDRESS_CHIP, TRUTH_CHIP, false, false},
    {"transition", RMG_FAULT_TRANSITION, TRUTH_CHIP, false, false},
    {"read flips", RMG_FAULT_READ_FLIPS, TRUTH_CHIP, false, false},
    {"read wrong", RMG_FAULT_READ_WRONG, TRUTH_CHIP, false, false},
    {"coupling inverts", RMG_FAULT_COUPLING_INVERTS, TRUTH_CHIP, false, false},
    {"coupling sets", RMG_FAULT_COUPLING_SETS, TRUTH_CHIP, false, false},
    {"coupling holds", RMG_FAULT_COUPLING_HOLDS, TRUTH_CHIP, false, false},
    {"wrong cells", RMG_FAULT_ADDRESS_CELLS, TRUTH_CHIP, false, false},
    {"weak cells", RMG_FAULT_WEAK, TRUTH_CHIP, false, false},
    {"chip never written", RMG_FAULT_NO_WRITE, TRUTH_CHIP, false, false},
    {"data line stuck", RMG_FAULT_DATA_LINE, TRUTH_BIT, false, false},
    {"data line, one bank", RMG_FAULT_LINE_STUCK, TRUTH_BIT, true, false},
    {"data line open, one bank", RMG_FAULT_LINE_OPEN, TRUTH_BIT, true, false},
    {"data lines touch", RMG_FAULT_DATA_SHORT, TRUTH_BITS, true, false},
    {"address line, one bank", RMG_FAULT_ADDRESS_BANK, TRUTH_LINES, true, false},
    {"address line, all", RMG_FAULT_ADDRESS_STUCK, TRUTH_LINES, false, false},
    {"address lines touch", RMG_FAULT_ADDRESS_SHORT, TRUTH_LINES, true, false},
    {"bank never selected", RMG_FAULT_DESELECTED, TRUTH_BANK, true, false},
    {"bank never written", RMG_FAULT_NO_WRITE, TRUTH_BANK, true, false},
    {"output, now and then", RMG_FAULT_OUTPUT, TRUTH_CHIP, false, true},
    {"noise", RMG_FAULT_NOISE, TRUTH_NOBODY, false, true},
};
#define KINDS (sizeof kinds / sizeof *kinds)

/* What became of the cases of one kind. */
typedef struct score {
    unsigned cases, silent; /* silent: no access failed */
    unsigned right, right_socket_wrong_kind, unnamed, wrong, wrong_sure;
    unsigned replayed, same; /* the first suspect had replays; one of them was the same */
    unsigned group[6];       /* sizes of its groups of the same: 0, 1 ... 5 and more */
} score;

#define BOARDS 16u

typedef struct bench {
    rmg_board *boards[BOARDS];
    bool made_up[BOARDS];
    size_t board_count;
    score scores[KINDS];
    unsigned bin_cases[CONFIDENCE_BINS], bin_right[CONFIDENCE_BINS];
    double bin_sum[CONFIDENCE_BINS];
    double own_seconds, replay_seconds;
    uint64_t dice;
} bench;

static uint64_t roll(bench *b, uint64_t below)
{
    b->dice ^= b->dice << 13;
    b->dice ^= b->dice >> 7;
    b->dice ^= b->dice << 17;
    return below ? b->dice % below : 0;
}

/* A board of 8, 16 or 32 bits, of chips 1, 4 or 8 wide, with or without rows and columns, 1 to 4
 * banks. Its text; the caller frees it. */
static char *random_board(bench *b, uint64_t seed)
{
    static const struct {
        const char *part;
        unsigned width, lines, rows;
    } parts[] = {{"4116", 1, 14, 7},
                 {"4416", 4, 14, 8},
                 {"2114", 4, 10, 0},
                 {"6116", 8, 11, 0},
                 {"6264", 8, 13, 0}};
    const size_t room = 16384;
    char *text = malloc(room);
    unsigned word, part, banks, chips, lines, n = 1;
    int at;

    b->dice = seed * UINT64_C(0x9E3779B97F4A7C15) + 7u;
    roll(b, 0);
    word = 8u << roll(b, 3);
    part = (unsigned)roll(b, sizeof parts / sizeof *parts);
    banks = 1 + (unsigned)roll(b, 4);
    chips = word / parts[part].width;
    lines = parts[part].lines;
    if (!text)
        exit(2);
    at = snprintf(text, room,
                  "board: random %llu\nword: %u\naddresses: words\naddress-lines: %u\nundriven: "
                  "%s\naccess-ns: 400\nregions:\n",
                  (unsigned long long)seed, word, lines + 3, roll(b, 2) ? "high" : "holds");
    for (unsigned i = 0; i < banks; i++)
        at +=
            snprintf(text + at, room - (size_t)at, "  - {name: r%u, range: 0x%x-0x%x, kind: ram}\n",
                     i, i << lines, ((i + 1) << lines) - 1);
    at += snprintf(text + at, room - (size_t)at, "banks:\n");
    for (unsigned i = 0; i < banks; i++) {
        at += snprintf(text + at, room - (size_t)at, "  - {name: b%u, range: 0x%x-0x%x, part: %s, ",
                       i, i << lines, ((i + 1) << lines) - 1, parts[part].part);
        if (parts[part].rows)
            at += snprintf(text + at, room - (size_t)at, "rows: A0-A%u, columns: A%u-A%u, data: {",
                           parts[part].rows - 1, parts[part].rows, lines - 1);
        else
            at += snprintf(text + at, room - (size_t)at, "lines: A0-A%u, data: {", lines - 1);
        for (unsigned c = 0; c < chips; c++, n++)
            at += snprintf(text + at, room - (size_t)at, "%sU%u: D%u-D%u", c ? ", " : "", n,
                           c * parts[part].width, (c + 1) * parts[part].width - 1);
        at += snprintf(text + at, room - (size_t)at, "}}\n");
    }
    snprintf(text + at, room - (size_t)at, "sockets:\n  - {names: U1-U%u, mount: %s}\n", n - 1,
             roll(b, 2) ? "socket" : "soldered");
    return text;
}

static bool tested(const rmg_board *board, const rmg_rule *rule)
{
    const rmg_region *region = rmg_board_region_at(board, rule->where.first);

    return region && region->kind == RMG_REGION_RAM &&
           board->sockets[rule->socket].part->kind != RMG_PART_ROM;
}

/* A random rule of RAM. */
static const rmg_rule *any_rule(bench *b, const rmg_board *board)
{
    for (;;) {
        const rmg_rule *rule = &board->placement.rules[roll(b, board->placement.rule_count)];

        if (tested(board, rule))
            return rule;
    }
}

static void include_bank(const rmg_board *board, uint8_t bank, bool all, rmg_sim_fault *f)
{
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (all || board->placement.rules[r].bank == bank)
            rmg_fault_include(f, board->placement.rules[r].socket);
}

static void make_fault(bench *b, const rmg_board *board, const kind *k, const rmg_rule *rule,
                       rmg_sim_fault *f)
{
    const rmg_part *part = board->sockets[rule->socket].part;
    const uint64_t depth = (uint64_t)1 << part->address_lines;

    memset(f, 0, sizeof *f);
    f->kind = k->fault;
    f->chip = rule->socket;
    f->bank = rule->bank;
    f->level = (uint8_t)roll(b, 2);
    f->state = (uint8_t)roll(b, 2);
    f->data_line = (uint8_t)roll(b, rule->width);
    f->data_line2 = f->data_line;
    f->line = rule->data_bits[f->data_line];
    f->cell = roll(b, depth);
    f->cell2 = (f->cell + 1 + roll(b, depth - 1)) % depth;
    f->reaches = RMG_REACHES_OTHER;
    f->count = (uint32_t)(50 + roll(b, 2000));
    if (k->fault == RMG_FAULT_ROW && part->row_lines)
        f->cell = roll(b, (uint64_t)1 << part->row_lines);
    if (k->fault == RMG_FAULT_COLUMN && part->row_lines)
        f->cell = roll(b, depth >> part->row_lines);
    if (k->fault == RMG_FAULT_DATA_LINE)
        f->cell = 0;
    if (k->fault == RMG_FAULT_DATA_SHORT) {
        do
            f->line2 = (uint8_t)roll(b, board->word_bits);
        while (f->line2 == f->line);
    }
    if (k->fault == RMG_FAULT_ADDRESS_CHIP)
        f->lines = (rmg_addr)1 << roll(b, part->address_lines);
    if (k->truth == TRUTH_LINES) {
        f->lines = (rmg_addr)1 << rule->address_bits[roll(b, rule->address_lines)];
        while (k->fault == RMG_FAULT_ADDRESS_SHORT && (f->lines & (f->lines - 1u)) == 0)
            f->lines |= (rmg_addr)1 << rule->address_bits[roll(b, rule->address_lines)];
    }
    if (k->truth == TRUTH_CHIP && k->fault == RMG_FAULT_NO_WRITE)
        rmg_fault_include(f, rule->socket);
    else if (k->truth != TRUTH_CHIP)
        include_bank(board, rule->bank, !k->bank, f);
    if (k->rated)
        f->when.rate_ppb = k->fault == RMG_FAULT_NOISE ? 30000u : 200000u;
    if (k->fault == RMG_FAULT_NOISE)
        f->line = RMG_ALL_DATA_LINES;
}

static bool can_have(const rmg_board *board, const kind *k, const rmg_rule *rule)
{
    const rmg_part *part = board->sockets[rule->socket].part;

    return part->row_lines || (k->fault != RMG_FAULT_ROW && k->fault != RMG_FAULT_COLUMN);
}

static unsigned chips_of(const rmg_board *board, uint8_t bank)
{
    unsigned chips = 0;

    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        chips += board->placement.rules[r].bank == bank;
    return chips;
}

/* Does the suspect name what was injected? */
static bool names(const rmg_suspect *s, const rmg_board *board, const kind *k,
                  const rmg_sim_fault *f)
{
    const rmg_finding *n = &s->finding;

    switch (k->truth) {
    case TRUTH_CHIP:
        return n->socket == f->chip;
    case TRUTH_BIT:
        return n->bits == (rmg_word)1 << f->line &&
               (k->bank || board->bank_count == 1 /* line and chip are one answer there */
                    ? n->bank == f->bank || n->bank == RMG_NO_BANK
                    : n->kind == RMG_FINDING_DATA_LINE || n->kind == RMG_FINDING_BRANCH);
    case TRUTH_BITS:
        return n->bits == ((rmg_word)1 << f->line | (rmg_word)1 << f->line2);
    case TRUTH_LINES:
        return n->lines == f->lines;
    case TRUTH_BANK:
        return n->bank == f->bank &&
               (n->socket == RMG_NO_SOCKET || chips_of(board, f->bank) == 1); /* one answer */
    default:
        return n->socket == RMG_NO_SOCKET;
    }
}

static double now(void)
{
    struct timespec t;

    clock_gettime(CLOCK_MONOTONIC, &t);
    return (double)t.tv_sec + (double)t.tv_nsec / 1e9;
}

static void judge(bench *b, const rmg_board *board, const kind *k, const rmg_sim_fault *f,
                  const rmg_suspects *s, uint64_t seed)
{
    score *to = &b->scores[k - kinds];
    const rmg_suspect *first = s->count ? &s->list[0] : NULL;
    bool right, wrong_sure = false;
    unsigned same = 0;
    size_t bin;

    if (!first) {
        to->unnamed++;
        if (k->truth == TRUTH_NOBODY)
            to->right++;
        return;
    }
    right = names(first, board, k, f);
    for (size_t i = 0; i < s->count; i++)
        wrong_sure |= s->list[i].finding.socket != RMG_NO_SOCKET && s->list[i].confidence > 0.5 &&
                      (k->truth == TRUTH_NOBODY ||
                       (k->truth == TRUTH_CHIP && s->list[i].finding.socket != f->chip));
    bin = (size_t)(first->confidence * CONFIDENCE_BINS);
    bin = bin < CONFIDENCE_BINS ? bin : CONFIDENCE_BINS - 1;
    b->bin_cases[bin]++;
    b->bin_right[bin] += right;
    b->bin_sum[bin] += first->confidence;
    to->right += right;
    to->wrong += !right;
    to->wrong_sure += wrong_sure;
    to->replayed += first->replay_count > 0;
    for (size_t i = 0; i < first->replay_count; i++)
        same += first->replays[i].same;
    to->same += same > 0;
    to->group[same < 5 ? same : 5]++;
    if (!right || wrong_sure)
        printf("  seed %llu, %s, %s: named %s (%.0f %%)%s\n", (unsigned long long)seed, board->name,
               k->name, first->site, first->confidence * 100, wrong_sure ? ", A WRONG SOCKET" : "");
}

static void one_case(bench *b, const kind *k, uint64_t seed)
{
    const rmg_board *board;
    const rmg_rule *rule;
    rmg_sim_plan sim_plan;
    rmg_plan plan = {.march_name = "March C-", .march = rmg_march_c_minus, .passes = 2, .seed = 1};
    rmg_target target = {.bus = &rmg_sim_bus};
    rmg_suspects suspects;
    rmg_sim_fault fault;
    rmg_sim sim;
    rmg_run run;
    char *message;
    double start;
    void *memory;

    b->dice = seed * UINT64_C(0x9E3779B97F4A7C15) + 1u;
    roll(b, 0);
    board = b->boards[roll(b, b->board_count)];
    rule = any_rule(b, board);
    for (unsigned tries = 0; !can_have(board, k, rule); tries++) {
        if (tries == 100)
            return; /* none of the boards can have such a fault */
        board = b->boards[roll(b, b->board_count)];
        rule = any_rule(b, board);
    }
    make_fault(b, board, k, rule, &fault);
    rmg_board_to_sim(board, &sim_plan);
    for (size_t i = 0; i < b->board_count; i++)
        if (b->boards[i] == board && b->made_up[i]) { /* what the diagnosis is not told */
            sim_plan.board.undriven = (rmg_undriven)roll(b, 3);
            sim_plan.board.hold_ns = roll(b, 2) ? 0 : 1000 + roll(b, 100000);
        }
    memory = malloc(rmg_sim_bytes(&sim_plan.board, 1));
    if (!memory ||
        rmg_sim_start(&sim, &sim_plan.board, &fault, 1, roll(b, 0) + seed, memory) != RMG_OK) {
        fprintf(stderr, "seed %llu: the simulator refuses the fault\n", (unsigned long long)seed);
        exit(2);
    }
    target.context = &sim;
    target.mask = sim.mask;
    if (k->rated)
        plan.passes = 10;
    start = now();
    if (rmg_run_begin(&run, board, &plan, "bench", &message) != RMG_OK ||
        rmg_run_carry_out(&run, &target, NULL) != RMG_OK)
        exit(2);
    b->own_seconds += now() - start;
    b->scores[k - kinds].cases++;
    if (!rmg_run_failed(&run)) {
        b->scores[k - kinds].silent++;
    } else {
        rmg_suspects_find(&run, NULL, &suspects);
        start = now();
        rmg_replay(&run, &suspects, 0, NULL, NULL);
        b->replay_seconds += now() - start;
        judge(b, board, k, &fault, &suspects, seed);
        rmg_suspects_free(&suspects);
    }
    rmg_run_end(&run);
    rmg_sim_plan_free(&sim_plan);
    free(memory);
}

static void print_tables(const bench *b)
{
    score all = {0};

    printf("\n%-26s %6s %7s %7s %8s %7s %9s %9s  %s\n", "kind", "cases", "silent", "right",
           "nobody", "wrong", "wrong&>50", "replayed", "of them the same; groups of 0 1 2 3 4 5+");
    for (size_t i = 0; i < KINDS; i++) {
        const score *s = &b->scores[i];

        printf("%-26s %6u %7u %7u %8u %7u %9u %9u  %u;", kinds[i].name, s->cases, s->silent,
               s->right, s->unnamed, s->wrong, s->wrong_sure, s->replayed, s->same);
        for (size_t n = 0; n < 6; n++)
            printf(" %u", s->group[n]);
        printf("\n");
        all.cases += s->cases;
        all.silent += s->silent;
        all.right += s->right;
        all.wrong += s->wrong;
        all.wrong_sure += s->wrong_sure;
        all.same += s->same;
        all.replayed += s->replayed;
    }
    printf("%-26s %6u %7u %7u %8s %7u %9u %9u  %u\n", "all", all.cases, all.silent, all.right, "",
           all.wrong, all.wrong_sure, all.replayed, all.same);
    printf(
        "\nOf those that failed an access, %.2f %% right; a wrong socket above 50 %% in %.2f %%.\n",
        100.0 * all.right / (all.cases - all.silent),
        100.0 * all.wrong_sure / (all.cases - all.silent));
    printf("\n%-12s %8s %8s %8s\n", "confidence", "cases", "stated", "right");
    for (size_t i = 0; i < CONFIDENCE_BINS; i++)
        if (b->bin_cases[i])
            printf("%.1f to %.1f   %8u %7.1f%% %7.1f%%\n", (double)i / CONFIDENCE_BINS,
                   (double)(i + 1) / CONFIDENCE_BINS, b->bin_cases[i],
                   100.0 * b->bin_sum[i] / b->bin_cases[i],
                   100.0 * b->bin_right[i] / b->bin_cases[i]);
    printf("\nReplays took %.1f times as long as the runs themselves.\n",
           b->replay_seconds / b->own_seconds);
}

/* One run with these faults; its suspects. false: no access failed. */
static bool run_with(const rmg_board *board, const rmg_sim_fault *faults, uint16_t count,
                     uint64_t world, rmg_suspects *suspects)
{
    rmg_plan plan = {.march_name = "March C-", .march = rmg_march_c_minus, .passes = 2, .seed = 1};
    rmg_target target = {.bus = &rmg_sim_bus};
    rmg_sim_plan sim_plan;
    rmg_sim sim;
    rmg_run run;
    char *message;
    void *memory;
    bool failed;

    rmg_board_to_sim(board, &sim_plan);
    memory = malloc(rmg_sim_bytes(&sim_plan.board, count));
    if (!memory || rmg_sim_start(&sim, &sim_plan.board, faults, count, world, memory) != RMG_OK)
        exit(2);
    target.context = &sim;
    target.mask = sim.mask;
    if (rmg_run_begin(&run, board, &plan, "bench", &message) != RMG_OK ||
        rmg_run_carry_out(&run, &target, NULL) != RMG_OK)
        exit(2);
    failed = rmg_run_failed(&run);
    rmg_suspects_find(&run, NULL, suspects);
    rmg_run_end(&run);
    rmg_sim_plan_free(&sim_plan);
    free(memory);
    return failed;
}

static bool named_at_all(const rmg_suspects *s, uint16_t socket)
{
    for (size_t i = 0; i < s->count; i++)
        if (s->list[i].finding.socket == socket)
            return true;
    return false;
}

/* Two bad chips at once, each of which shows when it is alone. */
static void pairs(bench *b, unsigned cases, uint64_t first)
{
    unsigned both = 0, counted = 0, wrong = 0;

    for (unsigned i = 0; i < cases; i++) {
        const rmg_board *board;
        rmg_sim_fault faults[2];
        rmg_suspects s;
        bool shows = true;

        b->dice = (first + i) * UINT64_C(0x9E3779B97F4A7C15) + 3u;
        roll(b, 0);
        board = b->boards[roll(b, b->board_count)];
        for (size_t n = 0; n < 2; n++) {
            const kind *k;
            const rmg_rule *rule;

            do {
                k = &kinds[roll(b, KINDS)];
                rule = any_rule(b, board);
            } while (k->truth != TRUTH_CHIP || k->rated || !can_have(board, k, rule) ||
                     (n && rule->socket == faults[0].chip));
            make_fault(b, board, k, rule, &faults[n]);
            shows &= run_with(board, &faults[n], 1, first + i, &s);
            rmg_suspects_free(&s);
        }
        if (!shows)
            continue;
        counted++;
        run_with(board, faults, 2, first + i, &s);
        if (named_at_all(&s, faults[0].chip) && named_at_all(&s, faults[1].chip))
            both++;
        else
            printf("  pair %llu, %s: kinds %d and %d, not both named\n",
                   (unsigned long long)(first + i), board->name, faults[0].kind, faults[1].kind);
        for (size_t n = 0; n < s.count; n++)
            if (s.list[n].finding.socket != RMG_NO_SOCKET && s.list[n].confidence > 0.5 &&
                s.list[n].finding.socket != faults[0].chip &&
                s.list[n].finding.socket != faults[1].chip) {
                wrong++;
                break;
            }
        rmg_suspects_free(&s);
    }
    printf("%u pairs of bad chips that both show: both named in %u (%.1f %%), a wrong socket above "
           "50 %% in %u.\n",
           counted, both, counted ? 100.0 * both / counted : 0, wrong);
}

/* Boards without a fault: whoever is named is named wrongly. */
static unsigned healthy(bench *b, unsigned cases, uint64_t first)
{
    unsigned named = 0;

    for (unsigned i = 0; i < cases; i++) {
        const rmg_board *board = b->boards[i % b->board_count];
        rmg_plan plan = {
            .march_name = "March C-", .march = rmg_march_c_minus, .passes = 1, .seed = i};
        rmg_target target = {.bus = &rmg_sim_bus};
        rmg_sim_plan sim_plan;
        rmg_sim sim;
        rmg_run run;
        char *message;
        void *memory;

        rmg_board_to_sim(board, &sim_plan);
        memory = malloc(rmg_sim_bytes(&sim_plan.board, 0));
        if (!memory || rmg_sim_start(&sim, &sim_plan.board, NULL, 0, first + i, memory) != RMG_OK)
            exit(2);
        target.context = &sim;
        target.mask = sim.mask;
        if (rmg_run_begin(&run, board, &plan, "bench", &message) != RMG_OK ||
            rmg_run_carry_out(&run, &target, NULL) != RMG_OK)
            exit(2);
        named += rmg_run_failed(&run);
        rmg_run_end(&run);
        rmg_sim_plan_free(&sim_plan);
        free(memory);
    }
    return named;
}

int main(int argc, char **argv)
{
    static const char *const standard[] = {"demo/boards/halvorn64.yaml",
                                           "demo/boards/ostrel16.yaml",
                                           "demo/boards/tarnbeck.yaml",
                                           "random:1",
                                           "random:2",
                                           "random:3",
                                           "random:4"};
    const unsigned cases = argc > 1 ? (unsigned)strtoul(argv[1], NULL, 10) : 270;
    const uint64_t first = argc > 2 ? strtoull(argv[2], NULL, 10) : 1;
    rmg_mistakes mistakes = {0};
    bench b = {.board_count = 0};
    unsigned named;

    for (size_t i = 0; i < (argc > 3 ? (size_t)argc - 3 : 7) && i < BOARDS; i++) {
        const char *file = argc > 3 ? argv[i + 3] : standard[i];
        const bool random = strncmp(file, "random:", 7) == 0;
        char *text = random ? random_board(&b, strtoull(file + 7, NULL, 10)) : NULL;
        const rmg_status status =
            random ? rmg_board_load_text(file, text, &b.boards[b.board_count], &mistakes)
                   : rmg_board_load(file, &b.boards[b.board_count], &mistakes);

        free(text);
        if (status != RMG_OK) {
            fprintf(stderr, "%s\n", mistakes.texts[0]);
            return 2;
        }
        b.made_up[b.board_count++] = random;
    }
    setvbuf(stdout, NULL, _IOLBF, 0);
    printf("Cases that are not right\n");
    for (unsigned i = 0; i < cases; i++)
        one_case(&b, &kinds[i % KINDS], first + i);
    print_tables(&b);
    pairs(&b, cases / 4 + 1, first);
    named = healthy(&b, cases / 4 + 1, first);
    printf("%u healthy runs: somebody named in %u.\n", cases / 4 + 1, named);
    for (size_t i = 0; i < b.board_count; i++)
        rmg_board_free(b.boards[i]);
    return 0;
}
