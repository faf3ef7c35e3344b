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

/* lifted.c: do words name a point of a line, or the part that it is a leg of? Any point of the
 * board's lines? */
bool rmg_text_names_point(const char *text, const rmg_point *point);
bool rmg_board_has_point(const rmg_board *board, const char *text);
/* Does a leg that is lifted cut a socket off a line? */
bool rmg_lift_cuts(const rmg_change *lift, const rmg_line *line, uint16_t socket);
/* What is lifted after changes[from..count-1]: cut[socket_count] is set for the sockets that are
 * cut off, faults[*fault_count], of `room`, are what that makes of data lines. false: other lines
 * are cut, too, or there are more. */
bool rmg_lifted(const rmg_board *board, const rmg_change *changes, size_t count, size_t from,
                bool *cut, rmg_sim_fault *faults, size_t room, size_t *fault_count);

/* outcome.c: what became of the failures, from both runs alone. */
void rmg_trial_outcome(rmg_trial *trial);
/* Failing (address, bit) in the cells of a socket. */
uint64_t rmg_failing_at(const rmg_run *run, uint16_t socket);
/* The outcome of given numbers by socket, after changes: for forecasts too. */
rmg_outcome rmg_outcome_by_sockets(const rmg_board *board, const rmg_change *changes, size_t count,
                                   const uint64_t *before, const uint64_t *after, bool same_set,
                                   bool half);

#endif
