/* Marches: notation, counts, order of accesses, ends of the address type, cancelling. */
#include <stdio.h>
#include <string.h>

#include "../check.h"
#include "fake.h"
#include "suites.h"

#define U RMG_ORDER_UP
#define D RMG_ORDER_DOWN
#define E RMG_ORDER_EITHER

static const struct {
    const char *title, *text;
    uint8_t code[16];
} good[] = {
    {"MATS+ in arrows", "⇕(w0); ⇑(r0,w1); ⇓(r1,w0)", {E | 1, 2, U | 2, 0, 3, D | 2, 1, 2, 0}},
    {"MATS+ in words", "any(w0);up(r0,w1);down(r1,w0)", {E | 1, 2, U | 2, 0, 3, D | 2, 1, 2, 0}},
    {"thin arrows, braces, capitals", "{ ↑(R0 , W1) ; ↓(r1); }", {U | 2, 0, 3, D | 1, 1, 0}},
    {"holds", "up(w1); Del; hold; any(r1)", {U | 1, 3, E, E, E | 1, 1, 0}},
    {"a semicolon at the end", "⇕(w0);", {E | 1, 2, 0}},
};

static const struct {
    const char *title, *text, *expected;
    unsigned offset;
} bad[] = {
    {"nothing", "", "before \"(\"", 0},
    {"a number", "42", "before \"(\"", 0},
    {"order unknown", "up(w0); left(r0)", "before \"(\"", 8},
    {"no bracket", "up r0", "after the order", 3},
    {"operation unknown", "up(r0,w2)", "r0, r1, w0 or w1", 6},
    {"operation missing", "up()", "r0, r1, w0 or w1", 3},
    {"not closed", "up(r0", "\")\"", 5},
    {"no semicolon", "up(r0) down(r1)", "or the end", 7},
    {"brace not closed", "{up(r0)", "\"}\"", 7},
    {"brace not opened", "up(r0)}", "or the end", 6},
};

/* Equal element by element; r0 is a zero byte, so that text functions do not serve. */
static bool same_march(const uint8_t *a, const uint8_t *b)
{
    while (*a && *a == *b) {
        const uint8_t count = (uint8_t)(*a & ~RMG_ORDER_MASK);

        if (memcmp(a + 1, b + 1, count) != 0)
            return false;
        a += count + 1u;
        b += count + 1u;
    }
    return !*a && !*b;
}

static void parse(void)
{
    uint8_t code[RMG_MARCH_BYTES];
    rmg_march_error error;

    for (size_t i = 0; i < COUNT(good); i++) {
        CHECK(rmg_march_parse(good[i].text, code, sizeof code, NULL) == RMG_OK &&
                  same_march(code, good[i].code),
              "%s", good[i].title);
    }
    for (size_t i = 0; i < COUNT(bad); i++) {
        error.expected = "";
        CHECK(rmg_march_parse(bad[i].text, code, sizeof code, &error) == RMG_ERR_NOTATION,
              "%s: refused", bad[i].title);
        CHECK(error.offset == bad[i].offset && strstr(error.expected, bad[i].expected),
              "%s: at %u expected %s", bad[i].title, error.offset, error.expected);
    }
}

static void parse_limits(void)
{
    uint8_t code[RMG_MARCH_BYTES];
    char text[400] = "up(r0";

    for (size_t room = 0; room < 9; room++)
        CHECK(rmg_march_parse(good[0].text, code, room, NULL) == RMG_ERR_ROOM, "room %zu", room);
    CHECK(rmg_march_parse(good[0].text, code, 9, NULL) == RMG_OK, "room enough");
    for (int i = 1; i < 63; i++)
        strcat(text, ",w1");
    strcat(text, ")");
    CHECK(rmg_march_parse(text, code, sizeof code, NULL) == RMG_OK, "63 operations");
    CHECK(rmg_march_operations(code) == 63, "counted");
    text[strlen(text) - 1] = '\0';
    strcat(text, ",r0)");
    CHECK(rmg_march_parse(text, code, sizeof code, NULL) == RMG_ERR_NOTATION, "64 operations");
    CHECK(rmg_march_parse(NULL, code, sizeof code, NULL) == RMG_ERR_ARGUMENT, "no text");
}

