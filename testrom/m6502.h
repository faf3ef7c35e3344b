/* Inside the room: what the files of the 6502 share. */
#ifndef RMG_TESTROM_M6502_H
#define RMG_TESTROM_M6502_H

#include "code.h"

/* Zero page. Address lines are tested at 0 and at powers of two: all stand above. */
enum {
    CHECK = 0xE0,
    PASS,
    LEFT,
    FAILED,
    CODE,
    LETTER,
    WROTE,
    VALUE,
    DIFFERS,
    AT, /* and the byte behind it */
    AT_HIGH,
    LINE,
    LINE_HIGH,
    SHIFT,
    ELEMENT,
    SAVED,
    ADDRESS,
    ACROSS_BAD,
    HOME_BAD,                          /* address lines of the bank that holds zero page */
    GOOD,                              /* a byte a bank: bits that the data step passed */
    RECORD = GOOD + RMG_TESTROM_BANKS, /* of the step */
    STEP = RECORD,
    BANK,
    MASK,
    FIRST_PAGE, /* of the range */
    BEFORE_PAGE,
    END_PAGE,
    RECORD_END
};
_Static_assert((unsigned)RECORD_END <= 0x100u, "zero page has room");

#define RECORD_BYTES ((unsigned)RECORD_END - (unsigned)RECORD)

typedef struct writer {
    rom_code *c;
    unsigned bare_next, bare_send, texts, tx, digits, space, crlf, report_0, report_1, report, one,
        load, begin_line, end_line, first, dead, stage_2, records, row, head, tell, march_end,
        pages, sums;
    unsigned bare_texts[ROM_TEXTS]; /* offsets in the texts */
} writer;

static inline void absolute(rom_code *c, unsigned opcode, uint32_t at)
{
    rom_byte(c, opcode);
    rom_word(c, at);
}

static inline void to(rom_code *c, unsigned opcode, unsigned label)
{
    absolute(c, opcode, rom_of(c, label));
}

static inline void branch(rom_code *c, unsigned opcode, unsigned label)
{
    rom_byte(c, opcode);
    rmg_testrom_near(c, label);
}

/* The bank that holds zero page. */
static inline uint8_t home(const rmg_testrom_plan *plan)
{
    for (uint8_t i = 0; i < plan->bank_count; i++)
        if (!plan->banks[i].range.first)
            return i;
    return 0;
}

static inline char home_letter(const rmg_testrom_plan *plan)
{
    return rmg_testrom_bank_letter(home(plan));
}

#define JSR 0x20u
#define JMP 0x4Cu
#define BNE 0xD0u
#define BEQ 0xF0u
#define BCC 0x90u
#define BCS 0xB0u
#define BMI 0x30u
#define BPL 0x10u

/* m6502_pages.c: the routine for the pages of a ROM; and its record. */
void rmg_testrom_6502_pages(writer *w);
void rmg_testrom_6502_rom(writer *w, const rmg_testrom_step *step);

#endif
