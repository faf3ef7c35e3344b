/* How many bits it takes to write down a reading with the help of an explanation: what makes
 * explanations comparable. Logarithms are to the base of 2. */
#include <glib.h>
#include <math.h>

#include "guess.h"

#define NEW_CONTENT 1.1 /* bits that a bit of a word takes that was nowhere in the image */
#define SHORT       64u /* words by which something is displaced: more are not as common */
#define NEAR        8u  /* words between two places that belong together */

static double lg(double x)
{
    return x > 1 ? log2(x) : 0;
}

/* Which k of n: the entropy, and k itself. */
static double which_of(double k, double n)
{
    const double p = n > 0 ? k / n : 0;

    return 2 * lg(k + 1) + (p <= 0 || p >= 1 ? 0 : -n * (p * log2(p) + (1 - p) * log2(1 - p)));
}

/* The same without an end: the more of them, the more it takes, even where nearly all are. What is
 * left of explanations that get much wrong is so compared. */
static double which_of_many(double k, double n)
{
    return k < n / 4 ? which_of(k, n) : 2 * lg(k + 1) + k * (log2(n / fmin(k, n)) + 1.4427);
}

static void count_rest(tally *t, uint64_t i, rmg_word left, rmg_word read)
{
    t->left += ones_of(left);
    t->left_to_one += ones_of(left & read);
    t->left_to_zero += ones_of(left & ~read);
    t->left_bits |= left;
    if (t->last == UINT64_MAX) {
        t->first = i;
        t->all_ones = t->all_zeros = UINT64_MAX;
    }
    t->all_ones &= i;
    t->all_zeros &= ~i;
    if (t->last == UINT64_MAX || i - t->last > NEAR) {
        t->clusters++;
        t->span++;
    } else {
        t->span += i - t->last;
    }
    t->last = i;
}

void rmg_tally_word(const compare *c, const rmg_explanation *e, uint64_t i, tally *t)
{
    rmg_word open;
    const rmg_word mask = mask_at(c, i), told = rmg_predict(c, e, i, &open);
    const rmg_word changed = (told ^ c->predicted[i]) & mask & ~open;
    const rmg_word left = ((told ^ c->read[i]) | c->unsteady[i]) & mask & ~open;

    t->predicted += ones_of(changed);
    t->seen += ones_of(changed & ~(told ^ c->read[i]));
    if (open) {
        const rmg_word touched = open & touched_at(c, i);

        t->open += ones_of(open);
        t->open_touched += ones_of(touched);
        t->open_words++;
        t->touched_words += touched != 0;
        t->moving += ones_of(touched & c->unsteady[i]);
        t->moving_words += (touched & c->unsteady[i]) != 0;
        t->ragged += touched && touched != open ? ones_of(open) : 0;
    }
    if (left)
        count_rest(t, i, left, c->read[i]);
}

void rmg_tally_rest(const compare *c, tally *t)
{
    *t = (tally){.last = UINT64_MAX};
    for (uint64_t i = 0; i < c->count; i++) {
        const rmg_word left = touched_at(c, i);

        if (left)
            count_rest(t, i, left, c->read[i]);
    }
}

/* Single bits, anywhere or in a stretch. Where many of those that could go wrong did, it is hardly
 * cells any more. */
static double cells(const compare *c, const tally *t)
{
    const double all = (double)c->zeros + (double)c->ones, left = (double)t->left;
    const bool one_way = !t->left_to_one || !t->left_to_zero;
    const double could = fmax(!one_way          ? all
                              : t->left_to_zero ? (double)c->ones
                                                : (double)c->zeros,
                              left);
    const double stretch = ((double)t->last - (double)t->first + 1) / (double)c->count;

    return 3 + one_way +
           fmin(which_of_many(left, could),
                2 * lg((double)c->count) + which_of_many(left, fmax(could * stretch, left))) +
           (left > all / 8 ? 10 : 0);
}

#define SPARSEST 0.5 /* bits that a bit of another image takes, at least */

