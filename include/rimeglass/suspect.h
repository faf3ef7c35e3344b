/* Suspects: the findings of a run in words. Which site, how sure, why, what looks the same from
 * here, and the step that tells the rivals apart. How the figures come about: docs/diagnosis.md. */
#ifndef RIMEGLASS_SUSPECT_H
#define RIMEGLASS_SUSPECT_H

#include "finding.h"
#include "run.h"

#ifdef __cplusplus
extern "C" {
#endif

/* One of several causes that look alike from where the tool stands. */
typedef struct rmg_rival {
    char *name;
    double share; /* how often it is this one, of all at this site; the shares add up to 1 */
} rmg_rival;

typedef struct rmg_suspect {
    rmg_finding finding;
    char *site;        /* "U21", "data line D3", "address line A9 of the upper bank" */
    char *kind;        /* what it does, in a few words */
    char *headline;    /* where to look and why, in one sentence */
    double confidence; /* that the fault is at this site: 0..1 */
    double explained;  /* share of all failing (address, bit) that lies here: 0..1 */
    rmg_rival *rivals; /* [rival_count], the likeliest first */
    size_t rival_count;
    char *settle;   /* the step that tells the rivals apart, short; "" if there is none */
    char **because; /* sentences, NULL at the end */
    char **next;    /* steps, cheapest first, NULL at the end */
} rmg_suspect;

typedef struct rmg_suspects {
    rmg_suspect *list; /* [count], lines before cells, then the surest first */
    size_t count;
} rmg_suspects;

/* Finds the suspects of a run. *suspects is empty where nothing failed. Free with
 * rmg_suspects_free. */
void rmg_suspects_find(const rmg_run *run, rmg_suspects *suspects);
void rmg_suspects_free(rmg_suspects *suspects);

#ifdef __cplusplus
}
#endif
#endif
