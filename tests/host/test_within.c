/* Faults between two bits of one word: the walk of words finds them all; the shares of `explain`
 * are those of the simulated board, which shares no code with them; and how many backgrounds it
 * takes, tried out. */
#include <string.h>

#include "../check.h"
#include "rimeglass/coverage.h"
#include "rimeglass/plan.h"
#include "rimeglass/sim.h"
#include "suites.h"

#define MOST_RUNS 80u

/* What is run over one word. */
typedef struct runs {
    uint8_t code[RMG_MARCH_BYTES];
    rmg_within list[MOST_RUNS];
    size_t count;
} runs;

static void add(runs *r, rmg_word background)
{
    r->list[r->count++] = (rmg_within){r->code, background};
}

static void begin(runs *r, const char *march)
{
    memset(r, 0, sizeof *r);
    CHECK(rmg_march_parse(march, r->code, sizeof r->code, NULL) == RMG_OK, "%s", march);
}

/* The step "within a word" of plans. */
static void make_walk(runs *r, uint8_t bits)
{
    const rmg_word *words;
    const unsigned count = rmg_within_words(bits, &words);

    begin(r, "any(w0,r0,w0,r0,r0)");
    for (unsigned i = 0; i < count; i++)
        add(r, words[i]);
}

/* March C- in the backgrounds that distinguish every two bits. */
static void make_grounds(runs *r, uint8_t bits)
{
    begin(r, "any(w0); up(r0,w1); up(r1,w0); down(r0,w1); down(r1,w0); any(r0)");
    add(r, 0);
    for (unsigned k = 0; 1u << k < bits; k++) {
        rmg_word word = 0;

        for (unsigned i = 0; i < bits; i++)
            word |= (rmg_word)(i >> k & 1u) << i;
        add(r, word);
    }
}

static void walks_find_all(void)
{
    static const struct {
        uint8_t bits;
        unsigned most; /* words */
    } rows[] = {{2, 9}, {3, 13}, {4, 13}, {5, 25}, {8, 24}, {9, 37}, {16, 40}, {18, 45}, {64, 70}};

    for (size_t i = 0; i < COUNT(rows); i++) {
        const uint8_t bits = rows[i].bits;
        runs r;

        make_walk(&r, bits);
        CHECK(r.count <= rows[i].most, "%u bits: %zu words", bits, r.count);
        for (int kind = RMG_CLASS_CFIN; bits <= 18 && kind <= RMG_CLASS_CFIR; kind++)
            for (int reading = 0; reading <= RMG_WITHIN_UNCHANGED; reading++) {
                rmg_coverage share;

                CHECK(rmg_within_coverage(r.list, r.count, bits, (rmg_fault_class)kind,
                                          (rmg_within_reading)reading, &share) == RMG_OK &&
                          share.instances && share.found == share.instances,
                      "%u bits, %s: %u of %u", bits, rmg_fault_class_name((rmg_fault_class)kind),
                      share.found, share.instances);
            }
    }
}

/* The simulated chip: two words, of which the first is tested. */
static bool fails(const runs *r, uint8_t bits, const rmg_sim_fault *fault, uint32_t contents)
{
    static const uint8_t data[] = {0, 1, 2, 3, 4, 5, 6, 7}, feeds[] = {0};
    static const rmg_range only = {0, 0};
    static uint64_t memory[64];
    const rmg_rule rule = {{0, 1, 0, 0}, data, NULL, NULL, feeds, NULL, 0, 0, bits, 1};
    const rmg_placement placement = {&rule, 1};
    const rmg_sim_chip chip = {.width = bits, .address_lines = 1};
    const rmg_sim_board board = {.placement = &placement,
                                 .chips = &chip,
                                 .chip_count = 1,
                                 .word_bits = bits,
                                 .access_ns = 1};
    const rmg_word all = ((rmg_word)1 << bits) - 1u;
    rmg_sim sim;
    rmg_target target = {&rmg_sim_bus, &sim, all};
    rmg_tally tally;

    CHECK(rmg_sim_bytes(&board, 1) <= sizeof memory &&
              rmg_sim_start(&sim, &board, fault, 1, 1, memory) == RMG_OK,
          "starts");
    rmg_sim_put(&sim, 0, 0, contents & (uint32_t)all);
    rmg_tally_clear(&tally, NULL, 0);
    for (size_t i = 0; i < r->count && !tally.failing; i++) {
        const rmg_march_job job = {.code = r->list[i].code,
                                   .ranges = &only,
                                   .range_count = 1,
                                   .background = r->list[i].background};

        CHECK(rmg_march_run(&target, &job, &tally) == RMG_OK, "runs");
    }
    return tally.failing != 0;
}

