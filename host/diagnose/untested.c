/* A chip whose own words were not tested (a ROM, or RAM that was not asked for) and that drives its
 * lines at every read: words of others fail wherever it holds the level that wins, in every read
 * that expects the other one, and which do depends on its own address lines alone.
 * docs/diagnosis.md, "A chip that was not tested". */
#include <math.h>

#include "reads.h"
#include "share.h"

#define SAMPLES   4096u /* words that are looked at */
#define OTHER_WAY 0.02  /* of the failing reads of its bits, at the other level: at most */
#define UNSEEN    0.95  /* of the words, of which what it holds was not tested: at least */
#define IN_ALL    0.9   /* of the reads that could fail in a failing word, did: at least */
#define ALIKE     0.98  /* of pairs of words that it sees as one, fail alike: at least; */
#define PAIRS     32u   /* ... of so many, in which something fails */
#define CELLS     6u    /* that fail, at least */
#define SOME      0.1   /* of the cells fail, where no pairs tell: at least, */
#define NOT_ALL   0.97  /* ... and at most */
#define SURE      0.97  /* that it is one of the chips that fit, where pairs tell; */
#define LIKELY    0.85  /* ... where they do not, and what fails may be cells of the chip read, */
#define OR_FADING 0.5   /* ... which lose their charge */
#define CHIPS     64u   /* that fit, at most */

typedef struct driver {
    const rmg_run *run;
    const rmg_rule *rule;
    rmg_word bits;
    rmg_addr own;     /* its address lines */
    bool high;        /* a 1 wins over a 0 */
    rmg_word *spoils; /* [bank_count]: bits of the banks that are tested, on its lines */
    bool others;      /* ... but for some that have a fault of their own */
    bool by_pairs;    /* words that it sees as one fail alike */
    bool whole;       /* all chips of its bank do as it does */
} driver;

static size_t banks_of(const rmg_run *run)
{
    return MIN(run->board->bank_count, RMG_TALLY_BANKS);
}

static rmg_addr lines_of(const rmg_rule *rule)
{
    rmg_addr lines = 0;

    for (uint8_t n = 0; n < rule->address_lines; n++)
        if (rule->address_bits[n] < RMG_ADDR_BITS)
            lines |= (rmg_addr)1 << rule->address_bits[n];
    return lines;
}

/* Reads of an element list that expect the background, and its complement: the fewer. */
static unsigned fewest_reads(const rmg_run *run)
{
    unsigned reads[2] = {0, 0};

    for (size_t s = 0; s < run->steps.count; s++)
        for (const uint8_t *code = run->steps.list[s].code;
             run->steps.list[s].kind == RMG_STEP_MARCH && *code;
             code += (*code & ~RMG_ORDER_MASK) + 1u)
            for (uint8_t i = 1; i <= (*code & ~RMG_ORDER_MASK); i++)
                if (!(code[i] & RMG_OP_WRITE))
                    reads[(code[i] & RMG_OP_ONE) != 0]++;
    return MIN(reads[0], reads[1]);
}

/* The level that wins: at which most reads of its bits failed. */
static bool high_wins(const driver *d)
{
    double low = 0, high = 0;

    for (size_t b = 0; b < banks_of(d->run); b++)
        for (unsigned i = 0; i < RMG_WORD_BITS; i++)
            if (d->spoils[b] >> i & 1u) {
                low += (double)d->run->tally.bits[b][i].low;
                high += (double)d->run->tally.bits[b][i].high;
            }
    return high > low;
}

/* Leaves out bits of banks that have a fault of their own: they fail at the other level, too.
 * false: most of them do, or some of its bits nowhere fail. */
static bool leave_out_others(driver *d)
{
    unsigned all = 0, left = 0;
    rmg_word seen = 0;

    for (size_t b = 0; b < banks_of(d->run); b++) {
        rmg_word bits = 0;

        for (unsigned i = 0; i < RMG_WORD_BITS; i++) {
            const rmg_bit_tally *t = &d->run->tally.bits[b][i];
            const double wins = (double)(d->high ? t->high : t->low);
            const double other = (double)(d->high ? t->low : t->high);

            if ((d->spoils[b] >> i & 1u) && wins > 0 && other <= OTHER_WAY * wins)
                bits |= (rmg_word)1 << i;
        }
        all += rmg_ones_of(d->spoils[b]);
        left += rmg_ones_of(bits);
        d->spoils[b] = bits;
        seen |= bits;
    }
    d->others = left < all;
    return seen == d->bits && 2 * left >= all;
}

