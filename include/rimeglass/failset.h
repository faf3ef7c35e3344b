/* The failure set: every (address, bit, direction) that ever failed. Memory grows with the pages of
 * 256 words that hold a failure, up to RMG_FAILSET_PAGES of them (256 MiB); what fails beyond these
 * is counted, not kept. */
#ifndef RIMEGLASS_FAILSET_H
#define RIMEGLASS_FAILSET_H

#include "bus.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef struct rmg_failset rmg_failset;

/* An empty set, to be freed with rmg_failset_free. */
rmg_failset *rmg_failset_new(void);
void rmg_failset_free(rmg_failset *set);
void rmg_failset_empty(rmg_failset *set);

/* Adds bits that read 1 for 0 (`high`) and 0 for 1 (`low`) at an address. */
void rmg_failset_add(rmg_failset *set, rmg_addr address, rmg_word high, rmg_word low);

/* The same for all failures of a block. */
void rmg_failset_add_block(rmg_failset *set, const rmg_mismatch_block *block);

#define RMG_FAILSET_PAGES 65536u

/* Additions that did not fit. */
uint64_t rmg_failset_lost(const rmg_failset *set);

/* Words with a failing bit among `bits`, at addresses of `where` (NULL: all). */
uint64_t rmg_failset_words(const rmg_failset *set, const rmg_where *where, rmg_word bits);

/* Failing (address, bit) pairs, the same way. */
uint64_t rmg_failset_bits(const rmg_failset *set, const rmg_where *where, rmg_word bits);

/* The bits that failed at an address: *high that read 1 for 0, *low that read 0 for 1. */
void rmg_failset_at(const rmg_failset *set, rmg_addr address, rmg_word *high, rmg_word *low);

/* Calls `visit` for each failing word in rising order of addresses. */
void rmg_failset_each(const rmg_failset *set,
                      void (*visit)(void *context, rmg_addr address, rmg_word high, rmg_word low),
                      void *context);

/* A number that is equal for equal sets, and for different ones with a chance of 2^-64. Does not
 * depend on the order in which failures came; direction does not count. */
uint64_t rmg_failset_fingerprint(const rmg_failset *set);

#ifdef __cplusplus
}
#endif
#endif
