/* What a right answer is: a finding names a set of chips, and bits or lines of theirs; a fault acts
 * on such a set. */
#include <string.h>

#include "diag.h"

typedef struct chip_set {
    bool has[RMG_PLACE_RULES];
} chip_set;

static bool tested(const diag_case *c, const rmg_rule *rule)
{
    return c->run.bank_words[rule->bank] &&
           c->board->board->sockets[rule->socket].part->kind != RMG_PART_ROM;
}

/* The tested chips that the suspect is about. */
static void named_set(const diag_case *c, const rmg_finding *f, chip_set *set)
{
    const rmg_board *board = c->board->board;
    bool named[RMG_PLACE_RULES] = {false};

    rmg_finding_sockets(&c->run, f, named);
    memset(set, 0, sizeof *set);
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (tested(c, &board->placement.rules[r]))
            set->has[board->placement.rules[r].socket] = named[board->placement.rules[r].socket];
}

/* The tested chips on which the fault acts; of a data line those that hold its bit. */
static void fault_set(const diag_case *c, const diag_kind *k, const rmg_sim_fault *f, chip_set *set)
{
    const rmg_board *board = c->board->board;

    memset(set, 0, sizeof *set);
    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        if (!tested(c, rule) || (k->truth == TRUTH_DATA && !(rmg_rule_bits(rule) >> f->line & 1u)))
            continue;
        if (k->truth == TRUTH_CHIP ? rule->socket == f->chip : rmg_fault_acts_for(f, rule->socket))
            set->has[rule->socket] = true;
    }
}

static bool same_set(const diag_case *c, const diag_kind *k, const rmg_finding *n,
                     const rmg_sim_fault *f)
{
    chip_set named, meant;

    named_set(c, n, &named);
    fault_set(c, k, f, &meant);
    return memcmp(&named, &meant, sizeof named) == 0;
}

bool diag_place_right(const diag_case *c, const rmg_suspect *s, const diag_kind *k,
                      const rmg_sim_fault *f)
{
    const rmg_finding *n = &s->finding;
    const rmg_word bit = (rmg_word)1 << f->line, both = bit | (rmg_word)1 << f->line2;

    if (k->truth != TRUTH_NOBODY && n->kind == RMG_FINDING_SPREAD)
        return false;
    switch (k->truth) {
    case TRUTH_DATA:
        return n->bits == bit && same_set(c, k, n, f);
    case TRUTH_TOUCH:
        return n->bits == both;
    case TRUTH_LINES: /* of what comes and goes the line is one of several */
        return (n->lines == f->lines || (k->when != WHEN_ALWAYS && !n->lines)) &&
               same_set(c, k, n, f);
    case TRUTH_SELECT:
        return (n->bank == f->bank && n->bank2 == f->bank2) ||
               (n->bank == f->bank2 && n->bank2 == f->bank);
    case TRUTH_NOBODY:
        return n->kind == RMG_FINDING_SPREAD;
    case TRUTH_BANK: /* none of its address lines, by itself */
        return !n->lines && same_set(c, k, n, f);
    default:
        return same_set(c, k, n, f);
    }
}

bool diag_rival_right(const rmg_rival *r, const diag_kind *k, const rmg_sim_fault *f)
{
    return k->truth == TRUTH_CHIP ? r->is.socket == f->chip
           : k->truth == TRUTH_DATA
               ? r->is.said == RMG_SAY_ALL_ON_LINE && r->is.bits == (rmg_word)1 << f->line
               : false;
}

bool diag_names_in_a_set(const diag_case *c, const rmg_suspect *s, unsigned n)
{
    chip_set named;
    bool each = false, only = true;

    named_set(c, &s->finding, &named);
    for (uint16_t i = 0; i < c->board->board->socket_count; i++) {
        bool meant = !named.has[i];

        for (uint16_t k = 0; k < c->fault_count; k++)
            meant |= c->faults[k].chip == i;
        only &= meant;
    }
    for (size_t i = 0; i < s->rival_count; i++)
        each |= s->rivals[i].is.said == RMG_SAY_EACH_OF_THESE;
    return each && only && named.has[c->faults[n].chip];
}

/* Kinds that are one and the same thing, said of a chip, a bank or all. */
static rmg_fault_kind plain_kind(rmg_fault_kind kind)
{
    static const rmg_fault_kind same[][2] = {{RMG_FAULT_WEAK, RMG_FAULT_CELL},
                                             {RMG_FAULT_DESELECTED, RMG_FAULT_MISSING},
                                             {RMG_FAULT_ADDRESS_STUCK, RMG_FAULT_ADDRESS_BANK},
                                             {RMG_FAULT_DATA_LINE, RMG_FAULT_LINE_STUCK}};

    for (size_t i = 0; i < sizeof same / sizeof *same; i++)
        if (same[i][0] == kind)
            return same[i][1];
    return kind;
}

bool diag_kind_among(const rmg_suspect *s, const diag_kind *k)
{
    for (size_t i = 0; i < s->replay_count; i++)
        for (size_t n = 0; s->replays[i].same && n < s->replays[i].fault_count; n++)
            if (plain_kind(s->replays[i].faults[n].kind) == plain_kind(k->fault))
                return true;
    return false;
}

bool diag_wrong_socket(const diag_case *c, const diag_kind *const *kinds)
{
    for (size_t i = 0; i < c->suspects.count; i++) {
        const rmg_suspect *s = &c->suspects.list[i];
        bool meant = false;

        if (s->finding.socket == RMG_NO_SOCKET || s->confidence <= 0.5)
            continue;
        for (uint16_t n = 0; n < c->fault_count; n++)
            meant |= kinds[n]->truth == TRUTH_CHIP
                         ? s->finding.socket == c->faults[n].chip
                         : diag_place_right(c, s, kinds[n], &c->faults[n]);
        if (!meant)
            return true;
    }
    return false;
}
