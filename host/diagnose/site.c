/* What is found of a place to which what comes and goes is put. */
#include <string.h>

#include "moments.h"

#define SPARED 40u /* words of a bank that failed, and a chip of it in none of them */

bool rmg_fits_site(const site *s, const moment *m)
{
    return rmg_has_bank(&s->banks, m->bank) &&
           (s->kind != SITE_LINE || m->bits == (rmg_word)1 << s->bit) &&
           ((s->kind != SITE_PAIR && s->kind != SITE_DRIVER) || !(m->bits & ~s->pair));
}

/* Counts the tally's reads of these bits of a bank. */
void rmg_count_reads(const weigher *w, rmg_finding *f, uint8_t bank, rmg_word bits)
{
    for (unsigned i = 0; bank < RMG_TALLY_BANKS && i < RMG_WORD_BITS; i++)
        if (bits >> i & 1u) {
            f->failed_high += w->run->tally.bits[bank][i].high;
            f->failed_low += w->run->tally.bits[bank][i].low;
        }
}

/* Did the chip never fail, though so many words of its bank did at others? Then what comes and goes
 * is no matter of its. */
static bool is_spared(const weigher *w, const rmg_rule *rule)
{
    rmg_finding reads = {0};

    if (rule->bank >= RMG_TALLY_BANKS)
        return false;
    rmg_count_reads(w, &reads, rule->bank, rmg_rule_bits(rule) & w->run->mask);
    return !reads.failed_high && !reads.failed_low &&
           rmg_failset_words(w->run->failures, &w->board->bank_wheres[rule->bank], w->run->mask) >=
               SPARED;
}

/* The finding about what a bank, or all of them, share: only of those of their chips that fail. */
static void leave_out_spared(const weigher *w, const site *s, rmg_finding *f)
{
    socket_set set;
    rmg_word bits = 0;
    unsigned left = 0;

    memset(&set, 0, sizeof set);
    for (uint16_t r = 0; r < w->board->placement.rule_count; r++) {
        const rmg_rule *rule = &w->board->placement.rules[r];

        if (!rmg_has_bank(&s->banks, rule->bank) || is_spared(w, rule))
            continue;
        left += !rmg_set_holds(&set, rule->socket);
        rmg_set_include(&set, rule->socket);
        bits |= rmg_rule_bits(rule);
    }
    if (left < 2 || memcmp(f->among, set.bits, sizeof f->among) == 0)
        return;
    memcpy(f->among, set.bits, sizeof f->among);
    f->some = true;
    f->bits &= bits;
}

/* The finding about something that several sockets share. */
rmg_finding rmg_site_finding(const weigher *w, const site *s)
{
    rmg_finding f = {.kind = s->kind == SITE_NOISE    ? RMG_FINDING_SPREAD
                             : s->kind == SITE_DRIVER ? RMG_FINDING_DRAGGED
                                                      : RMG_FINDING_NOW_AND_THEN,
                     .of = s->kind == SITE_LINE   ? RMG_FINDING_DATA_LINE
                           : s->kind == SITE_PAIR ? RMG_FINDING_DATA_SHORT
                                                  : RMG_FINDING_BANK_SILENT,
                     .high_wins = s->high_wins,
                     .socket = RMG_NO_SOCKET,
                     .bank = s->kind == SITE_BANK ? s->bank : RMG_NO_BANK,
                     .bank2 = RMG_NO_BANK,
                     .lane = RMG_NO_BANK,
                     .point = RMG_NO_POINT};
    socket_set set;

    memset(&set, 0, sizeof set);
    for (guint i = 0; i < w->failed->len; i++)
        f.bits |= g_array_index(w->failed, socket_failed, i).bits & w->run->mask;
    if (s->kind == SITE_LINE)
        f.bits = (rmg_word)1 << s->bit;
    if (s->kind == SITE_PAIR || s->kind == SITE_DRIVER)
        f.bits = s->pair;
    if (s->kind == SITE_NOISE)
        f.bits = 0;
    for (guint i = 0; s->kind == SITE_NOISE && i < w->moments->len; i++)
        f.bits |= g_array_index(w->moments, moment, i).bits;
    for (uint16_t r = 0; r < w->board->placement.rule_count; r++) {
        const rmg_rule *rule = &w->board->placement.rules[r];

        if (!rmg_has_bank(&s->banks, rule->bank) ||
            ((s->kind == SITE_LINE || s->kind == SITE_PAIR) && !(rmg_rule_bits(rule) & f.bits)))
            continue;
        rmg_set_include(&set, rule->socket);
        if (s->kind == SITE_BANK)
            f.bits |= rmg_rule_bits(rule) & w->run->mask;
    }
    if (s->kind == SITE_DRIVER) {
        f.of = RMG_FINDING_ALL_SILENT; /* not said of this kind */
        f.socket = s->socket;
        f.bank = w->board->placement.rules[s->rule].bank;
        f.bank2 = s->bank;
    }
    for (size_t b = 0; b < w->board->bank_count; b++)
        if (rmg_has_bank(&s->banks, (uint8_t)b))
            rmg_count_reads(w, &f, (uint8_t)b, f.bits);
    memcpy(f.among, set.bits, sizeof f.among);
    if (s->kind == SITE_BANK || s->kind == SITE_ALL)
        leave_out_spared(w, s, &f);
    return f;
}
