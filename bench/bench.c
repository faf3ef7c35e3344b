/* The table of ratios. */
#define _POSIX_C_SOURCE 200809L
#include "bench.h"

#include <stdio.h>
#include <stdlib.h>
#include <time.h>

#define TURNS 9

static double seconds(void)
{
    struct timespec t;

    clock_gettime(CLOCK_MONOTONIC, &t);
    return (double)t.tv_sec + (double)t.tv_nsec / 1e9;
}

static double timed(void (*work)(void *context), void *context)
{
    const double start = seconds();

    work(context);
    return seconds() - start;
}

static int rising(const void *a, const void *b)
{
    const double x = *(const double *)a, y = *(const double *)b;

    return (x > y) - (x < y);
}

static double median(double *values)
{
    qsort(values, TURNS, sizeof *values, rising);
    return values[TURNS / 2];
}

bool bench_table(const bench_row *rows, unsigned count)
{
    bool all = true;

    printf("%-44s %-34s %6s %9s\n", "what", "against", "ratio", "at least");
    for (unsigned i = 0; i < count; i++) {
        const bench_row *r = &rows[i];
        double ours[TURNS], other[TURNS], ratio[TURNS], m;

        r->ours(r->context); /* warm: memory touched, caches alike */
        r->other(r->context);
        for (unsigned t = 0; t < TURNS; t++) {
            ours[t] = timed(r->ours, r->context);
            other[t] = timed(r->other, r->context);
            ratio[t] = other[t] / ours[t];
        }
        m = median(ratio);
        printf("%-44s %-34s %6.3f %9.2f%s\n", r->what, r->against, m, r->least,
               m < r->least ? "  NOT REACHED" : "");
        fflush(stdout);
        all &= m >= r->least;
    }
    return all;
}
