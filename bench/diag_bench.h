/* What the benchmark of the diagnosis counts, over all cases. */
#ifndef RMG_BENCH_DIAG_BENCH_H
#define RMG_BENCH_DIAG_BENCH_H

#include "diag_score.h"

#define DEMOS       3u
#define WORST       400u /* cases whose times are kept for the median */
#define KINDS       64u
#define SECOND_MOST 140000u /* cells of a board on the second model, which is slow */
#define PARTS       2u      /* side by side, each every second case */

#define NOISES 3u
#define SHARED 6u /* then that many lines; the rest are chips */
#define OTHERS 15u

/* Which suspects are calibrated together. */
typedef enum calibrated {
    OF_SINGLES,
    OF_INTERLEAVED,
    OF_SEVERAL,
    OF_INTERMITTENT,
    CALIBRATED
} calibrated;

/* Two or three at once. */
typedef struct several {
    unsigned cases, hidden, all_named, as_one, wrong;
} several;

typedef struct bench {
    unsigned part, count;
    bool tells;   /* each case in full */
    bool second;  /* on the second model */
    bool answers; /* only what is said of each */
    bool warm;    /* what is always there comes in one of the first passes, and stays */
    uint64_t seed;
    bool families[DIAG_FAMILIES];
    diag_board demos[DEMOS];
    diag_score single[DIAG_FAMILIES][KINDS];
    diag_score other[OTHERS];
    several together[2]; /* pairs, triples */
    unsigned healthy, healthy_named;
    diag_bins bins[CALIBRATED];
    double ratios[PARTS * WORST];
    unsigned ratio_count;
    double own_seconds, diagnosis_seconds;
} bench;

/* Kinds that do not fail alike in each pass: noise, lines that several share, chips. */
extern const diag_kind diag_others[OTHERS];

void diag_merge(bench *to, const bench *from);
void diag_print_singles(const bench *b);
void diag_print_others(const bench *b);
void diag_print_calibration(bench *b);

/* One case: what was wrong, and what was made of it; or only what is said, in a line or two a
 * suspect, to be compared with another version's. */
void diag_tell(const diag_case *c, uint64_t seed);
void diag_answer(const diag_case *c, uint64_t seed);

#endif
