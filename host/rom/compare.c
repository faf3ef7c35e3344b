/* Comparing: counts, explanations peeled off one after another, and what is left. */
#include "rimeglass/verify.h"
#include "base/internal.h"

#include <glib.h>
#include <math.h>
#include <string.h>

#include "guess.h"

#define SAMPLES  512u     /* touched words that explanations are tried on first, and other words */
#define FIRST    40u      /* touched words after which the hopeless ones are told */
#define FINALS   40u      /* of these, explanations that are tried on all words */
#define WORK     2000000u /* words and explanations, up to which more that cost no more are, too */
#define HARDLY   9.0      /* bits by which a rival is longer that is not mentioned any more */
#define SCALE    1.0      /* of a difference in bits: the words of an image hang together */
#define HOPELESS 2.0      /* times the best by the sample that a candidate may take, */
#define SLACK    200.0    /* and bits more */

/* An explanation, and what it comes to. */
typedef struct candidate {
    rmg_explanation is;
    double cost; /* bits */
    bool rest;   /* it is what is left when no step is taken */
} candidate;

typedef struct search {
    const compare *c;
    GArray *found; /* of candidate */
} search;

static gint cheaper(gconstpointer a, gconstpointer b)
{
    const candidate *x = a, *y = b;

    return (x->cost > y->cost) - (x->cost < y->cost);
}

/* After some touched words: is it wrong about as often as right, or does it leave most of them? */
static bool hopeless(const rmg_explanation *e, const tally *touched)
{
    return e->sometimes ? touched->left > touched->open_touched
                        : 10u * touched->seen < 6u * touched->predicted + (touched->open ? 0 : 1u);
}

/* On the sample: is most of what it changes right then? It is kept with how much it leaves. */
static void look_at(void *context, rmg_explanation *e)
{
    search *s = context;
    const compare *c = s->c;
    candidate kept = {.is = *e};
    tally touched = {.last = UINT64_MAX}, others = {.last = UINT64_MAX};
    const double untouched = (double)(c->count - c->touched_words);
    double scale;

    for (size_t n = 0; n < c->sampled; n++) {
        if (n == FIRST && n < c->sampled_touched && hopeless(e, &touched))
            return;
        rmg_tally_word(c, e, c->sample[n], n < c->sampled_touched ? &touched : &others);
    }
    scale =
        c->sampled > c->sampled_touched ? untouched / (double)(c->sampled - c->sampled_touched) : 0;
    if (!touched.seen && !touched.open_touched)
        return;
    if (e->sometimes && 2u * touched.left > touched.open_touched)
        return;
    others.left = (uint64_t)((double)others.left * scale);
    others.open = (uint64_t)((double)others.open * scale);
    others.open_words = (uint64_t)((double)others.open_words * scale);
    scale = (double)c->touched_words / (double)MAX(c->sampled_touched, 1u);
    touched.left = (uint64_t)((double)touched.left * scale) + others.left;
    touched.left_to_one = touched.left_to_zero = 1;
    touched.open = (uint64_t)((double)touched.open * scale) + others.open;
    touched.open_touched = (uint64_t)((double)touched.open_touched * scale);
    touched.open_words = (uint64_t)((double)touched.open_words * scale) + others.open_words;
    touched.touched_words = (uint64_t)((double)touched.touched_words * scale);
    touched.moving = (uint64_t)((double)touched.moving * scale);
    touched.moving_words = (uint64_t)((double)touched.moving_words * scale);
    touched.ragged = (uint64_t)((double)touched.ragged * scale);
    touched.clusters = touched.span = c->count;
    touched.first = 0; /* the sample is in no order */
    touched.last = c->count - 1u;
    kept.cost = rmg_cost(c, e, &touched);
    g_array_append_val(s->found, kept);
}

static uint64_t draw(uint64_t *state)
{
    *state = *state * UINT64_C(6364136223846793005) + 1u; /* Knuth, 3.3.4 */
    return *state >> 32;
}

/* Puts the sample in no order, so that its first ones are spread too: Fisher and Yates. */
static void mix(compare *c, uint64_t *state)
{
    for (size_t n = c->sampled; n-- > 1;) {
        const size_t other = (size_t)(draw(state) * (n + 1u) >> 32);
        const uint64_t word = c->sample[n];

        c->sample[n] = c->sample[other];
        c->sample[other] = word;
    }
}

