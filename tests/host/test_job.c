/* Jobs: what is told is there when the file is opened again; what follows from a whole repair;
 * files that are no jobs; two processes at once; killed in the middle. */
#include <glib.h>
#include <glib/gstdio.h>
#include <jansson.h>
#include <math.h>
#include <signal.h>
#include <sqlite3.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../check.h"
#include "bench_board.h"
#include "bench_job.h"
#include "rimeglass/job.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

#define HALVORN "demo/boards/halvorn64.yaml"

static void a_whole_repair(void)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_sim_fault first = {.kind = RMG_FAULT_OUTPUT, .chip = 8},
                        moved = {.kind = RMG_FAULT_OUTPUT, .chip = 9};
    rmg_job *job = bench_job_made("whole.job", board);
    rmg_job_state state;
    rmg_job_chips chips;
    rmg_entry *entries;
    rmg_error error;
    size_t count;
    char *text, **lines;
    json_t *root;

    bench_job_tell(job, RMG_ENTRY_SAW, "does not start");
    bench_job_tell(job, RMG_ENTRY_CHANGE,
                   "replace U5 with lot 3"); /* before anything is known: how the board is */
    bench_job_test(job, board, &first, 1);
    bench_job_tell(job, RMG_ENTRY_CHANGE, "swap U19 U20");
    bench_job_tell(job, RMG_ENTRY_NOTE, "<b>warm</b> & \"loud\"");
    bench_job_test(job, board, &moved, 1);
    bench_job_tell(job, RMG_ENTRY_CHANGE, "replace U20 with lot 7");
    CHECK(rmg_job_think(job, NULL, NULL, NULL, &state, &error) == RMG_OK, "%s", error.what);
    rmg_suspects_word(&state.steps[0].file.run, &state.suspects);
    CHECK(state.step_count == 2 && state.base == 0 && state.steps[1].followed &&
              state.steps[1].trial.outcome == RMG_OUTCOME_WENT && state.untested == 1 &&
              state.changes.count == 2 && !state.passes,
          "two tests, one change not tested");
    CHECK(state.count && state.list[0].belongs == RMG_BELONGS_CHIP && state.list[0].socket == 8 &&
              state.list[0].after > 0.99,
          "the chip first in U19: %.3f", state.count ? state.list[0].after : 0);
    lines = rmg_job_lines(job, &state);
    CHECK(strstr(lines[0], "It went with the chip, from U19 to U20") &&
              strstr(lines[1], "the chip in U19: its output is stuck; that chip is out of the "
                               "board now") &&
              strstr(lines[2], "test again; since the last test: replace U20 with lot 7"),
          "%s %s", lines[0], lines[2]);
    rmg_texts_free(lines);
    rmg_job_state_free(&state);
    bench_job_test(job, board, NULL, 0);
    CHECK(rmg_job_think(job, NULL, NULL, NULL, &state, &error) == RMG_OK, "%s", error.what);
    rmg_suspects_word(&state.steps[0].file.run, &state.suspects);
    CHECK(state.passes && state.step_count == 3 && !state.advice_count &&
              state.steps[2].trial.outcome == RMG_OUTCOME_GONE,
          "gone");
    rmg_job_chips_of(&state, &chips);
    CHECK(chips.count == 3 && strcmp(chips.list[0].name, "first in U19") == 0 &&
              strcmp(chips.list[0].places[1], "U20") == 0 && !chips.list[0].places[2] &&
              chips.list[0].failed[0] && chips.list[0].failed[1] &&
              strcmp(chips.list[2].name, "lot 7") == 0 && !chips.list[2].failed[2],
          "%zu chips", chips.count);
    rmg_job_chips_free(&chips);
    CHECK(rmg_job_entries(job, &entries, &count, &error) == RMG_OK && count == 8, "%zu entries",
          count);
    text = rmg_job_html(job, &state, entries, count);
    CHECK(text && strstr(text, "&lt;b&gt;warm&lt;/b&gt; &amp; &quot;loud&quot;") &&
              !strstr(text, "<b>") && !strstr(text, "<script") && strstr(text, "<svg"),
          "the sheet is escaped and has its drawing");
    CHECK(text && strstr(text, "The memory passes its test, 2 times in a row") &&
              strstr(text, "had failed (at place U19, moved to U20 to make sure)"),
          "for the owner");
    rmg_text_free(text);
    CHECK(rmg_job_pdf(job, &state, entries, count, temporary_path("sheet.pdf"), &error) == RMG_OK,
          "%s", error.what);
    rmg_error_free(&error);
    text = file_text(temporary_path("sheet.pdf"));
    CHECK(text && strncmp(text, "%PDF-1.4", 8) == 0 &&
              rmg_file_is_ours(temporary_path("sheet.pdf")),
          "as PDF");
    g_free(text);
    text = rmg_job_json(job, &state, entries, count);
    root = text ? json_loads(text, 0, NULL) : NULL;
    CHECK(json_integer_value(json_object_get(root, "rimeglass_job")) == 1 &&
              json_array_size(json_object_get(root, "entries")) == 8 &&
              json_is_true(json_object_get(root, "passes")),
          "as JSON");
    json_decref(root);
    rmg_text_free(text);
    rmg_entries_free(entries, count);
    rmg_job_state_free(&state);
    rmg_job_close(job);
    rmg_board_free(board);
}

