/* Memory parts: generic facts from data sheets, no makers. What each pin is, how a part is
 * supplied, organised and refreshed, and whether one part can stand where another stood.
 * docs/parts.md lists them. */
#ifndef RIMEGLASS_PART_H
#define RIMEGLASS_PART_H

#include "place.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What kind of memory. */
typedef enum rmg_part_kind {
    RMG_PART_DRAM,
    RMG_PART_SRAM,
    RMG_PART_ROM /* of any sort: read only in the board */
} rmg_part_kind;

/* What kind of ROM. */
typedef enum rmg_rom_sort {
    RMG_ROM_ANY, /* not told; and of what is no ROM */
    RMG_ROM_MASK,
    RMG_ROM_FUSED, /* a bipolar PROM */
    RMG_ROM_EPROM,
    RMG_ROM_EEPROM,
    RMG_ROM_FLASH
} rmg_rom_sort;

/* The housing, as far as it decides where a part fits. */
typedef enum rmg_package {
    RMG_PACKAGE_UNKNOWN,
    RMG_PACKAGE_DIP_300, /* two rows, 0.3 inch apart */
    RMG_PACKAGE_DIP_400,
    RMG_PACKAGE_DIP_600,
    RMG_PACKAGE_SOJ_400, /* two rows of legs bent inwards, 0.4 inch apart */
    RMG_PACKAGE_MODULE   /* one row of contacts along an edge */
} rmg_package;

/* A memory part by its data sheet. */
typedef struct rmg_part {
    const char *number;      /* the industry's generic number, for example "4116" */
    const char *pins;        /* pin names from pin 1, separated by spaces; "-" not connected */
    const char *supplies;    /* in words, with pins, for example "+5 V pin 9, 0 V pin 18" */
    rmg_part_kind kind;      /* of memory */
    uint8_t width;           /* data lines: 1 to 32 */
    uint8_t address_lines;   /* depth is 2 to this power */
    uint8_t row_lines;       /* of these, row lines of a DRAM; 0 otherwise */
    uint8_t column_from;     /* number in the name of the first column pin: 1 for A1 */
    uint16_t refresh_cycles; /* of a DRAM, in refresh_ms; else 0 */
    uint16_t refresh_ms;     /* in which all of them must be refreshed */
    /* What boards do not need. NULL and 0 where it is not told. */
    const char *times; /* typical: suffix and nanoseconds, "-2 150, -3 200"; "450" without suffix */
    const char *high;  /* selects that are active high, separated by spaces; the others are low */
    const char *masked; /* selects whose level the maker set with the contents */
    rmg_package package;
    rmg_rom_sort sort;
    const char *half_of; /* a part sold with one good half: the whole part's number */
    const char *tied;    /* and what chooses the half: "A7 at row time: -3 low, -4 high" */
    const char *about;   /* what one ought to know, one sentence */
    bool open;           /* outputs are open collectors: they need resistors to +5 V */
    bool inverted;       /* what is read is the complement of what was written */
} rmg_part;

/* The table, `rmg_part_count()` rows. */
const rmg_part *rmg_part_at(size_t index);
size_t rmg_part_count(void);

/* The part of that number in the table, or NULL. */
const rmg_part *rmg_part_find(const char *number);

/* The part of a marking, "4116-2": also *suffix, where it begins in `marking`, "" where there is
 * none. Letters for the process are left out ("27C256", "62C256", "41C64"), and temperature or
 * package letters behind the number ("27256A"). NULL: no such part. */
const rmg_part *rmg_part_marked(const char *marking, const char **suffix);

/* How many pins the part has; and the pin of a name, from 1, or 0 where there is none. */
uint8_t rmg_part_pin_count(const rmg_part *part);
uint8_t rmg_part_pin(const rmg_part *part, const char *name);

#define RMG_PIN_NAME 8u /* bytes of a pin's name, its end included */

/* The name of a pin, from 1; "-" where it is not connected or there is no such pin. */
void rmg_part_pin_name(const rmg_part *part, uint8_t pin, char name[RMG_PIN_NAME]);

/* The pins of data line `line` (from 0): in at *in, out at *out; the same pin on most parts. 0
 * where the pinout does not say. One-bit parts name them D and Q; four-bit ones DQ1..DQ4, or
 * D1..D4 and Q1..Q4; wider ones D0, D1 and so on. What is only read has Q for both. */
void rmg_part_data_pins(const rmg_part *part, uint8_t line, uint8_t *in, uint8_t *out);

/* The pin of address line `line` (from 0, row lines first), or 0. */
uint8_t rmg_part_address_pin(const rmg_part *part, uint8_t line);

/* What a pin is for. */
typedef enum rmg_pin_role {
    RMG_PIN_NONE, /* not connected */
    RMG_PIN_SUPPLY,
    RMG_PIN_ADDRESS,
    RMG_PIN_DATA,
    RMG_PIN_WRITE,   /* WE */
    RMG_PIN_OUTPUT,  /* OE: output enable */
    RMG_PIN_SELECT,  /* CE, CS, S, E ... */
    RMG_PIN_ROW,     /* RAS */
    RMG_PIN_COLUMN,  /* CAS */
    RMG_PIN_PROGRAM, /* VPP, PGM, BYTE: at +5 V when the part is read */
    RMG_PIN_OTHER
} rmg_pin_role;

/* What a pin does. *line: of address and data pins the number in the name; *high: of selects and
 * the like, whether they act when high; *millivolts: of a supply. Each may be NULL. */
