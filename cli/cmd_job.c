/* rimeglass job: one repair in one file: what was done, what follows from it, the sheet. */
#include <string.h>

#include "cli.h"
#include "job_entry.h"
#include "rimeglass/job.h"
#include "rimeglass/report.h"
#include "test.h"

static const char description[] =
    "new FILE BOARD begins a job. Runs are added by --job FILE of test, log, verify, dump and "
    "probe.\n"
    "changed FILE TEXT tells what was changed: swap U19 U20, move U19 to U21, reseat U19, pull "
    "U19,\n"
    "  pull BANK, fit U19 with LABEL, replace U19 with LABEL, hold LABEL on U19, warm U19 to 45,\n"
    "  cool board, disturb U19 pin 5 with pin 8, lift U19 pin 2, bridge P-Q, repair R4, supply "
    "4750,\n"
    "  clock 2000000, jumper TEXT, nothing, other TEXT; several separated by ;\n"
    "saw FILE TEXT tells what was seen without a run: starts, does not start, reports 24576, of a\n"
    "  chip \"lot 7 passes in console 4\" or fails in, \"one like lot 7 fails in U19\", \"lot 7 "
    "is\n"
    "  marked slower\", marked as fast, as marked, not as marked, or words.\n"
    "measured FILE TEXT: U1.9-U18.14 whole, U1.9-R4 open, U5.15=still, U19 good.\n"
    "note FILE TEXT; correct FILE NUMBER TEXT; undo FILE takes the last entry back.\n"
    "show FILE: the timeline, what follows from tests and verifications, and what to change next;\n"
    "  --chips: where each chip was.\n"
    "report FILE --html SHEET, --pdf SHEET: for the owner, and the bench's record.\n\n"
    "Examples\n"
    "  rimeglass job new build/console.job demo/boards/halvorn64.yaml --owner \"console 3\"\n"
    "  rimeglass test demo/boards/halvorn64.yaml --on sim:demo/faults/halvorn64-u19.yaml\n"
    "      --job build/console.job\n"
    "  rimeglass job changed build/console.job swap U19 U20\n"
    "  rimeglass job show build/console.job";

typedef struct job_call {
    gchar *owner, *symptom, *json, *html, *pdf, *costs;
    gboolean chips, sure;
} job_call;

/* The words from `from` on as one text. */
static gchar *rest(const GPtrArray *args, guint from)
{
    GString *text = g_string_new(NULL);

    for (guint i = from; i < args->len; i++)
        g_string_append_printf(text, "%s%s", i > from ? " " : "",
                               (const char *)g_ptr_array_index(args, i));
    return g_string_free(text, FALSE);
}

static int said(rmg_status status, rmg_error *error)
{
    if (status == RMG_OK)
        return EXIT_PASS;
    wrong_call("job", "%s", error->what ? error->what : rmg_status_text(status));
    rmg_error_free(error);
    return EXIT_CALL;
}

static int begin_job(const job_call *call, const GPtrArray *args)
{
    rmg_error error = {0};
    rmg_board *board;
    int status;

    if (args->len != 3)
        return wrong_call("job", "expected new, the job's file and a board file");
    board = load_board(g_ptr_array_index(args, 2));
    if (!board)
        return EXIT_CALL;
    status = said(rmg_job_new(g_ptr_array_index(args, 1), board, call->owner ? call->owner : "",
                              call->symptom ? call->symptom : "", &error),
                  &error);
    if (status == EXIT_PASS)
        printf("%s: a job for %s%s%s. Add runs with --job %s.\n",
               (const char *)g_ptr_array_index(args, 1), board->name,
               *board->revision ? ", revision " : "", board->revision,
               (const char *)g_ptr_array_index(args, 1));
    rmg_board_free(board);
    return status;
}

/* What makes one wonder is asked, by refusing it once. */
static bool is_sure(const job_call *call, const rmg_board *board, const char *text)
{
    rmg_changes changes;
    rmg_error error;
    bool sure = true;

    if (rmg_changes_parse(board, text, &changes, &error) == RMG_OK)
        for (size_t i = 0; i < changes.count && sure && !call->sure; i++) {
            char *doubt = rmg_change_doubt(board, &changes.list[i]);

            if (doubt) {
                wrong_call("job", "%s; --sure, if it was done so", doubt);
                sure = false;
            }
            rmg_text_free(doubt);
        }
    rmg_error_free(&error);
    rmg_changes_free(&changes);
    return sure;
}

