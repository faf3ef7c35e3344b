/* Inside the room. */
#ifndef RMG_DEADBOARD_INTERNAL_H
#define RMG_DEADBOARD_INTERNAL_H

#include "rimeglass/deadboard.h"

/* roms.c: adds the ROMs of `how` and a step for each. false: one cannot be read, *error says why.
 */
bool rmg_dead_add_roms(const rmg_board *board, const rmg_board_rom *how, rmg_testrom_plan *plan,
                       rmg_error *error);

#endif
