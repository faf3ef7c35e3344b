/* How often the diagnosis is right: random faults, one seed a case, in the demo's boards and in
 * boards made up at random, in three families; two and three at once; none; noise; lines and chips
 * that fail now and then.
 * Call: bench-diagnosis [SINGLES [FIRST-SEED [FAMILY]]]: so many single faults in each family, and
 * of the others their share; FAMILY 0 to 2: one of them only. Or bench-diagnosis size [TOOL
 * [CASES]]: the time that whole calls of the tool take. Or bench-diagnosis calibrate [SEED [MOST
 * [SORT]]]: cases that leave doubt. Or bench-diagnosis warm CASES SEED: so many single faults in
 * each family that begin during the run. Or bench-diagnosis case KIND SEED [COUNT]: one case, told
 * in full; or so many, one seed after another; KIND may be "pair" or "triple" too. With "other"
 * before the rest: on a second model of a board, that shares no code with the library's simulator.
 */
#include <pthread.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "diag_bench.h"
#include "other_board.h"

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

/* The board of a case: of banks by high address half the demo's Halvorn and Ostrel, of lanes a
 * sixteenth the Tarnbeck, else made up; `own` keeps what is to be freed. */
static const diag_board *choose_board(bench *b, diag_dice *dice, uint64_t seed, diag_family family,
                                      diag_board *own)
{
    const uint64_t n = diag_roll(dice, 16);

    memset(own, 0, sizeof *own);
    if (family == DIAG_HIGH && n < 8)
        return &b->demos[n < 4 ? 0 : 1];
    if (family == DIAG_LANES && n < 1)
        return &b->demos[2];
    diag_board_make(seed, family, own);
    return own;
}

static void free_board(diag_board *own)
{
    if (own->board)
        rmg_board_free(own->board);
}

/* How a fault that is not always there comes and goes. */
static void set_when(diag_case *c, diag_dice *dice, const diag_kind *k)
{
    static const uint32_t rates[] = {20000, 200000, 2000000, 20000000, 200000000, 500000000};
    rmg_sim_when *when = &c->faults[0].when;

    c->when = k->when;
    switch (k->when) {
    case WHEN_ALWAYS:
        break;
    case WHEN_NOW_AND_THEN:
        when->rate_ppb = k->truth == TRUTH_NOBODY ? 30000 : rates[diag_roll(dice, 6)];
        break;
    case WHEN_WARM:
        *when = (rmg_sim_when){.warm = true, .from_millic = 45000, .rate_ppb = 5000000};
        break;
    case WHEN_AT_FIRST:
    case WHEN_LATER:
        *when = (rmg_sim_when){
            .warm = true, .from_millic = 50000, .rate_ppb = rates[diag_roll(dice, 4)] * 20u};
        break;
    }
    if (k->truth == TRUTH_NOBODY)
        c->faults[0].line = RMG_ALL_DATA_LINES;
}

/* From the second to the sixth of twelve passes on it is there. */
static void set_onset(diag_case *c, diag_dice *dice)
{
    const rmg_board *board = c->board->board;
    uint64_t words = 0;

    for (size_t b = 0; b < board->bank_count; b++)
        if (rmg_board_ram_banks(board) >> b & 1u)
            words += ((board->bank_wheres[b].last - board->bank_wheres[b].first) >>
                      __builtin_popcountll(board->bank_wheres[b].mask)) +
                     1u;
    c->passes = 12;
    c->when = WHEN_LATER;
    c->faults[0].when = (rmg_sim_when){.warm = true, .from_millic = 50000};
    words *= c->longer ? 22u : 10u; /* accesses of a pass */
    c->onset = words + words / 8u + diag_roll(dice, words * 4u);
}