/* A measurement that turns the order round: the likeliest is said, the same is not advised again,
 * and told twice it weighs once. */
static void measured_in_between(void)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_sim_fault dead = {.kind = RMG_FAULT_OUTPUT, .chip = 10};
    rmg_job *job = bench_job_made("measured.job", board);
    rmg_job_state before, once, twice;
    rmg_error error;

    bench_job_test(job, board, &dead, 1);
    CHECK(rmg_job_think(job, NULL, NULL, NULL, &before, &error) == RMG_OK, "%s", error.what);
    CHECK(before.count > 2 && before.list[0].belongs == RMG_BELONGS_CHIP, "the chip leads");
    bench_job_tell(job, RMG_ENTRY_MEASURED, "U21 open");
    CHECK(rmg_job_think(job, NULL, NULL, NULL, &once, &error) == RMG_OK, "%s", error.what);
    CHECK(once.count && once.list[0].belongs != RMG_BELONGS_CHIP, "an open pin is not the chip");
    for (size_t i = 1; i < once.count; i++)
        CHECK(once.list[i - 1].after >= once.list[i].after, "%zu: the likeliest first", i);
    for (size_t i = 0; i < once.advice_count; i++)
        CHECK(once.advice[i].change.kind != RMG_CHANGE_MEASURE ||
                  once.advice[i].change.socket != 10,
              "what was measured is advised again");
    bench_job_tell(job, RMG_ENTRY_MEASURED, "U21 open");
    CHECK(rmg_job_think(job, NULL, NULL, NULL, &twice, &error) == RMG_OK, "%s", error.what);
    for (size_t i = 0; i < twice.count; i++)
        CHECK(ABS(twice.list[i].after - once.list[i].after) < 1e-12,
              "%zu: told twice, weighed once", i);
    rmg_job_state_free(&before);
    rmg_job_state_free(&once);
    rmg_job_state_free(&twice);
    rmg_job_close(job);
    rmg_board_free(board);
}

static const struct {
    rmg_entry_kind kind;
    const char *text, *says;
} wrong[] = {
    {RMG_ENTRY_CHANGE, "swp U19 U20", "did you mean swap?"},
    {RMG_ENTRY_CHANGE, "", "expected words"},
    {RMG_ENTRY_SAW, "  ", "expected words"},
    {RMG_ENTRY_NOTE, "\xff\xfe", "not UTF-8"},
    {RMG_ENTRY_NOTE, "red \033[31m", "control character"},
    {RMG_ENTRY_MEASURED, "U1.9", "whole or open"},
    {RMG_ENTRY_MEASURED, "U1.9-U99.1 open", "U99"},
    {RMG_ENTRY_MEASURED, "U5.15=wobbly", "wobbly"},
    {RMG_ENTRY_MEASURED, "U99 good", "U99"},
};

static void told_and_taken_back(void)
{
    rmg_board *board = bench_load(HALVORN);
    rmg_job *job = bench_job_made("told.job", board);
    rmg_entry *list;
    size_t count;
    rmg_error error;
    char *what;

    for (size_t i = 0; i < COUNT(wrong); i++) {
        CHECK(rmg_job_tell(job, wrong[i].kind, wrong[i].text, &error) == RMG_ERR_CONTENT &&
                  strstr(error.what, wrong[i].says),
              "%s: %s", wrong[i].text, error.what ? error.what : "taken");
        rmg_error_free(&error);
    }
    CHECK(rmg_job_undo(job, &what, &error) == RMG_ERR_RANGE && !what, "nothing to take back");
    rmg_error_free(&error);
    bench_job_tell(job, RMG_ENTRY_MEASURED, "U1.9-U18.14 open");
    bench_job_tell(job, RMG_ENTRY_MEASURED, "U5.15=still");
    bench_job_tell(job, RMG_ENTRY_CHANGE, "reseat U20");
    CHECK(rmg_job_correct(job, 3, "reseat U19", &error) == RMG_OK, "%s", error.what);
    CHECK(rmg_job_correct(job, 3, "reseat U91", &error) == RMG_ERR_CONTENT, "checked too");
    rmg_error_free(&error);
    CHECK(rmg_job_correct(job, 9, "x", &error) == RMG_ERR_RANGE, "there is no such entry");
    rmg_error_free(&error);
    CHECK(rmg_job_undo(job, &what, &error) == RMG_OK && strcmp(what, "changed: reseat U19") == 0,
          "%s", what ? what : "");
    rmg_text_free(what);
    rmg_job_close(job);
    CHECK(rmg_job_open(temporary_path("told.job"), &job, &error) == RMG_OK, "again");
    CHECK(rmg_job_entries(job, &list, &count, &error) == RMG_OK && count == 3 && list[2].undone &&
              !list[1].undone && strcmp(list[0].text, "U1.9-U18.14 open") == 0 &&
              list[0].kind == RMG_ENTRY_MEASURED && strlen(list[0].at) == 20,
          "what was told is there");
    rmg_entries_free(list, count);
    CHECK(strcmp(rmg_job_owner(job), "console 3") == 0 &&
              strcmp(rmg_job_symptom(job), "dark after an hour") == 0 &&
              strcmp(rmg_job_board(job)->name, board->name) == 0,
          "the head too");
    rmg_job_close(job);
    rmg_board_free(board);
}

