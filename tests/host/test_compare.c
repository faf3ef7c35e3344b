/* Comparing what was read with what should be there: explanations against each other, how sure they
 * are, which lines they leave proved. Images and faults are made here, word by word. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/verify.h"
#include "suites.h"

#define SIZE  8192u
#define LINES 13u

typedef struct pair {
    uint8_t good[SIZE], read[SIZE], unsteady[SIZE], known[SIZE], other[SIZE];
    rmg_compare_hints hints;
    rmg_comparison found;
} pair;

static uint64_t dice;

static uint8_t random_byte(void)
{
    return (uint8_t)bench_dice(&dice, 256);
}

/* Bytes as a program has them: some values often, blank above `used`. */
static pair *made(unsigned used)
{
    static const uint8_t often[] = {0x00, 0xFF, 0xC9, 0xCD, 0x21, 0x3E, 0x20, 0x7E};
    pair *p = g_new0(pair, 1);

    dice = 77;
    for (unsigned i = 0; i < SIZE; i++) {
        const uint8_t drawn = bench_dice(&dice, 2) ? often[bench_dice(&dice, 8)] : random_byte();

        p->good[i] = i < used ? drawn : 0xFF;
        p->other[i] = random_byte();
    }
    memcpy(p->read, p->good, SIZE);
    return p;
}

static rmg_words words_of(const uint8_t *bytes)
{
    return (rmg_words){bytes, SIZE, 8, 1, false};
}

static void compare(pair *p)
{
    const rmg_words good = words_of(p->good), read = words_of(p->read);

    CHECK(rmg_compare(&good, &read, &p->hints, &p->found) == RMG_OK, "compared");
}

/* The first thing that is said: a step, or what is left. */
static const rmg_explained *first(const pair *p)
{
    return p->found.step_count ? &p->found.steps[0] : &p->found.rest;
}

/* How likely this kind is said to be, of all that is said first. */
static double share_of(const pair *p, rmg_difference kind)
{
    const rmg_explained *e = first(p);
    double share = e->is.kind == kind ? e->is.share : 0;

    for (size_t i = 0; i < e->alike_count; i++)
        share += e->alike[i].kind == kind ? e->alike[i].share : 0;
    return share;
}

static void found_alone(const pair *p, rmg_difference kind, const char *what)
{
    const rmg_explained *e = first(p);

    CHECK(e->is.kind == kind && e->is.share > 0.9, "%s: %s with %.2f", what,
          rmg_difference_name(e->is.kind), e->is.share);
    CHECK(p->found.step_count <= 1 && (!p->found.step_count || !p->found.left_touched),
          "%s: %zu steps, %u left", what, p->found.step_count, (unsigned)p->found.left_touched);
}

/* Where words are missing among others that are alike, any of them may be the first: all that is
 * known is between which. From the beginning on, an image too low, or rotated, reads the same. */
static void somewhere_between(void)
{
    pair *p = made(SIZE);

    memset(p->good + 2000, 0xFF, 600);
    memcpy(p->read, p->good, SIZE);
    memmove(p->read + 2400, p->read + 2420, SIZE - 2420);
    memset(p->read + SIZE - 20, 0xFF, 20);
    compare(p);
    found_alone(p, RMG_DIFF_SHIFTED, "twenty are missing");
    CHECK(first(p)->is.offset == 20 && first(p)->is.first == 2580 && first(p)->is.count == 580,
          "%u before %u", (unsigned)first(p)->is.count, (unsigned)first(p)->is.first);
    memset(p->good, 0xFF, 2600);
    memcpy(p->read, p->good, SIZE);
    memmove(p->read + 1000, p->read + 1020, SIZE - 1020);
    memset(p->read + SIZE - 20, 0xFF, 20);
    compare(p);
    CHECK(share_of(p, RMG_DIFF_SHIFTED) > 0.1 && share_of(p, RMG_DIFF_MOVED) > 0.3 &&
              share_of(p, RMG_DIFF_OFFSET) > 0.1,
          "missing %.2f, too low %.2f, rotated %.2f", share_of(p, RMG_DIFF_SHIFTED),
          share_of(p, RMG_DIFF_MOVED), share_of(p, RMG_DIFF_OFFSET));
    g_free(p);
}

