/* Boards and fault files at random, as text: what a technician's own files may be like
 * (bench-odd). */
#ifndef RMG_BENCH_ODD_BOARD_H
#define RMG_BENCH_ODD_BOARD_H

#include <stdio.h>

#include "rimeglass/board.h"

typedef uint64_t odd_dice;
uint64_t odd_roll(odd_dice *dice, uint64_t below);

/* A board file, to be freed: 8 or 16 bits, 1 to 6 banks of parts 1, 4 or 8 wide, chosen by any
 * lines. `told`: it says what undriven lines read. */
char *odd_board_text(odd_dice *dice, const char *undriven, bool told);

/* Adds an entry of a fault file: any kind that the board can have; half of them at times. */
void odd_fault_put(FILE *to, odd_dice *dice, const rmg_board *board);

#endif
