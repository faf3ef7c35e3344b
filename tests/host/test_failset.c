/* The failure set: which bits, which way, first when, in how many passes; against a plain list, and
 * through a run file. */
#include <glib.h>
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/run.h"
#include "suites.h"
#include "temporary.h"

static void note(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    GString *text = context;

    g_string_append_printf(text, "%llx:%llx/%llx ", (unsigned long long)address,
                           (unsigned long long)high, (unsigned long long)low);
}

static void failure_sets(void)
{
    const rmg_where low = {0, 0xFFF, 0, 0};
    rmg_failset *a = rmg_failset_new(), *b = rmg_failset_new();
    GString *text = g_string_new(NULL);
    uint64_t print;

    CHECK(!rmg_failset_words(a, NULL, ~(rmg_word)0), "empty");
    rmg_failset_add(a, 0x12345, 1, 0, 0);
    rmg_failset_add(a, 0x10, 0, 6, 0);
    rmg_failset_add(a, 0x10, 8, 2, 0);
    rmg_failset_add(a, (rmg_addr) ~(rmg_addr)0, 1, 0, 0);
    CHECK(rmg_failset_words(a, NULL, ~(rmg_word)0) == 3, "three words");
    CHECK(rmg_failset_bits(a, NULL, ~(rmg_word)0) == 5, "five bits");
    CHECK(rmg_failset_words(a, &low, 8) == 1 && rmg_failset_words(a, &low, 1) == 0, "by bit");
    rmg_failset_each(a, note, text);
    CHECK(strcmp(text->str, "10:8/6 12345:1/0 ffffffffffffffff:1/0 ") == 0, "in order: %s",
          text->str);
    rmg_failset_add(b, (rmg_addr) ~(rmg_addr)0, 1, 0, 0);
    rmg_failset_add(b, 0x10, 14, 0, 0);
    CHECK(rmg_failset_fingerprint(a) != rmg_failset_fingerprint(b), "other sets");
    rmg_failset_add(b, 0x12345, 0, 1, 0);
    print = rmg_failset_fingerprint(b);
    CHECK(rmg_failset_fingerprint(a) == print, "the same bits in another order and direction");
    rmg_failset_empty(b);
    CHECK(!rmg_failset_words(b, NULL, ~(rmg_word)0), "emptied");
    g_string_free(text, TRUE);
    rmg_failset_free(a);
    rmg_failset_free(b);
}

/* The bits that failed at an address, each way. */
static void at_an_address(void)
{
    rmg_failset *set = rmg_failset_new();
    rmg_word high, low;

    rmg_failset_add(set, 0x1234, 0x01, 0x80, 0);
    rmg_failset_add(set, 0x1234, 0x02, 0x00, 0);
    rmg_failset_at(set, 0x1234, &high, &low);
    CHECK(high == 0x03 && low == 0x80, "both ways");
    rmg_failset_at(set, 0x1235, &high, &low);
    CHECK(!high && !low, "a neighbour did not fail");
    rmg_failset_at(set, 0x99999, &high, &low);
    CHECK(!high && !low, "nothing failed near there");
    rmg_failset_free(set);
}

/* One bit in one direction, kept the plain way. */
typedef struct plain {
    uint64_t first;
    uint32_t passes;
    bool failed, now; /* ever; in the running pass */
} plain;

#define WORDS 600u /* over three pages */
#define BITS  8u

static plain *plain_at(plain *list, unsigned word, unsigned bit, bool high)
{
    return &list[(word * BITS + bit) * 2u + high];
}

static void plain_add(plain *list, unsigned word, rmg_word bits, bool high, uint64_t step)
{
    for (unsigned bit = 0; bit < BITS; bit++)
        if (bits >> bit & 1u) {
            plain *p = plain_at(list, word, bit, high);

            p->first = p->failed ? p->first : step;
            p->failed = p->now = true;
        }
}

/* What the set's parts say of one bit in one direction; false: a part says it twice. */
static bool told(const rmg_fail_part *parts, size_t count, unsigned bit, bool high, plain *p)
{
    memset(p, 0, sizeof *p);
    for (size_t i = 0; i < count; i++)
        if ((high ? parts[i].high : parts[i].low) >> bit & 1u) {
            if (p->failed)
                return false;
            *p = (plain){parts[i].first, parts[i].passes, true, false};
        }
    return true;
}