#define SOME_SHOW 0.2  /* of the bits that a chip with fewer data lines could make wrong, */
#define NOT_ALL   0.85 /* ... and no more */
#define FEW_BITS  32u

/* One with fewer data lines than are read: what is wrong is at these alone, and at no address
 * line's level alone, as it would be if a part of the chip were bad. */
static double another_narrow(const compare *c, const tally *t)
{
    const double width = ones_of(t->left_bits), left = (double)t->left;
    const double could = (t->left_to_zero ? (double)c->ones : (double)c->zeros) * width / c->bits;
    const uint64_t lines = ((uint64_t)1 << c->lines) - 1u;

    if (width >= c->bits || t->left < FEW_BITS || left < SOME_SHOW * could ||
        left > NOT_ALL * could || ((t->all_ones | t->all_zeros) & lines))
        return HUGE_VAL;
    return 7 + (t->left_to_one ? 3 : 0) + width * lg(c->bits) + which_of(left, could);
}

/* What another chip holds is no different from noise to us; but half its bits, or nearly so, would
 * show. */
static double another_wide(const compare *c, const tally *t)
{
    const double could =
        fmax(t->left_to_zero ? (double)c->ones : (double)c->zeros, (double)t->left);

    return 7 + (t->left_to_one ? 3 : 0) +
           fmin(which_of((double)t->left, could),
                5 + fmax(c->content / c->bits, SPARSEST) * could) +
           ((double)t->left < could / 20  ? 16
            : (double)t->left < could / 6 ? 8
                                          : 0);
}

static double another(const compare *c, const tally *t)
{
    return t->left_to_one && t->left_to_zero ? HUGE_VAL
                                             : fmin(another_wide(c, t), another_narrow(c, t));
}

double rmg_cost_of_rest(const compare *c, const tally *t, rmg_difference rest)
{
    if (!t->left)
        return 0;
    switch (rest) {
    case RMG_DIFF_CELLS:
        return cells(c, t);
    case RMG_DIFF_PATCHED: /* of all that is there, it is hardly "in places" any more */
        return 6 + (t->span > c->count / 4u ? 0.3 * (double)c->count * c->bits : 0) +
               (double)t->clusters * (lg((double)c->count) + 4) +
               (double)t->span * c->bits * NEW_CONTENT;
    case RMG_DIFF_ANOTHER:
        return another(c, t);
    default: /* where most that is in the image is right, there is something in common */
        return 2u * c->kept > c->held || (c->held < NEAR && 2u * c->touched_words < c->count)
                   ? HUGE_VAL
                   : 12 + (double)c->count * c->content;
    }
}

/* A blank stretch could begin and end anywhere among words that are blank anyway. */
static double where_blank(const compare *c, const rmg_explanation *e)
{
    const rmg_word blank = e->level ? c->mask : 0;
    const uint64_t last = e->first + e->count;
    uint64_t before = 0, after = 0;

    while (before < e->first && (c->predicted[e->first - before - 1u] & c->mask) == blank)
        before++;
    while (last + after < c->count && (c->predicted[last + after] & c->mask) == blank)
        after++;
    return lg((double)c->count) - lg((double)before + 1) +
           (last + after < c->count ? 1 + lg((double)c->count) - lg((double)after + 1) : 0);
}

/* By how many words something is displaced: half the time by few, as by a header. */
static double how_far(const compare *c, uint64_t words)
{
    return 1 + (words <= SHORT || words >= c->count - SHORT ? lg(SHORT) : lg((double)c->count));
}

