/* Inside the room: what the answers say of a board so far. */
#ifndef RMG_HOST_AUTHOR_DRAFT_H
#define RMG_HOST_AUTHOR_DRAFT_H

#include <glib.h>

#include "base/internal.h"
#include "rimeglass/author.h"

typedef struct draft_region {
    gchar *name, *range, *kind, *of, *note; /* of, note: NULL where there is none */
    rmg_range bytes;                        /* as written: first and last address */
} draft_region;

typedef struct draft_bank {
    gchar *name, *part, *range, *where, *rows, *columns; /* rows: of other chips their lines */
    rmg_part facts;                                      /* width, kind and lines of the part */
    rmg_range bytes;                                     /* as written */
    GPtrArray *names; /* of gchar *: sockets from left to right */
    GPtrArray *bits;  /* of gchar *: which data bits each holds */
    rmg_mount mount;
} draft_bank;

typedef struct draft {
    gchar *name, *revision, *pages;
    unsigned word, lines;
    bool words;       /* addresses are written in words of more than a byte */
    GArray *regions;  /* of draft_region */
    GPtrArray *banks; /* of draft_bank * */
    GPtrArray *parts; /* of gchar *: a line of the list "parts" each */
    int undriven;     /* -1: not known; else rmg_undriven */
} draft;

draft *rmg_draft_new(void);
void rmg_draft_free(draft *d);

/* The bank that is asked about, or that was asked about last; NULL: none yet. */
draft_bank *rmg_draft_last_bank(const draft *d);
draft_bank *rmg_draft_add_bank(draft *d, const char *name);

/* Bytes that one address more stands for are a word's: how far addresses as written are shifted. */
unsigned rmg_draft_shift(const draft *d);

/* The first address as written, in a region of RAM, ROM or kept memory, that no bank holds; false:
 * each is held. */
bool rmg_draft_first_free(const draft *d, uint64_t *address, const draft_region **region);

/* The file: `whole` with remarks and all that was said; else as far as it can be loaded, memory
 * that no bank holds yet allowed. */
gchar *rmg_draft_text(const draft *d, bool whole);

/* Loads it so. RMG_ERR_CONTENT: *error says what the board file's reader says. The board may be
 * NULL where it is not wanted. */
rmg_status rmg_draft_check(const draft *d, bool whole, rmg_board **board, rmg_error *error);

#endif
