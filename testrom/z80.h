/* Inside the room: what the files of the Z80 share. See z80.c for its registers. */
#ifndef RMG_TESTROM_Z80_H
#define RMG_TESTROM_Z80_H

#include "code.h"

typedef struct routines {
    unsigned tx, hi, put, pass, step, bank, letter, space, address[4], wrote[2], value[2], check,
        no_check, cr, lf, leave, jump, first, report, resume, done, fresh, told;
} routines;

typedef struct writer {
    rom_code *c;
    routines r;
} writer;

static inline void jump_to(rom_code *c, unsigned opcode, unsigned label)
{
    rom_byte(c, opcode);
    rom_word(c, rom_of(c, label));
}

static inline void branch_to(rom_code *c, unsigned opcode, unsigned label)
{
    rom_byte(c, opcode);
    rmg_testrom_near(c, label);
}

#define JP    0xC3u
#define JP_NZ 0xC2u
#define JP_Z  0xCAu
#define JP_PE 0xEAu
#define JR    0x18u
#define JR_NZ 0x20u
#define JR_Z  0x28u
#define JR_NC 0x30u
#define DJNZ  0x10u
#define LD_SP 0x31u
#define LD_HL 0x21u

/* A routine's address in a script, and an operand. */
static inline void of(rom_code *c, unsigned label)
{
    rom_word(c, rom_of(c, label));
}

static inline void operand(rom_code *c, uint32_t value)
{
    rom_word(c, value);
}

static inline void all_of(rom_code *c, const unsigned *labels, unsigned count)
{
    for (unsigned i = 0; i < count; i++)
        of(c, labels[i]);
}

/* The end of every line. */
static inline void check_and_end(writer *w)
{
    const routines *r = &w->r;
    const unsigned all[] = {r->space, r->check, r->value[0], r->value[1], r->cr, r->lf};

    all_of(w->c, all, 6);
}

/* The letters of a step, as an operand. */
static inline uint32_t letters(rmg_testrom_kind kind, uint8_t bank)
{
    return (uint32_t)(uint8_t)rmg_testrom_kind_letter(kind) |
           (uint32_t)(uint8_t)rmg_testrom_bank_letter(bank) << 8;
}

/* z80_pages.c: the routine for the pages of a ROM; and the script's entry for one, whose sums stand
 * at `sums`. */
unsigned rmg_testrom_z80_pages(writer *w);
void rmg_testrom_z80_rom(writer *w, unsigned routine, const rmg_testrom_step *step, unsigned sums);

#endif
