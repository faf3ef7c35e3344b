/* How sure a finding is: first estimates by hand, told in docs/diagnosis.md. */
#include <math.h>

#include "suspect_internal.h"

/* How sure a finding of this kind is when it repeats and stands alone; see docs/diagnosis.md. */
static double base_confidence(rmg_finding_kind kind)
{
    switch (kind) {
    case RMG_FINDING_DATA_LINE:
    case RMG_FINDING_ADDRESS_LINES:
    case RMG_FINDING_DATA_SHORT:
    case RMG_FINDING_ADDRESS_SHORT:
    case RMG_FINDING_CELLS:
        return 0.90;
    case RMG_FINDING_DATA_AT_SOCKET:
    case RMG_FINDING_ADDRESS_AT_SOCKET:
    case RMG_FINDING_ADDRESS_OF_BANK:
    case RMG_FINDING_NEVER_WRITTEN:
    case RMG_FINDING_BANK_NEVER_WRITTEN:
    case RMG_FINDING_BANKS_SAME:
    case RMG_FINDING_BANKS_BOTH:
    case RMG_FINDING_DRAGGED:
    case RMG_FINDING_BRANCH:
        return 0.85;
    case RMG_FINDING_ALL_SILENT:
    case RMG_FINDING_BANK_SILENT:
    case RMG_FINDING_SPREAD:
        return 0.80;
    }
    return 0.0;
}

/* The chance that so many failures all fall on one socket's bits if each falls anywhere in what was
 * tested: its share of all bits to the power of the failures after the first. */
static double chance_of_one_place(const wording *w, uint64_t failures)
{
    const rmg_finding *f = &w->s->finding;
    double here = 0, all = 0;

    for (size_t i = 0; i < w->run->tested_count; i++)
        for (uint16_t r = 0; r < w->board->placement.rule_count; r++) {
            const rmg_rule *rule = &w->board->placement.rules[r];
            const rmg_addr first = MAX(rule->where.first, w->run->tested[i].first);
            const rmg_addr last = MIN(rule->where.last, w->run->tested[i].last);
            const double bits = first <= last ? (double)(last - first + 1u) * rule->width : 0;

            all += bits;
            here += rule->socket == f->socket ? bits : 0;
        }
    return all > 0 && failures ? pow(here / all, (double)failures - 1) : 1;
}

double rmg_suspect_confidence(const wording *w, size_t cell_findings)
{
    const rmg_finding *f = &w->s->finding;
    const bool cells = f->kind == RMG_FINDING_CELLS;
    double sure = base_confidence(f->kind);

    if (f->kind == RMG_FINDING_SPREAD)
        return sure; /* that it does not repeat is what it rests on */
    if (w->run->pass_count > 1 && !rmg_run_repeats(w->run))
        sure *= cells && cell_findings == 1 &&
                        chance_of_one_place(w, f->failed_high + f->failed_low) < 0.001
                    ? 1.0
                    : 0.5;
    else if (w->run->pass_count < 2 && cells)
        sure *= f->failed_high + f->failed_low < 5 ? 0.55 : 0.8;
    else if (w->run->pass_count < 2)
        sure *= 0.9;
    if (cells && cell_findings > 2)
        sure *= 0.5;
    return sure;
}

double rmg_suspect_replayed(double confidence, bool same, bool alone)
{
    if (same)
        return 1 - (1 - confidence) * 0.2;
    return alone ? confidence * 0.95 : confidence;
}
