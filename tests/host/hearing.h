/* Lines heard by a profile, on a board. */
#ifndef RMG_TESTS_HEARING_H
#define RMG_TESTS_HEARING_H

#include "rimeglass/lines.h"
#include "rimeglass/suspect.h"

typedef struct heard {
    rmg_board *board;
    rmg_profile *profile;
    rmg_run run;
    rmg_suspects suspects;
    rmg_status status;
    rmg_error error;
} heard;

/* Hears `bytes` in pieces of a few bytes: where they are cut must not matter. */
void hear(heard *h, const char *board, const char *profile, const char *bytes, size_t count);
void hear_text(heard *h, const char *board, const char *profile, const char *text);
void forget(heard *h);

#define HALVORN "demo/boards/halvorn64.yaml"
#define OSTREL  "demo/boards/ostrel16.yaml"

#endif
