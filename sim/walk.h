/* Inside a whole march element: how far it is, and failures of neighbouring words that are gathered
 * to be reported together. */
#ifndef RMG_SIM_WALK_H
#define RMG_SIM_WALK_H

#include "internal.h"

#define OP_ONE   0x01u
#define OP_WRITE 0x02u

#define TOLD_FIRST RMG_TALLY_FIRST /* words whose failures come in the order of accesses */
#define OPS_MOST   16u             /* operations of an element that are gathered */
#define RUNS_MOST  (2u * OPS_MOST) /* by operation, for two values that are read */

#define MIN_OF(a, b) ((a) < (b) ? (a) : (b))

/* The words that read another value than an operation of the element expects, as runs: at most two
 * values. Words are told by their lowest four address bits. */
typedef struct rmg_wrong {
    uint16_t which[2];
    rmg_word actual[2];
    unsigned count;
} rmg_wrong;

/* What an element makes of a word, kept for the next one that holds the same. */
typedef struct rmg_alike {
    rmg_gathered key;          /* before it; which 0: none is kept here */
    uint64_t cells;            /* after it, as in the key */
    rmg_word flat, last_bus;   /* after it */
    rmg_word actual[OPS_MOST]; /* by operation, where it failed */
    uint32_t failed;           /* operations that did, as ones */
} rmg_alike;

#define ALIKE_KEPT 256u

/* Words of one page that read wrongly, as they come. */
typedef struct rmg_page_fails {
    rmg_addr first;            /* of the page */
    uint32_t operations;       /* ones at those at which some did */
    rmg_wrong wrong[OPS_MOST]; /* by operation */
    rmg_word expected[OPS_MOST];
} rmg_page_fails;

/* The same of 64 neighbours, where they read too many values for runs. */
typedef struct rmg_block_fails {
    bool on;             /* words of the block come here */
    rmg_addr first;      /* of the block */
    uint32_t operations; /* as above */
    rmg_mismatch_block blocks[OPS_MOST];
} rmg_block_fails;

typedef struct rmg_walk {
    rmg_sim *sim;
    rmg_element_call *call;
    rmg_word values[2];               /* "0" and "1" */
    rmg_mismatch_run runs[RUNS_MOST]; /* being gathered; words 0: none */
    uint32_t gathered;                /* operations whose runs are */
    rmg_addr told;                    /* failing words of the call that were given in order */
    bool by_contents, by_pages;       /* see alike.c */
    bool any_kept;                    /* `alike` is cleared */
    bool writes;                      /* some operation does */
    bool timed;                       /* see timed.c */
    rmg_addr words, kept;             /* gone through; of these, played to be kept */
    rmg_page_fails page;              /* words of a page that are told one by one */
    rmg_block_fails block;
    rmg_alike *alike; /* [ALIKE_KEPT] */
} rmg_walk;

/* What is laid over words that are looked at together, by their lowest four address bits. */
typedef struct rmg_laid {
    rmg_word and[16], or [16];
    rmg_word keeps[16], take_and[16], take_or[16]; /* of what is written, see rmg_sim_force */
    bool takes;          /* something else than what is written, at some of them */
    bool alike;          /* the same at all of them */
    bool some[16];       /* something */
    rmg_word stale;      /* bits that read as at the read before, */
    rmg_word before;     /* which gave this */
    rmg_word last;       /* read, where there are such bits */
    rmg_word join;       /* two bits that read what both make of each other; 0: none */
    rmg_word join_taken; /* those of them that take it */
    bool join_high;      /* a one wins */
} rmg_laid;

static inline rmg_word rmg_laid_joined(const rmg_laid *f, rmg_word word)
{
    const rmg_word both = word & f->join;

    return (f->join_high ? both != 0 : both == f->join) ? word | f->join : word & ~f->join;
}

/* What is seen of a word that gives this. */
static inline rmg_word rmg_laid_seen(const rmg_laid *f, unsigned low, rmg_word word)
{
    word = (word & f->and[low]) | f->or [low];
    return f->join ? rmg_laid_joined(f, word) : word;
}

/* What a word holds once this was written to it. */
static inline rmg_word rmg_laid_taken(const rmg_laid *f, unsigned low, rmg_word held,
                                      rmg_word value)
{
    if (f->join_taken)
        value = (value & ~f->join_taken) | (rmg_laid_joined(f, value) & f->join_taken);
    return f->takes ? (held & f->keeps[low]) |
                          (((value & f->take_and[low]) | f->take_or[low]) & ~f->keeps[low])
                    : value;
}

/* laid.c: from the call's address on, and for how many words, of `most`, that goes by their lowest
 * four address bits alone. */
rmg_addr rmg_laid_over(const rmg_walk *w, rmg_laid *laid, rmg_addr most);

/* Does a place, but for its lowest four address lines, hold an address? And for how many words from
 * it on, of `most`, does that stay the same? */
bool rmg_reaches(const rmg_where *where, rmg_addr address);
rmg_addr rmg_same_run(const rmg_where *where, rmg_addr from, bool down, rmg_addr most);

/* Words that hold the same, `held`: how many runs the element leaves of them, by which operations
 * (as ones); false: more than can be gathered. Then, which leaves them: returns what they hold. */