/* One case of one fault; nothing where no board could have it. */
static void single(bench *b, const diag_kind *k, uint64_t seed, diag_family family, diag_score *to)
{
    diag_dice dice = diag_seed(seed, 1);
    diag_case c = {.passes = k->when == WHEN_ALWAYS && k->truth != TRUTH_NOBODY ? 2 : 10,
                   .time = k->time,
                   .fault_count = 1};
    static const unsigned bursts[] = {1, 30, 1000};
    const bool sometimes = k->when != WHEN_ALWAYS;
    diag_board own;

    if (b->second && (!other_board_has(k->fault) || k->time || k->when == WHEN_AT_FIRST ||
                      k->when == WHEN_LATER || k->when == WHEN_WARM))
        return;
    for (unsigned tries = 0; tries < 200; tries++) {
        c.board = choose_board(b, &dice, seed * 1000 + tries, family, &own);
        if ((!b->second || diag_board_cells(c.board->board) <= SECOND_MOST) &&
            diag_fault_make(&dice, c.board, k, &c.faults[0]))
            break;
        free_board(&own);
        c.board = NULL;
    }
    if (!c.board)
        return;
    set_when(&c, &dice, k);
    if (b->second && sometimes)
        c.passes = 6;
    if (b->second)
        c.burst = bursts[diag_roll(&dice, sizeof bursts / sizeof *bursts)];
    c.world = diag_world(&dice);
    c.longer = diag_roll(&dice, 2);
    c.settles = 1 + (uint32_t)diag_roll(&dice, 60);
    if (b->warm)
        set_onset(&c, &dice);
    to->cases++;
    diag_case_run(&c, true);
    if (b->tells)
        diag_tell(&c, seed);
    if (b->answers) {
        diag_answer(&c, seed);
    } else if (c.failed) {
        diag_judge(&c, k, seed, to);
        diag_calibrate(&c, &k,
                       &b->bins[sometimes                    ? OF_INTERMITTENT
                                : family == DIAG_INTERLEAVED ? OF_INTERLEAVED
                                                             : OF_SINGLES]);
        b->own_seconds += c.own_seconds;
        b->diagnosis_seconds += c.diagnosis_seconds;
        if (c.board == &b->demos[0] && !sometimes && b->ratio_count < WORST)
            b->ratios[b->ratio_count++] = c.diagnosis_seconds / c.own_seconds;
    } else {
        to->silent++;
    }
    diag_case_end(&c);
    free_board(&own);
}

/* Is the fault named by any suspect? */
static bool is_named(const diag_case *c, const diag_kind *k, const rmg_sim_fault *f)
{
    for (size_t i = 0; i < c->suspects.count; i++)
        if (diag_place_right(c, &c->suspects.list[i], k, f))
            return true;
    return false;
}

/* Is the fault named with others of the case as one set, with a fault at each among what looks the
 * same? Where they fail alike, nothing tells two faults from one that both share. */
static bool is_in_a_set(const diag_case *c, unsigned n)
{
    for (size_t i = 0; i < c->suspects.count; i++)
        if (diag_names_in_a_set(c, &c->suspects.list[i], n))
            return true;
    return false;
}

/* The failures of some of the case's faults: those of the mask. 0: none. */
static uint64_t failures_with(const diag_case *c, unsigned mask)
{
    diag_case some = {.board = c->board, .passes = 2, .world = c->world};
    uint64_t failures;

    for (unsigned n = 0; n < c->fault_count; n++)
        if (mask >> n & 1u)
            some.faults[some.fault_count++] = c->faults[n];
    diag_case_run(&some, false);
    failures = some.failed ? rmg_failset_fingerprint(some.run.failures) | 1u : 0;
    diag_case_end(&some);
    return failures;
}

/* Does each fault show when it is alone, and beside the others? */
static bool all_show(const diag_case *c)
{
    const unsigned all = (1u << c->fault_count) - 1u;
    const uint64_t together = failures_with(c, all);
    bool show = true;

    for (unsigned n = 0; n < c->fault_count && show; n++)
        show = failures_with(c, 1u << n) && failures_with(c, all & ~(1u << n)) != together;
    return show;
}

/* Faults at different sockets, each of which shows when it is alone, and beside the others. */
static void several_at_once(bench *b, uint64_t seed, unsigned count, diag_family family)
{
    diag_dice dice = diag_seed(seed, 2 + 8 * count);
    const diag_kind *kinds[DIAG_FAULTS];
    several *to = &b->together[count - 2];
    diag_board own;
    diag_case c = {.board = choose_board(b, &dice, seed * 1000 + 999, family, &own),
                   .passes = 2,
                   .fault_count = (uint16_t)count,
                   .world = diag_world(&dice)};
    bool show = true, named = true, as_one = false;

    for (unsigned n = 0; n < count && show; n++)
        show = diag_fault_beside(&c, &dice, n, true, &kinds[n]);
    show = show && all_show(&c);
    to->cases += show;
    to->hidden += !show;
    if (show) {
        bool bad;

        diag_case_run(&c, true);
        if (b->tells)
            diag_tell(&c, seed);
        bad = diag_wrong_socket(&c, kinds);
        for (unsigned n = 0; n < count; n++) {
            const bool alone = is_named(&c, kinds[n], &c.faults[n]);

            named &= alone || is_in_a_set(&c, n);
            as_one |= !alone;
        }
        to->as_one += named && as_one;
        to->all_named += named;
        to->wrong += bad;
        diag_calibrate(&c, kinds, &b->bins[OF_SEVERAL]);
        if (!named || bad)
            printf("  %u at once, %llu, %s: %s, %s%s%s%s\n", count, (unsigned long long)seed,
                   c.board->board->name, kinds[0]->name, kinds[1]->name, count > 2 ? ", " : "",
                   count > 2 ? kinds[2]->name : "", bad ? ", A WRONG SOCKET" : ": not all named");
        diag_case_end(&c);
    }
    free_board(&own);
}

