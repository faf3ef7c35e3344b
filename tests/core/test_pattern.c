/* Backgrounds by address, orders of addresses, and failures added by the block. */
#include <string.h>

#include "../check.h"
#include "fake.h"
#include "suites.h"

static const rmg_where everywhere = {0, (rmg_addr) ~(rmg_addr)0, 0, 0};

static void backgrounds(void)
{
    const rmg_background_term board[] = {{everywhere, 0x41, 0xF0}, {{0x80, 0xFF, 0, 0}, 0x2, 0x0F}};
    const rmg_background checked = {.start = 0x03, .terms = board, .term_count = 2};
    static const struct {
        rmg_addr address;
        rmg_word word;
    } rows[] = {
        {0x00, 0x03},               /* no line at 1 */
        {0x01, 0xF3},               /* one of the two */
        {0x40, 0xF3}, {0x41, 0x03}, /* both: even */
        {0x02, 0x03},               /* the second term is for other addresses */
        {0x82, 0x0C}, {0x83, 0xFC}, {0xC3, 0x0C},
    };
    rmg_background random = {.random = true, .seed = 7};
    unsigned ones = 0, same = 0;

    for (size_t i = 0; i < COUNT(rows); i++)
        CHECK(rmg_background_word(&checked, rows[i].address) == rows[i].word, "at %lx",
              (unsigned long)rows[i].address);
    for (rmg_addr a = 0; a < 1000; a++) {
        const rmg_word word = rmg_background_word(&random, a);

        ones += (unsigned)(word & 1u);
        same += (uint8_t)word == (uint8_t)rmg_background_word(&random, (rmg_addr)(a + 1u));
        CHECK(word == rmg_background_word(&random, a), "the same each time");
    }
    CHECK(ones > 400 && ones < 600 && same < 20, "drawn: %u ones, %u alike", ones, same);
    random.seed = 8;
    CHECK(rmg_hash(7, 1) != rmg_hash(8, 1) && rmg_hash(7, 1) != rmg_hash(7, 2), "a hash");
}

/* Every address once, in an order that is the reverse of the other direction's. */
static void orders(void)
{
    const rmg_range ranges[] = {{0x104, 0x10B}, {0x110, 0x113}};
    rmg_order order;
    uint8_t seen[0x40];

    rmg_order_linear(&order, ranges, 2);
    CHECK(order.lines == 5 && order.base == 0x100, "holds both ranges: %u lines from %lx",
          order.lines, (unsigned long)order.base);
    for (unsigned turn = 0; turn < 3; turn++) {
        order.complement = turn == 1;
        if (turn == 2) { /* line 3 changes fastest */
            order.line_of[0] = 3;
            order.line_of[3] = 0;
        }
        memset(seen, 0, sizeof seen);
        for (rmg_addr n = 0; n < 32; n++)
            seen[rmg_order_address(&order, n) - 0x100]++;
        for (unsigned i = 0; i < 32; i++)
            CHECK(seen[i] == 1, "turn %u: address %u once", turn, i);
        CHECK(rmg_order_address(&order, 1) == (turn == 0   ? 0x101u
                                               : turn == 1 ? 0x11Fu
                                                           : 0x108u),
              "turn %u: the second address", turn);
    }
}

