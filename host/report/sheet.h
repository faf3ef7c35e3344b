/* Inside the room: the sheet of a job as blocks, before it is HTML or PDF. */
#ifndef RMG_HOST_REPORT_SHEET_H
#define RMG_HOST_REPORT_SHEET_H

#include <cairo.h>
#include <glib.h>

#include "rimeglass/report.h"

typedef enum sheet_kind {
    SHEET_TITLE,
    SHEET_HEADING,
    SHEET_RECORD, /* a heading on a new page */
    SHEET_SOFT,   /* said by the way */
    SHEET_WORDS,  /* the owner's own */
    SHEET_RESULT, /* what counts */
    SHEET_TEXT,
    SHEET_ITEM,  /* of a list */
    SHEET_HEADS, /* the first row of a table: its cells */
    SHEET_ROW,
    SHEET_STRUCK, /* a row that was taken back */
    SHEET_DRAWING /* the board as it was found */
} sheet_kind;

typedef struct sheet_block {
    sheet_kind kind;
    gchar *text; /* NULL: it has cells, or is a drawing */
    gchar *
        *cells; /* NULL at the end; lines in a cell after the first, by \n, are said by the way */
} sheet_block;

/* job_sheet.c: all blocks, of sheet_block; to be freed with g_array_free. */
GArray *rmg_sheet_of(const rmg_job *job, const rmg_job_state *state, const rmg_entry *entries,
                     size_t count);

/* draw.c: a run's board on a page of RMG_PEN_WIDTH by RMG_PEN_HEIGHT. */
void rmg_draw_run_on(cairo_t *cr, const rmg_run *run, const rmg_suspects *suspects);

#endif
