/* Standard memory parts: generic facts from data sheets, no makers. */
#ifndef RIMEGLASS_PART_H
#define RIMEGLASS_PART_H

#include "types.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef enum rmg_part_kind {
    RMG_PART_DRAM,
    RMG_PART_SRAM,
    RMG_PART_ROM /* ROM, PROM or EPROM: read only in the board */
} rmg_part_kind;

typedef struct rmg_part {
    const char *number;   /* the industry's generic number, for example "4116" */
    const char *pins;     /* pin names from pin 1, parted by spaces; "-" not connected */
    const char *supplies; /* in words, with pins, for example "+5 V pin 9, 0 V pin 18" */
    rmg_part_kind kind;
    uint8_t width;           /* data lines: 1, 4, 8, 16 or 32 */
    uint8_t address_lines;   /* depth is 2 to this power */
    uint8_t row_lines;       /* of these, row lines of a DRAM; 0 otherwise */
    uint8_t column_from;     /* number in the name of the first column pin: 1 for A1 */
    uint16_t refresh_cycles; /* of a DRAM, in refresh_ms; else 0 */
    uint16_t refresh_ms;
} rmg_part;

/* The table, `rmg_part_count()` rows. */
const rmg_part *rmg_part_at(size_t index);
size_t rmg_part_count(void);

/* The part of that number in the table, or NULL. */
const rmg_part *rmg_part_find(const char *number);

/* How many pins the part has; and the pin of a name, from 1, or 0 where there is none. */
uint8_t rmg_part_pin_count(const rmg_part *part);
uint8_t rmg_part_pin(const rmg_part *part, const char *name);

/* The pins of data line `line` (from 0): in at *in, out at *out; the same pin on most parts. 0
 * where the pinout does not tell. One-bit parts name them D and Q, four-bit ones DQ1..DQ4, wider
 * ones D0, D1 and so on. */
void rmg_part_data_pins(const rmg_part *part, uint8_t line, uint8_t *in, uint8_t *out);

/* The pin of address line `line` (from 0, row lines first), or 0. */
uint8_t rmg_part_address_pin(const rmg_part *part, uint8_t line);

#ifdef __cplusplus
}
#endif
#endif
