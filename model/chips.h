/* Inside the model: one access, chip by chip, with all faults. */
#ifndef RMG_MODEL_CHIPS_H
#define RMG_MODEL_CHIPS_H

#include "rimeglass/sim.h"

/* What the chips put on the data lines at `address`: *driven has ones at the bits that some chip
 * drives, the result their values. */
rmg_word rmg_chips_read(const rmg_sim *sim, rmg_addr address, rmg_word *driven);

/* Lets every chip at `address` take the bits of `strobed` in `value` from the data lines. */
void rmg_chips_write(rmg_sim *sim, rmg_addr address, rmg_word value, rmg_word strobed);

/* What the bus data lines make of a value: lines stuck by a fault force their level. */
rmg_word rmg_chips_bus(const rmg_sim *sim, rmg_addr address, rmg_word value);

/* The bus address as the chips of that rule's bank get it. */
rmg_addr rmg_chips_bank_address(const rmg_sim *sim, const rmg_rule *rule, rmg_addr address);

/* The cell of the rule's chip that an address reaches, faults in its address lines included. */
rmg_addr rmg_chips_cell(const rmg_sim *sim, const rmg_rule *rule, rmg_addr address);

#endif
