/* What comes and goes: the places that all failures fit, weighed against each other and against
 * chance. docs/diagnosis.md, "What comes and goes", has the model and its assumptions.
 *
 * Failures are not independent: a joint that opens for a moment spoils what is accessed meanwhile,
 * so that neighbours fail together. Failing words are therefore joined to moments: of one element
 * of one pass, in one bank, near each other, at some of the same bits. Where they fell counts for
 * half once an element; whether several bits failed at once, once a moment. */
#include <math.h>
#include <string.h>

#include "moments.h"
#include "share.h"

/* How likely each is, before anything is measured: the sum over all places of a kind. */
#define PRIOR_CHIP    0.40
#define PRIOR_LINE    0.10  /* a data line with all its chips */
#define PRIOR_STRETCH 0.03  /* ... with some of them */
#define PRIOR_HALVES  0.01  /* ... of both halves of a bus, where they are one again */
#define PRIOR_TOUCH   0.005 /* any two data lines, everywhere; */
#define PRIOR_NEAR    0.002 /* ... in one bank, or before a bus is parted into halves */
#define PRIOR_DRIVES  0.02  /* a chip, when another bank is read */
#define PRIOR_BANK    0.15
#define PRIOR_ALL     0.05
#define PRIOR_TWO     0.05 /* times the chips' own, where two to four are bad at once */
/* Chance has to be ruled out, not only to be less likely: where noise is all there is, a chip would
 * be named in one of some 150 runs at most (A. Markov's inequality), in fact far less often. */
#define PRIOR_NOISE 100.0
#define NOISE_DRAWN (0.22 / PRIOR_NOISE) /* what it is worth beside the places, of that */
#define SHARPER     1.4                  /* the model is too careful: calibrated */

#define SAME_WORDS    0.8  /* of all words of the bank that fail, in each of its sockets */
#define ONE_LEVEL     0.02 /* of the failing reads of lines that touch at times: the other level */
#define WORTH_SAYING  0.05
#define CHIPS_MOST    4u
#define ONCE_MOST     2   /* failing reads that a fault which shows once may give */
#define MAYBE         300 /* thousandths: that they are more than chance, before replay */
#define PASSES_PLAYED 2u  /* by replay */
#define EPISODES_FEW  2u  /* too few to tell a chip from its lines by where it failed */

static const rmg_rule *rule_of(const weigher *w, uint16_t socket, uint8_t bank)
{
    for (uint16_t r = 0; r < w->board->placement.rule_count; r++)
        if (w->board->placement.rules[r].socket == socket &&
            w->board->placement.rules[r].bank == bank)
            return &w->board->placement.rules[r];
    return NULL;
}

static void add_site(weigher *w, site s, double prior)
{
    s.weight = log(prior) + rmg_likelihood_of(w, &s);
    g_array_append_val(w->sites, s);
}

static bool same_lane(const weigher *w, size_t a, size_t b)
{
    const rmg_where *x = &w->board->bank_wheres[a], *y = &w->board->bank_wheres[b];

    return !((x->match ^ y->match) & x->mask & y->mask & w->lanes);
}

/* A data line in all banks that have it, of each half of the bus; and on its way to those in which
 * it failed. */
static void add_lines(weigher *w, uint8_t bit, size_t first)
{
    site all = {.kind = SITE_LINE, .bit = bit}, some = all;
    unsigned banks = 0, failing = 0;

    for (size_t b = 0; b < first; b++)
        if (w->run->bank_words[b] && same_lane(w, b, first))
            return; /* with an earlier bank */
    for (size_t b = first; b < w->board->bank_count; b++)
        if (w->run->bank_words[b] && same_lane(w, b, first) &&
            rmg_chips_with(w, (uint8_t)b, (rmg_word)1 << bit)) {
            const rmg_bit_tally *t = &w->run->tally.bits[b][bit];

            rmg_include_bank(&all.banks, (uint8_t)b);
            banks++;
            if (b < RMG_TALLY_BANKS && (t->high || t->low)) {
                rmg_include_bank(&some.banks, (uint8_t)b);
                failing++;
            }
        }
    if (banks < 2 || !failing)
        return;
    add_site(w, all, PRIOR_LINE / rmg_ones_of(w->run->mask));
    if (failing > 1 && failing < banks)
        add_site(w, some, PRIOR_STRETCH / rmg_ones_of(w->run->mask) / pow(2, banks));
}

