/* What comes and goes: which of the places that failures fit they are put to, or to chance.
 * docs/diagnosis.md, "What comes and goes", has the model and its assumptions. */
#include <math.h>
#include <string.h>

#include "moments.h"
#include "share.h"

#define SHARPER 1.4 /* the model is too careful: calibrated */

#define WORTH_SAYING  0.05
#define ONCE_MOST     2   /* failing reads that a fault which shows once may give */
#define MAYBE         420 /* thousandths: that they are that chip's, before replay, */
#define MAYBE_CHANCE  430 /* and that they are chance; calibrated */
#define PASSES_PLAYED 2u  /* by replay */
#define CAUSES_MOST   3u  /* at once */
#define EPISODES_FEW  2u  /* too few to tell a chip from its lines by where it failed */

static const rmg_rule *rule_of(const weigher *w, uint16_t socket, uint8_t bank)
{
    for (uint16_t r = 0; r < w->board->placement.rule_count; r++)
        if (w->board->placement.rules[r].socket == socket &&
            w->board->placement.rules[r].bank == bank)
            return &w->board->placement.rules[r];
    return NULL;
}

/* The place of the largest weight, of one that is not chance; then shares of all. */
static guint settle(weigher *w)
{
    double most = -INFINITY, sum = 0;
    guint best = 0;

    for (guint i = 0; i < w->sites->len; i++)
        if (g_array_index(w->sites, site, i).weight > most) {
            most = g_array_index(w->sites, site, i).weight;
            best = i;
        }
    for (guint i = 0; i < w->sites->len; i++) {
        site *s = &g_array_index(w->sites, site, i);

        s->weight += s->kind == SITE_NOISE ? log(NOISE_DRAWN) : 0;
        s->weight = exp(SHARPER * (s->weight - most));
        sum += s->weight;
    }
    for (guint i = 0; i < w->sites->len; i++)
        g_array_index(w->sites, site, i).weight /= sum;
    return best;
}

static uint16_t thousandths(double share)
{
    return (uint16_t)CLAMP(share * 1000 + 0.5, 1, 1000);
}

/* Elements of passes in which something first failed: what comes and goes was there in each. */
static unsigned episodes(const weigher *w)
{
    unsigned count = 0;

    for (guint i = 0; i < w->moments->len; i++)
        count += !i || g_array_index(w->moments, moment, i).element !=
                           g_array_index(w->moments, moment, i - 1u).element;
    return count;
}

/* Is there a data line that several sockets share? */
static bool has_lines(const weigher *w)
{
    for (guint i = 0; i < w->sites->len; i++)
        if (g_array_index(w->sites, site, i).kind == SITE_LINE)
            return true;
    return false;
}

/* Is the chip the only one by which a data line, or its bank, can be seen to fail? Then nothing
 * tells it from these. */
static bool seen_by_it_alone(const weigher *w, const socket_failed *f)
{
    const bool one_bit = f->failing == 1;

    for (guint i = 0; i < w->sites->len; i++) {
        const site *s = &g_array_index(w->sites, site, i);
        unsigned seen = 0;

        if ((s->kind != SITE_LINE || !one_bit || !(f->bits >> s->bit & 1u)) &&
            (s->kind != SITE_BANK || s->bank != f->bank))
            continue;
        for (unsigned b = 0; b < w->board->bank_count; b++)
            if (rmg_has_bank(&s->banks, (uint8_t)b) && w->run->bank_words[b])
                seen += rmg_chips_with(
                    w, (uint8_t)b,
                    w->seen_bits[b] &
                        (s->kind == SITE_LINE ? (rmg_word)1 << s->bit : (rmg_word) ~(rmg_word)0));
        if (rmg_has_bank(&s->banks, f->bank) && seen == 1)
            return true;
    }
    return false;
}

static bool is_weighed(const weigher *w, const rmg_finding *f)
{
    for (guint i = 0; f->kind == RMG_FINDING_CELLS && i < w->failed->len; i++) {
        const socket_failed *s = &g_array_index(w->failed, socket_failed, i);

        if (s->socket == f->socket && s->bank == f->bank && (s->bits & f->bits) &&
            !(rmg_failing_bits(w->run, f->bank, f->bits) & ~s->bits))
            return true;
    }
    return false;
}

/* The finding of cells about the chip, of those that are replaced; NULL: there is none. */
static const rmg_finding *kept_of(const weigher *w, const GArray *kept, const site *s)
{
    for (guint i = 0; i < kept->len; i++) {
        const rmg_finding *f = &g_array_index(kept, rmg_finding, i);

        if (f->socket == s->socket && f->bank == s->bank &&
            rmg_failing_bits(w->run, f->bank, f->bits))
            return f;
    }
    return NULL;
}

