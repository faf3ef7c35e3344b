/* Inside the host library: a comparison at work. */
#ifndef RMG_HOST_COMPARE_INTERNAL_H
#define RMG_HOST_COMPARE_INTERNAL_H

#include "rimeglass/verify.h"

typedef struct compare {
    rmg_word *predicted; /* [count]: what should be read, by the steps so far */
    rmg_word *read;      /* [count] */
    uint64_t count;
    uint64_t *sample; /* [sampled]: some of the wrong words */
    size_t sampled;
    uint8_t bits, lines;
    rmg_word mask; /* bits that are compared */
    const rmg_compare_hints *hints;
} compare;

/* compare_guess.c: what an explanation makes of word i. */
rmg_word rmg_predict(const compare *c, const rmg_explanation *e, uint64_t i);

/* Calls `try` with every explanation there is. */
void rmg_each_explanation(const compare *c, void (*try)(void *context, rmg_explanation *e),
                          void *context);

#endif
