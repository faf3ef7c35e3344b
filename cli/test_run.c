/* A test run at work: watched, recorded in its run file, and told when it is over. */
#include <string.h>

#include "rimeglass/draw.h"
#include "rimeglass/result.h"
#include "test.h"

/* Who watches the run: the terminal, and the run file. */
typedef struct watcher {
    rmg_run *run;
    rmg_sim_board_run *sim;
    rmg_run_keeper keeper; /* without a file: none is written */
    bool stop;             /* the run file could not be written */
} watcher;

static uint64_t sim_clock(void *context)
{
    const watcher *w = context;

    return w->sim->sim.now_ns;
}

static bool on_progress(void *context, const rmg_run_progress *progress)
{
    const watcher *w = context;

    return progress_show(progress) && !w->stop;
}

static void on_failure(void *context, const rmg_failure *failure)
{
    const watcher *w = context;

    progress_failure(w->run->board, failure);
}

typedef rmg_status (*keeper_call)(rmg_run_keeper *keeper, const rmg_run *run, const void *state,
                                  size_t state_bytes, char **message);

/* The run and the simulated board as they stand. */
static bool record(watcher *w, keeper_call write)
{
    const size_t bytes = rmg_sim_state_bytes(&w->sim->sim);
    void *state;
    char *message;
    bool written = true;

    if (!w->keeper.file)
        return true;
    state = g_malloc(bytes);
    rmg_sim_save(&w->sim->sim, state);
    if (write(&w->keeper, w->run, state, bytes, &message) != RMG_OK) {
        fprintf(stderr, "rimeglass: %s\n", message);
        rmg_text_free(message);
        written = false;
    }
    g_free(state);
    return written;
}

static void on_pass(void *context)
{
    watcher *w = context;

    if (rmg_run_keeper_due(&w->keeper))
        w->stop = !record(w, rmg_run_keeper_write);
}

/* Writes what was asked for; false if a file could not be written. */
static bool write_files(const test_call *call, const rmg_run *run, const rmg_suspects *suspects)
{
    bool ok = true;
    char *message;

    if (call->json) {
        char *text = rmg_run_json(run, suspects);

        ok = write_result(call->json, text);
        rmg_text_free(text);
    }
    if (call->picture && rmg_draw_run(run, suspects, call->picture, &message) != RMG_OK) {
        fprintf(stderr, "rimeglass: %s\n", message);
        rmg_text_free(message);
        ok = false;
    }
    return ok;
}

static int conclude(const test_call *call, const rmg_run *run, const char *run_file)
{
    rmg_suspects suspects;
    bool written;

    rmg_suspects_find(run, &suspects);
    if (!call->json || strcmp(call->json, "-") != 0)
        print_report(stdout, run, &suspects);
    if (!run->complete)
        fprintf(stderr, "rimeglass test: the run is not complete: %s.\n",
                rmg_status_text(run->status));
    if (!run->complete && run_file && run->pass_count)
        fprintf(stderr, "Go on with: rimeglass test --resume %s\n", run_file);
    written = write_files(call, run, &suspects);
    rmg_suspects_free(&suspects);
    if (!written)
        return EXIT_CALL;
    if (!run->complete)
        return EXIT_INCOMPLETE;
    return rmg_run_failed(run) ? EXIT_FAULTS : EXIT_PASS;
}

int test_carry_out(const test_call *call, rmg_run *run, rmg_sim_board_run *sim)
{
    const char *file = call->resume ? call->resume : call->record;
    watcher w = {.run = run, .sim = sim};
    const rmg_watch watch = {&w, on_progress, sim_clock, on_failure, on_pass};
    bool recorded;
    int status;

    if (file)
        rmg_run_keeper_begin(&w.keeper, file);
    /* the boundary a resumed run begins at is kept should it stop before the next */
    recorded = !run->pass_count || record(&w, rmg_run_keeper_write);
    if (recorded) {
        progress_start();
        rmg_run_carry_out(run, &sim->target, &watch);
        progress_end();
        recorded = record(&w, rmg_run_keeper_close);
    }
    status = conclude(call, run, file);
    rmg_run_keeper_end(&w.keeper);
    return recorded ? status : EXIT_CALL;
}
