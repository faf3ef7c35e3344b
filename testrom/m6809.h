/* Inside the room: what the files of the 6809 share. See m6809.c for its registers. */
#ifndef RMG_TESTROM_M6809_H
#define RMG_TESTROM_M6809_H

#include "code.h"

#define ENTRY_BYTES 4u
#define ROW_BYTES   8u
#define DATA_READS                                                                                 \
    16u /* a one and a zero at each bit; the entries are the table of patterns, too */
#define LINES_READS DATA_READS         /* two of them */
#define CROSS_READS (LINES_READS + 2u) /* and two */
#define MARCH_READS (CROSS_READS + 2u) /* up to 36 */
#define ENTRIES     64u

/* What a line is made of, in order. A line of a failure has all up to BACK. */
enum phase {
    PASS,
    KIND,
    BANK,
    LETTER,
    BLANK,
    ADDRESS,
    BLANK_2 = ADDRESS + 4,
    WROTE,
    BLANK_3 = WROTE + 2,
    VALUE,
    BLANK_4 = VALUE + 2,
    CHECK,
    RETURN = CHECK + 2,
    NEW_LINE,
    BACK,
    END_LINE, /* pass, E */
    WRONG_SUM = END_LINE + 2,
    START_LINE = WRONG_SUM + 2, /* pass, S, blank, number of the ROM */
    PHASES = START_LINE + 7
};
_Static_assert(PHASES == 32, "a phase has five bits");

typedef struct entry {
    unsigned back; /* label */
    uint8_t wrote;
    char letter;
} entry;

typedef struct writer {
    rom_code *c;
    unsigned tx, high, low, next, start_line, quiet, report, next_step, done;
    unsigned rows, letters, table, phases, phase[PHASES];
    entry entries[ENTRIES];
    unsigned entry_count;
    uint8_t dot, plus, start, sum, end; /* entries */
    uint8_t page, contents;             /* entries of ROMs: three readings, and what is read */
    unsigned sums;                      /* labels of their tables */
} writer;

#define BRA  0x20u
#define BHS  0x24u
#define BLO  0x25u
#define BNE  0x26u
#define BEQ  0x27u
#define JMP  0x7Eu
#define LDX  0x8Eu
#define ADDD 0xC3u
#define SUBD 0x83u
#define LDB  0xC6u
#define D_X  0x01u /* pairs of EXG and TFR */
#define D_Y  0x02u
#define D_U  0x03u
#define D_S  0x04u
#define X_D  0x10u
#define Y_D  0x20u
#define U_D  0x30u
#define S_D  0x40u
#define B_DP 0x9Bu
#define A_DP 0x8Bu
#define DP_A 0xB8u
#define DP_B 0xB9u
#define A_B  0x89u
#define B_A  0x98u

static inline void absolute(rom_code *c, unsigned opcode, unsigned label)
{
    rom_byte(c, opcode);
    rom_word(c, rom_of(c, label));
}

static inline void branch(rom_code *c, unsigned opcode, unsigned label)
{
    rom_byte(c, opcode);
    rmg_testrom_near(c, label);
}

/* Any distance: 5 clocks, or 6 where it is taken. */
static inline void far_branch(rom_code *c, unsigned opcode, unsigned label)
{
    ROM(c, 0x10, (uint8_t)opcode);
    rom_word(c, (rom_of(c, label) - (rom_here(c) + 2u)) & 0xFFFFu);
}

static inline void exchange(rom_code *c, unsigned pair)
{
    ROM(c, 0x1E, (uint8_t)pair);
}

static inline void transfer(rom_code *c, unsigned pair)
{
    ROM(c, 0x1F, (uint8_t)pair);
}

/* A prefixed operation with an immediate word. */
static inline void immediate(rom_code *c, unsigned prefix, unsigned opcode, uint32_t value)
{
    ROM(c, (uint8_t)prefix, (uint8_t)opcode);
    rom_word(c, value & 0xFFFFu);
}

static inline void compare_s(rom_code *c, uint32_t value)
{
    immediate(c, 0x11, 0x8C, value);
}

/* S on, by signed 16 bits. */
static inline void step_s(rom_code *c, uint32_t by)
{
    ROM(c, 0x32, 0xE9);
    rom_word(c, by & 0xFFFFu);
}

static inline uint32_t at_phase(unsigned phase)
{
    return (uint32_t)phase << 11;
}

static inline uint32_t at_entry(unsigned n)
{
    return (uint32_t)n << 5;
}

/* D shifted, by three. */
static inline void shift_left(rom_code *c)
{
    ROM(c, 0x58, 0x49, 0x58, 0x49, 0x58, 0x49);
}

static inline void shift_right(rom_code *c)
{
    ROM(c, 0x44, 0x56, 0x44, 0x56, 0x44, 0x56);
}

/* D is an address: the two bytes that lie there come into D; X stays. */
static inline void fetch(rom_code *c)
{
    exchange(c, D_X);
    ROM(c, 0xAE, 0x84);
    exchange(c, D_X);
}

/* D = address in the table of what S says. */
static inline void entry_of_s(writer *w, uint32_t offset)
{
    rom_code *c = w->c;

    transfer(c, S_D);
    shift_right(c);
    ROM(c, 0xC4, 0xFC, 0x4F, ADDD); /* andb; clra */
    rom_word(c, rom_of(c, w->table) + offset);
}

/* A, B = letters of step and bank of the row that S says. */
static inline void letters_of_s(writer *w)
{
    rom_code *c = w->c;

    transfer(c, S_D);
    ROM(c, 0xC4, 31, 0x58, 0x4F);
    absolute(c, ADDD, w->letters);
    fetch(c);
}

/* A step begins: so many lines may be told, and no bit failed. */
static inline void fresh(rom_code *c, bool none_failed)
{
    transfer(c, U_D);
    ROM(c, 0xC4, 7, 0xCA, (uint8_t)(c->plan->lines << 3));
    transfer(c, D_U);
    if (none_failed) {
        rom_byte(c, 0x4F);
        transfer(c, A_DP);
    }
}

/* m6809_pages.c: the routine for the pages of a ROM. */
unsigned rmg_testrom_6809_pages(writer *w);

#endif
