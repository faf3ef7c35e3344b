/* Findings of a run that another program reported. It had no wiring check of ours, and often no
 * addresses: so bits are put to sockets, and bits that fail alike in several places to what those
 * share, and nothing is said of what was not reported. */
#include "rimeglass/heard.h"

#include "internal.h"

/* Fewer failing words than this with a place of their own are taken for cells. */
#define FEW_CELLS 8u

/* Does a ROM lie there that a test ROM has read? What it held says more than these reports: it is
 * compared with its image. */
static bool read_whole(const rmg_run *run, size_t bank)
{
    const rmg_told *told = run->heard->told;

    for (unsigned i = 0; told && told->rom_line_count && i < told->plan.rom_count; i++)
        if (bank < run->board->bank_count &&
            rmg_dead_bank(run->board, told->plan.roms[i].range.first) == bank)
            return true;
    return false;
}

/* The bits of a bank that were reported; chips named without a bit count with all of theirs. */
static rmg_word reported(const rmg_run *run, size_t bank)
{
    const rmg_board *board = run->board;
    rmg_word bits = 0;

    if (read_whole(run, bank))
        return 0;
    for (uint8_t i = 0; i < board->word_bits; i++)
        if (rmg_heard_count(run, bank, (rmg_word)1 << i))
            bits |= (rmg_word)1 << i;
    for (uint16_t s = 0; bank < board->bank_count && s < board->socket_count; s++)
        if (run->heard->sockets[s])
            bits |= rmg_board_bits(board, (uint8_t)bank, s);
    return bits;
}

static unsigned sockets_of_bank(const rmg_board *board, uint8_t bank)
{
    unsigned count = 0;

    for (uint16_t s = 0; s < board->socket_count; s++)
        count += rmg_board_bits(board, bank, s) != 0;
    return count;
}

static bool whole_bank(const rmg_run *run, uint8_t bank)
{
    const rmg_word all = rmg_board_bits(run->board, bank, RMG_NO_SOCKET);

    if (read_whole(run, bank))
        return false;
    return run->heard->banks[bank] ||
           (all && sockets_of_bank(run->board, bank) > 1 && (reported(run, bank) & all) == all);
}

static void add(GArray *list, rmg_finding_kind kind, uint8_t bank, uint16_t socket, rmg_word bits)
{
    const rmg_finding f = {.kind = kind,
                           .socket = socket,
                           .bank = bank,
                           .lane = RMG_NO_BANK,
                           .bank2 = RMG_NO_BANK,
                           .point = RMG_NO_POINT,
                           .bits = bits};

    g_array_append_val(list, f);
}

/* Do their data bits hang on the same lines? */
static bool same_lane(const rmg_board *board, size_t a, size_t b)
{
    return board->bank_wheres[a].mask == board->bank_wheres[b].mask &&
           board->bank_wheres[a].match == board->bank_wheres[b].match;
}

/* Is the bit reported in every bank of this bank's lane that has it, two or more? */
static bool on_line(const rmg_run *run, size_t bank, rmg_word bit)
{
    unsigned banks = 0;

    for (size_t b = 0; b < run->board->bank_count; b++) {
        if (!same_lane(run->board, bank, b) ||
            !(rmg_board_bits(run->board, (uint8_t)b, RMG_NO_SOCKET) & bit))
            continue;
        if (!(reported(run, b) & bit)) {
            if (run->board->banks[b].part->kind == RMG_PART_ROM)
                continue; /* not tested by writing: it says nothing */
            return false;
        }
        banks++;
    }
    return banks > 1;
}

