/* A chip that is the only one of its line to show what is found: the others on it fail themselves,
 * and give what they would if the line were at fault. */
#include "share.h"

#define WHOLE 0.9 /* of the words of a bank */

/* How a bit reads: of the wiring check, one of these or none. */
static rmg_word reads_alike(const rmg_finding *f, const rmg_wiring *w)
{
    return f->low == f->bits        ? w->low
           : f->high == f->bits     ? w->high
           : f->opposite == f->bits ? w->opposite
                                    : 0;
}

/* The other chips of a finding's line: how many there are, and which of them hide it. */
typedef struct others {
    unsigned count, hidden;
} others;

/* A data line that reads as it does here in all other banks, where more than the line is wrong. */
static others on_data_line(const rmg_run *run, const rmg_finding *f)
{
    const rmg_placement *placement = &run->board->placement;
    const rmg_finding line = {.kind = RMG_FINDING_DATA_LINE,
                              .socket = RMG_NO_SOCKET,
                              .bank = RMG_NO_BANK,
                              .lane = rmg_board_lanes(run->board) ? f->bank : RMG_NO_BANK,
                              .bits = f->bits};
    const socket_set on_it = rmg_sockets_of(run, &line);
    others o = {0, 0};

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];

        if (rule->bank == f->bank || !run->bank_words[rule->bank] ||
            !(rmg_rule_bits(rule) & f->bits) || !rmg_set_holds(&on_it, rule->socket))
            continue;
        o.count++;
        o.hidden += run->wired[rule->bank] &&
                    !(f->bits & ~reads_alike(f, &run->wirings[rule->bank]) & run->mask);
    }
    return o;
}

/* Do nearly all words that were tested of a bank fail in all these bits? */
static bool fails_whole(const rmg_run *run, uint8_t bank, rmg_word bits)
{
    const rmg_where *where = &run->board->bank_wheres[bank];

    for (; bits; bits &= bits - 1u)
        if ((double)rmg_failset_words(run->failures, where, bits & (~bits + 1u)) <
            WHOLE * (double)run->bank_words[bank])
            return false;
    return true;
}

/* Chips that fail in nearly all words, as one does whose line is at fault, where the lines were not
 * checked at all. */
static others on_unchecked_line(const rmg_run *run, const rmg_finding *f)
{
    const rmg_placement *placement = &run->board->placement;
    others o = {0, 0};

    if (run->wired[f->bank] || !fails_whole(run, f->bank, f->bits))
        return o;
    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];

        if (rule->bank == f->bank || !run->bank_words[rule->bank] ||
            !(rmg_rule_bits(rule) & f->bits))
            continue;
        o.count++;
        o.hidden +=
            !run->wired[rule->bank] && fails_whole(run, rule->bank, f->bits & rmg_rule_bits(rule));
    }
    return o;
}

/* Data bits of the bank whose cells cannot be seen: they read one thing, or what was read before.
 */
static rmg_word dead_bits(const rmg_run *run, const GArray *list, uint8_t bank)
{
    const rmg_wiring *w = &run->wirings[bank];
    rmg_word dead = w->low | w->high | w->opposite;

    for (guint i = 0; i < list->len; i++) {
        const rmg_finding *f = &g_array_index(list, rmg_finding, i);

        if (f->bank == bank &&
            (f->kind == RMG_FINDING_STALE || f->kind == RMG_FINDING_DATA_AT_SOCKET ||
             f->kind == RMG_FINDING_NEVER_WRITTEN))
            dead |= f->bits;
    }
    return dead;
}

/* What all chips of a bank share, of which none else answers. */
static others in_bank(const rmg_run *run, const GArray *list, const rmg_finding *f)
{
    const rmg_placement *placement = &run->board->placement;
    const rmg_word dead = dead_bits(run, list, f->bank);
    others o = {0, 0};

    for (uint16_t r = 0; r < placement->rule_count; r++) {
        const rmg_rule *rule = &placement->rules[r];

        if (rule->bank != f->bank || rule->socket == f->socket)
            continue;
        o.count++;
        o.hidden += !(rmg_rule_bits(rule) & ~dead & run->mask);
    }
    return o;
}

void rmg_mark_hidden(const rmg_run *run, GArray *list)
{
    for (guint i = 0; i < list->len && !run->heard; i++) {
        rmg_finding *f = &g_array_index(list, rmg_finding, i);
        others o = {0, 0};

        if (f->socket == RMG_NO_SOCKET || f->bank >= run->board->bank_count)
            continue;
        if (f->kind == RMG_FINDING_DATA_AT_SOCKET && !run->wired[f->bank])
            o = on_unchecked_line(run, f);
        else if (f->kind == RMG_FINDING_DATA_AT_SOCKET && !(f->bits & (f->bits - 1u)))
            o = on_data_line(run, f);
        else if (f->kind == RMG_FINDING_ADDRESS_AT_SOCKET || f->kind == RMG_FINDING_ADDRESS_SHORT ||
                 f->kind == RMG_FINDING_NEVER_WRITTEN)
            o = in_bank(run, list, f);
        else if (f->kind == RMG_FINDING_CELLS)
            o = on_unchecked_line(run, f);
        f->or_its_line = o.count && o.hidden == o.count;
    }
}
