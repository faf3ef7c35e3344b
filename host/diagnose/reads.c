/* Which reads of a march failed, and how much that tells of a place which can spoil some of them
 * only. */
#include <math.h>

#include "reads.h"

#define ODD    (-12.0) /* log of the chance of a failure where the place cannot give it */
#define BURSTS 0.55    /* elements are not independent: as of where failures fell; ... */
#define SPREAD 32      /* ... but where as many bits failed all over the bank, it was no burst */
#define ALL_OVER                                                                                   \
    2.0 /* ... and an element of the same level in which nothing failed says as much               \
         */

bool rmg_is_tested(const rmg_run *run, rmg_addr address)
{
    for (size_t i = 0; i < run->tested_count; i++)
        if (address >= run->tested[i].first && address <= run->tested[i].last)
            return true;
    return false;
}

bool rmg_begin_variant(const weigher *w, const rmg_step *step, unsigned number, uint64_t pass,
                       variant *v)
{
    rmg_order order;

    return (step->kind == RMG_STEP_MARCH || step->kind == RMG_STEP_HOLD) &&
           number < rmg_step_variants(step, w->board) &&
           !rmg_step_pattern(step, number, w->board, w->run->tested, (uint8_t)w->run->tested_count,
                             w->run->plan.seed, pass, &v->ground, v->terms, &order);
}

const rmg_step *rmg_step_of_reads(const weigher *w, const failed_read *reads)
{
    const size_t number = reads->step >> 16 & 0xFFu;

    /* passes from the last number on are counted as that one */
    return number < w->run->steps.count && reads->step >> 24 < UINT16_MAX
               ? &w->run->steps.list[number]
               : NULL;
}

static gint by_step(gconstpointer a, gconstpointer b)
{
    const failed_read *x = a, *y = b;

    return x->step != y->step ? rmg_by_number(x->step, y->step)
                              : rmg_by_number(x->address, y->address);
}

/* How much an element counts: what failed all over the bank was no burst. */
static double worth_of_element(const weigher *w, const failed_read *reads, guint count)
{
    const rmg_where *where = &w->board->bank_wheres[reads->bank];
    const rmg_addr words = (where->last & ~where->mask) - (where->first & ~where->mask);
    rmg_addr low = reads->address, high = low;

    for (guint i = 0; i < count; i++) {
        low = MIN(low, reads[i].address);
        high = MAX(high, reads[i].address);
    }
    return count >= SPREAD && high - low > words / 2u ? ALL_OVER : BURSTS;
}

double rmg_weigh_reads(const weigher *w, const site *s, GArray *list, double ratio,
                       judge_reads judge)
{
    const failed_read *reads;
    spoils *each = g_new0(spoils, list->len + 1u);
    double chance = 0;

    g_array_sort(list, by_step);
    reads = (const failed_read *)(const void *)list->data;
    for (guint i = 0, n; i < list->len; i += n) {
        double wrong = 0;

        for (n = 1; i + n < list->len && reads[i + n].step >> 8 == reads[i].step >> 8; n++)
            ;
        if (!judge(w, s, &reads[i], n, each))
            continue;
        for (guint k = 0; k < n; k++)
            wrong += each[k] == IT_CANNOT;
        chance +=
            wrong > 0 ? ODD * MIN(wrong, SPREAD) : worth_of_element(w, &reads[i], n) * log(ratio);
    }
    g_free(each);
    return chance;
}
