/* Several sockets that fail alike, and that no traced line joins: what they share is suspected,
 * traced or not, and no chip of them. */
#include <string.h>

#include "share.h"

/* One data bit that reads alike. */
static bool same_bit(const rmg_finding *a, const rmg_finding *b)
{
    return a->bits == b->bits && !(a->bits & (a->bits - 1u)) && a->low == b->low &&
           a->high == b->high && a->opposite == b->opposite;
}

bool rmg_findings_alike(const rmg_finding *a, const rmg_finding *b)
{
    const rmg_alike how = rmg_finding_row(a->kind)->alike;

    if (how != rmg_finding_row(b->kind)->alike)
        return false;
    switch (how) {
    case RMG_ALIKE_ADDRESS:
        return a->lines == b->lines;
    case RMG_ALIKE_WRITE:
        return true;
    case RMG_ALIKE_DATA:
        return same_bit(a, b);
    case RMG_ALIKE_NOTHING:
        return false;
    }
    return false;
}

/* May be one of several that are alike, at single sockets or in whole banks? A traced line has had
 * its say. */
static bool at_a_place(const rmg_finding *f)
{
    return f->kind == RMG_FINDING_DATA_AT_SOCKET || f->kind == RMG_FINDING_ADDRESS_AT_SOCKET ||
           f->kind == RMG_FINDING_ADDRESS_OF_BANK || f->kind == RMG_FINDING_NEVER_WRITTEN ||
           (f->kind == RMG_FINDING_BANK_NEVER_WRITTEN && f->bank != RMG_NO_BANK);
}

/* Findings like the one at `i` at other sockets become one. */
static void share_at(const rmg_run *run, GArray *list, guint i)
{
    const rmg_finding first = g_array_index(list, rmg_finding, i);
    rmg_finding shared = first;
    socket_set set;
    unsigned found = 0;

    memset(&set, 0, sizeof set);
    shared.bits = 0;
    for (guint j = i; j < list->len; j++) {
        const rmg_finding *f = &g_array_index(list, rmg_finding, j);

        if (at_a_place(f) && rmg_findings_alike(f, &first)) {
            const socket_set of = rmg_sockets_of(run, f);

            rmg_set_join(&set, &of);
            shared.bits |= f->bits;
            shared.failed_high += j > i ? f->failed_high : 0;
            shared.failed_low += j > i ? f->failed_low : 0;
            found++;
        }
    }
    if (found < 2)
        return;
    for (guint k = list->len; k-- > i + 1;)
        if (at_a_place(&g_array_index(list, rmg_finding, k)) &&
            rmg_findings_alike(&g_array_index(list, rmg_finding, k), &first))
            g_array_remove_index(list, k);
    shared.of = first.kind == RMG_FINDING_ADDRESS_OF_BANK      ? RMG_FINDING_ADDRESS_AT_SOCKET
                : first.kind == RMG_FINDING_BANK_NEVER_WRITTEN ? RMG_FINDING_NEVER_WRITTEN
                                                               : first.kind;
    shared.kind = RMG_FINDING_SHARED;
    shared.bank = rmg_one_bank(run, &set);
    shared.socket = RMG_NO_SOCKET;
    memcpy(shared.among, set.bits, sizeof shared.among);
    g_array_index(list, rmg_finding, i) = shared;
}

/* Silent pieces: findings whose bits read as if nothing drove them. */
typedef struct pieces {
    const rmg_run *run;
    const GArray *list;
    bool *in; /* [list->len] */
} pieces;

/* How all its bits read, where that may be undriven: 'l'ow, 'h'igh, the 'o'pposite of what was
 * written; else 0. */
static char reads_undriven(const rmg_board *board, const rmg_finding *f)
{
    const char reads = !f->bits                 ? 0
                       : f->low == f->bits      ? 'l'
                       : f->high == f->bits     ? 'h'
                       : f->opposite == f->bits ? 'o'
                                                : 0;
    const char said = board->undriven == RMG_UNDRIVEN_HIGH  ? 'h'
                      : board->undriven == RMG_UNDRIVEN_LOW ? 'l'
                                                            : 'o';

    return board->undriven_known && reads != said ? 0 : reads;
}

static bool may_be_piece(const rmg_finding *f)
{
    return f->kind == RMG_FINDING_DATA_AT_SOCKET || f->kind == RMG_FINDING_DATA_LINE ||
           f->kind == RMG_FINDING_BANK_SILENT;
}

/* Do the pieces take in every bit of this rule's chip? */
static bool is_covered(const pieces *p, const rmg_rule *rule)
{
    rmg_word left = rmg_rule_bits(rule) & p->run->mask;

    for (guint i = 0; i < p->list->len; i++) {
        const rmg_finding *f = &g_array_index(p->list, rmg_finding, i);
        const socket_set of = rmg_sockets_of(p->run, f);

        if (p->in[i] && rmg_set_holds(&of, rule->socket) &&
            (f->bank == RMG_NO_BANK || f->bank == rule->bank))
            left &= ~f->bits;
    }
    return !left;
}

