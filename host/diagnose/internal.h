/* Inside the host library: a suspect while it is put together. Records, no words. */
#ifndef RMG_HOST_SUSPECT_INTERNAL_H
#define RMG_HOST_SUSPECT_INTERNAL_H

#include <glib.h>

#include "base/internal.h"
#include "board/internal.h"
#include "rimeglass/suspect.h"

#define RMG_FEW_READS 10u /* that failed: too few to say that they are spread */

/* The form in which the failing cells of one socket lie. */
typedef enum cell_shape {
    SHAPE_ONE,      /* one cell */
    SHAPE_ROW,      /* several, all in one row */
    SHAPE_COLUMN,   /* several, all in one column */
    SHAPE_SCATTERED /* anything else */
} cell_shape;

typedef struct cell_report {
    cell_shape shape;
    uint64_t cells; /* failing words */
    rmg_addr row;   /* of SHAPE_ROW and SHAPE_ONE */
    rmg_addr column;
    rmg_addr first; /* lowest failing address */
    bool has_rows;  /* the part has rows and columns */
} cell_report;

/* A suspect while it is put together. */
typedef struct wording {
    const rmg_run *run;
    const rmg_facts *facts;
    const rmg_board *board;
    const rmg_suspects *all;
    rmg_suspect *s;
    GArray *reasons; /* of rmg_saying */
    GArray *steps;   /* of rmg_saying */
    GArray *rivals;  /* of rmg_rival */
    cell_report cells;
    struct rmg_same_words *same; /* of cells that fail in the same words */
} wording;

/* Findings that are joined where they make up all beyond a point of a line: which with which. */
typedef enum rmg_alike {
    RMG_ALIKE_NOTHING,
    RMG_ALIKE_ADDRESS, /* with those of the same lines */
    RMG_ALIKE_WRITE,
    RMG_ALIKE_DATA /* with those of the same kind and bit that read alike */
} rmg_alike;

/* Which traced lines a finding blames. */
typedef enum rmg_blames {
    RMG_BLAMES_NONE,
    RMG_BLAMES_ADDRESS,
    RMG_BLAMES_DATA,
    RMG_BLAMES_DATA_OF_BANK, /* of its half of the bus */
    RMG_BLAMES_WRITE,
    RMG_BLAMES_STROBE, /* control lines that are no write lines */
    RMG_BLAMES_AS_OF   /* as a finding of the kind that its `of` says */
} rmg_blames;

/* What replay proposes for a finding: a row of host/replay/propose.c each. */
typedef enum rmg_proposes {
    RMG_PROPOSES_NOTHING, /* as for what comes and goes */
    RMG_PROPOSES_SILENT,
    RMG_PROPOSES_DATA_LINE,
    RMG_PROPOSES_DATA_AT_SOCKET,
    RMG_PROPOSES_ADDRESS_LINES,
    RMG_PROPOSES_ADDRESS_AT_SOCKET,
    RMG_PROPOSES_CELLS,
    RMG_PROPOSES_NEVER_WRITTEN,
    RMG_PROPOSES_STALE,
    RMG_PROPOSES_TOUCHING,
    RMG_PROPOSES_SELECTS,
    RMG_PROPOSES_DRAGGED,
    RMG_PROPOSES_BRANCH,
    RMG_PROPOSES_SHARED,
    RMG_PROPOSES_SAME_WORDS,
    RMG_PROPOSES
} rmg_proposes;

/* kinds.c: a kind of finding. */
typedef struct rmg_finding_kind_row {
    rmg_said is;              /* what a suspect of it is */
    double sure;              /* when it repeats and stands alone */
    void (*list)(wording *w); /* rivals, with shares that do not add up yet, and steps */
    rmg_proposes proposes;
    rmg_alike alike;
    rmg_blames blames;
    bool mirrors; /* lines without effect: the memory repeats itself */
} rmg_finding_kind_row;

const rmg_finding_kind_row *rmg_finding_row(rmg_finding_kind kind);

/* say.c: the name of a saying, "SOCKET_LEVEL"; and the saying of that name, in small letters or
 * capitals (RMG_SAY_NOTHING: none). */
const char *rmg_said_name(rmg_said said);
rmg_said rmg_said_named(const char *name);

/* say.c: a saying about what the finding is about; and the same as a reason or a step. */
rmg_saying rmg_say_of(const rmg_finding *f, rmg_said said);
void rmg_add_reason(wording *w, rmg_saying saying);
void rmg_add_step(wording *w, rmg_saying saying);
/* ... and as the step that settles it. */
void rmg_add_settling_step(wording *w, rmg_saying step);

static inline void rmg_reason(wording *w, rmg_said said)
{
    rmg_add_reason(w, rmg_say_of(&w->s->finding, said));
}

static inline void rmg_step_to_take(wording *w, rmg_said said)
{
    rmg_add_step(w, rmg_say_of(&w->s->finding, said));
}

/* rivals.c: what facts rule out of the rivals goes to their end, and what is left adds up to 1.
 * `run` may be NULL. */
