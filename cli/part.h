/* Between the files of the command "part". */
#ifndef RMG_CLI_PART_H
#define RMG_CLI_PART_H

#include "rimeglass/part.h"

typedef struct part_call {
    gchar *json, *picture, *kind;
    gboolean pod;
} part_call;

/* Writes JSON and frees it; the exit status. */
int part_json(const part_call *call, char *text);

/* part_fits.c: does the part of that marking fit the board's socket, or (NULL) which do? */
int part_in_socket(const part_call *call, const char *board, const char *socket,
                   const char *marking);

#endif
