/* Runs of other commands as entries of a job. */
#include "job_entry.h"

#include <string.h>
#include <unistd.h>

#include "rimeglass/job.h"

bool job_takes(const char *verb, const char *file, const rmg_board *board)
{
    rmg_error error = {0};
    rmg_job *job = NULL;
    bool takes = true;

    if (!file)
        return true;
    if (rmg_job_open(file, &job, &error) != RMG_OK) {
        wrong_call(verb, "--job %s: %s", file, error.what);
        takes = false;
    } else if (board && strcmp(rmg_job_board(job)->hash, board->hash) != 0) {
        wrong_call(verb,
                   "--job %s: it is of %s%s%s, not of this board, or the board's file was "
                   "changed since",
                   file, rmg_job_board(job)->name,
                   *rmg_job_board(job)->revision ? ", revision " : "",
                   rmg_job_board(job)->revision);
        takes = false;
    }
    rmg_error_free(&error);
    rmg_job_close(job);
    return takes;
}

bool job_add(const char *verb, const char *file, const char *line, const char *run_file,
             const char *result)
{
    rmg_error error = {0};
    rmg_job *job = NULL;
    bool added = rmg_job_open(file, &job, &error) == RMG_OK &&
                 rmg_job_add_run(job, verb, line, run_file, result, &error) == RMG_OK;

    if (!added)
        wrong_call(verb, "--job %s: %s%s%s", file, error.what ? error.what : "",
                   run_file ? "; the run is kept in " : "", run_file ? run_file : "");
    rmg_error_free(&error);
    rmg_job_close(job);
    return added;
}

gchar *job_run_name(const char *file)
{
    return g_strdup_printf("%s.%ld.run", file, (long)getpid());
}
