/* Wiring checks: what each broken line looks like, and that the count of accesses stays small. */
#include <stdio.h>
#include <string.h>

#include "../check.h"
#include "fake.h"
#include "suites.h"

static rmg_status check(fake *f, rmg_addr first, rmg_addr last, rmg_wiring *w)
{
    const rmg_target target = fake_target(f, 0xFF);
    const rmg_where range = {first, last, 0, 0};

    return rmg_wiring_check(&target, &range, w);
}

static bool no_line_ignored(const rmg_wiring *w)
{
    for (unsigned k = 0; k < RMG_ADDR_BITS; k++)
        if (w->ignored[k])
            return false;
    return true;
}

static void data_lines(void)
{
    static const struct {
        const char *title;
        rmg_word read_0, read_1, undriven;
        rmg_word low, high, opposite;
    } rows[] = {
        {"sound", 0, 0, 0, 0, 0, 0},
        {"D0 stuck low", 0x01, 0, 0, 0x01, 0, 0},
        {"D7 stuck high", 0, 0x80, 0, 0, 0x80, 0},
        {"D3 not driven", 0, 0, 0x08, 0, 0, 0x08},
        {"one of each", 0x02, 0x10, 0x40, 0x02, 0x10, 0x40},
        {"nothing there: every line holds", 0, 0, 0xFF, 0, 0, 0xFF},
        {"nothing there: every line pulled up", 0, 0xFF, 0, 0, 0xFF, 0},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        fake *f = fake_new(0);
        rmg_wiring w;

        f->read_0 = rows[i].read_0;
        f->read_1 = rows[i].read_1;
        f->undriven = rows[i].undriven;
        CHECK(check(f, 0x100, 0x1FF, &w) == RMG_OK, "%s: runs", rows[i].title);
        CHECK(w.low == rows[i].low && w.high == rows[i].high && w.opposite == rows[i].opposite &&
                  !w.unsteady,
              "%s: low %lx, high %lx, undriven %lx, unsteady %lx", rows[i].title,
              (unsigned long)w.low, (unsigned long)w.high, (unsigned long)w.opposite,
              (unsigned long)w.unsteady);
        CHECK(no_line_ignored(&w), "%s: address lines sound", rows[i].title);
    }
}

/* One bad cell, also at the very words the check uses, is not a bad line. */
static void bad_cells_are_no_lines(void)
{
    static const rmg_addr places[] = {0x100, 0x1FF, 0x101, 0x180, 0x17F, 0x133};

    for (size_t i = 0; i < COUNT(places); i++) {
        fake *f = fake_new(0);
        rmg_wiring w;

        f->bad_address = places[i];
        f->bad_0 = 0x0F;
        f->bad_1 = 0xF0;
        CHECK(check(f, 0x100, 0x1FF, &w) == RMG_OK, "runs");
        CHECK(!w.low && !w.high && !w.opposite && !w.unsteady && no_line_ignored(&w),
              "bad cell at %lx", (unsigned long)places[i]);
    }
}

/* Each line dead, for the whole word and for one chip's bits, in ranges with and without a round
 * size. */
static void address_lines(void)
{
    static const rmg_range ranges[] = {{0, 0xFF}, {0x100, 0x1FF}, {0x80, 0x1BB}, {0x3, 0x9E}};
    static const rmg_word bits[] = {0xFF, 0x01, 0x3C};

    for (size_t r = 0; r < COUNT(ranges); r++)
        for (size_t b = 0; b < COUNT(bits); b++)
            for (unsigned k = 0; k < 9; k++) {
                fake *f = fake_new(0);
                rmg_wiring w;
                const rmg_addr line = (rmg_addr)(1u << k);
                bool others = true;

                f->dead_line = line;
                f->dead_line_bits = bits[b];
                CHECK(check(f, ranges[r].first, ranges[r].last, &w) == RMG_OK, "runs");
                if (!(w.lines & line))
                    continue; /* it cannot vary there; line_cover checks which can */
                for (unsigned j = 0; j < RMG_ADDR_BITS; j++)
                    others &= j == k || !w.ignored[j];
                CHECK(w.ignored[k] == bits[b] && others && !w.low && !w.high && !w.opposite,
                      "range %zu, A%u, bits %lx: %lx", r, k, (unsigned long)bits[b],
                      (unsigned long)w.ignored[k]);
            }
}

