/* A demo board under simulation with given faults, and a run on it: what several tests need. */
#ifndef RMG_TESTS_BENCH_BOARD_H
#define RMG_TESTS_BENCH_BOARD_H

#include <glib.h>

#include "rimeglass/target.h"
#include "rimeglass/suspect.h"

rmg_board *bench_load(const char *below_project);

/* Starts a simulation of `board`; end it with rmg_sim_board_end. The faults are copied. */
void bench_start(rmg_sim_board_run *bench, const rmg_board *board, const rmg_sim_fault *faults,
                 size_t count, uint64_t world_seed);

/* Runs the plan on the board with these faults and finds the suspects; end both. */
void bench_examine(const rmg_board *board, const rmg_sim_fault *faults, size_t count,
                   const rmg_plan *plan, uint64_t world_seed, rmg_run *run, rmg_suspects *suspects);

/* A number below `below`, from a state of the test's own. */
uint64_t bench_dice(uint64_t *state, uint64_t below);

/* Do both hold the same counts and the same first failures? */
bool bench_same_tally(const rmg_tally *a, const rmg_tally *b);

/* A plan of March C- or, if `quick`, MATS+. */
rmg_plan bench_plan(bool quick, uint32_t passes);

/* Boards of which nothing is traced: four banks of one byte-wide chip, U1 to U4; a bank of eight
 * one-bit chips, U11 at D0; two banks of two chips that the lowest address line chooses. */
extern const char made_wide[], made_bits[], made_lanes[];

/* "U2 U3 U4": the sockets that a finding is about. To be freed with g_free. */
gchar *bench_sockets_of(const rmg_run *run, const rmg_finding *f);

#endif
