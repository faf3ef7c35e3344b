/* Inside the host library: what the rooms above the board use of it. */
#ifndef RMG_HOST_BOARD_INTERNAL_H
#define RMG_HOST_BOARD_INTERNAL_H

#include <glib.h>

#include "rimeglass/board.h"

/* names.c: bits, lines, banks and devices by the names a technician uses. All texts are new and to
 * be freed by the caller. */
gchar *rmg_name_bits(rmg_word bits);                           /* "D3", "D0 and D4", "D0-D3" */
gchar *rmg_name_lines(const rmg_board *board, rmg_addr lines); /* "A9" or "A2 and A9" */
gchar *rmg_name_bank(const rmg_board *board, uint8_t bank);    /* "the upper bank" */
/* Sockets that hold the bits; where `lane` is given, only at addresses of its condition. */
gchar *rmg_name_devices(const rmg_board *board, rmg_word bits, const rmg_where *lane);

/* write.c: the path of a line, and a bank's range, part and feeds, as a board file writes them. */
char *rmg_board_path_text(const rmg_line *line);
char *rmg_board_bank_text(const rmg_board *board, size_t bank);

/* board.c: address lines that choose between lanes of a wider bus, as the traced data lines say; 0:
 * one bus. */
rmg_addr rmg_board_lanes(const rmg_board *board);
/* The smallest address from `from` on with (address & mask) == match; false: none. */
bool rmg_next_match(rmg_addr from, rmg_addr mask, rmg_addr match, rmg_addr *found);
/* The part of `where` within `range`, with ends that meet its condition; false: there is none. */
bool rmg_where_within(const rmg_where *where, const rmg_range *range, rmg_where *part);

#endif
