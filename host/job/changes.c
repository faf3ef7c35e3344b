/* Changes that were told, while a job is worked out. */
#include <glib.h>

#include "internal.h"

#define ELSE 0.5 /* share of what nobody thought of from which on the diagnosis begins again */

static void clear_change(gpointer change)
{
    g_free(((rmg_change *)change)->text);
}

GArray *rmg_job_changes_new(void)
{
    GArray *changes = g_array_new(FALSE, TRUE, sizeof(rmg_change));

    g_array_set_clear_func(changes, clear_change);
    return changes;
}

rmg_changes rmg_job_changes_copy(const GArray *changes)
{
    rmg_changes copy = {g_memdup2(changes->data, changes->len * sizeof(rmg_change)), changes->len};

    for (size_t i = 0; i < copy.count; i++)
        copy.list[i].text = g_strdup(copy.list[i].text);
    return copy;
}

rmg_status rmg_job_changes_add(const rmg_board *board, const char *text, GArray *to,
                               rmg_error *error)
{
    rmg_changes one;
    const rmg_status status = rmg_changes_parse(board, text, &one, error);

    if (status != RMG_OK)
        return status;
    g_array_append_vals(to, one.list, (guint)one.count); /* their texts too */
    g_free(one.list);
    return RMG_OK;
}

bool rmg_job_something_else(const rmg_hypothesis *list, size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (list[i].rival == SIZE_MAX && list[i].after >= ELSE && list[i].gone < ELSE)
            return true;
    return false;
}
