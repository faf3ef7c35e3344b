/* A board with a processor in it, for tests: the processor is an emulator that shares nothing with
 * the code that made the ROM, RAM is a simulated board with faults, and the serial pin is sampled
 * as a receiver does it, bit by bit. */
#ifndef RMG_TEST_ROM_MACHINE_H
#define RMG_TEST_ROM_MACHINE_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#include "rimeglass/sim.h"
#include "rimeglass/testrom.h"

#define MACHINE_TEXT 65536u

typedef struct machine {
    const rmg_testrom_plan *plan;
    const uint8_t *image;
    rmg_sim *sim;
    bool overlaid; /* the ROM answers everywhere until it is read at its own place */
    uint64_t clocks;
    uint64_t outside; /* accesses to what is neither RAM, ROM nor an output */
    char text[MACHINE_TEXT];
    size_t length;
    unsigned passes;   /* to be heard; 0 is 1 */
    bool wants_blinks; /* the lamp is to be watched after them, too */
    unsigned heard;    /* passes whose last line was heard */
    bool ended;        /* all of that is over */
    /* the receiver */
    bool level; /* mark */
    bool busy;
    double began;
    unsigned sampled;
    unsigned bits;
    double worst_edge; /* of a bit: how far an edge lay from its place */
    uint64_t last_edge;
    bool as_z80;          /* the code of an 8080 runs in a Z80 */
    bool by_writes;       /* each write is a bit: the emulator counts no clocks */
    unsigned framing;     /* characters without a stop bit */
    uint64_t first_low;   /* when the first start bit began */
    uint8_t shown[25600]; /* the screen, row after row */
    uint8_t loses;        /* bits that are read as 0 there, whatever was written */
    /* the lamp */
    bool lit;
    unsigned flashes[64]; /* in groups: a pause of three flashes ends one */
    unsigned groups;
    uint64_t lamp_changed, lamp_on_clocks;
    uint8_t *lengths; /* [65536] of the instructions that ran, by address; or NULL. 6809 alone */
} machine;

void machine_begin(machine *m, const rmg_testrom_plan *plan, const uint8_t *image, rmg_sim *sim);

/* An access of the processor at `clocks`. `fetch`: an instruction is read. */
uint8_t machine_read(machine *m, uint32_t address, bool fetch);
void machine_write(machine *m, uint32_t address, uint8_t value);
void machine_port(machine *m, uint32_t port, uint16_t value);

/* 16-bit buses: whole words, or bytes of them. */
uint16_t machine_read_word(machine *m, uint32_t address, bool fetch);
void machine_write_word(machine *m, uint32_t address, uint16_t value);

/* Runs until the end of a pass was heard, or so many clocks are over. false: it was not heard. */
bool machine_run(machine *m, uint64_t clocks);

#endif