/* The literature's definitions, as docs/marches.md has them. */
static const struct {
    const char *name, *definition;
    unsigned operations;
} literature[] = {
    {"MATS", "⇕(w0); ⇕(r0,w1); ⇕(r1)", 4},
    {"MATS+", "⇕(w0); ⇑(r0,w1); ⇓(r1,w0)", 5},
    {"MATS++", "⇕(w0); ⇑(r0,w1); ⇓(r1,w0,r0)", 6},
    {"March X", "⇕(w0); ⇑(r0,w1); ⇓(r1,w0); ⇕(r0)", 6},
    {"March Y", "⇕(w0); ⇑(r0,w1,r1); ⇓(r1,w0,r0); ⇕(r0)", 8},
    {"March A", "⇕(w0); ⇑(r0,w1,w0,w1); ⇑(r1,w0,w1); ⇓(r1,w0,w1,w0); ⇓(r0,w1,w0)", 15},
    {"March B", "⇕(w0); ⇑(r0,w1,r1,w0,r0,w1); ⇑(r1,w0,w1); ⇓(r1,w0,w1,w0); ⇓(r0,w1,w0)", 17},
    {"March C", "⇕(w0); ⇑(r0,w1); ⇑(r1,w0); ⇕(r0); ⇓(r0,w1); ⇓(r1,w0); ⇕(r0)", 11},
    {"March C-", "⇕(w0); ⇑(r0,w1); ⇑(r1,w0); ⇓(r0,w1); ⇓(r1,w0); ⇕(r0)", 10},
    {"March U", "⇕(w0); ⇑(r0,w1,r1,w0); ⇑(r0,w1); ⇓(r1,w0,r0,w1); ⇓(r1,w0)", 13},
    {"March LR", "⇕(w0); ⇓(r0,w1); ⇑(r1,w0,r0,w1); ⇑(r1,w0); ⇑(r0,w1,r1,w0); ⇑(r0)", 14},
    {"March LA",
     "⇕(w0); ⇑(r0,w1,w0,w1,r1); ⇑(r1,w0,w1,w0,r0); ⇓(r0,w1,w0,w1,r1); ⇓(r1,w0,w1,w0,r0); ⇓(r0)",
     22},
    {"March SR", "⇓(w0); ⇑(r0,w1,r1,w0); ⇑(r0,r0); ⇑(w1); ⇓(r1,w0,r0,w1); ⇓(r1,r1)", 14},
    {"March RAW",
     "⇕(w0); ⇑(r0,w0,r0,r0,w1,r1); ⇑(r1,w1,r1,r1,w0,r0); ⇓(r0,w0,r0,r0,w1,r1); "
     "⇓(r1,w1,r1,r1,w0,r0); ⇕(r0)",
     26},
    {"March SS",
     "⇕(w0); ⇑(r0,r0,w0,r0,w1); ⇑(r1,r1,w1,r1,w0); ⇓(r0,r0,w0,r0,w1); ⇓(r1,r1,w1,r1,w0); ⇕(r0)",
     22},
    {"PMOVI", "⇓(w0); ⇑(r0,w1,r1); ⇑(r1,w0,r0); ⇓(r0,w1,r1); ⇓(r1,w0,r0)", 13},
    {"March G",
     "⇕(w0); ⇑(r0,w1,r1,w0,r0,w1); ⇑(r1,w0,w1); ⇓(r1,w0,w1,w0); ⇓(r0,w1,w0); Del; ⇕(r0,w1,r1); "
     "Del; ⇕(r1,w0,r0)",
     23},
};

/* Each march known by name is what its definition says, operation by operation. */
static void definitions(void)
{
    CHECK(rmg_march_name_count == COUNT(literature), "%u names", rmg_march_name_count);
    for (size_t i = 0; i < COUNT(literature); i++) {
        const uint8_t *known = rmg_march_by_name(literature[i].name);
        uint8_t code[RMG_MARCH_BYTES];

        CHECK(rmg_march_parse(literature[i].definition, code, sizeof code, NULL) == RMG_OK && known,
              "%s is known", literature[i].name);
        CHECK(known && same_march(code, known), "%s is as defined", literature[i].name);
        CHECK(known && rmg_march_operations(known) == literature[i].operations, "%s: %uN",
              literature[i].name, literature[i].operations);
    }
}