void rmg_rule_out(wording *w);

/* One more reason of a suspect that is put together already. */
void rmg_suspect_add_reason(rmg_suspect *s, rmg_saying saying);

/* suspect.c: the suspects of a list of findings (GArray of rmg_finding), in its order. */
void rmg_suspects_of(const rmg_run *run, const rmg_facts *facts, const GArray *findings,
                     rmg_suspects *suspects);

/* The words that the finding's bits fail in; NULL: all. */
const rmg_where *rmg_finding_where(const rmg_run *run, const rmg_finding *finding);

/* refine.c: makes the core's findings (a GArray of rmg_finding) finer, in place. */
void rmg_refine(const rmg_run *run, const rmg_facts *facts, GArray *findings);

/* chance.c: findings of cells that do not fail alike in each pass become findings about the places
 * that the failures fit, or about none. */
void rmg_weigh_what_comes_and_goes(const rmg_run *run, GArray *findings);

/* branch.c: joins findings beyond one point of a line, and traces all findings of lines. */
void rmg_join_branches(const rmg_run *run, GArray *list);
/* sets.c: is a part at the point of a line; its side away from the driver (rmg_measured_open). */
bool rmg_point_is_part(const rmg_point *point);
uint32_t rmg_line_far_side(uint16_t point);
/* Does the rule's chip hang on the finding's data line, not on that of another half of the bus? */
bool rmg_finding_on_lane(const rmg_board *board, const rmg_finding *f, const rmg_rule *rule);
/* Do the points of the line from `point` on that lead to `other` serve exactly the same sockets
 * there? */
bool rmg_line_serves_alike(const rmg_run *run, const rmg_line *line, uint16_t point,
                           uint16_t other);

/* shape.c */
void rmg_cells_look(const rmg_run *run, const rmg_finding *finding, cell_report *report);
/* The lowest row of the socket's chip in which one fails; false: none does. */
bool rmg_cells_least_row(const rmg_run *run, const rmg_finding *finding, rmg_addr *row);

/* same_words.c: joins findings of cells of several sockets that fail in the same words. */
void rmg_join_same_words(const rmg_run *run, GArray *list);
/* same_look.c: the failing words of such a finding. */
typedef struct rmg_same_words {
    rmg_addr first, last;
    uint64_t words;
    bool stretch;  /* they lie close together */
    bool in_holds; /* each failed first in a step that leaves the memory alone */
} rmg_same_words;
void rmg_same_words_look(const rmg_run *run, const rmg_finding *f, rmg_same_words *report);
/* A saying about them: the first, the last (`k`), how many. Are all chips of it DRAMs; do these
 * lose the words, left alone? */
rmg_saying rmg_say_of_words(const wording *w, rmg_said said);
bool rmg_are_drams(const wording *w);
bool rmg_lost_together(const wording *w);

/* heard.c: of a run that another program reported: its findings, a GArray of rmg_finding; what the
 * reports say; what a suspect is; how sure. */
void rmg_heard_findings(const rmg_run *run, GArray *list);
void rmg_heard_because(wording *w);
rmg_said rmg_heard_is(const rmg_finding *f);
double rmg_heard_confidence(const wording *w);
double rmg_heard_share(const wording *w); /* of all that was reported */

/* neighbour.c: a socketed chip of the same part that is no suspect, the same bank first; or
 * RMG_NO_SOCKET. */
uint16_t rmg_neighbour_of(const wording *w);

/* sure.c: how sure the finding is, of so many findings of cells. */
double rmg_suspect_confidence(const wording *w, size_t cell_findings);

/* In the one pass that there was, did each cell of the finding fail one read, and did few? That may
 * be chance as well. */
bool rmg_cells_failed_once(const rmg_run *run, const rmg_finding *f);

/* Did the wiring check find what whole passes after it contradict: not one word failed there? */
bool rmg_suspect_contradicted(const rmg_run *run, const rmg_finding *f);

/* The port was lost at the end, and no whole pass shows the finding: a far end that is about to die
 * may answer anything. */
bool rmg_suspect_unconfirmed(const rmg_run *run, const rmg_finding *f);

/* The same after replay: did a fault there give exactly the same failures, is it the only
 * suspect, and could none of all that were tried give most of them? */
double rmg_suspect_replayed(const rmg_run *run, const rmg_suspect *s, bool same, bool alone,
                            bool poor);

/* rivals.c: rivals and steps; without what is known not to be, which makes the place less sure. */
void rmg_add_rivals_and_steps(wording *w);
/* shares.c: makes the shares of rivals add up to 1, the likeliest first. What they added up to
 * before. */
double rmg_rivals_settle(rmg_rival *rivals, size_t count);

/* next.c: socketed chips on a data line that can be pulled one by one, true in sockets[]. */
void rmg_finding_pulls(const rmg_board *board, const rmg_finding *f, bool *sockets);
/* ... is every chip that the finding is about known to be good? */
bool rmg_suspect_chips_good(const wording *w);

#endif
