/* Inside the room: what changes would show, for the advice and for those who ask. */
#ifndef RMG_HOST_TRIAL_FORESEE_H
#define RMG_HOST_TRIAL_FORESEE_H

#include "internal.h"

#define RMG_GONE 0.9 /* that a fault is gone, from which on nothing is done about it */

/* A result: which sockets fail. */
typedef struct result {
    guint64 print; /* of the failing cells, as they would be */
    rmg_foreseen is;
} result;

/* A board on which prospects are played, results that were seen by their faults. */
typedef struct playing {
    const rmg_run *run;
    const rmg_suspects *suspects;
    const rmg_hypothesis *list;
    size_t count;
    rmg_change *changes; /* [done + 1]: those made since the run, and the one that is thought of */
    size_t done;
    unsigned fault_count;
    rmg_stage *stage;
    uint64_t *before; /* failing cells by socket as it stands now */
    guint64 before_print;
    GHashTable *seen; /* of faults as text: played_as * */
    /* what a change shows with one cause, added to the results; false: that is not known */
    bool (*add)(struct playing *w, const rmg_change *change, size_t cause, GArray *results);
    const void *of; /* its own */
} playing;

typedef struct played_as {
    guint64 print;
    uint64_t *after; /* by socket */
} played_as;

/* Ready to play; false: the board cannot be simulated. To be ended in any case. */
bool rmg_playing_begin(playing *w, const rmg_run *run, const rmg_suspects *suspects,
                       const rmg_hypothesis *list, size_t count, const rmg_changes *done,
                       rmg_stage *stage);
void rmg_playing_end(playing *w);

/* The socket that a cause is at now; RMG_NO_SOCKET: none. */
uint16_t rmg_playing_socket_now(const playing *w, const rmg_hypothesis *h);

/* The result with that print, added where there is none yet. */
result *rmg_playing_result(GArray *results, guint64 print, size_t count);

/* The results of a change, of result, the likeliest first, by what they say of the fault of which
 * it tells most, and how many bits that are; NULL: of none. */
GArray *rmg_playing_results(playing *w, const rmg_change *change, unsigned *fault, double *bits);
void rmg_playing_free_results(GArray *results);

/* advise.c: adds a change to the advice (GArray of rmg_advice) if it tells something; the repairs
 * of all causes; and puts the best first. Causes at a socket with a smaller share are not thought
 * of. */
#define RMG_CANDIDATE 0.02
void rmg_advise_change(playing *w, rmg_change change, const rmg_cost_table *costs, GArray *list);
void rmg_advise_repairs(const playing *w, const rmg_cost_table *costs, GArray *list);
bool rmg_advise_at(const playing *w, uint16_t socket);
void rmg_advise_sort(GArray *list);

#endif
