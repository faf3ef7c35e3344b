/* Blinks of a test ROM, typed in. */
#ifndef RMG_CLI_BLINKS_H
#define RMG_CLI_BLINKS_H

#include "rimeglass/deadboard.h"

/* "3 1", or "good", as lines of a pass: a new text. NULL after saying what is wrong with it. */
char *blinks_as_lines(const rmg_board *board, const rmg_board_rom *how, const char *blinks);

#endif
