/* What the wiring check, which looks a few times, takes for a fault that stays, and the passes
 * gainsay: it counts among what comes and goes. */
#include "moments.h"

#define OTHER_LEVEL 0.25 /* of the failing reads of lines that touch: the level that loses */
#define SELDOM      0.4  /* of the reads: a bank that is silent all the time fails more */

/* The finding of cells of the same socket and bank, or NULL. */
static rmg_finding *cells_beside(const weigher *w, const rmg_finding *f)
{
    for (guint i = 0; i < w->list->len; i++) {
        rmg_finding *other = &g_array_index(w->list, rmg_finding, i);

        if (other->kind == RMG_FINDING_CELLS && other->socket == f->socket &&
            other->bank == f->bank)
            return other;
    }
    return NULL;
}

/* Do cells of other banks fail at these bits, and at no others; or most words of this bank at other
 * bits? */
static bool fails_elsewhere(const weigher *w, const rmg_finding *f)
{
    for (guint i = 0; i < w->list->len; i++) {
        const rmg_finding *other = &g_array_index(w->list, rmg_finding, i);
        rmg_word failing = 0;

        if (other->kind == RMG_FINDING_CELLS && other->bank == f->bank &&
            2 * rmg_failset_words(w->run->failures, &w->board->bank_wheres[f->bank], other->bits) >
                w->run->bank_words[f->bank])
            return true;
        for (unsigned bit = 0; other->bank < RMG_TALLY_BANKS && bit < RMG_WORD_BITS; bit++)
            if (other->bits >> bit & 1u && (w->run->tally.bits[other->bank][bit].high ||
                                            w->run->tally.bits[other->bank][bit].low))
                failing |= (rmg_word)1 << bit;
        if (other->kind == RMG_FINDING_CELLS && other->bank != f->bank && failing == f->bits)
            return true;
    }
    return false;
}

/* A bit that was not steady in the wiring check, and that most words of the passes read right, or
 * that fails in other banks too, is not dead: it fails now and then. */
bool rmg_take_back_the_unsteady(weigher *w)
{
    bool any = false;

    for (guint i = w->list->len; i-- > 0;) {
        rmg_finding *f = &g_array_index(w->list, rmg_finding, i);
        rmg_finding *beside = cells_beside(w, f);

        if (f->kind != RMG_FINDING_STALE &&
            (f->kind != RMG_FINDING_DATA_AT_SOCKET || (f->low | f->high) == f->bits))
            continue;
        if (!fails_elsewhere(w, f) &&
            (f->kind == RMG_FINDING_STALE || f->opposite == f->bits ||
             100 * rmg_failset_words(w->run->failures, &w->board->bank_wheres[f->bank], f->bits) >
                 99 * w->run->bank_words[f->bank]))
            continue;
        any = true;
        f->kind = RMG_FINDING_CELLS;
        f->low = f->high = f->opposite = 0;
        if (!beside)
            continue;
        beside->bits |= f->bits;
        beside->failed_high += f->failed_high;
        beside->failed_low += f->failed_low;
        g_array_remove_index(w->list, i);
    }
    return any;
}

/* What is asked of the failure set: for each finding of the list. */
typedef struct asked {
    const rmg_run *run;
    const GArray *list;
    bool *any, *differs; /* a cell failed; one did not in every pass */
} asked;

static void ask(void *context, rmg_addr address, uint32_t record, const rmg_fail_part *parts,
                size_t count)
{
    asked *a = context;

    (void)record;
    for (guint i = 0; i < a->list->len; i++) {
        const rmg_finding *f = &g_array_index(a->list, rmg_finding, i);

        if (f->kind != RMG_FINDING_CELLS || f->bank >= a->run->board->bank_count || a->differs[i] ||
            !rmg_where_holds(&a->run->board->bank_wheres[f->bank], address))
            continue;
        for (size_t n = 0; n < count; n++)
            if ((parts[n].high | parts[n].low) & f->bits) {
                a->any[i] = true;
                a->differs[i] |= parts[n].passes < a->run->pass_count;
            }
    }
}

bool *rmg_steady_cells(const rmg_run *run, const GArray *list)
{
    asked a = {run, list, g_new0(bool, list->len + 1u), g_new0(bool, list->len + 1u)};

    if (run->pass_count > 1 && !rmg_failset_lost(run->failures))
        rmg_failset_each_record(run->failures, ask, &a);
    for (guint i = 0; i < list->len; i++)
        a.any[i] &= !a.differs[i];
    g_free(a.differs);
    return a.any;
}

