/* What single cells come up with is not known: it is tried, as far as it can matter. */
#include <string.h>

#include "internal.h"
#include "run/internal.h"

static bool all_are_cells(const rmg_sim_fault *faults, size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (!rmg_fault_is(faults[i].kind, RMG_TRAIT_CELLS))
            return false;
    return count != 0;
}

unsigned rmg_stage_contents(const rmg_sim_fault *faults, size_t count)
{
    if (count && !all_are_cells(faults, count))
        return 1;
    return count == 1 && rmg_fault_has_second(&faults[0]) ? 4 : 2;
}

/* The plan's first element as a march of its own, where it does nothing but write, in linear order
 * and with one background in the first pass; false: it does not. */
static bool first_element(const rmg_run *run, uint8_t *code)
{
    const rmg_step *step = NULL;
    uint8_t ops;

    for (size_t i = 0; i < run->steps.count && !step; i++)
        if (run->steps.list[i].kind != RMG_STEP_WIRING && /* left out in parts */
            run->steps.list[i].kind != RMG_STEP_FIRST_MEMORY)
            step = &run->steps.list[i];
    if (!step || step->kind != RMG_STEP_MARCH || step->way != RMG_WAY_LINEAR ||
        step->ground != RMG_GROUND_SOLID || run->plan.keep || run->heard)
        return false;
    ops = step->code[0] & (uint8_t)~RMG_ORDER_MASK;
    for (uint8_t i = 0; i < ops; i++)
        if (!(step->code[1 + i] & RMG_OP_WRITE))
            return false;
    memcpy(code, step->code, ops + 1u);
    code[ops + 1u] = 0;
    return ops != 0;
}

/* The words of the parts, which are all tested; false: some are not, or before all else. */
static bool tested_parts(const rmg_run *run, const GArray *parts, GArray *ranges)
{
    rmg_addr left = 0;

    for (guint i = 0; i < parts->len; i++) {
        const rmg_range *part = &g_array_index(parts, rmg_range, i);

        left += part->last - part->first + 1u;
        for (size_t n = 0; n < run->first_memory_count; n++)
            if (run->first_memory[n].first <= part->last &&
                part->first <= run->first_memory[n].last)
                return false;
        for (size_t n = 0; n < run->tested_count; n++) {
            const rmg_range both = {MAX(run->tested[n].first, part->first),
                                    MIN(run->tested[n].last, part->last)};

            if (both.first > both.last)
                continue;
            g_array_append_val(ranges, both);
            left -= both.last - both.first + 1u;
        }
    }
    return !left && ranges->len && ranges->len <= UINT8_MAX;
}

static void take_state(const rmg_stage *s, const rmg_sim_fault *faults, size_t count,
                       rmg_cell_state *now)
{
    memset(now, 0, sizeof *now);
    for (size_t i = 0; i < count; i++) {
        now->words[2u * i] = rmg_sim_word(&s->sim, faults[i].chip, faults[i].cell);
        if (rmg_fault_has_second(&faults[i]))
            now->words[2u * i + 1u] = rmg_sim_word(&s->sim, faults[i].chip, faults[i].cell2);
    }
    memcpy(now->memories, s->sim.memories, count * sizeof *now->memories);
}

/* Takes the states that the first element leaves after each of the contents; those below `from` are
 * there. false: it cannot be said. */
static bool take_states(rmg_stage *s, const rmg_sim_fault *faults, uint16_t count, unsigned from,
                        unsigned contents)
{
    GArray *parts = g_array_new(FALSE, FALSE, sizeof(rmg_range));
    GArray *ranges = g_array_new(FALSE, FALSE, sizeof(rmg_range));
    uint8_t code[RMG_MARCH_BYTES];
    bool taken = false;

    s->state_count = 0;
    if (contents > 1 && contents <= G_N_ELEMENTS(s->states) && count <= RMG_STATE_CELLS &&
        first_element(s->run, code) && rmg_stage_find_parts(s, faults, count, parts) &&
        tested_parts(s->run, parts, ranges)) {
        const rmg_target target = {
            .bus = &rmg_sim_bus, .context = &s->sim, .mask = rmg_stage_mask(s)};
        const rmg_march_job job = {.code = code,
                                   .ranges = (const rmg_range *)(const void *)ranges->data,
                                   .range_count = (uint8_t)ranges->len};

        taken = true;
        for (unsigned n = from; n < contents && taken; n++) {
            taken = rmg_stage_switch_on(s, faults, count, parts, false, n) &&
                    rmg_march_run(&target, &job, s->tally) == RMG_OK;
            take_state(s, faults, count, &s->states[n]);
        }
        s->state_count = taken ? contents : 0;
    }
    g_array_free(parts, TRUE);
    g_array_free(ranges, TRUE);
    return taken;
}

/* Are two states the same in the cells of `count` faults from one on, and in what they remember? */
static bool states_alike(const rmg_cell_state *a, const rmg_cell_state *b, size_t from,
                         size_t count)
{
    return memcmp(&a->words[2u * from], &b->words[2u * from], 2u * count * sizeof *a->words) == 0 &&
           memcmp(&a->memories[from], &b->memories[from], count * sizeof *a->memories) == 0;
}

/* Contents after which those faults are left otherwise than after all contents below, as ones. */
static unsigned worth_of(const rmg_stage *s, size_t from, size_t count, unsigned contents)
{
    unsigned worth = (1u << contents) - 1u;

    for (unsigned n = 1; n < contents; n++)
        for (unsigned before = 0; before < n; before++)
            if (states_alike(&s->states[before], &s->states[n], from, count))
                worth &= ~(1u << n);
    return worth;
}

unsigned rmg_stage_contents_worth(rmg_stage *s, const rmg_sim_fault *faults, uint16_t count,
                                  unsigned from, unsigned contents)
{
    return take_states(s, faults, count, from > s->state_count ? 0 : from, contents)
               ? worth_of(s, 0, count, contents)
               : (1u << contents) - 1u;
}

void rmg_stage_each_worth(rmg_stage *s, const rmg_sim_fault *faults, uint16_t count,
                          unsigned contents, unsigned *worth)
{
    const bool taken = take_states(s, faults, count, 0, contents);

    for (size_t i = 0; i < count; i++)
        worth[i] = taken ? worth_of(s, i, 1, contents) : (1u << contents) - 1u;
}
