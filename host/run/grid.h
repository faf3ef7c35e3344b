/* Inside the room: a bank's words by row and column at its chips' pins. Which rows and columns lie
 * side by side inside a chip is its maker's secret. */
#ifndef RMG_HOST_RUN_GRID_H
#define RMG_HOST_RUN_GRID_H

#include "runner.h"

typedef struct bank_grid {
    const rmg_run *run;
    const rmg_rule *rule;    /* of one chip of the bank, for all of them */
    uint8_t row_lines;       /* 0: its part has no rows and columns */
    const rmg_range *ranges; /* [range_count]: what is tested */
    size_t range_count;
    rmg_addr base;                    /* of every address, and its bits */
    rmg_addr *row_bits, *column_bits; /* of the address, by row and by column */
    bool *row_there, *column_there;   /* false: the board ties a line of it to the other level */
} bank_grid;

/* The first chip of the bank that has rows; row_lines 0: none has. `any`: of a chip without rows,
 * as if half of its address lines were those of rows. End it in any case. */
bank_grid rmg_grid_of_bank(const rmg_run *run, uint8_t bank, bool any);
void rmg_grid_end(bank_grid *g);

static inline rmg_addr grid_rows(const bank_grid *g)
{
    return (rmg_addr)1 << g->row_lines;
}

static inline rmg_addr grid_columns(const bank_grid *g)
{
    return (rmg_addr)1 << (g->rule->address_lines - g->row_lines);
}

/* The bus address of (row, column); false: it is not tested. */
bool rmg_grid_address(const bank_grid *g, rmg_addr row, rmg_addr column, rmg_addr *address);

/* A wrong read of a step that goes by rows and columns; `element` is what it was doing. */
void rmg_grid_wrong(runner *c, uint64_t pass, uint8_t element, rmg_addr address, rmg_word expected,
                    rmg_word actual);

/* Every judged read is a trial of each bit, as those of marches are: `reads` of 0 and of 1. */
void rmg_grid_trials(const bank_grid *g, const uint64_t reads[2]);

#endif
