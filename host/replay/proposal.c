/* A proposal as it is put together. */
#include <string.h>

#include "internal.h"

void rmg_proposal_free(void *one)
{
    proposal *p = one;

    g_free(p->faults);
    g_free(p);
}

proposal *rmg_propose_at(proposer *w, uint64_t causes, rmg_said said, unsigned level)
{
    proposal *p = g_new0(proposal, 1);

    p->is = rmg_say_of(w->f, said);
    p->is.bits = 0; /* the same thing, whichever of its bits and lines it is tried at */
    p->is.lines = 0;
    p->is.level = (uint8_t)level;
    p->causes = causes;
    g_ptr_array_add(w->list, p);
    return p;
}

proposal *rmg_propose_add(proposer *w, uint64_t causes, rmg_said said)
{
    return rmg_propose_at(w, causes, said, 0);
}

bool rmg_propose_vague(const rmg_sim_fault *fault)
{
    return rmg_fault_is(fault->kind, RMG_TRAIT_CHANCE);
}

bool rmg_replay_cells_alone(const rmg_sim_fault *fault)
{
    const rmg_fault_row *row = &rmg_fault_rows[fault->kind];

    return rmg_fault_is(fault->kind, RMG_TRAIT_CELLS) &&
           (row->marks == RMG_MARKS_CELL || row->marks == RMG_MARKS_VICTIM);
}

void rmg_propose_put(proposal *p, rmg_sim_fault fault)
{
    if (p->count == p->room && p->room < PROPOSAL_FAULTS) {
        p->room = (uint16_t)(p->room ? 2u * p->room : 1u); /* hardly any has more than one */
        p->faults = g_renew(rmg_sim_fault, p->faults, p->room);
    }
    if (p->count < p->room)
        p->faults[p->count++] = fault;
    p->vague |= rmg_propose_vague(&fault);
}

const rmg_rule *rmg_propose_rule(const proposer *w)
{
    for (uint16_t r = 0; r < w->board->placement.rule_count; r++) {
        const rmg_rule *rule = &w->board->placement.rules[r];

        if (rule->socket == w->f->socket && (w->f->bank == RMG_NO_BANK || rule->bank == w->f->bank))
            return rule;
    }
    return NULL;
}