/* A line is checked exactly where two words of the range differ in it alone. */
static void line_cover(void)
{
    static const rmg_range ranges[] = {{0, 3}, {0, 0xFF}, {0x80, 0x1BB}, {0x7F, 0x82}, {1, 0x100}};

    for (size_t r = 0; r < COUNT(ranges); r++) {
        fake *f = fake_new(0);
        rmg_wiring w;
        rmg_addr can = 0;

        for (rmg_addr a = ranges[r].first; a <= ranges[r].last; a++)
            for (unsigned k = 0; k < 12; k++)
                if ((a ^ (1u << k)) >= ranges[r].first && (a ^ (1u << k)) <= ranges[r].last)
                    can |= (rmg_addr)(1u << k);
        f->first = ranges[r].first;
        f->end = ranges[r].last;
        CHECK(check(f, ranges[r].first, ranges[r].last, &w) == RMG_OK, "runs");
        CHECK(w.lines == can, "range %zu: %lx, %lx", r, (unsigned long)w.lines, (unsigned long)can);
        CHECK(!f->outside, "range %zu: never outside it", r);
    }
}

/* Lanes: only even or only odd addresses are the bank's; nothing else is touched. */
static void lanes(void)
{
    for (unsigned odd = 0; odd < 2; odd++) {
        const rmg_target target = fake_target(fake_new(0), 0xFF);
        fake *f = target.context;
        const rmg_where where = {(rmg_addr)odd, (rmg_addr)(0x1FEu + odd), 1, (rmg_addr)odd};
        const rmg_where outside = {(rmg_addr)odd, (rmg_addr)(0x1FFu - odd), 1, (rmg_addr)odd};
        bool kept = true;
        rmg_wiring w;

        f->dead_line = 8;
        f->dead_line_bits = 0x0F;
        CHECK(rmg_wiring_check(&target, &where, &w) == RMG_OK && w.lines == 0x1FE &&
                  w.ignored[3] == 0x0F && !w.ignored[0],
              "lane %u: %lx", odd, (unsigned long)w.lines);
        for (unsigned i = 0; i < f->logged; i++)
            kept &= (f->log[i].address & 1u) == odd;
        CHECK(kept, "lane %u: the other lane is not touched", odd);
        CHECK(rmg_wiring_check(&target, &outside, &w) == RMG_ERR_RANGE, "an end of the other lane");
    }
}

static void last_address(void)
{
    const rmg_addr top = (rmg_addr) ~(rmg_addr)0;
    fake *f = fake_new((rmg_addr)(top - (FAKE_WORDS - 1u)));
    rmg_wiring w;

    f->first = (rmg_addr)(top - 63u);
    f->dead_line = 4;
    f->dead_line_bits = 0xFF;
    CHECK(check(f, f->first, top, &w) == RMG_OK && w.ignored[2] == 0xFF && !f->outside,
          "a range up to the last address");
    f = fake_new(0);
    CHECK(check(f, 0, FAKE_WORDS - 1u, &w) == RMG_OK && no_line_ignored(&w) &&
              w.lines == FAKE_WORDS - 1u,
          "64 Ki words");
}

