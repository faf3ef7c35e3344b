/* A test run at work: watched, recorded in its run file, and reported when it is over. */
#include <string.h>
#include <unistd.h>

#include "job_entry.h"
#include "test.h"

/* Who watches the run: the terminal, and the run file. */
typedef struct watcher {
    rmg_run *run;
    rmg_opened *target;
    rmg_run_writer *writer; /* NULL: none is written */
    rmg_status recorded;    /* how the last writing of the run file ended */
    live_view view;
} watcher;

static uint64_t target_clock(void *context)
{
    const watcher *w = context;

    return w->target->clock_ns(w->target->self);
}

static bool on_progress(void *context, const rmg_run_progress *progress)
{
    watcher *w = context;

    return w->view.live ? live_show_run(&w->view, w->run, progress) : progress_show(progress);
}

static int32_t typed_heat(void *context)
{
    const watcher *w = context;

    return w->view.live ? rmg_live_heat(w->view.live) : RMG_NOT_KNOWN;
}

static void on_failure(void *context, const rmg_failure *failure)
{
    const watcher *w = context;
    gchar *text;

    if (!w->view.live) {
        progress_failure(w->run->board, failure);
        return;
    }
    text = failure_text(w->run->board, failure);
    rmg_live_pin(w->view.live, text);
    g_free(text);
}

typedef rmg_status (*writer_call)(rmg_run_writer *writer, const rmg_run *run, const void *state,
                                  size_t state_bytes, rmg_error *error);

/* The run and its target as they stand, where the target does not keep its own state. What cannot
 * be written is said once: the file holds the boundary before, and the next one is tried again. */
static rmg_status record(watcher *w, writer_call write)
{
    const rmg_opened *t = w->target;
    const size_t bytes = t->save ? t->state_bytes(t->self) : 0;
    const rmg_status before = w->recorded;
    rmg_error error = {0};
    void *state;

    if (!w->writer)
        return RMG_OK;
    state = t->save ? g_try_malloc(bytes) : NULL;
    if (state)
        t->save(t->self, state);
    w->recorded =
        t->save && !state ? RMG_ERR_MEMORY : write(w->writer, w->run, state, bytes, &error);
    if (w->recorded != RMG_OK && before == RMG_OK)
        fprintf(stderr, "rimeglass: %s\n",
                error.what ? error.what : "the run file: no memory is left to write it");
    rmg_error_free(&error);
    g_free(state);
    return w->recorded;
}

static void on_pass(void *context)
{
    watcher *w = context;

    if (w->writer && rmg_run_writer_due(w->writer))
        record(w, rmg_run_writer_write);
}

/* "March C-, 2 of 2 passes: 16384 words fail". */
static bool add_to_job(const test_call *call, const rmg_run *run, const char *file)
{
    const uint64_t words = rmg_failset_words(run->failures, NULL, run->mask);
    gchar *line =
        g_strdup_printf("%s, %" G_GUINT64_FORMAT " pass%s%s: %s", run->steps.name, run->pass_count,
                        run->pass_count == 1 ? "" : "es", run->complete ? "" : ", not complete",
                        rmg_run_failed(run) ? "" : "nothing failed");
    gchar *whole =
        rmg_run_failed(run) && words
            ? g_strdup_printf("%s%" G_GUINT64_FORMAT " word%s fail%s", line, words,
                              words == 1 ? "" : "s", words == 1 ? "s" : "")
            : g_strdup_printf("%s%s", line, rmg_run_failed(run) ? "the wiring fails" : "");
    const bool added = job_add("test", call->job, whole, file, NULL);

    g_free(whole);
    g_free(line);
    return added;
}

/* Accesses of one pass, those of the wiring left out: they are few. */
static uint64_t pass_accesses(const rmg_run *run)
{
    uint64_t words = 0, accesses = 0;

    for (size_t i = 0; i < run->tested_count; i++)
        words += run->tested[i].last - run->tested[i].first + 1u;
    for (size_t i = 0; i < run->steps.count; i++)
        accesses += rmg_step_accesses(&run->steps.list[i], run->board, words);
    return accesses;
}

/* Says beforehand how long it takes where that is minutes, and what would be shorter. */
static void say_time(const rmg_run *run, const rmg_opened *target)
{
    const uint64_t a_pass = pass_accesses(run);
    const uint32_t passes = run->plan.passes;
    const double seconds = target->accesses_a_second > 0
                               ? (double)a_pass / target->accesses_a_second * MAX(passes, 1)
                               : 0;
    char text[24];

    if (seconds < 120 || (run->plan.seconds > 0 && run->plan.seconds < seconds))
        return;
    fprintf(
        stderr,
        "rimeglass test: %s about %s: %" G_GUINT64_FORMAT
        " accesses, some %.0f a second. Shorter: --plan quick, --passes 1, --range, --for TIME; "
        "rimeglass probe.\n",
        passes ? "this takes" : "a pass takes", time_text(seconds, text, sizeof text),
        a_pass * MAX(passes, 1), target->accesses_a_second);
}

int test_carry_out(const test_call *call, rmg_run *run, rmg_opened *target,
                   const rmg_board *modules)
{
    gchar *in_job = call->job && !call->record && !call->resume ? job_run_name(call->job) : NULL;
    const char *file = call->resume ? call->resume : call->record ? call->record : in_job;
    watcher w = {.run = run, .target = target};
    const rmg_watch watch = {&w,         on_progress, target->clock_ns ? target_clock : NULL,
                             on_failure, on_pass,     typed_heat};
    int status;

    if (!job_takes("test", call->job, run->board) ||
        !live_begin("test", call->live, run->board, run->target, &w.view)) {
        g_free(in_job);
        return EXIT_CALL;
    }
    rmg_target_describe(target, run);
    if (file)
        w.writer = rmg_run_writer_new(file);
    /* the boundary a resumed run begins at is kept should it stop before the next */
    if (!run->pass_count || record(&w, rmg_run_writer_write) == RMG_OK) {
        progress_start();
        say_time(run, target);
        rmg_run_carry_out(run, &target->target, &watch);
        live_end(&w.view);
        progress_end();
        record(&w, rmg_run_writer_close);
    } else {
        live_end(&w.view);
        run->complete = false;
        run->status = w.recorded;
    }
    told_into(call->conditions, run->conditions);
    rmg_target_find_places(target, run, modules);
    status = run_conclude(&(run_output){.verb = "test",
                                        .run_file = in_job ? NULL : file,
                                        .json = call->json,
                                        .picture = call->picture,
                                        .facts = &call->facts},
                          run);
    rmg_run_writer_free(w.writer);
    if (call->job && !add_to_job(call, run, file))
        status = EXIT_CALL;
    else if (in_job)
        unlink(in_job);
    g_free(in_job);
    if (w.recorded == RMG_ERR_MEMORY)
        return EXIT_INCOMPLETE;
    return w.recorded == RMG_OK ? status : EXIT_CALL;
}
