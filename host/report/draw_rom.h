/* Inside the room: what pictures of images share. */
#ifndef RMG_HOST_REPORT_DRAW_ROM_H
#define RMG_HOST_REPORT_DRAW_ROM_H

#include "pen.h"
#include "rimeglass/image.h"

#define RMG_ROM_LEFT   64.0
#define RMG_ROM_TOP    104.0
#define RMG_ROM_RIGHT  (RMG_PEN_WIDTH - 24.0)
#define RMG_ROM_BOTTOM (RMG_PEN_HEIGHT - 56.0)

#define RMG_INK_WRONG 0xB03A00u /* differs from what it should be */
#define RMG_INK_MOVED 0x1F5FA8u /* not the same in all readings */

/* The empty sheet with its two lines of words. draw_map.c */
void rmg_rom_paper(cairo_t *cr, const char *title, const char *under);

#endif
