/* Comparing: counts, explanations peeled off one after another, and what that proves. */
#include "rimeglass/verify.h"
#include "base/internal.h"

#include <glib.h>
#include <string.h>

#include "guess.h"

#define SAMPLES   256u
#define LEAST     8u /* wrong bits an explanation must explain; fewer may be single cells */
#define NEARLY(n) ((n) - (n) / 10u)

static unsigned ones(rmg_word word)
{
    return (unsigned)__builtin_popcountll(word);
}

/* The best explanation so far, and the best of those whose every bit is as predicted. */
typedef struct search {
    const compare *c;
    rmg_explained best[2];
    int64_t gain[2];
} search;

/* On some wrong words and some others: does it hardly set anything wrong that was right? */
static bool worth_a_look(const compare *c, const rmg_explanation *e)
{
    uint64_t mended = 0, broken = 0;

    for (size_t s = 0; s < c->sampled; s++) {
        const uint64_t i = c->sample[s];
        const rmg_word before = (c->predicted[i] ^ c->read[i]) & c->mask;
        const rmg_word after = (rmg_predict(c, e, i) ^ c->read[i]) & c->mask;

        mended += ones(before & ~after);
        broken += ones(after & ~before);
    }
    return mended && 10u * mended >= 7u * (mended + broken);
}

static void keep_best(search *s, size_t which, const rmg_explanation *e, int64_t gain)
{
    rmg_explained *best = &s->best[which];

    if (gain > s->gain[which]) {
        s->gain[which] = gain;
        best->is = *e;
        best->alike_count = 0;
    } else if (gain == s->gain[which] && best->alike_count < RMG_ALIKE &&
               e->predicted == best->is.predicted) {
        best->alike[best->alike_count++] = *e;
    }
}

static void try_one(void *context, rmg_explanation *e)
{
    search *s = context;
    const compare *c = s->c;
    int64_t gain;

    if (!worth_a_look(c, e))
        return;
    for (uint64_t i = 0; i < c->count; i++) {
        const rmg_word told = rmg_predict(c, e, i), changed = (told ^ c->predicted[i]) & c->mask;

        e->predicted += ones(changed);
        e->seen += ones(changed & ~(told ^ c->read[i]));
    }
    gain = 2 * (int64_t)e->seen - (int64_t)e->predicted;
    if (e->seen < LEAST || e->seen < NEARLY(e->predicted))
        return;
    keep_best(s, 0, e, gain);
    if (e->seen == e->predicted)
        keep_best(s, 1, e, gain);
}

/* Some wrong words, spread evenly, and as many of all words. Returns how many wrong ones there are.
 */
static uint64_t choose_sample(compare *c)
{
    uint64_t wrong = 0, n = 0;

    for (uint64_t i = 0; i < c->count; i++)
        wrong += ((c->predicted[i] ^ c->read[i]) & c->mask) != 0;
    c->sampled = 0;
    for (uint64_t i = 0; i < c->count && wrong; i++)
        if (((c->predicted[i] ^ c->read[i]) & c->mask) &&
            n++ % MAX((wrong + SAMPLES - 1u) / SAMPLES, 1u) == 0)
            c->sample[c->sampled++] = i;
    for (uint64_t i = 0; i < c->count && wrong; i += MAX(c->count / SAMPLES, 1u))
        if (c->sampled < 2u * SAMPLES)
            c->sample[c->sampled++] = i;
    return wrong;
}

static void apply(compare *c, const rmg_explanation *e)
{
    rmg_word *told = g_new(rmg_word, c->count);

    for (uint64_t i = 0; i < c->count; i++)
        told[i] = rmg_predict(c, e, i) & c->mask;
    g_free(c->predicted);
    c->predicted = told;
}

static void explain(compare *c, rmg_comparison *result)
{
    for (uint8_t bit = 0; bit < c->bits && result->step_count < RMG_EXPLANATIONS; bit++)
        if ((c->hints->follows & ~c->hints->silent) >> bit & 1u)
            result->steps[result->step_count++].is =
                (rmg_explanation){.kind = RMG_DIFF_DATA_FLOATS,
                                  .a = bit,
                                  .predicted = result->by_bit[bit][0] + result->by_bit[bit][1],
                                  .seen = result->by_bit[bit][0] + result->by_bit[bit][1]};
    while (result->step_count < RMG_EXPLANATIONS && choose_sample(c)) {
        search s = {.c = c};
        size_t exact;

        rmg_each_explanation(c, try_one, &s);
        if (!s.gain[0])
            return;
        /* one that is wholly right goes before a larger one that another fault disturbs */
        exact = s.gain[1] * 10 >= s.gain[0];
        result->steps[result->step_count++] = s.best[exact];
        apply(c, &s.best[exact].is);
    }
}

