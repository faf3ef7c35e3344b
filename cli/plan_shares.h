/* What a plan finds beyond single cells and pairs of them: within a word, and among neighbours. */
#ifndef RMG_CLI_PLAN_SHARES_H
#define RMG_CLI_PLAN_SHARES_H

#include <glib.h>

#include "rimeglass/coverage.h"
#include "rimeglass/plan.h"

/* Shares of faults between two bits of a word, in both readings of what a coupling does to a bit
 * that the write itself changes. */
typedef struct within_shares {
    uint8_t bits; /* 0: the words have one bit */
    double share[RMG_CLASS_CFIR - RMG_CLASS_CFIN + 1][2];
} within_shares;

/* Shares of faults that depend on the four neighbours of a cell: on 5 x 5 cells; and by the steps
 * for them, where the chip has its rows and columns in an order of its own: the mean of some. */
typedef struct neighbour_shares {
    double share[RMG_PATTERN_CLASSES], scrambled[RMG_PATTERN_CLASSES];
    unsigned orders; /* that were drawn; 0: the plan has no such step */
    bool rows;       /* false: no memory of the board has any, and nothing was computed */
} neighbour_shares;

typedef struct plan_shares {
    within_shares within;
    neighbour_shares neighbours;
    double successive[RMG_SUCCESSIVE_CLASSES]; /* below 0: not of this board */
} plan_shares;

/* Has a memory of the board rows and columns? A board that names no chips may have. */
bool board_has_rows(const rmg_board *board);

/* The marches and holds of a plan in their backgrounds, each once. */
size_t plan_marches(const rmg_steps *steps, rmg_covered *marches);

extern const char *const pattern_names[RMG_PATTERN_CLASSES];

/* Of faults between two bits of a word: the mean of the classes and of both readings, 0..1. */
double plan_share_within(const rmg_steps *steps, const rmg_board *board);

/* Which instances of a class are found, one after the other: of single cells and pairs,
 * [RMG_COVERAGE_INSTANCES]; among neighbours, and of accesses that follow each other,
 * [PLAN_INSTANCES]. How many there are. */
#define PLAN_INSTANCES 2048u
size_t plan_found_of_class(const rmg_steps *steps, rmg_fault_class fault_class, bool *found);
size_t plan_found_among(const rmg_steps *steps, rmg_pattern_class pattern_class, bool *found);
size_t plan_found_successive(const rmg_steps *steps, const rmg_board *board,
                             rmg_successive_class successive_class, bool *found);

/* plan_successive.c: shares of faults of a chip that is slow from one access to the next. `rows`:
 * the board has memory with rows and columns. */
void look_successive(const rmg_steps *steps, const rmg_board *board, bool rows,
                     double share[RMG_SUCCESSIVE_CLASSES]);
extern const char *const successive_names[RMG_SUCCESSIVE_CLASSES];
void print_successive(const double share[RMG_SUCCESSIVE_CLASSES]);
void add_successive(GString *text, const double share[RMG_SUCCESSIVE_CLASSES]);

void look_at_plan(const rmg_steps *steps, const rmg_board *board, plan_shares *shares);
void print_plan_shares(const plan_shares *shares);

/* As members of an object that has others before them. */
void add_plan_shares(GString *text, const plan_shares *shares);

#endif
