/* Explanations of a difference: their names, and one as a saying has it. */
#include <string.h>

#include "find.h"

#define REFERENCES (RMG_ALIKE + 1u) /* of a step: itself, and what explains as well */

enum { OF_DATA = 1, OF_LINES = 2, OF_TWO = 4 };

static const struct {
    const char *name;
    unsigned of;
} kinds[RMG_DIFFERENCES] = {
    [RMG_DIFF_DATA_FLOATS] = {"data_floats", OF_DATA},
    [RMG_DIFF_DATA_STUCK] = {"data_stuck", OF_DATA},
    [RMG_DIFF_DATA_SWAPPED] = {"data_swapped", OF_DATA | OF_TWO},
    [RMG_DIFF_DATA_SHORTED] = {"data_shorted", OF_DATA | OF_TWO},
    [RMG_DIFF_DATA_PERMUTED] = {"data_permuted", 0},
    [RMG_DIFF_DATA_INVERTED] = {"data_inverted", 0},
    [RMG_DIFF_LINE_STUCK] = {"line_stuck", OF_LINES},
    [RMG_DIFF_LINE_SWAPPED] = {"line_swapped", OF_LINES | OF_TWO},
    [RMG_DIFF_LINE_SHORTED] = {"line_shorted", OF_LINES | OF_TWO},
    [RMG_DIFF_LINE_INVERTED] = {"line_inverted", OF_LINES},
    [RMG_DIFF_LINE_PERMUTED] = {"line_permuted", OF_LINES},
    [RMG_DIFF_LINES_STUCK] = {"lines_stuck", 0},
    [RMG_DIFF_BYTES_SWAPPED] = {"bytes_swapped", 0},
    [RMG_DIFF_OFFSET] = {"offset", 0},
    [RMG_DIFF_MOVED] = {"moved", 0},
    [RMG_DIFF_SHIFTED] = {"shifted", 0},
    [RMG_DIFF_REPEATED] = {"repeated", 0},
    [RMG_DIFF_HALF_BLANK] = {"half_blank", 0},
    [RMG_DIFF_BLANK] = {"blank", 0},
    [RMG_DIFF_OTHER_IMAGE] = {"other_image", 0},
    [RMG_DIFF_WITH_IMAGE] = {"with_image", 0},
    [RMG_DIFF_LATE] = {"late", 0},
    [RMG_DIFF_CELLS] = {"cells", 0},
    [RMG_DIFF_PATCHED] = {"patched", 0},
    [RMG_DIFF_ANOTHER] = {"another_answers", 0},
    [RMG_DIFF_UNKNOWN] = {"unknown_image", 0},
};

const char *rmg_difference_name(rmg_difference kind)
{
    return kinds[kind].name;
}

bool rmg_difference_of_data(rmg_difference kind)
{
    return kinds[kind].of & OF_DATA;
}

bool rmg_difference_of_lines(rmg_difference kind)
{
    return kinds[kind].of & OF_LINES;
}

bool rmg_difference_of_two(rmg_difference kind)
{
    return kinds[kind].of & OF_TWO;
}

void rmg_explanation_of(const rmg_rom_case *c, const rmg_saying *s, rmg_explanation *e)
{
    const rmg_comparison *found = c->comparison;
    const rmg_explained *step;
    const uint64_t at = s->k - 1u, number = at / REFERENCES, which = at % REFERENCES;

    if (!s->k || !found) { /* a saying of its own */
        memset(e, 0, sizeof *e);
        e->kind = (rmg_difference)s->difference;
        e->a = s->bit;
        e->b = s->bit2;
        e->level = s->level;
        return;
    }
    step = number < RMG_EXPLANATIONS ? &found->steps[number] : &found->rest;
    *e = which ? step->alike[which - 1u] : step->is;
}

uint64_t rmg_romfind_reference(const rmg_comparison *c, const rmg_explained *step, size_t which)
{
    const size_t number = step == &c->rest ? RMG_EXPLANATIONS : (size_t)(step - c->steps);

    return number > RMG_EXPLANATIONS ? 0 : (uint64_t)number * REFERENCES + which + 1u;
}