static void count_word(const compare *c, rmg_comparison *r, uint64_t i, rmg_word good)
{
    const rmg_word read = c->read[i], wrong = good ^ read;

    if (!wrong)
        return;
    r->wrong_words++;
    r->wrong_bits += ones(wrong);
    r->to_one += ones(wrong & read);
    r->to_zero += ones(wrong & good);
    for (uint8_t bit = 0; bit < c->bits; bit++)
        if (wrong >> bit & 1u)
            r->by_bit[bit][read >> bit & 1u]++;
    for (uint8_t k = 0; k < c->lines; k++)
        r->by_line[k][i >> k & 1u]++;
    if (r->first_count < RMG_DIFF_FIRST)
        r->first[r->first_count++] = (rmg_wrong_word){i, good, read};
}

/* What varies in the image, so that lines can be proved by it at all. */
static void find_variation(const compare *c, rmg_comparison *r)
{
    rmg_word high = 0, low = 0;

    for (uint64_t i = 0; i < c->count; i++) {
        const rmg_word word = c->predicted[i];

        high |= word;
        low |= ~word;
        for (uint8_t k = 0; k < c->lines; k++) {
            const uint64_t other = i ^ (uint64_t)1 << k;

            if (!(r->lines_vary >> k & 1u) && other < c->count && c->predicted[other] != word)
                r->lines_vary |= (uint64_t)1 << k;
        }
    }
    r->varies = high & low & c->mask;
}

static void count_left(const compare *c, rmg_comparison *r)
{
    for (uint64_t i = 0; i < c->count; i++) {
        const rmg_word wrong = (c->predicted[i] ^ c->read[i]) & c->mask;

        r->left += ones(wrong);
        r->left_to_one += ones(wrong & c->read[i]);
        r->left_to_zero += ones(wrong & c->predicted[i]);
        for (uint8_t bit = 0; wrong >> bit; bit++) {
            r->left_by_bit[bit] += wrong >> bit & 1u;
            if (bit + 1u == RMG_WORD_BITS)
                break;
        }
        if (wrong && c->hints->unsteady)
            r->left_unsteady += ones(wrong & rmg_words_get(c->hints->unsteady, i));
    }
}

/* Lines that vary in the image, that no step accuses; nothing where much is left unexplained. */
static void find_proved(const compare *c, rmg_comparison *r)
{
    if (r->left > c->count * c->bits / 50u)
        return;
    r->proved_bits = r->varies & ~c->hints->follows & ~c->hints->silent;
    r->proved_lines = r->lines_vary;
    for (size_t i = 0; i < r->step_count; i++) {
        const rmg_explanation *e = &r->steps[i].is;
        const uint64_t both =
            (uint64_t)1 << e->a |
            (e->kind == RMG_DIFF_DATA_SWAPPED || e->kind == RMG_DIFF_DATA_SHORTED ||
                     e->kind == RMG_DIFF_LINE_SWAPPED || e->kind == RMG_DIFF_LINE_SHORTED
                 ? (uint64_t)1 << e->b
                 : 0);

        if (e->kind <= RMG_DIFF_DATA_SHORTED)
            r->proved_bits &= (rmg_word)~both;
        else if (e->kind >= RMG_DIFF_LINE_STUCK && e->kind <= RMG_DIFF_LINE_INVERTED)
            r->proved_lines &= ~both;
        else
            r->proved_bits = 0, r->proved_lines = 0;
    }
}

rmg_status rmg_compare(const rmg_words *good, const rmg_words *read, const rmg_compare_hints *hints,
                       rmg_comparison *r)
{
    const rmg_compare_hints none = {0};
    compare c = {.count = good->count, .bits = good->bits, .hints = hints ? hints : &none};

    memset(r, 0, sizeof *r);
    if (good->count != read->count || good->bits != read->bits || good->bytes != read->bytes ||
        !good->count)
        return RMG_ERR_ARGUMENT;
    c.mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - c.bits);
    while (c.lines < 63 && (c.count - 1u) >> c.lines)
        c.lines++;
    r->words = c.count;
    r->bits = c.bits;
    r->lines = c.lines;
    c.predicted = g_try_new(rmg_word, c.count);
    c.read = g_try_new(rmg_word, c.count);
    c.sample = g_new(uint64_t, 2u * SAMPLES + 1u);
    if (!c.predicted || !c.read) {
        g_free(c.predicted);
        g_free(c.read);
        g_free(c.sample);
        return RMG_ERR_MEMORY;
    }
    for (uint64_t i = 0; i < c.count; i++) {
        c.predicted[i] = rmg_words_get(good, i) & c.mask;
        c.read[i] = rmg_words_get(read, i) & c.mask;
        count_word(&c, r, i, c.predicted[i]);
    }
    find_variation(&c, r);
    c.mask &= ~(c.hints->follows | c.hints->silent);
    if (r->wrong_bits || c.hints->follows)
        explain(&c, r);
    count_left(&c, r);
    find_proved(&c, r);
    g_free(c.predicted);
    g_free(c.read);
    g_free(c.sample);
    return RMG_OK;
}