/* Files that are no jobs, or of other forms; boards that differ. */
/* What a stranger put into a job does not reach the terminal as it is. */
static void from_a_stranger(void)
{
    rmg_board *board = bench_load(HALVORN);
    rmg_job *job = bench_job_made("stranger.job", board);
    rmg_entry *entries = NULL;
    size_t count = 0;
    rmg_error error;
    sqlite3 *db;

    bench_job_tell(job, RMG_ENTRY_NOTE, "first");
    rmg_job_close(job);
    CHECK(sqlite3_open(temporary_path("stranger.job"), &db) == SQLITE_OK &&
              sqlite3_exec(db,
                           "UPDATE entry SET text = 'a' || char(27) || '[2Jb' || x'FF';"
                           "UPDATE fact SET value = char(155) || 'x' WHERE name = 'owner'",
                           NULL, NULL, NULL) == SQLITE_OK,
          "put in");
    sqlite3_close(db);
    CHECK(rmg_job_open(temporary_path("stranger.job"), &job, &error) == RMG_OK, "%s", error.what);
    CHECK(rmg_job_entries(job, &entries, &count, &error) == RMG_OK && count == 1 &&
              strcmp(entries[0].text, "a\xEF\xBF\xBD[2Jb\xEF\xBF\xBD") == 0,
          "%s", count ? entries[0].text : "");
    CHECK(strcmp(rmg_job_owner(job), "\xEF\xBF\xBDx") == 0, "%s", rmg_job_owner(job));
    rmg_entries_free(entries, count);
    rmg_job_close(job);
    rmg_board_free(board);
}

static void what_is_no_job(void)
{
    rmg_board *board = bench_load(HALVORN), *other = bench_load("demo/boards/ostrel16.yaml");
    rmg_job *job = bench_job_made("form.job", board), *opened;
    const char *file = temporary_path("form.job");
    rmg_error error;
    sqlite3 *db;

    CHECK(rmg_job_new(file, board, "", "", &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "exists"),
          "never written over");
    rmg_error_free(&error);
    rmg_job_close(job);
    CHECK(rmg_job_open(temporary_path("none.job"), &opened, &error) == RMG_ERR_FILE && !opened &&
              strstr(error.what, "no such file"),
          "%s", error.what);
    rmg_error_free(&error);
    CHECK(rmg_job_open(temporary_file("text.job", "not a job, but long enough to be looked at\n"),
                       &opened, &error) == RMG_ERR_CONTENT &&
              strstr(error.what, "is not a job"),
          "%s", error.what);
    rmg_error_free(&error);
    CHECK(sqlite3_open(file, &db) == SQLITE_OK &&
              sqlite3_exec(db, "PRAGMA user_version = 7", NULL, NULL, NULL) == SQLITE_OK,
          "a later form");
    sqlite3_close(db);
    CHECK(rmg_job_open(file, &opened, &error) == RMG_ERR_CONTENT &&
              strstr(error.what, "a job of form 7; this version knows forms up to 1"),
          "%s", error.what);
    rmg_error_free(&error);
    job = bench_job_made("other.job", other);
    {
        const rmg_plan plan = bench_plan(false, 1);
        rmg_run_writer *writer = rmg_run_writer_new(temporary_path("other.run"));
        rmg_suspects none;
        rmg_run run;

        bench_examine(board, NULL, 0, &plan, 3, &run, &none);
        rmg_run_writer_close(writer, &run, NULL, 0, &error);
        rmg_error_free(&error);
        CHECK(rmg_job_add_run(job, "test", "x", temporary_path("other.run"), NULL, &error) ==
                      RMG_ERR_ARGUMENT &&
                  strstr(error.what, "not of this job's board"),
              "%s", error.what);
        rmg_error_free(&error);
        rmg_run_writer_free(writer);
        rmg_suspects_free(&none);
        rmg_run_end(&run);
    }
    rmg_job_close(job);
    rmg_board_free(board);
    rmg_board_free(other);
}

