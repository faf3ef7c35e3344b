/* Cells of many sockets that fail by one cause without failing in the same words: banks that lose
 * what they hold, weak cells in most chips. */
#include <string.h>

#include "share.h"

#define MOST    4u  /* chips with bad cells of their own: too many for chance */
#define MANY    8u  /* ... however many a bank has */
#define WORDS   4u  /* ... of fewer, if they are all of a bank: that fail in each, at least */
#define TIMES   2u  /* ... and at most so many times as many in one as in another */
#define AS_MANY 0.9 /* words of one bank, of those of another */

/* Banks of which each loses as many words, left alone, lose them by one cause. */
void rmg_join_losses(const rmg_run *run, GArray *list)
{
    for (guint i = 0; i < list->len; i++) {
        rmg_same_words x = {.in_holds = false}, y;

        if (g_array_index(list, rmg_finding, i).kind == RMG_FINDING_SAME_WORDS)
            rmg_same_words_look(run, &g_array_index(list, rmg_finding, i), &x);
        for (guint j = list->len; x.in_holds && j-- > i + 1u;) {
            rmg_finding *a = &g_array_index(list, rmg_finding, i);
            const rmg_finding *b = &g_array_index(list, rmg_finding, j);

            if (b->kind != RMG_FINDING_SAME_WORDS)
                continue;
            rmg_same_words_look(run, b, &y);
            if (!y.in_holds ||
                (double)MIN(x.words, y.words) < AS_MANY * (double)MAX(x.words, y.words))
                continue;
            for (size_t n = 0; n < G_N_ELEMENTS(a->among); n++)
                a->among[n] |= b->among[n];
            a->bits |= b->bits;
            a->failed_high += b->failed_high;
            a->failed_low += b->failed_low;
            a->bank = RMG_NO_BANK;
            g_array_remove_index(list, j);
        }
    }
}

static bool weak(const rmg_finding *f, uint8_t bank)
{
    return f->kind == RMG_FINDING_CELLS && (bank == RMG_NO_BANK || f->bank == bank);
}

/* Do so few chips, all that there are, fail in about as many words each? Bad chips would not agree
 * in that. */
static bool as_many_each(const rmg_run *run, const GArray *list, uint8_t bank)
{
    uint64_t least = UINT64_MAX, most = 0;

    for (guint i = 0; i < list->len; i++) {
        const rmg_finding *f = &g_array_index(list, rmg_finding, i);

        if (weak(f, bank)) {
            const uint64_t words =
                rmg_failset_words(run->failures, &run->board->bank_wheres[f->bank], f->bits);
            cell_report report;

            rmg_cells_look(run, f, &report);
            if (report.shape != SHAPE_SCATTERED)
                return false;
            least = MIN(least, words);
            most = MAX(most, words);
        } else if (bank == RMG_NO_BANK || f->bank == RMG_NO_BANK || f->bank == bank) {
            return false;
        }
    }
    return least >= WORDS && most <= TIMES * least && 2u * most < run->tested_words;
}

/* A few chips whose cells fail in the same words, among many that have bad cells of their own: so
 * many have some in common by chance. */
static bool weak_together(const rmg_finding *f, uint8_t bank)
{
    return f->kind == RMG_FINDING_SAME_WORDS && f->of == RMG_FINDING_CELLS &&
           (bank == RMG_NO_BANK || f->bank == bank);
}

/* Bad cells in most chips of a bank, or in many, each its own: what feeds them all, before so many
 * bad chips. */
static void join_weak_of(const rmg_run *run, GArray *list, uint8_t bank)
{
    unsigned count = 0;
    guint first = 0;
    rmg_finding all;
    socket_set set;

    for (guint i = list->len; i-- > 0;)
        if (weak(&g_array_index(list, rmg_finding, i), bank)) {
            first = i;
            count++;
        }
    if (count < MOST
            ? count < 2 || count < rmg_chips_of_bank(run, bank) || !as_many_each(run, list, bank)
            : count < MANY && 4u * count < 3u * rmg_chips_of_bank(run, bank))
        return;
    memset(&set, 0, sizeof set);
    all = g_array_index(list, rmg_finding, first);
    rmg_set_include(&set, all.socket);
    for (guint i = list->len; i-- > 0;) {
        const rmg_finding *f = &g_array_index(list, rmg_finding, i);

        if (i == first || (!weak(f, bank) && (count < MANY || !weak_together(f, bank))))
            continue;
        if (f->socket != RMG_NO_SOCKET)
            rmg_set_include(&set, f->socket);
        for (size_t n = 0; f->socket == RMG_NO_SOCKET && n < G_N_ELEMENTS(set.bits); n++)
            set.bits[n] |= f->among[n];
        all.bits |= f->bits;
        all.failed_high += f->failed_high;
        all.failed_low += f->failed_low;
        g_array_remove_index(list, i);
        first -= i < first;
    }
    all.kind = RMG_FINDING_SAME_WORDS;
    all.weighed = 0;
    all.together = false;
    all.of = RMG_FINDING_BANK_SILENT;
    all.socket = RMG_NO_SOCKET;
    all.bank = rmg_one_bank(run, &set);
    memcpy(all.among, set.bits, sizeof all.among);
    g_array_index(list, rmg_finding, first) = all;
}

void rmg_join_weak(const rmg_run *run, GArray *list)
{
    join_weak_of(run, list, RMG_NO_BANK);
    for (size_t b = 0; b < run->board->bank_count; b++)
        if (run->bank_words[b])
            join_weak_of(run, list, (uint8_t)b);
}
