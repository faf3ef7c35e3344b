/* Inside the room: code while it is put together, and what the processors' files need. */
#ifndef RMG_TESTROM_CODE_H
#define RMG_TESTROM_CODE_H

#include "rimeglass/testrom.h"

#define CODE_LABELS 600u

/* Code is written twice: the first time finds the labels. */
typedef struct rom_code {
    const rmg_testrom_plan *plan;
    uint8_t *bytes; /* [room] */
    size_t room;
    size_t at;     /* bytes written, or that would have been */
    uint32_t org;  /* address of the first byte */
    bool big;      /* words: the high byte first */
    bool second;   /* labels are known */
    bool odd;      /* a branch does not reach, or the like: a flaw of this file's makers */
    unsigned next; /* free label */
    uint32_t labels[CODE_LABELS];
    const char *why; /* this processor cannot do it */
    double baud;
    uint32_t march_clocks;
} rom_code;

/* A new label, numbered alike both times. */
static inline unsigned rom_label(rom_code *c)
{
    if (c->next >= CODE_LABELS - 1u)
        c->odd = true;
    else
        c->next++;
    return c->next;
}

static inline uint32_t rom_here(const rom_code *c)
{
    return c->org + (uint32_t)c->at;
}

static inline void rom_set(rom_code *c, unsigned label)
{
    c->odd |= c->second && c->labels[label] != rom_here(c);
    c->labels[label] = rom_here(c);
}

static inline unsigned rom_mark(rom_code *c)
{
    const unsigned label = rom_label(c);

    rom_set(c, label);
    return label;
}

static inline uint32_t rom_of(const rom_code *c, unsigned label)
{
    return c->labels[label];
}

static inline void rom_byte(rom_code *c, unsigned value)
{
    if (c->at < c->room)
        c->bytes[c->at] = (uint8_t)value;
    c->at++;
}

static inline void rom_word(rom_code *c, uint32_t value)
{
    rom_byte(c, (c->big ? value >> 8 : value) & 0xFFu);
    rom_byte(c, (c->big ? value : value >> 8) & 0xFFu);
}

static inline void rom_long(rom_code *c, uint32_t value)
{
    rom_word(c, c->big ? value >> 16 : value & 0xFFFFu);
    rom_word(c, c->big ? value & 0xFFFFu : value >> 16);
}

/* Several bytes at once: of ROM(c, 0x7E, 0xB7). */
void rmg_testrom_put(rom_code *c, const uint8_t *bytes, size_t count);
#define ROM(c, ...)                                                                                \
    rmg_testrom_put(c, (const uint8_t[]){__VA_ARGS__}, sizeof((const uint8_t[]){__VA_ARGS__}))

/* The distance of a short branch, counted from the byte after it. */
void rmg_testrom_near(rom_code *c, unsigned label);

/* Clocks of a bit, the trim included; and the rate that so many clocks give. */
uint32_t rmg_testrom_bit_clocks(const rmg_testrom_plan *plan);
double rmg_testrom_rate(const rmg_testrom_plan *plan, double clocks);

/* Letters of a line. */
char rmg_testrom_kind_letter(rmg_testrom_kind kind); /* "D", "A", "X", "F", "M" */
char rmg_testrom_bank_letter(uint8_t bank);          /* "A" ... */
char rmg_testrom_read_letter(uint8_t read);          /* "a" ... "z", "0" ... "9" */

/* What is written to put an output on or off; another at the same address stays as it is while
 * nothing happens. */
uint16_t rmg_testrom_level(const rmg_testrom_plan *plan, const rmg_testrom_output *o, bool on);

/* Where a row of the screen begins; the code of a letter or digit there. */
static inline uint32_t rom_screen_row(const rmg_testrom_plan *plan, unsigned row)
{
    return plan->screen.at + row * plan->screen.columns;
}

static inline uint8_t rom_screen_letter(const rmg_testrom_plan *plan, char letter)
{
    return (uint8_t)(plan->screen.letters + (letter - 'A'));
}

/* The letter of the bank that a step's row shows: of the step across banks that of the last one. */
static inline char rom_bank_shown(const rmg_testrom_plan *plan, const rmg_testrom_step *s)
{
    return rmg_testrom_bank_letter(s->kind == RMG_TESTROM_ACROSS ? (uint8_t)(plan->bank_count - 1u)
                                                                 : s->bank);
}

/* Reads in an element; the highest line that the step of address lines takes. */
uint8_t rmg_testrom_reads(const uint8_t *element);
uint32_t rmg_testrom_highest_line(const rmg_range *range);

/* Does a bank lack bits of the word? Then the marches look at some bits only. */
bool rmg_testrom_masked(const rmg_testrom_plan *plan);

/* Does a step gather the bits that failed in it? */
static inline bool rom_gathers(rmg_testrom_kind kind)
{
    return kind != RMG_TESTROM_LINES && kind != RMG_TESTROM_ACROSS && kind != RMG_TESTROM_ROM;
}

static inline unsigned rom_pages(const rmg_testrom_step *step)
{
    return (unsigned)((step->range.last - step->range.first + 1u) >> 8);
}

/* Labels of the tables of sums, one a ROM, numbered on from the one that is returned; and the
 * tables themselves, of ROMs whose contents are known. */
unsigned rmg_testrom_sum_labels(rom_code *c);
void rmg_testrom_write_sums(rom_code *c, unsigned labels);

static inline unsigned rom_ops(const uint8_t *element)
{
    return *element & ~RMG_ORDER_MASK & 0xFFu;
}
static inline const uint8_t *rom_next_element(const uint8_t *element)
{
    return element + rom_ops(element) + 1u;
}

/* What processors that keep their data in memory tell before there is any: texts, in which codes
 * from TEXT_HIGH on stand for what is not known before. */
enum {
    TEXT_HIGH = 0x80, /* the value's high digit */
    TEXT_LOW,
    TEXT_COUNT, /* the value becomes the number of the bit that is 1, from 1 on; of several, 9 */
    TEXT_COUNT_ZEROS, /* ... of the bit that is 0 */
    TEXT_COUNT_DATA,  /* as the first; but of several, 11, and of all, 12 */
    TEXT_DIGIT,       /* the value as a digit */
    TEXT_GO_ON,       /* the end of the first line: test the memory */
    TEXT_DEAD,        /* the end of the others: it does not work */
    TEXT_DEAD_SHARED  /* ... nor does another bank */
};
typedef enum rom_text {
    ROM_TEXT_ZERO, /* a word that read otherwise than 0 */
    ROM_TEXT_ONES,
    ROM_TEXT_BITS,   /* bits that a walking one showed */
    ROM_TEXT_SHARED, /* ... and that another bank has too; rmg_testrom_code_shared says if needed */
    ROM_TEXT_START,
    ROM_TEXTS
} rom_text;
void rmg_testrom_stage_text(rom_code *c, rom_text which);

/* Writes all of the code; c->plan says what it does. */
void rmg_testrom_write_z80(rom_code *c);
void rmg_testrom_write_6502(rom_code *c);
void rmg_testrom_write_6809(rom_code *c);
void rmg_testrom_write_68000(rom_code *c);
void rmg_testrom_write_8086(rom_code *c);
void rmg_testrom_write_8080(rom_code *c); /* and 8085 */

#endif