static void healthy(bench *b, uint64_t seed, diag_family family)
{
    diag_dice dice = diag_seed(seed, 3);
    diag_board own;
    diag_case c = {.board = choose_board(b, &dice, seed * 1000 + 998, family, &own), .passes = 1};

    c.world = diag_world(&dice);
    diag_case_run(&c, true);
    b->healthy++;
    b->healthy_named += c.failed || c.suspects.count;
    diag_case_end(&c);
    free_board(&own);
}

/* All cases of one part: of N singles in each family N/3 healthy boards, N/4 pairs, N/10 triples,
 * N/7 of noise, N/7 of lines and N/7 of chips that come and go. */
static void *carry_out(void *context)
{
    bench *b = context;
    const unsigned n = b->count;

    for (unsigned f = 0; f < DIAG_FAMILIES; f++) {
        const uint64_t seed = b->seed + f * UINT64_C(100000000);
        const diag_family family = (diag_family)f;

        for (unsigned i = b->part; b->families[f] && i < n; i += PARTS) {
            const unsigned which = i % (unsigned)diag_kind_count, k = i / 7u;

            single(b, &diag_kinds[which], seed + i, family, &b->single[f][which]);
            if (i % 3 == 0)
                healthy(b, seed + i, family);
            if (i % 4 == 0 && !b->second)
                several_at_once(b, seed + i, 2, family);
            if (i % 10 == 0 && !b->second)
                several_at_once(b, seed + i, 3, family);
            if (i % 7 == 1) {
                const unsigned shared = NOISES + k % SHARED;
                const unsigned chips = NOISES + SHARED + k % (unsigned)(OTHERS - NOISES - SHARED);

                single(b, &diag_others[k % NOISES], seed + i, family, &b->other[k % NOISES]);
                single(b, &diag_others[shared], seed + i, family, &b->other[shared]);
                single(b, &diag_others[chips], seed + i, family, &b->other[chips]);
            }
        }
    }
    return NULL;
}

static void cases_of(bench *b, const char *kind, uint64_t seed, unsigned count)
{
    const diag_family family = (diag_family)(seed / UINT64_C(100000000) % DIAG_FAMILIES);
    diag_score score = {0};

    b->tells = count == 1;
    load_demos(b);
    for (unsigned n = 2; n <= 3; n++)
        for (unsigned i = 0; i < count && strcmp(kind, n == 2 ? "pair" : "triple") == 0; i++)
            several_at_once(b, seed + i, n, family);
    for (size_t i = 0; i < diag_kind_count + OTHERS; i++) {
        const diag_kind *k =
            i < diag_kind_count ? &diag_kinds[i] : &diag_others[i - diag_kind_count];

        for (unsigned n = 0; n < count && strcmp(k->name, kind) == 0; n++)
            single(b, k, seed + n, family, &score);
    }
    diag_print_header();
    diag_print_score(kind, &score);
    diag_print_lines(&score);
    for (size_t n = 0; n < DEMOS; n++)
        rmg_board_free(b->demos[n].board);
}

/* So many single faults, those that come and go among them, of all families in turn. */
static void answers_of(bench *b, unsigned count, uint64_t seed)
{
    diag_score score = {0};

    b->answers = true;
    load_demos(b);
    for (unsigned i = 0; i < count; i++) {
        const size_t which = i % (diag_kind_count + OTHERS);

        single(b,
               which < diag_kind_count ? &diag_kinds[which] : &diag_others[which - diag_kind_count],
               seed + i, (diag_family)(i % DIAG_FAMILIES), &score);
    }
    for (size_t n = 0; n < DEMOS; n++)
        rmg_board_free(b->demos[n].board);
}

