/* Inside the room: what the files of the 68000 share. See m68000.c for its registers. */
#ifndef RMG_TESTROM_M68000_H
#define RMG_TESTROM_M68000_H

#include "code.h"

typedef struct writer {
    rom_code *c;
    unsigned dispatch, tx, digit, put, pass, step, bank, letter, space, address[6], wrote[4],
        value[4], check, no_check, cr, lf, leave, report, first, done, fresh, mask, told;
} writer;

static inline void words(rom_code *c, const uint16_t *list, size_t count)
{
    for (size_t i = 0; i < count; i++)
        rom_word(c, list[i]);
}
#define W(c, ...)                                                                                  \
    words(c, (const uint16_t[]){__VA_ARGS__}, sizeof((const uint16_t[]){__VA_ARGS__}) / 2u)

/* An instruction with a distance of 16 bits, from the word behind it. */
static inline void far_to(rom_code *c, unsigned opcode, unsigned label)
{
    rom_word(c, opcode);
    rom_word(c, (rom_of(c, label) - rom_here(c)) & 0xFFFFu);
}

static inline void near_to(rom_code *c, unsigned opcode, unsigned label)
{
    rom_byte(c, opcode);
    rmg_testrom_near(c, label);
}

#define BRA    0x6000u
#define BNE    0x6600u
#define BNE_S  0x66u
#define BEQ_S  0x67u
#define BCC_S  0x64u
#define BCS_S  0x65u
#define BRA_S  0x60u
#define LEA_A2 0x45FAu
#define LEA_A4 0x49FAu
#define LEA_A5 0x4BFAu
#define LEA_A6 0x4DFAu
#define NEXT   0x4ED5u /* jmp (a5) */

static inline void of(rom_code *c, unsigned label)
{
    rom_word(c, (rom_of(c, label) - c->org) & 0xFFFFu);
}

static inline void low_value(writer *w)
{
    of(w->c, w->value[2]);
    of(w->c, w->value[3]);
}

static inline void check_and_end(writer *w)
{
    of(w->c, w->space);
    of(w->c, w->check);
    low_value(w);
    of(w->c, w->cr);
    of(w->c, w->lf);
}

static inline void all_of(writer *w, const unsigned *labels, unsigned count)
{
    for (unsigned i = 0; i < count; i++)
        of(w->c, labels[i]);
}

static inline void head(writer *w)
{
    const unsigned all[] = {w->no_check, w->pass, w->step, w->bank, w->letter, w->space};

    all_of(w, all, 6);
}

static inline void letters(writer *w, rmg_testrom_kind kind, uint8_t bank)
{
    rom_byte(w->c, (uint8_t)rmg_testrom_kind_letter(kind));
    rom_byte(w->c, (uint8_t)rmg_testrom_bank_letter(bank));
}

/* m68000_pages.c: the routine for the pages of a ROM; and the script's entry for one, whose sums
 * stand at `sums`. */
unsigned rmg_testrom_68000_pages(writer *w);
void rmg_testrom_68000_rom(writer *w, unsigned routine, const rmg_testrom_step *step,
                           unsigned sums);

#endif
