/* A second model of a board with faults, for judging: it shares no code with the simulator of the
 * library, goes bit by bit, and lets what comes and goes come in bursts. */
#ifndef RMG_BENCH_OTHER_BOARD_H
#define RMG_BENCH_OTHER_BOARD_H

#include "diag.h"

typedef struct other_board other_board;

/* Does the model have this kind of fault? */
bool other_board_has(rmg_fault_kind kind);

/* The case's board with its faults; `burst`: a fault that comes and goes stays for so many accesses
 * on average, 1 or more. To be freed with other_board_free. */
other_board *other_board_new(const diag_case *c, unsigned burst);
void other_board_free(other_board *b);

extern const rmg_bus other_board_bus;

#endif