static void accesses_are_few(void)
{
    rmg_wiring small, large;
    fake *f = fake_new(0);

    CHECK(check(f, 0, 0xFF, &small) == RMG_OK, "runs");
    CHECK(small.accesses == f->reads + f->writes, "said as made: %u", small.accesses);
    f = fake_new(0);
    CHECK(check(f, 0, 0xFFFF, &large) == RMG_OK, "runs");
    CHECK((unsigned)(large.accesses - small.accesses) <= 12u * 8u,
          "12 an address line more, no more: %u, %u", small.accesses, large.accesses);
    CHECK(check(f, 0, 2, &small) == RMG_ERR_RANGE && check(f, 4, 3, &small) == RMG_ERR_RANGE,
          "three words are too few");
}

/* Closer looks: data bits that touch or are never written. */
static void data_details(void)
{
    static const struct {
        const char *title;
        rmg_word touching, never;
        bool high;
    } rows[] = {{"sound", 0, 0, false},
                {"D1 and D6, a low wins", 0x42, 0, false},
                {"D1 and D6, a high wins", 0x42, 0, true},
                {"D4-D7 never written", 0, 0xF0, false},
                {"nothing is ever written", 0, 0xFF, false}};

    for (size_t i = 0; i < COUNT(rows); i++) {
        fake *f = fake_new(0);
        const rmg_target target = fake_target(f, 0xFF);
        const rmg_where where = {0x100, 0x1FF, 0, 0};
        rmg_data_detail d;
        rmg_wiring w;

        for (unsigned a = 0; a < 0x200; a++)
            f->words[a] = (rmg_word)(a * 0x9Du >> 2 & 0xFFu);
        f->touching = rows[i].touching;
        f->touch_high = rows[i].high;
        f->never_written = rows[i].never;
        CHECK(rmg_wiring_check(&target, &where, &w) == RMG_OK &&
                  rmg_wiring_data_detail(&target, &where, &w, &d) == RMG_OK,
              "%s: runs", rows[i].title);
        CHECK(d.fixed == rows[i].never, "%s: fixed %lx", rows[i].title, (unsigned long)d.fixed);
        CHECK(d.low_with[1] == (rows[i].touching && !rows[i].high ? 0x40 : 0) &&
                  d.low_with[6] == (rows[i].touching && !rows[i].high ? 0x02 : 0) &&
                  d.high_with[1] == (rows[i].touching && rows[i].high ? 0x40 : 0) && !d.low_with[0],
              "%s: who follows whom", rows[i].title);
        CHECK(!f->outside && d.accesses <= 10u + 12u * (1u + 8u + 8u), "%s: %u accesses",
              rows[i].title, d.accesses);
    }
}

/* Every pair of address lines that touch, in a round range and in one that is not. */
static void address_details(void)
{
    static const rmg_where wheres[] = {{0, 0xFF, 0, 0}, {0x400, 0x7FF, 0, 0}, {0, 0xEF, 0, 0}};

    for (size_t r = 0; r < COUNT(wheres); r++)
        for (unsigned a = 0; a < 8; a++)
            for (unsigned b = a + 1; b < 8; b++)
                for (unsigned high = 0; high < (r == 2 ? 1 : 2); high++) {
                    fake *f = fake_new(0);
                    const rmg_target target = fake_target(f, 0xFF);
                    rmg_address_detail d;
                    rmg_wiring w;

                    f->touching_lines = (rmg_addr)(1u << a | 1u << b);
                    f->touch_high = high;
                    CHECK(rmg_wiring_check(&target, &wheres[r], &w) == RMG_OK &&
                              rmg_wiring_address_detail(&target, &wheres[r], &w, &d) == RMG_OK,
                          "runs");
                    CHECK(d.pair_count == 1 && d.pairs[0].a == a && d.pairs[0].b == b &&
                              d.pairs[0].high_wins == high && d.pairs[0].bits == 0xFF,
                          "range %zu, A%u and A%u, %u wins: %u pairs", r, a, b, high, d.pair_count);
                }
}