/* Lines, once for each lane. Returns the bits of `bank` that lie on one. */
static rmg_word add_lines(const rmg_run *run, size_t bank, GArray *list)
{
    rmg_word found = 0;

    for (uint8_t i = 0; i < run->board->word_bits; i++) {
        const rmg_word bit = (rmg_word)1 << i;
        bool before = false;

        if (!(reported(run, bank) & bit) || !on_line(run, bank, bit))
            continue;
        found |= bit;
        for (guint n = 0; n < list->len; n++) {
            const rmg_finding *f = &g_array_index(list, rmg_finding, n);

            before |= f->kind == RMG_FINDING_REPORTED_LINE && f->bits == bit &&
                      (f->lane == RMG_NO_BANK || same_lane(run->board, f->lane, bank));
        }
        if (before)
            continue;
        add(list, RMG_FINDING_REPORTED_LINE, RMG_NO_BANK, RMG_NO_SOCKET, bit);
        for (size_t b = 0; b < run->board->bank_count; b++)
            if (!same_lane(run->board, bank, b))
                g_array_index(list, rmg_finding, list->len - 1u).lane = (uint8_t)bank;
    }
    return found;
}

static void add_sockets(const rmg_run *run, uint8_t bank, rmg_word bits, GArray *list)
{
    for (uint16_t s = 0; s < run->board->socket_count; s++) {
        const rmg_word here = rmg_board_bits(run->board, bank, s) & bits;
        rmg_finding f;
        cell_report cells;

        if (!here)
            continue;
        add(list, RMG_FINDING_REPORTED, bank, s,
            rmg_heard_count(run, bank, here) ? here & reported(run, bank) : 0);
        f = g_array_index(list, rmg_finding, list->len - 1u);
        rmg_cells_look(run, &f, &cells);
        /* the first few of many failures have no shape of their own */
        if (run->heard->addresses && !run->heard->at_least && f.bits && cells.cells &&
            (cells.cells < FEW_CELLS || cells.shape != SHAPE_SCATTERED))
            g_array_index(list, rmg_finding, list->len - 1u).kind = RMG_FINDING_CELLS;
    }
}

/* Failing reads by direction, where they were reported so. */
static void add_counts(const rmg_run *run, rmg_finding *f)
{
    for (size_t b = 0; b < run->board->bank_count && b < RMG_TALLY_BANKS; b++)
        for (uint8_t i = 0; i < run->board->word_bits; i++)
            if ((f->bank == RMG_NO_BANK || f->bank == b) && (f->bits >> i & 1u)) {
                const rmg_bit_tally *t = &run->tally.bits[b][i];

                f->failed_high += t->high;
                f->failed_low += t->low;
                /* a level that it may be stuck at */
                f->high |= (rmg_word)(t->high && !t->low) << i;
                f->low |= (rmg_word)(t->low && !t->high) << i;
            }
}

void rmg_heard_findings(const rmg_run *run, GArray *list)
{
    const rmg_board *board = run->board;
    const rmg_word nowhere = reported(run, board->bank_count);

    for (uint8_t b = 0; b < board->bank_count; b++) {
        const rmg_word bits = reported(run, b);

        if (whole_bank(run, b))
            add(list, RMG_FINDING_REPORTED_BANK, b, RMG_NO_SOCKET, run->heard->banks[b] ? 0 : bits);
        else if (bits)
            add_sockets(run, b, bits & ~add_lines(run, b, list), list);
    }
    for (uint8_t i = 0; i < board->word_bits; i++)
        if (nowhere >> i & 1u)
            add(list, RMG_FINDING_REPORTED_BIT, RMG_NO_BANK, RMG_NO_SOCKET, (rmg_word)1 << i);
    for (guint n = 0; n < list->len; n++)
        add_counts(run, &g_array_index(list, rmg_finding, n));
}

