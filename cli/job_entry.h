/* Runs of other commands as entries of a job. */
#ifndef RMG_CLI_JOB_ENTRY_H
#define RMG_CLI_JOB_ENTRY_H

#include "cli.h"

/* Can a run of this board (NULL: of no board) be added to the job? Says what is wrong. `file` NULL:
 * none is wanted, and true. */
bool job_takes(const char *verb, const char *file, const rmg_board *board);

/* Adds it: a line of what it said; a run file, or a result as JSON. Says what is wrong. */
bool job_add(const char *verb, const char *file, const char *line, const char *run_file,
             const char *result);

/* A name for a run file that is kept in a job alone. To be freed with g_free. */
gchar *job_run_name(const char *file);

#endif
