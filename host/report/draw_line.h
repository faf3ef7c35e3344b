/* Inside the host library: the chain of a line in a picture of the board. */
#ifndef RMG_HOST_DRAW_LINE_H
#define RMG_HOST_DRAW_LINE_H

#include <cairo.h>

#include "rimeglass/suspect.h"

/* Is the first suspect a line that the board file traces? */
bool rmg_draw_line_wanted(const rmg_suspects *suspects);

/* Draws the finding's line into that box. */
void rmg_draw_line(cairo_t *cr, const rmg_board *board, const rmg_finding *finding, double x,
                   double y, double w, double h);

#endif
