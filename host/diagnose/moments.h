/* Inside the room: failures that come and go, as moments. */
#ifndef RMG_HOST_DIAGNOSE_MOMENTS_H
#define RMG_HOST_DIAGNOSE_MOMENTS_H

#include "share.h"

/* A failing word, or several that failed together. */
typedef struct moment {
    uint64_t element; /* pass, step of the plan, element */
    uint8_t bank;
    rmg_addr address; /* of the last word */
    rmg_word bits;
    double failed; /* bits of words that did: at which of them counts for each */
    bool at_once;  /* more than one bit of a word */
} moment;

/* What failed of one socket's cells. */
typedef struct socket_failed {
    uint16_t socket;
    uint8_t bank;
    rmg_word bits; /* all of the chip */
    uint8_t width;
    double cells;     /* (address, bit) that failed */
    double again;     /* passes in which they failed, after the first of each */
    double reads;     /* that failed */
    unsigned failing; /* bits of which some cell failed */
} socket_failed;

typedef struct weigher {
    const rmg_run *run;
    const rmg_board *board;
    GArray *list;          /* of rmg_finding */
    GArray *moments;       /* of moment, by element and bank */
    GArray *failed;        /* of socket_failed, one a finding of cells */
    GArray *sites;         /* of site */
    uint64_t seen, stride; /* parts; of so many one is taken */
    rmg_addr lanes;
    unsigned chips; /* sockets that were tested */
    double words;   /* that were tested */
    double bits;    /* of a word, that no other finding is about */
    double cells, reads;
} weigher;

static inline unsigned rmg_ones_of(rmg_word bits)
{
    return (unsigned)__builtin_popcountll(bits);
}

/* moments.c: fills in what failed of each socket of w->failed, and the moments. */
void rmg_moments_collect(weigher *w);

#endif
