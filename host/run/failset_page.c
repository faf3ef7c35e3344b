/* The pages of a failure set: found, in their order, and in runs of those that failed alike. */
#include "base/internal.h"

#include <string.h>

#include "failset_page.h"

/* The page before or behind the recent one, where that is the one; pages come in their order, or
 * the other way round. */
static page *beside_recent(const page_order *order, guint64 number)
{
    const guint at = order->recent ? order->recent->at : 0;

    for (guint n = at ? at - 1u : 0; order->recent && n <= at + 1u && n < order->pages->len; n++)
        if (((const page *)order->pages->pdata[n])->number == number)
            return order->pages->pdata[n];
    return NULL;
}

page *rmg_failset_page(const rmg_failset *set, guint64 number)
{
    page *found = beside_recent(set->order, number);

    if (!found)
        found = g_hash_table_lookup(set->pages, &number);
    if (found)
        set->order->recent = found;
    return found;
}

static gint by_number(gconstpointer a, gconstpointer b)
{
    const page *x = *(page *const *)a, *y = *(page *const *)b;

    return rmg_by_number(x->number, y->number);
}

const GPtrArray *rmg_failset_sorted(const rmg_failset *set)
{
    page_order *order = set->order;

    if (!order->sorted) {
        g_ptr_array_sort(order->pages, by_number);
        for (guint n = 0; n < order->pages->len; n++)
            ((page *)order->pages->pdata[n])->at = n;
    }
    order->sorted = true;
    return order->pages;
}

/* Does the page follow the other one, with the same records? */
static bool is_next_alike(const page *p, const page *next)
{
    return !p->records && !next->records && next->number == p->number + 1u &&
           memcmp(p->alike, next->alike, sizeof p->alike) == 0;
}

const GArray *rmg_failset_runs(const rmg_failset *set)
{
    page_order *order = set->order;
    const GPtrArray *pages = rmg_failset_sorted(set);

    if (order->parted)
        return order->runs;
    g_array_set_size(order->runs, 0);
    for (guint n = 0, end; n < pages->len; n = end) {
        page_run run = {.first = n};

        for (end = n + 1u; end < pages->len; end++)
            if (!is_next_alike(pages->pdata[end - 1u], pages->pdata[end]))
                break;
        run.count = end - n;
        g_array_append_val(order->runs, run);
    }
    order->parted = true;
    return order->runs;
}

guint64 rmg_run_first(const rmg_failset *set, const page_run *run)
{
    return ((const page *)set->order->pages->pdata[run->first])->number;
}

guint64 rmg_run_last(const rmg_failset *set, const page_run *run)
{
    return rmg_run_first(set, run) + (run->count - 1u);
}

const page_run *rmg_run_from(const rmg_failset *set, guint64 number)
{
    const GArray *runs = rmg_failset_runs(set);
    guint low = 0, high = runs->len;

    while (low < high) {
        const guint middle = low + (high - low) / 2u;

        if (rmg_run_last(set, &g_array_index(runs, page_run, middle)) < number)
            low = middle + 1u;
        else
            high = middle;
    }
    return low < runs->len ? &g_array_index(runs, page_run, low) : NULL;
}
