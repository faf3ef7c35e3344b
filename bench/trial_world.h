/* A board under repair, as it is in truth: what a test, a meter and a change do to it. */
#ifndef RMG_BENCH_TRIAL_WORLD_H
#define RMG_BENCH_TRIAL_WORLD_H

#include "diag.h"
#include "rimeglass/trial.h"

/* How often things are so, of a hundred. */
typedef struct world_odds {
    bool alike;       /* chip, contact and place of a socket are equally likely; else as often as
                         the standard table says */
    unsigned cleaned; /* a contact that was made anew is right */
    unsigned open;    /* a bad contact measures open */
    unsigned open_seldom; /* ... one that comes and goes, and a track that does */
    unsigned held_short;  /* a chip whose output is held measures as a short */
} world_odds;

/* As the advice supposes; and otherwise. */
extern const world_odds world_supposed, world_otherwise;

/* What the fault belongs to in truth. */
typedef enum owner { OF_CHIP, OF_CONTACT, OF_PLACE, OF_LINE, OWNERS } owner;

/* The board as it is in truth. */
typedef struct world {
    const diag_board *board;
    rmg_sim_fault fault;
    const diag_kind *kind; /* of it */
    owner owner;
    bool there;      /* the fault is */
    uint16_t socket; /* where its chip is now, or where it is; RMG_NO_SOCKET: out of the board */
    bool empty;      /* its socket is, for a test */
    uint16_t pulled;
    uint32_t passes; /* of a test */
    bool seldom;     /* it comes and goes */
    const world_odds *odds;
    diag_dice dice;
} world;

typedef struct outcome {
    bool right, sound_replaced, sure_and_wrong;
    bool few;    /* causes to choose among: the search can do that */
    bool hidden; /* the first test showed nothing: no repair began */
    double cost;
    unsigned changes;
} outcome;

/* One test of it; with suspects, replayed, where `diagnose`. End it with diag_case_end. */
void world_test(world *w, diag_case *c, bool diagnose);

/* The contacts of a socket are made anew. */
void world_touch(world *w, uint16_t socket);

/* Does a change; a chip that was only pulled is put back by the caller. */
void world_apply(world *w, const rmg_change *c, outcome *o);

/* What a meter shows, or a look at the pin that is lifted. */
rmg_measured world_measure(world *w, uint16_t socket, bool lifted);

/* Does a repair that was advised with that share, of a cause that `base` was found to have. */
void world_mend(world *w, const diag_case *base, const rmg_change *c, const rmg_hypothesis *cause,
                double share, outcome *o);

#endif
