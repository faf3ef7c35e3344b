/* Inside the room: causes as faults of the simulated board, and what a change makes of them. */
#ifndef RMG_HOST_TRIAL_INTERNAL_H
#define RMG_HOST_TRIAL_INTERNAL_H

#include <glib.h>

#include "replay/internal.h"
#include "rimeglass/trial.h"

/* One way in which things may stand after a change, for one cause. */
typedef struct prospect {
    double chance;
    rmg_sim_fault faults[PROPOSAL_FAULTS];
    uint16_t count;
    bool known;    /* the faults are known: it can be played; else what it may touch is */
    bool *sockets; /* [socket_count]: where it may fail, where it cannot be played */
} prospect;

#define PROSPECTS 4u

/* change.c: the word that a change is told by. */
const char *rmg_change_word(rmg_change_kind kind);

/* sight.c: how likely a meter shows that, if the cause is that one. */
double rmg_measured_fits(const rmg_run *base, const rmg_suspects *suspects, const rmg_hypothesis *h,
                         uint16_t socket, rmg_measured measured);

/* moved.c: what the changes make of a cause; how many prospects there are. The first `done` of them
 * were made before, and the cause is still there: they only carried it. To be ended with
 * prospects_end. */
size_t rmg_prospects_of(const rmg_run *run, const rmg_suspects *suspects, const rmg_hypothesis *h,
                        const rmg_change *changes, size_t change_count, size_t done,
                        prospect *list);
void rmg_prospects_end(prospect *list, size_t count);

/* For sorting: the likeliest first. */
int rmg_hypothesis_order(const void *a, const void *b);

/* The best replay of a cause; NULL: there is none that gave the same. */
const rmg_replayed *rmg_trial_replay(const rmg_suspects *suspects, const rmg_hypothesis *h);

/* outcome.c: what became of the failures, from both runs alone. */
void rmg_trial_outcome(rmg_trial *trial);
/* Failing (address, bit) in the cells of a socket. */
uint64_t rmg_failing_at(const rmg_run *run, uint16_t socket);
/* The outcome of given numbers by socket, after changes: for forecasts too. */
rmg_outcome rmg_outcome_by_sockets(const rmg_board *board, const rmg_change *changes, size_t count,
                                   const uint64_t *before, const uint64_t *after, bool same_set,
                                   bool half);

#endif
