/* The explanations that a difference can have: lines one by one and in pairs, now and then too, and
 * other images. */
#include <glib.h>

#include "guess.h"

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
        rmg_each_order(c, part, try, context);
    }
    if (c->bits >= 16)
        try(context, &(rmg_explanation){.kind = RMG_DIFF_BYTES_SWAPPED});
    rmg_each_place(c, try, context);
    other_images(c, try, context);
}
