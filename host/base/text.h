/* Inside the host library: texts and numbers as technicians write them. No locale. */
#ifndef RMG_HOST_TEXT_H
#define RMG_HOST_TEXT_H

#include <glib.h>

#include "rimeglass/text.h"

/* Sets an error, unless it is set already, and gives back its status. `where`: copied, or
 * NULL. And: nothing went wrong yet. */
rmg_status rmg_fail(rmg_error *error, rmg_status status, const char *where, const char *what, ...)
    G_GNUC_PRINTF(4, 5);
void rmg_error_none(rmg_error *error);

/* Errors while they are gathered: an array of rmg_error, which it frees. rmg_note_error takes
 * what the error says. */
GArray *rmg_notes_new(void);
void rmg_note(GArray *notes, rmg_status status, const char *where, const char *what, ...)
    G_GNUC_PRINTF(4, 5);
void rmg_note_error(GArray *notes, rmg_error *error);

#define RMG_ERRORS_MOST 100u /* more of them are not reported */

/* What a sort asks of two numbers: below 0, 0 or above 0. */
gint rmg_by_number(uint64_t a, uint64_t b);
gint rmg_by_real(double a, double b);

/* The elements of an array, in memory of their own that is exactly as long: reading past them is an
 * error that a sanitizer sees. NULL for none. Frees the array; free the elements with g_free. */
void *rmg_array_take(GArray *array);

/* "a", "b", "c" to "a, b and c"; frees the list, which frees its texts. */
gchar *rmg_join(GPtrArray *list);

/* Has valid UTF-8 a character that moves a terminal's cursor or changes its state? Tabs and line
 * ends are none. And: such a text, from a file of a stranger, with each of these, and each byte
 * that is no UTF-8, replaced by U+FFFD; to be freed with g_free. */
bool rmg_text_controls(const char *text, size_t length);
gchar *rmg_text_harmless(const char *text);

/* Decimal digits alone, leading zeros allowed: of designators and pins. */
bool rmg_decimal_parse(const char *text, uint64_t *value);

/* "FIRST-LAST", "FIRST..LAST" or "ONE". false: not such a text. */
bool rmg_range_parse(const char *text, uint64_t *first, uint64_t *last);
/* "U11" to "U" and 11. false: no letters then digits. */
bool rmg_designator_parse(const char *text, char *stem, size_t room, uint64_t *number);

/* A file named within another file: from that file's folder, unless its name begins at the root. To
 * be freed with g_free. */
char *rmg_file_beside(const char *file, const char *name);

/* Hands noted errors over to the caller. */
void rmg_errors_take(GArray *from, rmg_errors *to);

#endif