/* Data bits of which cells fail in these banks. */
static rmg_word failing_bits(const weigher *w, const bank_set *banks)
{
    rmg_word failing = 0;

    for (guint i = 0; i < w->failed->len; i++) {
        const socket_failed *f = &g_array_index(w->failed, socket_failed, i);

        for (unsigned bit = 0; f->bank < RMG_TALLY_BANKS && bit < RMG_WORD_BITS; bit++) {
            const rmg_bit_tally *t = &w->run->tally.bits[f->bank][bit];

            if (rmg_has_bank(banks, f->bank) && (f->bits >> bit & 1u) && (t->high || t->low))
                failing |= (rmg_word)1 << bit;
        }
    }
    return failing;
}

/* A data line of both halves of the bus, on its way to where they part. */
static void add_line_of_halves(weigher *w, uint8_t bit)
{
    site s = {.kind = SITE_LINE, .bit = bit};

    for (size_t b = 0; b < w->board->bank_count; b++)
        if (w->run->bank_words[b] && rmg_chips_with(w, (uint8_t)b, (rmg_word)1 << bit))
            rmg_include_bank(&s.banks, (uint8_t)b);
    if (failing_bits(w, &s.banks) >> bit & 1u)
        add_site(w, s, PRIOR_HALVES / rmg_ones_of(w->run->mask));
}

/* What failed of two data lines in the banks of one half of the bus: levels, and whether each bank
 * that failed did at both. */
typedef struct two_lines {
    double high, low;
    bool both;
    unsigned sockets;
} two_lines;

static two_lines look_at_two(const weigher *w, const site *s)
{
    two_lines two = {.both = true};

    for (size_t b = 0; b < w->board->bank_count && b < RMG_TALLY_BANKS; b++) {
        rmg_word failing = 0;

        for (unsigned bit = 0; rmg_has_bank(&s->banks, (uint8_t)b) && bit < RMG_WORD_BITS; bit++) {
            const rmg_bit_tally *t = &w->run->tally.bits[b][bit];

            if (!(s->pair >> bit & 1u) || !(t->high || t->low))
                continue;
            failing |= (rmg_word)1 << bit;
            two.high += (double)t->high;
            two.low += (double)t->low;
        }
        two.both &= !failing || failing == s->pair;
        two.sockets += failing ? rmg_chips_with(w, (uint8_t)b, failing) : 0;
    }
    return two;
}

/* Two data lines of several chips, of which now one fails, now the other, at one level: where they
 * touch at times, the one that is driven to the other level loses. */
static void add_pair(weigher *w, bank_set banks, double prior)
{
    const unsigned lines = rmg_ones_of(w->run->mask);
    site s = {.kind = SITE_PAIR, .banks = banks, .pair = failing_bits(w, &banks)};
    two_lines two;

    if (rmg_ones_of(s.pair) != 2)
        return;
    two = look_at_two(w, &s);
    for (unsigned wins = 0; wins < 2; wins++) {
        s.high_wins = wins;
        if (two.both && two.sockets > 1 &&
            (wins ? two.low : two.high) <= ONE_LEVEL * (two.high + two.low))
            add_site(w, s, prior * 2 / (lines * (lines - 1.0)));
    }
}

/* ... in all banks of one half of the bus, and in each of these alone. */
static void add_pairs(weigher *w, size_t first)
{
    bank_set all = {{0}};
    unsigned banks = 0;

    for (size_t b = 0; b < first; b++)
        if (w->run->bank_words[b] && same_lane(w, b, first))
            return; /* with an earlier bank */
    for (size_t b = first; b < w->board->bank_count; b++)
        if (w->run->bank_words[b] && same_lane(w, b, first)) {
            rmg_include_bank(&all, (uint8_t)b);
            banks++;
        }
    add_pair(w, all, PRIOR_TOUCH);
    for (size_t b = first; banks > 1 && b < w->board->bank_count; b++)
        if (rmg_has_bank(&all, (uint8_t)b)) {
            bank_set one = {{0}};

            rmg_include_bank(&one, (uint8_t)b);
            add_pair(w, one, PRIOR_NEAR / banks);
        }
}

