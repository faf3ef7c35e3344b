/* How likely each place makes the failures that come and go. docs/diagnosis.md, "What comes and
 * goes", has the model and its assumptions. */
#include <math.h>
#include <string.h>

#include "moments.h"

#define ODD    (-12.0) /* log of the chance that a failure has another cause than the rest */
#define BURSTS 0.55    /* what comes and goes stays for a while: elements are not independent */

/* Bits of the bank at which the site could be seen to fail: other findings hide some. */
static rmg_word seen_of(const weigher *w, const site *s, uint8_t bank)
{
    const rmg_word seen = w->seen_bits[bank];

    return s->kind == SITE_LINE                             ? seen & (rmg_word)1 << s->bit
           : s->kind == SITE_PAIR || s->kind == SITE_DRIVER ? seen & s->pair
                                                            : seen;
}

/* Words of the banks in which the site could be seen to fail, or of all of a set of them. */
static double words_of(const weigher *w, const site *s, const bank_set *set)
{
    double words = 0;

    for (unsigned b = 0; b < w->board->bank_count; b++)
        words += rmg_has_bank(set, (uint8_t)b) && (!s || seen_of(w, s, (uint8_t)b))
                     ? (double)w->run->bank_words[b]
                     : 0;
    return words;
}

/* How many chips of the bank hold some of these bits. */
unsigned rmg_chips_with(const weigher *w, uint8_t bank, rmg_word bits)
{
    unsigned count = 0;

    for (uint16_t r = 0; r < w->board->placement.rule_count; r++)
        count += w->board->placement.rules[r].bank == bank &&
                 (rmg_rule_bits(&w->board->placement.rules[r]) & bits);
    return count;
}

/* Logarithm of the chance of a moment that has another cause than the rest, whatever that is: less
 * than as noise. */
static double odd(const weigher *w, const moment *m)
{
    return ODD - log(w->bits) * m->failed;
}

/* The same of which failures have that other cause, where so many of all do not. */
static double mixed(double own, double all)
{
    const double other = all - own;

    return (own > 0 ? own * log(own / all) : 0) + (other > 0 ? other * log(other / all) : 0);
}

/* Logarithm of the chance that bits fail as in this moment, if the site is to blame. */
static double bits_at_site(const weigher *w, const site *s, const moment *m)
{
    const rmg_word all = (rmg_word) ~(rmg_word)0;

    if (s->kind != SITE_NOISE && !rmg_fits_site(s, m))
        return odd(w, m);
    switch (s->kind) {
    case SITE_LINE:
        return 0;
    case SITE_PAIR: /* never both, but in two backgrounds of one step */
        return m->at_once ? log(0.5) : 0;
    case SITE_BANK:
    case SITE_ALL:
        if (!m->at_once)
            return log(0.1) - log(w->bits) * m->failed;
        return rmg_chips_with(w, m->bank, m->bits) > 1 || rmg_chips_with(w, m->bank, all) < 2
                   ? log(0.8)
                   : log(0.05);
    default: /* noise */
        return m->at_once ? log(0.02) - fmin(rmg_ones_of(m->bits), 8) * log(2)
                          : -log(w->bits) * m->failed;
    }
}

/* The same of a chip: of one pin of it, of the whole, of its cells; and how much of it is its own.
 */
typedef struct chip_chances {
    double pin[RMG_WORD_BITS], own_pin[RMG_WORD_BITS]; /* of each data line of it */
    double whole, cells, own, all;
} chip_chances;

static void bits_at_chip(const weigher *w, const socket_failed *f, const moment *m, chip_chances *c)
{
    const bool here = f->bank == m->bank && !(m->bits & ~f->bits);

    for (unsigned bit = 0; bit < RMG_WORD_BITS; bit++) {
        const bool pin = here && m->bits == (rmg_word)1 << bit;

        c->pin[bit] += pin ? 0 : odd(w, m);
        c->own_pin[bit] += pin ? m->failed : 0;
    }
    c->whole += !here          ? odd(w, m)
                : f->width < 2 ? 0
                : m->at_once   ? log(0.8)
                               : log(0.2) - log(f->width) * m->failed;
    c->cells += !here ? odd(w, m) : m->at_once ? log(0.05) : -log(f->width) * m->failed;
    c->own += here ? m->failed : 0;
    c->all += m->failed;
}

