/* Inside the room: what the files of the 8086 share. See i8086.c for its registers. */
#ifndef RMG_TESTROM_I8086_H
#define RMG_TESTROM_I8086_H

#include "code.h"

/* Operands of every step, below BP. */
#define AT_STEP  0xFEu /* -2: letters of step and bank */
#define AT_BANK  0xFFu
#define AT_MASK  0xFCu /* -4 */
#define AT_END   0xFAu /* -6 */
#define AT_FIRST 0xF8u /* -8 */
#define AT_SEG   0xF6u /* -10 */

typedef struct writer {
    rom_code *c;
    bool wide; /* words of 16 bits */
    unsigned tx, digit, put, pass, step, bank, letter, space, address[5], wrote[4], value[4], check,
        no_check, cr, lf, leave, report, report_march, first, done, jump, fresh, clear, told,
        pages_begin, pages_end, high_digit, row, bits, beat, mood;
} writer;

static inline void absolute(rom_code *c, unsigned opcode, uint32_t value)
{
    rom_byte(c, opcode);
    rom_word(c, value);
}

/* A near jump, and a short one. */
static inline void jump(rom_code *c, unsigned label)
{
    rom_byte(c, 0xE9);
    rom_word(c, (rom_of(c, label) - (rom_here(c) + 2u)) & 0xFFFFu);
}

static inline void branch(rom_code *c, unsigned opcode, unsigned label)
{
    rom_byte(c, opcode);
    rmg_testrom_near(c, label);
}

#define JMP 0xEBu
#define JZ  0x74u
#define JNZ 0x75u
#define JC  0x72u
#define JNC 0x73u

static inline void of(rom_code *c, unsigned label)
{
    rom_word(c, rom_of(c, label));
}

/* The low byte of the value, as two digits. */
static inline void low_value(writer *w)
{
    of(w->c, w->value[w->wide ? 2 : 0]);
    of(w->c, w->value[w->wide ? 3 : 1]);
}

static inline void check_and_end(writer *w)
{
    of(w->c, w->space);
    of(w->c, w->check);
    low_value(w);
    of(w->c, w->cr);
    of(w->c, w->lf);
}

static inline void whole_value(writer *w)
{
    for (unsigned i = 0; i < (w->wide ? 4u : 2u); i++)
        of(w->c, w->value[i]);
}

static inline void head(writer *w)
{
    const unsigned all[] = {w->no_check, w->pass, w->step, w->bank, w->letter, w->space};

    for (unsigned i = 0; i < sizeof all / sizeof *all; i++)
        of(w->c, all[i]);
}

/* i8086_pages.c: the routine for the pages of a ROM; and the script's entries for one, whose sums
 * stand at `sums`. */
unsigned rmg_testrom_8086_pages(writer *w);
void rmg_testrom_8086_rom(writer *w, unsigned routine, const rmg_testrom_step *step, unsigned sums);

/* i8086_screen.c: what shows rows; the script's entries for a step's; and bars before all, which
 * stay where they are not read back, else blanks. */
void rmg_testrom_8086_rows(writer *w);
void rmg_testrom_8086_show_row(writer *w, unsigned row, const rmg_testrom_step *step);
void rmg_testrom_8086_bars(rom_code *c);

#endif