/* Of an image with hardly anything in it, what one or two words say, and what might as well be. */
static void hardly_anything(void)
{
    static const uint8_t held[] = {0x21, 0x3E, 0xC9, 0x7E};
    pair *p = made(0);
    double best;

    p->good[3000] = p->read[3000] = 0x21;
    memcpy(p->good + 5000, held, sizeof held);
    memset(p->read, 0xFF, SIZE);
    memcpy(p->read + 3000, p->good + 3000, SIZE - 3040); /* forty bytes are put in before */
    memmove(p->read + 4040, p->read + 4000, SIZE - 4040);
    for (unsigned i = 4000; i < 4040; i++)
        p->read[i] = random_byte();
    compare(p);
    CHECK(share_of(p, RMG_DIFF_SHIFTED) > 0.9 && first(p)->is.offset == 40 && first(p)->is.level,
          "inserted: %.2f", share_of(p, RMG_DIFF_SHIFTED));
    memcpy(p->read, p->good, SIZE);
    memset(p->read + 5000, 0xFF, 4);
    memcpy(p->read + 5007, held, 4);
    p->read[3000] = 0xFF;
    p->read[3007] = 0x21;
    compare(p);
    best = share_of(p, RMG_DIFF_SHIFTED);
    CHECK(best < 0.9 && best + share_of(p, RMG_DIFF_MOVED) + share_of(p, RMG_DIFF_OFFSET) > 0.99,
          "seven bytes too high, or inserted before, or rotated: %.2f are inserted", best);
    memset(p->good + 5000, 0xFF, 4); /* one word, in another place: an order of the lines */
    memset(p->read, 0xFF, SIZE);
    p->read[2900] = 0x21; /* 0x0BB8 there, 0x0B54 here: lines exchanged, several */
    compare(p);
    CHECK(share_of(p, RMG_DIFF_LINE_PERMUTED) > 0.005 && share_of(p, RMG_DIFF_MOVED) > 0.2,
          "in another order: %.3f", share_of(p, RMG_DIFF_LINE_PERMUTED));
    g_free(p);
}

/* Where most of what is in the image is right, it is not another image, however much is wrong. */
static void something_in_common(void)
{
    pair *p = made(0);

    memset(p->good, 0, SIZE);
    for (unsigned i = 0; i < 24; i++)
        p->good[1000 + i] = (uint8_t)(0x81 + i);
    memcpy(p->read, p->good, SIZE);
    for (unsigned i = 0; i < SIZE; i++)
        if ((i < 1000 || i > 1023) && bench_dice(&dice, 6) == 0)
            p->read[i] |= (uint8_t)(1u << bench_dice(&dice, 8));
    compare(p);
    CHECK(first(p)->is.kind == RMG_DIFF_CELLS && share_of(p, RMG_DIFF_UNKNOWN) == 0,
          "a sixth of the zeros read 1: %s", rmg_difference_name(first(p)->is.kind));
    for (unsigned i = 0; i < SIZE; i++)
        p->read[i] = random_byte();
    compare(p);
    CHECK(share_of(p, RMG_DIFF_UNKNOWN) > 0.9, "nothing in common");
    g_free(p);
}