static int tell(const job_call *call, rmg_job *job, rmg_entry_kind kind, const GPtrArray *args)
{
    gchar *text = rest(args, 2);
    rmg_error error = {0};
    int status = EXIT_CALL;

    if (kind != RMG_ENTRY_CHANGE || is_sure(call, rmg_job_board(job), text))
        status = said(rmg_job_tell(job, kind, text, &error), &error);
    if (status == EXIT_PASS)
        printf("%s: %s\n", rmg_entry_name(kind), text);
    g_free(text);
    return status;
}

static int undo(rmg_job *job)
{
    rmg_error error = {0};
    char *what = NULL;
    const int status = said(rmg_job_undo(job, &what, &error), &error);

    if (what)
        printf("taken back: %s\n", what);
    rmg_text_free(what);
    return status;
}

static int correct(rmg_job *job, const GPtrArray *args)
{
    rmg_error error = {0};
    gchar *text = rest(args, 3);
    uint64_t number = 0;
    int status;

    if (args->len < 4 || !rmg_number_parse(g_ptr_array_index(args, 2), &number))
        status =
            wrong_call("job", "expected correct, the file, an entry's number and its new text");
    else
        status = said(rmg_job_correct(job, (int64_t)number, text, &error), &error);
    g_free(text);
    return status;
}

static bool go_on(void *context, double share)
{
    (void)context;
    return progress_share("simulating possible faults", share);
}

/* What followed from a verification. */
static void print_reading(const rmg_board *board, const rmg_job_state *state, int64_t entry)
{
    for (size_t i = 0; i < state->rom_count; i++)
        for (size_t n = 0; n < state->roms[i].reading_count; n++) {
            char *text;
            gchar *line;

            if (state->roms[i].readings[n].entry != entry || !state->roms[i].readings[n].followed)
                continue;
            text = rmg_job_reading_text(board, &state->roms[i], n);
            line = g_strdup_printf("-> %s", text);
            print_wrapped(stdout, "       ", 10, line);
            g_free(line);
            rmg_text_free(text);
        }
}

static void print_timeline(const rmg_board *board, const rmg_job_state *state,
                           const rmg_entry *entries, size_t count)
{
    printf("\nTimeline\n");
    for (size_t i = 0; i < count; i++) {
        const rmg_entry *e = &entries[i];
        gchar *lead = g_strdup_printf("  %3d  %.16s  %-9s ", (int)e->number, e->at,
                                      e->kind == RMG_ENTRY_RUN ? e->verb : rmg_entry_name(e->kind));
        gchar *text = g_strdup_printf("%s%s", e->undone ? "(taken back) " : "", e->text);

        print_wrapped(stdout, lead, (unsigned)strlen(lead), text);
        for (size_t s = 0; s < state->step_count; s++) {
            const rmg_job_step *step = &state->steps[s];

            if (step->entry != e->number || (!step->followed && !step->why_not))
                continue;
            g_free(text);
            if (step->followed) {
                char **lines = rmg_trial_lines(&step->trial, rmg_job_suspects_at(state, s));
                const char *again = rmg_job_begins_again(state, s);

                text = g_strdup_printf("-> %s %s%s%s", lines[0], lines[1], again ? " " : "",
                                       again ? again : "");
                rmg_texts_free(lines);
            } else {
                text = g_strdup_printf("-> not compared: %s", step->why_not);
            }
            print_wrapped(stdout, "       ", 10, text);
        }
        print_reading(board, state, e->number);
        g_free(text);
        g_free(lead);
    }
}

static void print_list(const rmg_board *board, const rmg_suspects *suspects,
                       const rmg_changes *changes, const rmg_hypothesis *list, size_t count)
{
    for (size_t i = 0, shown = 0; i < count; i++) {
        shown = i && list[i].fault == list[i - 1].fault ? shown + 1u : 0;
        if (shown >= CAUSES_SHOWN)
            continue;
        if (!shown)
            print_fault(suspects, list, count, list[i].fault);
        char *name = rmg_hypothesis_text(board, suspects, changes, &list[i]);
        gchar *lead = g_strdup_printf("  %5.1f %%  %-27s ", list[i].after * 100,
                                      rmg_belongs_name(list[i].belongs));

        print_wrapped(stdout, lead, (unsigned)strlen(lead), name);
        g_free(lead);
        rmg_text_free(name);
    }
}

static void print_causes(const rmg_board *board, const rmg_job_state *state, bool together)
{
    if (state->count)
        printf("\nWhat it can be%s\n", together ? ", were it one cause" : "");
    print_list(board, &state->suspects, &state->changes, state->list, state->count);
    for (size_t i = 0; i < state->rom_count; i++) {
        const rmg_job_rom *rom = &state->roms[i];
        const rmg_rom_verdict *base = &rom->readings[rom->base].verdict;

        printf("\nWhat it can be: %s\n", base->what);
        print_list(board, &base->suspects, &rom->changes, rom->list, rom->count);
        for (size_t n = 1; n < rom->advice_count && n < 3; n++) {
            char *text = rmg_job_rom_advice_text(board, &rom->advice[n]);

            print_wrapped(stdout, n == 1 ? "  Or: " : "      ", 6, text);
            rmg_text_free(text);
        }
    }
}

