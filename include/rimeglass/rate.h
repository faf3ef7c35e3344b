/* Rates of failures that come and go, with their 95 % intervals, and how they move over a run. */
#ifndef RIMEGLASS_RATE_H
#define RIMEGLASS_RATE_H

#include "run.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A share of so many trials, and the interval that holds the true one with 95 % confidence,
 * whatever it is: C. J. Clopper and E. S. Pearson, The Use of Confidence or Fiducial Limits
 * Illustrated in the Case of the Binomial, 1934. Of no trial: 0, between 0 and 1. events <= trials.
 */
typedef struct rmg_rate {
    uint64_t events, trials;
    double share, low, high;
} rmg_rate;

rmg_rate rmg_rate_of(uint64_t events, uint64_t trials);

typedef enum rmg_movement {
    RMG_MOVES_UNKNOWN, /* fewer than four passes, or nothing failed */
    RMG_MOVES_NOT,     /* no difference between the run's halves that chance would not make */
    RMG_MOVES_UP,      /* the second half failed more often, with 95 % confidence */
    RMG_MOVES_DOWN
} rmg_movement;

/* Failing reads in parts of the run, in order: equal ones, as far as whole stretches of the run
 * (run.h) allow. */
#define RMG_PARTS 5u
typedef struct rmg_course {
    size_t parts; /* 0..RMG_PARTS */
    uint64_t passes[RMG_PARTS];
    uint64_t failing_reads[RMG_PARTS];
    rmg_movement movement;
} rmg_course;

void rmg_course_of(const rmg_run *run, rmg_course *course);

/* Passes with a failing read, of all that ended. */
rmg_rate rmg_rate_of_passes(const rmg_run *run);

#ifdef __cplusplus
}
#endif
#endif
