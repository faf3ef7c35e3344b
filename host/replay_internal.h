/* Inside the host library: proposals for replay. */
#ifndef RMG_HOST_REPLAY_INTERNAL_H
#define RMG_HOST_REPLAY_INTERNAL_H

#include <glib.h>

#include "rimeglass/replay.h"

#define PROPOSAL_FAULTS 64u

/* One way in which a suspect can come about: a few faults of the simulated board. */
typedef struct proposal {
    char *name; /* in words */
    rmg_sim_fault faults[PROPOSAL_FAULTS];
    uint16_t count;
} proposal;

/* replay_propose.c: all that the suspect can be, the likeliest first: a list of proposal *, to be
 * freed with rmg_proposal_free. */
GPtrArray *rmg_propose(const rmg_run *run, const rmg_suspect *suspect);
void rmg_proposal_free(void *one);

#endif
