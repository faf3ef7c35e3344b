/* Explanations of a difference: their names, and one as a saying has it. */
#include <string.h>

#include "rimeglass/verify.h"

static const char *const names[] = {
    "data_floats",   "data_stuck", "data_swapped", "data_shorted", "data_permuted",
    "data_inverted", "line_stuck", "line_swapped", "line_shorted", "line_inverted",
    "bytes_swapped", "offset",     "half_blank",   "other_image"};

const char *rmg_difference_name(rmg_difference kind)
{
    return names[kind];
}

bool rmg_difference_of_data(rmg_difference kind)
{
    return kind <= RMG_DIFF_DATA_SHORTED;
}

void rmg_explanation_of(const rmg_rom_case *c, const rmg_saying *s, rmg_explanation *e)
{
    const rmg_comparison *found = c->comparison;

    memset(e, 0, sizeof *e);
    e->kind = (rmg_difference)s->difference;
    e->a = s->bit;
    e->b = s->bit2;
    e->level = s->level;
    e->offset = s->n;
    e->other = (size_t)s->m;
    for (size_t i = 0; e->kind == RMG_DIFF_DATA_PERMUTED && found && i < found->step_count; i++) {
        const rmg_explained *step = &found->steps[i];

        if (step->is.kind == e->kind)
            memcpy(e->order, step->is.order, sizeof e->order);
        for (size_t n = 0; n < step->alike_count; n++)
            if (step->alike[n].kind == e->kind)
                memcpy(e->order, step->alike[n].order, sizeof e->order);
    }
}