/* Chips of other banks that drive the lines which fail, when these are read. */
static void add_drivers(weigher *w)
{
    const uint16_t rules = w->board->placement.rule_count;
    bank_set failing = {{0}};

    for (guint i = 0; i < w->failed->len; i++)
        rmg_include_bank(&failing, g_array_index(w->failed, socket_failed, i).bank);
    for (uint16_t r = 0; r < rules && w->failed->len <= CHIPS_MOST && !w->run->plan.keep; r++) {
        const rmg_rule *rule = &w->board->placement.rules[r];
        site s = {.kind = SITE_DRIVER, .socket = rule->socket, .rule = r, .bank = RMG_NO_BANK};
        two_lines levels;

        if (!w->run->bank_words[rule->bank] || rmg_has_bank(&failing, rule->bank))
            continue;
        for (size_t b = w->board->bank_count; b-- > 0;)
            if (b != rule->bank && w->run->bank_words[b] && same_lane(w, b, rule->bank) &&
                rmg_chips_with(w, (uint8_t)b, rmg_rule_bits(rule))) {
                rmg_include_bank(&s.banks, (uint8_t)b);
                s.bank = rmg_has_bank(&failing, (uint8_t)b) ? (uint8_t)b : s.bank;
            }
        s.pair = rmg_rule_bits(rule) & w->run->mask;
        if (s.bank == RMG_NO_BANK || !(failing_bits(w, &s.banks) & s.pair))
            continue;
        levels = look_at_two(w, &s);
        s.high_wins = levels.high > levels.low;
        if (MIN(levels.high, levels.low) <= ONE_LEVEL * (levels.high + levels.low))
            add_site(w, s, PRIOR_DRIVES / w->chips);
    }
}

/* The last place is the only chip of its bank: what leads to the bank leads to it alone, and counts
 * with it. */
static void add_what_is_its_own(weigher *w, double prior)
{
    site *chip = &g_array_index(w->sites, site, w->sites->len - 1u);
    site bank = *chip;
    double more;

    bank.kind = SITE_BANK;
    more = log(prior) + rmg_likelihood_of(w, &bank);
    chip->weight = fmax(chip->weight, more) + log1p(exp(-fabs(chip->weight - more)));
}