/* Some touched words, spread evenly, and as many others. */
static void choose_sample(compare *c)
{
    uint64_t n = 0, state = 1;

    c->touched_words = c->touched_bits = 0;
    for (uint64_t i = 0; i < c->count; i++) {
        const rmg_word touched = touched_at(c, i);

        c->touched_words += touched != 0;
        c->touched_bits += ones_of(touched);
    }
    c->sampled = 0;
    for (uint64_t i = 0; i < c->count && c->touched_words; i++)
        if (touched_at(c, i) && n++ % ((c->touched_words + SAMPLES - 1u) / SAMPLES) == 0)
            c->sample[c->sampled++] = i;
    c->sampled_touched = c->sampled;
    mix(c, &state);
    for (n = 0; n < 2u * SAMPLES && c->touched_words; n++) {
        const uint64_t at = draw(&state);
        const uint64_t i = c->count <= UINT32_MAX ? at * c->count >> 32 : at % c->count;

        if (!touched_at(c, i) && c->sampled < c->sampled_touched + SAMPLES)
            c->sample[c->sampled++] = i;
    }
}

static void apply(compare *c, const rmg_explanation *e)
{
    rmg_word *told = g_new(rmg_word, c->count);

    for (uint64_t i = 0; i < c->count; i++) {
        rmg_word open;

        told[i] = rmg_predict(c, e, i, &open) & c->mask;
        told[i] = (told[i] & ~open) | (c->read[i] & open);
        c->unsteady[i] &= ~open;
    }
    g_free(c->predicted);
    c->predicted = told;
}

/* Tries it on all words. false: it does not explain enough of what it changes. */
static bool weigh(const compare *c, candidate *of)
{
    rmg_explanation *e = &of->is;
    tally t = {.last = UINT64_MAX};

    for (uint64_t i = 0; i < c->count; i++)
        rmg_tally_word(c, e, i, &t);
    e->predicted = t.predicted + t.open;
    e->seen = t.seen + t.open_touched;
    of->cost = rmg_cost(c, e, &t);
    e->steady = e->sometimes && !t.moving && c->hints->readings > 1;
    if (e->sometimes)
        return t.open_touched > 0;
    return t.seen > 0 && t.seen >= t.predicted - t.predicted / 6u;
}

/* What is left, each kind that it can be as a candidate. */
static void add_rests(const compare *c, const tally *t, bool unknown, GArray *list)
{
    for (rmg_difference kind = RMG_DIFF_CELLS; kind <= RMG_DIFF_UNKNOWN; kind++) {
        candidate of = {.is = {.kind = kind}, .rest = true};

        if (kind == RMG_DIFF_UNKNOWN && !unknown)
            continue;
        of.cost = rmg_cost_of_rest(c, t, kind);
        of.is.level = t->left_to_one && t->left_to_zero ? 2 : t->left_to_one > 0;
        of.is.count = t->clusters;
        of.is.predicted = of.is.seen = t->left;
        if (of.cost < HUGE_VAL)
            g_array_append_val(list, of);
    }
}

static bool same(const rmg_explanation *a, const rmg_explanation *b)
{
    const bool end = a->kind == RMG_DIFF_SHIFTED; /* what follows last is no other explanation */

    return a->kind == b->kind && a->a == b->a && (end || a->b == b->b) && a->level == b->level &&
           a->sometimes == b->sometimes && a->part == b->part && a->offset == b->offset &&
           a->first == b->first && a->count == b->count && a->other == b->other &&
           a->invert == b->invert && memcmp(a->order, b->order, sizeof a->order) == 0;
}

static bool gathered(const rmg_explained *into, const rmg_explanation *e)
{
    bool found = same(&into->is, e);

    for (size_t i = 0; i < into->alike_count; i++)
        found |= same(&into->alike[i], e);
    return found;
}

