/* The places that all failures which come and go fit, each with its weight: what was likely before,
 * times how likely it makes the failures.
 *
 * Failures are not independent: a joint that opens for a moment spoils what is accessed meanwhile,
 * so that neighbours fail together. Failing words are therefore joined to moments: of one element
 * of one pass, in one bank, near each other, at some of the same bits. Where they fell counts for
 * half once an element; whether several bits failed at once, once a moment. */
#include <math.h>

#include "moments.h"

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
#define PRIOR_TWO     0.05 /* for each but one: times the chips' own, of two to four at once */

#define ONE_LEVEL  0.02 /* of the failing reads of lines that touch at times: the other level */
#define CHIPS_MOST 4u

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

/* Failing reads of two data lines in the banks of one half of the bus, by level. */
typedef struct two_lines {
    double high, low;
} two_lines;

static two_lines look_at_two(const weigher *w, const site *s)
{
    two_lines two = {0, 0};

    for (size_t b = 0; b < w->board->bank_count && b < RMG_TALLY_BANKS; b++)
        for (unsigned bit = 0; rmg_has_bank(&s->banks, (uint8_t)b) && bit < RMG_WORD_BITS; bit++) {
            const rmg_bit_tally *t = &w->run->tally.bits[b][bit];

            if (!(s->pair >> bit & 1u) || !(t->high || t->low))
                continue;
            two.high += (double)t->high;
            two.low += (double)t->low;
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
        if ((wins ? two.low : two.high) <= ONE_LEVEL * (two.high + two.low))
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

void rmg_find_places(weigher *w)
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
        add_site(w, chips, pow(PRIOR_TWO * PRIOR_CHIP / w->chips, w->failed->len) / PRIOR_TWO);
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
