/* rimeglass explain --shortest. */
#ifndef RMG_CLI_SHORTEST_H
#define RMG_CLI_SHORTEST_H

#include "cli.h"
#include "rimeglass/search.h"

typedef struct shortest_call {
    gchar *classes, *within, *write;
    gint64 seed;
    gint width; /* -1: not given */
} shortest_call;

/* Searches, says what was found and writes it. *code is empty where nothing was. The exit status.
 */
int find_shortest(const shortest_call *call, FILE *to, uint8_t code[RMG_MARCH_BYTES]);

#endif