static double log_sum(double a, double b)
{
    return fmax(a, b) + log1p(exp(-fabs(a - b)));
}

/* How much likelier it is, as a logarithm, that `times` failures fell on so few cells of so many if
 * only these cells are weak than if each could have failed: what it takes to say which cells they
 * are counts against it. */
static double weak_cells(const weigher *w, double cells, double of, double times)
{
    /* where not all could be kept, how many cells they fell on is not known */
    return cells < of && !rmg_failset_lost(w->run->failures)
               ? times * log(of / cells) - lgamma(of + 1) + lgamma(cells + 1) +
                     lgamma(of - cells + 1)
               : 0;
}

/* Logarithm of the likelihood of all that failed at one chip; others count against it only where
 * `alone`. */
static double of_chip(const weigher *w, const socket_failed *f, bool alone)
{
    const double of = (double)w->run->bank_words[f->bank] * MAX(f->failing, 1u);
    chip_chances c = {{0}, {0}, 0, 0, 0, 0};
    double pins = -INFINITY;

    for (guint i = 0; i < w->moments->len; i++) {
        const moment *m = &g_array_index(w->moments, moment, i);

        if (alone || (m->bank == f->bank && (m->bits & f->bits)))
            bits_at_chip(w, f, m, &c);
    }
    for (unsigned bit = 0; bit < RMG_WORD_BITS; bit++)
        if (f->bits >> bit & 1u)
            pins = log_sum(pins, c.pin[bit] + mixed(c.own_pin[bit], c.all) - log(f->width));
    return log_sum(log_sum(log(0.4) + pins, log(0.3) + c.whole + mixed(c.own, c.all)),
                   log(0.3) + c.cells + mixed(c.own, c.all) +
                       weak_cells(w, f->cells, of, f->cells + f->again));
}

/* Logarithm of the chance that the failures fell in these banks, once an element, where each access
 * of the site's banks may fail. */
static double where_they_fell(const weigher *w, const site *s)
{
    const bank_set *set = &s->banks;
    const double all = words_of(w, s, set);
    double chance = 0;

    for (guint i = 0; i < w->moments->len;) {
        const uint64_t element = g_array_index(w->moments, moment, i).element;
        bank_set hit = {{0}};
        bool elsewhere = false;

        for (; i < w->moments->len && g_array_index(w->moments, moment, i).element == element;
             i++) {
            const uint8_t bank = g_array_index(w->moments, moment, i).bank;

            elsewhere |= !rmg_has_bank(set, bank);
            if (rmg_has_bank(set, bank))
                rmg_include_bank(&hit, bank);
        }
        chance += elsewhere ? ODD : BURSTS * fmin(0, log(words_of(w, NULL, &hit) / all));
    }
    return chance;
}

/* Logarithm of the chance that it was now this chip, now that, as often as it was. */
static double which_chip(const weigher *w)
{
    double all = 0, chance = 0;

    for (guint n = 0; n < 2; n++)
        for (guint i = 0; i < w->failed->len; i++) {
            const socket_failed *f = &g_array_index(w->failed, socket_failed, i);
            double own = 0;

            for (guint k = 0; k < w->moments->len; k++) {
                const moment *m = &g_array_index(w->moments, moment, k);

                own += m->bank == f->bank && (m->bits & f->bits) ? m->failed : 0;
            }
            all += n ? 0 : own;
            chance += n && own > 0 ? own * log(own / all) : 0;
        }
    return chance;
}

/* ... that it was now this line of two, now that. */
static double which_line(const weigher *w, const site *s)
{
    double own = 0, all = 0;

    for (guint i = 0; s->kind == SITE_PAIR && i < w->moments->len; i++) {
        const moment *m = &g_array_index(w->moments, moment, i);

        all += rmg_fits_site(s, m) && !m->at_once ? m->failed : 0;
        own += rmg_fits_site(s, m) && m->bits == (s->pair & (~s->pair + 1u)) ? m->failed : 0;
    }
    return mixed(own, all);
}

