/* Inside the room: what the files of the 8080 and 8085 share. */
#ifndef RMG_TESTROM_I8080_H
#define RMG_TESTROM_I8080_H

#include "code.h"

/* Bytes that are kept in the page of memory that is tested first. Address lines are tested at its
 * first byte and at powers of two behind that: all stand above. The stack grows below them. */
enum {
    CHECK = 0xD8,
    PASS,
    LEFT,
    FAILED,
    CODE,
    LETTER,
    WROTE,
    DIFFERS,
    AT, /* and the byte behind it, as all words */
    LINE = AT + 2,
    ELEMENT = LINE + 2,
    ACROSS_BAD,
    HOME_BAD,                          /* address lines of the bank that holds this page */
    GOOD,                              /* a byte a bank: bits that the data step passed */
    RECORD = GOOD + RMG_TESTROM_BANKS, /* of the step */
    STEP = RECORD,
    BANK,
    MASK,
    FIRST,
    END = FIRST + 2, /* the word behind the range; of an address step the highest line */
    RECORD_END = END + 2,
    PAGE_DIFFERS = RECORD_END, /* of a ROM */
    ANY_DIFFERS,
    KEPT_END
};
_Static_assert((unsigned)KEPT_END <= 0x100u, "the page has room");

#define RECORD_BYTES ((unsigned)RECORD_END - (unsigned)RECORD)

typedef struct writer {
    rom_code *c;
    unsigned bare_next, bare_send, dead_shared, texts[ROM_TEXTS], tx, digits, space, head,
        begin_line, end_line, line, tell, report_0, report_1, report, one, load, done, first, dead,
        stage_2, records, pages, sums, row;
} writer;

#define JMP    0xC3u
#define JNZ    0xC2u
#define JZ     0xCAu
#define JNC    0xD2u
#define JC     0xDAu
#define JM     0xFAu
#define CALL   0xCDu
#define CNZ    0xC4u
#define RET    0xC9u
#define LDA    0x3Au
#define STA    0x32u
#define LHLD   0x2Au
#define SHLD   0x22u
#define LXI_B  0x01u
#define LXI_D  0x11u
#define LXI_H  0x21u
#define LXI_SP 0x31u

/* An operation with a word, and with a label. */
static inline void absolute(rom_code *c, unsigned opcode, uint32_t value)
{
    rom_byte(c, opcode);
    rom_word(c, value & 0xFFFFu);
}

static inline void to(rom_code *c, unsigned opcode, unsigned label)
{
    absolute(c, opcode, rom_of(c, label));
}

/* ... with one of the bytes that are kept. */
static inline void kept(rom_code *c, unsigned opcode, unsigned which)
{
    absolute(c, opcode, (uint32_t)c->plan->home.first + which);
}

/* i8080_pages.c: the routine for the pages of a ROM. */
void rmg_testrom_8080_pages(writer *w);

/* i8080_screen.c: the routine for a step's row, and its call; the digit of the pass; was anything
 * found? Before all: bars, which stay where they are not read back, else blanks. */
void rmg_testrom_8080_row(writer *w);
void rmg_testrom_8080_show_row(writer *w, unsigned row);
void rmg_testrom_8080_beat(rom_code *c);
void rmg_testrom_8080_mood(rom_code *c);
void rmg_testrom_8080_bars(rom_code *c);

#endif
