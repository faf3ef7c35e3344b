/* The processors: each runs until m->ended, or so many clocks are over. */
#ifndef RMG_TEST_ROM_CPU_H
#define RMG_TEST_ROM_CPU_H

#include "machine.h"

void cpu_z80(machine *m, uint64_t clocks);  /* libz80ex */
void cpu_6502(machine *m, uint64_t clocks); /* our own, held against another in tests/rom/m6502.py */

#endif