static bool same_as_plain(const rmg_failset *set, plain *list)
{
    for (unsigned word = 0; word < WORDS; word++) {
        size_t count;
        const rmg_fail_part *parts = rmg_failset_parts(set, word, &count);

        for (size_t i = 1; i < count; i++)
            if (parts[i].first < parts[i - 1].first)
                return false;
        for (unsigned n = 0; n < 2 * BITS; n++) {
            const plain *want = plain_at(list, word, n / 2u, n & 1u);
            plain got;

            if (!told(parts, count, n / 2u, n & 1u, &got) || got.failed != want->failed ||
                (want->failed && (got.first != want->first || got.passes != want->passes)))
                return false;
        }
    }
    return true;
}

/* Random failures, some in blocks, over five passes: the set and the plain list agree after each.
 * So many records come and go that those without a word are let go on the way. */
static void like_a_plain_list(void)
{
    rmg_failset *set = rmg_failset_new(), *pass_set = rmg_failset_new();
    plain *list = g_new0(plain, WORDS * BITS * 2u);
    uint64_t dice = 11;

    for (unsigned pass = 0; pass < 5; pass++) {
        rmg_failset_empty(pass_set);
        for (unsigned n = 0; n < 4000; n++) {
            const rmg_failure f = {.address = bench_dice(&dice, WORDS),
                                   .pass = (uint16_t)pass,
                                   .step = (uint8_t)(n / 1000u),
                                   .element = (uint8_t)(n / 100u % 10u),
                                   .operation = (uint8_t)(n % 3u)};
            const rmg_word high = bench_dice(&dice, 256), low = bench_dice(&dice, 256) & ~high;

            rmg_failset_add(set, f.address, high, low, rmg_failure_step(&f));
            rmg_failset_add(pass_set, f.address, high, low, 0);
            plain_add(list, (unsigned)f.address, high, true, rmg_failure_step(&f));
            plain_add(list, (unsigned)f.address, low, false, rmg_failure_step(&f));
        }
        rmg_failset_count_pass(set, pass_set);
        for (size_t i = 0; i < WORDS * BITS * 2u; i++) {
            list[i].passes += list[i].now;
            list[i].now = false;
        }
        CHECK(same_as_plain(set, list), "pass %u", pass);
    }
    CHECK(!rmg_failset_lost(set), "nothing is lost");
    g_free(list);
    rmg_failset_free(set);
    rmg_failset_free(pass_set);
}

/* A block of neighbours is the same as its words one by one. */
static void blocks(void)
{
    rmg_failset *one = rmg_failset_new(), *all = rmg_failset_new();
    rmg_mismatch_block block = {
        .first = 0x1240, .failing = UINT64_C(0x8000000000000421), .expected = 0x5A};
    size_t a, b;

    for (unsigned i = 0; i < 64; i++) {
        block.actual[i] = i & 1u ? 0x5B : 0x1A;
        if (block.failing >> i & 1u)
            rmg_failset_add(one, block.first + i, block.actual[i] & ~block.expected,
                            block.expected & ~block.actual[i], 77);
    }
    rmg_failset_add_block(all, &block, 77);
    CHECK(rmg_failset_words(all, NULL, 0xFF) == 4, "four words");
    for (rmg_addr i = 0; i < 64; i++) {
        const rmg_fail_part *x = rmg_failset_parts(one, block.first + i, &a);
        const rmg_fail_part *y = rmg_failset_parts(all, block.first + i, &b);

        CHECK(a == b && (!a || (x->first == y->first && x->high == y->high && x->low == y->low)),
              "word %u", (unsigned)i);
    }
    rmg_failset_free(one);
    rmg_failset_free(all);
}

typedef struct walk {
    const rmg_failset *other;
    unsigned words, records;
    uint32_t last;
    bool same;
} walk;

static void compare_word(void *context, rmg_addr address, uint32_t record,
                         const rmg_fail_part *parts, size_t count)
{
    walk *w = context;
    size_t other_count;
    const rmg_fail_part *others = rmg_failset_parts(w->other, address, &other_count);

    w->words++;
    w->records += record != w->last;
    w->last = record;
    w->same &= count == other_count;
    for (size_t i = 0; w->same && i < count; i++)
        w->same &= parts[i].first == others[i].first && parts[i].passes == others[i].passes &&
                   parts[i].high == others[i].high && parts[i].low == others[i].low;
}

