/* Timing two ways of doing the same thing against each other: in turns, in one process, the median
 * of nine. */
#ifndef RMG_BENCH_H
#define RMG_BENCH_H

#include <stdbool.h>

typedef struct bench_row {
    const char *what;    /* ours */
    const char *against; /* what it is compared with */
    double least;        /* speed of ours over speed of the other that is to be reached */
    void (*ours)(void *context);
    void (*other)(void *context);
    void *context;
} bench_row;

/* Prints the table; true if every ratio is reached. */
bool bench_table(const bench_row *rows, unsigned count);

#endif
