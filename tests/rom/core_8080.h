/* A small 8080, or 8085, of our own: it counts clocks as the data sheets do. */
#ifndef RMG_TEST_ROM_CORE_8080_H
#define RMG_TEST_ROM_CORE_8080_H

#include <stdbool.h>
#include <stdint.h>

typedef struct core_8080 {
    uint8_t r[8]; /* B, C, D, E, H, L, none, A: in the order of the opcodes */
    uint8_t flags;
    uint16_t sp, pc;
    bool of_8085; /* its clocks */
    bool halted;
    uint64_t clocks;
    void *context;
    uint8_t (*read)(void *context, uint16_t address);
    void (*write)(void *context, uint16_t address, uint8_t value);
    void (*out)(void *context, uint8_t port, uint8_t value);
} core_8080;

/* One instruction. false: it is none. */
bool core_8080_step(core_8080 *p);

#endif