static rmg_coverage inject(const runs *r, uint8_t bits, rmg_fault_class class,
                           rmg_within_reading reading)
{
    static const rmg_fault_kind kinds[] = {[RMG_CLASS_CFIN] = RMG_FAULT_COUPLING_INVERTS,
                                           [RMG_CLASS_CFID] = RMG_FAULT_COUPLING_SETS,
                                           [RMG_CLASS_CFST] = RMG_FAULT_COUPLING_HOLDS,
                                           [RMG_CLASS_CFDS] = RMG_FAULT_COUPLING_FLIPS,
                                           [RMG_CLASS_CFTR] = RMG_FAULT_TRANSITION,
                                           [RMG_CLASS_CFWD] = RMG_FAULT_WRITE_FLIPS,
                                           [RMG_CLASS_CFRD] = RMG_FAULT_READ_FLIPS,
                                           [RMG_CLASS_CFDRD] = RMG_FAULT_READ_FLIPS_AFTER,
                                           [RMG_CLASS_CFIR] = RMG_FAULT_READ_WRONG};
    static const uint32_t contents[] = {0, 0xFF, 0x55, 0xAA, 0x33, 0xF0};
    const unsigned xs = class == RMG_CLASS_CFIN ? 1 : 2, states = class == RMG_CLASS_CFDS ? 6 : 2;
    rmg_coverage sum = {0, 0};

    for (unsigned n = 0; n < (unsigned)bits * bits * xs * states; n++) {
        const unsigned v = n % bits, a = n / bits % bits, s = n / bits / bits / xs;
        const rmg_sim_fault f = {.kind = kinds[class],
                                 .data_line = (uint8_t)v,
                                 .data_line2 = (uint8_t)a,
                                 .level = (uint8_t)(n / bits / bits % xs),
                                 .state = (uint8_t)(s & 1u),
                                 .operation = (rmg_sim_operation)s,
                                 .coupled = class >= RMG_CLASS_CFTR,
                                 .unchanged_only = reading == RMG_WITHIN_UNCHANGED};
        bool found = a != v;

        for (size_t c = 0; found && c < COUNT(contents); c++)
            found = fails(r, bits, &f, contents[c]);
        sum.instances += a != v;
        sum.found += found;
    }
    return sum;
}

static void board_agrees(void)
{
    static const uint8_t widths[] = {2, 4, 8};
    unsigned some = 0; /* shares that are neither nothing nor all */

    for (unsigned n = 0; n < 2 * COUNT(widths); n++)
        for (int class = RMG_CLASS_CFIN; class <= RMG_CLASS_CFIR; class ++)
            for (int reading = 0; reading <= RMG_WITHIN_UNCHANGED; reading++) {
                const uint8_t bits = widths[n / 2];
                rmg_coverage here, there;
                runs r;

                (n % 2 ? make_walk : make_grounds)(&r, bits);
                here = inject(&r, bits, (rmg_fault_class) class, (rmg_within_reading)reading);
                CHECK(rmg_within_coverage(r.list, r.count, bits, (rmg_fault_class) class,
                                          (rmg_within_reading)reading, &there) == RMG_OK &&
                          here.instances == there.instances && here.found == there.found,
                      "%u bits, %s, reading %d: on the board %u of %u, in the model %u of %u", bits,
                      rmg_fault_class_name((rmg_fault_class) class), reading, here.found,
                      here.instances, there.found, there.instances);
                some += there.found && there.found < there.instances;
            }
    CHECK(some > 6, "the backgrounds leave some unfound: %u", some);
}

