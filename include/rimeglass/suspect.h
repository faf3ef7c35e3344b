/* Suspects: the findings of a run in words. Which site, how sure, why, what looks the same from
 * here, and the step that tells the rivals apart. How the figures come about: docs/diagnosis.md. */
#ifndef RIMEGLASS_SUSPECT_H
#define RIMEGLASS_SUSPECT_H

#include "fact.h"
#include "finding.h"
#include "run.h"
#include "sim.h"

#ifdef __cplusplus
extern "C" {
#endif

/* One of several causes that look alike from where the tool stands. */
typedef struct rmg_rival {
    char *name;
    double share;    /* how often it is this one, of all at this site; the shares add up to 1 */
    rmg_cause cause; /* RMG_CAUSES: none of the table, as with ROMs */
} rmg_rival;

/* A fault that the suspect can be, put into the simulated board (replay.h), and what it gave. */
typedef struct rmg_replayed {
    char *fault;           /* in words: "the output of U19 stuck" */
    uint64_t causes;       /* that would show like this: RMG_CAUSE_BIT of each */
    rmg_sim_fault *faults; /* [fault_count], the simulated ones */
    size_t fault_count;
    uint64_t explained; /* failing (address, bit) that were measured and foretold */
    uint64_t left;      /* measured, not foretold */
    uint64_t unseen;    /* foretold, not measured */
    bool as_often;      /* each bit failed in as many reads, where that can be compared */
    bool same;          /* nothing left, nothing unseen, as often, the same seen of the lines */
    bool floats;        /* only where undriven lines do otherwise than the board file says */
    bool whole;         /* the whole board was played, not only the words it has to do with */
} rmg_replayed;

typedef struct rmg_suspect {
    rmg_finding finding;
    char *site;        /* "U21", "data line D3", "address line A9 of the upper bank" */
    char *kind;        /* what it does, in a few words */
    char *headline;    /* where to look and why, in one sentence */
    double confidence; /* that the fault is at this site: 0..1 */
    double explained;  /* share of all failing (address, bit) that lies here: 0..1 */
    rmg_rival *rivals; /* [rival_count], the likeliest first */
    size_t rival_count;
    uint64_t excluded;     /* causes that are known not to be: RMG_CAUSE_BIT of each */
    char *settle;          /* the step that tells the rivals apart, short; "" if there is none */
    char **because;        /* sentences, NULL at the end */
    char **next;           /* steps, cheapest first, NULL at the end */
    rmg_replayed *replays; /* [replay_count], the best first; none before rmg_replay */
    size_t replay_count;
    size_t untried; /* proposals for which there was no time */
} rmg_suspect;

typedef struct rmg_suspects {
    rmg_suspect *list; /* [count], lines before cells, then the surest first */
    size_t count;
} rmg_suspects;

/* Finds the suspects of a run. *suspects is empty where nothing failed. `facts`: known by other
 * means; NULL: nothing, and the built-in table of causes. Free with rmg_suspects_free. */
void rmg_suspects_find(const rmg_run *run, const rmg_facts *facts, rmg_suspects *suspects);
void rmg_suspects_free(rmg_suspects *suspects);

#ifdef __cplusplus
}
#endif
#endif
