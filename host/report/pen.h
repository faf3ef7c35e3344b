/* Inside the host library: what all pictures are drawn with. */
#ifndef RMG_HOST_PEN_H
#define RMG_HOST_PEN_H

#include <cairo.h>
#include <stdbool.h>
#include <stdint.h>

#include "rimeglass/text.h"

#define RMG_PEN_WIDTH  1280.0
#define RMG_PEN_HEIGHT 800.0

/* Inks of pictures of failures. */
#define RMG_INK_DARK  0x1D232Cu
#define RMG_INK_SOFT  0x5A616Bu
#define RMG_INK_PAPER 0xFBFAF7u
#define RMG_INK_FIELD 0xECEAE3u
#define RMG_INK_LOW   0xB03A00u /* reads 0 for 1 */
#define RMG_INK_HIGH  0x1F5FA8u /* reads 1 for 0 */

void rmg_pen_ink(cairo_t *cr, unsigned rgb);

/* A full box; a box of slanted strokes: nothing is known of what it stands for. */
void rmg_pen_box(cairo_t *cr, double x, double y, double w, double h, unsigned rgb);
void rmg_pen_hatch(cairo_t *cr, double x, double y, double w, double h);

/* Words at (x, y); align 0: they begin there, 0.5: their middle is there, 1: they end there. */
void rmg_pen_say(cairo_t *cr, double x, double y, double size, bool bold, double align,
                 const char *text);

/* A number, likewise, small and soft. */
void rmg_pen_number(cairo_t *cr, double x, double y, double align, uint64_t number);

/* Draws a picture of that size to a file whose name ends in .png, .svg or .pdf. RMG_ERR_ARGUMENT,
 * RMG_ERR_FILE: *error, to be freed with rmg_error_free, says more. A PDF has all pages, a picture
 * the first alone. */
rmg_status rmg_pen_pages(const char *file, void (*draw)(cairo_t *cr, void *context, unsigned page),
                         unsigned pages, void *context, rmg_error *error);
rmg_status rmg_pen_picture(const char *file, void (*draw)(cairo_t *cr, void *context),
                           void *context, rmg_error *error);

#endif
