/* The permitted words: a port around another that makes no access outside them, whatever asks for
 * it. All runs, probes and readings of the host library go through one. */
#ifndef RIMEGLASS_GUARD_H
#define RIMEGLASS_GUARD_H

#include "bus.h"

#ifdef __cplusplus
extern "C" {
#endif

enum { RMG_MAY_READ = 1, RMG_MAY_WRITE = 2 };

/* Words that may be touched, and how: RMG_MAY_READ, RMG_MAY_WRITE, or both. */
typedef struct rmg_permit {
    rmg_range range;
    uint8_t may;
} rmg_permit;

/* Fields are the guard's own, but `refused`. */
typedef struct rmg_guard {
    const rmg_target *to;
    const rmg_permit *permits;
    uint16_t count;
    uint16_t latest;   /* the permit that was used last */
    rmg_bus bus;       /* the functions that `to` has */
    rmg_count refused; /* accesses that were asked for and not made */
} rmg_guard;

#define rmg_guard_begin RMG_ABI(rmg_guard_begin)

/* Makes *target reach `to`, but for accesses outside `permits`: these are not made and answered by
 * RMG_ERR_FORBIDDEN (in builds that stop at mistakes, the program stops). Blocks and elements are
 * permitted where every one of their words lies in one permit; an element that comes back outside
 * its range, or at no operation of its, is an error of the port. Permits may overlap.
 * `to`, `permits` and the guard itself are the caller's and must stay where they are. */
void rmg_guard_begin(rmg_guard *guard, const rmg_target *to, const rmg_permit *permits,
                     uint16_t count, rmg_target *target);

#ifdef __cplusplus
}
#endif
#endif
