/* Boards as the command line makes and shows them: new ones by question, revisions, pictures, and
 * where a symptom points. */
#include <fcntl.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <signal.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../check.h"
#include "../host/temporary.h"
#include "calls.h"

#define HALVORN "demo/boards/halvorn64.yaml"
#define ANSWERS "demo/answers/tidegauge.yaml"

static const call_row calls[] = {
    {"board|show|demo/boards/halvorn64-d.yaml", 0, "revision D, based on halvorn64.yaml", ""},
    {"board|show|demo/boards/halvorn64-d.yaml|--differs|" HALVORN, 0, "U61-U68, there U11-U18", ""},
    {"board|show|" HALVORN "|--differs|" HALVORN, 0, "No difference", ""},
    {"board|show|" HALVORN "|--differs|none.yaml", 2, "", "none.yaml: cannot be read"},
    {"board|show|demo/boards/halvorn64-d.yaml|--differs|" HALVORN "|--json|-", 0,
     "\"rimeglass_board_differences\": 1", ""},
    {"board|show|" HALVORN "|--places", 0, "U11      U12      U13", ""},
    {"board|show|" HALVORN "|--solder-side", 0, "U18     U17      U16", ""},
    {"board|show|" HALVORN "|--picture|board.gif", 2, "", ".png, .svg or .pdf"},
    {"board|check|demo/boards/halvorn64-d.yaml", 0, "The spare bank holds RAM at 0x4000-0x40FF",
     ""},
    {"board|new|" HALVORN, 2, "", "exists; expected the name of a file that is to be written"},
    {"board|new", 2, "", "expected one board file after \"new\""},
    {"board|show|" HALVORN "|--defaults", 2, "", "go with new"},
    {"board|new|build/none/x.yaml|--answer|word", 2, "", "expected KEY=TEXT"},
    {"board|new|build/x.yaml|--answer|word=8", 2, "", "expected one to \"board\""},
    {"board|new|build/x.yaml|--answer|board=x|--answer|word=99", 2, "", "from 1 to 64"},
    {"board|new|build/x.yaml|--defaults", 2, "", "nothing stands for the answer to \"board\""},
    {"board|new|build/x.yaml|--answers|" HALVORN, 2, "", "expected a list of answers"},
    {"probe|" HALVORN "|--reports|24576", 1, "Try first, in this order: 0x8000", ""},
    {"probe|" HALVORN "|--reports|40960", 0, "nothing is missing", ""},
    {"probe|" HALVORN "|--reports|65536", 1, "more than there is", ""},
    {"probe|" HALVORN "|--reports|many", 2, "", "expected the number that the board shows"},
    {"probe|" HALVORN "|0x8000|--reports|1", 2, "", "--reports stands alone"},
    {"probe|" HALVORN "|--reports|24576|--json|-", 1, "\"try_first\": [", ""},
    {"probe|" HALVORN "|--saw|crash", 0, "look at upper, CAS upper, U34; try 0x8000 first", ""},
    {"probe|" HALVORN "|--saw|smoke", 0, "it has these", ""},
    {"probe|demo/boards/ostrel16.yaml|--saw|smoke", 2, "", "nothing under \"symptoms\""},
    {"job", 2, "", "expected one of new, changed, saw"},
    {"job|chaged|x.job", 2, "", "did you mean changed?"},
    {"job|show", 2, "", "expected the job's file"},
    {"job|show|none.job", 2, "", "there is no such file"},
    {"job|show|" HALVORN, 2, "", "is not a job"},
    {"job|new|x.job", 2, "", "expected new, the job's file and a board file"},
    {"job|report|x.job", 2, "", "expected --html FILE or --pdf"},
    {"test|" HALVORN "|--on|sim:|--job|none.job", 2, "", "--job none.job: none.job: there is no"},
    {"diagnose|none.run|--changed|nothing", 2, "", "--changed goes with --before"},
    {"verify|demo/shapes/rom-only.yaml|U21|--on|sim:demo/faults/rom-only-u21.yaml", 1,
     "U21: A5 (U21 pin 5)", ""},
    {"verify|demo/shapes/rom-only.yaml|U20|--on|sim:", 0, "It equals demo/images/", ""},
};

