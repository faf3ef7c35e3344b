/* A run told: suspects found, replayed if that is asked for, printed and written. */
#include <string.h>

#include "rimeglass/draw.h"
#include "rimeglass/replay.h"
#include "rimeglass/result.h"
#include "test.h"

#define REPLAY_SECONDS 60.0 /* what is not replayed by then is told as not tried */

/* A picture's answer; false after saying what went wrong. */
static bool told(rmg_status status, char **message)
{
    if (status != RMG_OK)
        fprintf(stderr, "rimeglass: %s\n", *message);
    rmg_text_free(*message);
    *message = NULL;
    return status == RMG_OK;
}

/* Writes what was asked for; false if a file could not be written. */
static bool write_files(const run_output *out, const rmg_run *run, const rmg_suspects *suspects)
{
    bool ok = true;
    char *message = NULL;

    if (out->json) {
        char *text = rmg_run_json(run, suspects);

        ok = write_result(out->json, text);
        rmg_text_free(text);
    }
    if (out->picture)
        ok &= told(rmg_draw_run(run, suspects, out->picture, &message), &message);
    if (out->cells)
        ok &= told(rmg_draw_failures(run, out->of, out->cells, &message), &message);
    if (out->course)
        ok &= told(rmg_draw_course(run, out->course, &message), &message);
    return ok;
}

static bool go_on(void *context, double share)
{
    (void)context;
    return progress_share("replaying what it can be", share);
}

bool output_ok(const char *verb, const char *json, const char *picture)
{
    if (picture && !g_str_has_suffix(picture, ".png") && !g_str_has_suffix(picture, ".svg")) {
        wrong_call(verb, "--picture %s: expected a name that ends in .png or .svg", picture);
        return false;
    }
    return (!json || writable(verb, "json", json)) &&
           (!picture || writable(verb, "picture", picture));
}

int run_conclude(const run_output *out, const rmg_run *run)
{
    rmg_suspects suspects;
    rmg_facts facts;
    bool written;

    if (!facts_read(out->verb, out->facts, run->board, &facts)) {
        rmg_facts_end(&facts);
        return EXIT_CALL;
    }
    rmg_suspects_find(run, &facts, &suspects);
    if (!out->facts->no_replay) {
        progress_start();
        rmg_replay(run, &suspects, REPLAY_SECONDS, go_on, NULL);
        progress_end();
    }
    rmg_facts_end(&facts);
    if (!out->json || strcmp(out->json, "-") != 0)
        print_report(stdout, run, &suspects);
    if (!run->complete)
        fprintf(stderr, "rimeglass %s: the run is not complete: %s.\n", out->verb,
                rmg_status_text(run->status));
    if (!run->complete && out->run_file && run->pass_count)
        fprintf(stderr, "Go on with: rimeglass test --resume %s\n", out->run_file);
    written = write_files(out, run, &suspects);
    rmg_suspects_free(&suspects);
    if (!written)
        return EXIT_CALL;
    if (!run->complete)
        return EXIT_INCOMPLETE;
    return rmg_run_failed(run) ? EXIT_FAULTS : EXIT_PASS;
}
