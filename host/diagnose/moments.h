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

typedef struct bank_set {
    uint64_t bits[4];
} bank_set;

static inline void rmg_include_bank(bank_set *set, uint8_t bank)
{
    set->bits[bank >> 6] |= (uint64_t)1 << (bank & 63u);
}

static inline bool rmg_has_bank(const bank_set *set, uint8_t bank)
{
    return set->bits[bank >> 6] >> (bank & 63u) & 1u;
}

typedef enum site_kind {
    SITE_NOISE,
    SITE_CHIP,
    SITE_LINE,
    SITE_PAIR,   /* two data lines that touch */
    SITE_DRIVER, /* a chip of another bank that is always on */
    SITE_BANK,
    SITE_ALL,
    SITE_CHIPS
} site_kind;

typedef struct site {
    site_kind kind;
    uint16_t socket; /* of a chip, and of one that drives; */
    uint16_t rule;   /* ... its rule */
    uint8_t bank;    /* of a bank, and of a chip */
    uint8_t bit;     /* of a line */
    rmg_word pair;   /* of lines that touch, or are driven; */
    bool high_wins;  /* ... a 1 wins over a 0 */
    bank_set banks;
    double weight; /* logarithm of prior and likelihood; then the share of all */
} site;

typedef struct weigher {
    const rmg_run *run;
    const rmg_board *board;
    GArray *list;          /* of rmg_finding */
    GArray *moments;       /* of moment, by element and bank */
    GArray *failed;        /* of socket_failed, one a finding of cells */
    GArray *sites;         /* of site */
    uint64_t seen, stride; /* parts; of so many one is taken */
    rmg_word *taken;       /* [bank_count]: bits that fail by another cause that comes and goes */
    rmg_word *seen_bits;   /* [bank_count]: that no other finding is about */
    rmg_addr lanes;
    unsigned chips; /* sockets that were tested */
    double words;   /* that were tested */
    double bits;    /* of a word, that no other finding is about */
    double cells, reads;
    uint8_t cause; /* of several at once: the number of the one that is weighed; 0: there is one */
} weigher;

static inline unsigned rmg_ones_of(rmg_word bits)
{
    return (unsigned)__builtin_popcountll(bits);
}

/* moments.c: fills in what failed of each socket of w->failed, and the moments. */
void rmg_moments_collect(weigher *w);

/* Where noise is all there is, a chip would be named in one of some 150 runs at most (A. Markov's
 * inequality), in fact far less often. */
#define PRIOR_NOISE 100.0
/* How sure the places are is reckoned with less: what chance is worth beside them, of that. */
#define NOISE_DRAWN (0.22 / PRIOR_NOISE)

/* seen.c: of these bits those at which a word of the bank failed. */
rmg_word rmg_failing_bits(const rmg_run *run, uint8_t bank, rmg_word bits);
/* The data bits of a bank that findings of other kinds are about. */
rmg_word rmg_bits_of_others(const weigher *w, size_t bank);
/* Fills in what w->failed says of when and where it failed, and forgets the places. */
void rmg_look_at_failed(weigher *w);
/* Does a run of one pass tell whether what failed comes and goes? By how the cells fail; or, in
 * *lines, by data lines on which some do in every bank. */
bool rmg_one_pass_tells(const weigher *w, rmg_word *lines);
/* Do the finding's cells fail at one of these lines, and at no other bit? */
bool rmg_fails_on_lines(const weigher *w, const rmg_finding *f, rmg_word lines);

/* Some of the failures of a run: at these bits in that bank, or RMG_NO_BANK for all; or all others.
 */
typedef struct failed_part {
    rmg_word bits;
    uint8_t bank;
    bool others;
} failed_part;

/* mixture.c: which of what failed has another cause than the rest, and how sure that is, 0 to 1;
 * false: one cause fits as well. */
bool rmg_part_failed(weigher *w, failed_part *part, double *sure);

/* What was weighed before a part of it was taken. */
typedef struct rest_of_all {
    GArray *failed;
    rmg_word *taken;
} rest_of_all;
rest_of_all rmg_take_failures(weigher *w, const failed_part *part);
void rmg_give_back(weigher *w, rest_of_all rest);

/* places.c: fills in w->sites, with logarithms of their weights. */
void rmg_find_places(weigher *w);

/* site.c: does the moment fit the line, bank, or chip that drives? Adds the failing reads of these
 * bits in the bank; the finding about a site. */
bool rmg_fits_site(const site *s, const moment *m);
void rmg_count_reads(const weigher *w, rmg_finding *f, uint8_t bank, rmg_word bits);
rmg_finding rmg_site_finding(const weigher *w, const site *s);

/* unsteady.c: what the check saw of a bank, or of a socket, and what comes and goes becomes cells;
 * true: one did. In a run whose passes are alike what seems to touch becomes one finding a bank. */
void rmg_take_back_of_banks(weigher *w);
bool rmg_take_back_the_unsteady(weigher *w);
void rmg_join_what_seems_to_touch(weigher *w);
/* Of which findings of cells do all fail in every pass? They do not come and go. One a finding, to
 * be freed with g_free. */
bool *rmg_steady_cells(const rmg_run *run, const GArray *list);

/* likely.c: the logarithm of the likelihood of all that failed, if the site is to blame. */
double rmg_likelihood_of(const weigher *w, const site *s);
/* How many chips of the bank hold some of these bits. */
unsigned rmg_chips_with(const weigher *w, uint8_t bank, rmg_word bits);

/* Cells of its banks of which it is not known what the site's chip holds at their place, for the
 * run did not write it: as good as half of them cannot fail. */
typedef struct untold_cells {
    double cells, of; /* that failed, of all */
    double times;     /* passes in which they did */
} untold_cells;

/* driver.c: the logarithm of how much likelier the reads that failed are, if what the site's chip
 * holds decides, than if each read of that level could fail; and those that say nothing. */
double rmg_which_reads(const weigher *w, const site *s, untold_cells *untold);

/* halves.c: the address line, or two behind a multiplexer, that fits what comes and goes at the
 * site's banks, and how sure that is, 0 to 1; false: none is to be named. */
bool rmg_blame_address_line(const weigher *w, const site *s, rmg_addr *lines, double *sure);

/* touch.c: the logarithm of how much likelier the words that failed are, if only those can in which
 * two lines are to have different levels. */
double rmg_which_words(const weigher *w, const site *s);

#endif
