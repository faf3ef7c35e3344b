/* An SRAM or EPROM chip at its pins: access time, write pulse, faults, and the rules of its data
 * sheet. It shares nothing with the simulated board of the library. Times in nanoseconds. */
#ifndef RMG_POD_STATIC_MODEL_H
#define RMG_POD_STATIC_MODEL_H

#include <stdbool.h>
#include <stdint.h>

typedef struct static_model {
    /* the chip */
    unsigned lines, bits; /* address and data lines */
    bool rom;
    bool apart,
        inverted; /* inputs stand beside outputs; it reads the complement of what is written */
    double access, pulse,
        setup; /* from address or select; length of a write; data before its end */
    /* what is wrong with it */
    bool missing;
    int stuck_bit, stuck_level, open_line; /* -1: none */
    uint32_t bad_cell;
    int bad_bit, bad_level; /* a cell of which one bit is stuck; -1: none */

    /* its state: levels */
    bool powered;
    uint32_t address;
    bool select, output, write; /* active */
    uint32_t data;              /* what is driven from outside, */
    bool driven;                /* if it is */
    double address_at, select_at, output_at, write_at, data_at;
    uint16_t cells[1u << 19];
    void (*broken)(const char *rule, double at, double found, double wanted);
} static_model;

void static_begin(static_model *m);
void static_lines(static_model *m, uint32_t address, bool select, bool output, bool write,
                  bool driven, uint32_t data, double at);
/* What it drives, and whether it does; bits that are not there yet read `before`. */
bool static_output(const static_model *m, double at, uint32_t before, uint32_t *levels);
/* When its outputs are right at the latest. */
double static_valid_at(const static_model *m);

#endif