static void calls_answered(void)
{
    check_calls(calls, COUNT(calls));
}

/* Words of a call with one that is a file of the tests. */
static answer call_on(const char *before, const char *file, const char *after)
{
    gchar *words = g_strconcat(before, "|", file, after, NULL);
    answer a = call(words);

    g_free(words);
    return a;
}

static void a_new_board(void)
{
    const char *file = temporary_path("new.yaml");
    answer a;
    gchar *text;

    g_unlink(file);
    a = call_on("board|new", file, "|--answers|" ANSWERS);
    CHECK(a.status == 0 && strstr(a.out, "is written: 3 regions, 2 banks, 9 sockets"), "%s%s",
          a.out, a.err);
    drop(&a);
    a = call_on("board|check", file, "");
    CHECK(a.status == 0 && strstr(a.out, "no error found"), "%s%s", a.out, a.err);
    drop(&a);
    text = file_text(file);
    CHECK(text && strstr(text, "# undriven: not known"), "with remarks");
    g_free(text);
    a = call_on("board|new", file, "|--answers|" ANSWERS);
    CHECK(a.status == 2 && strstr(a.err, "exists"), "it is not written over: %s", a.err);
    drop(&a);
    g_unlink(file);
}

/* In the child: answers come from the file. */
static void from_answers(gpointer unused)
{
    const int fd = open(temporary_path("typed.txt"), O_RDONLY);

    (void)unused;
    dup2(fd, STDIN_FILENO);
}

/* Left in the middle, and gone on with; a wrong answer on the way costs nothing. */
static void left_and_gone_on_with(void)
{
    const char *file = temporary_path("left.yaml");
    gchar *kept = g_strconcat(file, ".answers", NULL);
    gchar *words = g_strdup_printf("board|new|%s", file);
    answer a;

    g_unlink(kept);
    g_unlink(file);
    temporary_file("typed.txt",
                   "Left piece\n?\n\nmany\n8\nlist\ncorrect 3 16\ncorrect 3\nback\nback\n"
                   "back\nback\nback\nLeft board\nleave\n");
    a = call_with("rimeglass", words, NULL, from_answers);
    CHECK(a.status == 3 && strstr(a.out, "Left after 1 answers") &&
              strstr(a.out, "There is no answer to take back") &&
              strstr(a.out, "    3  word           8") &&
              strstr(a.err, "found \"many\", expected a number from 1 to 64") &&
              strstr(a.err, "expected the number of an answer") && !strstr(a.out, "is written"),
          "status %d: %s%s", a.status, a.out, a.err);
    drop(&a);
    temporary_file("typed.txt",
                   "\n8\n12\n\n0-0x3FF ram all\ndone\nall\n2114\n\n\nU1 U2\nD4-D7\n\n\n\n");
    a = call_with("rimeglass", words, NULL, from_answers);
    CHECK(a.status == 0 && strstr(a.out, "Going on after 1 answer") &&
              strstr(a.out, "As understood") && !g_file_test(kept, G_FILE_TEST_EXISTS),
          "status %d: %s%s", a.status, a.out, a.err);
    drop(&a);
    g_unlink(file);
    g_free(words);
    g_free(kept);
}

/* In the child: an answer, and then nothing more. */
static void from_pipe(gpointer unused)
{
    int ends[2];

    (void)unused;
    if (pipe(ends) == 0 && write(ends[1], "Cut piece\nB\n16\n", 15) == 15)
        dup2(ends[0], STDIN_FILENO); /* the other end stays open: it waits */
}

