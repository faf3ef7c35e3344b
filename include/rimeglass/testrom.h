/* A ROM for a dead board: what it is to do, in steps; the steps played on a bus; and the same steps
 * as the code of a processor that needs no RAM for it. Pure computation: no files, no heap. The
 * lines that the ROM tells are described in docs/test-rom.md. */
#ifndef RIMEGLASS_TESTROM_H
#define RIMEGLASS_TESTROM_H

#include "march.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Processors that a test ROM can be made for. */
typedef enum rmg_testrom_processor {
    RMG_TESTROM_Z80,
    RMG_TESTROM_6502,
    RMG_TESTROM_68000,
    RMG_TESTROM_8086, /* and 8088 */
    RMG_TESTROM_6809,
    RMG_TESTROM_8080,
    RMG_TESTROM_8085, /* its clocks differ */
    RMG_TESTROM_PROCESSORS
} rmg_testrom_processor;

/* An output of the board: a bit of what is written at one address. */
typedef struct rmg_testrom_output {
    bool fitted;     /* the board has it */
    bool port;       /* an I/O address, not one of memory */
    uint32_t at;     /* as the processor counts */
    uint16_t bit;    /* mask of the bit that counts */
    uint16_t others; /* the other bits, as they are to be written every time */
    bool inverted;   /* serial: a mark is written as 0; lamp: 0 lights it */
    uint16_t tone;   /* Hz of a loudspeaker, whose bit must change all the time; 0: a lamp */
} rmg_testrom_output;

/* A screen of text in memory: a row for each step. Codes are those of its character generator. */
typedef struct rmg_testrom_screen {
    bool fitted;              /* the board has it */
    uint32_t at;              /* of its first character, as the processor counts */
    uint8_t columns, rows;    /* of it; a row takes so many bytes as it has columns */
    uint8_t digits;           /* code of "0"; "1" follows it */
    uint8_t letters;          /* code of "A"; the others follow it */
    uint8_t blank, dot, mark; /* codes of a blank, of what is fine, and of what is not */
} rmg_testrom_screen;

#define RMG_TESTROM_SCREEN_COLUMNS                                                                 \
    4u /* of a row that are used, beside one for each bit of a word */

/* Something that is to be written once, before anything else. */
typedef struct rmg_testrom_write {
    bool port;      /* to an I/O address, not to memory */
    uint32_t at;    /* as the processor counts */
    uint16_t value; /* a byte, or a word of a 16-bit bus */
} rmg_testrom_write;

#define RMG_TESTROM_BANKS      6u   /* that are tested, at most */
#define RMG_TESTROM_WRITES     16u  /* made first, at most */
#define RMG_TESTROM_ROMS       6u   /* that are read, at most */
#define RMG_TESTROM_PAGES      256u /* of all of them, at most */
#define RMG_TESTROM_STEPS      (3u * RMG_TESTROM_BANKS + 2u + RMG_TESTROM_ROMS) /* at most */
#define RMG_TESTROM_LINE       48u /* bytes of a line's text, its end included */
#define RMG_TESTROM_DATA_BYTES 8u  /* of a ROM's contents, in a line */

/* Memory that is tested as one. Addresses are words of the port. */
typedef struct rmg_testrom_bank {
    rmg_range range; /* whole pages of 256 */
    rmg_word bits;   /* of the bus that it has */
} rmg_testrom_bank;

/* Sums over a page of 256 words of a ROM, each modulo the word: of its words, and of the first sum
 * as it stood after each of them (Fletcher, "An arithmetic checksum for serial transmissions", IEEE
 * Transactions on Communications 30, 1982, with the modulus a power of two). */
typedef struct rmg_testrom_sums {
    uint16_t words, sums; /* see above */
} rmg_testrom_sums;

#define RMG_TESTROM_READINGS 3u /* of a page of a ROM, in each pass */

/* A ROM that is read: another than the one that the test ROM is in. */
typedef struct rmg_testrom_rom {
    rmg_range range;     /* whole pages of 256 words */
    bool known;          /* what it should hold: its pages' sums stand in the plan */
    uint16_t first_page; /* of it, in the plan's sums */
} rmg_testrom_rom;

/* What a step does. */
typedef enum rmg_testrom_kind {
    RMG_TESTROM_DATA,   /* a one and a zero walk through the bank's first word */
    RMG_TESTROM_LINES,  /* its first word, and those that differ from it in one address line */
    RMG_TESTROM_ACROSS, /* the first words of all banks: do two answer together? */
    RMG_TESTROM_FIRST,  /* the march over the first memory */
    RMG_TESTROM_MARCH,  /* the march over the bank */
    RMG_TESTROM_ROM,    /* the pages of a ROM: their sums, and what those hold that differ */
    RMG_TESTROM_KINDS
} rmg_testrom_kind;

/* A step of a test ROM. */
typedef struct rmg_testrom_step {
    rmg_testrom_kind kind; /* what it does */
    uint8_t bank;          /* of the plan's list; of RMG_TESTROM_ACROSS 0; of RMG_TESTROM_ROM the
                              number of the ROM */
    rmg_range range;       /* the words it tests */
} rmg_testrom_step;

