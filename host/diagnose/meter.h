/* Inside the room: what is left of a traced line after what was measured. */
#ifndef RMG_HOST_DIAGNOSE_METER_H
#define RMG_HOST_DIAGNOSE_METER_H

#include <glib.h>

#include "internal.h"

/* Elements that may be open: 2 * point is the track into it, 2 * point + 1 the part at it. */
typedef struct rmg_meter {
    GArray *left;      /* of uint32_t, in order from `from` to `to` */
    uint32_t from, to; /* sides of points: 2 * point the near one, 2 * point + 1 the far one */
    bool told;         /* something says that it is broken */
    bool probed;       /* ... by what was seen with a probe */
    bool driver;       /* it may not be driven at all, or shorted */
} rmg_meter;

/* End it in any case. */
void rmg_meter_look(const rmg_facts *facts, const rmg_board *board, uint16_t line, rmg_meter *m);
void rmg_meter_end(rmg_meter *m);

/* The side of a point within reach of a probe that halves what is left; UINT32_MAX: there is none
 * between. */
uint32_t rmg_meter_half(const rmg_facts *facts, const rmg_board *board, const rmg_line *line,
                        const rmg_meter *m);

/* Does what was measured rule the cause out, at a suspect of this line? */
bool rmg_meter_rules_out(const rmg_meter *m, rmg_cause cause);
/* Adds to a suspect of the line what was measured of it, and the next point. */
void rmg_meter_tell(wording *w, const rmg_meter *m);
/* Adds suspects for lines that were measured and that none of the others is about. */
void rmg_add_told(const rmg_facts *facts, const rmg_run *run, rmg_suspects *suspects);

#endif
