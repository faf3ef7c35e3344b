/* A demo board under simulation with given faults, and a run on it: what several tests need. */
#ifndef RMG_TESTS_BENCH_BOARD_H
#define RMG_TESTS_BENCH_BOARD_H

#include "rimeglass/fault.h"
#include "rimeglass/suspect.h"

rmg_board *bench_load(const char *below_project);

/* Starts a simulation of `board`; end it with rmg_sim_board_end. The faults are copied. */
void bench_start(rmg_sim_board_run *bench, const rmg_board *board, const rmg_sim_fault *faults,
                 size_t count, uint64_t world_seed);

/* A plan of March C- or, if `quick`, MATS+. */
rmg_plan bench_plan(bool quick, uint32_t passes);

#endif
