/* Places: which chip in which socket, on which pins, holds (address, bit).
 *
 * A placement is a list of rules, and one form of rule serves every layout: where a condition on
 * the address holds, these bus data bits belong to these data lines of the chip in socket S, and
 * each address line of the chip is fed by that address bit of the bus. A DRAM's address lines are
 * its row lines and then its column lines, as they arrive at the pins. */
#ifndef RIMEGLASS_PLACE_H
#define RIMEGLASS_PLACE_H

#include "types.h"

#ifdef __cplusplus
extern "C" {
#endif

#define RMG_PLACE_RULES 128u /* most rules, and so most chips, of a board described whole */
#define RMG_PLACE_LINES 32u  /* most address lines of one of its chips */

/* What is read from a data line that nothing drives. */
typedef enum rmg_undriven {
    RMG_UNDRIVEN_HIGH, /* pulled up */
    RMG_UNDRIVEN_LOW,  /* pulled down */
    RMG_UNDRIVEN_HOLDS /* the value last on the bus */
} rmg_undriven;

#define RMG_FEED_0 0xFEu /* an address line of the chip that is tied low */
#define RMG_FEED_1 0xFFu /* ... tied high */

/* One rule. The lists are the caller's and must outlive the placement. */
typedef struct rmg_rule {
    rmg_where where;             /* addresses of the bus that it holds for */
    const uint8_t *data_bits;    /* [width]: bus data bit on the chip's data line i */
    const uint8_t *in_pins;      /* [width]: pin the chip takes that bit in at; NULL if unknown */
    const uint8_t *out_pins;     /* [width]: pin it gives it out at; NULL if unknown */
    const uint8_t *address_bits; /* [address_lines]: bus address bit, RMG_FEED_0 or RMG_FEED_1 */
    const uint8_t *address_pins; /* [address_lines]: pins; two lines of a DRAM share one; or NULL */
    uint16_t socket;             /* number of the socket */
    uint8_t bank;                /* number of the bank, or RMG_NO_BANK */
    uint8_t width;               /* 1..RMG_WORD_BITS */
    uint8_t address_lines;       /* 0..RMG_ADDR_BITS */
} rmg_rule;

/* Rules that say which chip holds which bit of which word. */
typedef struct rmg_placement {
    const rmg_rule *rules; /* [rule_count] */
    uint16_t rule_count;
} rmg_placement;

/* Where one bit of one word lives. */
typedef struct rmg_place {
    rmg_addr cell;     /* address inside the chip: bit i is the chip's address line i */
    uint16_t rule;     /* the rule that says so */
    uint16_t socket;   /* number of the socket */
    uint8_t bank;      /* number of the bank, or RMG_NO_BANK */
    uint8_t data_line; /* of the chip, from 0 */
    uint8_t in_pin;    /* 0: unknown */
    uint8_t out_pin;   /* 0: unknown */
} rmg_place;

#define rmg_place_find   RMG_ABI(rmg_place_find)
#define rmg_rule_cell    RMG_ABI(rmg_rule_cell)
#define rmg_rule_address RMG_ABI(rmg_rule_address)

/* Finds the place of data bit `bit` (0 is D0) at `address`. false: no rule holds it, and *place is
 * untouched. Where several rules do, the first is given. */
bool rmg_place_find(const rmg_placement *placement, rmg_addr address, uint8_t bit,
                    rmg_place *place);

/* The address inside the rule's chip for a bus address. */
rmg_addr rmg_rule_cell(const rmg_rule *rule, rmg_addr address);

/* The way back: the lowest bus address of the rule that reaches this address inside its chip. Where
 * a line of the chip is fed a constant, or by no address line of the range, there may be none; then
 * rmg_rule_cell of the result is another one, or the result lies outside the rule. */
rmg_addr rmg_rule_address(const rmg_rule *rule, rmg_addr cell);

/* Ones at the bus data bits the rule's chip holds. */
rmg_word rmg_rule_bits(const rmg_rule *rule);

/* The highest of them, 0 to 63. */
unsigned rmg_rule_high_bit(const rmg_rule *rule);

#ifdef __cplusplus
}
#endif
#endif