/* Adds what is found of a place. Of what a bank, or all share one address line is named by itself
 * where the words that failed are on its sides as it would spoil them. */
static void add_place(weigher *w, const site *s, rmg_finding f)
{
    rmg_finding line = f;
    double sure;

    if ((s->kind == SITE_BANK || s->kind == SITE_ALL) &&
        rmg_blame_address_line(w, s, &line.lines, &sure)) {
        line.of = f.bank == RMG_NO_BANK ? RMG_FINDING_ADDRESS_LINES : RMG_FINDING_ADDRESS_OF_BANK;
        line.weighed = thousandths(sure * f.weighed / 1000);
        f.weighed = (uint16_t)(f.weighed - MIN(line.weighed, f.weighed));
        g_array_append_val(w->list, line);
    }
    if (f.weighed >= WORTH_SAYING * 1000 || !line.lines)
        g_array_append_val(w->list, f);
}

/* Puts the places that fit in the place of the findings of cells; `sure`: that these failures have
 * a cause of their own. */
static void replace_findings(weigher *w, double sure)
{
    const guint best = settle(w);
    const site_kind kind = g_array_index(w->sites, site, best).kind;
    GArray *kept = g_array_new(FALSE, FALSE, sizeof(rmg_finding));

    for (guint i = w->list->len; i-- > 0;)
        if (is_weighed(w, &g_array_index(w->list, rmg_finding, i))) {
            const rmg_finding f = g_array_index(w->list, rmg_finding, i);

            g_array_prepend_val(kept, f);
            g_array_remove_index(w->list, i);
        }
    for (guint i = 0; i < w->sites->len; i++) {
        const site *s = &g_array_index(w->sites, site, i);
        rmg_finding f;

        if (i != best && (s->weight < WORTH_SAYING || kind == SITE_NOISE))
            continue;
        for (guint n = 0; s->kind == SITE_CHIPS && n < kept->len; n++) {
            f = g_array_index(kept, rmg_finding, n);
            f.weighed = thousandths(sure * s->weight);
            f.together = true;
            f.cause = w->cause;
            /* else each has its own place among them */
            if (kind == SITE_CHIPS || kind == SITE_PAIR)
                g_array_append_val(w->list, f);
        }
        if (s->kind == SITE_CHIPS || (s->kind == SITE_CHIP && kind == SITE_CHIPS))
            continue;
        if (s->kind == SITE_CHIP && !kept_of(w, kept, s))
            continue;
        f = s->kind == SITE_CHIP ? *kept_of(w, kept, s) : rmg_site_finding(w, s);
        f.weighed = thousandths(sure * s->weight);
        f.cause = w->cause;
        /* its line may as well have been */
        if (s->kind == SITE_CHIP &&
            (seen_by_it_alone(w, &g_array_index(w->failed, socket_failed, s->bit)) ||
             (episodes(w) <= EPISODES_FEW && has_lines(w) &&
              g_array_index(w->failed, socket_failed, s->bit).failing == 1)))
            f.weighed = MIN(f.weighed, 500);
        add_place(w, s, f);
    }
    /* so few failures that replay may tell whether a fault of that chip gives just these */
    if (kind == SITE_NOISE && kept->len == 1 && w->reads <= ONCE_MOST &&
        w->run->pass_count <= PASSES_PLAYED) {
        rmg_finding f = g_array_index(kept, rmg_finding, 0);

        f.weighed = MAYBE;
        g_array_index(w->list, rmg_finding, w->list->len - 1u).weighed = MAYBE_CHANCE;
        g_array_append_val(w->list, f);
    }
    g_array_free(kept, TRUE);
    if (kind == SITE_CHIPS)
        rmg_join_weak(w->run, w->list);
}

/* The sockets of which cells fail, of one pass only those on the lines that are asked for, if any;
 * findings of other kinds. */