/* The first of a list in order of cost, and those that are hardly worse. Shares add up to 1. */
static void gather(const GArray *list, rmg_explained *into)
{
    const candidate *all = &g_array_index(list, candidate, 0);
    double sum = 1;

    into->is = all[0].is;
    into->is.share = 1;
    into->alike_count = 0;
    for (guint i = 1; i < list->len && into->alike_count < RMG_ALIKE; i++) {
        rmg_explanation *other = &into->alike[into->alike_count];
        const double worse = all[i].cost - all[0].cost;

        if (worse > HARDLY)
            break;
        if (gathered(into, &all[i].is))
            continue;
        *other = all[i].is;
        other->share = exp2(-SCALE * worse);
        sum += other->share;
        into->alike_count++;
    }
    into->is.share /= sum;
    for (size_t i = 0; i < into->alike_count; i++)
        into->alike[i].share /= sum;
}

/* The best explanations of what is wrong, in order; the first `FINALS` on the sample are tried on
 * all words. To be freed. */
static GArray *all_candidates(const compare *c)
{
    search s = {c, g_array_new(FALSE, TRUE, sizeof(candidate))};
    GArray *list = g_array_new(FALSE, TRUE, sizeof(candidate));
    tally t;

    rmg_each_explanation(c, look_at, &s);
    g_array_sort(s.found, cheaper);
    for (guint i = 0; i < s.found->len && (i < FINALS || i * c->count < WORK); i++) {
        candidate of = g_array_index(s.found, candidate, i);
        const double best = g_array_index(s.found, candidate, 0).cost;

        if (of.cost < (i < FINALS ? best * HOPELESS + SLACK : best + 2 * HARDLY) && weigh(c, &of))
            g_array_append_val(list, of);
    }
    g_array_free(s.found, TRUE);
    rmg_tally_rest(c, &t);
    add_rests(c, &t, false, list);
    g_array_sort(list, cheaper);
    return list;
}

static void count_predicted(compare *c)
{
    const rmg_word ground = rmg_majority_of(c);

    c->zeros = c->ones = c->held = c->kept = 0;
    for (uint64_t i = 0; i < c->count; i++) {
        const rmg_word mask = mask_at(c, i);

        c->ones += ones_of(c->predicted[i] & mask);
        c->zeros += ones_of(~c->predicted[i] & mask);
        c->held += ((c->predicted[i] ^ ground) & mask) != 0;
        c->kept += ((c->predicted[i] ^ ground) & mask) != 0 && !touched_at(c, i);
    }
}

/* All that is wrong or unsteady is what was on the lines just before. */
static void all_late(compare *c, rmg_explained *step)
{
    tally t;

    rmg_tally_rest(c, &t);
    step->is = (rmg_explanation){.kind = RMG_DIFF_LATE,
                                 .sometimes = true,
                                 .share = 1,
                                 .predicted = c->count * c->bits,
                                 .seen = t.left};
    for (uint64_t i = 0; i < c->count; i++) {
        c->predicted[i] = c->read[i];
        c->unsteady[i] = 0;
    }
}

static void explain(compare *c, rmg_comparison *result)
{
    for (uint8_t bit = 0; bit < c->bits && result->step_count < RMG_EXPLANATIONS; bit++)
        if ((c->hints->follows & ~c->hints->silent) >> bit & 1u)
            result->steps[result->step_count++].is =
                (rmg_explanation){.kind = RMG_DIFF_DATA_FLOATS,
                                  .a = bit,
                                  .share = 1,
                                  .predicted = result->by_bit[bit][0] + result->by_bit[bit][1],
                                  .seen = result->by_bit[bit][0] + result->by_bit[bit][1]};
    if (c->hints->late && result->step_count < RMG_EXPLANATIONS) {
        all_late(c, &result->steps[result->step_count++]);
        return;
    }
    for (;;) {
        GArray *list;
        bool step;

        choose_sample(c);
        if (!c->touched_words)
            return;
        count_predicted(c);
        list = all_candidates(c);
        step = !g_array_index(list, candidate, 0).rest && result->step_count < RMG_EXPLANATIONS;
        if (step) {
            gather(list, &result->steps[result->step_count]);
            apply(c, &result->steps[result->step_count++].is);
        } else {
            tally t;

            rmg_tally_rest(c, &t);
            add_rests(c, &t, true, list);
            g_array_sort(list, cheaper);
            for (guint i = 0; i < list->len;) /* steps that may not be taken any more */
                if (result->step_count == RMG_EXPLANATIONS &&
                    !g_array_index(list, candidate, i).rest)
                    g_array_remove_index(list, i);
                else
                    i++;
            gather(list, &result->rest);
        }
        g_array_free(list, TRUE);
        if (!step)
            return;
    }
}

