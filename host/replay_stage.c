/* The simulated board on which one proposal after another is played. Knows nothing of suspects. */
#include <string.h>

#include "replay_internal.h"
#include "run_internal.h"

#define WORLD      UINT64_C(0x52696D65) /* what the memory comes up with: anything, it is not known */
#define PART_WORDS 16u                  /* words on either side of a cell that are played with it */
#define PARTS_MOST 200u                 /* more of them: all words are played */
#define LAST_ADDRESS ((rmg_addr) ~(rmg_addr)0)

bool rmg_stage_begin(rmg_stage *s, const rmg_run *run)
{
    size_t bytes;

    memset(s, 0, sizeof *s);
    s->run = run;
    rmg_board_to_sim(run->board, &s->plan);
    bytes = rmg_sim_bytes(&s->plan.board, PROPOSAL_FAULTS);
    s->memory = bytes ? g_try_malloc(bytes) : NULL;
    return s->memory != NULL;
}

void rmg_stage_end(rmg_stage *s)
{
    g_free(s->memory);
    rmg_sim_plan_free(&s->plan);
}

/* Does the fault do nothing outside a few cells, whenever they are accessed? */
static bool of_cells(const rmg_sim_fault *f)
{
    return f->kind == RMG_FAULT_CELL || f->kind == RMG_FAULT_ADDRESS_CELLS ||
           (f->kind >= RMG_FAULT_TRANSITION && f->kind <= RMG_FAULT_COUPLING_FLIPS);
}

static void add_cell(const rmg_stage *s, uint16_t chip, rmg_addr cell, GArray *parts)
{
    const rmg_placement *placement = &s->run->board->placement;

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_addr at = rmg_rule_address(&placement->rules[r], cell);
        const rmg_range part = {
            at > PART_WORDS ? (at - PART_WORDS) & ~(rmg_addr)(PART_WORDS - 1u) : 0,
            at < LAST_ADDRESS - 2u * PART_WORDS ? (at + PART_WORDS) | (PART_WORDS - 1u)
                                                 : LAST_ADDRESS};

        if (placement->rules[r].socket == chip)
            g_array_append_val(parts, part);
    }
}

static gint by_first(gconstpointer a, gconstpointer b)
{
    const rmg_range *x = a, *y = b;

    return (x->first > y->first) - (x->first < y->first);
}

/* The words that these faults have to do with, rising and apart; false: all, or too many. */
static bool find_parts(const rmg_stage *s, const rmg_sim_fault *faults, size_t count, GArray *parts)
{
    guint kept = 0;

    for (size_t i = 0; i < count; i++) {
        if (!of_cells(&faults[i]) || parts->len > 2u * PARTS_MOST)
            return false;
        add_cell(s, faults[i].chip, faults[i].cell, parts);
        if (faults[i].kind >= RMG_FAULT_COUPLING_INVERTS)
            add_cell(s, faults[i].chip, faults[i].cell2, parts);
    }
    g_array_sort(parts, by_first);
    for (guint i = 1; i < parts->len; i++) {
        rmg_range *last = &g_array_index(parts, rmg_range, kept);
        const rmg_range next = g_array_index(parts, rmg_range, i);

        if (next.first <= last->last || next.first == last->last + 1u)
            last->last = MAX(last->last, next.last);
        else
            g_array_index(parts, rmg_range, ++kept) = next;
    }
    if (parts->len)
        g_array_set_size(parts, kept + 1u);
    return parts->len && parts->len <= PARTS_MOST;
}

/* Faults that show what the memory came up with play on a board that was just switched on. */
static bool wants_power_on(const rmg_sim_fault *faults, size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (faults[i].kind == RMG_FAULT_NO_WRITE || faults[i].kind == RMG_FAULT_DESELECTED ||
            faults[i].kind == RMG_FAULT_ALWAYS_ON)
            return true;
    return false;
}

/* Gives the words of the parts what they come up with. */
static void fill(rmg_stage *s, const GArray *parts, rmg_word value)
{
    for (guint i = 0; i < parts->len; i++) {
        const rmg_range *part = &g_array_index(parts, rmg_range, i);

        for (rmg_addr a = part->first; a <= part->last; a++)
            rmg_sim_write(&s->sim, a, value);
    }
}

static bool switch_on(rmg_stage *s, const rmg_sim_fault *faults, uint16_t count,
                      const GArray *parts, rmg_word value)
{
    if (!s->on || wants_power_on(faults, count))
        s->on = rmg_sim_start(&s->sim, &s->plan.board, NULL, 0, WORLD, s->memory) == RMG_OK;
    else if (parts->len)
        s->on = rmg_sim_start_again(&s->sim, NULL, 0) == RMG_OK;
    if (s->on)
        fill(s, parts, value);
    return s->on && rmg_sim_start_again(&s->sim, faults, count) == RMG_OK;
}

bool rmg_stage_of_cells(const rmg_sim_fault *faults, size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (!of_cells(&faults[i]))
            return false;
    return count != 0;
}

bool rmg_stage_play(rmg_stage *s, const rmg_sim_fault *faults, uint16_t count, bool whole,
                    bool ones, rmg_run *again)
{
    const rmg_board *board = s->run->board;
    rmg_plan plan = s->run->plan;
    rmg_target target = {.bus = &rmg_sim_bus,
                         .context = &s->sim,
                         .mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits)};
    GArray *parts = g_array_new(FALSE, FALSE, sizeof(rmg_range));
    const bool in_parts = find_parts(s, faults, count, parts);
    char *message;
    bool done;

    if (!in_parts)
        g_array_set_size(parts, 0);
    plan.steps = &s->run->steps;
    plan.march = NULL;
    plan.march_name = NULL;
    plan.seconds = 0;
    plan.endless = false;
    plan.passes = (uint32_t)MIN(MAX(s->run->pass_count, 1u), RMG_REPLAY_PASSES);
    memset(again, 0, sizeof *again);
    done = count <= PROPOSAL_FAULTS &&
           switch_on(s, faults, count, parts, ones ? target.mask : 0) &&
           rmg_run_begin(again, board, &plan, "replay", &message) == RMG_OK;
    if (done) {
        rmg_text_free(message);
        if (!whole && in_parts)
            rmg_run_narrow(again, (const rmg_range *)(const void *)parts->data, parts->len);
        s->plays++;
        done = rmg_run_carry_out(again, &target, NULL) == RMG_OK;
    }
    g_array_free(parts, TRUE);
    return done;
}
