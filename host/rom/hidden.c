/* A chip of which nothing but ones, or nothing but zeros, is read: silent, blank, or seen through
 * an address line that is stuck, or touches another, so that only a blank part of it is ever shown.
 */
#include <math.h>

#include "guess.h"

#define SILENCE 2.0 /* bits: nothing is as common as a chip that does not answer, or is blank */

/* Is only one level read of these bits? */
static bool constant(const compare *c, const rmg_compare_part *part, rmg_word *level)
{
    *level = c->read[part->first] & part->bits;
    if (*level && *level != part->bits)
        return false;
    for (uint64_t i = part->first; i < part->first + part->count; i++)
        if ((c->read[i] & part->bits) != *level)
            return false;
    return true;
}

static bool shows_only(const compare *c, const rmg_compare_part *part, const rmg_explanation *e,
                       rmg_word level)
{
    for (uint64_t i = 0; i < part->count; i++) {
        const uint64_t at = rmg_source(e, i, part->count);

        if (at < part->count && ((c->predicted[part->first + at] ^ level) & part->bits &
                                 mask_at(c, part->first + at)) != 0)
            return false;
    }
    return true;
}

static double odds(const compare *c, const rmg_compare_part *part)
{
    double sum = 0;
    rmg_word level;
    uint8_t lines = 0;

    if (!constant(c, part, &level))
        return 0;
    while (lines < 63 && (part->count - 1u) >> lines)
        lines++;
    for (uint8_t a = 0; a < lines; a++)
        for (uint8_t b = a; b < lines; b++)
            for (uint8_t high = 0; high < 2; high++) {
                const rmg_explanation e = {.kind =
                                               a == b ? RMG_DIFF_LINE_STUCK : RMG_DIFF_LINE_SHORTED,
                                           .a = a,
                                           .b = b,
                                           .level = high};

                if (shows_only(c, part, &e, level))
                    sum += exp2(SILENCE - rmg_cost_of_kind(c, &e));
            }
    return sum;
}

void rmg_find_hidden(const compare *c, rmg_comparison *r)
{
    const rmg_compare_part all = part_of(c, 0);

    r->hidden = odds(c, &all);
    for (uint8_t bit = 0; bit < c->bits; bit++)
        r->hidden_bit[bit] = r->hidden;
    for (uint8_t n = 1; n <= c->hints->part_count; n++) {
        const rmg_compare_part part = part_of(c, n);
        const double of_part = odds(c, &part);

        for (uint8_t bit = 0; bit < c->bits; bit++)
            if (part.bits >> bit & 1u)
                r->hidden_bit[bit] = of_part;
    }
}