/* Do these show every two bits both alike and different? Each is written and read, and so is its
 * complement. */
static bool shows_all(const uint32_t *set, unsigned count, uint8_t bits)
{
    for (unsigned a = 0; a < bits; a++)
        for (unsigned v = 0; v < a; v++) {
            bool alike = false, differ = false;

            for (unsigned k = 0; k < count; k++) {
                alike |= (set[k] >> a & 1u) == (set[k] >> v & 1u);
                differ |= (set[k] >> a & 1u) != (set[k] >> v & 1u);
            }
            if (!alike || !differ)
                return false;
        }
    return true;
}

/* How many sets of so many backgrounds (2 or 3) there are that do. */
static unsigned sets_that_do(uint8_t bits, unsigned count)
{
    const uint32_t words = (uint32_t)1 << bits;
    unsigned found = 0;

    for (uint32_t i = 0; i < words; i++)
        for (uint32_t k = i + 1; k < words; k++)
            for (uint32_t n = count > 2 ? k + 1 : words - 1; n < words; n++)
                found += shows_all((const uint32_t[]){i, k, n}, count, bits);
    return found;
}

static void fewest_backgrounds(void)
{
    runs r;

    CHECK(sets_that_do(4, 2) == 0 && sets_that_do(4, 3) > 0, "4 bits take 3");
    CHECK(sets_that_do(8, 3) == 0, "8 bits take more than 3");
    for (uint8_t bits = 4; bits <= 8; bits *= 2) {
        rmg_coverage share;

        make_grounds(&r, bits);
        CHECK(r.count == (bits == 4 ? 3 : 4) &&
                  rmg_within_coverage(r.list, r.count, bits, RMG_CLASS_CFST, RMG_WITHIN_AFTER,
                                      &share) == RMG_OK &&
                  share.found == share.instances,
              "log2 of the width and one more find all of CFst: %u of %u", share.found,
              share.instances);
        r.count--;
        CHECK(rmg_within_coverage(r.list, r.count, bits, RMG_CLASS_CFST, RMG_WITHIN_AFTER,
                                  &share) == RMG_OK &&
                  share.found < share.instances,
              "one less does not");
    }
}

static void bounds(void)
{
    rmg_coverage share;
    runs r;

    make_walk(&r, 4);
    CHECK(rmg_within_coverage(r.list, 0, 4, RMG_CLASS_CFST, RMG_WITHIN_AFTER, &share) ==
              RMG_ERR_ARGUMENT,
          "no run");
    CHECK(rmg_within_coverage(r.list, r.count, 1, RMG_CLASS_CFST, RMG_WITHIN_AFTER, &share) ==
              RMG_ERR_ARGUMENT,
          "one bit has no other");
    CHECK(rmg_within_coverage(r.list, r.count, 65, RMG_CLASS_CFST, RMG_WITHIN_AFTER, &share) ==
              RMG_ERR_ARGUMENT,
          "too wide");
    CHECK(rmg_within_coverage(r.list, r.count, 4, RMG_CLASS_WDF, RMG_WITHIN_AFTER, &share) ==
              RMG_ERR_ARGUMENT,
          "no fault of two bits");
}

CU_TestInfo within_tests[] = {
    {"walks find all", walks_find_all},
    {"the board agrees", board_agrees},
    {"fewest backgrounds", fewest_backgrounds},
    {"bounds", bounds},
    CU_TEST_INFO_NULL,
};