/* Lines that would show a blank part of the image everywhere, against a chip that is silent. */
static void hidden_by_lines(void)
{
    const rmg_compare_part parts[] = {{0x0F, 0, SIZE}, {0xF0, 0, SIZE}};
    pair *p = made(0);

    p->hints.parts = parts;
    p->hints.part_count = 2;
    p->good[0] = 0x5A;
    memset(p->read, 0xFF, SIZE);
    compare(p); /* one word: every line stuck at 1 hides it; touching, it is where it was */
    CHECK(p->found.hidden > 0.4 && p->found.hidden < 0.6, "one word: %.3f", p->found.hidden);
    CHECK(p->found.hidden_bit[0] == p->found.hidden && p->found.hidden_bit[7] == p->found.hidden,
          "at either chip");
    memset(p->good + 4096, 0x5F, 64); /* more in the upper chip: A6 to A11 are left, of 13 */
    compare(p);
    CHECK(p->found.hidden_bit[0] > 0.49 && p->found.hidden_bit[0] < 0.51 &&
              p->found.hidden_bit[7] > 0.49 * 6 / 13 && p->found.hidden_bit[7] < 0.51 * 6 / 13,
          "chips apart: %.3f, %.3f", p->found.hidden_bit[0], p->found.hidden_bit[7]);
    p->good[SIZE - 1] = 0;
    compare(p);
    CHECK(p->found.hidden < 0.01, "at both ends: %.3f", p->found.hidden);
    p->read[5] = 0x5A;
    compare(p);
    CHECK(p->found.hidden == 0, "something is read");
    memcpy(p->good, p->read, SIZE);
    memset(p->good, 0xFF, 4096);
    memset(p->read, 0, SIZE);
    compare(p);
    CHECK(p->found.hidden == 0, "zeros are nowhere in the image");
    g_free(p);
}

static void larger_before_exact(void)
{
    pair *p = made(SIZE);

    for (unsigned i = 0; i < SIZE; i++)
        p->read[i] = p->good[i % (SIZE / 4)];
    compare(p);
    CHECK(share_of(p, RMG_DIFF_REPEATED) + share_of(p, RMG_DIFF_LINES_STUCK) > 0.99 &&
              first(p)->is.seen == first(p)->is.predicted,
          "a quarter, again and again");
    memset(p->read, 0xFF, SIZE);
    memcpy(p->read + 1, p->good, SIZE - 1);
    compare(p);
    found_alone(p, RMG_DIFF_MOVED, "one byte too high");
    CHECK(first(p)->is.offset == 1 && first(p)->is.level == 1, "by one, upwards");
    p->read[100] ^= 0x10;
    p->read[5000] ^= 0x02;
    compare(p);
    CHECK(first(p)->is.kind == RMG_DIFF_MOVED && p->found.left == 2, "with two bits wrong as well");
    for (unsigned i = 0; i < SIZE; i++)
        p->read[i] = p->good[(i | 1u << 4) & ~(1u << 9)];
    compare(p);
    found_alone(p, RMG_DIFF_LINES_STUCK, "two lines at once");
    CHECK(first(p)->is.offset == (1u << 4 | 1u << 9) && first(p)->is.first == 1u << 4,
          "lines 0x%X as 0x%X", (unsigned)first(p)->is.offset, (unsigned)first(p)->is.first);
    CHECK(p->found.proved_lines == (SIZE - 1u - (1u << 4 | 1u << 9)), "the others are proved");
    g_free(p);
}

static void pieces_and_places(void)
{
    pair *p = made(SIZE);

    memcpy(p->read + 2003, p->good + 2000, SIZE - 2003);
    memset(p->read + 2000, 0x5A, 3);
    compare(p);
    found_alone(p, RMG_DIFF_SHIFTED, "three bytes inserted");
    CHECK(first(p)->is.offset == 3 && first(p)->is.level == 1 && first(p)->is.first == 2000,
          "where and how many");
    memcpy(p->read, p->good, SIZE);
    memcpy(p->read + 6000, p->good + 6007, SIZE - 6007);
    compare(p);
    CHECK(first(p)->is.kind == RMG_DIFF_SHIFTED && first(p)->is.level == 0 &&
              first(p)->is.offset == 7,
          "seven are missing: %s", rmg_difference_name(first(p)->is.kind));
    memcpy(p->read, p->good, SIZE);
    memset(p->read + 3001, 0xFF, SIZE - 3001);
    compare(p);
    found_alone(p, RMG_DIFF_BLANK, "programming stopped");
    CHECK(first(p)->is.first >= 3001 && first(p)->is.first < 3011 &&
              first(p)->is.first + first(p)->is.count == SIZE,
          "from where on");
    memcpy(p->read, p->good, SIZE);
    memset(p->read + 1024, 0xFF, 512);
    compare(p);
    found_alone(p, RMG_DIFF_BLANK, "a block");
    CHECK(p->found.proved_bits == 0 && p->found.proved_lines == 0, "then no line is proved");
    g_free(p);
}

