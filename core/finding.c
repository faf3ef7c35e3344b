/* First findings: wiring and tally put to places. Knows no words and no probabilities. */
#include "rimeglass/finding.h"

#include <string.h>

typedef struct lister {
    const rmg_evidence *e;
    rmg_finding *out;
    uint16_t room;
    uint16_t count;
    uint8_t lane; /* findings in all banks are about this lane only; RMG_NO_BANK: about all */
} lister;

static rmg_word dead_bits(const rmg_evidence *e, uint8_t bank)
{
    const rmg_wiring *w = &e->wirings[bank];

    if (!e->wired[bank])
        return 0;
    return (rmg_word)((w->low | w->high | w->opposite | w->unsteady) & e->mask);
}

static rmg_word bank_bits(const rmg_evidence *e, uint8_t bank)
{
    rmg_word bits = 0;

    for (uint16_t r = 0; r < e->placement->rule_count; r++)
        if (e->placement->rules[r].bank == bank)
            bits |= rmg_rule_bits(&e->placement->rules[r]);
    return bits;
}

/* All bits that this rule's socket holds in its bank; 0 if an earlier rule gave them already. */
static rmg_word socket_bits(const rmg_evidence *e, uint16_t rule)
{
    const rmg_rule *rules = e->placement->rules;
    rmg_word bits = 0;

    for (uint16_t r = 0; r < e->placement->rule_count; r++)
        if (rules[r].bank == rules[rule].bank && rules[r].socket == rules[rule].socket) {
            if (r < rule)
                return 0;
            bits |= rmg_rule_bits(&rules[r]);
        }
    return bits;
}

static uint16_t bank_sockets(const rmg_evidence *e, uint8_t bank)
{
    uint16_t count = 0;

    for (uint16_t r = 0; r < e->placement->rule_count; r++)
        if (e->placement->rules[r].bank == bank && socket_bits(e, r))
            count++;
    return count;
}

static bool silent(const rmg_evidence *e, uint8_t bank)
{
    const rmg_word bits = bank_bits(e, bank);

    return e->wired[bank] && bits && (dead_bits(e, bank) & bits) == bits;
}

/* Banks whose data bits hang on the same lines: those chosen by the same low address lines. */
static bool same_lane(const rmg_evidence *e, uint8_t a, uint8_t b)
{
    return e->banks[a].mask == e->banks[b].mask && e->banks[a].match == e->banks[b].match;
}

/* Is the finding about this bank? */
static bool concerns(const rmg_evidence *e, const rmg_finding *f, uint8_t bank)
{
    if (f->bank != RMG_NO_BANK)
        return f->bank == bank;
    return f->lane == RMG_NO_BANK || same_lane(e, f->lane, bank);
}

/* Failing reads of `bits`, in one bank or, with RMG_NO_BANK, in all. */
static void add_counts(const rmg_evidence *e, rmg_finding *f)
{
    for (uint8_t b = 0; b < e->bank_count && b < e->tally->bank_count; b++) {
        if (!concerns(e, f, b))
            continue;
        for (uint8_t i = 0; i < RMG_WORD_BITS; i++)
            if ((rmg_word)(f->bits >> i) & 1u) {
                f->failed_high += e->tally->bits[b][i].high;
                f->failed_low += e->tally->bits[b][i].low;
            }
    }
}

static void add(lister *l, rmg_finding_kind kind, uint8_t bank, uint16_t socket, rmg_word bits,
                rmg_addr lines)
{
    rmg_finding f;

    memset(&f, 0, sizeof f);
    f.kind = kind;
    f.bank = bank;
    f.lane = l->lane;
    f.bank2 = RMG_NO_BANK;
    f.point = RMG_NO_POINT;
    f.socket = socket;
    f.bits = bits;
    f.lines = lines;
    f.low = f.high = f.opposite = bits;
    for (uint8_t b = 0; b < l->e->bank_count; b++) {
        if (!l->e->wired[b] || !concerns(l->e, &f, b) || !(bank_bits(l->e, b) & bits))
            continue;
        f.low &= l->e->wirings[b].low;
        f.high &= l->e->wirings[b].high;
        f.opposite &= l->e->wirings[b].opposite;
    }
    if (kind == RMG_FINDING_CELLS)
        f.low = f.high = f.opposite = 0;
    add_counts(l->e, &f);
    if (l->count < l->room)
        l->out[l->count] = f;
    l->count++;
}

