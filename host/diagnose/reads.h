/* Inside the room: which reads of a march failed, and how much that tells of a place. */
#ifndef RMG_HOST_DIAGNOSE_READS_H
#define RMG_HOST_DIAGNOSE_READS_H

#include "moments.h"
#include "rimeglass/plan.h"

#define PASSES_LOOKED 8u /* of each run: backgrounds change with them */

/* A variant of a step in a pass, as far as the order of addresses is linear. */
typedef struct variant {
    rmg_background ground;
    rmg_background_term terms[RMG_TERMS_MOST];
} variant;

/* Bits of a word that first failed at one step. */
typedef struct failed_read {
    uint64_t step; /* rmg_failure_step */
    uint8_t bank;
    rmg_addr address, place;
    rmg_word bits;
} failed_read;

/* Reads of one element of a pass: could the driver have spoilt each? */
typedef enum spoils { CANNOT_TELL, IT_MAY, IT_CANNOT } spoils;

/* reads.c: is it an address that the run tested? */
bool rmg_is_tested(const rmg_run *run, rmg_addr address);
/* false: there is none of that number, or what it does is not known here. */
bool rmg_begin_variant(const weigher *w, const rmg_step *step, unsigned number, uint64_t pass,
                       variant *v);
/* The step in which these reads failed; NULL: it is not known. */
const rmg_step *rmg_step_of_reads(const weigher *w, const failed_read *reads);
/* Which reads of an element of a pass (count, of one element) the place cannot have spoilt, or
 * could have, each CANNOT_TELL, IT_MAY or IT_CANNOT; false: none is known. */
typedef bool (*judge_reads)(const weigher *w, const site *s, const failed_read *reads, guint count,
                            spoils *each);
/* Logarithm of how much likelier the reads that failed are, if the place can spoil one read in
 * `ratio` of those that could fail. Sorts the list, of failed_read. */
double rmg_weigh_reads(const weigher *w, const site *s, GArray *reads, double ratio,
                       judge_reads judge);

#endif