/* Without holds; and no line changes places with another while the board runs. */
static bool may_begin(const diag_kind *k)
{
    return !k->time && k->fault != RMG_FAULT_DATA_SWAP && k->fault != RMG_FAULT_ADDRESS_SWAP;
}

/* Every kind of fault that shows without holds, beginning during the run: a table by families. */
static int warm_of(bench *b, unsigned count, uint64_t seed)
{
    b->warm = true;
    load_demos(b);
    for (unsigned f = 0; f < DIAG_FAMILIES; f++) {
        diag_score score = {0};

        size_t which = 0;

        for (unsigned n = 0; n < count; n++, which = (which + 1u) % diag_kind_count) {
            while (!may_begin(&diag_kinds[which]))
                which = (which + 1u) % diag_kind_count;
            single(b, &diag_kinds[which], seed + f * UINT64_C(100000000) + n, (diag_family)f,
                   &score);
        }
        if (!f)
            diag_print_header();
        diag_print_score(diag_family_names[f], &score);
    }
    for (size_t n = 0; n < DEMOS; n++)
        rmg_board_free(b->demos[n].board);
    return 0;
}

int main(int argc, char **argv)
{
    const bool other = argc > 1 && strcmp(argv[1], "other") == 0;
    bench *parts = calloc(PARTS, sizeof *parts);
    pthread_t threads[PARTS];

    setvbuf(stdout, NULL, _IOLBF, 0);
    if (!parts)
        return 2;
    if (argc > 1 && strcmp(argv[1], "size") == 0) {
        diag_by_size(argc > 2 ? argv[2] : "build/rimeglass",
                     argc > 3 ? (unsigned)strtoul(argv[3], NULL, 10) : 500,
                     argc > 4 ? (unsigned)strtoul(argv[4], NULL, 10) : 24);
        free(parts);
        return 0;
    }
    if (argc > 1 && strcmp(argv[1], "calibrate") == 0) {
        diag_ambiguous(argc > 2 ? strtoull(argv[2], NULL, 10) : 1,
                       argc > 3 ? (unsigned)strtoul(argv[3], NULL, 10) : 1000,
                       argc > 4 ? atoi(argv[4]) : -1);
        free(parts);
        return 0;
    }
    if (argc > 4 && strcmp(argv[1], "warm") == 0) { /* ... case KIND SEED */
        parts[0].warm = true;
        argc--;
        argv++;
    }
    if (argc == 4 && strcmp(argv[1], "warm") == 0) {
        const int status =
            warm_of(&parts[0], (unsigned)strtoul(argv[2], NULL, 10), strtoull(argv[3], NULL, 10));

        free(parts);
        return status;
    }
    if (other) {
        argc--;
        argv++;
    }
    for (unsigned i = 0; i < PARTS; i++)
        parts[i].second = other;
    if (argc > 3 && strcmp(argv[1], "answers") == 0) {
        answers_of(&parts[0], (unsigned)strtoul(argv[2], NULL, 10), strtoull(argv[3], NULL, 10));
        free(parts);
        return 0;
    }
    if (argc > 3 && strcmp(argv[1], "case") == 0) {
        cases_of(&parts[0], argv[2], strtoull(argv[3], NULL, 10),
                 argc > 4 ? (unsigned)strtoul(argv[4], NULL, 10) : 1);
        free(parts);
        return 0;
    }
    printf("Cases that are not right\n");
    for (unsigned i = 0; i < PARTS; i++) {
        parts[i].part = i;
        parts[i].count = argc > 1 ? (unsigned)strtoul(argv[1], NULL, 10) : 100;
        parts[i].seed = argc > 2 ? strtoull(argv[2], NULL, 10) : 1;
        for (unsigned f = 0; f < DIAG_FAMILIES; f++)
            parts[i].families[f] = argc <= 3 || strtoul(argv[3], NULL, 10) == f;
        load_demos(&parts[i]);
        if (pthread_create(&threads[i], NULL, carry_out, &parts[i]) != 0)
            return 2;
    }
    for (unsigned i = 0; i < PARTS; i++)
        pthread_join(threads[i], NULL);
    for (unsigned i = 1; i < PARTS; i++)
        diag_merge(&parts[0], &parts[i]);
    diag_print_singles(&parts[0]);
    diag_print_others(&parts[0]);
    diag_print_calibration(&parts[0]);
    for (size_t i = 0; i < PARTS; i++)
        for (size_t n = 0; n < DEMOS; n++)
            rmg_board_free(parts[i].demos[n].board);
    free(parts);
    return 0;
}