/* Tells notes until it is killed, or has told so many. */
static pid_t teller(const char *file, unsigned notes, char letter)
{
    const pid_t pid = fork();

    if (pid)
        return pid;
    for (unsigned i = 0; i < notes; i++) {
        gchar *text = g_strdup_printf("%c%u", letter, i);
        rmg_error error;
        rmg_job *job;

        if (rmg_job_open(file, &job, &error) != RMG_OK ||
            rmg_job_tell(job, RMG_ENTRY_NOTE, text, &error) != RMG_OK)
            _exit(1);
        rmg_job_close(job);
        g_free(text);
    }
    _exit(0);
}

static size_t count_entries(const char *file)
{
    rmg_error error;
    rmg_job *job;
    rmg_entry *list = NULL;
    size_t count = 0;

    CHECK(rmg_job_open(file, &job, &error) == RMG_OK, "%s", error.what);
    rmg_error_free(&error);
    if (job) {
        CHECK(rmg_job_entries(job, &list, &count, &error) == RMG_OK, "%s", error.what);
        rmg_entries_free(list, count);
    }
    rmg_job_close(job);
    return count;
}

static void two_at_once(void)
{
    rmg_board *board = bench_load(HALVORN);
    const char *file = temporary_path("two.job");
    pid_t a, b;
    int one = 1, two = 1;

    rmg_job_close(bench_job_made("two.job", board));
    a = teller(file, 20, 'a');
    b = teller(file, 20, 'b');
    waitpid(a, &one, 0);
    waitpid(b, &two, 0);
    CHECK(one == 0 && two == 0 && count_entries(file) == 40, "all of both are there");
    rmg_board_free(board);
}

static void killed(void)
{
    rmg_board *board = bench_load(HALVORN);
    const char *file = temporary_path("killed.job");
    uint64_t dice = 77;
    size_t before = 0;

    rmg_job_close(bench_job_made("killed.job", board));
    /* on a busy machine nothing is told in so short a time: later ones wait longer */
    for (unsigned i = 0; i < 12 || (!before && i < 48); i++) {
        const pid_t pid = teller(file, 1000, 'k');
        size_t now;

        g_usleep((2000 + (gulong)bench_dice(&dice, 40000)) * (1 + i / 6));
        kill(pid, SIGKILL);
        waitpid(pid, NULL, 0);
        now = count_entries(file);
        CHECK(now >= before, "%zu entries, %zu before", now, before);
        before = now;
    }
    CHECK(before > 0, "something was told in between");
    rmg_board_free(board);
}

/* Thinks, and gives the share of the chip's own fault in U19; the state is to be freed. */
static double chip_share(rmg_job *job, rmg_job_state *state)
{
    rmg_error error;
    double share = 0;

    CHECK(rmg_job_think(job, NULL, NULL, NULL, state, &error) == RMG_OK, "%s", error.what);
    rmg_error_free(&error);
    for (size_t i = 0; i < state->count; i++)
        if (state->list[i].belongs == RMG_BELONGS_CHIP && state->list[i].socket == 8)
            share += state->list[i].after;
    return share;
}

/* What a chip does outside the board goes with it: for or against its own fault. */
static void outside_the_board(void)
{
    static const struct {
        const char *saw;
        int more; /* is its own fault likelier by that: 1, less likely: -1, neither: 0 */
    } rows[] = {{"U19 passes in console 4", -1}, {"first in U19 fails in console 4", 1},
                {"U20 passes in console 4", 0},  {"the picture fails in the corner", 0},
                {"U19 passes in ", 0},           {" passes in console 4", 0}};
    const rmg_sim_fault open = {.kind = RMG_FAULT_DATA_OPEN, .chip = 8};
    rmg_board *board = bench_load(HALVORN);
    rmg_job *job = bench_job_made("outside.job", board);
    rmg_job_state state;
    rmg_error error;
    double before, after;

    bench_job_test(job, board, &open, 1);
    before = chip_share(job, &state);
    CHECK(before > 0.05 && before < 0.95 && !state.elsewhere_count, "in doubt: %.3f", before);
    rmg_job_state_free(&state);
    for (size_t i = 0; i < COUNT(rows); i++) {
        bench_job_tell(job, RMG_ENTRY_SAW, rows[i].saw);
        after = chip_share(job, &state);
        CHECK(rows[i].more ? (after - before) * rows[i].more > 0.04 : fabs(after - before) < 0.01,
              "%s: %.3f, was %.3f", rows[i].saw, after, before);
        CHECK(state.elsewhere_count == (i < 3 ? 1u : 0u), "%s: %zu", rows[i].saw,
              state.elsewhere_count);
        rmg_job_state_free(&state);
        CHECK(rmg_job_undo(job, NULL, &error) == RMG_OK, "taken back");
    }
    bench_job_tell(job, RMG_ENTRY_CHANGE, "replace U19 with lot 7");
    CHECK(rmg_job_tell(job, RMG_ENTRY_SAW, "lod 7 passes in console 4", &error) ==
                  RMG_ERR_CONTENT &&
              strstr(error.what, "did you mean lot 7?"),
          "%s", error.what);
    rmg_error_free(&error);
    rmg_job_close(job);
    rmg_board_free(board);
}

