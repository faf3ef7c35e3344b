/* Inside the room: causes of what is wrong with a ROM. */
#ifndef RMG_HOST_TRIAL_ROM_H
#define RMG_HOST_TRIAL_ROM_H

#include "diagnose/internal.h"
#include "internal.h"
#include "rimeglass/rom_trial.h"

/* rom_causes.c: the rival that a cause is; NULL: something that none is. */
const rmg_rival *rmg_rom_rival(const rmg_rom_verdict *base, const rmg_hypothesis *h);
/* How likely it shows when its chip is read on its own pins: 0..1. */
double rmg_rom_shows_bare(const rmg_rom_verdict *base, const rmg_hypothesis *h);
/* How likely the change took it away: 0..1. */
double rmg_rom_undone(const rmg_board *board, const rmg_rom_verdict *base, const rmg_hypothesis *h,
                      const rmg_change *change);
/* Is it about what the chip is too slow for, or is enabled too late for? */
bool rmg_rom_is_timing(const rmg_rom_verdict *base, const rmg_hypothesis *h);
/* Is it another chip on the same lines? */
bool rmg_rom_is_another(const rmg_rom_verdict *base, const rmg_hypothesis *h);

/* rom_trial.c: is the finding at pins, which a meter can be held to? */
bool rmg_rom_is_at_pins(const rmg_suspect *s);

#endif