static void cells_or_another_version(void)
{
    static const unsigned at[] = {100, 900, 2222, 3333, 4097, 5005, 6000, 7001, 7777, 8000};
    pair *p = made(SIZE);

    for (size_t i = 0; i < COUNT(at); i++) {
        p->good[at[i]] &= (uint8_t) ~(1u << i % 8u);
        p->read[at[i]] = p->good[at[i]] | (uint8_t)(1u << i % 8u);
    }
    compare(p);
    CHECK(first(p)->is.kind == RMG_DIFF_CELLS && first(p)->is.level == 1 &&
              first(p)->is.share > 0.9,
          "bits that fade: %s, %.2f", rmg_difference_name(first(p)->is.kind), first(p)->is.share);
    memcpy(p->read, p->good, SIZE);
    memcpy(p->read + 0x40, "2.19b", 5);
    p->read[SIZE - 1] = (uint8_t)(p->good[SIZE - 1] ^ 0xA5);
    compare(p);
    CHECK(first(p)->is.kind == RMG_DIFF_PATCHED && first(p)->is.count == 2 &&
              first(p)->is.share > 0.9,
          "another version: %s", rmg_difference_name(first(p)->is.kind));
    memcpy(p->read, p->good, SIZE);
    for (unsigned i = 2048; i < 2560; i++)
        p->read[i] |= random_byte() & random_byte();
    compare(p);
    CHECK(first(p)->is.kind == RMG_DIFF_CELLS && first(p)->is.level == 1,
          "a stretch that fades is no line that comes and goes: %s",
          rmg_difference_name(first(p)->is.kind));
    for (unsigned i = 0; i < SIZE; i++)
        p->read[i] = p->good[i] & random_byte();
    compare(p);
    found_alone(p, RMG_DIFF_ANOTHER, "something answers too");
    CHECK(first(p)->is.level == 0, "AND");
    for (unsigned i = 0; i < SIZE; i++)
        p->read[i] = random_byte();
    compare(p);
    found_alone(p, RMG_DIFF_UNKNOWN, "another image altogether");
    g_free(p);
}

/* A chip of fewer data lines answers too: what is wrong is at these alone, as half of its bits are.
 * A bad part of the chip that is read is so at one level of an address line; of a few bits nothing
 * is said. */
static void narrow_ones(void)
{
    pair *p = made(SIZE);

    p->hints.readings = 3;

    for (unsigned width = 1; width <= 4; width *= 4)
        for (unsigned level = 0; level < 2; level++) {
            const uint8_t bits = width == 1 ? 0x20 : 0xF0;

            memcpy(p->read, p->good, SIZE);
            for (unsigned i = 0; i < SIZE; i++) {
                const uint8_t held = random_byte() & bits;

                p->read[i] = level ? p->good[i] | held : p->good[i] & (uint8_t)(held | ~bits);
            }
            compare(p);
            CHECK(first(p)->is.kind == RMG_DIFF_ANOTHER && first(p)->is.level == level &&
                      first(p)->is.share > 0.9,
                  "%u bits, level %u: %s, %.2f", width, level,
                  rmg_difference_name(first(p)->is.kind), first(p)->is.share);
        }
    memcpy(p->read, p->good, SIZE);
    for (unsigned i = 0; i < SIZE; i++)
        if (i & 0x40)
            p->read[i] &= random_byte() | 0xDF;
    compare(p);
    CHECK(first(p)->is.kind != RMG_DIFF_ANOTHER, "a part of the chip: %s",
          rmg_difference_name(first(p)->is.kind));
    memcpy(p->read, p->good, SIZE);
    for (unsigned i = 0; i < SIZE; i += SIZE / 16u)
        p->read[i + 5] &= 0xFE;
    compare(p);
    CHECK(first(p)->is.kind != RMG_DIFF_ANOTHER, "a few bits: %s",
          rmg_difference_name(first(p)->is.kind));
    g_free(p);
}

