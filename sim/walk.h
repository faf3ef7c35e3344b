/* Inside a whole march element: how far it is, and failures of neighbouring words that are gathered
 * to be reported together. */
#ifndef RMG_SIM_WALK_H
#define RMG_SIM_WALK_H

#include "internal.h"

#define OP_ONE   0x01u
#define OP_WRITE 0x02u

#define TOLD_FIRST RMG_TALLY_FIRST /* words whose failures come in the order of accesses */
#define OPS_MOST   16u             /* operations of an element that are gathered */
#define RUNS_MOST  (2u * OPS_MOST) /* by operation, for two values that are read */

#define MIN_OF(a, b) ((a) < (b) ? (a) : (b))

typedef struct rmg_walk {
    rmg_sim *sim;
    rmg_element_call *call;
    rmg_word values[2];               /* "0" and "1" */
    rmg_mismatch_run runs[RUNS_MOST]; /* being gathered; words 0: none */
    uint32_t gathered;                /* operations whose runs are */
    rmg_addr told;                    /* failing words of the call that were given in order */
} rmg_walk;

/* The words that read another value than an operation of the element expects, as runs: at most two
 * values. Words are told by their lowest four address bits. */
typedef struct rmg_wrong {
    uint16_t which[2];
    rmg_word actual[2];
    unsigned count;
} rmg_wrong;

/* gather.c: a word that reads `actual` joins; false: there are more than two values. What was
 * gathered goes to the caller. */
bool rmg_wrong_add(rmg_wrong *wrong, uint16_t which, rmg_word actual);
void rmg_walk_hand_over(rmg_walk *w);

/* Words that read alike wrongly, of `count` from `first` up those of `which`, join the run of their
 * operation; `second`: the other run, for words that read something else there. */
void rmg_walk_add(rmg_walk *w, rmg_addr first, rmg_addr count, uint16_t which, uint8_t operation,
                  bool second, rmg_word expected, rmg_word actual);

/* pairs_element.c: `count` words from the call's address on, the first at `at` among the flat
 * words; ones in `which` at those that stand in pairs, by their lowest four address bits. */
void rmg_walk_pairs(rmg_walk *w, size_t at, rmg_addr count, uint16_t which);

/* Stores `words` again and again, `count` of them in all: it holds 16, or 1 where `alike`. */
void rmg_walk_fill(rmg_sim *sim, size_t lowest, rmg_addr count, const rmg_word *words, bool alike);

#endif