/* Two banks that are one, by a dead line; two that are apart. */
static void bank_pairs(void)
{
    for (unsigned same = 0; same < 2; same++) {
        fake *f = fake_new(0);
        const rmg_target target = fake_target(f, 0xFF);
        rmg_bank_pair p;

        f->dead_line = same ? 0x100 : 0;
        f->dead_line_bits = same ? 0xFF : 0;
        CHECK(rmg_wiring_bank_pair(&target, 0x20, 0x120, 0xFF, &p) == RMG_OK && p.accesses == 24 &&
                  f->reads + f->writes == 24,
              "24 accesses");
        CHECK(p.same == (same ? 0xFF : 0) && !p.a_answers && !p.b_answers && !p.a_dragged &&
                  !p.b_dragged,
              "same %u: %lx", same, (unsigned long)p.same);
    }
}

/* A port that fails at the Nth access, once or from then on: the exact status, for every N, with
 * the run ending at that very access; for both of the core's long calls. */
static rmg_status all_details(const rmg_target *target, const rmg_where *where)
{
    rmg_address_detail a;
    rmg_bank_pair p;
    rmg_data_detail d;
    rmg_wiring w;
    rmg_status status = rmg_wiring_check(target, where, &w);

    if (status == RMG_OK)
        status = rmg_wiring_data_detail(target, where, &w, &d);
    if (status == RMG_OK)
        status = rmg_wiring_address_detail(target, where, &w, &a);
    if (status == RMG_OK)
        status = rmg_wiring_bank_pair(target, where->first, where->last, 0xFF, &p);
    return status;
}

static void fault_loop(void)
{
    static const rmg_status errors[] = {RMG_ERR_PORT, RMG_ERR_PORT_LOST};
    const rmg_range range = {0, 15};
    const rmg_where where = {0, 15, 0, 0};
    const rmg_march_job job = {.code = rmg_march_c_minus, .ranges = &range, .range_count = 1};

    for (unsigned mode = 0; mode < 12; mode++) {
        unsigned long n = 1;
        rmg_status status = RMG_ERR_PORT;

        for (; status != RMG_OK && n < 1000; n++) {
            fake *f = fake_new(0);
            const rmg_target target = fake_target(f, 0xFF);
            rmg_tally tally;
            rmg_wiring w;

            f->fail_at = n;
            f->fail_on = mode & 1u;
            f->fail_with = errors[mode >> 1 & 1u];
            f->bad_address = 3;
            f->bad_1 = 1;
            rmg_tally_clear(&tally, NULL, 0);
            if (mode >= 8) {
                f->touching = 3;
                f->touching_lines = 6;
                status = all_details(&target, &where);
            } else {
                status = mode & 4u ? rmg_wiring_check(&target, &where, &w)
                                   : rmg_march_run(&target, &job, &tally);
            }
            if (status == RMG_OK)
                break;
            CHECK(status == f->fail_with, "mode %u, access %lu: that very status", mode, n);
            CHECK(f->reads + f->writes == n, "mode %u: ends at access %lu", mode, n);
            if (mode < 4) /* reads 23, 105 and 148 meet the bad cell */
                CHECK(tally.failing == (rmg_count)((n > 23) + (n > 105) + (n > 148)),
                      "access %lu: what was found stays: %lu", n, (unsigned long)tally.failing);
        }
        CHECK(n > (mode >= 8   ? 300u
                   : mode & 4u ? 100u
                               : 160u),
              "mode %u: went through all accesses: %lu", mode, n);
    }
}

