/* Inside the host library: contents that are put back. */
#ifndef RMG_HOST_KEEP_H
#define RMG_HOST_KEEP_H

#include <glib.h>

#include "rimeglass/bus.h"

/* A port around another that reads each word before it is first written, to put it back later. */
typedef struct keeper {
    const rmg_target *to;
    GHashTable *seen; /* addresses saved since the last restore */
    GArray *saved;    /* of their contents, in order */
    rmg_target target;
} keeper;

/* Makes k->target reach `to`. `k` must not move. */
void rmg_keep_begin(keeper *k, const rmg_target *to);

/* Puts back what was saved, last first, and forgets it. Tries every word; the first error. */
rmg_status rmg_keep_restore(keeper *k);
void rmg_keep_end(keeper *k);

#endif
