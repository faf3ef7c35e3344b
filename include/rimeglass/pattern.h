/* Data backgrounds that depend on the address, and orders of addresses other than the linear one.
 * A march keeps its meaning under both: "0" is the background of the word, "1" its complement, and
 * falling is the exact reverse of rising. */
#ifndef RIMEGLASS_PATTERN_H
#define RIMEGLASS_PATTERN_H

#include "march.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Where the address meets `where` and an odd number of the address bits in `lines` are 1, the data
 * bits in `bits` are inverted. A checkerboard is one such term with the lowest row and the lowest
 * column line; a row stripe has the lowest row line alone; the address as data has a term for each
 * data bit. */
typedef struct rmg_background_term {
    rmg_where where;
    rmg_addr lines;
    rmg_word bits;
} rmg_background_term;

/* A background: `start`, changed by the terms (the caller's list), and, if `random`, by a hash of
 * `seed` and the address. */
typedef struct rmg_background {
    rmg_word start;
    const rmg_background_term *terms; /* [term_count], or NULL */
    uint8_t term_count;
    bool random;
    uint64_t seed;
} rmg_background;

/* The background of one word; bits above the target's mask are to be ignored. */
rmg_word rmg_background_word(const rmg_background *background, rmg_addr address);

/* A number that depends on its arguments alone, every bit of it alike: splitmix64 (Steele, Lea,
 * Flood, Fast Splittable Pseudorandom Number Generators, 2014). */
uint64_t rmg_hash(uint64_t seed, uint64_t number);

/* An order of addresses. Index n, from 0 to 2^lines-1, gives the address whose bit line_of[i] is
 * bit i of n, and whose other bits are those of `base`. With `complement`, an odd index gives the
 * address opposite to that of the even one before it, so that all lines change at once. Addresses
 * outside the ranges of the job are passed over. */
typedef struct rmg_order {
    rmg_addr base;
    uint8_t lines;                  /* 1..RMG_ADDR_BITS-1 */
    uint8_t line_of[RMG_ADDR_BITS]; /* each address bit at most once */
    bool complement;
} rmg_order;

/* The linear order that holds `ranges` (rising, 1 or more): a start for others. */
void rmg_order_linear(rmg_order *order, const rmg_range *ranges, uint8_t range_count);

/* The address at an index of the order. */
rmg_addr rmg_order_address(const rmg_order *order, rmg_addr index);

#define rmg_march_run_patterned RMG_ABI(rmg_march_run_patterned)

/* rmg_march_run with a background by address (the job's own is not read) and an order of addresses
 * (NULL: linear). One word at a time. Same errors; RMG_ERR_ARGUMENT too if the order has no line or
 * too many. */
rmg_status rmg_march_run_patterned(const rmg_target *target, const rmg_march_job *job,
                                   const rmg_background *background, const rmg_order *order,
                                   rmg_tally *tally);

#ifdef __cplusplus
}
#endif
#endif
