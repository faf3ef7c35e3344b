/* The bus port: how the library reaches a memory. Written by whoever has the hardware.
 *
 * A port is a constant structure of functions plus a context of the port's own. `read` and `write`
 * alone make every test run; the rest may be NULL.
 *
 * Rules for a port
 *  1. `context` is the pointer the target holds. The library never looks behind it.
 *  2. `address` always lies in a range that the caller of the library named. The unit is one word.
 *  3. A written value has no bit set above the target's mask. Of a value read, the library takes
 *     only the bits in the mask.
 *  4. One call is one access, made at once. Not cached, merged, put off, repeated or left out: the
 *     order of accesses is what a march test is made of.
 *  5. A wrong value is not an error. Return RMG_OK and the value the hardware gave.
 *  6. When the access itself could not be made, return RMG_ERR_PORT or RMG_ERR_PORT_LOST. The
 *     library stops, hands on that very status and keeps what it found. `*value` is then ignored.
 *  7. A port does not call the library, and keeps no pointer that it was handed.
 *  8. A function that is NULL does not exist. A function that exists may still answer
 *     RMG_ERR_PORT_CANNOT for an argument it cannot serve.
 *  9. `version` is RMG_BUS_VERSION of the header the port was built with. New fields are only
 *     added at the end; a library reads no field that a port of that version does not have.
 */
#ifndef RIMEGLASS_BUS_H
#define RIMEGLASS_BUS_H

#include "types.h"

