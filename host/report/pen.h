/* Inside the host library: what all pictures are drawn with. */
#ifndef RMG_HOST_PEN_H
#define RMG_HOST_PEN_H

#include <cairo.h>
#include <stdbool.h>

#include "rimeglass/text.h"

#define RMG_PEN_WIDTH  1280.0
#define RMG_PEN_HEIGHT 800.0

void rmg_pen_ink(cairo_t *cr, unsigned rgb);

/* Words at (x, y); align 0: they begin there, 0.5: their middle is there, 1: they end there. */
void rmg_pen_say(cairo_t *cr, double x, double y, double size, bool bold, double align,
                 const char *text);

/* Draws a picture of that size to a file whose name ends in .png or .svg. RMG_ERR_ARGUMENT,
 * RMG_ERR_FILE: *error, to be freed with rmg_error_free, says more. */
rmg_status rmg_pen_picture(const char *file, void (*draw)(cairo_t *cr, void *context),
                           void *context, rmg_error *error);

#endif