static unsigned times(const char *text, const char *part)
{
    unsigned count = 0;

    for (const char *at = strstr(text, part); at; at = strstr(at + 1, part))
        count++;
    return count;
}

/* Steps, one a test: what was changed before it, and ! where the fault shows in it. */
static void follow(rmg_job *job, const rmg_board *board, const rmg_sim_fault *fault,
                   const char *text)
{
    gchar **steps = g_strsplit(text, "|", -1);

    for (size_t n = 0; steps[n]; n++) {
        const bool fails = g_str_has_suffix(steps[n], "!");

        steps[n][strcspn(steps[n], "!")] = '\0';
        if (*steps[n])
            bench_job_tell(job, RMG_ENTRY_CHANGE, steps[n]);
        bench_job_test(job, board, fault, fails);
    }
    g_strfreev(steps);
}

/* One of the two chips fails in U19 at each test, or neither; what is said of them at the end. */
static void not_right_together(void)
{
    static const struct {
        const char *steps; /* one a test: what was changed before it, and ! where U19 fails in it */
        const char *saw;
        unsigned count;
        const char *says, *next;
    } rows[] = {
        {"!|replace U19 with lot 7", "U19 passes in console 4", 1,
         "The chip first in U19 fails in U19 and passes in console 4, while the chip lot 7 passes "
         "in "
         "U19: each may be sound",
         "Put it back and test again"},
        {"!|replace U19 with lot 7", "U19 fails in console 4", 0, NULL, NULL},
        {"!|replace U19 with lot 7", "", 0, NULL, NULL},
        {"!|replace U19 with lot 7!", "lot 7 passes in console 4", 0, NULL, NULL}, /* the place */
        {"!|replace U19 with lot 7!|replace U19 with lot 8", "lot 7 passes in console 4", 1,
         "The chip lot 7 fails in U19 and passes in console 4, while the chip lot 8 passes",
         "Put it back and test again"},
        {"!|replace U19 with lot 7!|replace U19 with lot 8|replace U19 with lot 7!",
         "lot 7 passes in console 4", 1, "It failed there again",
         "Test it there at a slower clock"},
        {"!|replace U19 with lot 7!|replace U19 with lot 8|replace U19 with lot 7!|clock 2000000",
         "lot 7 passes in console 4", 1, "at the slower clock: its speed",
         "Compare its marking with"},
        {"!|replace U19 with lot 7!|replace U19 with lot 8|replace U19 with lot 7!|supply 5250",
         "lot 7 passes in console 4", 1, "at another supply", "Test it there at a slower clock"},
        {"!|replace U19 with lot 7; clock 1000000!|replace U19 with lot 8|"
         "replace U19 with lot 7; clock 2000000",
         "lot 7 passes in console 4", 1, "or the contact", "Put it back"},
        {"|!|replace U19 with lot 7", "U19 passes in console 4", 1, /* passed there once, too */
         "The chip first in U19 fails in U19 and passes in console 4, while the chip lot 7 passes",
         "Put it back and test again"},
        {"|replace U19 with lot 7!", "lot 7 passes in console 4", 1,
         "while the chip first in U19 passes in U19: each may be sound, and too slow or too weak "
         "for the other. Or the contact",
         "Put it back and test again"},
        {"|replace U19 with lot 7!", "", 0, NULL, NULL},
        {"!|swap U19 U20", "", 0, NULL, NULL}, /* gone; the contact, say */
        {"!|swap U19 U20|swap U19 U20!", "", 1,
         "The chip first in U19 fails in U19 and passes in U20, while the chip first in U20",
         "Test it there at a slower clock"}};
    const rmg_sim_fault fault = {.kind = RMG_FAULT_OUTPUT, .chip = 8};
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_job *job = bench_job_made("together.job", board);
        rmg_job_combination *list;
        rmg_job_state state;
        size_t count;

        follow(job, board, &fault, rows[i].steps);
        if (*rows[i].saw)
            bench_job_tell(job, RMG_ENTRY_SAW, rows[i].saw);
        chip_share(job, &state);
        rmg_job_combinations_of(&state, &list, &count);
        CHECK(count == rows[i].count, "%s; %s: %zu", rows[i].steps, rows[i].saw, count);
        for (size_t n = 0; n < count && rows[i].says; n++) {
            char *says = rmg_job_combination_text(board, &list[n]);
            char *next = rmg_job_combination_next(board, &list[n]);

            CHECK(strcasestr(says, rows[i].says) && strstr(next, rows[i].next), "%s; %s: %s %s",
                  rows[i].steps, rows[i].saw, says, next);
            rmg_text_free(says);
            rmg_text_free(next);
        }
        if (count && rmg_job_combination_sure(&list[0])) {
            char **lines, *text;
            rmg_entry *entries;
            size_t entry_count;
            rmg_error error = {0};

            CHECK(rmg_job_entries(job, &entries, &entry_count, &error) == RMG_OK, "entries");
            rmg_suspects_word(&state.steps[state.base].file.run, &state.suspects);
            lines = rmg_job_lines(job, &state);

            CHECK(strstr(lines[1], "are not right together") &&
                      strstr(lines[2], state.passes ? "The last test passed" : rows[i].next),
                  "%s %s", lines[1], lines[2]);
            rmg_texts_free(lines);
            text = rmg_job_html(job, &state, entries, entry_count);
            rmg_entries_free(entries, entry_count);
            CHECK(strstr(text, "does not work at place U19") && !strstr(text, "most likely, ") &&
                      strstr(text, "Not right together") &&
                      !times(text, "by one marked") == !strstr(rows[i].steps, "replace") &&
                      times(text, "by one marked") < 2 && /* what is in the socket at last */
                      (!state.count || strstr(text, "What it can be, were it one cause")),
                  "the sheet");
            rmg_text_free(text);
        }
        rmg_job_combinations_free(list, count);
        rmg_job_state_free(&state);
        rmg_job_close(job);
    }
    rmg_board_free(board);
}