/* Failing bits of a bank become cells of its sockets. */
static void give_to_cells(weigher *w, uint8_t bank, rmg_word bits)
{
    for (uint16_t r = 0; r < w->board->placement.rule_count; r++) {
        const rmg_rule *rule = &w->board->placement.rules[r];
        rmg_finding f = {.kind = RMG_FINDING_CELLS,
                         .socket = rule->socket,
                         .bank = bank,
                         .bank2 = RMG_NO_BANK,
                         .lane = RMG_NO_BANK,
                         .point = RMG_NO_POINT,
                         .bits = rmg_rule_bits(rule) & bits & w->run->mask};
        rmg_finding *beside = cells_beside(w, &f);

        if (rule->bank != bank || !f.bits)
            continue;
        f.bits &= beside ? (rmg_word)~beside->bits : (rmg_word) ~(rmg_word)0;
        rmg_count_reads(w, &f, bank, f.bits);
        if (!f.failed_high && !f.failed_low)
            continue;
        if (beside) {
            beside->bits |= f.bits;
            beside->failed_high += f.failed_high;
            beside->failed_low += f.failed_low;
        } else {
            g_array_append_val(w->list, f);
        }
    }
}

/* Do lines that seem to touch fail as often at the level that would win? Then the check, which
 * looks a few times, met what comes and goes. */
static bool fail_at_either_level(const weigher *w, const rmg_finding *f)
{
    rmg_finding reads = {0};

    rmg_count_reads(w, &reads, f->bank, f->bits);
    return (double)(f->high_wins ? reads.failed_low : reads.failed_high) >
           OTHER_LEVEL * (double)(f->high_wins ? reads.failed_high : reads.failed_low);
}

/* Do cells of another bank fail at lines that seem to touch in this one; or most words of this one
 * at other lines, too? */
static bool touch_elsewhere(const weigher *w, const rmg_finding *f)
{
    const rmg_where *where = &w->board->bank_wheres[f->bank];

    for (guint i = 0; i < w->list->len; i++) {
        const rmg_finding *other = &g_array_index(w->list, rmg_finding, i);

        if (other->kind == RMG_FINDING_CELLS && other->bank != f->bank && (other->bits & f->bits))
            return true;
    }
    return 2 * rmg_failset_words(w->run->failures, where, w->run->mask & (rmg_word)~f->bits) >
           w->run->bank_words[f->bank];
}

/* Is the bank never there? It fails most reads then, and gives the same whenever it is looked at.
 */
static bool is_silent(const weigher *w, const rmg_finding *f)
{
    const rmg_wiring *wiring = &w->run->wirings[f->bank];
    const rmg_word steady = wiring->low | wiring->high | wiring->opposite;
    uint64_t failed, could;

    rmg_run_bit_rate(w->run, f->bank, f->bits, &failed, &could);
    /* where reads were not counted it stands as it was found */
    return !could ||
           ((double)failed > SELDOM * (double)could && !(f->bits & ~steady & w->run->mask));
}

/* Of a bank that is not there for moments the wiring check sees whatever these gave: lines that
 * touch, or no chip at all. */
void rmg_take_back_of_banks(weigher *w)
{
    for (guint i = w->list->len; i-- > 0;) {
        const rmg_finding f = g_array_index(w->list, rmg_finding, i);

        if (f.bank >= w->board->bank_count || f.bank >= RMG_TALLY_BANKS ||
            (f.kind != RMG_FINDING_BANK_SILENT && f.kind != RMG_FINDING_DATA_SHORT))
            continue;
        if (f.kind == RMG_FINDING_DATA_SHORT
                ? !fail_at_either_level(w, &f) && !touch_elsewhere(w, &f)
                : is_silent(w, &f))
            continue;
        g_array_remove_index(w->list, i);
        give_to_cells(w, f.bank, f.bits);
    }
}

/* Lines of a bank that seem to touch, each failing at either level, where most words fail at its
 * other lines, too: what is not there at every second access or so. All that is found of the bank
 * becomes one finding. For runs whose passes are alike, as all that can fail does so in each. */
void rmg_join_what_seems_to_touch(weigher *w)
{
    w->failed = g_array_new(FALSE, FALSE, sizeof(socket_failed)); /* none, by itself */
    for (uint8_t b = 0; b < w->board->bank_count && b < RMG_TALLY_BANKS; b++) {
        site s = {.kind = SITE_BANK, .bank = b};
        bool seems = false;
        rmg_finding f;

        rmg_include_bank(&s.banks, b);
        f = rmg_site_finding(w, &s);
        for (guint i = 0; i < w->list->len; i++) {
            const rmg_finding *pair = &g_array_index(w->list, rmg_finding, i);

            seems |= pair->kind == RMG_FINDING_DATA_SHORT && pair->bank == b &&
                     fail_at_either_level(w, pair) &&
                     2 * rmg_failset_words(w->run->failures, &w->board->bank_wheres[b],
                                           f.bits & (rmg_word)~pair->bits) >
                         w->run->bank_words[b];
        }
        if (!seems)
            continue;
        for (guint i = w->list->len; i-- > 0;)
            if (g_array_index(w->list, rmg_finding, i).bank == b)
                g_array_remove_index(w->list, i);
        g_array_append_val(w->list, f);
    }
    g_array_free(w->failed, TRUE);
    w->failed = NULL;
}
