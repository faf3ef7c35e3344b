/* Inside the host library: the outline of a chip in pictures of a board. */
#ifndef RMG_HOST_DRAW_CHIP_H
#define RMG_HOST_DRAW_CHIP_H

#include <cairo.h>

#include "rimeglass/board.h"

#define RMG_CHIP_MM 11.5 /* drawn width of a narrow chip */
#define RMG_PIN_MM  2.54

/* Width and height of a socket's chip in millimetres, and its pins. */
unsigned rmg_draw_chip_size(const rmg_socket *socket, double *w, double *h);

/* Its outline as the path, with the notch at the end of pin 1, which is at the top; and its legs.
 */
void rmg_draw_chip_path(cairo_t *cr, double x, double y, double w, double h);
void rmg_draw_legs(cairo_t *cr, double x, double y, double w, double h, unsigned pins);

/* "D5", "D0-D3": the data bits of a rule. To be freed with g_free. */
char *rmg_draw_bits(const rmg_rule *rule);

#endif