#define RMG_TESTROM_PASSES 8u  /* the digit of a pass counts up to 7 */
#define RMG_TESTROM_TOLD   31u /* lines of a step, at most */

/* All that the ROM is to do. */
typedef struct rmg_testrom_plan {
    rmg_testrom_processor processor; /* that runs it */
    uint32_t clock_hz;               /* of the processor */
    uint32_t origin;                 /* where the processor sees the image's first byte */
    uint32_t size;                   /* bytes of the image */
    bool loaded;                     /* it lies in RAM, which it does not test there */
    bool called;                     /* another ROM starts it at its origin: a reset need not */
    uint16_t id;                     /* told in every pass */
    uint8_t word_bits;               /* 8 or 16 */
    uint8_t byte_shift;              /* the processor's address is the word's times 2^this */
    uint8_t digits;                  /* of an address in a line */
    rmg_testrom_write writes[RMG_TESTROM_WRITES]; /* [write_count], made first */
    uint8_t write_count;                          /* 0..RMG_TESTROM_WRITES */
    rmg_testrom_output serial, lamp;              /* where lines go, and what blinks or beeps */
    rmg_testrom_screen screen; /* rows for the steps, and the last one for the pass */
    uint32_t baud;             /* of the lines */
    int32_t trim_ppm;          /* the clock runs so much faster than its name says */
    rmg_testrom_bank banks[RMG_TESTROM_BANKS]; /* [bank_count] */
    uint8_t bank_count;                        /* 1..RMG_TESTROM_BANKS */
    rmg_range home; /* of a processor that keeps its data in memory: where, the bank's first words;
                       else first > last */
    uint8_t home_bank;                         /* that holds them */
    rmg_testrom_rom roms[RMG_TESTROM_ROMS];    /* [rom_count] */
    uint8_t rom_count;                         /* 0..RMG_TESTROM_ROMS */
    rmg_testrom_sums sums[RMG_TESTROM_PAGES];  /* of pages whose contents are known */
    rmg_testrom_step steps[RMG_TESTROM_STEPS]; /* [step_count], in order */
    uint8_t step_count;                        /* 1..RMG_TESTROM_STEPS */
    uint8_t march[RMG_MARCH_BYTES];            /* compiled */
    uint32_t hold_ms;                          /* of its holds */
    uint8_t lines;       /* failures reported a step, at most; 1..RMG_TESTROM_TOLD */
    uint32_t stop_after; /* passes, 1..7, then `then`; 0: for ever */
    uint32_t then;       /* where the processor goes then */
} rmg_testrom_plan;

/* What a processor is, as far as the plan and the report need it. */
typedef struct rmg_testrom_row {
    const char *name;    /* "Z80" */
    uint8_t word_bits;   /* 0: 8 or 16 */
    uint8_t digits;      /* of its addresses */
    uint16_t home_words; /* it goes on only when so many words of first memory work, and keeps its
                            data there; 0: it keeps none */
    bool home_anywhere;  /* ... in any bank; else at address 0 */
    bool has_ports;      /* I/O addresses of their own */
    uint32_t residue[2]; /* what the bus carried before a read: in a march, in other steps */
    uint32_t vectors;    /* bytes at the image's end that the processor wants there */
    uint32_t reset;      /* address of its first instruction or vector */
    uint32_t front;      /* bytes before the first instruction: vectors */
    bool refreshes;      /* rows of DRAM, where the board uses that */
} rmg_testrom_row;

#define RMG_TESTROM_HIGH_BYTE  0x10000u /* of the address that is read */
#define RMG_TESTROM_NO_RESIDUE 0x20000u /* not known: it fetches ahead */

/* A row for each processor. */
extern const rmg_testrom_row rmg_testrom_rows[RMG_TESTROM_PROCESSORS];

/* A march by name or in notation, compiled; false: it is neither, *error (may be NULL) says where
 * it goes wrong as notation. */
bool rmg_testrom_march(const char *text, uint8_t code[RMG_MARCH_BYTES], rmg_march_error *error);

/* The march of the steps LINES and ACROSS: any(w0); up(r0,w1); up(r1,w0). */
extern const uint8_t rmg_testrom_short_march[];

/* What a line says. */
typedef enum rmg_testrom_says {
    RMG_TESTROM_SAYS_START,    /* a pass begins */
    RMG_TESTROM_SAYS_SUM,      /* the image's own sum is wrong */
    RMG_TESTROM_SAYS_FAILED,   /* a word read wrong */
    RMG_TESTROM_SAYS_DONE,     /* a step ended, all failures told */
    RMG_TESTROM_SAYS_MORE,     /* ... with more failures than are reported */
    RMG_TESTROM_SAYS_SKIPPED,  /* a step could not be done */
    RMG_TESTROM_SAYS_PAGE,     /* sums of a ROM's page that are not the known ones */
    RMG_TESTROM_SAYS_CONTENTS, /* what a ROM holds at an address */
    RMG_TESTROM_SAYS_END       /* the pass ended */
} rmg_testrom_says;

