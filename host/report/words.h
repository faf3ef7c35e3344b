/* Inside the room: what is said, in words. */
#ifndef RMG_HOST_REPORT_WORDS_H
#define RMG_HOST_REPORT_WORDS_H

#include "board/internal.h"
#include "diagnose/internal.h"
#include "internal.h"

/* The words of one saying: a text; or what a suspect is: where, what it does, where to look; or a
 * step: what to do, and what follows from it. */
typedef struct rmg_words_row {
    const char *text, *then, *look;
} rmg_words_row;

extern const rmg_words_row rmg_words_rows[]; /* sayings.c: [RMG_SAID] */

/* What sayings are about. */
typedef struct rmg_wording {
    const rmg_board *board;
    const rmg_run *run;           /* NULL: of a chip that was read */
    const rmg_rom_case *rom_case; /* NULL: of a run */
    const rmg_suspect *suspect;
} rmg_wording;

/* A text with its names filled in, new. */
gchar *rmg_words_fill(const rmg_wording *w, const rmg_saying *saying, const char *text);

/* names.c: pins, lines and levels as a technician calls them; new texts. */
/* The data pins of the bits: those that take data in, give it out, or either. */
gchar *rmg_name_data_pins(const rmg_board *board, const rmg_saying *s, bool in, bool out);
gchar *rmg_name_address_pins(const rmg_board *board, const rmg_saying *s);
/* "" or " of the x and y banks" where a data line serves only some. */
/* "U1, U4-U8 and U12": those that are true in sockets[]. */
gchar *rmg_name_sockets(const rmg_board *board, const bool *sockets);
gchar *rmg_name_lane(const rmg_board *board, const rmg_finding *f);
const char *rmg_name_level(const rmg_finding *f); /* "always reads 0" */
/* Where on a traced line the fault lies; the points that serve exactly the same sockets as one. */
gchar *rmg_name_span(const rmg_run *run, const rmg_saying *s, bool branch);
gchar *rmg_name_chain(const rmg_run *run, const rmg_saying *s);

#endif
