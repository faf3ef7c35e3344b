/* A DRAM chip of one to eight data bits, at its pins: rows and columns, precharge, access time,
 * retention and refresh, faults of cells and lines, and the rules of its data sheet. It shares
 * nothing with the simulated board of the library. Times in nanoseconds. */
#ifndef RMG_POD_DRAM_MODEL_H
#define RMG_POD_DRAM_MODEL_H

#include <stdbool.h>
#include <stdint.h>

typedef enum cell_fault { CELL_STUCK, CELL_NO_RISE, CELL_NO_FALL, CELL_COUPLED } cell_fault;

typedef struct dram_fault {
    cell_fault kind;
    uint32_t cell, by; /* row and column: row | column << 9; of a coupled cell what disturbs it */
    int level;
} dram_fault;

typedef struct dram_model {
    /* the chip */
    unsigned row_lines, column_lines, cycles; /* refresh cycles */
    unsigned bits; /* data lines: 1, with input and output apart; or more, which go both ways */
    unsigned column_from; /* address pin of its lowest column line */
    double period_ms, row_access, column_access, precharge, active;
    unsigned rails; /* that it needs: 1 +5 V, 2 +12 V, 4 -5 V */
    /* what is wrong with it */
    bool missing;                         /* nothing in the socket */
    int stuck;                            /* of its output D0: 0, 1; -1 none */
    int dead_row, dead_column, open_line; /* -1: none */
    int bad_half_line; /* row line (0..8) or 9 + column line of which one level has no cells */
    int bad_half_level;
    int weak_row;
    double weak_ms;
    dram_fault faults[16];
    unsigned fault_count;

    /* its state */
    bool powered, begun;
    unsigned address, row, column;
    bool ras, cas, we;    /* levels */
    unsigned d;           /* what is driven from outside, */
    bool driven, enabled; /* if it is; and output enable, active */
    double ras_fell, ras_rose, cas_fell, row_at[512];
    uint8_t cells[1u << 18];
    bool driving;
    double valid_at; /* of its output, while it drives */
    unsigned value;
    /* what the judge saw */
    double longest_row; /* between two refreshes of a row, while it was powered */
    double powered_at;
    void (*broken)(const char *rule, double at, double found, double wanted);
} dram_model;

void dram_begin(dram_model *m);
void dram_power(dram_model *m, bool on, double at);
/* The levels of its inputs from this time on. */
void dram_lines(dram_model *m, unsigned address, bool ras, bool cas, bool we, unsigned d,
                double at);
/* The same of lines that only a chip of several bits has: is something driven, are outputs enabled?
 */
void dram_shared_lines(dram_model *m, bool driven, bool enabled, double at);
/* Its outputs at a time; -1: it does not drive. */
int dram_output(const dram_model *m, double at);

#endif
