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
    unsigned misread;     /* a measurement is read as another one */
} world_odds;

/* As the advice supposes; the same, but with measurements misread; and otherwise. */
extern const world_odds world_supposed, world_misread, world_otherwise;

/* What the fault belongs to in truth. */
typedef enum owner {
    OF_CHIP,
    OF_CONTACT,
    OF_PLACE,
    OF_LINE,
    OF_SUPPLY, /* of the chips of a bank, or their refresh */
    OF_BOTH,   /* a chip in a place: right elsewhere, as is another one there */
    OWNERS
} owner;

#define WORLD_ALSO 32u /* chips beside the first that suffer from a supply, at most */

/* One thing that is wrong. */
typedef struct defect {
    rmg_sim_fault fault;
    rmg_sim_fault also[WORLD_ALSO]; /* of the same cause, at other chips */
    unsigned also_count;
    const diag_kind *kind; /* of it */
    owner owner;
    bool there;      /* it is */
    bool of_line;    /* OF_PLACE, and a line's that leads to one chip only: mended as either */
    uint16_t socket; /* where its chip is now, or where it is; RMG_NO_SOCKET: out of the board */
} defect;

#define WORLD_DEFECTS 2u

/* The board as it is in truth. */
typedef struct world {
    const diag_board *board;
    defect of[WORLD_DEFECTS]; /* [count] */
    unsigned count;
    uint16_t held[2]; /* sockets with a good chip on top, for a test */
    unsigned held_count;
    uint16_t pulled; /* for a test; RMG_NO_SOCKET: none */
    uint32_t passes; /* of a test */
    bool seldom;     /* it comes and goes */
    diag_when when;  /* only when warm, or always */
    bool time;       /* holds are tested too */
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

/* Which faults are drawn: a mixture; those that are always there and of one chip, contact, place,
 * line or select; the same at times; at times because it is warm; of a supply; of chip and place.
 */
typedef enum world_sort {
    SORT_MIXED,
    SORT_SIMPLE,
    SORT_SELDOM,
    SORT_WARM,
    SORT_SUPPLY,
    SORT_BOTH,
    SORT_TWO
} world_sort;

/* Draws a board and what is wrong with it, by the seed alone. false: that board cannot have it.
 * Tests after it: world_settle. The board is the caller's. */
bool world_draw(uint64_t seed, world_sort sort, diag_board *board, world *w);

/* Does each defect show in a test alone? */
bool world_shows(const world *w);

/* A line of which only one chip fails is that chip's place. */
void world_settle(world *w, const rmg_run *run);

/* Is something wrong with it still? */
bool world_is_bad(const world *w);

/* One test of it; with suspects, replayed, where `diagnose`. End it with diag_case_end. */
void world_test(world *w, diag_case *c, bool diagnose);

/* The contacts of a socket are made anew. */
void world_touch(world *w, uint16_t socket);

/* Does a good chip on top give what the defect's own does not drive? */
bool world_covers(const world *w, const defect *d);

/* Does a change; a chip that was only pulled is put back by the caller. */
void world_apply(world *w, const rmg_change *c, outcome *o);

/* What a meter shows, or a look at the pin that is lifted. */
rmg_measured world_measure(world *w, uint16_t socket, bool lifted);

/* Does a repair that was advised with that share, of a cause that `base` was found to have. */
void world_mend(world *w, const diag_case *base, const rmg_change *c, const rmg_hypothesis *cause,
                double share, outcome *o);

#endif