/* What the port saw is the order and the words that the definition says. */
static void patterned_march(void)
{
    const rmg_range ranges[] = {{0, 2}, {5, 6}};
    const rmg_background_term term = {everywhere, 1, 0xFF};
    const rmg_background striped = {.terms = &term, .term_count = 1};
    static const uint8_t code[] = {RMG_ORDER_UP | 1, RMG_OP_W0, RMG_ORDER_DOWN | 2,
                                   RMG_OP_R0,        RMG_OP_W1, 0};
    const rmg_march_job job = {.code = code, .ranges = ranges, .range_count = 2};
    static const rmg_addr linear[] = {0, 1, 2, 5, 6}, opposite[] = {0, 1, 6, 2, 5};
    rmg_order order;

    rmg_order_linear(&order, ranges, 2);
    order.complement = true;
    for (unsigned turn = 0; turn < 2; turn++) {
        fake *f = fake_new(0);
        const rmg_target target = fake_target(f, 0xFF);
        const rmg_addr *at = turn ? opposite : linear;
        rmg_tally tally;

        rmg_tally_clear(&tally, NULL, 0);
        CHECK(rmg_march_run_patterned(&target, &job, &striped, turn ? &order : NULL, &tally) ==
                  RMG_OK,
              "runs");
        CHECK(!tally.failing && f->logged == 15, "turn %u: %u accesses", turn, f->logged);
        for (unsigned i = 0; i < 5; i++) {
            const rmg_addr down = at[4 - i];

            CHECK(f->log[i].address == at[i] && f->log[i].write &&
                      f->log[i].value == (at[i] & 1u ? 0xFF : 0),
                  "turn %u: write %u", turn, i);
            CHECK(f->log[5 + 2 * i].address == down && !f->log[5 + 2 * i].write &&
                      f->log[6 + 2 * i].address == down &&
                      f->log[6 + 2 * i].value == (down & 1u ? 0 : 0xFF),
                  "turn %u: read and write %u", turn, i);
        }
    }
}

static void wrong_patterns(void)
{
    const rmg_range range = {0, 3};
    const rmg_background solid = {0};
    const rmg_march_job job = {.code = rmg_march_mats, .ranges = &range, .range_count = 1};
    fake *f = fake_new(0);
    const rmg_target target = fake_target(f, 0xFF);
    rmg_order order;
    rmg_tally tally;

    rmg_order_linear(&order, &range, 1);
    rmg_tally_clear(&tally, NULL, 0);
    CHECK(rmg_march_run_patterned(&target, &job, NULL, &order, &tally) == RMG_ERR_ARGUMENT,
          "no background");
    order.lines = 0;
    CHECK(rmg_march_run_patterned(&target, &job, &solid, &order, &tally) == RMG_ERR_ARGUMENT,
          "an order without lines");
    order.lines = RMG_ADDR_BITS;
    CHECK(rmg_march_run_patterned(&target, &job, &solid, &order, &tally) == RMG_ERR_ARGUMENT,
          "an order of all lines");
    CHECK(!f->reads && !f->writes, "before any access");
    order.lines = 2;
    for (unsigned long n = 1;; n++) { /* the Nth access fails */
        f = fake_new(0);
        f->fail_at = n;
        f->fail_with = RMG_ERR_PORT_LOST;
        if (rmg_march_run_patterned(&target, &job, &solid, n & 1u ? &order : NULL, &tally) ==
            RMG_OK) {
            CHECK(n == 4 * 4 + 1, "clean after %lu", n);
            break;
        }
        CHECK(f->reads + f->writes == n, "stopped at once: %lu", n);
    }
}

/* Do both hold the same counts and the same first failures? */
static void check_same(const rmg_tally *one, const rmg_tally *all, unsigned turn)
{
    CHECK(one->failing == all->failing && one->address_and == all->address_and &&
              one->address_or == all->address_or &&
              memcmp(one->bits, all->bits, sizeof one->bits) == 0,
          "turn %u: counts", turn);
    CHECK(memcmp(one->lines, all->lines, sizeof one->lines) == 0, "turn %u: lines", turn);
    CHECK(one->first_count == all->first_count, "turn %u: as many first ones", turn);
    for (unsigned i = 0; i < one->first_count && i < all->first_count; i++)
        CHECK(one->first[i].address == all->first[i].address &&
                  one->first[i].actual == all->first[i].actual,
              "turn %u: first ones", turn);
}