static void count_word(const compare *c, rmg_comparison *r, uint64_t i)
{
    const rmg_word good = c->predicted[i], read = c->read[i];
    const rmg_word wrong = (good ^ read) & mask_at(c, i);

    if (!wrong)
        return;
    r->wrong_words++;
    r->wrong_bits += ones_of(wrong);
    r->to_one += ones_of(wrong & read);
    r->to_zero += ones_of(wrong & good);
    for (uint8_t bit = 0; bit < c->bits; bit++)
        if (wrong >> bit & 1u)
            r->by_bit[bit][read >> bit & 1u]++;
    for (uint8_t k = 0; k < c->lines; k++)
        r->by_line[k][i >> k & 1u]++;
    if (r->first_count < RMG_DIFF_FIRST)
        r->first[r->first_count++] = (rmg_wrong_word){i, good, read};
}

static void count_left(const compare *c, rmg_comparison *r)
{
    for (uint64_t i = 0; i < c->count; i++) {
        const rmg_word touched = touched_at(c, i);
        const rmg_word wrong = (c->predicted[i] ^ c->read[i]) & touched;

        r->left += ones_of(wrong);
        r->left_to_one += ones_of(wrong & c->read[i]);
        r->left_to_zero += ones_of(wrong & c->predicted[i]);
        r->left_touched += ones_of(touched);
        r->left_unsteady += ones_of(wrong & c->unsteady[i]);
        for (uint8_t bit = 0; touched && bit < c->bits; bit++)
            r->left_by_bit[bit] += touched >> bit & 1u;
    }
}

/* Bits that a word of the reading takes to write down, by how often each value of its bytes is
 * there. */
static double content_of(const compare *c)
{
    uint64_t times[256] = {0}, all = 0;
    double bits = 0;

    for (uint64_t i = 0; i < c->count; i++)
        for (unsigned shift = 0; shift < c->bits; shift += 8u, all++)
            times[c->read[i] >> shift & 0xFFu]++;
    for (unsigned v = 0; v < 256; v++)
        if (times[v])
            bits -= (double)times[v] * log2((double)times[v] / (double)all);
    return bits / (double)c->count;
}

static bool begin(compare *c, const rmg_words *good, const rmg_words *read)
{
    const rmg_words *known = c->hints->known;

    c->mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - c->bits);
    while (c->lines < 63 && (c->count - 1u) >> c->lines)
        c->lines++;
    c->predicted = g_try_new(rmg_word, c->count);
    c->read = g_try_new(rmg_word, c->count);
    c->unsteady = g_try_new0(rmg_word, c->count);
    c->known = known ? g_try_new(rmg_word, c->count) : NULL;
    c->sample = g_new(uint64_t, 2u * SAMPLES + 2u);
    if (!c->predicted || !c->read || !c->unsteady || (known && !c->known))
        return false;
    for (uint64_t i = 0; i < c->count; i++) {
        c->predicted[i] = rmg_words_get(good, i) & c->mask;
        c->read[i] = rmg_words_get(read, i) & c->mask;
        if (c->hints->unsteady)
            c->unsteady[i] = rmg_words_get(c->hints->unsteady, i) & c->mask;
        if (known)
            c->known[i] = rmg_words_get(known, i);
    }
    return true;
}

static void end(compare *c)
{
    g_free(c->predicted);
    g_free(c->read);
    g_free(c->unsteady);
    g_free(c->known);
    g_free(c->sample);
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
    if (!begin(&c, good, read)) {
        end(&c);
        return RMG_ERR_MEMORY;
    }
    r->words = c.count;
    r->bits = c.bits;
    r->lines = c.lines;
    for (uint64_t i = 0; i < c.count; i++)
        count_word(&c, r, i);
    rmg_find_shown(&c, r);
    rmg_find_hidden(&c, r);
    c.mask &= ~(c.hints->follows | c.hints->silent);
    c.content = content_of(&c);
    explain(&c, r);
    count_left(&c, r);
    rmg_find_proved(&c, r);
    end(&c);
    return RMG_OK;
}
