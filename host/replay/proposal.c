/* A proposal as it is put together. */
#include <string.h>

#include "internal.h"

void rmg_proposal_free(void *one)
{
    proposal *p = one;

    g_free(p->name);
    g_free(p);
}

proposal *rmg_propose_add(proposer *w, uint64_t causes, gchar *name)
{
    proposal *p = g_new0(proposal, 1);

    p->name = name;
    p->causes = causes;
    g_ptr_array_add(w->list, p);
    return p;
}

bool rmg_propose_vague(const rmg_sim_fault *fault)
{
    return rmg_fault_is(fault->kind, RMG_TRAIT_CHANCE);
}

void rmg_propose_put(proposal *p, rmg_sim_fault fault)
{
    if (p->count < PROPOSAL_FAULTS)
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

const char *rmg_propose_socket(const proposer *w)
{
    return w->board->sockets[w->f->socket].name;
}