static unsigned list_failed(weigher *w, rmg_word lines)
{
    bool *steady = rmg_steady_cells(w->run, w->list);
    unsigned others = 0;

    for (guint i = 0; i < w->list->len; i++) {
        const rmg_finding *f = &g_array_index(w->list, rmg_finding, i);
        const rmg_rule *rule = f->kind == RMG_FINDING_CELLS ? rule_of(w, f->socket, f->bank) : NULL;
        socket_failed failed = {.socket = f->socket, .bank = f->bank};
        rmg_finding reads = {0};

        if (!rule || steady[i] || (lines && !rmg_fails_on_lines(w, f, lines))) {
            others++;
            continue;
        }
        failed.bits = rmg_board_bits(w->board, f->bank, f->socket) & w->run->mask;
        failed.bits &= f->bits | ~rmg_bits_of_others(w, f->bank);
        failed.width = (uint8_t)rmg_ones_of(failed.bits);
        rmg_count_reads(w, &reads, f->bank, failed.bits);
        failed.reads = (double)(reads.failed_high + reads.failed_low);
        for (unsigned bit = 0; f->bank < RMG_TALLY_BANKS && bit < RMG_WORD_BITS; bit++)
            failed.failing += (failed.bits >> bit & 1u) && (w->run->tally.bits[f->bank][bit].high ||
                                                            w->run->tally.bits[f->bank][bit].low);
        w->reads += failed.reads;
        g_array_append_val(w->failed, failed);
    }
    g_free(steady);
    return others;
}

/* Weighs what failed, `others` findings beside it; `sure`: that it has a cause of its own. */
static void weigh(weigher *w, unsigned others, double sure)
{
    /* one failing read beside a fault that is there: named, but not surely */
    if (!w->failed->len)
        return;
    rmg_look_at_failed(w);
    if (others && w->reads < 2)
        return;
    if (w->moments->len) { /* else when each failed is not known */
        rmg_find_places(w);
        replace_findings(w, sure);
    }
}

/* A socket of which cells fail in both parts becomes two findings. */
static void part_findings(weigher *w, const failed_part *part)
{
    for (guint i = w->list->len; i-- > 0;) {
        rmg_finding *f = &g_array_index(w->list, rmg_finding, i);
        const rmg_word inside = part->bank == RMG_NO_BANK || part->bank == f->bank ? part->bits : 0;
        rmg_finding second = *f;

        if (!is_weighed(w, f))
            continue;
        f->bits &= inside;
        second.bits &= ~inside;
        if (!f->bits || !second.bits) {
            f->bits |= second.bits;
            continue;
        }
        f->failed_high = f->failed_low = second.failed_high = second.failed_low = 0;
        rmg_count_reads(w, f, f->bank, f->bits);
        rmg_count_reads(w, &second, second.bank, second.bits);
        g_array_insert_val(w->list, i + 1u, second); /* in the order of the sockets */
    }
}

/* Causes at once: each is weighed by what it alone can have spoilt, `sure` that they are several.
 */
static void weigh_in_parts(weigher *w, unsigned others, double sure)
{
    failed_part part;
    double several;

    if (w->cause >= CAUSES_MOST || !rmg_part_failed(w, &part, &several)) {
        weigh(w, others, sure);
        return;
    }
    w->cause = MAX(w->cause, 1u); /* the one there was is the first of two */
    part_findings(w, &part);
    for (unsigned n = 0; n < 2; n++) {
        rest_of_all rest;

        part.others = n;
        rest = rmg_take_failures(w, &part);
        w->cause = (uint8_t)(w->cause + n);
        weigh_in_parts(w, others + 1u, sure * several);
        rmg_give_back(w, rest);
    }
}

void rmg_weigh_what_comes_and_goes(const rmg_run *run, GArray *findings)
{
    weigher w = {.run = run, .board = run->board, .list = findings};
    rmg_word lines = 0;
    unsigned others;

    if (run->pass_count > 1 && rmg_run_repeats(run))
        rmg_join_what_seems_to_touch(&w);
    if (run->pass_count < 2 ? !rmg_one_pass_tells(&w, &lines) : rmg_run_repeats(run))
        return;
    w.lanes = rmg_board_lanes(run->board);
    w.moments = g_array_new(FALSE, FALSE, sizeof(moment));
    w.failed = g_array_new(FALSE, FALSE, sizeof(socket_failed));
    w.sites = g_array_new(FALSE, FALSE, sizeof(site));
    w.seen_bits = g_new0(rmg_word, run->board->bank_count);
    w.taken = g_new0(rmg_word, run->board->bank_count);
    if (run->pass_count > 1)
        rmg_take_back_of_banks(&w);
    while (rmg_take_back_the_unsteady(&w)) /* one may bring others */
        ;
    if (lines) /* there may be more now */
        rmg_one_pass_tells(&w, &lines);
    others = list_failed(&w, lines);
    for (uint16_t r = 0; r < run->board->placement.rule_count; r++)
        w.chips += run->bank_words[run->board->placement.rules[r].bank] != 0;
    for (size_t b = 0; b < run->board->bank_count; b++)
        w.words += (double)run->bank_words[b];
    weigh_in_parts(&w, others, 1);
    g_array_free(w.moments, TRUE);
    g_array_free(w.failed, TRUE);
    g_array_free(w.sites, TRUE);
    g_free(w.seen_bits);
    g_free(w.taken);
}