static void known_images(void)
{
    pair *p = made(SIZE);
    const rmg_words other = words_of(p->other);

    p->hints.others = &other;
    p->hints.other_count = 1;
    for (unsigned level = 0; level < 2; level++) {
        for (unsigned i = 0; i < SIZE; i++)
            p->read[i] = level ? p->good[i] | p->other[i] : p->good[i] & p->other[i];
        compare(p);
        found_alone(p, RMG_DIFF_WITH_IMAGE, "a known one answers too");
        CHECK(first(p)->is.level == level && first(p)->is.other == 0, "which, and how");
    }
    memcpy(p->read, p->other, SIZE);
    compare(p);
    found_alone(p, RMG_DIFF_OTHER_IMAGE, "a known one is there instead");
    g_free(p);
}

/* Every order of lines, with some inverted, is found again. */
static void orders(void)
{
    pair *p = made(SIZE);

    for (unsigned turn = 0; turn < 6; turn++) {
        unsigned order[LINES], invert = turn % 2 ? 0x0A51u : 0;

        dice = turn + 1;
        for (unsigned k = 0; k < LINES; k++) {
            const unsigned other = (unsigned)bench_dice(&dice, k + 1u);

            order[k] = order[other];
            order[other] = k;
        }
        for (unsigned i = 0; i < SIZE; i++) {
            unsigned at = 0;

            for (unsigned k = 0; k < LINES; k++)
                at |= ((i ^ invert) >> k & 1u) << order[k];
            p->read[i] = p->good[at];
        }
        compare(p);
        found_alone(p, RMG_DIFF_LINE_PERMUTED, "address lines");
        for (unsigned k = 0; k < LINES; k++)
            CHECK(first(p)->is.order[k] == order[k], "line %u goes to %u", k,
                  first(p)->is.order[k]);
        CHECK(first(p)->is.invert == invert && !p->found.proved_lines, "inverted ones");
        for (unsigned i = 0; i < SIZE; i++) {
            p->read[i] = 0;
            for (unsigned k = 0; k < 8; k++)
                p->read[i] |= (uint8_t)(((unsigned)p->good[i] >> (k * 3 + turn) % 8 & 1u) << k);
            p->read[i] ^= (uint8_t)(turn << 3);
        }
        compare(p);
        found_alone(p, RMG_DIFF_DATA_PERMUTED, "data lines");
        for (unsigned k = 0; k < 8; k++)
            CHECK(first(p)->is.order[k] == (k * 3 + turn) % 8 &&
                      (first(p)->is.invert >> k & 1u) == (turn << 3 >> k & 1u),
                  "bit %u", k);
    }
    g_free(p);
}

