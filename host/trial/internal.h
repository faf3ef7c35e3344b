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
    uint16_t own;      /* of them the cause's, first; the others are what the changes did */
    uint16_t count;    /* of all */
    bool known;        /* the faults are known: it can be played; else what it may touch is */
    bool gone;         /* nothing of the cause is left on the board */
    bool *at;          /* [socket_count]: where the cause may fail */
    bool *sockets;     /* ... where anything may, emptied sockets too */
    rmg_floats floats; /* undriven lines, with it */
} prospect;

#define PROSPECTS 4u

/* change.c: the word that a change is told by. */
const char *rmg_change_word(rmg_change_kind kind);

/* moved.c: that a contact is right again once its chip was pulled and put back; that the fault of a
 * track was in the part on it that was mended. */
#define RMG_CLEANED 0.7
#define RMG_ON_WAY  0.5
/* Is the socket touched by the change, so that its contacts are made anew? */
bool rmg_change_touches(const rmg_board *board, const rmg_change *c, uint16_t socket);
/* Is what was mended that which the cause is at? Or a part through which a line goes to its socket
 * alone, or at whose leg the stretch ends? That is some of its track, or one of its joints. */
bool rmg_change_mends(const rmg_board *board, const rmg_suspects *suspects, const rmg_hypothesis *h,
                      const rmg_change *c);
bool rmg_change_mends_way(const rmg_board *board, const rmg_suspects *suspects,
                          const rmg_hypothesis *h, const rmg_change *c);

/* passed.c: what changes did at each socket, of [the board's socket_count]; false: something else
 * was changed, of which nothing is known. And how likely a cause is new since then, against one
 * that is put in its place or made anew; `near`: one of the sockets of its finding was touched. */
typedef enum rmg_touched { RMG_UNTOUCHED, RMG_TAKEN_OUT, RMG_NEW_CHIP } rmg_touched;
bool rmg_touched_by(const rmg_board *board, const rmg_change *changes, size_t count,
                    rmg_touched *at);
double rmg_newly_wrong(const rmg_hypothesis *h, const rmg_touched *at, bool near);

/* sight.c: how likely a meter shows that, if the cause is that one. */
double rmg_measured_fits(const rmg_run *base, const rmg_suspects *suspects, const rmg_hypothesis *h,
                         uint16_t socket, rmg_measured measured);

/* moved.c: what the changes make of a cause; how many prospects there are. The first `done` of them
 * were made before: they only carried it, or took it away with a chance of h->gone. To be ended
 * with rmg_prospects_end. */
size_t rmg_prospects_of(const rmg_run *run, const rmg_suspects *suspects, const rmg_hypothesis *h,
                        const rmg_change *changes, size_t change_count, size_t done,
                        prospect *list);
void rmg_prospects_end(prospect *list, size_t count);
/* All of them at once, one of each fault, as one prospect; 1 or more. */
void rmg_prospects_join(const rmg_board *board, const prospect *const *each, size_t count,
                        prospect *joined);

/* faults.c: makes the shares of the causes of each fault 1 in sum, and puts them in order: fault by
 * fault, what is still there before what is gone, the surest first; of each the likeliest first. */
void rmg_hypotheses_settle(rmg_hypothesis *list, size_t count);
/* Is a cause of that fault at the socket? */
bool rmg_fault_at_socket(const rmg_hypothesis *list, size_t count, unsigned fault, uint16_t socket);

/* ways.c: the ways in which things may stand after a trial, all faults together, held against its
 * second run: `fits` and `gone` of each cause. */
void rmg_ways_weigh(rmg_trial *trial, rmg_stage *stage);

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
