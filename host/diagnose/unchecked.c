/* Where a run did not check the lines, what the march says of dead bits: one that reads one level
 * in every word of its bank, whatever was written, or in every word now one and now the other where
 * the opposite was. */
#include <string.h>

#include "share.h"

/* Words of a bank that failed at each bit, at each level. */
typedef struct levels {
    const rmg_where *where;
    uint64_t high[RMG_WORD_BITS], low[RMG_WORD_BITS];
} levels;

static void count_word(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    levels *l = context;

    if (!rmg_where_holds(l->where, address))
        return;
    for (unsigned i = 0; i < RMG_WORD_BITS; i++) {
        l->high[i] += high >> i & 1u;
        l->low[i] += low >> i & 1u;
    }
}

/* The bits of the finding that are dead; the others stay cells. */
static rmg_finding find_dead(const rmg_run *run, const rmg_finding *cells)
{
    levels l = {.where = &run->board->bank_wheres[cells->bank]};
    const uint64_t all = run->bank_words[cells->bank];
    rmg_finding f = *cells;

    rmg_failset_each(run->failures, count_word, &l);
    f.kind = RMG_FINDING_DATA_AT_SOCKET;
    f.bits = f.low = f.high = f.opposite = 0;
    for (unsigned i = 0; i < RMG_WORD_BITS; i++) {
        const rmg_word bit = cells->bits & (rmg_word)1 << i;

        f.high |= l.high[i] == all && !l.low[i] ? bit : 0;
        f.low |= l.low[i] == all && !l.high[i] ? bit : 0;
        f.opposite |= l.low[i] == all && l.high[i] == all ? bit : 0;
    }
    f.bits = f.high | f.low | f.opposite;
    return f;
}

static void count_reads(const rmg_run *run, rmg_finding *f)
{
    f->failed_high = f->failed_low = 0;
    for (unsigned i = 0; i < RMG_WORD_BITS; i++)
        if (f->bits >> i & 1u) {
            f->failed_high += run->tally.bits[f->bank][i].high;
            f->failed_low += run->tally.bits[f->bank][i].low;
        }
}

/* May all of its words fail at a bit? */
static bool fails_whole(const rmg_run *run, const rmg_finding *f)
{
    return run->bank_words[f->bank] &&
           rmg_failset_words(run->failures, &run->board->bank_wheres[f->bank], f->bits) ==
               run->bank_words[f->bank];
}

void rmg_find_dead_bits(const rmg_run *run, GArray *list)
{
    for (guint i = list->len; i-- > 0 && !run->heard;) {
        rmg_finding cells = g_array_index(list, rmg_finding, i), dead;

        if (cells.kind != RMG_FINDING_CELLS || cells.bank >= RMG_TALLY_BANKS ||
            cells.bank >= run->board->bank_count || run->wired[cells.bank] || cells.weighed ||
            !fails_whole(run, &cells))
            continue;
        dead = find_dead(run, &cells);
        if (!dead.bits)
            continue;
        count_reads(run, &dead);
        g_array_index(list, rmg_finding, i) = dead;
        cells.bits &= ~dead.bits;
        count_reads(run, &cells);
        if (cells.failed_high || cells.failed_low) /* some of its other cells fail */
            g_array_insert_val(list, i + 1u, cells);
    }
}
