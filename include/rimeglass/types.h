/* Addresses, words, counts and ranges: the numbers everything else is made of. */
#ifndef RIMEGLASS_TYPES_H
#define RIMEGLASS_TYPES_H

#include <limits.h>
#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#include "rimeglass/config.h"

#ifdef __cplusplus
extern "C" {
#endif

#if RMG_ADDR_BITS == 16
typedef uint16_t rmg_addr;
#elif RMG_ADDR_BITS == 32
typedef uint32_t rmg_addr;
#elif RMG_ADDR_BITS == 64
typedef uint64_t rmg_addr;
#else
#error "RMG_ADDR_BITS: 16, 32 or 64"
#endif

#if RMG_WORD_BITS == 8
typedef uint8_t rmg_word;
#elif RMG_WORD_BITS == 16
typedef uint16_t rmg_word;
#elif RMG_WORD_BITS == 32
typedef uint32_t rmg_word;
#elif RMG_WORD_BITS == 64
typedef uint64_t rmg_word;
#else
#error "RMG_WORD_BITS: 8, 16, 32 or 64"
#endif

/* A count of accesses or failures. As wide as an address; it stays at its highest value instead of
 * starting again at 0. */
typedef rmg_addr rmg_count;
#define RMG_COUNT_MAX ((rmg_count) ~(rmg_count)0)

/* Addresses first..last, both included, so that the last address of the type can be named.
 * first <= last. The unit is one word of the port. */
typedef struct rmg_range {
    rmg_addr first; /* the lowest */
    rmg_addr last;  /* the highest */
} rmg_range;

/* How many ranges there are in a list: to 255 where addresses have 16 bits, else to 65,535. */
#if RMG_ADDR_BITS == 16
typedef uint8_t rmg_range_count;
#else
typedef uint16_t rmg_range_count;
#endif

/* A set of addresses: those of first..last with (address & mask) == match. mask 0 and match 0 take
 * the whole range. */
typedef struct rmg_where {
    rmg_addr first; /* the lowest */
    rmg_addr last;  /* the highest */
    rmg_addr mask;  /* ones at address bits that are given */
    rmg_addr match; /* what these are */
} rmg_where;

static inline bool rmg_where_holds(const rmg_where *where, rmg_addr address)
{
    return address >= where->first && address <= where->last &&
           (rmg_addr)(address & where->mask) == where->match;
}

/* No socket, no bank: the place is not known. */
#define RMG_NO_SOCKET 0xFFFFu
#define RMG_NO_BANK   0xFFu
/* No point of a traced line. */
#define RMG_NO_POINT 0xFFFFu

/* What a call can answer. A bad chip is never a status: it is a result, and stands in the tally. */
typedef enum rmg_status {
    RMG_OK = 0,          /* done */
    RMG_ERR_ARGUMENT,    /* an argument is outside what the function's comment allows */
    RMG_ERR_RANGE,       /* a range is empty, unordered, or too small for this check */
    RMG_ERR_NOTATION,    /* a march's text could not be read; the place is given separately */
    RMG_ERR_ROOM,        /* the caller's buffer is too small for the result */
    RMG_ERR_PORT,        /* the port could not make the access and says so */
    RMG_ERR_PORT_LOST,   /* the port no longer answers */
    RMG_ERR_PORT_CANNOT, /* the port has no such function */
    RMG_ERR_CANCELLED,   /* the observer asked to stop; what was found so far is valid */
    RMG_ERR_FILE,        /* a file could not be read or written (host library) */
    RMG_ERR_CONTENT,     /* a file was read, but what stands in it is wrong (host library) */
    RMG_ERR_FORBIDDEN,   /* an access outside the permitted words was refused; none was made */
    RMG_ERR_MEMORY       /* this machine has no more memory for the result (host library) */
} rmg_status;

/* One plain sentence part for a status, for example "the port no longer answers". Never NULL; the
 * text is constant and needs no freeing. Always built, linked only where it is called. */
const char *rmg_status_text(rmg_status status);

/* The version of the library that is linked, "1.2.3": RMG_VERSION is that of the headers. */
const char *rmg_version(void);

#ifdef __cplusplus
}
#endif
#endif
