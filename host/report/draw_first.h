/* Inside the room: how the only failing cell of a chip first failed, in a picture of its rows and
 * columns. */
#ifndef RMG_HOST_DRAW_FIRST_H
#define RMG_HOST_DRAW_FIRST_H

#include <cairo.h>

#include "rimeglass/run.h"

/* The only failing cell of a chip, and when it first failed. */
typedef struct rmg_first_failed {
    const rmg_step *step; /* NULL: more than one cell fails, or none, or the step is not known */
    unsigned element;
    bool high; /* read 1 for 0 */
    rmg_addr row, column;
    /* in a galloping test: the cell that was accessed before; partner: it is known */
    rmg_addr partner_row, partner_column;
    bool partner;
} rmg_first_failed;

/* `row_lines`: of the chip's address. */
rmg_first_failed rmg_first_failed_of(const rmg_run *run, uint16_t socket, uint8_t row_lines);

/* What was around it, or which cell came before, from (x, y) down; nothing for other steps. */
void rmg_draw_first_failed(cairo_t *cr, const rmg_first_failed *first, double x, double y);

#endif