/* Does each of its bits fail, at one level, in all reads that could? Sets that level. */
static bool fails_steadily(driver *d)
{
    double reads = 0, cells = 0;

    d->high = high_wins(d);
    if (!leave_out_others(d))
        return false;
    for (size_t b = 0; b < banks_of(d->run); b++) {
        for (unsigned i = 0; i < RMG_WORD_BITS; i++)
            if (d->spoils[b] >> i & 1u)
                reads += (double)(d->high ? d->run->tally.bits[b][i].high
                                          : d->run->tally.bits[b][i].low);
        if (d->spoils[b])
            cells += (double)rmg_failset_bits(d->run->failures, &d->run->board->bank_wheres[b],
                                              d->spoils[b]);
    }
    return reads >= IN_ALL * cells * fewest_reads(d->run) * (double)d->run->pass_count;
}

/* The bits that the driver may spoil at an address; none where it was not tested. */
static rmg_word bits_at(const driver *d, rmg_addr address)
{
    const bool tested = rmg_is_tested(d->run, address);

    for (size_t b = 0; tested && b < banks_of(d->run); b++)
        if (d->spoils[b] && rmg_where_holds(&d->run->board->bank_wheres[b], address))
            return d->spoils[b];
    return 0;
}

static rmg_word failing_at(const driver *d, rmg_addr address)
{
    rmg_word high, low;

    rmg_failset_at(d->run->failures, address, &high, &low);
    return d->high ? high : low;
}

/* Pairs of words that one address line parts, in which something fails; those that fail alike. */
typedef struct pairs {
    unsigned all, alike;
} pairs;

typedef struct look {
    unsigned words, unseen, cells; /* words; those of which it is not known what it holds */
    unsigned could;                /* cells that could fail */
    rmg_word bits;                 /* that fail somewhere */
    pairs line[RMG_ADDR_BITS];
} look;

static void look_at(const driver *d, rmg_addr address, look *l)
{
    const rmg_word bits = bits_at(d, address), fails = failing_at(d, address);
    const rmg_addr place = rmg_rule_address(d->rule, rmg_rule_cell(d->rule, address));

    if (!bits)
        return;
    l->words++;
    l->could += rmg_ones_of(bits);
    l->cells += rmg_ones_of(fails & bits);
    l->bits |= fails & bits;
    l->unseen += !rmg_where_holds(&d->rule->where, place) || !rmg_is_tested(d->run, place);
    for (unsigned i = 0; i < d->run->board->address_bits && i < RMG_ADDR_BITS; i++) {
        const rmg_addr other = address ^ (rmg_addr)1 << i;
        const rmg_word both = bits & bits_at(d, other), there = failing_at(d, other);

        l->line[i].all += ((fails | there) & both) != 0;
        l->line[i].alike += ((fails | there) & both) && !((fails ^ there) & both);
    }
}

static void look_at_words(const driver *d, look *l)
{
    double words = 0, step;

    for (size_t i = 0; i < d->run->tested_count; i++)
        words += (double)(d->run->tested[i].last - d->run->tested[i].first) + 1;
    step = MAX(1, words / SAMPLES);
    for (size_t i = 0; i < d->run->tested_count; i++) {
        const rmg_range *range = &d->run->tested[i];
        const double count = (double)(range->last - range->first) + 1;

        for (double n = 0; n < count; n += step) {
            /* not always at the same level of the low lines */
            const double within =
                step > 1 ? (double)(rmg_hash(0xA11, (uint64_t)n) % 4096u) / 4096 : 0;
            const rmg_addr address = range->first + (rmg_addr)MIN(n + within * step, count - 1);

            look_at(d, address, l);
        }
    }
}

/* Does which words fail follow from its own lines, from each of them and no other? */
static bool follows_its_lines(driver *d, const look *l)
{
    unsigned all = 0, alike = 0;

    for (unsigned i = 0; i < RMG_ADDR_BITS; i++)
        if (d->own >> i & 1u) {
            if (l->line[i].all && l->line[i].alike >= ALIKE * l->line[i].all)
                return false;
        } else {
            all += l->line[i].all;
            alike += l->line[i].alike;
        }
    d->by_pairs = all >= PAIRS;
    return !all || alike >= ALIKE * all;
}