/* Lines that come and go: what they could have made wrong, and did now and then. */
static void now_and_then(void)
{
    pair *p = made(SIZE);
    const rmg_words unsteady = words_of(p->unsteady);
    unsigned seen = 0;

    p->hints.unsteady = &unsteady;
    p->hints.readings = 3;
    dice = 5;
    for (unsigned i = 0; i < SIZE; i++)
        if (bench_dice(&dice, 40) == 0) {
            const uint8_t differs = p->good[i] ^ p->good[i | 1u << 7];

            p->unsteady[i] = differs;
            seen += differs != 0;
            if (bench_dice(&dice, 30) == 0)
                p->read[i] = p->good[i | 1u << 7];
        }
    compare(p);
    CHECK(first(p)->is.kind == RMG_DIFF_LINE_STUCK && first(p)->is.a == 7 &&
              first(p)->is.level == 1 && first(p)->is.sometimes && first(p)->is.share > 0.9,
          "an address line: %s", rmg_difference_name(first(p)->is.kind));
    CHECK(seen && p->found.proved_lines == SIZE - 1u - (1u << 7) && p->found.proved_bits == 0xFF,
          "it is not proved, all others are");
    memcpy(p->read, p->good, SIZE);
    memset(p->unsteady, 0, SIZE);
    for (unsigned i = 0; i < SIZE; i++)
        if (bench_dice(&dice, 100) == 0)
            p->unsteady[i] = p->good[i] & 0x08;
    compare(p);
    CHECK(first(p)->is.kind == RMG_DIFF_DATA_STUCK && first(p)->is.a == 3 && !first(p)->is.level &&
              first(p)->is.sometimes,
          "a data line");
    CHECK(p->found.proved_bits == 0xF7, "0x%X", (unsigned)p->found.proved_bits);
    p->hints.late = true;
    compare(p);
    CHECK(first(p)->is.kind == RMG_DIFF_LATE && !p->found.left_touched,
          "what is late is said first");
    g_free(p);
}

/* A line is proved by words that could have shown it wrong: twenty are enough, nineteen are not. */
static void proof_is_counted(void)
{
    pair *p = made(SIZE);

    for (unsigned zeros = RMG_PROVED_WORDS - 1; zeros <= RMG_PROVED_WORDS; zeros++) {
        for (unsigned i = 0; i < SIZE; i++)
            p->good[i] |= 0x20;
        for (unsigned i = 0; i < zeros; i++)
            p->good[100 + 37 * i] &= (uint8_t)~0x20;
        memcpy(p->read, p->good, SIZE);
        compare(p);
        CHECK(p->found.shows_bit[5] == zeros && p->found.shows_bit[0] == RMG_SHOWS_MOST &&
                  (p->found.proved_bits >> 5 & 1u) == (zeros == RMG_PROVED_WORDS),
              "%u zeros: %u", zeros, p->found.shows_bit[5]);
    }
    for (unsigned i = 0; i < SIZE; i++)
        p->good[i] = (uint8_t)((p->good[i] & 0xFD) | (p->good[i] & 1u) << 1);
    memcpy(p->read, p->good, SIZE);
    compare(p);
    CHECK(!p->found.shows_bit[0] && !p->found.shows_bit[1] && (p->found.proved_bits & 3u) == 0 &&
              p->found.shows_bit[2],
          "two bits that are always alike prove neither: they could touch");
    memset(p->good, 0xFF, SIZE);
    memset(p->read, 0xFF, SIZE);
    compare(p);
    CHECK(!p->found.proved_bits && !p->found.proved_lines && !p->found.shows_line[3],
          "nothing proves nothing");
    for (unsigned i = 0; i < 2; i++)
        p->good[16u << i | i] = 0x40;
    memcpy(p->read, p->good, SIZE);
    for (unsigned i = 0; i < SIZE; i++)
        p->read[i] = p->good[i | 1u << 12];
    compare(p);
    CHECK(first(p)->alike_count > 0 && first(p)->is.share < 0.9,
          "few words: a group, not one: %s, %.2f", rmg_difference_name(first(p)->is.kind),
          first(p)->is.share);
    g_free(p);
}

/* Where a line, or two, would make address i go. kind 0: stuck; 1: touching; 2: exchanged. */
static unsigned goes_to(unsigned i, unsigned kind, unsigned a, unsigned b, unsigned level)
{
    const unsigned x = i >> a & 1u, y = i >> b & 1u, rest = i & ~(1u << a | 1u << b);

    if (kind == 0)
        return (i & ~(1u << a)) | level << a;
    if (kind == 1)
        return rest | (level ? x | y : x & y) << a | (level ? x | y : x & y) << b;
    return rest | x << b | y << a;
}

