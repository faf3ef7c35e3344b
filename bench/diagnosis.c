/* How often the diagnosis is right: random faults, one seed a case, in the demo's boards and in
 * boards made up at random; two at once; none; noise; chips that fail now and then.
 * Call: bench-diagnosis [SINGLES [FIRST-SEED]]: so many single faults, and of the others their
 * share; or bench-diagnosis size: the time it takes by the number of failures. */
#include <pthread.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "diag.h"

#define BINS  10u
#define DEMOS 3u
#define WORST 400u /* cases whose times are kept for the median */
#define KINDS 64u
#define PARTS 2u /* side by side, each every second case */

/* What a suspect is called, whatever its place: columns of the confusion table. */
typedef enum called_as {
    NAMED_CHIP,
    NAMED_DATA,
    NAMED_TOUCH,
    NAMED_ADDRESS,
    NAMED_WRITE,
    NAMED_BANK,
    NAMED_SPREAD,
    NAMED_NOBODY,
    NAMES
} called_as;

/* What became of the cases of one kind. */
typedef struct score {
    unsigned cases, silent; /* silent: no access failed */
    unsigned place, kind;   /* right; among those that gave the same */
    unsigned nobody, wrong, wrong_socket;
    unsigned members, members_hold;
    unsigned group[5]; /* sizes of the first suspect's group: 0, 1, 2, 3-5, 6 and more */
} score;

typedef struct bench {
    unsigned part, count;
    uint64_t seed;
    diag_board demos[DEMOS];
    score single[KINDS];
    score other[3]; /* noise, and chips that fail now and then */
    unsigned pairs, pairs_hidden, pairs_both, pairs_wrong;
    unsigned healthy, healthy_named;
    unsigned confusion[TRUTH_NOBODY + 1][NAMES];
    unsigned bin_cases[BINS], bin_right[BINS];
    double bin_sum[BINS];
    double ratios[PARTS * WORST];
    unsigned ratio_count;
    double own_seconds, diagnosis_seconds;
} bench;

static void load_demos(bench *b)
{
    static const char *const files[DEMOS] = {
        "demo/boards/halvorn64.yaml", "demo/boards/ostrel16.yaml", "demo/boards/tarnbeck.yaml"};

    for (size_t i = 0; i < DEMOS; i++) {
        rmg_errors errors = {0};

        if (rmg_board_load(files[i], &b->demos[i].board, &errors) != RMG_OK) {
            fprintf(stderr, "%s\n", errors.list[0].what);
            exit(2);
        }
    }
}

/* The board of a case: five in sixteen the Halvorn, four the Ostrel, one the Tarnbeck, six made up;
 * `own` keeps what is to be freed. */
static const diag_board *choose_board(bench *b, diag_dice *dice, uint64_t seed, diag_board *own)
{
    const uint64_t n = diag_roll(dice, 16);

    memset(own, 0, sizeof *own);
    if (n < 10)
        return &b->demos[n < 5 ? 0 : n < 9 ? 1 : 2];
    diag_board_make(seed, own);
    return own;
}

static void free_board(diag_board *own)
{
    if (own->board)
        rmg_board_free(own->board);
}

static unsigned same_count(const rmg_suspect *s)
{
    unsigned same = 0;

    for (size_t i = 0; i < s->replay_count; i++)
        same += s->replays[i].same;
    return same;
}

/* Every suspect that was named counts for the calibration. */
static void calibrate(bench *b, const diag_case *c, const diag_kind *const *kinds)
{
    for (size_t i = 0; i < c->suspects.count; i++) {
        const rmg_suspect *s = &c->suspects.list[i];
        size_t bin = (size_t)(s->confidence * BINS);
        bool right = false;

        for (uint16_t n = 0; n < c->fault_count; n++)
            right |= diag_place_right(c, s, kinds[n], &c->faults[n]);
        bin = bin < BINS ? bin : BINS - 1;
        b->bin_cases[bin]++;
        b->bin_right[bin] += right;
        b->bin_sum[bin] += s->confidence;
    }
}

