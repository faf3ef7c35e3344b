/* The tally: what is kept of failures in fixed memory, whatever their number. */
#ifndef RIMEGLASS_TALLY_H
#define RIMEGLASS_TALLY_H

#include "bus.h"
#include "types.h"

#ifdef __cplusplus
extern "C" {
#endif

/* One read that did not give what was expected, and the step at which it happened. */
typedef struct rmg_failure {
    rmg_addr address;  /* of the word */
    rmg_word expected; /* value */
    rmg_word actual;   /* value that was read */
    uint16_t pass;     /* from 0; 65535: that one, or a later one */
    uint8_t step;      /* step of the plan, from 0 */
    uint8_t element;   /* march element, from 0 */
    uint8_t operation; /* operation within the element, from 0 */
    bool down;         /* the element ran downwards */
} rmg_failure;

/* Counts for one data bit of one bank, in failing reads. */
typedef struct rmg_bit_tally {
    rmg_count high; /* read 1, expected 0 */
    rmg_count low;  /* read 0, expected 1 */
} rmg_bit_tally;

/* Failing reads at 0 and at 1 of one address line, for rising and falling elements apart. */
typedef struct rmg_line_tally {
    rmg_count up[2];   /* [level], in elements that rise */
    rmg_count down[2]; /* [level], in elements that fall */
} rmg_line_tally;

/* Counts of failing reads, in memory of a fixed size. Counts stay at their highest value. */
typedef struct rmg_tally {
    const rmg_where *banks;  /* the caller's; index is the bank number */
    uint8_t bank_count;      /* 0..RMG_TALLY_BANKS */
    uint8_t first_count;     /* how many of `first` are filled */
    rmg_count failing;       /* failing reads in all */
    rmg_count failing_pass;  /* failing reads since the pass began */
    uint16_t passes;         /* passes ended; both stay at their highest value */
    uint16_t passes_failing; /* of these */
    rmg_addr address_and;    /* AND of all failing addresses (all ones while there is none) */
    rmg_addr address_or;     /* OR of all failing addresses */
    rmg_bit_tally bits[RMG_TALLY_BANKS][RMG_WORD_BITS]; /* addresses in no bank are left out */
#if RMG_TALLY_LINES
    rmg_line_tally lines[RMG_ADDR_BITS]; /* by address line */
#endif
    rmg_failure first[RMG_TALLY_FIRST]; /* the first failures, in order */
} rmg_tally;

#define rmg_tally_clear RMG_ABI(rmg_tally_clear)
#define rmg_tally_add   RMG_ABI(rmg_tally_add)
#define rmg_tally_merge RMG_ABI(rmg_tally_merge)

/* Empties `tally` for the given banks. `banks` is the caller's, must outlive the tally, and may be
 * NULL with bank_count 0. Banks above RMG_TALLY_BANKS are not distinguished and not counted by bit.
 */
void rmg_tally_clear(rmg_tally *tally, const rmg_where *banks, uint8_t bank_count);

/* Adds one failure. Takes bounded time: a loop over the banks, one over the word's bits and one
 * over the address's bits. */
void rmg_tally_add(rmg_tally *tally, const rmg_failure *failure);

#if RMG_MARCH_LOOPS
#define rmg_tally_add_block RMG_ABI(rmg_tally_add_block)

/* Adds all failures of a block; `like` gives the pass, step, element, operation and direction they
 * share. The same result as adding them one by one in rising order. */
void rmg_tally_add_block(rmg_tally *tally, const rmg_mismatch_block *block,
                         const rmg_failure *like);

#define rmg_tally_add_run RMG_ABI(rmg_tally_add_run)

/* The same for all words of a run, in the order of the element's direction. */
void rmg_tally_add_run(rmg_tally *tally, const rmg_mismatch_run *run, const rmg_failure *like);
#endif

/* Ends a pass: counts it, and counts it as failing if anything failed since the last end. */
void rmg_tally_pass_end(rmg_tally *tally);

/* Adds `part` to `tally`, as if its failures had followed. Both must be for the same banks.
 * Passes are not added: the parts are of one pass. */
void rmg_tally_merge(rmg_tally *tally, const rmg_tally *part);

#ifdef __cplusplus
}
#endif
#endif
