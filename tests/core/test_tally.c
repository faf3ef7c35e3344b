/* The tally: counts, limits, merging. And what every status says. */
#include <string.h>

#include "../check.h"
#include "fake.h"
#include "suites.h"

static const rmg_where two_banks[] = {{0, 0x7F, 0, 0}, {0x80, 0xFF, 0, 0}};

static rmg_failure failure(rmg_addr address, rmg_word expected, rmg_word actual, bool down)
{
    const rmg_failure f = {
        .address = address, .expected = expected, .actual = actual, .down = down};
    return f;
}

static void counts(void)
{
    rmg_tally t;
    const rmg_failure rows[] = {failure(0x05, 0x00, 0x01, false), failure(0x05, 0xFF, 0xFD, true),
                                failure(0x84, 0x00, 0x03, false), failure(0x200, 0, 1, false)};

    rmg_tally_clear(&t, two_banks, 2);
    for (size_t i = 0; i < COUNT(rows); i++)
        rmg_tally_add(&t, &rows[i]);
    CHECK(t.failing == 4 && t.first_count == 4, "all are counted");
    CHECK(t.bits[0][0].high == 1 && t.bits[0][0].low == 0, "lower bank D0 high");
    CHECK(t.bits[0][1].low == 1 && t.bits[0][1].high == 0, "lower bank D1 low");
    CHECK(t.bits[1][0].high == 1 && t.bits[1][1].high == 1, "upper bank D0 and D1 high");
    CHECK(t.address_and == 0 && t.address_or == 0x285, "AND and OR of the addresses");
    CHECK(t.lines[2].up[1] == 2 && t.lines[2].down[1] == 1 && t.lines[2].up[0] == 1, "line A2");
    CHECK(t.lines[7].up[1] == 1 && t.lines[7].up[0] == 2 && t.lines[7].down[0] == 1, "line A7");
}

static void passes(void)
{
    rmg_tally t;
    const rmg_failure f = failure(1, 0, 1, false);

    rmg_tally_clear(&t, two_banks, 2);
    rmg_tally_pass_end(&t);
    rmg_tally_add(&t, &f);
    rmg_tally_add(&t, &f);
    CHECK(t.failing_pass == 2, "two in this pass");
    rmg_tally_pass_end(&t);
    CHECK(t.passes == 2 && t.passes_failing == 1 && t.failing_pass == 0 && t.failing == 2,
          "one of two passes failed");
    t.passes = t.passes_failing = UINT16_MAX - 1;
    for (unsigned i = 0; i < 3; i++) {
        rmg_tally_add(&t, &f);
        rmg_tally_pass_end(&t);
        CHECK(t.passes == UINT16_MAX && t.passes_failing == UINT16_MAX, "full, and no more");
    }
}

/* Full counters stay full, a full list of first failures keeps the first. */
static void limits(void)
{
    rmg_tally t, part;

    rmg_tally_clear(&t, two_banks, 2);
    t.failing = t.bits[0][0].high = RMG_COUNT_MAX;
    for (unsigned i = 0; i < RMG_TALLY_FIRST + 3u; i++) {
        const rmg_failure f = failure((rmg_addr)i, 0, 1, false);
        rmg_tally_add(&t, &f);
    }
    CHECK(t.failing == RMG_COUNT_MAX && t.bits[0][0].high == RMG_COUNT_MAX, "stay full");
    CHECK(t.first_count == RMG_TALLY_FIRST && t.first[0].address == 0 &&
              t.first[RMG_TALLY_FIRST - 1].address == RMG_TALLY_FIRST - 1u,
          "the first are kept");
    part = t;
    rmg_tally_merge(&t, &part);
    CHECK(t.failing == RMG_COUNT_MAX, "stay full when merged");
    rmg_tally_clear(&t, two_banks, RMG_TALLY_BANKS < 255 ? RMG_TALLY_BANKS + 1 : 255);
    CHECK(t.bank_count == RMG_TALLY_BANKS, "no more banks than there is room for");
}

static bool same(const rmg_tally *a, const rmg_tally *b)
{
    bool like = a->failing == b->failing && a->failing_pass == b->failing_pass &&
                a->address_and == b->address_and && a->address_or == b->address_or &&
                a->first_count == b->first_count && memcmp(a->bits, b->bits, sizeof a->bits) == 0 &&
                memcmp(a->lines, b->lines, sizeof a->lines) == 0;

    for (unsigned i = 0; i < a->first_count && like; i++)
        like = a->first[i].address == b->first[i].address &&
               a->first[i].actual == b->first[i].actual && a->first[i].down == b->first[i].down;
    return like;
}

/* Merging is associative and gives what one tally of everything gives. */
static void merging(void)
{
    rmg_tally whole, part[3], left, right;

    rmg_tally_clear(&whole, two_banks, 2);
    for (unsigned p = 0; p < 3; p++)
        rmg_tally_clear(&part[p], two_banks, 2);
    for (unsigned i = 0; i < 60; i++) {
        const rmg_failure f = failure((rmg_addr)(i * 37u & 0xFFu), (rmg_word)(i & 3u),
                                      (rmg_word)((i & 3u) ^ (1u << (i % 5u))), i % 3u == 0);
        rmg_tally_add(&whole, &f);
        rmg_tally_add(&part[i / 20u], &f);
    }
    left = part[0];
    rmg_tally_merge(&left, &part[1]);
    rmg_tally_merge(&left, &part[2]);
    right = part[1];
    rmg_tally_merge(&right, &part[2]);
    part[0].passes = 0;
    rmg_tally_merge(&part[0], &right);
    CHECK(same(&left, &whole), "(a+b)+c is the whole");
    CHECK(same(&part[0], &whole), "a+(b+c) is the whole");
}

static void status_texts(void)
{
    for (int a = RMG_OK; a <= RMG_ERR_MEMORY; a++) {
        const char *text = rmg_status_text((rmg_status)a);

        CHECK(*text && strcmp(text, "unknown status") != 0, "status %d has a text", a);
        for (int b = RMG_OK; b < a; b++)
            CHECK(strcmp(text, rmg_status_text((rmg_status)b)) != 0, "%d and %d differ", a, b);
    }
    CHECK(strcmp(rmg_status_text((rmg_status)(RMG_ERR_MEMORY + 1)), "unknown status") == 0,
          "and no other has");
}

CU_TestInfo tally_tests[] = {
    {"counts by bank, bit and line", counts},
    {"passes", passes},
    {"limits", limits},
    {"merging is associative", merging},
    {"every status has a text of its own", status_texts},
    CU_TEST_INFO_NULL,
};