static void count_members(const diag_case *c, const rmg_suspect *s, score *to)
{
    const unsigned same = same_count(s);

    to->group[same < 3 ? same : same < 6 ? 3 : 4]++;
    for (size_t i = 0; i < s->replay_count; i++)
        if (s->replays[i].same) {
            const bool holds = diag_member_holds(c, &s->replays[i]);

            to->members++;
            to->members_hold += holds;
            if (!holds)
                printf("  a member does not hold: %s\n", s->replays[i].fault);
        }
}

/* What a finding that is put to no socket is called; of others: of a bank. */
static const called_as called_of[RMG_FINDING_KINDS] = {
    [RMG_FINDING_DATA_LINE] = NAMED_DATA,          [RMG_FINDING_DATA_SHORT] = NAMED_TOUCH,
    [RMG_FINDING_ADDRESS_SHORT] = NAMED_TOUCH,     [RMG_FINDING_ADDRESS_LINES] = NAMED_ADDRESS,
    [RMG_FINDING_ADDRESS_OF_BANK] = NAMED_ADDRESS, [RMG_FINDING_BANK_NEVER_WRITTEN] = NAMED_WRITE,
    [RMG_FINDING_SPREAD] = NAMED_SPREAD,
};

static called_as called(const diag_case *c, const rmg_suspect *s)
{
    const rmg_finding *f = s ? &s->finding : NULL;

    if (!f)
        return NAMED_NOBODY;
    if (f->socket != RMG_NO_SOCKET)
        return NAMED_CHIP;
    if (f->kind == RMG_FINDING_SHARED)
        return f->of == RMG_FINDING_NEVER_WRITTEN ? NAMED_WRITE
               : f->lines                         ? NAMED_ADDRESS
                                                  : NAMED_DATA;
    if (f->kind == RMG_FINDING_BRANCH)
        return f->of == RMG_FINDING_NEVER_WRITTEN                      ? NAMED_WRITE
               : c->board->board->lines[f->line].kind == RMG_LINE_DATA ? NAMED_DATA
                                                                       : NAMED_ADDRESS;
    return called_of[f->kind] ? called_of[f->kind] : NAMED_BANK;
}

static void judge(bench *b, diag_case *c, const diag_kind *k, uint64_t seed, score *to)
{
    const rmg_suspect *first = c->suspects.count ? &c->suspects.list[0] : NULL;
    const bool replayed = k->when == WHEN_ALWAYS && k->truth != TRUTH_NOBODY;
    const bool place = first && diag_place_right(c, first, k, &c->faults[0]);
    const bool kind = place && (!replayed || diag_kind_among(first, k));
    const bool wrong = diag_wrong_socket(c, &k);

    b->confusion[k->truth][called(c, first)]++;
    to->place += place || (!first && k->truth == TRUTH_NOBODY);
    to->kind += kind;
    to->nobody += !first;
    to->wrong += first && !place;
    to->wrong_socket += wrong;
    calibrate(b, c, &k);
    if (first && replayed && c->suspects.count == 1) /* else it takes all of them together */
        count_members(c, first, to);
    if ((k->truth != TRUTH_NOBODY && !kind) || wrong)
        printf("  seed %llu, %s, %s: %s (%.0f %%)%s%s\n", (unsigned long long)seed,
               c->board->board->name, k->name, first ? first->site : "nobody",
               first ? first->confidence * 100 : 0, place ? ", the kind is missing" : "",
               wrong ? ", A WRONG SOCKET" : "");
}

