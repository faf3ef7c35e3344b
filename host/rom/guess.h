/* Inside the host library: a comparison at work. */
#ifndef RMG_HOST_COMPARE_INTERNAL_H
#define RMG_HOST_COMPARE_INTERNAL_H

#include "rimeglass/verify.h"

typedef struct compare {
    rmg_word *predicted; /* [count]: what should be read, by the steps so far */
    rmg_word *read;      /* [count] */
    rmg_word *unsteady;  /* [count]: bits that were not steady and that no step explains */
    rmg_word *known;     /* [count]: bits that there is something to compare with; NULL: all */
    uint64_t count;
    uint64_t *sample; /* [sampled]: some of the words, the first sampled_touched of them touched */
    size_t sampled, sampled_touched;
    uint64_t touched_words, touched_bits; /* wrong or unsteady */
    uint64_t zeros, ones;                 /* of what is predicted: bits that can go wrong so */
    uint64_t held,
        kept;       /* words that have something in them, not what most have; these, read right */
    double content; /* bits that a word of the reading takes to write down */
    uint8_t bits, lines;
    rmg_word mask; /* bits that are compared */
    const rmg_compare_hints *hints;
} compare;

/* What an explanation comes to, over all words or some. */
typedef struct tally {
    uint64_t predicted, seen;           /* bits it changes; of these, as they were read */
    uint64_t open, open_touched;        /* bits it leaves open; of these, touched ones */
    uint64_t open_words, touched_words; /* words with open bits; of these, with touched ones */
    uint64_t ragged;                    /* open bits of words where only some are touched */
    uint64_t moving, moving_words;      /* of the touched ones, such as were not steady */
    uint64_t left, left_to_one, left_to_zero; /* touched bits that it does not explain; */
    uint64_t all_ones, all_zeros; /* ... address lines that are so at all their words, */
    rmg_word left_bits;           /* ... and data bits that are among them */
    uint64_t clusters, span; /* stretches that the words with such bits form, and their words */
    uint64_t first, last;    /* the first and last such word; `last` UINT64_MAX: none */
} tally;

static inline unsigned ones_of(rmg_word word)
{
    return (unsigned)__builtin_popcountll(word);
}

static inline rmg_word mask_at(const compare *c, uint64_t i)
{
    return c->known ? c->mask & c->known[i] : c->mask;
}

/* Bits of word i that are wrong, or were not steady. */
static inline rmg_word touched_at(const compare *c, uint64_t i)
{
    return ((c->predicted[i] ^ c->read[i]) | c->unsteady[i]) & mask_at(c, i);
}

/* predict.c: what an explanation makes of word i; *open: bits about which it says nothing. */
rmg_word rmg_predict(const compare *c, const rmg_explanation *e, uint64_t i, rmg_word *open);

typedef void (*try_function)(void *context, rmg_explanation *e);

/* Which of the `count` words of a part stands at its word i, of kinds that move words; UINT64_MAX:
 * nothing is said about it. */
uint64_t rmg_source(const rmg_explanation *e, uint64_t i, uint64_t count);

/* guess.c: calls `try` with every explanation there is. */
void rmg_each_explanation(const compare *c, try_function try, void *context);

/* guess_order.c: with permutations of data and of address lines; of part `part`. */
void rmg_each_order(const compare *c, uint8_t part, try_function try, void *context);

/* guess_place.c: with images that are moved, shifted, repeated or blank in places. */
void rmg_each_place(const compare *c, try_function try, void *context);

/* weigh.c: adds word i to a tally; how many bits it takes to write down the reading by it. */
void rmg_tally_word(const compare *c, const rmg_explanation *e, uint64_t i, tally *t);
double rmg_cost(const compare *c, const rmg_explanation *e, const tally *t);

/* The same where no explanation is applied: each kind of rest, by its number of bits. `rest` is
 * the kind of it; the cheapest is the one that rmg_cost counts with. */
double rmg_cost_of_rest(const compare *c, const tally *t, rmg_difference rest);
void rmg_tally_rest(const compare *c, tally *t);

/* What it takes to write the explanation alone. */
double rmg_cost_of_kind(const compare *c, const rmg_explanation *e);

/* evidence.c: which lines the image can show wrong, and which it proves. */
void rmg_find_shown(const compare *c, rmg_comparison *r);
void rmg_find_proved(const compare *c, rmg_comparison *r);

/* The value that most words have, if any has. */
rmg_word rmg_majority_of(const compare *c);

/* hidden.c: where all reads the same, the address lines that would show it so. */
void rmg_find_hidden(const compare *c, rmg_comparison *r);

/* The words and bits that a part has; 0 is all. */
static inline rmg_compare_part part_of(const compare *c, uint8_t part)
{
    const rmg_compare_part all = {c->mask, 0, c->count};

    return part ? c->hints->parts[part - 1u] : all;
}

#endif