/* Of a run: the first failure is the tally's first, a stuck output fails in every pass, and all of
 * it comes back from the run file. Words that fail alike share their record. */
static void of_a_run(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_sim_fault faults[] = {
        {.kind = RMG_FAULT_OUTPUT, .chip = rmg_board_socket(board, "U21"), .level = 1},
        {.kind = RMG_FAULT_CELL, .chip = rmg_board_socket(board, "U12"), .cell = 700}};
    const rmg_plan plan = bench_plan(false, 3);
    rmg_run_writer *writer;
    rmg_run_file read;
    rmg_suspects s;
    rmg_run run;
    walk w = {.same = true};
    const rmg_fail_part *parts;
    rmg_error error = {0};
    size_t count;

    bench_examine(board, faults, 2, &plan, 5, &run, &s);
    parts = rmg_failset_parts(run.failures, run.tally.first[0].address, &count);
    CHECK(count && parts[0].first == rmg_failure_step(&run.tally.first[0]), "the first step");
    parts = rmg_failset_parts(run.failures, 0x9000, &count);
    CHECK(count == 1 && parts->passes == 3 && parts->high == 0x20 && !parts->low,
          "high in each of three passes");
    writer = rmg_run_writer_new(temporary_file("failures.run", ""));
    CHECK(rmg_run_writer_close(writer, &run, NULL, 0, &error) == RMG_OK, "written");
    rmg_run_writer_free(writer);
    CHECK(rmg_run_file_read(temporary_path("failures.run"), false, &read, &error) == RMG_OK,
          "read: %s", error.what ? error.what : "");
    w.other = read.run.failures;
    rmg_failset_each_record(run.failures, compare_word, &w);
    CHECK(w.same && w.words == rmg_failset_words(read.run.failures, NULL, 0xFF), "all of it");
    CHECK(w.words > 16000 && w.records < 10, "%u words in %u stretches", w.words, w.records);
    rmg_run_file_free(&read);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
}

/* Stretches of a file that go beyond what there is room for are counted, not kept. */
static void no_room(void)
{
    rmg_failset *set = rmg_failset_new();
    const rmg_fail_part part = {5, 1, 3, 0};
    const rmg_addr pages = RMG_FAILSET_PAGES;

    rmg_failset_put(set, 0, pages * 256u + 10u, &part, 1);
    CHECK(rmg_failset_lost(set) == 10, "%u words too many", (unsigned)rmg_failset_lost(set));
    CHECK(rmg_failset_words(set, NULL, 1) == pages * 256u, "the others are there");
    rmg_failset_add(set, pages * 256u + 70000u, 1, 0, 0);
    CHECK(rmg_failset_lost(set) == 11, "and one more");
    rmg_failset_empty(set);
    CHECK(!rmg_failset_lost(set) && !rmg_failset_words(set, NULL, ~(rmg_word)0), "empty again");
    rmg_failset_free(set);
}

#define RUN_WORDS ((rmg_addr)400 * RMG_FAILSET_STRETCH)

/* A run of many words, or one word, into the set and a plain list. */
static void add_any(rmg_failset *set, rmg_word *list, uint64_t *dice)
{
    static const uint16_t which[] = {RMG_EVERY_WORD, RMG_EVERY_WORD, 0xAAAA, 0x0001};
    rmg_mismatch_run run = {.first = bench_dice(dice, 400) * RMG_FAILSET_STRETCH,
                            .which = which[bench_dice(dice, 4)],
                            .actual = 1u << bench_dice(dice, 3)};

    if (bench_dice(dice, 3) == 0)
        run.first += bench_dice(dice, RMG_FAILSET_STRETCH);
    run.words = bench_dice(dice, 4) ? 1u + bench_dice(dice, (size_t)(RUN_WORDS - run.first)) : 1u;
    if (bench_dice(dice, 4) == 0) { /* all of it, again and again */
        run.first = 0;
        run.words = RUN_WORDS;
    }
    for (rmg_addr n = 0; n < run.words; n++)
        if (rmg_in_run(&run, run.first + n))
            list[run.first + n] |= run.actual;
    rmg_failset_add_run(set, &run, 7);
}

static void sum_words(void *context, rmg_addr first, size_t words, uint16_t which, uint32_t record,
                      const rmg_fail_part *parts, size_t count)
{
    uint64_t *sum = context;

    (void)first;
    (void)record;
    *sum += count && parts[0].high
                ? (words == 256u ? 16u * (unsigned)__builtin_popcount(which) : words)
                : 0;
}

