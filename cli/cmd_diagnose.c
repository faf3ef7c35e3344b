/* rimeglass diagnose: what a run that was kept in a file says, and what replay makes of it. */
#include "rimeglass/report.h"
#include "test.h"

static const char description[] =
    "Reads a run file (rimeglass test --record FILE) and reports what test reported at its\n"
    "end: what to look at, how sure that is, and what would settle it. Every fault that\n"
    "could explain the failures is simulated with the same plan; the report lists which\n"
    "reproduce them exactly (docs/diagnosis.md). No target is needed. Report what you know\n"
    "from other measurements with --known-good, --continuous, --open and --activity. With a\n"
    "board file instead of a run file, what was measured is all there is: it says which part\n"
    "of a traced line is left, and where to measure next.\n"
    "With --before, another run of the same plan before something was changed, it says what "
    "follows\n"
    "from the difference, and what to change next (docs/trials.md).\n\n"
    "Examples\n"
    "  rimeglass test demo/boards/halvorn64.yaml --on sim:demo/faults/halvorn64-u19.yaml\n"
    "      --record build/u19.run\n"
    "  rimeglass diagnose build/u19.run --of upper --cells build/upper.png\n"
    "  rimeglass diagnose build/u19.run --known-good U19\n"
    "  rimeglass diagnose build/after.run --before build/u19.run --changed \"swap U19 U20\"\n"
    "  rimeglass diagnose demo/boards/halvorn64.yaml --open U1.30-U11.13";

/* With a board file, and no run. */
static int diagnose_board(const run_output *out, const char *file, const rmg_error *error)
{
    rmg_board *board = NULL;
    rmg_errors errors = {0};
    int status = EXIT_CALL;

    if (rmg_board_load(file, &board, &errors) != RMG_OK)
        wrong_call("diagnose", "%s", error->what);
    else if (out->of || out->course || out->json || out->picture)
        wrong_call("diagnose",
                   "%s is a board file: --of, --course, --json and --picture need a run", file);
    else
        status = told_conclude(out, board);
    rmg_errors_free(&errors);
    rmg_board_free(board);
    return status;
}

int command_diagnose(GPtrArray *args)
{
    run_output out = {.verb = "diagnose"};
    gchar *json = NULL, *picture = NULL, *of = NULL, *cells = NULL, *course = NULL;
    trial_call trial = {0};
    rmg_error error = {0};
    fact_call facts = {0};
    const GOptionEntry entries[] = {
        FACT_OPTIONS(&facts),
        REPLAY_OPTION(&facts),
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &json, "write the result; - is stdout", "FILE"},
        {"of", 0, 0, G_OPTION_ARG_STRING, &of, "draw the failures of this socket or bank", "U19"},
        {"cells", 0, 0, G_OPTION_ARG_FILENAME, &cells,
         "where to draw them: by row and column, .png, .svg or .pdf", "FILE"},
        {"course", 0, 0, G_OPTION_ARG_FILENAME, &course,
         "draw failing reads over the passes, .png, .svg or .pdf", "FILE"},
        {"before", 0, 0, G_OPTION_ARG_FILENAME, &trial.before,
         "the run before something was changed: what follows from the difference", "RUN"},
        {"changed", 0, 0, G_OPTION_ARG_STRING, &trial.changed,
         "with --before: what was changed, like \"swap U19 U20\"; several by ;", "TEXT"},
        {"costs", 0, 0, G_OPTION_ARG_FILENAME, &trial.costs,
         "with --before: what changes cost on your bench", "FILE"},
        {"picture", 0, 0, G_OPTION_ARG_FILENAME, &picture, "draw the board, .png, .svg or .pdf",
         "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    rmg_run_file file = {0};
    int status;

    if (options_parse("diagnose", "RUN|BOARD", description, entries, args, &status)) {
        out.json = json;
        out.picture = picture;
        out.facts = &facts;
        out.of = of;
        out.cells = cells;
        out.course = course;
        status = EXIT_CALL;
        if (args->len != 1) {
            wrong_call("diagnose", "expected one run file, or board file, found %u", args->len);
        } else if (!of != !cells) {
            wrong_call("diagnose", "--of and --cells go together: what, and the picture's file");
        } else if (!trial.before && (trial.changed || trial.costs)) {
            wrong_call("diagnose", "--%s goes with --before", trial.changed ? "changed" : "costs");
        } else {
            if (rmg_run_file_read(g_ptr_array_index(args, 0), false, &file, &error) != RMG_OK)
                status = diagnose_board(&out, g_ptr_array_index(args, 0), &error);
            else if (of && rmg_draw_failures_check(file.board, of, &error) != RMG_OK)
                wrong_call("diagnose", "--of %s: %s", of, error.what);
            else if (course && !file.run.pass_count)
                wrong_call("diagnose", "--course %s: the run has not one whole pass to draw",
                           course);
            else if (trial.before && (of || course))
                wrong_call("diagnose", "--of and --course are of one run; leave out --before");
            else if (trial.before) {
                trial.json = json;
                trial.picture = picture;
                trial.facts = &facts;
                status = trial_conclude(&trial, &file.run);
            } else if (picture_ok("diagnose", file.board, picture))
                status = run_conclude(&out, &file.run);
            rmg_error_free(&error);
            rmg_run_file_free(&file);
        }
    }
    g_free(json);
    g_free(picture);
    g_free(of);
    g_free(cells);
    g_free(course);
    g_free(trial.before);
    g_free(trial.changed);
    g_free(trial.costs);
    facts_free(&facts);
    return status;
}