static void names(void)
{
    CHECK(rmg_march_by_name("MATS+") == rmg_march_mats_plus, "MATS+");
    CHECK(rmg_march_by_name("march c-") == rmg_march_c_minus, "march c-");
    CHECK(!rmg_march_by_name("March Q") && !rmg_march_by_name(NULL), "others are unknown");
    for (uint8_t i = 0; i < rmg_march_name_count; i++)
        CHECK(rmg_march_by_name(rmg_march_names[i].name) == rmg_march_names[i].code, "%s",
              rmg_march_names[i].name);
    CHECK(rmg_march_elements(rmg_march_c_minus) == 6, "elements of March C-");
}

/* The literature's formula, and what a counting port saw. */
static void operation_counts(void)
{
    static const struct {
        const uint8_t *code;
        unsigned per_word;
    } rows[] = {{rmg_march_mats_plus, 5}, {rmg_march_c_minus, 10}};
    static const unsigned sizes[] = {1, 2, 7, 64, 1000};

    for (size_t i = 0; i < COUNT(rows); i++)
        for (size_t n = 0; n < COUNT(sizes); n++) {
            fake *f = fake_new(0);
            const rmg_target target = fake_target(f, 0xFF);
            const rmg_range range = {0, (rmg_addr)(sizes[n] - 1u)};
            const rmg_march_job job = {.code = rows[i].code, .ranges = &range, .range_count = 1};
            rmg_tally tally;

            rmg_tally_clear(&tally, NULL, 0);
            CHECK(rmg_march_run(&target, &job, &tally) == RMG_OK, "runs");
            CHECK(f->reads + f->writes == rows[i].per_word * sizes[n] && !f->outside,
                  "%uN, N = %u: %lu", rows[i].per_word, sizes[n], f->reads + f->writes);
            CHECK(rmg_march_operations(rows[i].code) == rows[i].per_word, "formula");
            CHECK(!tally.failing, "sound memory");
        }
}

/* Writes down the accesses the notation asks for, by a plain reading of its text. */
static unsigned expected_log(const char *text, const rmg_range *ranges, unsigned count,
                             rmg_word zero, rmg_word one, fake_access *log)
{
    unsigned n = 0;

    for (const char *p = text; *p; p = strchr(p, ')') + 1, p += *p == ';') {
        const bool down = *p == 'd';
        const char *open = strchr(p, '(');

        for (unsigned r = 0; r < count; r++) {
            const rmg_range *range = &ranges[down ? count - 1 - r : r];
            const rmg_addr words = (rmg_addr)(range->last - range->first + 1u);

            for (rmg_addr i = 0; i < words; i++)
                for (const char *op = open + 1; *op != ')'; op += op[2] == ',' ? 3 : 2) {
                    const rmg_addr a = (rmg_addr)(down ? range->last - i : range->first + i);

                    log[n++] =
                        (fake_access){a, *op == 'w' ? (op[1] == '1' ? one : zero) : 0, *op == 'w'};
                }
        }
    }
    return n;
}

static void order_of_accesses(void)
{
    static const char *const texts[] = {"up(w0)", "up(w0);up(r0,w1);down(r1,w0);up(r0)",
                                        "down(w1);down(r1,w0,r0,w1);up(r1)"};
    static const rmg_range ranges[] = {{3, 9}, {17, 17}, {40, 42}};
    static fake_access wanted[FAKE_LOG];

    for (size_t t = 0; t < COUNT(texts); t++) {
        fake *f = fake_new(0);
        const rmg_target target = fake_target(f, 0xFF);
        uint8_t code[RMG_MARCH_BYTES];
        rmg_march_job job = {.code = code, .ranges = ranges, .range_count = 3, .background = 0x5A};
        rmg_tally tally;
        unsigned n;
        bool same = true;

        CHECK(rmg_march_parse(texts[t], code, sizeof code, NULL) == RMG_OK, "%s", texts[t]);
        rmg_tally_clear(&tally, NULL, 0);
        CHECK(rmg_march_run(&target, &job, &tally) == RMG_OK, "%s runs", texts[t]);
        n = expected_log(texts[t], ranges, 3, 0x5A, 0xA5, wanted);
        for (unsigned i = 0; i < n && i < f->logged; i++)
            same &= f->log[i].address == wanted[i].address && f->log[i].value == wanted[i].value &&
                    f->log[i].write == wanted[i].write;
        CHECK(n == f->logged && same, "%s: each access in its order (%u, %u)", texts[t], n,
              f->logged);
    }
}