/* Stretches that are alike in two sets, one for all: do they come to as many words? */
static void check_beside(const rmg_failset *set, const rmg_failset *other, unsigned turn)
{
    uint64_t sum = 0, one;
    rmg_addr first = 0, many, at = 0;

    for (; rmg_failset_next(set, other, at, &first, &many); at = first + many * 256u) {
        CHECK(first >= at, "turn %u: they rise", turn);
        one = 0;
        rmg_failset_stretch(set, first, sum_words, &one);
        sum += one * many;
        for (rmg_addr n = 0; n < many; n++) {
            rmg_word high[2], low;

            rmg_failset_at(other, first + 256u * n + 5u, &high[0], &low);
            rmg_failset_at(other, first + 5u, &high[1], &low);
            CHECK(high[0] == high[1], "turn %u: alike in both", turn);
        }
    }
    CHECK(sum == rmg_failset_words(set, NULL, ~(rmg_word)0), "turn %u: %llu words", turn,
          (unsigned long long)sum);
}

/* Words of a place are counted as one by one, all bits at once as each by itself, however the runs
 * of pages lie that are counted together. */
static void counted_in_runs(void)
{
    rmg_word *list = g_new0(rmg_word, RUN_WORDS);
    rmg_failset *set = rmg_failset_new(), *other = rmg_failset_new();
    rmg_word *unused = g_new0(rmg_word, RUN_WORDS);
    uint64_t dice = 5, by_bit[RMG_WORD_BITS];

    for (unsigned turn = 0; turn < 300; turn++) {
        static const rmg_addr masks[] = {0, 1, 0x13, 0x100, 0xC00, 0x4001};
        rmg_where where = {.first = bench_dice(&dice, 3) ? 0 : bench_dice(&dice, (size_t)RUN_WORDS),
                           .mask = masks[bench_dice(&dice, G_N_ELEMENTS(masks))]};
        uint64_t words = 0, bits[3] = {0};

        if (turn % 60 == 59) {
            rmg_failset_empty(set);
            memset(list, 0, RUN_WORDS * sizeof *list);
        }
        add_any(set, list, &dice);
        if (turn % 3 == 0)
            add_any(other, unused, &dice);
        if (turn % 5 == 0)
            check_beside(set, other, turn);
        where.last = where.first + bench_dice(&dice, (size_t)(RUN_WORDS - where.first));
        where.match = bench_dice(&dice, RUN_WORDS) & where.mask;
        for (rmg_addr a = 0; a < RUN_WORDS; a++) {
            words += list[a] && rmg_where_holds(&where, a);
            for (unsigned i = 0; i < 3; i++)
                bits[i] += (list[a] >> i & 1u) && rmg_where_holds(&where, a);
        }
        rmg_failset_by_bit(set, &where, by_bit);
        CHECK(rmg_failset_words(set, &where, 7) == words, "turn %u: %llu words", turn,
              (unsigned long long)words);
        CHECK(rmg_failset_bits(set, &where, 6) == bits[1] + bits[2], "turn %u: bits", turn);
        CHECK(by_bit[0] == bits[0] && by_bit[1] == bits[1] && by_bit[2] == bits[2] && !by_bit[3],
              "turn %u: by bit", turn);
    }
    rmg_failset_free(set);
    rmg_failset_free(other);
    g_free(unused);
    g_free(list);
}

typedef struct rising {
    const rmg_word *list;
    rmg_addr next;
    unsigned words, wrong;
} rising;

static void check_rising(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    rising *r = context;

    r->wrong += address < r->next || high != r->list[address] || low;
    r->next = address + 1u;
    r->words++;
}

/* Words come in rising order, each with its bits, in whatever order pages were made or asked for;
 * a set that got the same in another order has the same fingerprint. */
