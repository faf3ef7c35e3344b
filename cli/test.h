/* The test command's own files. */
#ifndef RMG_CLI_TEST_H
#define RMG_CLI_TEST_H

#include "cli.h"
#include "facts.h"
#include "rimeglass/march.h"
#include "rimeglass/live.h"
#include "rimeglass/run.h"
#include "rimeglass/target.h"
#include "rimeglass/trial.h"

/* The call as it was typed. */
typedef struct test_call {
    gchar *on, *range, *bank, *region, *socket, *march, *plan, *time, *json, *picture, *record,
        *resume, *told, *job;
    int32_t conditions[4]; /* of `told` */
    gboolean keep, endless, live, blocks, load;
    fact_call facts;
    gint page;
    gint passes; /* -1: not given */
    gint64 seed;
    uint8_t code[RMG_MARCH_BYTES];
} test_call;

/* run_out.c: what becomes of a run's result. */
typedef struct run_output {
    const char *verb;
    const char *run_file; /* that it can be continued from; or NULL */
    const char *json, *picture;
    const fact_call *facts;
    const char *of, *cells; /* a socket or bank, and where its failures are drawn */
    const char *course;     /* where the passes are drawn */
    const char *catalogue;  /* images that ROMs might hold instead; or NULL */
} run_output;

/* Finds the suspects, prints and writes; the exit status. */
int run_conclude(const run_output *out, const rmg_run *run);
/* told_roms.c: the ROMs that a test ROM has read, judged; `catalogue`: images that they might hold
 * instead, or NULL. */
typedef struct told_roms told_roms;
told_roms *told_roms_judge(const rmg_run *run, const char *catalogue);
void told_roms_free(told_roms *roms);
bool told_roms_accused(const told_roms *roms);
void print_told_heads(FILE *to, const told_roms *roms);
void print_told_roms(FILE *to, const told_roms *roms, bool heads);
/* Each reading of them into a file of a folder; false: that cannot be, and was said. */
bool write_told_roms(const char *verb, const rmg_run *run, const char *folder);

/* The same of what was measured alone, without any run. */
int told_conclude(const run_output *out, const rmg_board *board);

/* trial.c: what follows from what was changed between two runs. */
typedef struct trial_call {
    gchar *before, *changed, *costs;
    const char *json, *picture;
    const fact_call *facts;
} trial_call;
int trial_conclude(const trial_call *call, const rmg_run *after);

#define CAUSES_SHOWN 8u /* of each fault */
/* Of several faults at once: a line before the causes of one. */
void print_fault(const rmg_suspects *suspects, const rmg_hypothesis *list, size_t count,
                 unsigned fault);

/* blocks.c: lets march elements go by blocks, and notes what they no longer find; false after
 * saying why they cannot. */
bool use_blocks(const rmg_steps *steps, rmg_opened *target);

/* Does the board file say where its sockets are, so that a picture (NULL: none) can be drawn? */
bool picture_ok(const char *verb, const rmg_board *board, const char *picture);

/* told.c: "clock=4000000,supply=4750" into values[4] by rmg_condition, RMG_NOT_KNOWN where nothing
 * is told; false after saying what is wrong. `told` may be NULL. And: over a run's own. */
bool told_read(const char *verb, const char *told, int32_t *values);
void told_into(const int32_t *values, int32_t *conditions_of_run);

/* live.c: the live view, where it is wanted; false after saying why it cannot be. */
typedef struct live_view {
    rmg_live *live; /* NULL: none */
    unsigned pinned;
} live_view;
bool live_begin(const char *verb, gboolean wanted, const rmg_board *board, const char *target,
                live_view *view);
void live_end(live_view *view);
bool live_show_run(live_view *view, rmg_run *run, const rmg_run_progress *progress);
bool live_show_lines(live_view *view, rmg_run *run);

/* test_limit.c: what the plan is limited to; says what is wrong with it. */
bool test_limit(const test_call *call, const rmg_board *board, rmg_plan *plan);

/* test_run.c: carries out the run, begun or read from a run file, and reports the result; the exit
 * status. `modules`: places physical addresses of this machine's memory; or NULL. */
int test_carry_out(const test_call *call, rmg_run *run, rmg_opened *target,
                   const rmg_board *modules);

#endif
