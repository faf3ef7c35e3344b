/* Shares that add up to 1. */
#include <string.h>

#include "internal.h"
#include "base/internal.h"

static gint likelier(gconstpointer a, gconstpointer b)
{
    const rmg_rival *x = a, *y = b;

    return rmg_by_real(y->share, x->share);
}

double rmg_rivals_settle(rmg_rival *rivals, size_t count)
{
    GArray *sorted = g_array_sized_new(FALSE, FALSE, sizeof *rivals, (guint)count);
    double sum = 0;

    for (size_t i = 0; i < count; i++)
        sum += rivals[i].share;
    for (size_t i = 0; i < count; i++)
        rivals[i].share = sum > 0 ? rivals[i].share / sum : 1.0 / (double)count;
    g_array_append_vals(sorted, rivals, (guint)count);
    g_array_sort(sorted, likelier); /* keeps the order of what is as likely */
    memcpy(rivals, sorted->data, count * sizeof *rivals);
    g_array_free(sorted, TRUE);
    return sum;
}