static void pages_in_any_order(void)
{
    rmg_word *list = g_new0(rmg_word, RUN_WORDS);
    rmg_failset *down = rmg_failset_new(), *any = rmg_failset_new();
    rising r = {.list = list};
    uint64_t dice = 11;
    unsigned words = 0;
    rmg_word high, low;

    for (unsigned n = 0; n < 600; n++)
        list[bench_dice(&dice, RUN_WORDS)] |= 1u << bench_dice(&dice, 8);
    for (rmg_addr a = RUN_WORDS; a-- > 0;) {
        words += list[a] != 0;
        if (list[a])
            rmg_failset_add(down, a, list[a], 0, 3);
    }
    rmg_failset_each(down, check_rising, &r);
    CHECK(r.words == words && !r.wrong, "%u of %u words, %u wrong", r.words, words, r.wrong);
    for (unsigned n = 0; n < 4 * RUN_WORDS; n++) {
        const rmg_addr a = bench_dice(&dice, RUN_WORDS);

        rmg_failset_at(down, a, &high, &low);
        r.wrong += high != list[a] || low;
        if (list[a])
            rmg_failset_add(any, a, list[a], 0, 3);
    }
    CHECK(!r.wrong, "%u words are not as they were added", r.wrong);
    CHECK(rmg_failset_words(any, NULL, 0xFF) <= words, "no more than were added");
    for (rmg_addr a = 0; a < RUN_WORDS; a++)
        if (list[a])
            rmg_failset_add(any, a, list[a], 0, 3);
    CHECK(rmg_failset_fingerprint(any) == rmg_failset_fingerprint(down), "the same sets");
    rmg_failset_free(down);
    rmg_failset_free(any);
    g_free(list);
}

/* Records that no word uses any more go, and others get their numbers, in the middle of a run: the
 * pages behind that are as those before. */
static void other_numbers(void)
{
    const rmg_addr own = 40, words = (own + 2u) * RMG_FAILSET_STRETCH;
    const rmg_mismatch_run run = {
        .words = words, .which = RMG_EVERY_WORD, .actual = (rmg_word)1 << 40};
    rmg_failset *set = rmg_failset_new();
    unsigned wrong = 0;
    size_t count;

    for (rmg_addr a = RMG_FAILSET_STRETCH; a < words - RMG_FAILSET_STRETCH; a++)
        rmg_failset_add(set, a, 1u + (rmg_word)a, 0,
                        5); /* each its own record, but for both ends */
    rmg_failset_add_run(set, &run, 7);
    for (rmg_addr a = 0; a < words; a++) {
        const bool end = a < RMG_FAILSET_STRETCH || a >= words - RMG_FAILSET_STRETCH;
        const rmg_fail_part *parts = rmg_failset_parts(set, a, &count);

        wrong += count != (end ? 1u : 2u) || parts[count - 1u].first != 7 ||
                 parts[count - 1u].high != run.actual || (!end && parts[0].high != 1u + a);
    }
    CHECK(!wrong && !rmg_failset_lost(set), "%u words are not what was added", wrong);
    rmg_failset_free(set);
}

/* Where no new records are made, a word whose record is there gets it; others are lost. */
static void crowded(void)
{
    const rmg_addr behind = 4u * RMG_FAILSET_PARTS;
    rmg_failset *set = rmg_failset_new();
    uint64_t lost;

    for (rmg_addr i = 0; i < 2u * RMG_FAILSET_PARTS; i++)
        rmg_failset_add(set, i, (rmg_word)(i + 1u), 0, 1);
    lost = rmg_failset_lost(set);
    CHECK(lost > RMG_FAILSET_PARTS / 2u && lost < 2u * RMG_FAILSET_PARTS, "%llu are lost",
          (unsigned long long)lost);
    for (rmg_addr i = 0; i < 5000; i++)
        rmg_failset_add(set, behind + i, (rmg_word)(i + 1u), 0, 1);
    CHECK(rmg_failset_lost(set) == lost, "none of those whose records are there is lost: %llu",
          (unsigned long long)(rmg_failset_lost(set) - lost));
    for (rmg_addr i = 0; i < 5000; i++)
        rmg_failset_add(set, 2u * behind + i, (rmg_word)(i + behind), 0, 1);
    CHECK(rmg_failset_lost(set) == lost + 5000u, "the others are");
    rmg_failset_free(set);
}

CU_TestInfo failset_tests[] = {
    {"other numbers in a run", other_numbers},
    {"crowded", crowded},
    {"pages in any order", pages_in_any_order},
    {"counted in runs", counted_in_runs},
    {"bits and words", failure_sets},
    {"at an address", at_an_address},
    {"like a plain list", like_a_plain_list},
    {"blocks", blocks},
    {"of a run, and from its file", of_a_run},
    {"no room", no_room},
    CU_TEST_INFO_NULL,
};
