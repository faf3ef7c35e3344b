/* Inside the host library: a suspect while it is being worded. */
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

typedef struct wording {
    const rmg_run *run;
    const rmg_facts *facts;
    const rmg_board *board;
    const rmg_suspects *all;
    rmg_suspect *s;
    GPtrArray *because;
    GPtrArray *next;
    GArray *rivals; /* of rmg_rival */
    cell_report cells;
} wording;

/* suspect_refine.c: makes the core's findings (a GArray of rmg_finding) finer, in place. */
void rmg_refine(const rmg_run *run, GArray *findings);

/* suspect_branch.c: joins findings beyond one point of a line, and traces all findings of lines. */
void rmg_join_branches(const rmg_run *run, GArray *list);
/* What the traced line says of a finding, as a sentence; where on it the fault lies; the sockets of
 * a branch. New texts; the first two NULL where no line is traced. */
gchar *rmg_trace_text(const rmg_run *run, const rmg_finding *f);
gchar *rmg_trace_span(const rmg_run *run, const rmg_finding *f);
gchar *rmg_branch_devices(const rmg_run *run, const rmg_finding *f);

/* suspect_shape.c */
void rmg_cells_look(const rmg_run *run, const rmg_finding *finding, cell_report *report);

/* suspect_names.c: new texts, to be freed by the caller. */
/* The data pins of the finding's bits: those that take data in, give it out, or either. */
gchar *rmg_name_data_pins(const rmg_board *board, const rmg_finding *f, bool in, bool out);
gchar *rmg_name_address_pins(const rmg_board *board, const rmg_finding *f);
/* "" or " of the x and y banks" where a data line serves only some. */
gchar *rmg_name_lane(const rmg_board *board, const rmg_finding *f);
const char *rmg_name_level(const rmg_finding *f); /* "always reads 0" */
/* A socketed chip of the same part that is no suspect, the same bank first; or RMG_NO_SOCKET. */
uint16_t rmg_neighbour_of(const wording *w);

/* Adds a step "Do this: what follows from it." and keeps "do this" as the one that settles it. */
void rmg_add_settling_step(wording *w, gchar *step);

/* suspect_sure.c: how sure the finding is, of so many findings of cells. */
double rmg_suspect_confidence(const wording *w, size_t cell_findings);

/* The same after replay: did a fault there give the very same failures, and is it the only
 * suspect? */
double rmg_suspect_replayed(const rmg_run *run, const rmg_suspect *s, bool same, bool alone);

/* suspect_next.c: rivals, with shares that do not add up yet, and steps of a suspect. */
void rmg_list_rivals_and_steps(wording *w);

/* suspect_rivals.c: the same; without what is known not to be, which makes the place less sure. */
void rmg_add_rivals_and_steps(wording *w);
/* Makes the shares of rivals (a GArray of rmg_rival) add up to 1, the likeliest first. What they
 * added up to before. */
double rmg_rivals_settle(GArray *rivals);

/* suspect_branch.c: the sockets that a finding is about and that were looked at, true in
 * sockets[socket of the board]. */
void rmg_finding_sockets(const rmg_run *run, const rmg_finding *f, bool *sockets);
/* ... is every chip that the finding is about known to be good? */
bool rmg_suspect_chips_good(const wording *w);

static inline void add_text(GPtrArray *list, gchar *text)
{
    g_ptr_array_add(list, text);
}

#endif
