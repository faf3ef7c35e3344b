/* The run file: a run kept whole, so that it can be read later, or gone on with where it stopped.
 * Its form: docs/long-runs.md. */
#ifndef RIMEGLASS_RUNFILE_H
#define RIMEGLASS_RUNFILE_H

#include "run.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Writes run files of one run as it goes. Start with {0}. */
typedef struct rmg_run_keeper {
    char *file;
    void *boundary; /* results at the last boundary between passes that was written */
    void *state;    /* of the target there */
    double written; /* when, in seconds of a clock of its own */
} rmg_run_keeper;

/* Names the file; nothing is written yet. */
void rmg_run_keeper_begin(rmg_run_keeper *keeper, const char *file);
void rmg_run_keeper_end(rmg_run_keeper *keeper);

#define RMG_RUN_KEEP_SECONDS 1.0

/* Is the file to be written now, at a boundary between passes? Yes, but not within
 * RMG_RUN_KEEP_SECONDS of the last time: so the file is never older than one pass, or than so many
 * seconds where passes are shorter. */
bool rmg_run_keeper_due(const rmg_run_keeper *keeper);

/* Writes the run as it stands at a boundary between passes. `state` is what the target needs to go
 * on from there (a simulated board; NULL with 0 for a real one, which keeps its own). The file
 * appears whole or not at all. RMG_ERR_FILE, RMG_ERR_MEMORY: *message, to be freed with
 * rmg_text_free, says why; the file is as it was, and the call can be made again later. */
rmg_status rmg_run_keeper_write(rmg_run_keeper *keeper, const rmg_run *run, const void *state,
                                size_t state_bytes, char **message);

/* Writes the run as it ended; if that is not at a boundary, the last boundary is kept beside it. */
rmg_status rmg_run_keeper_close(rmg_run_keeper *keeper, const rmg_run *run, const void *state,
                                size_t state_bytes, char **message);

/* What was read from a run file. */
typedef struct rmg_run_file {
    rmg_board *board;
    rmg_run run; /* on `board` */
    void *state; /* of the target at the boundary; or NULL */
    size_t state_bytes;
} rmg_run_file;

/* Reads a run file: the run at its last boundary, ready for rmg_run_carry_out (`resume`), or as it
 * ended. RMG_ERR_FILE, RMG_ERR_CONTENT: *message says what is wrong with it. Free with
 * rmg_run_file_free in any case. */
rmg_status rmg_run_file_read(const char *file, bool resume, rmg_run_file *result, char **message);
void rmg_run_file_free(rmg_run_file *file);

#ifdef __cplusplus
}
#endif
#endif
