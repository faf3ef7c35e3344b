/* What a right answer is. */
#include <string.h>

#include "diag.h"

/* The tested RAM chips that a suspect is about. */
static void chips_of(const diag_case *c, const rmg_finding *f, rmg_sim_fault *set)
{
    const rmg_board *board = c->board->board;

    memset(set, 0, sizeof *set);
    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        if (!c->run.bank_words[rule->bank] ||
            board->sockets[rule->socket].part->kind == RMG_PART_ROM)
            continue;
        if (f->socket != RMG_NO_SOCKET ? rule->socket == f->socket
                                       : f->bank == RMG_NO_BANK || rule->bank == f->bank)
            rmg_fault_include(set, rule->socket);
    }
    if (f->kind == RMG_FINDING_SHARED)
        memcpy(set->scope, f->among, sizeof f->among);
    if (f->kind != RMG_FINDING_BRANCH)
        return;
    memset(set, 0, sizeof *set);
    for (uint16_t p = f->point; p < board->lines[f->line].point_count; p++) {
        const rmg_line *line = &board->lines[f->line];
        uint16_t up = p;

        while (up != RMG_NO_POINT && up != f->point)
            up = line->points[up].parent;
        if (up == f->point && line->points[p].socket != RMG_NO_SOCKET)
            rmg_fault_include(set, line->points[p].socket);
    }
}

/* Are the chips that the suspect is about just those the fault acts for, of tested RAM and, with
 * data bits, of those that hold them? */
static bool same_chips(const diag_case *c, const rmg_finding *n, const rmg_sim_fault *f,
                       rmg_word bits)
{
    const rmg_board *board = c->board->board;
    rmg_sim_fault named;

    chips_of(c, n, &named);
    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *rule = &board->placement.rules[r];

        if (!c->run.bank_words[rule->bank] ||
            board->sockets[rule->socket].part->kind == RMG_PART_ROM ||
            (bits && !(rmg_rule_bits(rule) & bits)))
            continue;
        if (rmg_fault_acts_for(&named, rule->socket) != rmg_fault_acts_for(f, rule->socket))
            return false;
    }
    return true;
}

bool diag_place_right(const diag_case *c, const rmg_suspect *s, const diag_kind *k,
                      const rmg_sim_fault *f)
{
    const rmg_finding *n = &s->finding;
    const rmg_word bit = (rmg_word)1 << f->line, both = bit | (rmg_word)1 << f->line2;

    switch (k->truth) {
    case TRUTH_CHIP:
        return n->socket == f->chip;
    case TRUTH_DATA:
        return n->bits == bit && same_chips(c, n, f, bit);
    case TRUTH_TOUCH:
        return n->bits == both;
    case TRUTH_LINES:
        return n->lines == f->lines && same_chips(c, n, f, 0);
    case TRUTH_WRITE:
    case TRUTH_BANK:
        return same_chips(c, n, f, 0);
    case TRUTH_SELECT:
        return (n->bank == f->bank && n->bank2 == f->bank2) ||
               (n->bank == f->bank2 && n->bank2 == f->bank);
    default:
        return n->socket == RMG_NO_SOCKET;
    }
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
