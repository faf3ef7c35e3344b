/* What becomes of all cases: counted, and printed with exact bounds. */
#ifndef RMG_BENCH_DIAG_SCORE_H
#define RMG_BENCH_DIAG_SCORE_H

#include "diag.h"

#define DIAG_BINS 10u

/* What became of the cases of one kind. */
typedef struct diag_score {
    unsigned cases, silent; /* silent: no access failed */
    unsigned place, kind;   /* right; among those that gave the same */
    unsigned among;         /* the place is named by some suspect */
    unsigned nobody, wrong, wrong_socket;
    unsigned lines, lines_named; /* address lines that come and go; those named, not their bank */
    unsigned members, members_hold;
    unsigned group[5]; /* sizes of the first suspect's group: 0, 1, 2, 3-5, 6 and more */
} diag_score;

/* Confidence by tenths: suspects, how many of them are right, and what was stated. */
typedef struct diag_bins {
    unsigned cases[DIAG_BINS], right[DIAG_BINS];
    double sum[DIAG_BINS];
} diag_bins;

void diag_score_add(diag_score *to, const diag_score *from);
void diag_bins_add(diag_bins *to, const diag_bins *from);

/* One case with one fault. */
void diag_judge(diag_case *c, const diag_kind *k, uint64_t seed, diag_score *to);

/* Every suspect that was named counts. */
void diag_calibrate(const diag_case *c, const diag_kind *const *kinds, diag_bins *bins);

/* Draws cases that leave doubt, at most so many of each sort, or of sort `only` if not negative,
 * and prints how often the suspects of each tenth are right. */
void diag_ambiguous(uint64_t seed, unsigned most, int only);

void diag_print_header(void);
void diag_print_score(const char *name, const diag_score *s);
void diag_print_lines(const diag_score *s);
void diag_print_bins(const char *name, const diag_bins *bins);

/* "part of all, share, 95 % bounds". */
void diag_print_share(const char *what, unsigned part, unsigned all);

#endif
