/* Inside the port to this machine's memory. */
#ifndef RMG_RAM_PORT_H
#define RMG_RAM_PORT_H

#include <pthread.h>

#include "rimeglass/ram.h"

/* A part of an element that one thread runs. */
typedef struct ram_part {
    rmg_ram *ram;
    rmg_element_call *call;
    uint64_t first; /* lowest word */
    uint64_t count;
    rmg_mismatch_block block; /* being gathered; empty: no bit of `failing` */
} ram_part;

struct rmg_ram {
    volatile uint64_t *words;
    uint64_t count;
    size_t mapped; /* bytes */
    unsigned threads;
    bool flushes;
    char *remark;
    uint64_t *frames; /* page frame of each page when opened; NULL: hidden */
    long page_bytes;
    /* the threads: each waits for the next turn */
    pthread_t workers[RMG_RAM_THREADS];
    ram_part parts[RMG_RAM_THREADS];
    unsigned started; /* workers that run */
    pthread_mutex_t turn_lock, sink_lock;
    pthread_cond_t turn_begins, turn_ends;
    uint64_t turn;
    unsigned at_work;
    bool over;
};

/* ram_loops.c: runs the part, and hands over what it found wrong. */
void rmg_ram_run_part(ram_part *part);
bool rmg_ram_can_flush(void);

/* ram_threads.c */
rmg_status rmg_ram_start_threads(rmg_ram *ram);
void rmg_ram_stop_threads(rmg_ram *ram);
void rmg_ram_run_parts(rmg_ram *ram, rmg_element_call *call, uint64_t first, uint64_t count);

/* ram_limits.c: what can be taken, in bytes; and `spare` bytes, or what the control groups of the
 * file `groups` (as /proc/self/cgroup) allow, whose folders lie below `root`. */
uint64_t rmg_ram_free_bytes(void);
uint64_t rmg_ram_spare(const char *groups, const char *root, uint64_t spare);

/* ram_pages.c */
void rmg_ram_note_frames(rmg_ram *ram);

#endif
