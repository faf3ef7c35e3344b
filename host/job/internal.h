/* Inside the room: the open file. */
#ifndef RMG_HOST_JOB_INTERNAL_H
#define RMG_HOST_JOB_INTERNAL_H

#include <glib.h>
#include <sqlite3.h>

#include "base/internal.h"
#include "rimeglass/job.h"

struct rmg_job {
    gchar *file;
    sqlite3 *db;
    rmg_board *board;
    gchar *owner, *symptom, *begun;
};

/* measured.c: is it "SOCKET whole", "open" or "short"? Then *socket and *measured say so. */
bool rmg_job_at_socket(const rmg_board *board, const char *text, uint16_t *socket,
                       rmg_measured *measured);

/* Is it that, "A-B whole", "A-B open" or "POINT=still"? Takes it into the facts; RMG_ERR_CONTENT:
 * *error says what was expected. */
rmg_status rmg_job_measured(const rmg_board *board, const char *text, rmg_facts *facts,
                            rmg_error *error);

#endif
