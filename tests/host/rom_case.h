/* A chip of a demo board under simulation, read and verified: what tests of ROMs share. */
#ifndef RMG_TESTS_ROM_CASE_H
#define RMG_TESTS_ROM_CASE_H

#include "bench_board.h"
#include "rimeglass/report.h"

#define HALVORN "demo/boards/halvorn64.yaml"
#define OSTREL  "demo/boards/ostrel16.yaml"

typedef struct chip_case {
    rmg_sim_board_run bench;
    rmg_rom rom;
    char *good;
    rmg_verify v;
    rmg_suspects suspects;
} chip_case;

/* Writes the entries of a fault file; its path. */
const char *fault_file(const char *faults);

/* Opens `what` with these faults; verifies it against what the board file says; finds suspects, as
 * if the bare chip were so. End it. */
void open_case(chip_case *c, const rmg_board *board, const char *what, bool bare,
               const char *faults);
void verify_case(chip_case *c, const rmg_board *board, const char *what, bool bare,
                 uint32_t readings, const char *faults);
void find_suspects(chip_case *c, const rmg_board *board, rmg_bare_result bare);
void end_case(chip_case *c);

#endif
