/* Inside the host library: contents that are put back. */
#ifndef RMG_HOST_KEEP_H
#define RMG_HOST_KEEP_H

#include <stdbool.h>
#include <stddef.h>

#include "rimeglass/bus.h"
#include "rimeglass/run.h"

/* A port around another that reads each word before it is first written, to put it back later. */
typedef struct rmg_keeper {
    const rmg_target *to;
    rmg_saved_word *saved; /* in the order in which they were first written */
    size_t count, room;
    uint32_t *slots;   /* [slot_count], by hash of the address: index in `saved` plus 1, or 0 */
    size_t slot_count; /* a power of 2, more than twice `room` */
    rmg_bus bus;
    rmg_target target;
} rmg_keeper;

/* Makes k->target reach `to`. `k` must not move. RMG_ERR_MEMORY: nothing can be kept. End it in any
 * case. */
rmg_status rmg_keep_begin(rmg_keeper *k, const rmg_target *to);

/* Puts back what was saved, last first, each word with several tries. Words that went back are
 * forgotten; those that did not stay in k->saved, to be tried again by the next call. The first
 * error that remained. */
rmg_status rmg_keep_restore(rmg_keeper *k);
void rmg_keep_end(rmg_keeper *k);

#endif