/* Bits dead in the same way in all banks of a lane (RMG_NO_BANK: of the board) that have them, two
 * banks or more, and not reported already. Returns them and those. */
static rmg_word list_data_lines(lister *l, uint8_t lane, rmg_word told)
{
    const rmg_evidence *e = l->e;
    rmg_word found = told;
    rmg_word bit = 1;

    for (uint8_t i = 0; i < RMG_WORD_BITS; i++, bit = (rmg_word)(bit << 1)) {
        uint8_t banks = 0;
        rmg_word low = bit & e->mask, high = low, opposite = low;

        for (uint8_t b = 0; b < e->bank_count; b++) {
            if (!e->wired[b] || silent(e, b) || !(bank_bits(e, b) & bit) ||
                (lane != RMG_NO_BANK && !same_lane(e, lane, b)))
                continue;
            banks++;
            low &= e->wirings[b].low;
            high &= e->wirings[b].high;
            opposite &= e->wirings[b].opposite;
        }
        if (banks >= 2 && !(told & bit) && (low | high | opposite)) {
            found |= bit;
            l->lane = lane;
            add(l, RMG_FINDING_DATA_LINE, RMG_NO_BANK, RMG_NO_SOCKET, bit, 0);
            l->lane = RMG_NO_BANK;
        }
    }
    return found;
}

static void list_data_at_sockets(lister *l, uint8_t bank, rmg_word lines_found)
{
    const rmg_evidence *e = l->e;
    const rmg_word dead = (rmg_word)(dead_bits(e, bank) & ~lines_found);

    if (silent(e, bank) && bank_sockets(e, bank) > 1) {
        add(l, RMG_FINDING_BANK_SILENT, bank, RMG_NO_SOCKET, bank_bits(e, bank), 0);
        return;
    }
    for (uint16_t r = 0; r < e->placement->rule_count; r++)
        if (e->placement->rules[r].bank == bank && (socket_bits(e, r) & dead))
            add(l, RMG_FINDING_DATA_AT_SOCKET, bank, e->placement->rules[r].socket,
                (rmg_word)(socket_bits(e, r) & dead), 0);
}

/* Address lines that every sound bit of the bank ignores, where that is more than one socket. */
static rmg_addr bank_ignores(const rmg_evidence *e, uint8_t bank)
{
    const rmg_word sound = (rmg_word)(bank_bits(e, bank) & ~dead_bits(e, bank));
    rmg_addr lines = 0;

    if (!e->wired[bank] || !sound || bank_sockets(e, bank) < 2)
        return 0;
    for (uint8_t k = 0; k < RMG_ADDR_BITS; k++)
        if ((e->wirings[bank].ignored[k] & sound) == sound)
            lines |= (rmg_addr)((rmg_addr)1u << k);
    return lines;
}

static void list_address_at_sockets(lister *l, uint8_t bank, rmg_addr told)
{
    const rmg_evidence *e = l->e;

    for (uint16_t r = 0; r < e->placement->rule_count; r++) {
        const rmg_rule *rule = &e->placement->rules[r];
        const rmg_word bits = rule->bank == bank ? socket_bits(e, r) : 0;
        rmg_word ignoring = 0;
        rmg_addr lines = 0;

        for (uint8_t k = 0; bits && k < RMG_ADDR_BITS; k++) {
            const rmg_addr line = (rmg_addr)((rmg_addr)1u << k);
            const rmg_word some = (rmg_word)(e->wirings[bank].ignored[k] & bits);

            if (!(told & line) && some) {
                ignoring |= some;
                lines |= line;
            }
        }
        if (lines)
            add(l, RMG_FINDING_ADDRESS_AT_SOCKET, bank, rule->socket, ignoring, lines);
    }
}