bool rmg_laid_runs(const rmg_walk *w, const rmg_laid *laid, rmg_word held, unsigned *runs,
                   uint32_t *operations);
rmg_word rmg_laid_alike(rmg_walk *w, rmg_laid *laid, rmg_addr first, rmg_addr count, rmg_word held);

/* The same of one word, by itself; its first operation meets these bits in *other. */
rmg_word rmg_laid_word(rmg_walk *w, rmg_laid *laid, rmg_addr address, rmg_word held, rmg_word bits,
                       rmg_word *other);

/* Are flat words, `count` from the lowest on, alike in these bits? */
bool rmg_flat_alike(const rmg_sim *sim, size_t lowest, rmg_addr count, rmg_word bits);

/* moved_element.c: `count` words from the call's address on, the first at `at`, of which some bits
 * stand elsewhere, in all of them alike. */
void rmg_walk_moved(rmg_walk *w, rmg_laid *laid, size_t at, rmg_addr count,
                    const rmg_moved_here *here);

/* timed.c: are all chips that are apart such as fade, and nothing else? Then the call's word, `at`
 * among the flat words, in a page that faults mark. */
bool rmg_timed_words(const rmg_sim *sim);
void rmg_walk_timed(rmg_walk *w, size_t at);

/* late.c: the call's word, of which the first operation meets these bits elsewhere. */
void rmg_walk_late(rmg_walk *w, rmg_laid *laid, size_t at, rmg_word bits, rmg_addr elsewhere);

/* stray.c: for how many words, of `most`, chips that drive at every read are as far away; what they
 * put out is laid over words from the call's on (false: they differ); and one by one. */
rmg_addr rmg_stray_run(const rmg_sim *sim, rmg_addr from, bool down, rmg_addr most);
bool rmg_stray_lay(rmg_walk *w, rmg_laid *laid, rmg_addr count);
void rmg_walk_stray(rmg_walk *w, size_t at, rmg_addr count);

/* stale.c: are words from an address on, of *most, of a chip that gives what it gave before? And an
 * element over these. */
bool rmg_stale_run(const rmg_sim *sim, rmg_addr from, bool down, rmg_addr *most);
void rmg_walk_stale(rmg_walk *w, rmg_laid *laid, size_t at, rmg_addr count);

/* touching.c: lines that touch are laid over words from an address on, for how many of *most. */
void rmg_touching_run(const rmg_sim *sim, rmg_laid *laid, rmg_addr from, bool down, rmg_addr *most);

/* gather.c: at the beginning of an element; `alike` is of ALIKE_KEPT. */
void rmg_walk_begin(rmg_walk *w, rmg_sim *sim, rmg_element_call *call, rmg_alike *alike);

/* A word that reads `actual` joins; false: there are more than two values. What was
 * gathered goes to the caller. */
bool rmg_wrong_add(rmg_wrong *wrong, uint16_t which, rmg_word actual);
void rmg_walk_hand_over(rmg_walk *w);

/* Words that read alike wrongly, of `count` from `first` up those of `which`, join the run of their
 * operation; `second`: the other run, for words that read something else there. */
void rmg_walk_add(rmg_walk *w, rmg_addr first, rmg_addr count, uint16_t which, uint8_t operation,
                  bool second, rmg_word expected, rmg_word actual);

/* One word that reads wrongly; the words of a page are gathered first. */
void rmg_walk_add_word(rmg_walk *w, rmg_addr address, uint8_t operation, rmg_word expected,
                       rmg_word actual);

/* Are failures told as they come? The first are; the others are gathered, where that can be. */
static inline bool rmg_walk_in_order(const rmg_walk *w)
{
    return !w->call->mismatch_run || w->call->op_count > OPS_MOST || w->told < TOLD_FIRST;
}

static inline void rmg_walk_wrong(rmg_walk *w, rmg_addr address, uint8_t operation,
                                  rmg_word expected, rmg_word actual)
{
    if (rmg_walk_in_order(w))
        w->call->mismatch(w->call->sink_context, address, operation, expected, actual);
    else
        rmg_walk_add_word(w, address, operation, expected, actual);
}

/* pairs_element.c: `count` words from the call's address on, the first at `at` among the flat
 * words; ones in `which` at those that stand in pairs, by their lowest four address bits. */
void rmg_walk_pairs(rmg_walk *w, size_t at, rmg_addr count, uint16_t which);

/* alike.c: does what becomes of a word in pages that faults mark follow from what its chips hold?
 * And may all words of a page be looked at together then? */
bool rmg_by_contents(const rmg_sim *sim);
bool rmg_by_pages(const rmg_sim *sim);

/* In such a page: the sixteen words from the call's address on, which is left at the last of them;
 * or the call's word. `at`: its place among the flat words. False: it must be played, and before
 * that *key is what it holds; played, it is kept with what came of it. */
bool rmg_alike_page(rmg_walk *w, size_t at);
bool rmg_alike_word(rmg_walk *w, size_t at, rmg_gathered *key);
void rmg_alike_keep(rmg_walk *w, size_t at, const rmg_gathered *key, uint32_t failed,
                    const rmg_word *actual);

/* Stores `words` again and again, `count` of them in all: it holds 16, or 1 where `alike`. */
void rmg_walk_fill(rmg_sim *sim, size_t lowest, rmg_addr count, const rmg_word *words, bool alike);

#endif
