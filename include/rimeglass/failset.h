/* The failure set: every (address, bit, direction) that ever failed, the first step at which it
 * did, and the passes in which it did. Words that failed alike share one record, so memory grows
 * with the pages of 256 words that hold a failure (1 KiB each where they did not all fail alike, up
 * to RMG_FAILSET_PAGES of them) and with the records that differ (some 100 bytes each; up to
 * RMG_FAILSET_PARTS parts in all of them together); what does not fit is counted, not kept. */
#ifndef RIMEGLASS_FAILSET_H
#define RIMEGLASS_FAILSET_H

#include "bus.h"
#include "tally.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Which bits of which words failed, at which step first, and in how many passes. It grows by pages.
 */
typedef struct rmg_failset rmg_failset;

/* A step of a run as one number that rises as the run goes on: pass, step of the plan, element,
 * operation. */
static inline uint64_t rmg_failure_step(const rmg_failure *f)
{
    return (uint64_t)f->pass << 24 | (uint64_t)f->step << 16 | (uint64_t)f->element << 8 |
           f->operation;
}

/* Bits of one word that first failed at the same step, and in as many passes. */
typedef struct rmg_fail_part {
    uint64_t first;  /* rmg_failure_step; 0 too where the step is not known */
    uint32_t passes; /* that ended and in which they failed */
    rmg_word high;   /* read 1 for 0 */
    rmg_word low;    /* read 0 for 1; a bit may be in both */
} rmg_fail_part;

/* An empty set, to be freed with rmg_failset_free. */
rmg_failset *rmg_failset_new(void);
void rmg_failset_free(rmg_failset *set);
void rmg_failset_empty(rmg_failset *set);

/* Adds bits that read 1 for 0 (`high`) and 0 for 1 (`low`) at an address, at step `first`. */
void rmg_failset_add(rmg_failset *set, rmg_addr address, rmg_word high, rmg_word low,
                     uint64_t first);

/* The same for all failures of a block. */
void rmg_failset_add_block(rmg_failset *set, const rmg_mismatch_block *block, uint64_t first);

/* The same for all words of a run. */
void rmg_failset_add_run(rmg_failset *set, const rmg_mismatch_run *run, uint64_t first);

/* A pass ended in which the bits of `pass` failed: counts it for them. */
void rmg_failset_count_pass(rmg_failset *set, const rmg_failset *pass);

/* Gives `words` words from `first` on these parts, in the place of what the set has there; for sets
 * that were kept in a file. */
void rmg_failset_put(rmg_failset *set, rmg_addr first, uint64_t words, const rmg_fail_part *parts,
                     size_t count);

#define RMG_FAILSET_PAGES 65536u  /* pages of words that a set has room for */
#define RMG_FAILSET_PARTS 131072u /* different records of words that it has room for */

/* Has memory for an addition been wanting? Then the set lacks it, whatever it has room for. */
bool rmg_failset_starved(const rmg_failset *set);

/* Additions, and counts of passes, that did not fit. */
uint64_t rmg_failset_lost(const rmg_failset *set);

/* Counts additions that were not made; for sets that were kept in a file. */
void rmg_failset_lose(rmg_failset *set, uint64_t additions);

/* Words with a failing bit among `bits`, at addresses of `where` (NULL: all). */
uint64_t rmg_failset_words(const rmg_failset *set, const rmg_where *where, rmg_word bits);

/* The same for each bit by itself, all of them at once: words[i] of bit i. */
void rmg_failset_by_bit(const rmg_failset *set, const rmg_where *where,
                        uint64_t words[RMG_WORD_BITS]);

/* Failing (address, bit) pairs, the same way. */
uint64_t rmg_failset_bits(const rmg_failset *set, const rmg_where *where, rmg_word bits);

/* The bits that failed at an address: *high that read 1 for 0, *low that read 0 for 1. */
void rmg_failset_at(const rmg_failset *set, rmg_addr address, rmg_word *high, rmg_word *low);

/* All that is known of an address: [*count] parts, rising by step; the set's own, until it is
 * changed. */
const rmg_fail_part *rmg_failset_parts(const rmg_failset *set, rmg_addr address, size_t *count);

/* The same, and how many words from there on, within the stretch, have these parts. */
const rmg_fail_part *rmg_failset_run_at(const rmg_failset *set, rmg_addr address, size_t *words,
                                        size_t *count);

/* Calls `visit` for each failing word in rising order of addresses. */
void rmg_failset_each(const rmg_failset *set,
                      void (*visit)(void *context, rmg_addr address, rmg_word high, rmg_word low),
                      void *context);

/* The same with all that is known of it. `record` is equal for words with equal parts, from 1 on,
 * and at most twice RMG_FAILSET_PARTS. */
void rmg_failset_each_record(const rmg_failset *set,
                             void (*visit)(void *context, rmg_addr address, uint32_t record,
                                           const rmg_fail_part *parts, size_t count),
                             void *context);

#define RMG_FAILSET_STRETCH 256u /* words that are kept together */

/* The same with words that failed alike at once: `words` of them from `first` on, or, of a whole
 * stretch (RMG_FAILSET_STRETCH words from a multiple of it on), those in `which` as in
 * rmg_mismatch_run. Stretches rise; one may be visited several times. */
typedef void rmg_run_visit(void *context, rmg_addr first, size_t words, uint16_t which,
                           uint32_t record, const rmg_fail_part *parts, size_t count);
void rmg_failset_each_run(const rmg_failset *set, rmg_run_visit *visit, void *context);

/* The first stretch from an address on in which something failed, and how many stretches from there
 * on follow each other and failed alike, in `other` too (or nothing did there). false: there is
 * none. */
bool rmg_failset_next(const rmg_failset *set, const rmg_failset *other, rmg_addr address,
                      rmg_addr *first, rmg_addr *many);

/* rmg_failset_each_run of one stretch alone. */
void rmg_failset_stretch(const rmg_failset *set, rmg_addr first, rmg_run_visit *visit,
                         void *context);

/* Does what failed in the stretch around an address depend on the lowest four address bits only? */
bool rmg_failset_alternates(const rmg_failset *set, rmg_addr address);

/* A number that is equal for equal sets of (address, bit), and for different ones with a chance of
 * 2^-64. Depends neither on the order in which failures came, nor on direction, steps or passes. */
uint64_t rmg_failset_fingerprint(const rmg_failset *set);

#ifdef __cplusplus
}
#endif
#endif
