/* The explanations that a difference can have: lines one by one and in pairs, now and then too, and
 * other images. */
#include <glib.h>

#include "guess.h"

#define LOOKS 1024u /* words that a line's effect is looked for at */

/* Always, and now and then. */
static void try_both(rmg_explanation e, try_function try, void *context)
{
    rmg_explanation sometimes = e;

    try(context, &e);
    sometimes.sometimes = true;
    try(context, &sometimes);
}

static void data_lines(const compare *c, try_function try, void *context)
{
    for (uint8_t a = 0; a < c->bits; a++) {
        if (!(c->mask >> a & 1u))
            continue;
        for (uint8_t level = 0; level < 2; level++)
            try_both((rmg_explanation){.kind = RMG_DIFF_DATA_STUCK, .a = a, .level = level}, try,
                     context);
        try(context, &(rmg_explanation){.kind = RMG_DIFF_DATA_FLOATS, .a = a, .sometimes = true});
        for (uint8_t b = (uint8_t)(a + 1); b < c->bits; b++) {
            if (!(c->mask >> b & 1u))
                continue;
            try(context, &(rmg_explanation){.kind = RMG_DIFF_DATA_SWAPPED, .a = a, .b = b});
            for (uint8_t level = 0; level < 2; level++)
                try_both(
                    (rmg_explanation){
                        .kind = RMG_DIFF_DATA_SHORTED, .a = a, .b = b, .level = level},
                    try, context);
        }
    }
    try(context, &(rmg_explanation){.kind = RMG_DIFF_DATA_INVERTED});
}

static void address_lines(const compare *c, uint8_t part, try_function try, void *context)
{
    const uint64_t count = part_of(c, part).count;
    uint8_t lines = 0;

    while (lines < 63 && (count - 1u) >> lines)
        lines++;
    for (uint8_t a = 0; a < lines; a++) {
        for (uint8_t level = 0; level < 2; level++)
            try_both(
                (rmg_explanation){
                    .kind = RMG_DIFF_LINE_STUCK, .part = part, .a = a, .level = level},
                try, context);
        for (uint8_t b = (uint8_t)(a + 1); b < lines; b++) {
            try_both((rmg_explanation){.kind = RMG_DIFF_LINE_SWAPPED, .part = part, .a = a, .b = b},
                     try, context);
            for (uint8_t level = 0; level < 2; level++)
                try_both((rmg_explanation){.kind = RMG_DIFF_LINE_SHORTED,
                                           .part = part,
                                           .a = a,
                                           .b = b,
                                           .level = level},
                         try, context);
        }
        try(context, &(rmg_explanation){.kind = RMG_DIFF_LINE_INVERTED, .part = part, .a = a});
    }
}

/* Lines that make no difference in what was read, though they should: several at once, at each
 * combination of levels. */
static void lines_without_effect(const compare *c, uint8_t number, try_function try, void *context)
{
    const rmg_compare_part part = part_of(c, number);
    const uint64_t step = part.count / LOOKS | 1u;
    rmg_explanation e = {.kind = RMG_DIFF_LINES_STUCK, .part = number};

    for (uint8_t k = 0; k < 63 && (part.count - 1u) >> k; k++) {
        uint64_t read = 0, good = 0;

        for (uint64_t i = 0; i < part.count; i += step) {
            const uint64_t at = part.first + i, other = part.first + (i ^ (uint64_t)1 << k);

            if (other >= part.first + part.count)
                continue;
            read += ((c->read[at] ^ c->read[other]) & part.bits) != 0;
            good += ((c->predicted[at] ^ c->predicted[other]) & part.bits) != 0;
        }
        if (good && 8u * read < good)
            e.offset |= (uint64_t)1 << k;
    }
    if (__builtin_popcountll(e.offset) < 2 || __builtin_popcountll(e.offset) > 5)
        return;
    for (e.first = e.offset;; e.first = (e.first - 1u) & e.offset) { /* every part of the mask */
        rmg_explanation at = e;

        try(context, &at);
        if (!e.first)
            return;
    }
}

static void other_images(const compare *c, try_function try, void *context)
{
    for (size_t i = 0; i < c->hints->other_count; i++)
        for (uint8_t part = 0; part <= c->hints->part_count; part++) {
            try(context,
                &(rmg_explanation){.kind = RMG_DIFF_OTHER_IMAGE, .part = part, .other = i});
            for (uint8_t level = 0; level < 2; level++)
                try(context,
                    &(rmg_explanation){
                        .kind = RMG_DIFF_WITH_IMAGE, .part = part, .level = level, .other = i});
        }
}

void rmg_each_explanation(const compare *c, try_function try, void *context)
{
    data_lines(c, try, context);
    for (uint8_t part = 0; part <= c->hints->part_count; part++) {
        address_lines(c, part, try, context);
        lines_without_effect(c, part, try, context);
        rmg_each_order(c, part, try, context);
    }
    if (c->bits >= 16)
        try(context, &(rmg_explanation){.kind = RMG_DIFF_BYTES_SWAPPED});
    rmg_each_place(c, try, context);
    if (c->hints->in_order)
        try(context, &(rmg_explanation){.kind = RMG_DIFF_LATE, .sometimes = true});
    other_images(c, try, context);
}
