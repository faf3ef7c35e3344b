/* What benchmarks on the demo boards share: the boards, steps by their text, and dice. */
#ifndef RMG_BENCH_DEMO_BOARDS_H
#define RMG_BENCH_DEMO_BOARDS_H

#include "rimeglass/board.h"
#include "rimeglass/plan.h"

#define DEMO_BOARDS 4u
extern const char *const demo_board_files[DEMO_BOARDS];

/* One of them, to be freed with rmg_board_free; ends the program where it cannot be read. */
rmg_board *demo_board(uint64_t number);

/* A plan of these steps, YAML, each on a line of its own or as a list in brackets. */
void demo_steps(const char *steps, rmg_steps *plan);

/* A state of dice from a seed, and a number below `below`. Marsaglia, "Xorshift RNGs" (2003). */
uint64_t demo_dice_start(uint64_t seed);
uint64_t demo_dice(uint64_t *state, uint64_t below);

#endif
