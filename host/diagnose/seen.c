/* What can be seen of what comes and goes, beside what other findings are about; and whether a run
 * of one pass tells anything of it. */
#include "moments.h"

#define SAME_WORDS 0.8 /* of all words of the bank that fail, in each of its sockets */

rmg_word rmg_failing_bits(const rmg_run *run, uint8_t bank, rmg_word bits)
{
    rmg_word failing = 0;

    for (unsigned i = 0; bank < RMG_TALLY_BANKS && i < RMG_WORD_BITS; i++)
        if (run->tally.bits[bank][i].high || run->tally.bits[bank][i].low)
            failing |= (rmg_word)1 << i;
    return failing & bits;
}

/* The data bits of a bank that findings of other kinds are about. */
rmg_word rmg_bits_of_others(const weigher *w, size_t bank)
{
    rmg_word bits = 0;

    for (guint i = 0; i < w->list->len; i++) {
        const rmg_finding *f = &g_array_index(w->list, rmg_finding, i);

        if (f->kind != RMG_FINDING_CELLS && (f->bank == RMG_NO_BANK || f->bank == bank))
            bits |= f->bits;
    }
    return bits;
}

/* Data bits that no other finding is about. */
static rmg_word bits_that_may_fail(const weigher *w)
{
    rmg_word taken = w->run->mask, cells = 0;

    for (guint i = 0; i < w->list->len; i++)
        if (g_array_index(w->list, rmg_finding, i).kind == RMG_FINDING_CELLS)
            cells |= g_array_index(w->list, rmg_finding, i).bits;
    for (size_t b = 0; b < w->board->bank_count; b++)
        taken &= w->run->bank_words[b] ? rmg_bits_of_others(w, b) : taken;
    return (w->run->mask & ~taken) | cells;
}

/* Bits of each bank at which failures could be seen. */
static void find_seen_bits(weigher *w)
{
    for (size_t b = 0; b < w->board->bank_count; b++)
        w->seen_bits[b] = w->run->mask & ~(rmg_bits_of_others(w, b) | w->taken[b]);
    for (guint i = 0; i < w->failed->len; i++) {
        const socket_failed *f = &g_array_index(w->failed, socket_failed, i);

        w->seen_bits[f->bank] |= f->bits;
    }
}

void rmg_look_at_failed(weigher *w)
{
    g_array_set_size(w->moments, 0);
    g_array_set_size(w->sites, 0);
    w->cells = w->reads = 0;
    for (guint i = 0; i < w->failed->len; i++) {
        socket_failed *f = &g_array_index(w->failed, socket_failed, i);

        f->cells = f->again = 0;
        w->reads += f->reads;
    }
    rmg_moments_collect(w);
    w->bits = rmg_ones_of(bits_that_may_fail(w));
    for (guint i = 0; i < w->failed->len; i++)
        w->cells += g_array_index(w->failed, socket_failed, i).cells;
    find_seen_bits(w);
}

/* Of one pass nothing says whether it comes and goes, but where each cell failed one read. */
static bool all_failed_once(const rmg_run *run, const GArray *findings)
{
    bool cells = false, once = true;

    for (guint i = 0; i < findings->len; i++) {
        const rmg_finding *f = &g_array_index(findings, rmg_finding, i);

        cells |= f->kind == RMG_FINDING_CELLS;
        once &= f->kind != RMG_FINDING_CELLS || rmg_cells_failed_once(run, f);
    }
    return run->pass_count == 1 && cells && once;
}

/* Do the cells of more than two sockets of a bank fail in the same words? Then it is what they
 * share, once, and not as many bad chips. */
static bool fail_in_the_same_words(const rmg_run *run, const GArray *findings)
{
    for (size_t b = 0; b < run->board->bank_count; b++) {
        const rmg_where *where = &run->board->bank_wheres[b];
        rmg_word bits = 0;
        uint64_t sum = 0, any;
        unsigned sockets = 0;

        for (guint i = 0; i < findings->len; i++) {
            const rmg_finding *f = &g_array_index(findings, rmg_finding, i);

            if (f->kind != RMG_FINDING_CELLS || f->bank != b)
                continue;
            bits |= f->bits;
            sum += rmg_failset_words(run->failures, where, f->bits);
            sockets++;
        }
        any = rmg_failset_words(run->failures, where, bits); /* 0: none could be kept */
        if (sockets > 2 && any && (double)sum >= SAME_WORDS * sockets * (double)any)
            return true;
    }
    return false;
}

/* Does it fail at this bit, and at no other? */
static bool fails_at(const rmg_run *run, const rmg_finding *f, rmg_word bit)
{
    return f->kind == RMG_FINDING_CELLS && rmg_failing_bits(run, f->bank, f->bits) == bit;
}

/* Do cells fail at this data line, and at no other, in two banks or more, and in each in which it
 * can be seen? */
static bool fails_in_all_banks(const weigher *w, rmg_word bit)
{
    unsigned banks = 0;

    for (uint8_t b = 0; b < w->board->bank_count; b++) {
        bool fails = false;

        if (!w->run->bank_words[b] || !rmg_chips_with(w, b, bit) ||
            (rmg_bits_of_others(w, b) & bit))
            continue;
        for (guint i = 0; i < w->list->len; i++)
            fails |= g_array_index(w->list, rmg_finding, i).bank == b &&
                     fails_at(w->run, &g_array_index(w->list, rmg_finding, i), bit);
        if (!fails)
            return false;
        banks++;
    }
    return banks > 1;
}

bool rmg_one_pass_tells(const weigher *w, rmg_word *lines)
{
    *lines = 0;
    if (all_failed_once(w->run, w->list) || fail_in_the_same_words(w->run, w->list))
        return true;
    for (unsigned bit = 0; bit < w->board->word_bits && w->run->pass_count; bit++)
        if (fails_in_all_banks(w, (rmg_word)1 << bit))
            *lines |= (rmg_word)1 << bit;
    return *lines != 0;
}

bool rmg_fails_on_lines(const weigher *w, const rmg_finding *f, rmg_word lines)
{
    const rmg_word bits = rmg_failing_bits(w->run, f->bank, f->bits);

    return (bits & lines) && fails_at(w->run, f, bits & lines);
}