static void find_sites(weigher *w)
{
    const rmg_word all_bits = (rmg_word) ~(rmg_word)0;
    site noise = {.kind = SITE_NOISE}, chips = {.kind = SITE_CHIPS}, all = {.kind = SITE_ALL};
    unsigned banks = 0;

    for (size_t b = 0; b < w->board->bank_count; b++)
        if (w->run->bank_words[b]) {
            rmg_include_bank(&noise.banks, (uint8_t)b);
            rmg_include_bank(&all.banks, (uint8_t)b);
            banks++;
        }
    add_site(w, noise, PRIOR_NOISE);
    for (guint i = 0; i < w->failed->len; i++) {
        const socket_failed *f = &g_array_index(w->failed, socket_failed, i);
        site s = {.kind = SITE_CHIP, .socket = f->socket, .bank = f->bank, .bit = (uint8_t)i};

        rmg_include_bank(&s.banks, f->bank);
        rmg_include_bank(&chips.banks, f->bank);
        if (i <= UINT8_MAX)
            add_site(w, s, PRIOR_CHIP / w->chips);
        if (i <= UINT8_MAX && rmg_chips_with(w, f->bank, all_bits) < 2)
            add_what_is_its_own(w, PRIOR_BANK / banks);
    }
    if (w->failed->len > 1 && w->failed->len <= CHIPS_MOST)
        add_site(w, chips, PRIOR_TWO * pow(PRIOR_CHIP / w->chips, w->failed->len));
    for (unsigned bit = 0; w->lanes && bit < w->board->word_bits; bit++)
        add_line_of_halves(w, (uint8_t)bit);
    for (unsigned bit = 0; bit < w->board->word_bits; bit++)
        for (size_t b = 0; b < w->board->bank_count; b++)
            if (w->run->bank_words[b])
                add_lines(w, (uint8_t)bit, b);
    for (size_t b = 0; b < w->board->bank_count; b++)
        if (w->run->bank_words[b])
            add_pairs(w, b);
    if (w->lanes) /* where the halves of the bus are one again */
        add_pair(w, noise.banks, PRIOR_NEAR);
    add_drivers(w);
    for (size_t b = 0; b < w->board->bank_count; b++) {
        site s = {.kind = SITE_BANK, .bank = (uint8_t)b};

        rmg_include_bank(&s.banks, (uint8_t)b);
        if (w->run->bank_words[b] && rmg_chips_with(w, (uint8_t)b, all_bits) > 1)
            add_site(w, s, PRIOR_BANK / banks);
    }
    if (banks > 1)
        add_site(w, all, PRIOR_ALL);
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
                seen += rmg_chips_with(w, (uint8_t)b,
                                       w->seen_bits[b] & (s->kind == SITE_LINE
                                                              ? (rmg_word)1 << s->bit
                                                              : (rmg_word) ~(rmg_word)0));
        if (rmg_has_bank(&s->banks, f->bank) && seen == 1)
            return true;
    }
    return false;
}

static bool is_weighed(const weigher *w, const rmg_finding *f)
{
    for (guint i = 0; f->kind == RMG_FINDING_CELLS && i < w->failed->len; i++)
        if (g_array_index(w->failed, socket_failed, i).socket == f->socket &&
            g_array_index(w->failed, socket_failed, i).bank == f->bank)
            return true;
    return false;
}

/* Puts the places that fit in the place of the findings of cells. */
static void replace_findings(weigher *w)
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
            f.weighed = thousandths(s->weight);
            f.together = true;
            /* else each has its own place among them */
            if (kind == SITE_CHIPS || kind == SITE_PAIR)
                g_array_append_val(w->list, f);
        }
        if (s->kind == SITE_CHIPS || (s->kind == SITE_CHIP && kind == SITE_CHIPS))
            continue;
        f = s->kind == SITE_CHIP ? g_array_index(kept, rmg_finding, s->bit)
                                 : rmg_site_finding(w, s);
        f.weighed = thousandths(s->weight);
        /* its line may as well have been */
        if (s->kind == SITE_CHIP &&
            (seen_by_it_alone(w, &g_array_index(w->failed, socket_failed, s->bit)) ||
             (episodes(w) <= EPISODES_FEW && has_lines(w) &&
              g_array_index(w->failed, socket_failed, s->bit).failing == 1)))
            f.weighed = MIN(f.weighed, 500);
        g_array_append_val(w->list, f);
    }
    /* so few failures that replay may tell whether a fault of that chip gives just these */
    if (kind == SITE_NOISE && kept->len == 1 && w->reads <= ONCE_MOST &&
        w->run->pass_count <= PASSES_PLAYED) {
        rmg_finding f = g_array_index(kept, rmg_finding, 0);

        f.weighed = MAYBE;
        g_array_index(w->list, rmg_finding, w->list->len - 1u).weighed = 1000u - MAYBE;
        g_array_append_val(w->list, f);
    }
    g_array_free(kept, TRUE);
    if (kind == SITE_CHIPS)
        rmg_join_weak(w->run, w->list);
}

/* The data bits of a bank that findings of other kinds are about. */
static rmg_word bits_of_others(const weigher *w, size_t bank)
{
    rmg_word bits = 0;

    for (guint i = 0; i < w->list->len; i++) {
        const rmg_finding *f = &g_array_index(w->list, rmg_finding, i);

        if (f->kind != RMG_FINDING_CELLS && (f->bank == RMG_NO_BANK || f->bank == bank))
            bits |= f->bits;
    }
    return bits;
}

