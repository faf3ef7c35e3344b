/* A bank that answers, by a fault that is always there, where another bank is addressed as well:
 * words that stand in pairs. Both are kept flat: a write goes to both, and what is read is what two
 * chips make of one line.
 *
 * Invariant: where pairs act, every bit of the words of both banks has one chip by right, no other
 * fault acts on any chip or page of either, and the second word of each pair lies a fixed distance
 * away. In doubt they do not act, and each access goes chip by chip. */
#include "internal.h"

#include <string.h>

/* The one place of all rules of a bank, whose chips carry the whole word between them; and which
 * stages may act on them. */
static bool whole_bank(const rmg_sim *sim, uint8_t bank, uint32_t acts, rmg_where *where)
{
    const rmg_placement *placement = sim->board->placement;
    rmg_word bits = 0;

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];
        const rmg_sim_chip *chip = &sim->board->chips[rule->socket];

        if (rule->bank != bank)
            continue;
        if (!bits)
            *where = rule->where;
        if (sim->ways[r].acts != acts || chip->rom || rmg_chip_leaks(chip) ||
            !rmg_same_place(where, &rule->where))
            return false;
        bits |= sim->ways[r].bits;
    }
    return bits == sim->mask;
}

/* Are both as large, chosen by the same lines, and does either begin and end at a whole number of
 * the words among which those lines choose? Then each word of one is as far from that of the other.
 */
static bool alike(const rmg_where *a, const rmg_where *b)
{
    rmg_addr below = a->mask | 15u; /* becomes ones up to the highest line that chooses */

    for (uint8_t shift = 1; shift < RMG_ADDR_BITS; shift = (uint8_t)(shift << 1))
        below |= below >> shift;
    return a->mask == b->mask && a->last - a->first == b->last - b->first &&
           !((a->first | b->first | (a->last + 1u) | (b->last + 1u)) & below);
}

/* Has another fault to do with a rule that reaches into the place? */
static bool others_act(const rmg_sim *sim, const rmg_sim_fault *but, const rmg_where *where)
{
    const rmg_placement *placement = sim->board->placement;

    for (uint16_t i = 0; i < sim->fault_count; i++)
        for (uint16_t r = 0; &sim->faults[i] != but && r < placement->rule_count; r++) {
            const rmg_where *there = &placement->rules[r].where;

            if (there->first <= where->last && there->last >= where->first &&
                rmg_fault_meets(&sim->faults[i], &placement->rules[r]))
                return true;
        }
    return false;
}

static const rmg_sim_fault *only_stray(const rmg_sim *sim)
{
    const rmg_sim_fault *found = NULL;

    for (uint16_t i = 0; i < sim->fault_count; i++) {
        if (!rmg_fault_is(sim->faults[i].kind, RMG_TRAIT_STRAYS))
            continue;
        if (found || sim->faults[i].kind != RMG_FAULT_ALSO_SELECTED)
            return NULL;
        found = &sim->faults[i];
    }
    return found;
}

void rmg_pairs_begin(rmg_sim *sim)
{
    const rmg_sim_fault *f = only_stray(sim);
    rmg_sim_pairs *p = &sim->pairs;
    const rmg_sim_window *w;

    memset(p, 0, sizeof *p);
    if (!f || sim->conditional || sim->bus_acts ||
        !whole_bank(sim, f->bank, RMG_STAGE_BIT(OTHERS), &p->own) ||
        !whole_bank(sim, f->bank2, 0, &p->where) || !alike(&p->own, &p->where) ||
        (p->own.mask & sim->board->lanes) || others_act(sim, f, &p->own) ||
        others_act(sim, f, &p->where) || !rmg_flat_by_board(sim, &p->own) ||
        !rmg_flat_by_board(sim, &p->where))
        return;
    p->act = true;
    p->distance = p->own.first - p->where.first + p->own.match - p->where.match;
    w = rmg_sim_window_of(sim, p->own.first);
    p->flat = w->offset - (size_t)w->first + (size_t)p->distance;
    w = rmg_sim_window_of(sim, p->where.first);
    p->flat -= w->offset - (size_t)w->first;
}

bool rmg_pairs_second(rmg_sim *sim, rmg_addr address, size_t *at)
{
    const rmg_sim_pairs *p = &sim->pairs;

    if (!p->act || !rmg_where_holds(&p->where, address))
        return false;
    *at += p->flat;
    if (sim->slow[*at >> RMG_SIM_PAGE_BITS] & RMG_SLOW_NEW)
        rmg_page_bring(sim, rmg_sim_window_of(sim, address + p->distance),
                       *at >> RMG_SIM_PAGE_BITS);
    return true;
}

rmg_word rmg_pairs_load(rmg_sim *sim, rmg_addr address, size_t at)
{
    size_t second = at;

    return rmg_pairs_second(sim, address, &second)
               ? rmg_pairs_read(sim, rmg_flat_load(sim, at), rmg_flat_load(sim, second))
               : rmg_flat_load(sim, at);
}