/* One case of one fault; false: no board could have it. */
static void single(bench *b, const diag_kind *k, uint64_t seed, score *to)
{
    diag_dice dice = diag_seed(seed, 1);
    diag_case c = {.passes = k->when == WHEN_ALWAYS && k->truth != TRUTH_NOBODY ? 2 : 10,
                   .time = k->time,
                   .warm = k->when == WHEN_WARM,
                   .fault_count = 1};
    diag_board own;

    for (unsigned tries = 0; tries < 200; tries++) {
        c.board = choose_board(b, &dice, seed * 1000 + tries, &own);
        if ((!k->time || c.board == &b->demos[0] || c.board == &b->demos[1]) &&
            diag_fault_make(&dice, c.board->board, k, &c.faults[0]))
            break;
        free_board(&own);
        c.board = NULL;
    }
    if (!c.board)
        return;
    if (c.warm)
        c.faults[0].when = (rmg_sim_when){.warm = true, .from_millic = 45000, .rate_ppb = 5000000};
    if (k->truth == TRUTH_NOBODY) {
        c.faults[0].line = RMG_ALL_DATA_LINES;
        c.faults[0].when.rate_ppb = 30000;
    }
    c.world = diag_roll(&dice, 0);
    c.longer = diag_roll(&dice, 2);
    to->cases++;
    diag_case_run(&c, true);
    if (c.failed) {
        judge(b, &c, k, seed, to);
        b->own_seconds += c.own_seconds;
        b->diagnosis_seconds += c.diagnosis_seconds;
        if (c.board == &b->demos[0] && b->ratio_count < WORST)
            b->ratios[b->ratio_count++] = c.diagnosis_seconds / c.own_seconds;
    } else {
        to->silent++;
    }
    diag_case_end(&c);
    free_board(&own);
}

static void add_scores(score *all, const score *s)
{
    all->cases += s->cases;
    all->silent += s->silent;
    all->place += s->place;
    all->kind += s->kind;
    all->nobody += s->nobody;
    all->wrong += s->wrong;
    all->wrong_socket += s->wrong_socket;
    all->members += s->members;
    all->members_hold += s->members_hold;
    for (size_t i = 0; i < 5; i++)
        all->group[i] += s->group[i];
}

static void print_score(const char *name, const score *s)
{
    printf("%-22s %6u %6u %6u %6u %6u %6u %6u  %7u %7u  ", name, s->cases, s->silent, s->place,
           s->kind, s->nobody, s->wrong, s->wrong_socket, s->members, s->members_hold);
    for (size_t i = 0; i < 5; i++)
        printf(" %4u", s->group[i]);
    printf("\n");
}

static void print_header(void)
{
    printf("\n%-22s %6s %6s %6s %6s %6s %6s %6s  %7s %7s   %s\n", "kind", "cases", "silent",
           "place", "+kind", "nobody", "wrong", ">50 %", "members", "hold",
           "groups of 0, 1, 2, 3-5, 6+");
}

static double share(unsigned part, unsigned all)
{
    return all ? 100.0 * part / all : 100.0;
}

static void print_singles(const bench *b)
{
    score all = {0};
    unsigned failed;

    print_header();
    for (size_t i = 0; i < diag_kind_count; i++) {
        print_score(diag_kinds[i].name, &b->single[i]);
        add_scores(&all, &b->single[i]);
    }
    print_score("all", &all);
    failed = all.cases - all.silent;
    printf("\nOf %u that failed an access: place %.2f %%, place and kind %.2f %%, a wrong socket "
           "above 50 %% %.2f %%; of the groups' %u members %.2f %% give the same.\n",
           failed, share(all.place, failed), share(all.kind, failed),
           share(all.wrong_socket, failed), all.members, share(all.members_hold, all.members));
}

/* Is the fault named by any suspect? */
static bool is_named(const diag_case *c, const diag_kind *k, const rmg_sim_fault *f)
{
    for (size_t i = 0; i < c->suspects.count; i++)
        if (diag_place_right(c, &c->suspects.list[i], k, f))
            return true;
    return false;
}