/* Chips and places that are not right together; false: there are none. */
static bool print_combinations(const rmg_board *board, const rmg_job_state *state)
{
    rmg_job_combination *list;
    size_t count;

    rmg_job_combinations_of(state, &list, &count);
    for (size_t i = 0; i < count; i++) {
        char *text = rmg_job_combination_text(board, &list[i]);
        char *next = rmg_job_combination_next(board, &list[i]);

        if (!i)
            printf("\nNot right together\n");
        print_wrapped(stdout, "  - ", 4, text);
        print_wrapped(stdout, "    ", 4, next);
        rmg_text_free(text);
        rmg_text_free(next);
    }
    rmg_job_combinations_free(list, count);
    return count > 0;
}

static void print_chips(const rmg_job_state *state)
{
    rmg_job_chips chips;

    rmg_job_chips_of(state, &chips);
    printf("Chips at each test (! failed there, - out of the board)\n  %-20s", "");
    for (size_t i = 0; i < chips.step_count; i++)
        printf(" %8d", (int)state->steps[i].entry);
    printf("\n");
    for (size_t n = 0; n < chips.count; n++) {
        printf("  %-20s", chips.list[n].name);
        for (size_t i = 0; i < chips.step_count; i++) {
            const char *place = chips.list[n].places[i];
            gchar *cell =
                g_strdup_printf("%s%s", place ? place : "-", chips.list[n].failed[i] ? "!" : "");

            printf(" %8s", cell);
            g_free(cell);
        }
        printf("\n");
    }
    if (!chips.count)
        printf("  no chip was moved, and none failed\n");
    for (size_t i = 0; i < state->elsewhere_count; i++) {
        char *text = rmg_job_elsewhere_text(&state->elsewhere[i]);

        printf("%s  %s\n", i ? "" : "Outside this board\n", text);
        rmg_text_free(text);
    }
    rmg_job_chips_free(&chips);
}

static void print_job(const rmg_job *job, const rmg_job_state *state, const rmg_entry *entries,
                      size_t count)
{
    char **lines = rmg_job_lines(job, state);

    for (size_t i = 0; lines[i]; i++)
        print_wrapped(stdout, "", 2, lines[i]);
    rmg_texts_free(lines);
    print_timeline(rmg_job_board(job), state, entries, count);
    print_causes(rmg_job_board(job), state, print_combinations(rmg_job_board(job), state));
    for (size_t i = 1; i < state->advice_count && i < 3; i++) {
        char *text = rmg_advice_text(rmg_job_board(job), &state->advice[i]);

        if (i == 1)
            printf("\nOr\n");
        print_wrapped(stdout, "  - ", 4, text);
        rmg_text_free(text);
    }
}

/* The sheet of a job, drawn in a process of its own: there the job is opened once more, for a
 * connection to it is not to be shared. */
typedef struct sheet {
    const job_call *call;
    const char *file; /* the job */
    const rmg_job_state *state;
    const rmg_entry *entries;
    size_t count;
} sheet;

static rmg_status write_sheets(const void *context, rmg_error *error)
{
    const sheet *s = context;
    rmg_job *job;
    rmg_status status = rmg_job_open(s->file, &job, error);

    if (status == RMG_OK && s->call->pdf)
        status = rmg_job_pdf(job, s->state, s->entries, s->count, s->call->pdf, error);
    if (status == RMG_OK && s->call->html) {
        char *text = rmg_job_html(job, s->state, s->entries, s->count);

        status = text ? rmg_file_write(s->call->html, text, strlen(text), error) : RMG_ERR_MEMORY;
        rmg_text_free(text);
    }
    rmg_job_close(job);
    return status;
}