/* A line that a test ROM tells. */
typedef struct rmg_testrom_line {
    rmg_testrom_says says;   /* which fields count */
    rmg_testrom_kind kind;   /* of the step */
    uint8_t pass;            /* 0..7, and again from 0 */
    uint8_t bank;            /* of the plan; of a ROM its number */
    uint8_t read;            /* of the step's march, from 0; of DATA 0: a one walks, 1: a zero; of
                                PAGE the reading, from 0 */
    bool at;                 /* its address is reported */
    rmg_addr address;        /* of the failing word; see `at`; of a ROM's page or contents */
    rmg_word wrote, read_as; /* of FAILED; of PAGE its two sums */
    uint8_t data[RMG_TESTROM_DATA_BYTES]; /* of CONTENTS: words, the high byte of each first */
    rmg_word bits;                        /* of DONE and MORE: all bits that failed in the step */
    uint8_t code;   /* the first finding, as it is blinked; 0: none; not in the text of FAILED */
    bool unchecked; /* no register was left to keep a check in */
} rmg_testrom_line;

/* The first finding: bank (from 1) times 32, and the lowest bit (from 1), or of an address step
 * word_bits + 1, of the step across banks word_bits + 2. Before a processor that keeps its data in
 * memory has any: several bits of the first word RMG_TESTROM_CODE_SEVERAL, all
 * RMG_TESTROM_CODE_ALL; several bits of another word word_bits + 1; where another bank fails alike,
 * the bank is rmg_testrom_code_shared. Bank 7: the image's own sum, or a ROM, counted from 2.
 */
#define RMG_TESTROM_CODE_BANK(code)         ((code) >> 5)
#define RMG_TESTROM_CODE_BIT(code)          ((code)&31u)
#define RMG_TESTROM_CODE_SEVERAL(word_bits) ((word_bits) + 3u)
#define RMG_TESTROM_CODE_ALL(word_bits)     ((word_bits) + 4u)
#define RMG_TESTROM_NOT_RAM                 7u /* as a bank: see above */
#define RMG_TESTROM_CODE_SUM                (RMG_TESTROM_NOT_RAM << 5 | 1u)
#define RMG_TESTROM_CODE_ROM(n)             (RMG_TESTROM_NOT_RAM << 5 | ((n) + 2u))

/* What stands for the bank that the ROM keeps its data in and for another, which fail alike; 0:
 * this ROM does not tell. */
unsigned rmg_testrom_code_shared(const rmg_testrom_plan *plan);

/* The word that it looks at in that other bank. */
rmg_addr rmg_testrom_other_word(const rmg_testrom_plan *plan);

/* The highest number that stands for what is wrong in a bank, counted from 0. */
unsigned rmg_testrom_code_last(const rmg_testrom_plan *plan, uint8_t bank);

/* Writes a line's text, without its end, into text[0..RMG_TESTROM_LINE-1]. Returns text. */
char *rmg_testrom_line_text(const rmg_testrom_plan *plan, const rmg_testrom_line *line, char *text);

/* The same back: true and the line; or false, and in *why constant text that says what is wrong. */
bool rmg_testrom_line_read(const rmg_testrom_plan *plan, const char *text, rmg_testrom_line *line,
                           const char **why);

/* Who hears the lines while the steps are played. */
typedef struct rmg_testrom_listener {
    void *context;                                             /* first argument of its functions */
    bool (*line)(void *context, const rmg_testrom_line *line); /* false: enough */
    /* the bus carries `value` now: a processor fetched it; or NULL */
    void (*carries)(void *context, rmg_word value);
    /* does the block of RMG_TESTROM_BLOCK words that holds this one pass for sure, so that it need
     * not be played? or NULL */
    bool (*passes)(void *context, rmg_addr address);
} rmg_testrom_listener;

#define RMG_TESTROM_BLOCK 16u /* words of a block, of which is asked whether it passes */

/* Takes a word into the sums of its page, which begin at zeros. */
void rmg_testrom_add_word(const rmg_testrom_plan *plan, rmg_testrom_sums *sums, rmg_word word);

/* Plays so many passes of the plan on a bus: what the ROM would tell of it. RMG_OK,
 * RMG_ERR_CANCELLED where the listener had enough, or what the port answered. */
rmg_status rmg_testrom_play(const rmg_testrom_plan *plan, const rmg_target *target,
                            const rmg_testrom_listener *listener, unsigned passes);

/* An image while it is made, and what came of it. */
typedef struct rmg_testrom_image {
    uint8_t *bytes;        /* [room], the caller's */
    size_t room;           /* bytes */
    size_t used;           /* code and tables; what lies beyond is 0xFF, but for vectors */
    double baud;           /* as it comes out */
    uint32_t march_clocks; /* of a word in the march, all elements together */
    const char *why;       /* why it cannot be made; constant text */
} rmg_testrom_image;

/* Makes the image of plan->size bytes. RMG_OK; or RMG_ERR_ROOM: it does not fit, image->used says
 * how large it is; RMG_ERR_RANGE: this processor cannot do it, image->why says what. */
rmg_status rmg_testrom_make(const rmg_testrom_plan *plan, rmg_testrom_image *image);

#ifdef __cplusplus
}
#endif
#endif
