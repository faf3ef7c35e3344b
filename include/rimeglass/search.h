/* The shortest march that finds what is asked for: a search, proved by rmg_march_coverage. How it
 * goes about it: docs/coverage.md. */
#ifndef RIMEGLASS_SEARCH_H
#define RIMEGLASS_SEARCH_H

#include "coverage.h"

#ifdef __cplusplus
extern "C" {
#endif

#define RMG_SHORTEST_MOST  40u  /* operations a word */
#define RMG_SHORTEST_WIDTH 300u /* beginnings of each length that are gone on with */

/* What is searched for, and how long. */
typedef struct rmg_shortest_job {
    bool classes[RMG_CLASS_COUNT]; /* to be found, every instance of them; one at least */
    unsigned most;                 /* operations a word, 1..RMG_SHORTEST_MOST; 0: that */
    unsigned width;                /* 1..100,000; 0: RMG_SHORTEST_WIDTH */
    uint64_t seed;                 /* decides between beginnings that look alike */
    /* Asked again and again: how long the beginnings are that are gone on with, what share of them
     * is done, and the length of the best so far (0: none). false ends the search. NULL: it goes
     * on. */
    bool (*go_on)(void *context, unsigned length, double share, unsigned best);
    void *context;
} rmg_shortest_job;

/* What was found. */
typedef struct rmg_shortest {
    uint8_t code[RMG_MARCH_BYTES]; /* compiled; empty: none was found */
    unsigned operations;           /* a word; a hold counts as one here */
    /* Every march of up to so many operations was tried, but those that do the same operation three
     * times in a row in an element, or begin with w1, which is the same with 0 and 1 exchanged. */
    unsigned exact;
    uint64_t tried; /* elements appended to beginnings */
} rmg_shortest;

/* Searches for the shortest march that finds every instance of the classes, from any contents of
 * the memory and with each of its ⇕ either way, and verifies it by rmg_march_coverage. The same job
 * gives the same march. RMG_ERR_ARGUMENT; RMG_ERR_CANCELLED after go_on's false: *result has the
 * best so far. RMG_OK with an empty code: none within `most` was found. */
rmg_status rmg_march_shortest(const rmg_shortest_job *job, rmg_shortest *result);

/* A compiled march in the notation that rmg_march_parse reads, "any(w0); up(r0,w1)"; to be freed
 * with rmg_text_free. */
char *rmg_march_notation(const uint8_t *code);

/* Classes by their names, separated by commas, capitals or not: "SAF,TF,CFid"; AF are the address
 * faults but those that give the value read before; "static" are all faults of one cell and of two
 * that need one operation. Adds them to set[]. false: *word, to be freed with rmg_text_free (NULL
 * where there is no word at all), is none. */
bool rmg_fault_classes_parse(const char *text, bool set[RMG_CLASS_COUNT], char **word);

#ifdef __cplusplus
}
#endif
#endif