/* Two faults at different sockets, each of which shows when it is alone. */
static void pair(bench *b, uint64_t seed)
{
    diag_dice dice = diag_seed(seed, 2);
    const diag_kind *kinds[2];
    diag_board own;
    diag_case c = {
        .board = choose_board(b, &dice, seed * 1000 + 999, &own), .passes = 2, .fault_count = 2};
    unsigned tries = 0;
    bool show = true;

    c.world = diag_roll(&dice, 0);
    for (unsigned n = 0; n < 2; n++) {
        diag_case alone = {.board = c.board, .passes = 2, .fault_count = 1, .world = c.world};

        do
            kinds[n] = &diag_kinds[diag_roll(&dice, diag_kind_count)];
        while (tries++ < 1000 && (kinds[n]->time || kinds[n]->truth != TRUTH_CHIP ||
                                  !diag_fault_make(&dice, c.board->board, kinds[n], &c.faults[n]) ||
                                  (n && c.faults[1].chip == c.faults[0].chip)));
        show &= tries < 1000; /* else the board has one chip only */
        alone.faults[0] = c.faults[n];
        diag_case_run(&alone, false);
        show &= alone.failed;
        diag_case_end(&alone);
    }
    diag_case_run(&c, true);
    if (show) {
        const bool named =
            is_named(&c, kinds[0], &c.faults[0]) && is_named(&c, kinds[1], &c.faults[1]);
        const bool bad = diag_wrong_socket(&c, kinds);

        b->pairs++;
        b->pairs_both += named;
        b->pairs_wrong += bad;
        calibrate(b, &c, kinds);
        if (!named || bad)
            printf("  pair %llu, %s: %s and %s%s\n", (unsigned long long)seed, c.board->board->name,
                   kinds[0]->name, kinds[1]->name, bad ? ", A WRONG SOCKET" : ": not both named");
    } else {
        b->pairs_hidden++;
    }
    diag_case_end(&c);
    free_board(&own);
}

static void healthy(bench *b, uint64_t seed)
{
    diag_dice dice = diag_seed(seed, 3);
    diag_board own;
    diag_case c = {.board = choose_board(b, &dice, seed * 1000 + 998, &own), .passes = 1};

    c.world = diag_roll(&dice, 0);
    diag_case_run(&c, true);
    b->healthy++;
    b->healthy_named += c.failed || c.suspects.count;
    diag_case_end(&c);
    free_board(&own);
}

/* Kinds that do not fail alike in each pass. */
static const diag_kind others[3] = {
    {"noise", RMG_FAULT_NOISE, TRUTH_NOBODY, REACH_ALL, WHEN_NOW_AND_THEN, 0, 0},
    {"output, now and then", RMG_FAULT_OUTPUT, TRUTH_CHIP, REACH_CHIP, WHEN_NOW_AND_THEN, 0, 0},
    {"pin open, when warm", RMG_FAULT_DATA_OPEN, TRUTH_CHIP, REACH_CHIP, WHEN_WARM, 0, 0}};

/* All cases of one part. */
static void *carry_out(void *context)
{
    bench *b = context;
    const unsigned count = b->count;

    for (unsigned i = b->part; i < count; i += PARTS)
        single(b, &diag_kinds[i % diag_kind_count], b->seed + i, &b->single[i % diag_kind_count]);
    for (unsigned i = b->part; i < count / 4; i += PARTS) {
        pair(b, b->seed + i);
        healthy(b, b->seed + i);
    }
    for (unsigned i = b->part; i < count / 10; i += PARTS) {
        const unsigned which = 1 + i / PARTS % 2;

        single(b, &others[0], b->seed + i, &b->other[0]);
        single(b, &others[which], b->seed + count + i, &b->other[which]);
    }
    return NULL;
}

static void merge(bench *to, const bench *from)
{
    for (size_t i = 0; i < KINDS; i++)
        add_scores(&to->single[i], &from->single[i]);
    for (size_t i = 0; i < 3; i++)
        add_scores(&to->other[i], &from->other[i]);
    to->pairs += from->pairs;
    to->pairs_hidden += from->pairs_hidden;
    to->pairs_both += from->pairs_both;
    to->pairs_wrong += from->pairs_wrong;
    to->healthy += from->healthy;
    to->healthy_named += from->healthy_named;
    for (size_t i = 0; i <= TRUTH_NOBODY; i++)
        for (size_t n = 0; n < NAMES; n++)
            to->confusion[i][n] += from->confusion[i][n];
    for (size_t i = 0; i < BINS; i++) {
        to->bin_cases[i] += from->bin_cases[i];
        to->bin_right[i] += from->bin_right[i];
        to->bin_sum[i] += from->bin_sum[i];
    }
    for (unsigned i = 0; i < from->ratio_count; i++)
        to->ratios[to->ratio_count++] = from->ratios[i];
    to->own_seconds += from->own_seconds;
    to->diagnosis_seconds += from->diagnosis_seconds;
}