/* A test that passed before something was changed: what that did not touch was right then. */
static void passed_before(void)
{
    static const struct {
        const char *steps; /* as above */
        bool weighed;
        rmg_belongs first;  /* the likeliest */
        double least, line; /* its share at U19, at least; of all lines, at most */
    } rows[] = {
        {"!", false, RMG_BELONGS_CHIP, 0.4, 1},
        {"|!", false, RMG_BELONGS_CHIP, 0.4, 1},
        {"|clock 2000000!", false, RMG_BELONGS_CHIP, 0.4, 1},
        {"|replace U19 with lot 7!", true, RMG_BELONGS_CHIP, 0.6, 0.06},
        {"|swap U11 U12|replace U19 with lot 7!", true, RMG_BELONGS_CHIP, 0.6, 0.06},
        {"|reseat U19!", true, RMG_BELONGS_CONTACT, 0.6, 0.15},
        {"!|replace U19 with lot 7!", false, RMG_BELONGS_UNKNOWN, 0, 1},
    };
    const rmg_sim_fault fault = {.kind = RMG_FAULT_DATA_OPEN, .chip = 8};
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_job *job = bench_job_made("passed.job", board);
        double line = 0, at = 0;
        rmg_job_state state;
        rmg_error error;
        char **lines;

        follow(job, board, &fault, rows[i].steps);
        CHECK(rmg_job_think(job, NULL, NULL, NULL, &state, &error) == RMG_OK, "%s", error.what);
        rmg_suspects_word(&state.steps[state.base].file.run, &state.suspects);
        for (size_t n = 0; n < state.count; n++) {
            line += state.list[n].belongs == RMG_BELONGS_LINE ? state.list[n].after : 0;
            at += state.list[n].belongs == rows[i].first && state.list[n].socket == 8
                      ? state.list[n].after
                      : 0;
        }
        CHECK((state.passed_before != 0) == rows[i].weighed && at >= rows[i].least &&
                  line <= rows[i].line,
              "%s: %g at U19, lines %g", rows[i].steps, at, line);
        CHECK(rows[i].least <= 0 || (state.count && state.list[0].belongs == rows[i].first),
              "%s: %s first", rows[i].steps, rmg_belongs_name(state.list[0].belongs));
        lines = rmg_job_lines(job, &state);
        CHECK(!rows[i].weighed || (strstr(lines[2], "What that did not touch was right then") &&
                                   strstr(lines[3], "Next: ")),
              "%s: %s", rows[i].steps, lines[2]);
        rmg_texts_free(lines);
        rmg_job_state_free(&state);
        rmg_job_close(job);
    }
    rmg_board_free(board);
}

