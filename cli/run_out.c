/* A run reported: suspects found, replayed if that is asked for, printed and written. */
#include <string.h>

#include "rimeglass/heard.h"
#include "rimeglass/report.h"
#include "rimeglass/replay.h"
#include "test.h"

/* What is drawn of a run. */
typedef struct drawn {
    const run_output *out;
    const rmg_run *run;
    const rmg_suspects *suspects;
} drawn;

static rmg_status draw_board(const void *context, rmg_error *error)
{
    const drawn *d = context;

    return rmg_draw_run(d->run, d->suspects, d->out->picture, error);
}

static rmg_status draw_cells(const void *context, rmg_error *error)
{
    const drawn *d = context;

    return rmg_draw_failures(d->run, d->out->of, d->out->cells, error);
}

static rmg_status draw_course(const void *context, rmg_error *error)
{
    const drawn *d = context;

    return rmg_draw_course(d->run, d->out->course, error);
}

/* Writes what was asked for; false if a file could not be written. */
static bool write_files(const run_output *out, const rmg_run *run, const rmg_suspects *suspects)
{
    const drawn d = {out, run, suspects};
    bool ok = true;

    if (out->json) {
        char *text = rmg_run_json(run, suspects);

        ok = write_result(out->json, text);
        rmg_text_free(text);
    }
    if (out->picture)
        ok &= draw_apart(draw_board, &d, out->picture);
    if (out->cells)
        ok &= draw_apart(draw_cells, &d, out->cells);
    if (out->course)
        ok &= draw_apart(draw_course, &d, out->course);
    return ok;
}

static bool go_on(void *context, double share)
{
    (void)context;
    return progress_share("simulating possible faults", share);
}

bool picture_ok(const char *verb, const rmg_board *board, const char *picture)
{
    rmg_error error;

    if (!picture || rmg_draw_check(board, &error) == RMG_OK)
        return true;
    wrong_call(verb, "--picture %s: %s", picture, error.what);
    rmg_error_free(&error);
    return false;
}

/* The report, and of ROMs that a test ROM has read; where these alone are to blame, they come
 * first.
 */
static void print_all(const rmg_run *run, const rmg_suspects *suspects, const told_roms *roms)
{
    const bool alone = told_roms_accused(roms) && !suspects->count;

    if (alone)
        print_told_heads(stdout, roms);
    print_report(stdout, run, suspects, alone);
    print_told_roms(stdout, roms, !alone);
}

int run_conclude(const run_output *out, const rmg_run *run)
{
    rmg_suspects suspects;
    rmg_status replayed = RMG_OK;
    rmg_facts facts;
    told_roms *roms;
    bool written, failed;

    if (!facts_read(out->verb, out->facts, run->board, &facts)) {
        rmg_facts_end(&facts);
        return EXIT_CALL;
    }
    rmg_suspects_find(run, &facts, &suspects);
    if (!out->facts->no_replay && (!run->heard || run->heard->told || rmg_heard_replayable(run))) {
        progress_start();
        replayed = rmg_replay(run, &suspects, RMG_REPLAY_WORK, go_on, NULL);
        progress_end();
    }
    rmg_facts_end(&facts);
    if (replayed != RMG_OK) {
        fprintf(stderr, "rimeglass %s: the failures cannot be explained here: %s%s%s.\n", out->verb,
                rmg_status_text(replayed), out->run_file ? "; later: rimeglass diagnose " : "",
                out->run_file ? out->run_file : "");
        rmg_suspects_free(&suspects);
        return EXIT_INCOMPLETE;
    }
    rmg_suspects_word(run, &suspects);
    roms = told_roms_judge(run, out->catalogue);
    failed = rmg_run_failed(run) || told_roms_accused(roms);
    if (!out->json || strcmp(out->json, "-") != 0)
        print_all(run, &suspects, roms);
    told_roms_free(roms);
    if (!run->complete && !run->heard)
        fprintf(stderr, "rimeglass %s: the run is not complete: %s.\n", out->verb,
                rmg_status_text(run->status));
    if (!run->complete && !run->heard && out->run_file)
        fprintf(stderr, "Continue with: rimeglass test --resume %s\n", out->run_file);
    written = write_files(out, run, &suspects);
    rmg_suspects_free(&suspects);
    if (!written)
        return EXIT_CALL;
    if (!run->complete || run->less)
        return EXIT_INCOMPLETE;
    return failed ? EXIT_FAULTS : EXIT_PASS;
}

int told_conclude(const run_output *out, const rmg_board *board)
{
    const rmg_plan plan = {
        .passes = 1, .march = rmg_march_c_minus, .march_name = "March C-", .seed = 1};
    rmg_suspects suspects = {0};
    rmg_error error = {0};
    rmg_facts facts;
    rmg_run run;
    int status = EXIT_CALL;

    if (!facts_read(out->verb, out->facts, board, &facts)) {
        /* said */
    } else if (!facts.open_count && !facts.seen_count) {
        wrong_call(out->verb,
                   "%s is a board file: expected what was measured on the board, with --open or "
                   "--activity, or a run file",
                   board->file);
    } else if (rmg_run_begin(&run, board, &plan, "none", &error) != RMG_OK) {
        wrong_call(out->verb, "%s", error.what);
        rmg_error_free(&error);
        rmg_run_end(&run);
    } else {
        rmg_suspects_told(&facts, &run, &suspects);
        rmg_suspects_word(&run, &suspects);
        if (!suspects.count)
            printf("What was measured says of no line that it is broken.\n");
        else
            print_heads(stdout, &suspects);
        for (size_t i = 0; i < suspects.count; i++)
            print_suspect(stdout, &suspects.list[i], suspects.count > 1);
        status = suspects.count ? EXIT_FAULTS : EXIT_PASS;
        rmg_suspects_free(&suspects);
        rmg_run_end(&run);
    }
    rmg_facts_end(&facts);
    return status;
}