rmg_pin_role rmg_part_role(const rmg_part *part, uint8_t pin, uint8_t *line, bool *high,
                           int *millivolts);

/* Does the maker set the level of this select? */
bool rmg_part_is_masked(const rmg_part *part, uint8_t pin);

/* Typical access time in nanoseconds of a suffix ("-2"); of "" the slowest of all; 0: not told. */
unsigned rmg_part_ns(const rmg_part *part, const char *suffix);

const char *rmg_package_text(rmg_package package); /* "0.3 inch"; "" where it is not known */
const char *rmg_rom_sort_text(rmg_rom_sort sort);  /* "EPROM"; "ROM" where it is not told */

/* Rules that a pinout keeps: no line twice, supplies there and as named, address and data lines
 * complete, an even number of pins. False, and what is wrong in `why`. */
#define RMG_PART_WHY 160u
bool rmg_part_check(const rmg_part *part, char why[RMG_PART_WHY]);

/* Against what the pinout was held, beside the rules: a drawing library's symbol of the same part,
 * by the name it has there; NULL: against nothing yet. */
const char *rmg_part_checked(const rmg_part *part);

/* Can one part stand where another stood? */

/* What a socket gives. 0: not told. */
typedef struct rmg_given {
    uint16_t refresh_cycles; /* rows that the board walks in refresh_ms */
    uint16_t refresh_ms;     /* the time of that walk */
    uint32_t within_ns;      /* access time that the board allows */
} rmg_given;

/* Whether a part fits. */
typedef enum rmg_fit {
    RMG_FITS,
    RMG_FITS_ADAPTED, /* with wires between socket and part */
    RMG_FITS_NOT
} rmg_fit;

/* What a pin of the new part needs, where it is not simply the socket's own. */
typedef enum rmg_wire_kind {
    RMG_WIRE_FROM, /* the socket's pin `from` */
    RMG_WIRE_LOW,  /* tied to 0 V */
    RMG_WIRE_HIGH, /* tied to +5 V */
    RMG_WIRE_ANY   /* tied to either: it chooses a half of the part */
} rmg_wire_kind;

/* A wire between socket and part. */
typedef struct rmg_wire {
    uint8_t pin;        /* of the new part */
    uint8_t from;       /* of the socket */
    rmg_wire_kind kind; /* where the pin goes */
} rmg_wire;

/* Why a part does not fit, or what is to be known. */
typedef enum rmg_fit_why {
    RMG_FIT_KIND,            /* another kind of memory */
    RMG_FIT_WIDTH,           /* other data lines: `there` of the part, `here` of the socket */
    RMG_FIT_DEPTH,           /* too few words: address lines */
    RMG_FIT_HALF,            /* half of the whole part, where the socket may need the other half */
    RMG_FIT_SUPPLY,          /* pin `pin` needs `there` mV, which the socket does not have */
    RMG_FIT_SIGNAL,          /* pin `pin` needs a signal that the socket does not have */
    RMG_FIT_MASKED,          /* pin `pin` is a select whose level the maker set */
    RMG_FIT_ROWS,            /* more rows to refresh than the board walks */
    RMG_FIT_PERIOD,          /* each row comes too seldom: ms, in microseconds a row */
    RMG_FIT_SLOW,            /* ns */
    RMG_FIT_REFRESH_UNKNOWN, /* rows: the part's, and those of the part that works there */
    RMG_FIT_SPEED_UNKNOWN,   /* `there` ns of the part, 0: not known; the board's is not told */
    RMG_FIT_LARGER,          /* only 1/2, 1/4 ... of the part is used: `there` lines more */
    RMG_FIT_HELD,            /* the socket holds pin `pin` at +5 V: the upper half is read */
    RMG_FIT_COLUMNS,  /* pin `pin` has no column line here: cells lie where it happens to be */
    RMG_FIT_WRITABLE, /* may be written: pin `pin` must stay high */
    RMG_FIT_UNUSED,   /* pin `here` of the socket selects, or enables the output, too */
    RMG_FIT_OPEN,     /* open collectors, where the socket's part drives both levels */
    RMG_FIT_INVERTED, /* one of both gives the complement */
    RMG_FIT_PACKAGE,  /* rows of another distance */
    RMG_FIT_UNCHECKED /* the pinout was held against nothing but the rules */
} rmg_fit_why;

/* One reason, with its numbers. */
typedef struct rmg_fit_reason {
    rmg_fit_why why; /* which */
    bool refuses;    /* for this it does not fit */
    uint8_t pin;     /* of the new part; 0: none */
    int there, here; /* of the new part, and of the socket; in the unit that `why` says */
} rmg_fit_reason;

#define RMG_FIT_MOST 48u /* wires, or reasons, at most */

/* Whether a part fits a socket, and why. */
typedef struct rmg_fitting {
    rmg_fit fit;                  /* the answer */
    rmg_wire wires[RMG_FIT_MOST]; /* pins that are not the socket's own */
    size_t wire_count;
    rmg_fit_reason reasons[RMG_FIT_MOST]; /* those that refuse first */
    size_t reason_count;
} rmg_fitting;

/* `here` is the part that the socket was made for. `suffix` is that of the new part. */
void rmg_part_fit(const rmg_part *here, const rmg_given *given, const rmg_part *there,
                  const char *suffix, rmg_fitting *fitting);

#ifdef __cplusplus
}
#endif

#endif