/* What the table makes of trials, by hand; and which trial it asks for. */
static void why_not_together(void)
{
    rmg_cost_table costs;
    double sum = 0;

    rmg_costs_standard(&costs);
    for (int c = 0; c < RMG_TOGETHER_CAUSES; c++)
        sum += rmg_together_prior((rmg_together_cause)c);
    CHECK(sum > 0.999 && sum < 1.001, "the priors are %f", sum);
    for (unsigned n = 0; n < 729; n++) { /* each trial untried, passed, failed */
        uint8_t seen[RMG_TOGETHER_TRIALS];
        double all = 0, best = 0, by_hand[RMG_TOGETHER_CAUSES];
        rmg_together t;

        for (unsigned trial = 0, rest = n; trial < RMG_TOGETHER_TRIALS; trial++, rest /= 3)
            seen[trial] = (uint8_t)(rest % 3);
        rmg_together_weigh(seen, &costs, RMG_MOUNT_SOCKET, &t);
        for (int c = 0; c < RMG_TOGETHER_CAUSES; c++) {
            double one = rmg_together_prior((rmg_together_cause)c);

            for (int trial = 0; trial < RMG_TOGETHER_TRIALS; trial++) {
                const double passes =
                    rmg_together_chance((rmg_together_trial)trial, (rmg_together_cause)c);

                one *= !seen[trial] ? 1 : seen[trial] == RMG_TOGETHER_PASSES ? passes : 1 - passes;
            }
            all += one;
            by_hand[c] = one;
        }
        sum = 0;
        for (int c = 0; c < RMG_TOGETHER_CAUSES; c++) {
            sum += t.shares[c];
            CHECK(t.shares[c] > by_hand[c] / all - 1e-9 && t.shares[c] < by_hand[c] / all + 1e-9,
                  "%u: cause %d has %f", n, c, t.shares[c]);
            best = t.shares[c] > best ? t.shares[c] : best;
        }
        CHECK(all > 0 && sum > 0.999 && sum < 1.001 && best == t.shares[t.likeliest], "%u", n);
        CHECK(t.next == RMG_TOGETHER_TRIALS ||
                  (!seen[t.next] && t.bits > 0 && t.passes > 0 && t.passes < 1 &&
                   t.minutes < RMG_TOGETHER_WRONG_MINUTES * (1 - best)),
              "%u: trial %d", n, t.next);
        /* what is found on the way does not depend on its order: half of the trials, then all */
        if (t.next < RMG_TOGETHER_TRIALS) {
            uint8_t after[RMG_TOGETHER_TRIALS];
            double mean[RMG_TOGETHER_CAUSES] = {0};

            for (int fails = 0; fails < 2; fails++) {
                rmg_together with;

                memcpy(after, seen, sizeof after);
                after[t.next] = fails ? RMG_TOGETHER_FAILS : RMG_TOGETHER_PASSES;
                rmg_together_weigh(after, &costs, RMG_MOUNT_SOCKET, &with);
                CHECK(with.likeliest == t.then[fails] &&
                          with.shares[with.likeliest] > t.then_share[fails] - 1e-9 &&
                          with.shares[with.likeliest] < t.then_share[fails] + 1e-9,
                      "%u: what it foresees is what follows", n);
                for (int c = 0; c < RMG_TOGETHER_CAUSES; c++)
                    mean[c] += (fails ? 1 - t.passes : t.passes) * with.shares[c];
            }
            for (int c = 0; c < RMG_TOGETHER_CAUSES; c++)
                CHECK(mean[c] > t.shares[c] - 1e-9 && mean[c] < t.shares[c] + 1e-9,
                      "%u: in the mean nothing follows", n);
        }
        costs.costs[RMG_CHANGE_CLOCK][RMG_MOUNT_SOCKET].minutes = -1;
        rmg_together_weigh(seen, &costs, RMG_MOUNT_SOCKET, &t);
        CHECK(t.next != RMG_TOGETHER_CLOCK, "%u: a clock that cannot be changed", n);
        rmg_costs_standard(&costs);
    }
}

