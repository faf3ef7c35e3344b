/* A small 6809. */
#ifndef RMG_TEST_ROM_CORE_6809_H
#define RMG_TEST_ROM_CORE_6809_H

#include <stdbool.h>
#include <stdint.h>

typedef struct core_6809 {
    void *context;
    uint8_t (*read)(void *context, uint16_t address);
    void (*write)(void *context, uint16_t address, uint8_t value);
    uint8_t a, b, dp, cc;
    uint16_t x, y, u, s, pc;
    uint8_t taken; /* bytes of instructions, counted up */
    bool stopped;  /* an instruction that is not documented, or waits for an interrupt */
} core_6809;

void core_6809_reset(core_6809 *c);
unsigned core_6809_step(core_6809 *c); /* clocks */

#endif
