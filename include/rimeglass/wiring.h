/* Data lines and address lines, checked before any cell: a broken line looks like a hundred broken
 * chips. The number of accesses does not depend on the size of the memory. */
#ifndef RIMEGLASS_WIRING_H
#define RIMEGLASS_WIRING_H

#include "bus.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What the lines of one range do. A data bit stands in at most one of the four masks; a bit in
 * none of them is sound as far as these accesses can tell. */
typedef struct rmg_wiring {
    rmg_word low;      /* reads 0 whatever was written */
    rmg_word high;     /* reads 1 whatever was written */
    rmg_word opposite; /* reads what was driven last, at another address: nobody drives it */
    rmg_word unsteady; /* wrong at both ends of the range, in no such order */
    rmg_addr lines;    /* address lines that vary within the range and were checked */
    rmg_word ignored[RMG_ADDR_BITS]; /* data bits for which line k changes nothing: A and A^2^k
                                        are one cell; only bits whose data line is sound */
    uint16_t accesses;               /* made by this check */
} rmg_wiring;

#define rmg_wiring_check RMG_ABI(rmg_wiring_check)

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

#ifdef __cplusplus
}
#endif
#endif
