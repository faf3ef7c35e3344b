/* A subroutine that lies in memory, run by an emulated processor until it returns. */
#ifndef RMG_TEST_ROM_SUBROUTINE_H
#define RMG_TEST_ROM_SUBROUTINE_H

#include <stdbool.h>
#include <stdint.h>

#include "rimeglass/testrom.h"

/* Memory by bytes; processors with words of two are given those two, one after the other. */
typedef struct cpu_bus {
    void *context;
    uint8_t (*read)(void *context, uint32_t address);
    void (*write)(void *context, uint32_t address, uint8_t value);
} cpu_bus;

typedef enum cpu_way {
    CPU_CALL,     /* it is called, and returns */
    CPU_CALL_FAR, /* 8086: it runs until it comes to `end`, with a far return there */
    CPU_JUMP      /* it runs until it comes to `end` */
} cpu_way;

/* Calls it: Z80 (libz80ex), 6502, 6809, 8080 (our own cores), 68000 and 8086 (unicorn). `stack`:
 * the first address above the stack, of a 6502 in 0x0101..0x0200, of an 8086 in segment 0. Clocks
 * that it took, which unicorn does not count; 0: it did not return within `most`, or not with the
 * stack and the registers that a caller needs. */
uint64_t cpu_call(rmg_testrom_processor processor, const cpu_bus *bus, uint32_t at, uint32_t stack,
                  uint64_t most);
uint64_t cpu_run(rmg_testrom_processor processor, const cpu_bus *bus, uint32_t at, uint32_t stack,
                 cpu_way way, uint32_t end, uint64_t most);

#endif