/* What is told of one like it and of its marking, in a job. */
static void told_of_its_like(void)
{
    static const struct {
        const char *saw, *next;
    } rows[] = {{"lot 7 is not as marked", "Compare its marking with that of lot 8"},
                {"lot 7 is as marked", "Test it there at a slower clock"},
                {"one like lot 7 fails in U19", "Compare its marking with that of lot 8"},
                {"lot 7 is marked slower", "Test it there at a slower clock"},
                {"lot 7 is marked as fast", "Test it there at a slower clock"},
                {"one like lot 7 fails in U20", "Test it there at a slower clock"}};
    double marked[COUNT(rows)];
    const rmg_sim_fault fault = {.kind = RMG_FAULT_OUTPUT, .chip = 8};
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_job *job = bench_job_made("like.job", board);
        rmg_job_combination *list;
        rmg_job_state state;
        size_t count;

        bench_job_test(job, board, &fault, true);
        bench_job_tell(job, RMG_ENTRY_CHANGE, "replace U19 with lot 7");
        bench_job_test(job, board, &fault, true);
        bench_job_tell(job, RMG_ENTRY_CHANGE, "replace U19 with lot 8");
        bench_job_test(job, board, &fault, false);
        bench_job_tell(job, RMG_ENTRY_CHANGE, "replace U19 with lot 7");
        bench_job_test(job, board, &fault, true);
        bench_job_tell(job, RMG_ENTRY_SAW, "lot 7 passes in console 4");
        bench_job_tell(job, RMG_ENTRY_SAW, rows[i].saw);
        chip_share(job, &state);
        rmg_job_combinations_of(&state, &list, &count);
        CHECK(count == 1, "%s: %zu", rows[i].saw, count);
        if (count == 1) {
            char *next = rmg_job_combination_next(board, &list[0]);
            char *says = rmg_job_elsewhere_text(&state.elsewhere[1]);

            CHECK(strstr(next, rows[i].next) && strcmp(says, rows[i].saw) == 0, "%s: %s", says,
                  next);
            marked[i] = list[0].together.shares[RMG_TOGETHER_MARKED];
            rmg_text_free(next);
            rmg_text_free(says);
        }
        rmg_job_combinations_free(list, count);
        rmg_job_state_free(&state);
        rmg_job_close(job);
    }
    CHECK(marked[0] > 0.7 && marked[1] < 0.05 && marked[2] < marked[5] && marked[3] < marked[4],
          "not as marked %f, as marked %f; one like it fails there %f, elsewhere %f; marked slower "
          "%f, as fast %f",
          marked[0], marked[1], marked[2], marked[5], marked[3], marked[4]);
    rmg_board_free(board);
}

/* The owner's sheet has the chips that came and are on the board, where they are now. */
static void what_is_new(void)
{
    static const struct {
        const char *steps, *has[2], *not_it;
    } rows[] = {
        {"replace U19 with lot 7|swap U19 U20|replace U19 with lot 8",
         {"U20 (type 4116), by one marked lot 7<", "U19 (type 4116), by one marked lot 8<"},
         "U19 (type 4116), by one marked lot 7"},
        {"replace U19 with lot 7|replace U19 with lot 8",
         {"U19 (type 4116), by one marked lot 8<", "What was replaced"},
         "by one marked lot 7"},
        {"replace U19 with lot 7|fit U19 with first in U19",
         {"What was found", "How it stands"},
         "What was replaced"},
        {"replace U19 with lot 7|pull U19", {"What was found", "How it stands"}, "by one marked"},
        {"replace U19 with lot 7; repair R4",
         {"U19 (type 4116), by one", "The wiring at R4"},
         "R5"},
    };
    const rmg_sim_fault fault = {.kind = RMG_FAULT_OUTPUT, .chip = 8};
    rmg_board *board = bench_load(HALVORN);

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_job *job = bench_job_made("new.job", board);
        gchar **steps = g_strsplit(rows[i].steps, "|", -1);
        rmg_error error = {0};
        rmg_entry *entries;
        rmg_job_state state;
        size_t count;
        char *text;

        bench_job_test(job, board, &fault, true);
        for (size_t n = 0; steps[n]; n++)
            bench_job_tell(job, RMG_ENTRY_CHANGE, steps[n]);
        chip_share(job, &state);
        CHECK(rmg_job_entries(job, &entries, &count, &error) == RMG_OK, "entries");
        rmg_suspects_word(&state.steps[state.base].file.run, &state.suspects);
        text = rmg_job_html(job, &state, entries, count);
        CHECK(strstr(text, rows[i].has[0]) && strstr(text, rows[i].has[1]) &&
                  !strstr(text, rows[i].not_it),
              "%s", rows[i].steps);
        rmg_text_free(text);
        rmg_entries_free(entries, count);
        rmg_job_state_free(&state);
        rmg_job_close(job);
        g_strfreev(steps);
    }
    rmg_board_free(board);
}

CU_TestInfo job_tests[] = {
    {"a whole repair", a_whole_repair},
    {"outside the board", outside_the_board},
    {"not right together", not_right_together},
    {"passed before", passed_before},
    {"why not together", why_not_together},
    {"told of its like", told_of_its_like},
    {"what is new at the end", what_is_new},
    {"measured in between", measured_in_between},
    {"told and taken back", told_and_taken_back},
    {"from a stranger", from_a_stranger},
    {"what is no job", what_is_no_job},
    {"two at once", two_at_once},
    {"killed", killed},
    CU_TEST_INFO_NULL,
};
