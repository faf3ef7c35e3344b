/* A small 6502. */
#ifndef RMG_TEST_ROM_CORE_6502_H
#define RMG_TEST_ROM_CORE_6502_H

#include <stdbool.h>
#include <stdint.h>

typedef struct core_6502 {
    void *context;
    uint8_t (*read)(void *context, uint16_t address);
    void (*write)(void *context, uint16_t address, uint8_t value);
    uint8_t a, x, y, s, p;
    uint16_t pc;
    bool stopped; /* an instruction that is not documented */
} core_6502;

void core_6502_reset(core_6502 *c);
unsigned core_6502_step(core_6502 *c); /* clocks */

#endif