static bool fits(driver *d)
{
    look l = {.words = 0};
    double share;

    if (!fails_steadily(d))
        return false;
    look_at_words(d, &l);
    if (l.bits != d->bits || l.cells < CELLS || l.unseen < UNSEEN * l.words ||
        !follows_its_lines(d, &l))
        return false;
    share = (double)l.cells / (double)l.could;
    return share <= NOT_ALL && (d->by_pairs || (share >= SOME && !d->others));
}

/* Were all words of the bank tested? Then what its chips hold is known. */
static bool all_tested(const rmg_run *run, uint8_t bank)
{
    const rmg_where *where = &run->board->bank_wheres[bank];
    const double words =
        ldexp((double)(where->last - where->first) + 1, -(int)rmg_ones_of(where->mask));

    return (double)run->bank_words[bank] >= words;
}

/* The banks whose reads it spoils, if it drives at all; false: none. */
static bool find_banks(driver *d)
{
    bool any = false;

    for (size_t b = 0; b < banks_of(d->run); b++) {
        if (b != d->rule->bank && d->run->bank_words[b] &&
            rmg_one_bus(d->run->board, (uint8_t)b, d->rule->bank))
            d->spoils[b] = rmg_bits_of_bank(d->run, (uint8_t)b) & d->bits;
        any |= d->spoils[b] != 0;
    }
    return any;
}

/* What is said of its bits in these banks is what it does. Cells of one chip may as well be that
 * chip's, where no pairs tell: they are kept apart, as one finding; those of several chips not. */
static void take_out(const driver *d, GArray *list, rmg_finding *cells)
{
    bool several = false;

    cells->kind = RMG_FINDING_KINDS;
    for (guint i = list->len; i-- > 0;) {
        const rmg_finding f = g_array_index(list, rmg_finding, i);

        if (f.bits & ~(f.bank == RMG_NO_BANK ? d->bits : d->spoils[f.bank]))
            continue;
        g_array_remove_index(list, i);
        if (f.socket == RMG_NO_SOCKET || f.bank == RMG_NO_BANK)
            continue;
        several |= cells->kind != RMG_FINDING_KINDS && cells->socket != f.socket;
        if (cells->kind == RMG_FINDING_KINDS)
            *cells = f;
        cells->kind = RMG_FINDING_CELLS;
        cells->bits |= f.bits;
    }
    if (several || d->by_pairs)
        cells->kind = RMG_FINDING_KINDS;
}

static void count_reads(const driver *d, rmg_finding *f)
{
    f->failed_high = f->failed_low = 0;
    for (size_t b = 0; b < banks_of(d->run); b++)
        for (unsigned i = 0; i < RMG_WORD_BITS; i++)
            if (f->bits & d->spoils[b] & (rmg_word)1 << i) {
                f->failed_high += d->run->tally.bits[b][i].high;
                f->failed_low += d->run->tally.bits[b][i].low;
            }
}

static void add(const driver *d, double share, uint8_t cause, GArray *list)
{
    rmg_finding f = {.kind = d->whole ? RMG_FINDING_BANKS_BOTH : RMG_FINDING_DRAGGED,
                     .of = RMG_FINDING_DRAGGED,
                     .socket = d->whole ? RMG_NO_SOCKET : d->rule->socket,
                     .bank = d->rule->bank,
                     .bank2 = RMG_NO_BANK,
                     .lane = RMG_NO_BANK,
                     .point = RMG_NO_POINT,
                     .bits = d->bits,
                     .lines = d->by_pairs ? d->own : 0,
                     .high_wins = d->high,
                     .untested = true,
                     .cause = cause,
                     .weighed = (uint16_t)(share * 1000)};
    unsigned banks = 0;

    count_reads(d, &f);
    for (size_t b = 0; b < banks_of(d->run); b++)
        if (d->spoils[b]) {
            f.bank2 = (uint8_t)b;
            banks++;
        }
    if (banks > 1)
        f.bank2 = RMG_NO_BANK;
    g_array_append_val(list, f);
}

/* How likely it is that it is one of these, if it may also be cells of this finding. */
static double likely(const driver *d, const rmg_finding *cells)
{
    if (d->by_pairs)
        return SURE;
    return cells->kind != RMG_FINDING_KINDS &&
                   d->run->board->sockets[cells->socket].part->kind == RMG_PART_DRAM
               ? OR_FADING
               : LIKELY;
}

