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

unsigned rmg_stage_contents_worth(rmg_stage *s, const rmg_sim_fault *faults, uint16_t count,
                                  unsigned from, unsigned contents)
{
    const unsigned all = (1u << contents) - 1u;
    GArray *parts = g_array_new(FALSE, FALSE, sizeof(rmg_range));
    GArray *ranges = g_array_new(FALSE, FALSE, sizeof(rmg_range));
    uint8_t code[RMG_MARCH_BYTES];
    unsigned worth = all;

    if (from > s->state_count)
        from = 0;
    s->state_count = 0;
    if (contents > 1 && contents <= G_N_ELEMENTS(s->states) && count <= RMG_STATE_CELLS &&
        first_element(s->run, code) && rmg_stage_find_parts(s, faults, count, parts) &&
        tested_parts(s->run, parts, ranges)) {
        const rmg_target target = {.bus = &rmg_sim_bus,
                                   .context = &s->sim,
                                   .mask = (rmg_word) ~(rmg_word)0 >>
                                           (RMG_WORD_BITS - s->run->board->word_bits)};
        const rmg_march_job job = {.code = code,
                                   .ranges = (const rmg_range *)(const void *)ranges->data,
                                   .range_count = (uint8_t)ranges->len};

        for (unsigned n = 0; n < contents && worth; n++) {
            if (n >= from && (!rmg_stage_switch_on(s, faults, count, parts, false, n) ||
                              rmg_march_run(&target, &job, s->tally) != RMG_OK)) {
                worth = all;
                break;
            }
            if (n >= from)
                take_state(s, faults, count, &s->states[n]);
            s->state_count = n + 1u;
            for (unsigned before = 0; before < n; before++)
                if (memcmp(&s->states[before], &s->states[n], sizeof *s->states) == 0)
                    worth &= ~(1u << n);
        }
    }
    g_array_free(parts, TRUE);
    g_array_free(ranges, TRUE);
    return worth;
}