/* Adding a block is adding its failures one by one. */
static void blocks(void)
{
    const rmg_where banks[] = {{0, 0x7F, 0, 0}, {0x80, 0xFF, 1, 1}};
    uint32_t dice = 99;

    for (unsigned turn = 0; turn < 200; turn++) {
        rmg_mismatch_block block = {.expected = (rmg_word)(turn & 1u ? 0xFF : 0)};
        rmg_failure like = {.pass = 3, .step = 2, .element = 1, .down = turn & 2u};
        rmg_tally one, all;

        rmg_tally_clear(&one, banks, 2);
        rmg_tally_clear(&all, banks, 2);
        for (unsigned b = 0; b < 3; b++) {
            block.first = (rmg_addr)(64u * (turn + b) & 0xC0u);
            block.failing = 0;
            for (unsigned i = 0; i < 64; i++) {
                dice = dice * 1664525u + 1013904223u;
                block.actual[i] = (rmg_word)(dice >> 16 & 0xFFu);
                if (block.actual[i] != block.expected && (dice >> 30 || turn > 100))
                    block.failing |= (uint64_t)1 << i;
            }
            block.operation = like.operation = (uint8_t)b;
            rmg_tally_add_block(&all, &block, &like);
            for (unsigned i = 0; i < 64; i++) {
                rmg_failure f = like;

                f.address = (rmg_addr)(block.first + i);
                f.expected = block.expected;
                f.actual = block.actual[i];
                if (block.failing >> i & 1u)
                    rmg_tally_add(&one, &f);
            }
        }
        check_same(&one, &all, turn);
    }
}

/* Adding a run is adding its failures one by one, in the direction of the element. */
static void runs(void)
{
    static const rmg_where apart[] = {{0, 0x7F, 3, 1}, {0, 0xFF, 3, 2}, {0x80, 0xF0, 7, 7}};
    static const rmg_where over[] = {{0, 0x7F, 1, 1}, {0x20, 0xFF, 2, 2}, {0x80, 0xF0, 0, 0}};
    uint32_t dice = 7;

    for (unsigned turn = 0; turn < 400; turn++) {
        const rmg_where *banks = turn % 3u ? apart : over;
        rmg_mismatch_run run = {.expected = (rmg_word)(turn & 1u ? 0xFF : 0)};
        rmg_failure like = {.pass = 3, .step = 2, .element = 1, .down = turn & 2u};
        rmg_tally one, all;

        rmg_tally_clear(&one, banks, 3);
        rmg_tally_clear(&all, banks, 3);
        for (unsigned n = 0; n < 2; n++) {
            dice = dice * 1664525u + 1013904223u;
            run.first = (rmg_addr)(dice >> 16 & 0xFFu);
            run.words = (rmg_addr)(1u + (dice >> 24) % (0x100u - (unsigned)run.first));
            run.actual = (rmg_word)(run.expected ^ (1u + (dice >> 8) % 255u));
            run.which = turn % 4u ? RMG_EVERY_WORD : (uint16_t)(dice | 1u);
            rmg_tally_add_run(&all, &run,
                              &(rmg_failure){.pass = 3,
                                             .step = 2,
                                             .element = 1,
                                             .down = like.down,
                                             .expected = run.expected,
                                             .actual = run.actual});
            for (unsigned i = 0; i < run.words; i++) {
                rmg_failure f = like;

                f.address = (rmg_addr)(run.first + (f.down ? run.words - 1u - i : i));
                f.expected = run.expected;
                f.actual = run.actual;
                if (rmg_in_run(&run, f.address))
                    rmg_tally_add(&one, &f);
            }
        }
        check_same(&one, &all, turn);
    }
}

CU_TestInfo pattern_tests[] = {
    {"backgrounds by address", backgrounds},
    {"orders of addresses", orders},
    {"a march in patterns and orders", patterned_march},
    {"wrong patterns, and ports that fail", wrong_patterns},
    {"failures by the block", blocks},
    {"runs of failures", runs},
    CU_TEST_INFO_NULL,
};