/* The sockets of which cells fail; findings of other kinds. */
static unsigned list_failed(weigher *w)
{
    bool *steady = rmg_steady_cells(w->run, w->list);
    unsigned others = 0;

    for (guint i = 0; i < w->list->len; i++) {
        const rmg_finding *f = &g_array_index(w->list, rmg_finding, i);
        const rmg_rule *rule = f->kind == RMG_FINDING_CELLS ? rule_of(w, f->socket, f->bank) : NULL;
        socket_failed failed = {.socket = f->socket, .bank = f->bank};
        rmg_finding reads = {0};

        if (!rule || steady[i]) {
            others++;
            continue;
        }
        failed.bits = rmg_board_bits(w->board, f->bank, f->socket) & w->run->mask;
        failed.bits &= f->bits | ~bits_of_others(w, f->bank);
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

/* Data bits that no other finding is about. */
static rmg_word bits_that_may_fail(const weigher *w)
{
    rmg_word taken = w->run->mask, cells = 0;

    for (guint i = 0; i < w->list->len; i++)
        if (g_array_index(w->list, rmg_finding, i).kind == RMG_FINDING_CELLS)
            cells |= g_array_index(w->list, rmg_finding, i).bits;
    for (size_t b = 0; b < w->board->bank_count; b++)
        taken &= w->run->bank_words[b] ? bits_of_others(w, b) : taken;
    return (w->run->mask & ~taken) | cells;
}

/* Bits of each bank at which failures could be seen. */
static void find_seen_bits(weigher *w)
{
    for (size_t b = 0; b < w->board->bank_count; b++)
        w->seen_bits[b] = w->run->mask & ~bits_of_others(w, b);
    for (guint i = 0; i < w->failed->len; i++) {
        const socket_failed *f = &g_array_index(w->failed, socket_failed, i);

        w->seen_bits[f->bank] |= f->bits;
    }
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

void rmg_weigh_what_comes_and_goes(const rmg_run *run, GArray *findings)
{
    weigher w = {.run = run, .board = run->board, .list = findings};
    unsigned others;

    if (run->pass_count > 1 && rmg_run_repeats(run))
        rmg_join_what_seems_to_touch(&w);
    if (run->pass_count < 2
            ? !all_failed_once(run, findings) && !fail_in_the_same_words(run, findings)
            : rmg_run_repeats(run))
        return;
    w.lanes = rmg_board_lanes(run->board);
    w.moments = g_array_new(FALSE, FALSE, sizeof(moment));
    w.failed = g_array_new(FALSE, FALSE, sizeof(socket_failed));
    w.sites = g_array_new(FALSE, FALSE, sizeof(site));
    w.seen_bits = g_new0(rmg_word, run->board->bank_count);
    if (run->pass_count > 1)
        rmg_take_back_of_banks(&w);
    while (rmg_take_back_the_unsteady(&w)) /* one may bring others */
        ;
    others = list_failed(&w);
    for (uint16_t r = 0; r < run->board->placement.rule_count; r++)
        w.chips += run->bank_words[run->board->placement.rules[r].bank] != 0;
    for (size_t b = 0; b < run->board->bank_count; b++)
        w.words += (double)run->bank_words[b];
    /* one failing read beside a fault that is there: named, but not surely */
    if (w.failed->len && !(others && w.reads < 2)) {
        rmg_moments_collect(&w);
        w.bits = rmg_ones_of(bits_that_may_fail(&w));
        for (guint i = 0; i < w.failed->len; i++)
            w.cells += g_array_index(w.failed, socket_failed, i).cells;
        find_seen_bits(&w);
        if (w.moments->len) { /* else when each failed is not known */
            find_sites(&w);
            replace_findings(&w);
        }
    }
    g_array_free(w.moments, TRUE);
    g_array_free(w.failed, TRUE);
    g_array_free(w.sites, TRUE);
    g_free(w.seen_bits);
}