#ifdef __cplusplus
extern "C" {
#endif

#define RMG_BUS_VERSION 1u /* of the structure below */

/* What a port may be able to read or set, in steps of its own. */
typedef enum rmg_condition {
    RMG_CONDITION_CLOCK_HZ,    /* clock of the memory or its processor */
    RMG_CONDITION_SUPPLY_MV,   /* main supply at the chips, millivolts */
    RMG_CONDITION_HEAT_MILLIC, /* temperature at the chips, thousandths of a degree Celsius */
    RMG_CONDITION_REFRESH      /* 1: refresh goes on; 0: stopped */
} rmg_condition;

/* Wrong reads of up to 64 neighbouring words by one operation of an element, reported together:
 * where a flood of failures is not to be handled word by word. */
typedef struct rmg_mismatch_block {
    rmg_addr first;      /* a multiple of 64 */
    uint64_t failing;    /* bit i: the word at first + i was wrong */
    uint8_t operation;   /* of the element, from 0 */
    rmg_word expected;   /* the same for all */
    rmg_word actual[64]; /* [i]; of words that were not wrong: anything */
} rmg_mismatch_block;

#define RMG_EVERY_WORD 0xFFFFu /* `which` of a run in which all words failed */

/* Wrong reads by one operation of an element, all of the same value: of neighbouring words, or of
 * those among them that low address lines choose. */
typedef struct rmg_mismatch_run {
    rmg_addr first;    /* the lowest address */
    rmg_addr words;    /* 1 or more, those between included */
    uint16_t which;    /* bit i: words whose lowest four address bits are i; RMG_EVERY_WORD: all */
    uint8_t operation; /* of the element, from 0 */
    rmg_word expected; /* the same for all */
    rmg_word actual;   /* the same for all */
} rmg_mismatch_run;

/* Is the word at an address of the run one that failed? */
static inline bool rmg_in_run(const rmg_mismatch_run *run, rmg_addr address)
{
    return (unsigned)run->which >> (address & 15u) & 1u;
}

/* One march element handed to a port that can run it in a tight loop of its own.
 * The port starts at (address, operation), goes on to the end of `range` in the order given, and
 * leaves in `address` and `operation` where it stands when it returns. It returns RMG_OK when the
 * element is done, RMG_ERR_CANCELLED after at most `words_a_call` words otherwise (it is then
 * called again), or the port's own error. */
typedef struct rmg_element_call {
    rmg_range range;       /* the words it goes over */
    rmg_addr address;      /* in: first word to do; out: next word to do */
    rmg_addr words_a_call; /* granularity of cancelling, 1 or more */
    const uint8_t *ops;    /* operations, coded as in march.h */
    uint8_t op_count;      /* 1..RMG_MARCH_OPS */
    uint8_t operation;     /* in and out: operation within the word, 0..op_count-1 */
    bool down;             /* true: from range.last down to range.first */
    rmg_word background;   /* value of "0"; its complement within `mask` is "1" */
    rmg_word mask;         /* data bits that are compared */
    void *sink_context;    /* first argument of `mismatch` */
    void (*mismatch)(void *sink_context, rmg_addr address, uint8_t operation, rmg_word expected,
                     rmg_word actual); /* to be called for each wrong read */
    /* May be called instead, for neighbours at once. NULL: they may not. */
    void (*mismatch_block)(void *sink_context, const rmg_mismatch_block *block);
    void (*mismatch_run)(void *sink_context, const rmg_mismatch_run *run);
} rmg_element_call;

/* A port: what it can do, as functions. `read` and `write` must be there; any other may be NULL. */
typedef struct rmg_bus {
    uint8_t version; /* RMG_BUS_VERSION */

    /* One word. */
    rmg_status (*read)(void *context, rmg_addr address, rmg_word *value);
    rmg_status (*write)(void *context, rmg_addr address, rmg_word value);

    /* One byte of a word, on boards with byte strobes. lane 0 is the byte with D0. */
    rmg_status (*read_byte)(void *context, rmg_addr address, uint8_t lane, uint8_t *value);
    rmg_status (*write_byte)(void *context, rmg_addr address, uint8_t lane, uint8_t value);

    /* `count` words from `first` upwards, 1 or more, never past the last address. */
    rmg_status (*read_block)(void *context, rmg_addr first, rmg_addr count, rmg_word *values);
    rmg_status (*write_block)(void *context, rmg_addr first, rmg_addr count,
                              const rmg_word *values);

    /* One march element; see rmg_element_call. */
    rmg_status (*run_element)(void *context, rmg_element_call *call);

    /* Leave the memory alone for this long. */
    rmg_status (*wait)(void *context, uint32_t hold_us);

    /* One condition, in the unit its name gives. */
    rmg_status (*get_condition)(void *context, rmg_condition which, int32_t *value);
    rmg_status (*set_condition)(void *context, rmg_condition which, int32_t value);
} rmg_bus;

/* A memory under test: a port, its context, and the bits a word has. The caller owns all three. */
typedef struct rmg_target {
    const rmg_bus *bus; /* the port */
    void *context;      /* first argument of its functions */
    rmg_word mask;      /* ones at the data bits that exist, D0 lowest */
} rmg_target;

#define rmg_element_by_blocks RMG_ABI(rmg_element_by_blocks)
#define RMG_ELEMENT_BLOCK     64u /* words that go together */

/* A march element by the blocks of a port that has read_block, and write_block or not, for its own
 * run_element: of neighbouring words all reads or writes of one operation are made before the next
 * operation. That is NOT the order of the element; whoever offers it must say so. */
rmg_status rmg_element_by_blocks(const rmg_bus *bus, void *context, rmg_element_call *call);

/* The permitted words: a port around another that makes no access outside them, whatever asks for
 * it. All runs, probes and readings of the host library go through one. */

enum { RMG_MAY_READ = 1, RMG_MAY_WRITE = 2 };

/* Words that may be touched, and how: RMG_MAY_READ, RMG_MAY_WRITE, or both. */
typedef struct rmg_permit {
    rmg_range range; /* the words */
    uint8_t may;     /* RMG_MAY_READ, RMG_MAY_WRITE, or both */
} rmg_permit;

/* Fields are the guard's own, but `refused`. */
typedef struct rmg_guard {
    const rmg_target *to;      /* where permitted accesses go */
    const rmg_permit *permits; /* [count] */
    uint16_t count;
    uint16_t latest;   /* the permit that was used last */
    rmg_bus bus;       /* the functions that `to` has */
    rmg_count refused; /* accesses that were asked for and not made */
} rmg_guard;

#define rmg_guard_begin RMG_ABI(rmg_guard_begin)

/* Makes *target reach `to`, but for accesses outside `permits`: these are not made and answered by
 * RMG_ERR_FORBIDDEN (in builds that stop at errors, the program stops). Blocks and elements are
 * permitted where every one of their words lies in one permit; an element that comes back outside
 * its range, or at no operation of its, is an error of the port. Permits may overlap.
 * `to`, `permits` and the guard itself are the caller's and must stay where they are. */
void rmg_guard_begin(rmg_guard *guard, const rmg_target *to, const rmg_permit *permits,
                     uint16_t count, rmg_target *target);

#ifdef __cplusplus
}
#endif
#endif
