/* Runs a program made for cc65's sim65 on our own small 6502: prints its exit code and clocks, as
 * sim65 -c does.
 *
 * Call: test-run-6502 PROGRAM */
#include <stdio.h>
#include <string.h>

#include "core_6502.h"

#define HEADER     12u     /* "sim65", version, processor, stack pointer, load address, start */
#define EXIT       0xFFF9u /* a call there ends the program, its code in A */
#define MOST_STEPS 200000000u

static uint8_t memory[65536];

static uint8_t get(void *unused, uint16_t address)
{
    (void)unused;
    return memory[address];
}

static void put(void *unused, uint16_t address, uint8_t value)
{
    (void)unused;
    memory[address] = value;
}

int main(int argc, char **argv)
{
    core_6502 c = {.read = get, .write = put};
    uint8_t header[HEADER];
    unsigned long clocks = 0;
    FILE *file = argc > 1 ? fopen(argv[1], "rb") : NULL;
    unsigned load;

    if (!file || fread(header, 1, HEADER, file) != HEADER || memcmp(header, "sim65", 5) != 0) {
        fprintf(stderr, "expected a program of sim65\n");
        return 2;
    }
    load = header[8] | (unsigned)header[9] << 8;
    if (!fread(memory + load, 1, sizeof memory - load, file))
        return 2;
    fclose(file);
    memory[0xFFFC] = header[10];
    memory[0xFFFD] = header[11];
    core_6502_reset(&c);
    c.s = 0xFF;
    for (unsigned n = 0; n < MOST_STEPS && c.pc != EXIT && !c.stopped; n++)
        clocks += core_6502_step(&c);
    printf("%u %lu\n", c.a, clocks);
    return c.pc == EXIT ? 0 : 1;
}
