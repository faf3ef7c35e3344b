/* Inside the room: a listener. */
#ifndef RMG_HOST_LINES_LISTEN_H
#define RMG_HOST_LINES_LISTEN_H

#include "internal.h"

#define MOST_REPORTS 64u /* of one line */

struct rmg_listener {
    const rmg_profile *profile;
    rmg_run *run;
    void (*watch)(void *context, const rmg_understood *understood);
    void *watch_context;
    int64_t began_us;
    /* bytes to lines */
    char line[RMG_LINE_BYTES + 1u];
    size_t length;
    unsigned char before; /* the byte */
    bool paired;          /* it was the second of a line end of two */
    unsigned escape;      /* within a sequence */
    /* what the lines above said */
    const alias *group;
    uint8_t bank;
    bool has_address;
    uint64_t address; /* as written on the board */
    uint64_t size;    /* of the block it names; 0: one word */
    bool trusted;
    bool started, open, ended;
    bool foreign; /* what comes is of another test ROM */
    /* what the line says, but for reports */
    rmg_range tested;
    bool has_total;
    uint64_t total;
    /* counted */
    uint64_t known, skipped;
    uint64_t in_limit;                  /* reports since the limit began anew */
    uint64_t since_pass, since_start;   /* failures */
    char *unknown[3], *before_start[3]; /* the first of them */
    unsigned unknown_count, before_count;
    rmg_report reports[MOST_REPORTS]; /* of the last line */
    char why[160];
};

/* What was said above no longer holds. */
void rmg_listen_forget(rmg_listener *l);

/* understand.c: what a line says; it changes what holds for the lines below. */
void rmg_listen_understand(rmg_listener *l, const char *text, size_t length, rmg_understood *u);

/* rom_line.c: the same of a line of the board's test ROM. */
void rmg_listen_to_rom(rmg_listener *l, const char *text, rmg_understood *u);

#endif
