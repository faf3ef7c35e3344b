/* Inside the room: every instance of the classes asked for, from every contents, side by side in
 * the bits of a few numbers. A model of its own: it shares nothing with the one that proves the
 * result. */
#ifndef RMG_HOST_SEARCH_LANES_H
#define RMG_HOST_SEARCH_LANES_H

#include "rimeglass/search.h"

#define RMG_LANE_CELLS 3u   /* at most: lower, between, upper */
#define RMG_LANE_WORDS 200u /* of 64 lanes */

/* What is where, of 64 lanes. */
typedef struct rmg_lane_masks {
    uint64_t v[RMG_LANE_CELLS], a[RMG_LANE_CELLS]; /* victim and aggressor are this cell */
    uint64_t x, s;                                 /* level of the victim, state of the aggressor */
    uint64_t b[RMG_LANE_CELLS], t;                 /* the other aggressor of linked faults */
    uint64_t disturbs[3][2];                       /* CFds by operation: w0, w1, r; on 0, on 1 */
    uint64_t kind[RMG_CLASS_COUNT];
    uint64_t used, none, both, other; /* lanes; addresses: no cell, two cells, another's */
    uint64_t last, ors;               /* what is read of none, or of two */
} rmg_lane_masks;

typedef struct rmg_lanes {
    unsigned cells, words, group; /* group: lanes of one instance, by contents */
    uint64_t instances;
    rmg_lane_masks masks[RMG_LANE_WORDS];
} rmg_lanes;

/* 64 lanes at one moment. */
typedef struct rmg_lane_state {
    uint64_t m[RMG_LANE_CELLS], latch, found;
} rmg_lane_state;

/* The lanes of these classes; false: there are more than have room. */
bool rmg_lanes_make(rmg_lanes *lanes, const bool classes[RMG_CLASS_COUNT]);

void rmg_lanes_begin(const rmg_lanes *lanes, rmg_lane_state *state);

/* An operation (RMG_OP_...) on one cell; a hold. */
void rmg_lanes_do(const rmg_lanes *lanes, rmg_lane_state *state, unsigned cell, uint8_t op);
void rmg_lanes_hold(const rmg_lanes *lanes, rmg_lane_state *state);

/* Lanes found; and those that hold something wrong that was not read yet. */
void rmg_lanes_count(const rmg_lanes *lanes, const rmg_lane_state *state, uint8_t good,
                     unsigned *found, unsigned *latent);

/* Instances that are found from all contents. */
uint64_t rmg_lanes_instances(const rmg_lanes *lanes, const rmg_lane_state *state);

#endif
