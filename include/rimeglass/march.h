/* March tests: notation, compiled form, and the engine that runs them.
 *
 * A march is a row of elements. Each element takes every word of the ranges in rising (⇑), falling
 * (⇓) or either (⇕) order and does its operations on a word before it goes to the next. Source of
 * the notation: A. J. van de Goor, Testing Semiconductor Memories, 1991.
 *
 * Compiled form: bytes. An element is a head byte, order in the two upper bits and the number of
 * operations in the six lower ones, then one byte an operation (RMG_OP_...). A head of order
 * RMG_ORDER_EITHER with no operation is a hold. A zero byte ends the march. */
#ifndef RIMEGLASS_MARCH_H
#define RIMEGLASS_MARCH_H

#include "bus.h"
#include "tally.h"

#ifdef __cplusplus
extern "C" {
#endif

#define RMG_ORDER_UP     0x40u /* the element goes upwards */
#define RMG_ORDER_DOWN   0x80u /* ... downwards */
#define RMG_ORDER_EITHER 0xC0u /* ... either way */
#define RMG_ORDER_MASK                                                                             \
    0xC0u /* bits of an element's first byte that are its order; the rest counts its operations */

#define RMG_OP_R0    0x00u /* read, expect the background */
#define RMG_OP_R1    0x01u /* read, expect its complement */
#define RMG_OP_W0    0x02u /* write the background */
#define RMG_OP_W1    0x03u /* write its complement */
#define RMG_OP_ONE   0x01u /* bit of an operation: the complement */
#define RMG_OP_WRITE 0x02u /* bit of an operation: a write */

#define RMG_MARCH_OPS   63u  /* most operations in one element */
#define RMG_MARCH_BYTES 128u /* room that every march of the literature fits in */

/* Marches known by name, in compiled form, with their operations a word and their source. The
 * definitions stand in docs/marches.md. Each links only where it is used. */
extern const uint8_t rmg_march_mats[];           /* 4N: Nair 1979 */
extern const uint8_t rmg_march_mats_plus[];      /* 5N: Abadir and Reghbati 1983 */
extern const uint8_t rmg_march_mats_plus_plus[]; /* 6N: van de Goor 1991 */
extern const uint8_t rmg_march_x[];              /* 6N: van de Goor 1991 */
extern const uint8_t rmg_march_y[];              /* 8N: van de Goor 1991 */
extern const uint8_t rmg_march_a[];              /* 15N: Suk and Reddy 1981 */
extern const uint8_t rmg_march_b[];              /* 17N: Suk and Reddy 1981 */
extern const uint8_t rmg_march_c[];              /* 11N: Marinescu 1982 */
extern const uint8_t rmg_march_c_minus[];        /* 10N: van de Goor 1991 */
extern const uint8_t rmg_march_u[];              /* 13N: van de Goor and Gaydadjiev 1997 */
extern const uint8_t rmg_march_lr[]; /* 14N: van de Goor, Gaydadjiev, Yarmolik, Mikitjuk 1996 */
extern const uint8_t
    rmg_march_la[]; /* 22N: van de Goor et al., late 1990s; definition from memory */
extern const uint8_t
    rmg_march_sr[]; /* 14N: Hamdioui and van de Goor 2000; definition from memory */
extern const uint8_t
    rmg_march_raw[]; /* 26N: Hamdioui, Al-Ars, van de Goor 2002; definition from memory */
extern const uint8_t rmg_march_ss[];    /* 22N: Hamdioui, van de Goor, Rodgers 2002 */
extern const uint8_t rmg_march_pmovi[]; /* 13N: de Jonge and Smeulders 1976 */
extern const uint8_t rmg_march_g[];     /* 23N+2 Del: van de Goor 1993 */

/* A march known by name. */
typedef struct rmg_march_name {
    const char *name;    /* as in the literature */
    const uint8_t *code; /* compiled form */
} rmg_march_name;

/* All of them, `rmg_march_name_count` rows. */
extern const rmg_march_name rmg_march_names[];
extern const uint8_t rmg_march_name_count;

/* The compiled march of that name, capitals or not, or NULL. */
const uint8_t *rmg_march_by_name(const char *name);

/* Operations on each word (10 for March C-), and elements, holds included. `code` is a compiled
 * march. */
uint16_t rmg_march_operations(const uint8_t *code);
uint8_t rmg_march_elements(const uint8_t *code);

/* Where a march's text went wrong. */
typedef struct rmg_march_error {
    uint16_t offset;      /* byte of the text, from 0 */
    const char *expected; /* what would have been right there; constant text */
} rmg_march_error;

/* Compiles `text` into code[0..room-1]. Elements are ⇑(...), ⇓(...), ⇕(...) or up(...), down(...),
 * any(...), separated by ";" and, if wanted, set in braces; operations r0 r1 w0 w1, separated by
 * ","; a hold is written Del or hold. Spaces and capitals do not matter. At least one element.
 * RMG_ERR_NOTATION: `error` says where and what was expected. RMG_ERR_ROOM: more than `room` bytes.
 * `error` may be NULL. */
rmg_status rmg_march_parse(const char *text, uint8_t *code, size_t room, rmg_march_error *error);

/* Where a running march stands. */
typedef struct rmg_progress {
    rmg_count words; /* words done in this element */
    uint16_t pass;   /* from 0 */
    uint8_t step;    /* of the plan, from 0 */
    uint8_t element; /* of the march, from 0 */
} rmg_progress;

/* Who watches a run. Every function may be NULL. The observer must not call the library on the
 * same target. */
typedef struct rmg_observer {
    void *context; /* first argument of its functions */
    /* Called at the start of each element and then every 2^every_log2 words, or oftener where a
     * port stops oftener. false asks to stop. */
    bool (*progress)(void *context, const rmg_progress *progress);
    /* Called for every failure, after the tally has it. */
    void (*failure)(void *context, const rmg_failure *failure);
    uint8_t every_log2; /* 0..RMG_ADDR_BITS-1 */
    /* Called instead of `failure` where a port reports failures of neighbouring words together;
     * NULL: `failure` is called for each. `like` is as in rmg_tally_add_block. */
    void (*failures)(void *context, const rmg_mismatch_block *block, const rmg_failure *like);
    void (*failure_run)(void *context, const rmg_mismatch_run *run, const rmg_failure *like);
} rmg_observer;

/* What is to be run, over what. */
typedef struct rmg_march_job {
    const uint8_t *code;          /* compiled march */
    const rmg_range *ranges;      /* rising, apart from one another */
    const rmg_observer *observer; /* or NULL */
    uint32_t hold_us;             /* for holds */
    rmg_word background;          /* value of "0" */
    uint16_t pass;                /* goes into failures and progress */
    uint8_t step;                 /* the same */
    rmg_range_count range_count;  /* 1 or more */
    bool either_down;             /* run ⇕ downwards instead of upwards */
} rmg_march_job;

#define rmg_march_run RMG_ABI(rmg_march_run)

/* Runs the march over the ranges, one word at a time, through the port's `read` and `write`. Each
 * element takes all ranges before the next element begins; ⇓ is the exact reverse of ⇑. Failures
 * go to `tally` (the caller's, cleared before) and the observer. It destroys what the ranges hold.
 * RMG_ERR_ARGUMENT, RMG_ERR_RANGE before any access; RMG_ERR_CANCELLED; or what the port
 * answered. In the last two cases the tally holds what was found. */
rmg_status rmg_march_run(const rmg_target *target, const rmg_march_job *job, rmg_tally *tally);

/* Data backgrounds that depend on the address, and orders of addresses other than the linear one.
 * A march keeps its meaning under both: "0" is the background of the word, "1" its complement, and
 * falling is the exact reverse of rising. */

/* Where the address meets `where` and an odd number of the address bits in `lines` are 1, the data
 * bits in `bits` are inverted. A checkerboard is one such term with the lowest row and the lowest
 * column line; a row stripe has the lowest row line alone; the address as data has a term for each
 * data bit. */
typedef struct rmg_background_term {
    rmg_where where; /* addresses it holds for */
    rmg_addr lines;  /* address bits whose ones are counted */
    rmg_word bits;   /* data bits that are inverted where the count is odd */
} rmg_background_term;

/* A background: `start`, changed by the terms (the caller's list), and, if `random`, by a hash of
 * `seed` and the address. */
typedef struct rmg_background {
    rmg_word start;                   /* a word for all addresses */
    const rmg_background_term *terms; /* [term_count], or NULL */
    uint8_t term_count;
    bool random;   /* changed by the hash too */
    uint64_t seed; /* of the hash */
} rmg_background;

/* The background of one word; bits above the target's mask are ignored. */
rmg_word rmg_background_word(const rmg_background *background, rmg_addr address);

/* A number that depends on its arguments alone, every bit of it alike: splitmix64 (Steele, Lea,
 * Flood, Fast Splittable Pseudorandom Number Generators, 2014). */
uint64_t rmg_hash(uint64_t seed, uint64_t number);

/* An order of addresses. Index n, from 0 to 2^lines-1, gives the address whose bit line_of[i] is
 * bit i of n, and whose other bits are those of `base`. With `complement`, an odd index gives the
 * address opposite to that of the even one before it, so that all lines change at once. Addresses
 * outside the ranges of the job are passed over. */
typedef struct rmg_order {
    rmg_addr base;                  /* the address bits that no line counts */
    uint8_t lines;                  /* 1..RMG_ADDR_BITS-1 */
    uint8_t line_of[RMG_ADDR_BITS]; /* each address bit at most once */
    bool complement;                /* every other address is the one opposite */
} rmg_order;

/* The linear order that holds `ranges` (rising, 1 or more): a start for others. */
void rmg_order_linear(rmg_order *order, const rmg_range *ranges, rmg_range_count range_count);

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
