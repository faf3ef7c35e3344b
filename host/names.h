/* Inside the host library: bits, lines, banks and devices by the names a technician uses. All texts
 * are new and to be freed by the caller. */
#ifndef RMG_HOST_NAMES_H
#define RMG_HOST_NAMES_H

#include <glib.h>

#include "rimeglass/board.h"

/* "a", "b", "c" to "a, b and c"; frees the list, which frees its texts. */
gchar *rmg_join(GPtrArray *list);

gchar *rmg_name_bits(rmg_word bits);                           /* "D3", "D0 and D4", "D0-D3" */
gchar *rmg_name_lines(const rmg_board *board, rmg_addr lines); /* "A9" or "A2 and A9" */
gchar *rmg_name_bank(const rmg_board *board, uint8_t bank);    /* "the upper bank" */
/* Sockets that hold the bits; where `lane` is given, only at addresses of its condition. */
gchar *rmg_name_devices(const rmg_board *board, rmg_word bits, const rmg_where *lane);

#endif