static void list_address_lines(lister *l)
{
    const rmg_evidence *e = l->e;
    rmg_addr everywhere = (rmg_addr) ~(rmg_addr)0;
    uint8_t banks = 0;

    for (uint8_t b = 0; b < e->bank_count; b++)
        if (e->wired[b] && !silent(e, b)) {
            everywhere &= bank_ignores(e, b);
            banks++;
        }
    if (banks < 2)
        everywhere = 0;
    if (everywhere)
        add(l, RMG_FINDING_ADDRESS_LINES, RMG_NO_BANK, RMG_NO_SOCKET, e->mask, everywhere);
    for (uint8_t b = 0; b < e->bank_count; b++) {
        const rmg_addr here = bank_ignores(e, b);
        const rmg_addr rest = (rmg_addr)(here & ~everywhere);

        if (!e->wired[b])
            continue;
        if (rest)
            add(l, RMG_FINDING_ADDRESS_OF_BANK, b, RMG_NO_SOCKET,
                (rmg_word)(bank_bits(e, b) & ~dead_bits(e, b)), rest);
        list_address_at_sockets(l, b, here);
    }
}

/* Bits of the bank that a line already explains. */
static rmg_word explained(const rmg_evidence *e, uint8_t bank)
{
    rmg_word bits = dead_bits(e, bank);

    for (uint8_t k = 0; e->wired[bank] && k < RMG_ADDR_BITS; k++)
        bits |= e->wirings[bank].ignored[k];
    return bits;
}

static void list_cells(lister *l, uint8_t bank)
{
    const rmg_evidence *e = l->e;
    rmg_word failed = 0;

    for (uint8_t i = 0; bank < e->tally->bank_count && i < RMG_WORD_BITS; i++)
        if (e->tally->bits[bank][i].high || e->tally->bits[bank][i].low)
            failed |= (rmg_word)((rmg_word)1u << i);
    failed &= (rmg_word)~explained(e, bank);
    for (uint16_t r = 0; failed && r < e->placement->rule_count; r++)
        if (e->placement->rules[r].bank == bank && (socket_bits(e, r) & failed))
            add(l, RMG_FINDING_CELLS, bank, e->placement->rules[r].socket,
                (rmg_word)(socket_bits(e, r) & failed), 0);
}

uint16_t rmg_findings_list(const rmg_evidence *evidence, rmg_finding *findings, uint16_t room)
{
    lister l = {evidence, findings, room, 0, RMG_NO_BANK};
    uint8_t wired = 0, dead = 0;
    rmg_word everywhere;

    for (uint8_t b = 0; b < evidence->bank_count; b++) {
        wired = (uint8_t)(wired + evidence->wired[b]);
        dead = (uint8_t)(dead + silent(evidence, b));
    }
    if (dead > 1 && dead == wired) {
        add(&l, RMG_FINDING_ALL_SILENT, RMG_NO_BANK, RMG_NO_SOCKET, evidence->mask, 0);
        return l.count;
    }
    everywhere = list_data_lines(&l, RMG_NO_BANK, 0);
    for (uint8_t lane = 0; lane < evidence->bank_count; lane++) {
        rmg_word lines;
        uint8_t b = 0;

        while (!same_lane(evidence, b, lane))
            b++;
        if (b < lane)
            continue; /* reported with an earlier bank of the lane */
        lines = list_data_lines(&l, lane, everywhere);
        for (; b < evidence->bank_count; b++)
            if (same_lane(evidence, lane, b))
                list_data_at_sockets(&l, b, lines);
    }
    list_address_lines(&l);
    for (uint8_t b = 0; b < evidence->bank_count; b++)
        list_cells(&l, b);
    return l.count;
}
