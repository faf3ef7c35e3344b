/* The far half of the link (docs/link.md): lines of text that ask for accesses, carried out on a
 * port. It makes whatever has a bus port into a far end: firmware on a microcontroller, or a
 * program of one's own. No heap, no files; how bytes come and go is the caller's.
 *
 *     rmg_far_begin(&far, &target, 0x3FF, "test socket", &room);
 *     for (;;) {
 *         const char *answer = rmg_far_take(&far, byte_that_came());
 *         if (answer)
 *             send(answer);
 *     } */
#ifndef RIMEGLASS_FAR_END_H
#define RIMEGLASS_FAR_END_H

#include "bus.h"

#ifdef __cplusplus
extern "C" {
#endif

#define RMG_LINK_VERSION 1u  /* of the protocol */
#define RMG_LINK_SPACE   11u /* bytes of a line that are not its text: "*", check, LF, NUL */

/* The check of a line: CRC-16 (polynomial 0x1021, first 0xFFFF, highest bit first, nothing inverted
 * at the end) of so many bytes. `before` is 0xFFFF, or the check of what came before them. */
#define rmg_link_check RMG_ABI(rmg_link_check)
uint16_t rmg_link_check(uint16_t before, const char *bytes, size_t count);

/* The long check: CRC-32 (polynomial 0x04C11DB7, first 0xFFFFFFFF, lowest bit first, inverted at
 * the end). `before` is 0, or the check of what came before them. */
#define rmg_link_check32 RMG_ABI(rmg_link_check32)
uint32_t rmg_link_check32(uint32_t before, const char *bytes, size_t count);

/* Wrong reads of one operation at neighbouring words, all alike; `first` is the one made first. */
typedef struct rmg_far_found {
    rmg_addr first;    /* the address of it */
    rmg_count words;   /* 1 or more */
    uint8_t operation; /* of the element, from 0 */
    rmg_word expected; /* at all of them */
    rmg_word actual;   /* at all of them */
} rmg_far_found;

/* Memory that a far end works in; the caller's, and must stay where it is. */
typedef struct rmg_far_room {
    char *request;          /* the longest line that it takes: 80 bytes or more */
    uint16_t request_bytes; /* of `request` */
    char *answer;           /* the longest line that it sends: 100 bytes or more */
    uint16_t answer_bytes;  /* of `answer` */
    rmg_far_found *found;   /* wrong reads that wait to be told: 1 or more */
    uint16_t found_count;   /* of `found` */
} rmg_far_room;

/* Holds every number of a line: address, word, microseconds, condition. */
#if RMG_ADDR_BITS == 64 || RMG_WORD_BITS == 64
typedef uint64_t rmg_far_value;
#else
typedef uint32_t rmg_far_value;
#endif

struct rmg_far_end;

/* What came of an intent that only this far end has. */
typedef enum rmg_far_outcome {
    RMG_FAR_UNKNOWN, /* it has no such intent either */
    RMG_FAR_DONE,    /* its answer, " ok ..." or " no ...", is written */
    RMG_FAR_WRONG    /* an argument is wrong; nothing was done */
} rmg_far_outcome;

/* Fields are the far end's own. */
typedef struct rmg_far_end {
    const rmg_target *target; /* the memory that it serves */
    rmg_far_room room;        /* what it was given */
    const char *name;         /* of the far end, as it answers hello */
    rmg_addr last;            /* the highest address */
    uint8_t address_digits;   /* of an address in a line */
    uint8_t word_digits;      /* of a word in a line */
    uint16_t got;             /* bytes of the request so far */
    uint16_t size;            /* of the answer so far */
    uint16_t most;            /* findings that one answer has room for */
    uint16_t found;           /* that wait */
    uint16_t tell;            /* that this answer may hold */
    char *at;                 /* of the request: what was not read yet */
    bool too_long;            /* the request is longer than its room */
    bool greeted;             /* somebody said hello */
    uint8_t check;            /* digits of the check that its lines have: 0, 4 or 8 */
    bool down;                /* the element at work runs downwards */
    bool stops;      /* its port's run_element ends with the word of the first wrong read */
    const char *can; /* what it answers to hello, beyond the port's functions */
    rmg_far_outcome (*intent)(void *context,
                              struct rmg_far_end *far); /* for intents of its own; or NULL */
    void *intent_context;                               /* first argument of `intent` */
} rmg_far_end;

/* Begins: nobody has said hello yet. Addresses 0 to `last` can be reached; `name` (printable ASCII
 * but "*", a short one) is what people call it. RMG_ERR_ARGUMENT: the port cannot be used;
 * RMG_ERR_ROOM: the room is less than is said above, or no answer with one finding fits. */
#define rmg_far_begin RMG_ABI(rmg_far_begin)
rmg_status rmg_far_begin(rmg_far_end *far, const rmg_target *target, rmg_addr last,
                         const char *name, const rmg_far_room *room);

/* Another memory from now on, say because a chip was put in: the near end has to say hello before
 * it asks for accesses. Errors as of rmg_far_begin. */
#define rmg_far_refit RMG_ABI(rmg_far_refit)
rmg_status rmg_far_refit(rmg_far_end *far, const rmg_target *target, rmg_addr last);

/* Intents of its own: `intent` is asked for each that the link does not have, and `can`, a word,
 * stands among the abilities of hello. It reads arguments and writes its answer with the four calls
 * below. After rmg_far_begin. */
#define rmg_far_extend RMG_ABI(rmg_far_extend)
void rmg_far_extend(rmg_far_end *far, const char *can,
                    rmg_far_outcome (*intent)(void *context, rmg_far_end *far), void *context);

/* Says that the port's run_element ends (RMG_ERR_CANCELLED) with the word of the first wrong read,
 * so that it may be given as many words as there are. After rmg_far_begin. */
#define rmg_far_port_stops RMG_ABI(rmg_far_port_stops)
void rmg_far_port_stops(rmg_far_end *far);

/* Reads the next word of the request, if it is this one; a hexadecimal number of exactly so many
 * digits (0: of 1 or more), at most `most`; is nothing left? */
#define rmg_far_word   RMG_ABI(rmg_far_word)
#define rmg_far_number RMG_ABI(rmg_far_number)
#define rmg_far_at_end RMG_ABI(rmg_far_at_end)
bool rmg_far_word(rmg_far_end *far, const char *word);
bool rmg_far_number(rmg_far_end *far, uint8_t digits, rmg_far_value most, rmg_far_value *value);
bool rmg_far_at_end(const rmg_far_end *far);

/* Writes text, or a number of so many digits (0: as few as it takes). What does not fit is left
 * out. */
#define rmg_far_text RMG_ABI(rmg_far_text)
#define rmg_far_hex  RMG_ABI(rmg_far_hex)
void rmg_far_text(rmg_far_end *far, const char *text);
void rmg_far_hex(rmg_far_end *far, rmg_far_value value, uint8_t digits);

/* Takes one byte that came. When it ends a request, that is carried out, and the answer is given
 * back, to be sent as it is: a line with its LF and a NUL, valid until the next call. Else NULL. */
#define rmg_far_take RMG_ABI(rmg_far_take)
const char *rmg_far_take(rmg_far_end *far, char byte);

#ifdef __cplusplus
}
#endif
#endif