/* How many words could show an address line wrong: counted here for every fault, on images with
 * more and more in them. */
static void words_that_show(void)
{
    pair *p = made(0);
    const unsigned lines = 9, size = 1u << 9;
    const rmg_words good = {p->good, size, 8, 1, false}, read = {p->read, size, 8, 1, false};

    for (unsigned turn = 0; turn < 12; turn++) {
        for (unsigned n = 0; n < 1u << turn && n < size; n++)
            p->good[bench_dice(&dice, size)] = (uint8_t)bench_dice(&dice, turn < 6 ? 3 : 256);
        memcpy(p->read, p->good, SIZE);
        CHECK(rmg_compare(&good, &read, NULL, &p->found) == RMG_OK, "compared");
        for (unsigned a = 0; a < lines; a++) {
            unsigned least = RMG_SHOWS_MOST;

            for (unsigned kind = 0; kind < 3; kind++)
                for (unsigned b = 0; b < lines; b++)
                    for (unsigned level = 0; level < 2; level++) {
                        unsigned count = 0;

                        if (kind && b == a)
                            continue;
                        for (unsigned i = 0; i < size; i++)
                            count += p->good[goes_to(i, kind, a, b, level)] != p->good[i];
                        least = MIN(least, count);
                    }
            CHECK(p->found.shows_line[a] == least, "turn %u, A%u: %u, %u by every fault", turn, a,
                  p->found.shows_line[a], least);
        }
    }
    g_free(p);
}

/* What the image says nothing about is neither wrong nor proof. */
static void partial(void)
{
    pair *p = made(SIZE);
    const rmg_words known = words_of(p->known);

    p->hints.known = &known;
    memset(p->known, 0xFF, SIZE / 2);
    for (unsigned i = SIZE / 2; i < SIZE; i++)
        p->read[i] = random_byte();
    compare(p);
    CHECK(!p->found.wrong_bits && !p->found.step_count && !p->found.left_touched,
          "the rest is not compared");
    CHECK(p->found.proved_bits == 0xFF && !(p->found.proved_lines >> (LINES - 1u) & 1u),
          "and the highest line is not proved");
    p->read[10] ^= 1;
    compare(p);
    CHECK(p->found.wrong_bits == 1, "what is compared is");
    g_free(p);
}

/* Images whose length is no power of two: nothing beyond them is looked at. */
static void odd_lengths(void)
{
    static const unsigned sizes[] = {1, 3, 100, 5000, SIZE - 1};

    for (size_t i = 0; i < COUNT(sizes); i++) {
        const unsigned size = sizes[i];
        uint8_t *good = g_malloc(size), *read = g_malloc(size); /* no room behind them */
        const rmg_words a = {good, size, 8, 1, false}, b = {read, size, 8, 1, false};
        rmg_comparison c;

        dice = 3;
        for (unsigned k = 0; k < size; k++)
            good[k] = random_byte();
        for (unsigned k = 0; k < size; k++)
            read[k] = good[k] & 0xFB;
        good[0] |= 4;
        CHECK(rmg_compare(&a, &b, NULL, &c) == RMG_OK && c.wrong_bits, "%u", size);
        CHECK(size < 100 || (c.step_count == 1 && c.steps[0].is.kind == RMG_DIFF_DATA_STUCK &&
                             c.steps[0].is.a == 2 && !c.left),
              "%u bytes: %zu steps", size, c.step_count);
        g_free(good);
        g_free(read);
    }
}