/* Either order may be run downwards, and is then the exact reverse. */
static void either_down(void)
{
    fake *f = fake_new(0);
    const rmg_target target = fake_target(f, 0xFF);
    const rmg_range range = {5, 12};
    const uint8_t code[] = {E | 1, RMG_OP_W1, 0};
    rmg_march_job job = {.code = code, .ranges = &range, .range_count = 1, .either_down = true};
    rmg_tally tally;

    rmg_tally_clear(&tally, NULL, 0);
    CHECK(rmg_march_run(&target, &job, &tally) == RMG_OK && f->logged == 8, "runs");
    for (unsigned i = 0; i < 8; i++)
        CHECK(f->log[i].address == 12 - i, "access %u is downwards", i);
}

/* A range that ends at the last address of the type, and one that is the whole array from 0. */
static void last_address(void)
{
    const rmg_addr top = (rmg_addr) ~(rmg_addr)0;
    const rmg_addr base = (rmg_addr)(top - (FAKE_WORDS - 1u));
    const rmg_range ranges[] = {{(rmg_addr)(top - 2u), top}, {base, top}};

    for (size_t i = 0; i < COUNT(ranges); i++) {
        fake *f = fake_new(base);
        const rmg_target target = fake_target(f, 0xFF);
        const rmg_march_job job = {
            .code = rmg_march_c_minus, .ranges = &ranges[i], .range_count = 1};
        const unsigned long words = i ? FAKE_WORDS : 3u;
        rmg_tally tally;

        f->bad_address = top;
        f->bad_1 = 0x10;
        rmg_tally_clear(&tally, NULL, 0);
        CHECK(rmg_march_run(&target, &job, &tally) == RMG_OK, "runs to its end");
        CHECK(f->reads + f->writes == 10 * words && !f->outside, "10N accesses, none outside");
        CHECK(tally.failing == 3 && tally.first[0].address == top, "the last word was tested");
    }
}

static void failures_are_whole(void)
{
    fake *f = fake_new(0);
    const rmg_target target = fake_target(f, 0xFF);
    const rmg_range range = {0, 31};
    const rmg_march_job job = {.code = rmg_march_c_minus,
                               .ranges = &range,
                               .range_count = 1,
                               .background = 0xF0,
                               .pass = 6,
                               .step = 2};
    rmg_tally tally;

    f->bad_address = 9;
    f->bad_0 = 0x80; /* reads 0 where 1 is expected: in "0", 0xF0 */
    rmg_tally_clear(&tally, NULL, 0);
    CHECK(rmg_march_run(&target, &job, &tally) == RMG_OK, "runs");
    CHECK(tally.failing == 3, "r0 of elements 2, 4 and 6: %lu", (unsigned long)tally.failing);
    CHECK(tally.first[0].address == 9 && tally.first[0].expected == 0xF0 &&
              tally.first[0].actual == 0x70 && tally.first[0].pass == 6 &&
              tally.first[0].step == 2 && tally.first[0].element == 1 &&
              tally.first[0].operation == 0 && !tally.first[0].down,
          "the first failure, whole");
    CHECK(tally.first[1].element == 3 && tally.first[1].down, "the second, downwards");
}

typedef struct stopper {
    unsigned calls, stop_at, failures;
    bool other_words; /* not as many as were done */
} stopper;

