/* A job of a test's own, and entries in it: each is a check. */
#ifndef RMG_TESTS_BENCH_JOB_H
#define RMG_TESTS_BENCH_JOB_H

#include "rimeglass/job.h"
#include "rimeglass/sim.h"

/* The path of a temporary file that is not there. */
const char *bench_job_fresh(const char *name);

/* A job in such a file, opened; close it with rmg_job_close. */
rmg_job *bench_job_made(const char *name, const rmg_board *board);

/* An entry that is no run; and a test of two passes with these faults. */
void bench_job_tell(rmg_job *job, rmg_entry_kind kind, const char *text);
void bench_job_test(rmg_job *job, const rmg_board *board, const rmg_sim_fault *faults,
                    size_t count);

#endif
