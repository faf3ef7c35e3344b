/* The spot check: a few values at an address, by hand or on a target, and what they prove. */
#ifndef RIMEGLASS_PROBE_H
#define RIMEGLASS_PROBE_H

#include "run.h"

#ifdef __cplusplus
extern "C" {
#endif

/* One value written and what was read back. */
typedef struct rmg_pair {
    rmg_addr address; /* of the word */
    rmg_word wrote;   /* the value */
    rmg_word read;    /* and what came back */
} rmg_pair;

/* What the pairs at one address say of one data bit. */
typedef enum rmg_bit_verdict {
    RMG_BIT_SOUND,      /* written 0 and 1, right each time */
    RMG_BIT_RIGHT,      /* right, but only one of 0 and 1 was written: says little */
    RMG_BIT_STUCK_HIGH, /* written 0 and 1, always read 1 */
    RMG_BIT_STUCK_LOW,  /* written 0 and 1, always read 0 */
    RMG_BIT_WRONG_HIGH, /* read 1 for 0, and never written 1: not enough values to say */
    RMG_BIT_WRONG_LOW,  /* read 0 for 1, and never written 0: not enough values to say */
    RMG_BIT_NOT_STUCK,  /* wrong, and not always at one level: not a stuck bit */
    RMG_BIT_FOLLOWS_BUS /* reads what was driven elsewhere in between: nothing drives it */
} rmg_bit_verdict;

/* A short sentence part for it, for example "stuck low". */
const char *rmg_bit_verdict_text(rmg_bit_verdict verdict);

/* One data bit at one address. */
typedef struct rmg_probe_bit {
    rmg_addr address;        /* of the word */
    uint8_t bit;             /* bus data bit */
    rmg_bit_verdict verdict; /* of all pairs there */
    bool placed;             /* `place` gives the socket */
    rmg_place place;         /* see `placed` */
} rmg_probe_bit;

/* A spot check: values at a few addresses, and what they say. */
typedef struct rmg_probe {
    const rmg_board *board; /* the caller's */
    rmg_pair *pairs;        /* [pair_count], in the order they were made */
    size_t pair_count;
    rmg_probe_bit *bits; /* [bit_count]: every bit at every address, rising */
    size_t bit_count;
    rmg_saved_word *not_restored; /* words that could not be given back what they held */
    size_t not_put_back_count;    /* of them */
    rmg_status status;            /* RMG_OK, or why not all values were written and read */
    size_t wrong;                 /* bits, over all addresses, that were ever wrong */
} rmg_probe;

/* Judges pairs that someone saw. `pairs` is copied. Addresses and values must fit the board
 * (RMG_ERR_ARGUMENT). Free with rmg_probe_end. */
rmg_status rmg_probe_judge(rmg_probe *probe, const rmg_board *board, const rmg_pair *pairs,
                           size_t pair_count);

/* Makes the pairs on a target and judges them: each value is written, its complement driven at
 * another address of the same RAM region, and read back; both words are then put back as they
 * were, and no others are touched. `values` NULL takes all zeros, all ones, both alternating
 * patterns and each single bit. RMG_ERR_RANGE: an address is not in RAM; *error, to be freed with
 * rmg_error_free, says what is there. A port's error: the pairs made until then are judged. Free
 * with rmg_probe_end in any case. */
rmg_status rmg_probe_target(rmg_probe *probe, const rmg_board *board, const rmg_target *target,
                            const rmg_addr *addresses, size_t address_count, const rmg_word *values,
                            size_t value_count, rmg_error *error);

/* Frees what the probe holds. */
void rmg_probe_end(rmg_probe *probe);

/* The number that a board's own start-up shows of its memory, and where it points. */

/* What such a number may come from. */
typedef enum rmg_reckon_kind {
    RMG_RECKON_SILENT, /* these banks do not answer, or the count ended at their first word */
    RMG_RECKON_SIZED,  /* the board took these banks for half or a quarter as deep */
    RMG_RECKON_STOPPED /* the count ended within a bank */
} rmg_reckon_kind;

/* One thing that the number may come from. */
typedef struct rmg_reckon {
    rmg_reckon_kind kind; /* which fields count */
    uint64_t banks;       /* bank b: bit b */
    bool told;            /* the board file has this number for them */
    unsigned part;        /* of RMG_RECKON_SIZED: 2 half, 4 a quarter */
    rmg_addr at;          /* of RMG_RECKON_STOPPED: the first word not counted */
} rmg_reckon;

#define RMG_RECKON_TRIES 6u /* addresses to try first, at most */

/* All that the number may come from. */
typedef struct rmg_reckoning {
    const rmg_board *board;   /* the caller's */
    uint64_t number, healthy; /* as shown; and as a healthy board shows it */
    bool healthy_told;        /* by the board file; else it is the RAM of its banks */
    bool kilo;                /* the board counts in units of 1,024 bytes */
    bool half;                /* half of the memory is missing */
    rmg_reckon *list;         /* [count], the likeliest first */
    size_t count;
    rmg_addr tries[RMG_RECKON_TRIES]; /* addresses to try first, in this order */
    size_t try_count;
} rmg_reckoning;

/* Free with rmg_reckoning_end. A board without RAM gives nothing. */
void rmg_reckon_number(rmg_reckoning *reckoning, const rmg_board *board, uint64_t number);
void rmg_reckoning_end(rmg_reckoning *reckoning);

/* Symptoms of the board file in which each of the words stands, capitals or not: the next from
 * `from` on; board->symptom_count: none. */
size_t rmg_symptom_next(const rmg_board *board, const char *words, size_t from);

#ifdef __cplusplus
}
#endif
#endif