static bool stop_when_told(void *context, const rmg_progress *progress)
{
    stopper *s = context;

    s->other_words |= progress->words != s->calls % 9 * 8 || progress->pass != 7 ||
                      progress->step != 5 || progress->element != s->calls / 9 % 3;
    return ++s->calls != s->stop_at;
}

static void count_failure(void *context, const rmg_failure *failure)
{
    stopper *s = context;

    (void)failure;
    s->failures++;
}

static void cancelling(void)
{
    stopper s = {0, 4, 0, false};
    const rmg_observer observer = {
        .context = &s, .progress = stop_when_told, .failure = count_failure, .every_log2 = 3};
    fake *f = fake_new(0);
    const rmg_target target = fake_target(f, 0xFF);
    const rmg_range range = {0, 63};
    const rmg_march_job job = {.code = rmg_march_mats_plus,
                               .ranges = &range,
                               .range_count = 1,
                               .observer = &observer,
                               .pass = 7,
                               .step = 5};
    rmg_tally tally;

    f->read_0 = 1;
    rmg_tally_clear(&tally, NULL, 0);
    CHECK(rmg_march_run(&target, &job, &tally) == RMG_ERR_CANCELLED, "stops");
    CHECK(f->writes == 24 && !f->reads, "after 3 x 8 words: %lu", f->writes);
    s = (stopper){0, 0, 0, false};
    CHECK(rmg_march_run(&target, &job, &tally) == RMG_OK, "is not stopped");
    CHECK(s.calls == 3 * (1 + 8), "start of each element and every 8 words: %u", s.calls);
    CHECK(!s.other_words, "and how many are done");
    CHECK(s.failures == 64 && tally.failing == 64, "each failure is reported");
}

static void holds_and_bad_jobs(void)
{
    static const rmg_range crossed[] = {{0, 5}, {5, 9}}, turned[] = {{9, 5}};
    fake *f = fake_new(0);
    rmg_bus no_wait = fake_bus;
    rmg_target target = fake_target(f, 0xFF);
    const rmg_range range = {0, 3};
    const uint8_t code[] = {U | 1, RMG_OP_W1, E, U | 1, RMG_OP_R1, 0};
    rmg_march_job job = {.code = code, .ranges = &range, .range_count = 1, .hold_us = 70000};
    rmg_tally tally;

    rmg_tally_clear(&tally, NULL, 0);
    CHECK(rmg_march_run(&target, &job, &tally) == RMG_OK && f->waits == 1 && f->waited_us == 70000,
          "a hold waits once");
    no_wait.wait = NULL;
    target.bus = &no_wait;
    CHECK(rmg_march_run(&target, &job, &tally) == RMG_ERR_PORT_CANNOT, "a port without wait");
    f = fake_new(0);
    target.bus = &fake_bus;
    job.ranges = crossed;
    job.range_count = 2;
    CHECK(rmg_march_run(&target, &job, &tally) == RMG_ERR_RANGE, "ranges that touch");
    job.ranges = turned;
    job.range_count = 1;
    CHECK(rmg_march_run(&target, &job, &tally) == RMG_ERR_RANGE, "a range that ends first");
    job.range_count = 0;
    CHECK(rmg_march_run(&target, &job, &tally) == RMG_ERR_RANGE, "no range");
    job.code = NULL;
    CHECK(rmg_march_run(&target, &job, &tally) == RMG_ERR_ARGUMENT, "no march");
    CHECK(rmg_march_run(NULL, &job, &tally) == RMG_ERR_ARGUMENT, "no target");
    CHECK(!f->reads && !f->writes, "and none of them made an access");
}

CU_TestInfo march_tests[] = {
    {"notation", parse},
    {"limits of the notation", parse_limits},
    {"definitions of the literature", definitions},
    {"names", names},
    {"operation counts equal the formula", operation_counts},
    {"order of accesses equals the notation", order_of_accesses},
    {"either order, downwards", either_down},
    {"the last address of the type", last_address},
    {"failures are kept whole", failures_are_whole},
    {"progress and cancelling", cancelling},
    {"holds and wrong jobs", holds_and_bad_jobs},
    CU_TEST_INFO_NULL,
};