/* Two chips side by side: a line of one of them, and of both. */
static void chip_by_chip(void)
{
    static const rmg_compare_part parts[] = {{0xFF, 0, SIZE / 2}, {0xFF00, 0, SIZE / 2}};
    pair *p = made(SIZE);
    const rmg_words good = {p->good, SIZE / 2, 16, 2, false},
                    read = {p->read, SIZE / 2, 16, 2, false};
    const rmg_compare_hints hints = {.parts = parts, .part_count = 2};

    for (unsigned i = 0; i < SIZE / 2; i++)
        p->read[2 * i + 1] = p->good[2 * (i | 1u << 5) + 1];
    CHECK(rmg_compare(&good, &read, &hints, &p->found) == RMG_OK, "compared");
    found_alone(p, RMG_DIFF_LINE_STUCK, "one of two");
    CHECK(first(p)->is.part == 2 && first(p)->is.a == 5, "the second");
    for (unsigned i = 0; i < SIZE / 2; i++)
        p->read[2 * i] = p->good[2 * (i | 1u << 5)];
    CHECK(rmg_compare(&good, &read, &hints, &p->found) == RMG_OK, "compared");
    found_alone(p, RMG_DIFF_LINE_STUCK, "both");
    CHECK(first(p)->is.part == 0 && first(p)->is.a == 5, "one line for both");
    g_free(p);
}

/* Counted eight bytes at a time, and one by one: the same. */
static void counted(void)
{
    static const unsigned sizes[] = {1, 7, 1024, 1025, 5000, SIZE};
    pair *p = made(SIZE);

    for (size_t turn = 0; turn < COUNT(sizes); turn++) {
        const unsigned size = sizes[turn];
        rmg_comparison wanted = {0};

        for (unsigned i = 0; i < size; i++) {
            p->read[i] = turn % 2 ? random_byte() : p->good[i];
            if (bench_dice(&dice, 50) == 0)
                p->read[i] ^= (uint8_t)(1u << bench_dice(&dice, 8));
            for (unsigned bit = 0; bit < 8; bit++)
                if ((unsigned)(p->read[i] ^ p->good[i]) >> bit & 1u) {
                    wanted.by_bit[bit][(unsigned)p->read[i] >> bit & 1u]++;
                    wanted.wrong_bits++;
                }
            wanted.wrong_words += p->read[i] != p->good[i];
            for (unsigned k = 0; k < LINES; k++)
                wanted.by_line[k][i >> k & 1u] += p->read[i] != p->good[i];
        }
        rmg_compare_counts(p->good, p->read, size, &p->found);
        CHECK(p->found.wrong_words == wanted.wrong_words &&
                  p->found.wrong_bits == wanted.wrong_bits && p->found.words == size,
              "%u bytes: %u differ", size, (unsigned)p->found.wrong_words);
        CHECK(memcmp(p->found.by_bit, wanted.by_bit, sizeof wanted.by_bit) == 0, "by bit");
        for (unsigned k = 0; k < p->found.lines && k < LINES; k++)
            CHECK(p->found.by_line[k][0] == wanted.by_line[k][0] &&
                      p->found.by_line[k][1] == wanted.by_line[k][1],
                  "%u bytes, A%u: %u and %u", size, k, (unsigned)p->found.by_line[k][0],
                  (unsigned)p->found.by_line[k][1]);
        for (size_t n = 0; n < p->found.first_count; n++)
            CHECK(p->found.first[n].good == p->good[p->found.first[n].word] &&
                      p->found.first[n].good != p->found.first[n].read,
                  "the first ones");
    }
    g_free(p);
}

CU_TestInfo compare_tests[] = {
    {"counted", counted},
    {"larger before exact", larger_before_exact},
    {"pieces and places", pieces_and_places},
    {"somewhere between", somewhere_between},
    {"hardly anything", hardly_anything},
    {"something in common", something_in_common},
    {"hidden by lines", hidden_by_lines},
    {"cells or another version", cells_or_another_version},
    {"another chip, of fewer lines", narrow_ones},
    {"known images", known_images},
    {"orders of lines", orders},
    {"now and then", now_and_then},
    {"proof is counted", proof_is_counted},
    {"words that show", words_that_show},
    {"partial images", partial},
    {"odd lengths", odd_lengths},
    {"chip by chip", chip_by_chip},
    CU_TEST_INFO_NULL,
};
