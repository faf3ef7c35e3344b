/* The live view: a run while it goes on, on a whole terminal screen (ncurses). Banks by bits with
 * what failed, the first failures pinned, and keys: pause, stop, a temperature, help. */
#ifndef RIMEGLASS_LIVE_H
#define RIMEGLASS_LIVE_H

#include "run.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A screen that follows a run. */
typedef struct rmg_live rmg_live;

/* A cell of a chart that is not the board's: what stands in it, and how often that failed. */
typedef struct rmg_live_cell {
    char name[16];     /* of the socket */
    uint64_t failures; /* UINT64_MAX: nothing is known */
} rmg_live_cell;

/* What the view shows besides the board. Texts are valid during the call. */
typedef struct rmg_live_state {
    const char *what;         /* what goes on: "March C-", "reading lines" */
    uint64_t pass;            /* from 1; 0: none */
    uint32_t passes;          /* 0: no number was given */
    double share;             /* done, 0..1; negative: not known */
    double pass_share;        /* of this pass; negative: not known */
    uint64_t failures;        /* in all */
    const char *failures_are; /* "failure"; NULL: that */
    int32_t heat_millic;      /* or RMG_NOT_KNOWN */
    /* failures of a rule's chip, or UINT64_MAX: nothing is known of it */
    uint64_t (*of_rule)(void *context, const rmg_rule *rule);
    void *context;
    /* instead of the board's chart and of_rule: [cell_count], and what they are; or NULL */
    const rmg_live_cell *cells;
    size_t cell_count;
    const char *cells_are;
} rmg_live_state;

/* Takes the terminal. `title` is copied. NULL: there is none, or it cannot move its cursor. */
rmg_live *rmg_live_begin(const rmg_board *board, const char *title);
/* Gives it back as it was. NULL is allowed. */
void rmg_live_end(rmg_live *live);

/* Pins one of the first failures; what comes after RMG_LIVE_PINNED is only counted. */
#define RMG_LIVE_PINNED 6u
void rmg_live_pin(rmg_live *live, const char *text);

/* Draws it, at most ten times a second, and takes keys; while it is paused, it returns no earlier
 * than that ends. `stopped` (NULL: never) is asked while it is. false: stop. */
bool rmg_live_show(rmg_live *live, const rmg_live_state *state, bool (*stopped)(void));

/* The temperature that was typed last, in 1/1000 degree Celsius, or RMG_NOT_KNOWN. */
int32_t rmg_live_heat(const rmg_live *live);

#ifdef __cplusplus
}
#endif
#endif
