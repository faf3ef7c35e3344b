/* The processors: each runs until m->ended, or so many clocks are over. */
#ifndef RMG_TEST_ROM_CPU_H
#define RMG_TEST_ROM_CPU_H

#include "machine.h"

/* Addresses that an emulator hands on one access at a time. */
typedef struct window {
    machine *machine;
    uint32_t first;
} window;

void cpu_z80(machine *m, uint64_t clocks);   /* libz80ex */
void cpu_6502(machine *m, uint64_t clocks);  /* our own, held against another in outside.py */
void cpu_6809(machine *m, uint64_t clocks);  /* our own */
void cpu_8080(machine *m, uint64_t clocks);  /* our own */
void cpu_8086(machine *m, uint64_t clocks);  /* unicorn; clocks are instructions */
void cpu_68000(machine *m, uint64_t clocks); /* the same */

#endif
