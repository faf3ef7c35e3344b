/* A subroutine that lies in memory, run by an emulated processor until it returns. */
#ifndef RMG_TEST_ROM_SUBROUTINE_H
#define RMG_TEST_ROM_SUBROUTINE_H

#include <stdbool.h>
#include <stdint.h>

#include "rimeglass/testrom.h"

typedef struct cpu_bus {
    void *context;
    uint8_t (*read)(void *context, uint16_t address);
    void (*write)(void *context, uint16_t address, uint8_t value);
} cpu_bus;

/* Calls it: Z80 (libz80ex), 6502 or 6809 (our own cores). `stack`: the first address above the
 * stack, of a 6502 in 0x0101..0x0200. Clocks that it took; 0: it did not return within `most`. */
uint64_t cpu_call(rmg_testrom_processor processor, const cpu_bus *bus, uint16_t at, uint16_t stack,
                  uint64_t most);

#endif
