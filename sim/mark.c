/* Which pages of the simulated board go chip by chip: where the board needs it, or a fault acts.
 *
 * Invariant: in a page that is not marked, each bit of a word is held by exactly one RAM cell that
 * no other address reaches and no fault acts on, so that the flat word is the truth. Marking too
 * much costs time only; marking too little would be wrong. Hence: in doubt, the whole range. */
#include "internal.h"

#include <string.h>

/* Marks the page slow where a bit has no chip, two chips answer, or a ROM does. */
static void mark_address(rmg_sim *sim, rmg_addr address, uint8_t *slow)
{
    const rmg_placement *placement = sim->board->placement;
    rmg_word held = 0;

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];
        rmg_word bits;

        if (!rmg_where_holds(&rule->where, address))
            continue;
        bits = rmg_rule_bits(rule);
        if ((held & bits) || sim->board->chips[rule->socket].rom ||
            rmg_chip_leaks(&sim->board->chips[rule->socket]))
            *slow = RMG_SLOW_BOARD;
        held |= bits;
    }
    if (held != sim->mask) /* an undriven bit does not read what was written */
        *slow = RMG_SLOW_BOARD;
}

/* A chip that more than one rule reaches may answer at two addresses: its pages are slow. */
static bool shared(const rmg_placement *placement, const rmg_rule *rule)
{
    for (uint16_t r = 0; r < placement->rule_count; r++)
        if (&placement->rules[r] != rule && placement->rules[r].socket == rule->socket)
            return true;
    return false;
}

/* Address bits within the rule's range that reach neither the chip nor the rule's condition make
 * the same cell answer twice. */
static bool repeats(const rmg_rule *rule)
{
    rmg_addr used = rule->where.mask;
    rmg_addr varies = rule->where.first ^ rule->where.last;

    for (uint8_t shift = 1; shift < RMG_ADDR_BITS; shift = (uint8_t)(shift << 1))
        varies |= varies >> shift;
    for (uint8_t i = 0; i < rule->address_lines; i++)
        if (rule->address_bits[i] < RMG_ADDR_BITS)
            used |= (rmg_addr)1 << rule->address_bits[i];
    return varies & ~used;
}

void rmg_sim_mark_board(rmg_sim *sim)
{
    const rmg_placement *placement = sim->board->placement;

    for (uint16_t i = 0; i < sim->window_count; i++) {
        const rmg_sim_window *w = &sim->windows[i];

        for (rmg_addr a = w->first;; a++) {
            uint8_t *slow = &sim->slow[(w->offset + (size_t)(a - w->first)) >> RMG_SIM_PAGE_BITS];

            if (!*slow) /* a page is slow as soon as one of its words is */
                mark_address(sim, a, slow);
            if (a == w->last)
                break;
        }
    }
    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];
        const rmg_sim_window *w = rmg_sim_window_of(sim, rule->where.first);
        const size_t first = w->offset + (size_t)(rule->where.first - w->first);
        const size_t last = w->offset + (size_t)(rule->where.last - w->first);

        if (shared(placement, rule) || repeats(rule))
            memset(&sim->slow[first >> RMG_SIM_PAGE_BITS], RMG_SLOW_BOARD,
                   (last >> RMG_SIM_PAGE_BITS) - (first >> RMG_SIM_PAGE_BITS) + 1u);
    }
}

static void mark_range(rmg_sim *sim, const rmg_rule *rule)
{
    const rmg_sim_window *w = rmg_sim_window_of(sim, rule->where.first);
    const size_t first = (w->offset + (size_t)(rule->where.first - w->first)) >> RMG_SIM_PAGE_BITS;
    const size_t last = (w->offset + (size_t)(rule->where.last - w->first)) >> RMG_SIM_PAGE_BITS;

    for (size_t page = first; page <= last; page++)
        sim->slow[page] |= RMG_SLOW_FAULT;
}

/* The page of a cell's address; the whole range where the address does not come back from it. */
static void mark_cell(rmg_sim *sim, const rmg_rule *rule, rmg_addr cell)
{
    const rmg_addr address = rmg_rule_address(rule, cell);
    const rmg_sim_window *w = rmg_sim_window_of(sim, address);

    if (w && rmg_where_holds(&rule->where, address) && rmg_rule_cell(rule, address) == cell)
        sim->slow[(w->offset + (size_t)(address - w->first)) >> RMG_SIM_PAGE_BITS] |=
            RMG_SLOW_FAULT;
    else
        mark_range(sim, rule);
}

/* Does a fault have to do with the rule's chip, or lie beside it? */
static bool meets(const rmg_sim_fault *f, const rmg_rule *rule)
{
    switch (rmg_fault_rows[f->kind].marks) {
    case RMG_MARKS_ALL:
        return true;
    case RMG_MARKS_BANKS:
        return rule->bank == f->bank || rule->bank == f->bank2;
    default:
        return rmg_fault_concerns(f, rule);
    }
}

static void mark_fault(rmg_sim *sim, const rmg_sim_fault *f, uint16_t r)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_sim_chip *chip = &sim->board->chips[rule->socket];
    const rmg_addr depth = (rmg_addr)1 << chip->address_lines;
    const rmg_addr rows = (rmg_addr)1 << chip->row_lines;
    const rmg_fault_row *kind = &rmg_fault_rows[f->kind];
    /* do its address lines lead elsewhere by another fault? Then cells are not where they were */
    const bool moved = sim->ways[r].acts & (RMG_STAGE_BIT(LINES) | RMG_STAGE_BIT(PINS));

    if (!meets(f, rule))
        return;
    switch (moved ? RMG_MARKS_RANGE : kind->marks) {
    case RMG_MARKS_ROW:
        for (rmg_addr cell = f->cell; cell < depth; cell += rows)
            mark_cell(sim, rule, cell);
        break;
    case RMG_MARKS_COLUMN:
        for (rmg_addr row = 0; row < rows; row++)
            mark_cell(sim, rule, f->cell << chip->row_lines | row);
        break;
    case RMG_MARKS_CELL:
    case RMG_MARKS_VICTIM:
        mark_cell(sim, rule, f->cell);
        if (kind->marks == RMG_MARKS_VICTIM && rmg_fault_has_second(f))
            mark_cell(sim, rule, f->cell2);
        break;
    case RMG_MARKS_RANGE:
    case RMG_MARKS_BANKS:
    case RMG_MARKS_ALL:
        mark_range(sim, rule);
        break;
    }
}

void rmg_sim_mark_faults(rmg_sim *sim)
{
    const rmg_placement *placement = sim->board->placement;

    /* what the board needs stays; faults of the simulation before this one go */
    for (size_t page = 0; page < sim->slow_bytes; page++)
        sim->slow[page] &= RMG_SLOW_BOARD;
    for (uint16_t i = 0; i < sim->fault_count; i++)
        for (uint16_t r = 0; r < placement->rule_count; r++)
            mark_fault(sim, &sim->faults[i], r);
}