/* Leaves out pieces with a chip that still answers on some pin. */
static void keep_whole_chips(pieces *p)
{
    const rmg_placement *placement = &p->run->board->placement;
    bool changed = true;

    while (changed) {
        changed = false;
        for (guint i = 0; i < p->list->len; i++) {
            const rmg_finding *f = &g_array_index(p->list, rmg_finding, i);
            const socket_set of = rmg_sockets_of(p->run, f);

            for (uint16_t r = 0; p->in[i] && r < placement->rule_count; r++)
                if (rmg_set_holds(&of, placement->rules[r].socket) &&
                    (f->bank == RMG_NO_BANK || f->bank == placement->rules[r].bank) &&
                    !is_covered(p, &placement->rules[r])) {
                    p->in[i] = false;
                    changed = true;
                }
        }
    }
}

/* Are the pieces more than data lines of one-bit chips, which are likelier to be just that, or one
 * data line's? */
static bool are_chips(const pieces *p)
{
    const rmg_placement *placement = &p->run->board->placement;
    unsigned count = 0;
    bool wide = false, single = false, one_bit = true;
    rmg_word bits = 0;

    for (guint i = 0; i < p->list->len; i++) {
        const rmg_finding *f = &g_array_index(p->list, rmg_finding, i);

        if (!p->in[i])
            continue;
        count++;
        single |= f->kind != RMG_FINDING_DATA_LINE;
        bits |= f->bits;
        one_bit &= !(bits & (bits - 1u));
        for (uint16_t r = 0; r < placement->rule_count; r++)
            wide |=
                placement->rules[r].width > 1 && (rmg_rule_bits(&placement->rules[r]) & f->bits);
    }
    return count > 1 && !one_bit && (single || wide);
}

/* How likely, before anything is measured: */
#define SOME_SELECT                                                                                \
    0.02 /* a select or strobe of some chips, of all banks; any number is as likely */
#define SILENT_CHIP  0.2  /* one chip that answers on none of its pins, wherever it is; */
#define SECOND_FAULT 0.05 /* ... times this, that another has a fault of its own */

#define EACH_MOST 490 /* thousandths: a probe on the selects comes before any chip */

/* Where the pieces are two chips of different banks, how likely it is that each has a fault of its
 * own: few selects lead to just these, of so many chips. Else 0. In thousandths. */
static uint16_t each_of_two(const pieces *p)
{
    const rmg_finding *first = NULL;
    bool chips = true, apart = false;
    unsigned count = 0;
    double of = 0, select, each;

    for (guint i = 0; i < p->list->len; i++) {
        const rmg_finding *f = &g_array_index(p->list, rmg_finding, i);

        if (!p->in[i])
            continue;
        chips &= f->kind == RMG_FINDING_DATA_AT_SOCKET;
        apart |= first && first->bank != f->bank && first->socket != f->socket;
        first = first ? first : f;
        count++;
    }
    for (uint16_t r = 0; r < p->run->board->placement.rule_count; r++)
        of += p->run->bank_words[p->run->board->placement.rules[r].bank] != 0;
    if (count != 2 || !chips || !apart || of < 3)
        return 0;
    select = SOME_SELECT / (of - 2) / (of * (of - 1) / 2);
    each = SECOND_FAULT * (SILENT_CHIP / of) * (SILENT_CHIP / of);
    return MIN((uint16_t)(1000 * each / (select + each) + 0.5), EACH_MOST);
}

/* Several chips that answer on none of their pins, and read alike: one select, strobe or supply
 * that leads to all of them is likelier than a fault at each, but where they are two of different
 * banks. */
static void share_silence(const rmg_run *run, GArray *list, char reads)
{
    pieces p = {run, list, g_new0(bool, list->len + 1u)};
    rmg_finding shared = {.kind = RMG_FINDING_SHARED,
                          .of = RMG_FINDING_BANK_SILENT,
                          .socket = RMG_NO_SOCKET,
                          .bank2 = RMG_NO_BANK,
                          .lane = RMG_NO_BANK,
                          .point = RMG_NO_POINT};
    socket_set set;

    memset(&set, 0, sizeof set);
    for (guint i = 0; i < list->len; i++) {
        const rmg_finding *f = &g_array_index(list, rmg_finding, i);

        p.in[i] = may_be_piece(f) && reads_undriven(run->board, f) == reads;
    }
    keep_whole_chips(&p);
    if (are_chips(&p)) {
        const uint16_t each = each_of_two(&p);

        for (guint i = list->len; i-- > 0;) {
            rmg_finding *f = &g_array_index(list, rmg_finding, i);
            const socket_set of = rmg_sockets_of(run, f);

            if (!p.in[i])
                continue;
            rmg_set_join(&set, &of);
            shared.bits |= f->bits;
            shared.low |= f->low;
            shared.high |= f->high;
            shared.opposite |= f->opposite;
            shared.failed_high += f->failed_high;
            shared.failed_low += f->failed_low;
            f->or_each = shared.or_each = each;
            if (!each)
                g_array_remove_index(list, i);
        }
        shared.bank = rmg_one_bank(run, &set);
        memcpy(shared.among, set.bits, sizeof shared.among);
        g_array_prepend_val(list, shared);
    }
    g_free(p.in);
}

void rmg_join_silent(const rmg_run *run, GArray *list)
{
    for (const char *reads = "lho"; *reads && !run->heard; reads++)
        share_silence(run, list, *reads);
}

void rmg_join_shared(const rmg_run *run, GArray *list)
{
    for (guint i = 0; i < list->len; i++) {
        const rmg_finding *f = &g_array_index(list, rmg_finding, i);

        if (at_a_place(f) && rmg_findings_alike(f, f))
            share_at(run, list, i);
    }
}