/* Adds those that may be it, of the same bits, and takes out what they explain. */
static void add_all(const driver *fit, unsigned count, uint8_t cause, GArray *list)
{
    rmg_finding cells;
    double sure;

    take_out(&fit[0], list, &cells);
    sure = likely(&fit[0], &cells);
    for (unsigned i = 0; i < count; i++)
        add(&fit[i], sure / count, cause, list);
    if (cells.kind == RMG_FINDING_KINDS)
        return;
    count_reads(&fit[0], &cells);
    cells.low = cells.high = cells.opposite = 0;
    cells.bank2 = fit[0].rule->bank;
    cells.untested = true;
    cells.cause = cause;
    cells.weighed = (uint16_t)((1 - sure) * 1000);
    g_array_append_val(list, cells);
}

/* Chips of one bank that fit, all of them: its select. */
static void join_bank(driver *fit, unsigned *count)
{
    const uint8_t bank = fit[*count - 1u].rule->bank;
    const rmg_word all = rmg_bits_of_bank(fit->run, bank);
    rmg_word bits = 0;
    unsigned first = *count;

    for (; first && fit[first - 1u].rule->bank == bank; first--)
        bits |= fit[first - 1u].bits;
    if (bits != all || first + 1u >= *count)
        return;
    fit[first].bits = bits;
    fit[first].whole = true;
    while (*count > first + 1u) {
        (*count)--;
        fit[first].by_pairs &= fit[*count].by_pairs;
        for (size_t b = 0; b < banks_of(fit->run); b++)
            fit[first].spoils[b] |= fit[*count].spoils[b];
        g_free(fit[*count].spoils);
    }
}

/* Leaves out chips at whose bits another fits that explains more, or by pairs: one chip rather than
 * several. */
static void leave_out_lesser(driver *fit, unsigned *count)
{
    for (unsigned i = *count; i-- > 0;) {
        bool lesser = false;

        for (unsigned n = 0; n < *count && !lesser; n++)
            lesser =
                !(fit[i].bits & ~fit[n].bits) &&
                (fit[n].by_pairs == fit[i].by_pairs ? fit[n].bits != fit[i].bits : fit[n].by_pairs);
        if (!lesser)
            continue;
        g_free(fit[i].spoils);
        memmove(&fit[i], &fit[i + 1u], (*count - i - 1u) * sizeof *fit);
        (*count)--;
    }
}

/* Those of the same bits are rivals. */
static void add_groups(driver *fit, unsigned count, GArray *list)
{
    uint8_t cause = 0;

    while (count) {
        driver rest[CHIPS], group[CHIPS];
        unsigned left = 0, together = 0;

        for (unsigned i = 0; i < count; i++)
            if (fit[i].bits == fit[0].bits && fit[i].by_pairs == fit[0].by_pairs)
                group[together++] = fit[i];
            else
                rest[left++] = fit[i];
        add_all(group, together, cause++, list);
        while (together)
            g_free(group[--together].spoils);
        count = left;
        memcpy(fit, rest, left * sizeof *fit);
    }
}

void rmg_find_untested_drivers(const rmg_run *run, GArray *list)
{
    driver fit[CHIPS];
    unsigned count = 0;

    if (run->heard || !run->pass_count || !run->tally.failing ||
        rmg_failset_starved(run->failures) || (run->pass_count > 1 && !rmg_run_repeats(run)))
        return;
    for (uint16_t r = 0; r < run->board->placement.rule_count && count < CHIPS; r++) {
        driver d = {.run = run, .rule = &run->board->placement.rules[r]};

        d.bits = rmg_rule_bits(d.rule) & run->mask;
        d.own = lines_of(d.rule);
        d.spoils = g_new0(rmg_word, run->board->bank_count + 1u);
        if (d.rule->bank < banks_of(run) && d.bits && !all_tested(run, d.rule->bank) &&
            find_banks(&d) && fits(&d))
            fit[count++] = d;
        else
            g_free(d.spoils);
        if (count && fit[count - 1u].rule->bank != RMG_NO_BANK &&
            (r + 1u == run->board->placement.rule_count ||
             run->board->placement.rules[r + 1u].bank != fit[count - 1u].rule->bank))
            join_bank(fit, &count);
    }
    leave_out_lesser(fit, &count);
    add_groups(fit, count, list);
}
