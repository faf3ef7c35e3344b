/* Data lines and address lines, checked before any cell: a broken line looks like a hundred broken
 * chips. The number of accesses does not depend on the size of the memory. */
#ifndef RIMEGLASS_WIRING_H
#define RIMEGLASS_WIRING_H

#include "bus.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What the lines of one range do. A data bit stands in at most one of the four masks; a bit in
 * none of them is sound as far as these accesses show. */
typedef struct rmg_wiring {
    rmg_word low;      /* reads 0 whatever was written */
    rmg_word high;     /* reads 1 whatever was written */
    rmg_word opposite; /* reads what was driven last, at another address: nothing drives it */
    rmg_word unsteady; /* wrong at both ends of the range, in no such order */
    rmg_addr lines;    /* address lines that vary within the range and were checked */
    rmg_word ignored[RMG_ADDR_BITS]; /* data bits for which line k changes nothing: A and A^2^k
                                        are one cell; only bits whose data line is sound */
    uint16_t accesses;               /* made by this check */
} rmg_wiring;

#define rmg_wiring_check    RMG_ABI(rmg_wiring_check)
#define rmg_where_block_end RMG_ABI(rmg_where_block_end)

/* The highest address of the largest block of a round size that begins at where->first: there all
 * lines that vary in the block are at 1. */
rmg_addr rmg_where_block_end(const rmg_where *where);

/* Checks the data lines and then the address lines among the addresses of `where`, which must lie
 * in one bank; both its ends must meet its condition and be three or more apart (RMG_ERR_RANGE
 * otherwise). Address lines of the condition are not checked. It destroys the words it uses: both
 * ends, and those that differ from them in one address line.
 *
 * Data: each pattern is written, its complement is driven at the other end of the range, and it is
 * read back, so that an empty socket, whose lines keep the last value for a while, does not pass.
 * A bit counts only if it is wrong at both ends: one bad cell is not a bad line.
 * Address: a value is written at A and its complement at A ^ 2^k; if A then reads the complement,
 * in both polarities and at two places A, line k is not decoded for that bit.
 *
 * On an error of the port the result holds what was found; that status is returned. */
rmg_status rmg_wiring_check(const rmg_target *target, const rmg_where *where, rmg_wiring *wiring);

/* What is behind data bits that are not sound: memory that is never written, and lines that touch.
 * A separate call, so that small targets link without it. */
typedef struct rmg_data_detail {
    rmg_word fixed; /* bits that no write changes, and that differ from address to address: they
                       hold something, but what is written does not arrive */
    rmg_word stale; /* bits that read what the read before should have given */
    rmg_word low_with[RMG_WORD_BITS];  /* [i]: bits j such that i reads 0 when j alone is 0 */
    rmg_word high_with[RMG_WORD_BITS]; /* [i]: bits j such that i reads 1 when j alone is 1 */
    uint16_t accesses;                 /* made by this call */
} rmg_data_detail;

#define rmg_wiring_data_detail RMG_ABI(rmg_wiring_data_detail)

/* Looks closer at the bits of `wiring` that are not sound, within the same `where`; does nothing
 * when all are. 22 accesses, and up to 12 more an address line and 12 a data bit. Same errors as
 * rmg_wiring_check. */
rmg_status rmg_wiring_data_detail(const rmg_target *target, const rmg_where *where,
                                  const rmg_wiring *wiring, rmg_data_detail *detail);

#define RMG_LINE_PAIRS 8u /* that touch, at most */

/* Two address lines that touch, for some data bits: both take 0 (or 1) when one of them does. */
typedef struct rmg_line_pair {
    uint8_t a, b;   /* a < b */
    bool high_wins; /* both take 1; else 0 */
    rmg_word bits;  /* data bits for which they do */
} rmg_line_pair;

/* What is behind address lines that are ignored: lines that touch. */
typedef struct rmg_address_detail {
    rmg_line_pair pairs[RMG_LINE_PAIRS]; /* [pair_count] */
    uint8_t pair_count;                  /* 0..RMG_LINE_PAIRS */
    uint16_t accesses;                   /* made by this call */
} rmg_address_detail;

#define rmg_wiring_address_detail RMG_ABI(rmg_wiring_address_detail)

/* Looks for address lines that touch: lines that do nothing while another is at one level. Up to 18
 * accesses a line, 24 a pair of lines that are suspect by it, and 18 a line for each dead one. Same
 * errors. */
rmg_status rmg_wiring_address_detail(const rmg_target *target, const rmg_where *where,
                                     const rmg_wiring *wiring, rmg_address_detail *detail);

/* What two banks have to do with each other, in the data bits both have sound. */
typedef struct rmg_bank_pair {
    rmg_word same;      /* both addresses reach the same cells */
    rmg_word a_answers; /* bank a answers too where b is addressed */
    rmg_word b_answers; /* bank b answers too where a is addressed */
    rmg_word a_dragged; /* bank a follows what bank b holds: b's chip is always on */
    rmg_word b_dragged; /* the other way round */
    rmg_word high_wins; /* of all these: where both drive a line, a 1 wins; else a 0 */
    uint16_t accesses;  /* made by this call */
} rmg_bank_pair;

#define rmg_wiring_bank_pair RMG_ABI(rmg_wiring_bank_pair)

/* Checks two banks against each other at one address in each, `bits` only. 24 accesses; it destroys
 * the two words. Where two banks drive one line at different levels, either level may win. */
rmg_status rmg_wiring_bank_pair(const rmg_target *target, rmg_addr a, rmg_addr b, rmg_word bits,
                                rmg_bank_pair *pair);

#ifdef __cplusplus
}
#endif
#endif