/* ... that in some banks it was the same line each time: either loses where it is to have that
 * level, which the other as often has. */
static double one_line_only(const weigher *w, const site *s)
{
    double chance = 0;

    for (unsigned b = 0; s->kind == SITE_PAIR && b < w->board->bank_count; b++) {
        rmg_word lines = 0;
        double times = 0;

        for (guint i = 0; i < w->moments->len; i++) {
            const moment *m = &g_array_index(w->moments, moment, i);

            times += m->bank == b && rmg_fits_site(s, m);
            lines |= m->bank == b && rmg_fits_site(s, m) ? m->bits : 0;
        }
        chance -=
            lines && lines != s->pair && !(s->pair & ~w->seen_bits[b]) ? (times - 1) * log(2) : 0;
    }
    return chance;
}

/* Logarithm of the likelihood of all that failed, if a chip of another bank drives its lines: all
 * of them at once, or those at which it holds another level. */
static double of_driver(const weigher *w, const site *s)
{
    const double width = rmg_ones_of(s->pair);
    double whole = 0, some = 0, own = 0, all = 0;
    untold_cells u;
    const double which = rmg_which_reads(w, s, &u);

    for (guint i = 0; i < w->moments->len; i++) {
        const moment *m = &g_array_index(w->moments, moment, i);
        const bool here = rmg_fits_site(s, m);

        whole += !here        ? odd(w, m)
                 : width < 2  ? 0
                 : m->at_once ? log(0.8)
                              : log(0.2) - log(width) * m->failed;
        some += !here ? odd(w, m) : m->at_once ? log(0.05) : -log(width) * m->failed;
        own += here ? m->failed : 0;
        all += m->failed;
    }
    return log_sum(whole, some) - log(2) + mixed(own, all) + which +
           fmax(0, weak_cells(w, u.cells, u.of, u.times));
}

/* The only chip of a bank of several that other findings do not hide, or NULL: nothing tells what
 * the bank shares from it. */
static const socket_failed *seen_alone(const weigher *w, const site *s)
{
    const rmg_word all = (rmg_word) ~(rmg_word)0;

    if (s->kind != SITE_BANK || rmg_chips_with(w, s->bank, all) < 2 ||
        rmg_chips_with(w, s->bank, w->seen_bits[s->bank]) != 1)
        return NULL;
    for (guint i = 0; i < w->failed->len; i++)
        if (g_array_index(w->failed, socket_failed, i).bank == s->bank)
            return &g_array_index(w->failed, socket_failed, i);
    return NULL;
}

double rmg_likelihood_of(const weigher *w, const site *s)
{
    const socket_failed *alone = seen_alone(w, s);
    double chance = where_they_fell(w, s), own = 0, all = 0;

    if (alone)
        return chance + of_chip(w, alone, true);
    if (s->kind == SITE_CHIP)
        return chance + of_chip(w, &g_array_index(w->failed, socket_failed, s->bit), true);
    if (s->kind == SITE_DRIVER)
        return chance + of_driver(w, s);
    if (s->kind == SITE_CHIPS) {
        for (guint i = 0; i < w->failed->len; i++)
            chance += of_chip(w, &g_array_index(w->failed, socket_failed, i), false);
        return chance + which_chip(w);
    }
    for (guint i = 0; i < w->moments->len; i++) {
        const moment *m = &g_array_index(w->moments, moment, i);

        chance += bits_at_site(w, s, m);
        own += rmg_fits_site(s, m) ? m->failed : 0;
        all += m->failed;
    }
    if (s->kind == SITE_NOISE) /* which changes no cell: a word fails again by chance only */
        return chance - fmax(0, weak_cells(w, w->cells, w->words * w->bits, w->reads));
    return chance + mixed(own, all) + which_line(w, s) + one_line_only(w, s) +
           (s->kind == SITE_PAIR ? rmg_which_words(w, s) : 0);
}