/* Ctrl-C while it waits: what was answered is kept. */
static void interrupted(void)
{
    const char *file = temporary_path("cut.yaml");
    gchar *kept = g_strconcat(file, ".answers", NULL), *text = NULL;
    gchar *words = g_strdup_printf("board|new|%s", file);
    pid_t pid;

    g_unlink(kept);
    pid = begin(words, temporary_path("cut.txt"), from_pipe);
    for (unsigned n = 0; n < 5000 && !(text && strstr(text, "- word")); n++) {
        g_free(text);
        g_usleep(2000);
        text = file_text(kept);
    }
    kill(pid, SIGINT);
    CHECK(WEXITSTATUS(ended(pid)) == 3, "it says that it is not complete");
    g_free(text);
    text = file_text(kept);
    CHECK(text && strstr(text, "Cut piece") && strstr(text, "- word: \"16\""), "kept: %s",
          text ? text : "nothing");
    g_unlink(kept);
    g_free(text);
    g_free(kept);
    g_free(words);
}

/* Both sides of a board, in each form of picture; a PDF of ours may be replaced. */
static void pictures_of_boards(void)
{
    static const struct {
        const char *name, *begins, *holds;
    } forms[] = {{"board.png", "\x89PNG", "IHDR"},
                 {"board.svg", "<?xml", "Rimeglass"},
                 {"board.pdf", "%PDF-1.4", "/Count 2"}};

    for (size_t i = 0; i < COUNT(forms); i++)
        for (int time = 0; time < 2; time++) {
            const char *file = temporary_path(forms[i].name);
            gchar *after = g_strdup_printf("|--picture|%s%s", file, time ? "|--solder-side" : "");
            answer a = call_on("board|show", HALVORN, after);
            gchar *bytes = NULL;
            gsize size = 0;

            CHECK(a.status == 0 && !*a.err && g_file_get_contents(file, &bytes, &size, NULL) &&
                      size > 1000 && g_str_has_prefix(bytes, forms[i].begins) &&
                      memmem(bytes, size, forms[i].holds, strlen(forms[i].holds)),
                  "%s, time %d: %s", forms[i].name, time, a.err);
            g_free(bytes);
            g_free(after);
            drop(&a);
        }
}

/* A repair from the first test to the sheet; each run is added, each doubt asked. */
static void a_repair(void)
{
    const char *job = temporary_path("repair.job");
    const char *sheet = temporary_path("repair.html");
    static const struct {
        const char *before, *after;
        int status;
        const char *out, *err;
    } rows[] = {
        {"job|new", "|" HALVORN "|--symptom|<script>alert(1)</script>", 0, "a job for Halvorn", ""},
        {"job|show", "", 0, "No test yet", ""},
        {"test|" HALVORN "|--on|sim:demo/faults/halvorn64-u19.yaml|--job", "", 1, "Look at U19",
         ""},
        {"job|changed", "|swap|U19|U11", 2, "", "U11 is soldered in the board file"},
        {"job|changed", "|swap|U19|U99", 2, "", "expected a socket of the board"},
        {"job|changed", "|swap|U19|U20", 0, "changed: swap U19 U20", ""},
        {"job|saw", "|starts", 0, "saw: starts", ""},
        {"test|" HALVORN "|--on|sim:demo/faults/halvorn64-u20.yaml|--job", "", 1, "Look at U20",
         ""},
        {"job|show", "", 0, "It went with the chip, from U19 to U20 (swap U19 U20)", ""},
        {"job|show", "", 0, "Next: Replace U20", ""},
        {"verify|" HALVORN "|U5|--on|sim:|--job", "", 0, "It equals", ""},
        {"probe|" HALVORN "|upper|0=0|255=255|--job", "", 0, "Every value", ""},
        {"dump|" HALVORN "|U5|--on|sim:|--job", "", 0, "agree", ""},
        {"log|" HALVORN "|--profile|demo/profiles/columns.yaml|demo/logs/columns.txt|--job", "", 1,
         "Look at", ""},
        {"job|note", "|a wrong note", 0, "note: a wrong note", ""},
        {"job|correct", "|9|a right note", 0, "", ""},
        {"job|undo", "", 0, "taken back: note: a right note", ""},
        {"job|show", "|--chips", 0, "first in U19", ""},
        {"job|show", "|--json|-", 0, "\"rimeglass_job\": 1", ""},
        {"test|demo/boards/ostrel16.yaml|--on|sim:|--job", "", 2, "", "not of this board"},
    };
    gchar *after = g_strconcat("|--html|", sheet, NULL), *text;
    answer a;

    g_unlink(job);
    for (size_t i = 0; i < COUNT(rows); i++) {
        a = call_on(rows[i].before, job, rows[i].after);
        CHECK(a.status == rows[i].status && strstr(a.out, rows[i].out) &&
                  strstr(a.err, rows[i].err),
              "%s%s: status %d, %s%s", rows[i].before, rows[i].after, a.status, a.out, a.err);
        drop(&a);
    }
    a = call_on("job|report", job, after);
    text = file_text(sheet);
    CHECK(a.status == 0 && text && !strstr(text, "<script>") &&
              strstr(text, "&lt;script&gt;alert(1)&lt;/script&gt;") && !strstr(text, "src="),
          "the sheet: %s", a.err);
    g_free(text);
    drop(&a);
    g_free(after);
}

