/* This machine's own memory as a bus port: a locked region of it, in words of 64 bits, addresses
 * counted from 0. */
#ifndef RIMEGLASS_RAM_H
#define RIMEGLASS_RAM_H

#include "bus.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A region of this machine's own memory that is held. */
typedef struct rmg_ram rmg_ram;

/* What is asked for. */
typedef struct rmg_ram_want {
    uint64_t bytes;         /* 4096 or more; whole pages are taken */
    unsigned percent;       /* 1..100: so much of what can be taken; `bytes` is not read then */
    unsigned threads;       /* 1..RMG_RAM_THREADS */
    bool unflushed;         /* leave cache lines alone between elements */
    uint64_t reserve_bytes; /* left to the machine; 0: the larger of 256 MiB and a tenth of what is
                               free */
} rmg_ram_want;

#define RMG_RAM_THREADS 64u /* that test side by side, at most */

/* Takes and locks the region. Where not all of it can be had, the largest part that can; *remark
 * then says how much, and why not more ("" otherwise; the port's own, constant until it is closed).
 * RMG_ERR_ARGUMENT: `want` is outside its ranges. RMG_ERR_MEMORY. RMG_ERR_ROOM: not one page can be
 * had; *remark, to be freed with rmg_text_free in this case alone, says why. */
rmg_status rmg_ram_open(const rmg_ram_want *want, rmg_ram **ram, char **remark);
void rmg_ram_close(rmg_ram *ram);

/* The port. Whole elements run in loops of the port's own, on all threads: a stretch of so many
 * words is divided evenly, each part in exact order, and the next stretch begins when all are done.
 */
rmg_target rmg_ram_target(rmg_ram *ram);

/* What was got. */
uint64_t rmg_ram_bytes(const rmg_ram *ram);
unsigned rmg_ram_threads(const rmg_ram *ram);

/* The memory itself. */
volatile uint64_t *rmg_ram_words(rmg_ram *ram);

/* Are cache lines flushed between elements? false: not wanted, or the processor has no instruction
 * for it that does not wait for each line. */
bool rmg_ram_flushes(const rmg_ram *ram);

/* What of a march's order and coverage does not hold on this port, in sentences. To be freed with
 * rmg_text_free; NULL: no memory. */
char *rmg_ram_caveat(const rmg_ram *ram);

/* Whether a physical address is known. */
typedef enum rmg_ram_where {
    RMG_RAM_FOUND,  /* *physical is right: the same before the run and now */
    RMG_RAM_HIDDEN, /* the system does not show physical addresses to this user */
    RMG_RAM_MOVED   /* the page lies elsewhere now than when the port was opened */
} rmg_ram_where;

/* The physical byte address of a word; the page table is read again with each call. */
rmg_ram_where rmg_ram_physical(const rmg_ram *ram, rmg_addr word, uint64_t *physical);

#ifdef __cplusplus
}
#endif
#endif