/* A small memory with one thing wrong, which the checks must not leave, whatever it is. */
static void check_all_within(const rmg_where *where, rmg_addr dead, rmg_addr touching, bool high)
{
    static fake *f;
    rmg_target target;
    rmg_address_detail a;
    rmg_data_detail d;
    rmg_wiring w;
    rmg_addr varies = 0;

    if (!f)
        f = fake_new(0);
    target = fake_target(f, 0xFF);
    f->outside = 0;
    f->first = where->first;
    f->end = where->last;
    f->dead_line = dead;
    f->dead_line_bits = 0xFF;
    f->touching_lines = touching;
    f->touch_high = high;
    for (rmg_addr line = 1; line < 0x80; line = (rmg_addr)(line << 1)) {
        bool pair = false;

        for (rmg_addr at = where->first; at < where->last && !pair; at++)
            pair = rmg_where_holds(where, at) && rmg_where_holds(where, (rmg_addr)(at ^ line));
        varies |= pair ? line : 0;
    }
    CHECK(rmg_wiring_check(&target, where, &w) == RMG_OK, "0x%lx-0x%lx",
          (unsigned long)where->first, (unsigned long)where->last);
    CHECK(!f->outside, "0x%lx-0x%lx, line 0x%lx dead, 0x%lx touch: %lu outside",
          (unsigned long)where->first, (unsigned long)where->last, (unsigned long)dead,
          (unsigned long)touching, f->outside);
    CHECK(where->mask ? (w.lines | varies) == varies : w.lines == varies,
          "0x%lx-0x%lx: lines 0x%lx of 0x%lx", (unsigned long)where->first,
          (unsigned long)where->last, (unsigned long)w.lines, (unsigned long)varies);
    CHECK(rmg_wiring_data_detail(&target, where, &w, &d) == RMG_OK &&
              rmg_wiring_address_detail(&target, where, &w, &a) == RMG_OK && !f->outside,
          "0x%lx-0x%lx: the details too: %lu outside", (unsigned long)where->first,
          (unsigned long)where->last, f->outside);
}

/* Ranges that begin and end anywhere, with and without a condition, at the end of the address type
 * too; every line dead, every two lines touching: every line that can vary is checked, and no word
 * outside the range is touched. */
static void never_outside(void)
{
    static const rmg_addr conditions[][2] = {{0, 0}, {1, 0}, {1, 1}, {6, 4}, {0x40, 0x40}};

    for (rmg_addr first = 0; first < 40; first = (rmg_addr)(first + 1u + first / 8u))
        for (rmg_addr last = (rmg_addr)(first + 3u); last < 80; last = (rmg_addr)(last + 5u))
            for (size_t c = 0; c < COUNT(conditions); c++) {
                rmg_where where = {first, last, conditions[c][0], conditions[c][1]};

                while (!rmg_where_holds(&where, where.first) && where.first < where.last)
                    where.first = (rmg_addr)(where.first + 1u);
                while (!rmg_where_holds(&where, where.last) && where.first < where.last)
                    where.last = (rmg_addr)(where.last - 1u);
                if (where.last < where.first + 3u)
                    continue;
                for (rmg_addr dead = 0; dead < 0x80; dead = (rmg_addr)(dead ? dead * 2u : 1u))
                    check_all_within(&where, dead, 0, false);
                for (rmg_addr lines = 3; lines < 0x80; lines++)
                    if ((lines & (lines - 1u)) && !(lines & (lines - 1u) & (lines - 2u)))
                        check_all_within(&where, 0, lines, lines & 1u);
            }
    for (rmg_addr n = 4; n < 40; n++) {
        const rmg_where where = {(rmg_addr)((rmg_addr)0 - n), (rmg_addr) ~(rmg_addr)0, 0, 0};

        check_all_within(&where, 4, 0, false);
    }
}

CU_TestInfo wiring_tests[] = {
    {"never outside the range", never_outside},
    {"data lines", data_lines},
    {"bad cells are no bad lines", bad_cells_are_no_lines},
    {"address lines", address_lines},
    {"which lines a range can check", line_cover},
    {"lanes", lanes},
    {"the last address of the type", last_address},
    {"few accesses", accesses_are_few},
    {"data bits that touch or are never written", data_details},
    {"address lines that touch", address_details},
    {"banks against each other", bank_pairs},
    {"a port that fails at each access", fault_loop},
    CU_TEST_INFO_NULL,
};