/* Two runs and a change between them, as text, JSON and picture. */
static void two_runs(void)
{
    gchar *before = g_strdup(temporary_path("trial-before.run")),
          *after = g_strdup(temporary_path("trial-after.run")),
          *picture = g_strdup(temporary_path("trial.png"));
    const struct {
        const char *words;
        int status;
        const char *out, *err;
    } rows[] = {
        {"--changed|swap U19 U20", 1, "It went with the chip, from U19 to U20", ""},
        {"--changed|swap U19 U20|--json|-", 1, "\"rimeglass_trial\": 1", ""},
        {"--changed|swap U19 U11", 1, "", "U11 is soldered"},
        {"--changed|swap U19", 2, "", "--changed: swap: found"},
        {"--changed|nothing|--of|U19|--cells|x.png", 2, "", "leave out --before"},
        {"--changed|nothing|--costs|demo/boards/halvorn64.yaml", 2, "", "no such key"},
        {"", 1, "what was changed was not stated", ""},
    };
    gchar *words = g_strdup_printf(
        "test|" HALVORN "|--on|sim:demo/faults/halvorn64-u19.yaml|--record|%s", before);
    answer a = call(words);

    drop(&a);
    g_free(words);
    words = g_strdup_printf("test|" HALVORN "|--on|sim:demo/faults/halvorn64-u20.yaml|--record|%s",
                            after);
    a = call(words);
    drop(&a);
    g_free(words);
    for (size_t i = 0; i < COUNT(rows); i++) {
        words = g_strdup_printf("diagnose|%s|--before|%s%s%s", after, before,
                                *rows[i].words ? "|" : "", rows[i].words);
        a = call(words);
        CHECK(a.status == rows[i].status && strstr(a.out, rows[i].out) &&
                  strstr(a.err, rows[i].err),
              "%s: status %d, %s%s", rows[i].words, a.status, a.out, a.err);
        drop(&a);
        g_free(words);
    }
    words = g_strdup_printf("diagnose|%s|--before|%s|--picture|%s", after, before, picture);
    a = call(words);
    CHECK(a.status == 1 && g_file_test(picture, G_FILE_TEST_EXISTS), "a picture: %s", a.err);
    drop(&a);
    g_free(words);
    g_free(before);
    g_free(after);
    g_free(picture);
}

CU_TestInfo new_board_tests[] = {
    {"two runs", two_runs},
    {"a repair", a_repair},
    {"calls answered", calls_answered},
    {"a new board", a_new_board},
    {"left and gone on with", left_and_gone_on_with},
    {"interrupted", interrupted},
    {"pictures of boards", pictures_of_boards},
    CU_TEST_INFO_NULL,
};
