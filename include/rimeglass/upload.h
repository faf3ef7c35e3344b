/* March elements as code that runs in the target: a routine for memory of the target that was
 * proven before, so that an element takes as long as its processor needs, not as long as a link
 * needs that carries each access. Pure computation. How it is put there and started: loader.h.
 */
#ifndef RIMEGLASS_UPLOAD_H
#define RIMEGLASS_UPLOAD_H

#include "bus.h"
#include "testrom.h"

#ifdef __cplusplus
extern "C" {
#endif

#define RMG_UPLOAD_LEAST  512u   /* bytes: of elements that read a word up to four times */
#define RMG_UPLOAD_MOST   2048u  /* bytes that a routine may use */
#define RMG_UPLOAD_WORDS  32000u /* words that it goes over at once, at most */
#define RMG_UPLOAD_HEAD   16u    /* bytes of the longest head */
#define RMG_UPLOAD_RECORD 10u    /* bytes of the longest record */

/* How a routine ends. */
typedef enum rmg_upload_end {
    RMG_UPLOAD_RETURNS,     /* as a subroutine */
    RMG_UPLOAD_RETURNS_FAR, /* 8086 and 8088: as one of another segment */
    RMG_UPLOAD_BREAKS       /* at a breakpoint: the instruction that debuggers use for one, so Z80,
                               68000, 8086 and 8088 only. It leaves registers as they come */
} rmg_upload_end;

/* Where a routine goes. Addresses are the processor's, and count bytes. */
typedef struct rmg_upload {
    rmg_testrom_processor processor; /* rmg_upload_is_for */
    rmg_upload_end ends;             /* how it ends */
    uint32_t at;        /* first byte, which is where it is started: even where words have two
                           bytes; of all but the 68000 below 0x10000, of an 8086 in segment 0 */
    uint16_t size;      /* bytes it may use; RMG_UPLOAD_LEAST..RMG_UPLOAD_MOST */
    uint8_t zero_page;  /* 6502: two bytes there that it may use; it puts them back */
    uint8_t word_bytes; /* 1, or rmg_upload_word_bytes */
} rmg_upload;

/* Where what lies in its head, and in a record: offsets in bytes. Words lie as the processor has
 * them. Head: a jump, then these. A record: neighbours that one operation read wrong, all alike. */
typedef struct rmg_upload_form {
    uint8_t
        armed;    /* byte, not 0: it may run, once. It makes this 0, and ends at once if it was 0 */
    uint8_t full; /* byte, 1: it ended early, for there was no room for more records */
    uint8_t count; /* byte: records */
    uint8_t next;  /* word: address that would have been next, its lowest 16 bits */
    uint8_t first; /* where it begins: a word; 68000: a long word; 8086: offset and segment */
    uint8_t words; /* word: how many it goes over */
    uint8_t head;  /* bytes of all that */
    uint8_t record_words;  /* word: how many */
    uint8_t record_first;  /* word: address of the first that was read, its lowest 16 bits */
    uint8_t record_next;   /* word: address that would go on with it */
    uint8_t record_actual; /* as they were read: a byte, or a word where the form is wide */
    uint8_t record_read;   /* byte: which read of the element, from 0 */
    uint8_t record;        /* bytes of a record */
    bool wide;             /* processors with words of 16 bits */
} rmg_upload_form;

/* A routine. */
typedef struct rmg_upload_routine {
    uint8_t code[RMG_UPLOAD_MOST]; /* [used], for the memory from `at` on */
    size_t used;                   /* bytes */
    size_t stable;                 /* of them, those that stay as they are when it runs, but for its
                                      head and what it keeps behind that */
    const rmg_upload_form *form;   /* where what lies */
    uint32_t records;              /* address of the first record */
    uint32_t end;                  /* address of the instruction that ends it */
    bool big;                      /* words have their high byte first */
} rmg_upload_routine;

/* Words that a routine is to go over, and what it found among them. */
typedef struct rmg_upload_stretch {
    uint32_t first; /* byte address of the first that is done */
    uint16_t words; /* 1..RMG_UPLOAD_WORDS */
    bool down;      /* as the element */
} rmg_upload_stretch;

/* Neighbours that one operation read wrong, all alike. */
typedef struct rmg_upload_found {
    uint32_t from, words; /* the from-th word that is done, from 0, and those after it */
    rmg_word actual;      /* as they were read, all bits */
    uint8_t read;         /* which read of the element, from 0 */
} rmg_upload_found;

/* Can elements be run in a target with this processor? */
bool rmg_upload_is_for(rmg_testrom_processor processor);
/* Bytes that a word of it has at most, 1 or 2; and can its routine end so? */
uint8_t rmg_upload_word_bytes(rmg_testrom_processor processor);
bool rmg_upload_can_end(rmg_testrom_processor processor, rmg_upload_end end);

/* The routine for an element: of *call its operations, direction, background and mask count; the
 * words it goes over are written into its head. RMG_OK; RMG_ERR_PORT_CANNOT: no such routine is
 * made for the processor; RMG_ERR_ROOM: it does not fit. */
rmg_status rmg_upload_make(const rmg_upload *where, const rmg_element_call *call,
                           rmg_upload_routine *routine);

/* Writes into head[RMG_UPLOAD_HEAD], which lies at `at`, what it is to go over; and arms it. */
void rmg_upload_arm(const rmg_upload *where, const rmg_upload_routine *routine,
                    const rmg_upload_stretch *stretch, uint8_t *head);

/* How many words it went over, by the head it left; 0: that makes no sense, or it did not run. */
uint32_t rmg_upload_done(const rmg_upload *where, const rmg_upload_routine *routine,
                         const rmg_upload_stretch *stretch, const uint8_t *head);

/* What a record says. false: it is none of the first `done` words of the stretch. */
bool rmg_upload_record(const rmg_upload *where, const rmg_upload_routine *routine,
                       const rmg_upload_stretch *stretch, uint32_t done, const uint8_t *record,
                       rmg_upload_found *found);

#ifdef __cplusplus
}
#endif
#endif
