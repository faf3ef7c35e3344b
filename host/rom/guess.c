/* The explanations that a difference can have, and what each makes of a word. */
#include <glib.h>
#include <string.h>

#include "guess.h"

#define WINDOW      12u /* words that must match where an offset is guessed */
#define OFFSETS     8u
#define PERMUTATION 4096u /* words that a permutation is guessed from */

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

static rmg_word at(const compare *c, uint64_t i, uint64_t instead)
{
    return c->predicted[instead < c->count ? instead : i];
}

static rmg_word permuted(const rmg_explanation *e, uint8_t bits, rmg_word value)
{
    rmg_word word = 0;

    for (uint8_t i = 0; i < bits; i++)
        word |= (value >> e->order[i] & 1u) << i;
    return word;
}

rmg_word rmg_predict(const compare *c, const rmg_explanation *e, uint64_t i)
{
    const rmg_word as_is = c->predicted[i];

    switch (e->kind) {
    case RMG_DIFF_DATA_STUCK:
        return (rmg_word)force(as_is, e->a, e->level);
    case RMG_DIFF_DATA_SWAPPED:
        return (rmg_word)exchange(as_is, e->a, e->b);
    case RMG_DIFF_DATA_SHORTED:
        return (rmg_word)join(as_is, e->a, e->b, e->level);
    case RMG_DIFF_DATA_PERMUTED:
        return permuted(e, c->bits, as_is);
    case RMG_DIFF_DATA_INVERTED:
        return ~as_is & c->mask;
    case RMG_DIFF_LINE_STUCK:
        return at(c, i, force(i, e->a, e->level));
    case RMG_DIFF_LINE_SWAPPED:
        return at(c, i, exchange(i, e->a, e->b));
    case RMG_DIFF_LINE_SHORTED:
        return at(c, i, join(i, e->a, e->b, e->level));
    case RMG_DIFF_LINE_INVERTED:
        return at(c, i, i ^ (uint64_t)1 << e->a);
    case RMG_DIFF_BYTES_SWAPPED:
        return ((as_is & (rmg_word)UINT64_C(0x00FF00FF00FF00FF)) << 8) |
               (as_is >> 8 & (rmg_word)UINT64_C(0x00FF00FF00FF00FF));
    case RMG_DIFF_OFFSET:
        return at(c, i, (i + e->offset) % c->count);
    case RMG_DIFF_HALF_BLANK:
        return (i >= c->count / 2) == (e->a == 1) ? c->mask : as_is;
    case RMG_DIFF_OTHER_IMAGE:
        return rmg_words_get(&c->hints->others[e->other], i) & c->mask;
    default:
        return as_is;
    }
}

typedef void (*try_function)(void *context, rmg_explanation *e);

static void data_lines(const compare *c, try_function try, void *context)
{
    for (uint8_t a = 0; a < c->bits; a++)
        for (uint8_t level = 0; level < 2; level++)
            try(context, &(rmg_explanation){.kind = RMG_DIFF_DATA_STUCK, .a = a, .level = level});
    for (uint8_t a = 0; a < c->bits; a++)
        for (uint8_t b = (uint8_t)(a + 1); b < c->bits; b++) {
            try(context, &(rmg_explanation){.kind = RMG_DIFF_DATA_SWAPPED, .a = a, .b = b});
            for (uint8_t level = 0; level < 2; level++)
                try(context, &(rmg_explanation){
                                 .kind = RMG_DIFF_DATA_SHORTED, .a = a, .b = b, .level = level});
        }
    try(context, &(rmg_explanation){.kind = RMG_DIFF_DATA_INVERTED});
}

static void address_lines(const compare *c, try_function try, void *context)
{
    for (uint8_t a = 0; a < c->lines; a++)
        for (uint8_t level = 0; level < 2; level++)
            try(context, &(rmg_explanation){.kind = RMG_DIFF_LINE_STUCK, .a = a, .level = level});
    for (uint8_t a = 0; a < c->lines; a++)
        for (uint8_t b = (uint8_t)(a + 1); b < c->lines; b++) {
            try(context, &(rmg_explanation){.kind = RMG_DIFF_LINE_SWAPPED, .a = a, .b = b});
            for (uint8_t level = 0; level < 2; level++)
                try(context, &(rmg_explanation){
                                 .kind = RMG_DIFF_LINE_SHORTED, .a = a, .b = b, .level = level});
        }
    for (uint8_t a = 0; a < c->lines; a++)
        try(context, &(rmg_explanation){.kind = RMG_DIFF_LINE_INVERTED, .a = a});
}

/* For each bit read, the one bit of the image that it nearly always equals. */
static void permutation(const compare *c, try_function try, void *context)
{
    const uint64_t step = MAX(c->count / PERMUTATION, 1u), words = c->count / step;
    rmg_explanation e = {.kind = RMG_DIFF_DATA_PERMUTED};
    rmg_word used = 0;
    unsigned moved = 0;

    for (uint8_t i = 0; i < c->bits; i++) {
        uint64_t best = 0;

        for (uint8_t k = 0; k < c->bits; k++) {
            uint64_t equal = 0;

            for (uint64_t w = 0; w < words; w++)
                equal += ~(c->read[w * step] >> i ^ c->predicted[w * step] >> k) & 1u;
            if (equal > best || (equal == best && k == i)) {
                best = equal;
                e.order[i] = k;
            }
        }
        used |= (rmg_word)1 << e.order[i];
        moved += e.order[i] != i;
    }
    if (moved > 2 && (unsigned)__builtin_popcountll(used) == c->bits)
        try(context, &e);
}

static bool telling(const rmg_word *window)
{
    unsigned changes = 0;

    for (unsigned i = 1; i < WINDOW; i++)
        changes += window[i] != window[i - 1];
    return changes > WINDOW / 2;
}

/* Where some characteristic stretches of what was read are in the image. */
static void offsets(const compare *c, try_function try, void *context)
{
    unsigned tried = 0;

    for (uint64_t from = 0; tried < OFFSETS && from + WINDOW < c->count;
         from += MAX(c->count / 64u, 1u)) {
        if (!telling(&c->read[from]))
            continue;
        tried++;
        for (uint64_t i = 0; i + WINDOW < c->count; i++)
            if (i != from && c->predicted[i] == c->read[from] &&
                memcmp(&c->predicted[i], &c->read[from], WINDOW * sizeof *c->read) == 0) {
                try(context, &(rmg_explanation){.kind = RMG_DIFF_OFFSET,
                                                .offset = (i + c->count - from) % c->count});
                break;
            }
    }
}

void rmg_each_explanation(const compare *c, try_function try, void *context)
{
    data_lines(c, try, context);
    address_lines(c, try, context);
    if (c->bits >= 16)
        try(context, &(rmg_explanation){.kind = RMG_DIFF_BYTES_SWAPPED});
    permutation(c, try, context);
    for (uint8_t half = 0; half < 2; half++)
        try(context, &(rmg_explanation){.kind = RMG_DIFF_HALF_BLANK, .a = half});
    offsets(c, try, context);
    for (size_t i = 0; i < c->hints->other_count; i++)
        try(context, &(rmg_explanation){.kind = RMG_DIFF_OTHER_IMAGE, .other = i});
}
