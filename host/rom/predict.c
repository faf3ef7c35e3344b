/* What each explanation makes of a word. */
#include "guess.h"

static uint64_t exchange(uint64_t value, uint8_t a, uint8_t b)
{
    const uint64_t x = (value >> a ^ value >> b) & 1u;

    return value ^ (x << a | x << b);
}

/* Both bits take their AND (level 0) or OR (level 1). */
static uint64_t join(uint64_t value, uint8_t a, uint8_t b, uint8_t level)
{
    const uint64_t x = value >> a & 1u, y = value >> b & 1u, both = level ? x | y : x & y;

    value &= ~((uint64_t)1 << a | (uint64_t)1 << b);
    return value | both << a | both << b;
}

static uint64_t force(uint64_t value, uint8_t a, uint8_t level)
{
    return (value & ~((uint64_t)1 << a)) | (uint64_t)level << a;
}

static uint64_t permuted(const rmg_explanation *e, unsigned lines, uint64_t value)
{
    uint64_t word = 0;

    for (unsigned i = 0; i < lines; i++)
        word |= (value >> e->order[i] & 1u) << i;
    return word ^ e->invert;
}

/* Line i goes to the chip's line order[i]. */
static uint64_t seen_address(const rmg_explanation *e, unsigned lines, uint64_t value)
{
    uint64_t address = 0;

    value ^= e->invert;
    for (unsigned i = 0; i < lines; i++)
        address |= (value >> i & 1u) << e->order[i];
    return address;
}

static unsigned lines_of(uint64_t count)
{
    unsigned lines = 0;

    while (lines < 63 && (count - 1u) >> lines)
        lines++;
    return lines;
}

uint64_t rmg_source(const rmg_explanation *e, uint64_t i, uint64_t count)
{
    switch (e->kind) {
    case RMG_DIFF_LINE_STUCK:
        return force(i, e->a, e->level);
    case RMG_DIFF_LINE_SWAPPED:
        return exchange(i, e->a, e->b);
    case RMG_DIFF_LINE_SHORTED:
        return join(i, e->a, e->b, e->level);
    case RMG_DIFF_LINE_INVERTED:
        return i ^ (uint64_t)1 << e->a;
    case RMG_DIFF_LINE_PERMUTED:
        return seen_address(e, lines_of(count), i);
    case RMG_DIFF_LINES_STUCK:
        return (i & ~e->offset) | e->first;
    case RMG_DIFF_LATE:
        return i ? i - 1u : i;
    case RMG_DIFF_OFFSET:
        return (i + e->offset) % count;
    case RMG_DIFF_REPEATED:
        return e->offset << e->a | (i & (((uint64_t)1 << e->a) - 1u));
    case RMG_DIFF_SHIFTED:
        if (i < e->first)
            return i;
        if (!e->level)
            return i + e->offset < count ? i + e->offset : UINT64_MAX;
        return i < e->first + e->offset ? UINT64_MAX : i - e->offset;
    default:
        return i;
    }
}

static rmg_word both(rmg_word a, rmg_word b, uint8_t level)
{
    return level ? a | b : a & b;
}

/* What a kind that leaves words in their place makes of one. */
static rmg_word in_place(const compare *c, const rmg_explanation *e, uint64_t i)
{
    const rmg_word as_is = c->predicted[i];

    switch (e->kind) {
    case RMG_DIFF_DATA_FLOATS: /* it can read anything */
        return as_is ^ (rmg_word)((rmg_word)1 << e->a);
    case RMG_DIFF_DATA_STUCK:
        return (rmg_word)force(as_is, e->a, e->level);
    case RMG_DIFF_DATA_SWAPPED:
        return (rmg_word)exchange(as_is, e->a, e->b);
    case RMG_DIFF_DATA_SHORTED:
        return (rmg_word)join(as_is, e->a, e->b, e->level);
    case RMG_DIFF_DATA_PERMUTED:
        return (rmg_word)permuted(e, c->bits, as_is);
    case RMG_DIFF_DATA_INVERTED:
        return ~as_is & c->mask;
    case RMG_DIFF_BYTES_SWAPPED:
        return ((as_is & (rmg_word)UINT64_C(0x00FF00FF00FF00FF)) << 8) |
               (as_is >> 8 & (rmg_word)UINT64_C(0x00FF00FF00FF00FF));
    case RMG_DIFF_HALF_BLANK:
        return (i >= c->count / 2) == (e->a == 1) ? c->mask : as_is;
    case RMG_DIFF_BLANK:
        return i - e->first < e->count ? (e->level ? c->mask : 0) : as_is;
    case RMG_DIFF_MOVED:
        if (e->level)
            return i < e->offset ? c->mask : c->predicted[i - e->offset];
        return i + e->offset < c->count ? c->predicted[i + e->offset] : c->mask;
    case RMG_DIFF_OTHER_IMAGE:
        return rmg_words_get(&c->hints->others[e->other], i) & c->mask;
    case RMG_DIFF_WITH_IMAGE:
        return both(as_is, rmg_words_get(&c->hints->others[e->other], i), e->level) & c->mask;
    default:
        return as_is;
    }
}

rmg_word rmg_predict(const compare *c, const rmg_explanation *e, uint64_t i, rmg_word *open)
{
    const rmg_compare_part part = part_of(c, e->part);
    const rmg_word as_is = c->predicted[i];
    rmg_word told;

    *open = 0;
    if (i - part.first >= part.count)
        return as_is;
    if (rmg_difference_of_lines(e->kind) || e->kind == RMG_DIFF_OFFSET ||
        e->kind == RMG_DIFF_REPEATED || e->kind == RMG_DIFF_SHIFTED || e->kind == RMG_DIFF_LATE ||
        e->kind == RMG_DIFF_LINES_STUCK) {
        const uint64_t at = rmg_source(e, i - part.first, part.count);

        if (at >= part.count && e->kind == RMG_DIFF_SHIFTED && e->b)
            return c->mask;
        if (at >= part.count) { /* past the end, or between */
            *open = part.bits & mask_at(c, i);
            return as_is;
        }
        told = c->predicted[part.first + at];
        if (c->known)
            *open = part.bits & ~c->known[part.first + at] & mask_at(c, i);
    } else {
        told = in_place(c, e, i);
    }
    told = (told & part.bits) | (as_is & ~part.bits);
    if (e->sometimes || e->kind == RMG_DIFF_DATA_FLOATS)
        *open |= (told ^ as_is) & mask_at(c, i);
    return told;
}