static int rising(const void *a, const void *b)
{
    const double x = *(const double *)a, y = *(const double *)b;

    return (x > y) - (x < y);
}

/* What was wrong against what was named first; a line that serves one chip only is a chip too. */
static void print_confusion(const bench *b)
{
    static const char *const rows[] = {"chip",   "data line", "lines that touch", "address line",
                                       "writes", "bank",      "selects",          "noise"};
    static const char *const columns[] = {"chip",  "data", "touch",  "address",
                                          "write", "bank", "spread", "nobody"};

    printf("\n%-18s", "was, and was named");
    for (size_t n = 0; n < NAMES; n++)
        printf(" %8s", columns[n]);
    printf("\n");
    for (size_t i = 0; i <= TRUTH_NOBODY; i++) {
        printf("%-18s", rows[i]);
        for (size_t n = 0; n < NAMES; n++)
            printf(" %8u", b->confusion[i][n]);
        printf("\n");
    }
}

static void print_calibration(bench *b)
{
    printf("\n%-12s %8s %8s %8s\n", "confidence", "suspects", "stated", "right");
    for (size_t i = 0; i < BINS; i++)
        if (b->bin_cases[i])
            printf("%.1f to %.1f   %8u %7.1f%% %7.1f%%\n", (double)i / BINS, (double)(i + 1) / BINS,
                   b->bin_cases[i], 100 * b->bin_sum[i] / b->bin_cases[i],
                   share(b->bin_right[i], b->bin_cases[i]));
    qsort(b->ratios, b->ratio_count, sizeof *b->ratios, rising);
    printf("\nDiagnosis with replays took %.1f times as long as the runs; on the 64 KiB board, "
           "single faults: median %.1f, nine tenths below %.1f.\n",
           b->diagnosis_seconds / b->own_seconds, b->ratios[b->ratio_count / 2],
           b->ratios[b->ratio_count * 9 / 10]);
}

int main(int argc, char **argv)
{
    const bool size = argc > 1 && strcmp(argv[1], "size") == 0;
    bench *parts = calloc(PARTS, sizeof *parts);
    pthread_t threads[PARTS];

    setvbuf(stdout, NULL, _IOLBF, 0);
    if (size || !parts) {
        diag_by_size();
        return 0;
    }
    printf("Cases that are not right\n");
    for (unsigned i = 0; i < PARTS; i++) {
        parts[i].part = i;
        parts[i].count = argc > 1 ? (unsigned)strtoul(argv[1], NULL, 10) : 200;
        parts[i].seed = argc > 2 ? strtoull(argv[2], NULL, 10) : 1;
        load_demos(&parts[i]);
        if (pthread_create(&threads[i], NULL, carry_out, &parts[i]) != 0)
            return 2;
    }
    for (unsigned i = 0; i < PARTS; i++)
        pthread_join(threads[i], NULL);
    for (unsigned i = 1; i < PARTS; i++)
        merge(&parts[0], &parts[i]);
    print_singles(&parts[0]);
    printf("\n%u pairs, and %u of which one alone does not show: both named in %u (%.1f %%), a "
           "wrong socket above 50 %% in %u.\n%u healthy runs: somebody named in %u.\n",
           parts[0].pairs, parts[0].pairs_hidden, parts[0].pairs_both,
           share(parts[0].pairs_both, parts[0].pairs), parts[0].pairs_wrong, parts[0].healthy,
           parts[0].healthy_named);
    print_header();
    for (size_t i = 0; i < 3; i++)
        print_score(others[i].name, &parts[0].other[i]);
    print_confusion(&parts[0]);
    print_calibration(&parts[0]);
    for (size_t i = 0; i < PARTS; i++)
        for (size_t n = 0; n < DEMOS; n++)
            rmg_board_free(parts[i].demos[n].board);
    free(parts);
    return 0;
}
