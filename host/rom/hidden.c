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

/* A line stuck at a level shows the words where it has that level, each of them in its own place
 * too; two that touch show those where both are alike. So a blank part is all that is seen where no
 * word that is not blank is one of these. */
static double odds(const compare *c, const rmg_compare_part *part)
{
    uint64_t has[2] = {0, 0}, alike[64] = {0}; /* lines, of words that are not blank */
    double sum = 0;
    rmg_word level;
    uint8_t lines = 0;

    if (!constant(c, part, &level))
        return 0;
    while (lines < 63 && (part->count - 1u) >> lines)
        lines++;
    for (uint64_t i = 0; i < part->count; i++) {
        if (!((c->predicted[part->first + i] ^ level) & part->bits & mask_at(c, part->first + i)))
            continue;
        has[0] |= ~i;
        has[1] |= i;
        for (uint8_t a = 0; a < lines; a++)
            alike[a] |= i >> a & 1u ? i : ~i;
    }
    for (uint8_t a = 0; a < lines; a++)
        for (uint8_t b = a; b < lines; b++)
            for (uint8_t high = 0; high < 2; high++) {
                const rmg_explanation e = {.kind =
                                               a == b ? RMG_DIFF_LINE_STUCK : RMG_DIFF_LINE_SHORTED,
                                           .a = a,
                                           .b = b,
                                           .level = high};

                if (!((a == b ? has[high] : alike[a]) >> b & 1u))
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
