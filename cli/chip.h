/* Between the files of the command "chip". */
#ifndef RMG_CLI_CHIP_H
#define RMG_CLI_CHIP_H

#include <glib.h>
#include <stdbool.h>

typedef struct chip_call {
    gchar *on, *label, *lot, *stock, *march, *json, *part, *job;
    gboolean queue, unchecked, grade;
    gint passes, best;
} chip_call;

/* stock.c: adds a line to a stock file, after saying what is wrong with it: false. */
bool stock_add(const char *file, const char *line);

/* Lists a stock file, or of it `part` (NULL: all); `best`: so many good ones, or NOT_GIVEN. The
 * exit status. */
int stock_show(const char *file, const char *part, int best);

#endif