/* Works out the state, and does with it what was asked for. */
static int conclude(const job_call *call, const char *file, rmg_job *job, bool report)
{
    rmg_cost_table costs;
    rmg_errors errors = {0};
    rmg_error error = {0};
    rmg_job_state state = {0};
    rmg_entry *entries = NULL;
    size_t count = 0;
    int status;

    rmg_costs_standard(&costs);
    if (call->costs && rmg_costs_load(call->costs, &costs, &errors) != RMG_OK) {
        print_errors(&errors);
        return EXIT_CALL;
    }
    progress_start();
    status = said(rmg_job_think(job, &costs, go_on, NULL, &state, &error), &error);
    progress_end();
    if (status == EXIT_PASS)
        status = said(rmg_job_entries(job, &entries, &count, &error), &error);
    if (status == EXIT_PASS)
        rmg_job_word(&state);
    if (status == EXIT_PASS && report &&
        !draw_apart(write_sheets, &(sheet){call, file, &state, entries, count},
                    call->html ? call->html : call->pdf))
        status = EXIT_CALL;
    if (status == EXIT_PASS && !report && call->json) {
        char *text = rmg_job_json(job, &state, entries, count);

        if (!write_result(call->json, text))
            status = EXIT_CALL;
        rmg_text_free(text);
    }
    if (status == EXIT_PASS && !report && !(call->json && strcmp(call->json, "-") == 0)) {
        if (call->chips) {
            print_chips(&state);
            print_combinations(rmg_job_board(job), &state);
        } else
            print_job(job, &state, entries, count);
    }
    rmg_entries_free(entries, count);
    rmg_job_state_free(&state);
    return status;
}

static int run_call(const job_call *call, const GPtrArray *args)
{
    static const char *const words[] = {"new",  "changed", "saw",  "measured", "note",
                                        "undo", "correct", "show", "report",   NULL};
    const char *word = args->len ? g_ptr_array_index(args, 0) : "";
    const char *near = rmg_nearest(word, words);
    rmg_error error = {0};
    rmg_job *job;
    int status;

    if (!g_strv_contains(words, word))
        return wrong_call("job",
                          "found \"%s\", expected one of new, changed, saw, measured, note, "
                          "undo, correct, show, report%s%s%s",
                          word, near ? "; did you mean " : "", near ? near : "", near ? "?" : "");
    if (strcmp(word, "new") == 0)
        return begin_job(call, args);
    if (args->len < 2)
        return wrong_call("job", "expected the job's file after \"%s\"", word);
    if (strcmp(word, "report") == 0 && !call->html && !call->pdf)
        return wrong_call("job", "expected --html FILE or --pdf FILE, where the sheet is to go");
    if (rmg_job_open(g_ptr_array_index(args, 1), &job, &error) != RMG_OK)
        return said(RMG_ERR_FILE, &error);
    status = strcmp(word, "changed") == 0    ? tell(call, job, RMG_ENTRY_CHANGE, args)
             : strcmp(word, "saw") == 0      ? tell(call, job, RMG_ENTRY_SAW, args)
             : strcmp(word, "measured") == 0 ? tell(call, job, RMG_ENTRY_MEASURED, args)
             : strcmp(word, "note") == 0     ? tell(call, job, RMG_ENTRY_NOTE, args)
             : strcmp(word, "undo") == 0     ? undo(job)
             : strcmp(word, "correct") == 0
                 ? correct(job, args)
                 : conclude(call, g_ptr_array_index(args, 1), job, strcmp(word, "report") == 0);
    rmg_job_close(job);
    return status;
}

int command_job(GPtrArray *args)
{
    job_call call = {0};
    const GOptionEntry entries[] = {
        {"owner", 0, 0, G_OPTION_ARG_STRING, &call.owner, "new: whose board it is", "TEXT"},
        {"symptom", 0, 0, G_OPTION_ARG_STRING, &call.symptom, "new: in the owner's words", "TEXT"},
        {"sure", 0, 0, G_OPTION_ARG_NONE, &call.sure,
         "changed: it was done so, whatever the board file says", NULL},
        {"chips", 0, 0, G_OPTION_ARG_NONE, &call.chips, "show: where each chip was, and how it did",
         NULL},
        {"costs", 0, 0, G_OPTION_ARG_FILENAME, &call.costs, "what changes cost on your bench",
         "FILE"},
        {"html", 0, 0, G_OPTION_ARG_FILENAME, &call.html, "report: the sheet", "FILE"},
        {"pdf", 0, 0, G_OPTION_ARG_FILENAME, &call.pdf, "report: the sheet as PDF", "FILE"},
        {"json", 0, 0, G_OPTION_ARG_FILENAME, &call.json, "show: write the job; - is stdout",
         "FILE"},
        G_OPTION_ENTRY_NULL,
    };
    int status;

    if (options_parse("job", "new|changed|saw|measured|note|undo|correct|show|report JOB ...",
                      description, entries, args, &status))
        status = run_call(&call, args);
    g_free(call.owner);
    g_free(call.symptom);
    g_free(call.json);
    g_free(call.html);
    g_free(call.pdf);
    g_free(call.costs);
    return status;
}
