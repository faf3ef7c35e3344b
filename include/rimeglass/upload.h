/* March elements as code that runs in the target: a routine for memory of the target that was
 * proven before, so that an element takes as long as its processor needs, not as long as a line
 * needs that is typed for each access. Pure computation. How it is put there and started: prompt.h.
 */
#ifndef RIMEGLASS_UPLOAD_H
#define RIMEGLASS_UPLOAD_H

#include "bus.h"
#include "testrom.h"

#ifdef __cplusplus
extern "C" {
#endif

#define RMG_UPLOAD_LEAST 512u  /* bytes: of elements that read a word up to four times */
#define RMG_UPLOAD_MOST  2048u /* bytes that a routine may use */

/* Where a routine goes. Addresses are the processor's. */
typedef struct rmg_upload {
    rmg_testrom_processor processor; /* RMG_TESTROM_Z80, _6502 or _6809 */
    uint16_t at;                     /* first byte, which is where it is started */
    uint16_t size;                   /* bytes it may use; RMG_UPLOAD_LEAST..RMG_UPLOAD_MOST */
    uint8_t zero_page;               /* 6502: two bytes there that it may use; it puts them back */
} rmg_upload;

/* Its first bytes: a jump, then these. Words lie as the processor has them. */
enum {
    RMG_UPLOAD_ARMED = 3,  /* not 0: it may run, once. It makes this 0, and returns at once if it
                              was 0 */
    RMG_UPLOAD_FULL = 4,   /* 1: it ended early, for there was no room for more records */
    RMG_UPLOAD_COUNT = 5,  /* records */
    RMG_UPLOAD_NEXT = 6,   /* word: address that would have been next */
    RMG_UPLOAD_FIRST = 8,  /* word: address to begin at */
    RMG_UPLOAD_WORDS = 10, /* word: how many; 0 is 65536 */
    RMG_UPLOAD_HEAD = 12   /* bytes of all that */
};

/* A record: neighbours that one operation read wrong, all alike. Words, but for the last two. */
enum {
    RMG_UPLOAD_REC_WORDS = 0,  /* how many */
    RMG_UPLOAD_REC_FIRST = 2,  /* address of the first that was read */
    RMG_UPLOAD_REC_ACTUAL = 6, /* byte: as they were read */
    RMG_UPLOAD_REC_READ = 7,   /* byte: which read of the element, from 0 */
    RMG_UPLOAD_RECORD = 8      /* bytes of a record */
};

/* A routine. */
typedef struct rmg_upload_routine {
    uint8_t code[RMG_UPLOAD_MOST]; /* [used], for the memory from `at` on */
    size_t used;                   /* bytes */
    size_t stable;                 /* of them, those that stay as they are when it runs, but for its
                                      head and what it keeps behind that */
    uint16_t records;              /* address of the first record */
    bool big;                      /* words have their high byte first */
} rmg_upload_routine;

/* Can elements be run in a target with this processor? */
bool rmg_upload_is_for(rmg_testrom_processor processor);

/* The routine for an element: of *call its operations, direction, background and mask count; the
 * words it goes over are written into its head. RMG_OK; RMG_ERR_PORT_CANNOT: no such routine is
 * made for the processor; RMG_ERR_ROOM: it does not fit. */
rmg_status rmg_upload_make(const rmg_upload *where, const rmg_element_call *call,
                           rmg_upload_routine *routine);

#ifdef __cplusplus
}
#endif
#endif