/* What it takes to write the explanation itself: how seldom its kind is, and how many there are. */
double rmg_cost_of_kind(const compare *c, const rmg_explanation *e)
{
    const double bits = c->bits, lines = c->lines, words = (double)c->count;

    switch (e->kind) {
    case RMG_DIFF_DATA_FLOATS:
        return 4 + lg(bits);
    case RMG_DIFF_DATA_STUCK:
        return 2 + lg(2 * bits);
    case RMG_DIFF_DATA_SHORTED:
        return 4 + lg(bits * bits);
    case RMG_DIFF_DATA_SWAPPED:
        return 5 + lg(bits * bits / 2);
    case RMG_DIFF_DATA_PERMUTED:
        return 8 + bits * lg(bits) + (e->invert ? bits : 0);
    case RMG_DIFF_LINE_STUCK:
        return 2 + lg(2 * lines);
    case RMG_DIFF_LINE_SHORTED:
        return 5 + lg(lines * lines);
    case RMG_DIFF_LINE_SWAPPED:
        return 5 + lg(lines * lines / 2);
    case RMG_DIFF_LINE_INVERTED:
        return 6 + lg(lines);
    case RMG_DIFF_LINE_PERMUTED:
        /* each word in another place tells one address; few tell less than the order of all lines
         */
        return 8 + fmin(lines * lg(lines) + (e->invert ? lines : 0),
                        lines * fmax((double)c->touched_words / 2, 1));
    case RMG_DIFF_LINES_STUCK:
        return 6 + (2 + lg(lines)) * __builtin_popcountll(e->offset);
    case RMG_DIFF_OFFSET:
        return 6.8 + how_far(c, e->offset);
    case RMG_DIFF_MOVED:
        return 5 + how_far(c, e->offset);
    case RMG_DIFF_SHIFTED:
        return 3.5 + lg(words) - lg((double)e->count + 1) + how_far(c, e->offset);
    case RMG_DIFF_REPEATED:
        return 5 + lg(32);
    case RMG_DIFF_HALF_BLANK:
        return 4;
    case RMG_DIFF_BLANK:
        return 5 + where_blank(c, e) + (e->level ? 0 : 3);
    case RMG_DIFF_OTHER_IMAGE:
        return 3 + lg((double)c->hints->other_count);
    case RMG_DIFF_WITH_IMAGE:
        return 7 + lg((double)c->hints->other_count);
    default:
        return 6;
    }
}

static double rest_cost(const compare *c, const tally *t)
{
    double least = rmg_cost_of_rest(c, t, RMG_DIFF_CELLS);

    for (rmg_difference rest = RMG_DIFF_PATCHED; rest <= RMG_DIFF_ANOTHER; rest++)
        least = fmin(least, rmg_cost_of_rest(c, t, rest));
    return least;
}

/* What comes and goes with one probability at each of the readings is wrong in all of them, in some
 * or in none. What it takes to say which, of `open` places, by the probability that fits best. */
static double come_and_gone(const compare *c, double open, double touched, double moving)
{
    const double readings = c->hints->readings > 1 ? c->hints->readings : 1;
    double least = HUGE_VAL;

    for (double p = 1; p > 1e-6; p *= 0.8) {
        const double all = pow(p * 0.999, readings), none = pow(1 - p * 0.999, readings);
        const double some = fmax(1 - all - none, 1e-12);

        least = fmin(least, -(touched - moving) * log2(all) - moving * log2(some) -
                                (open - touched) * log2(fmax(none, 1e-12)));
    }
    return 2 * lg(touched + 1) + least;
}

/* What it takes to say where it did. An address line makes a whole word wrong; a data line, a bit.
 */
static double where_open(const compare *c, const rmg_explanation *e, const tally *t)
{
    if (e->kind == RMG_DIFF_SHIFTED) /* as if these words had been patched in */
        return (double)t->touched_words * c->bits * NEW_CONTENT +
               (double)(t->open - t->open_touched) * c->content / c->bits;
    if (!e->sometimes)
        return (double)t->open * c->content / c->bits;
    if (rmg_difference_of_lines(e->kind) || e->kind == RMG_DIFF_LATE)
        return 4 +
               come_and_gone(c, (double)t->open_words, (double)t->touched_words,
                             (double)t->moving_words) +
               (double)t->ragged;
    return 4 + come_and_gone(c, (double)t->open, (double)t->open_touched, (double)t->moving);
}

double rmg_cost(const compare *c, const rmg_explanation *e, const tally *t)
{
    const double own =
        rmg_cost_of_kind(c, e) + (e->part ? 1 + lg((double)c->hints->part_count) : 0);

    return own + where_open(c, e, t) + rest_cost(c, t);
}