/* How many reports are about the finding. */
static uint64_t reports(const wording *w)
{
    const rmg_finding *f = &w->s->finding;
    const rmg_heard *h = w->run->heard;
    uint64_t count = 0;

    if (f->kind == RMG_FINDING_REPORTED_BIT)
        return rmg_heard_count(w->run, w->board->bank_count, f->bits);
    if (f->kind == RMG_FINDING_REPORTED_BANK && !f->bits)
        return h->banks[f->bank];
    if (f->socket != RMG_NO_SOCKET && !f->bits)
        return h->sockets[f->socket];
    for (size_t b = 0; b < w->board->bank_count; b++)
        if (f->bank == RMG_NO_BANK || f->bank == b)
            count += rmg_heard_count(w->run, b, f->bits);
    return count;
}

void rmg_heard_because(wording *w)
{
    const rmg_finding *f = &w->s->finding;
    const rmg_run *run = w->run;
    const bool told = run->heard->directions && f->bits && f->bank != RMG_NO_BANK;
    rmg_saying s = rmg_say_of(f, !told             ? RMG_SAY_REPORTS_UNTOLD
                                 : !f->failed_high ? RMG_SAY_REPORTS_LOW
                                 : !f->failed_low  ? RMG_SAY_REPORTS_HIGH
                                                   : RMG_SAY_REPORTS_BOTH_WAYS);

    s.n = reports(w);
    if (run->heard->directions && !f->bits)
        s.said = RMG_SAY_REPORTS_UNTOLD;
    rmg_add_reason(w, s);
    if (run->heard->at_least) {
        rmg_saying least =
            rmg_say_of(f, run->heard->limit ? RMG_SAY_REPORTS_AT_LEAST : RMG_SAY_REPORTS_FEWER);

        least.n = run->heard->limit;
        rmg_add_reason(w, least);
    }
    if (s.n == 1)
        rmg_reason(w, RMG_SAY_REPORTED_ONCE);
    if (told && f->socket != RMG_NO_SOCKET &&
        !(reported(run, f->bank) & rmg_board_bits(w->board, f->bank, RMG_NO_SOCKET) & ~f->bits))
        rmg_reason(w, RMG_SAY_NOT_OTHER_BITS);
    if (run->pass_count < 1) {
        rmg_reason(w, RMG_SAY_NO_PASS_REPORTED);
    } else if (run->pass_count > 1) {
        s = rmg_say_of(f, !rmg_run_repeats(run)   ? RMG_SAY_NOT_ALIKE
                          : run->heard->addresses ? RMG_SAY_REPEATS_WORDS
                                                  : RMG_SAY_REPEATS_BITS);
        s.n = s.said == RMG_SAY_NOT_ALIKE ? rmg_rate_of_passes(run).events : run->pass_count;
        s.m = run->pass_count;
        rmg_add_reason(w, s);
    }
}

double rmg_heard_share(const wording *w)
{
    const uint64_t all = w->run->heard->failures, here = reports(w);

    return all ? MIN((double)here / (double)all, 1.0) : 0;
}

rmg_said rmg_heard_is(const rmg_finding *f)
{
    if (f->bits)
        return rmg_finding_row(f->kind)->is;
    return f->kind == RMG_FINDING_REPORTED ? RMG_SAY_REPORTED_CHIP : RMG_SAY_REPORTED_BANK_ALONE;
}

/* Estimates by hand, docs/diagnosis.md: one report may be chance, and several sockets at once have
 * one cause oftener than several. */
double rmg_heard_confidence(const wording *w)
{
    const rmg_finding *f = &w->s->finding;
    double sure = rmg_finding_row(f->kind)->sure;
    size_t at_once = 0;

    for (size_t i = 0; i < w->all->count; i++)
        at_once += w->all->list[i].finding.socket != RMG_NO_SOCKET;
    if (f->kind == RMG_FINDING_CELLS)
        sure = 0.80;
    if (reports(w) < 2)
        sure *= 0.55;
    if (w->run->pass_count > 1 && !rmg_run_repeats(w->run))
        sure *= 0.7;
    if (f->socket != RMG_NO_SOCKET && at_once > 1)
        sure *= at_once == 2 ? 0.85 : 0.5;
    return sure;
}
