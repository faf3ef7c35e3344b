#include "bench_job.h"

#include <glib/gstdio.h>

#include "../check.h"
#include "bench_board.h"
#include "temporary.h"

const char *bench_job_fresh(const char *name)
{
    const char *file = temporary_path(name);

    g_unlink(file);
    return file;
}

rmg_job *bench_job_made(const char *name, const rmg_board *board)
{
    const char *file = bench_job_fresh(name);
    rmg_error error;
    rmg_job *job = NULL;

    CHECK(rmg_job_new(file, board, "console 3", "dark after an hour", &error) == RMG_OK, "%s",
          error.what);
    rmg_error_free(&error);
    CHECK(rmg_job_open(file, &job, &error) == RMG_OK, "%s", error.what);
    rmg_error_free(&error);
    return job;
}

void bench_job_tell(rmg_job *job, rmg_entry_kind kind, const char *text)
{
    rmg_error error;

    CHECK(rmg_job_tell(job, kind, text, &error) == RMG_OK, "%s: %s", text, error.what);
    rmg_error_free(&error);
}

void bench_job_test(rmg_job *job, const rmg_board *board, const rmg_sim_fault *faults, size_t count)
{
    const rmg_plan plan = bench_plan(false, 2);
    const char *file = temporary_path("entry.run");
    rmg_run_writer *writer = rmg_run_writer_new(file);
    rmg_suspects none;
    rmg_error error;
    rmg_run run;

    bench_examine(board, faults, count, &plan, 3, &run, &none);
    CHECK(rmg_run_writer_close(writer, &run, NULL, 0, &error) == RMG_OK, "%s", error.what);
    rmg_error_free(&error);
    CHECK(rmg_job_add_run(job, "test", "a test", file, NULL, &error) == RMG_OK, "%s", error.what);
    rmg_error_free(&error);
    rmg_run_writer_free(writer);
    rmg_suspects_free(&none);
    rmg_run_end(&run);
}
