/* What others do to the tool: hostile files within limits of time and memory, signals, closed
 * files, full disks, kills at any moment, several at once. */
#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <jansson.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../check.h"
#include "../host/temporary.h"
#include "calls.h"

#define HALVORN "demo/boards/halvorn64.yaml"
#define NIGHT   "sim:demo/faults/halvorn64-night.yaml"

/* Less than a second of the processor's time, and 100 MB. Sanitizers need room of their own. */
static void small_limits(gpointer data)
{
    const struct rlimit time = {1, 1}, memory = {100000000, 100000000}, core = {0, 0};

    (void)data;
    setrlimit(RLIMIT_CPU, &time);
    setrlimit(RLIMIT_CORE, &core);
#ifndef SANITIZED
    setrlimit(RLIMIT_AS, &memory);
#else
    (void)memory;
#endif
}

#define HEAD                                                                                       \
    "board: x\nword: 8\naddress-lines: 16\nregions: [{name: r, range: 0x0-0xFFF, kind: ram}]\n"    \
    "banks: []\n"

/* Files below a kilobyte, all refused or answered within these limits. `times` copies of `again`
 * stand between head and tail. */
static void hostile_files(void)
{
    static const struct {
        const char *title, *words;
        const char *head, *again, *tail;
        unsigned times;
        const char *says;
    } rows[] = {
        {"an alias within itself", "board|check|%s",
         HEAD "sockets: []\nlines: [{name: A0, path: &a [", "U1.1, ", "*a]}]\n", 1, "aliases"},
        {"aliases of aliases", "board|check|%s",
         HEAD "sockets: []\na: &a [x,x,x,x,x,x,x,x]\nb: &b [*a,*a,*a,*a,*a,*a,*a,*a]\n"
              "c: &c [*b,*b,*b,*b,*b,*b,*b,*b]\nd: &d [*c,*c,*c,*c,*c,*c,*c,*c]\n",
         "", "", 0, "aliases"},
        {"lists in lists", "board|check|%s", HEAD "sockets: ", "[", "\n", 700, "more than 32 deep"},
        {"lists in lists, in lines", "board|check|%s", HEAD "sockets:\n  ", "- ", "\n", 400,
         "more than 32 deep"},
        {"a row of points", "board|check|%s", HEAD "sockets: []\nlines: [{name: D0-D63, path: [",
         "U1..U99999.5", "]}]\n", 1, "at most 128 chips"},
        {"many rows of points", "board|check|%s",
         HEAD "sockets: []\nlines: [{name: D0-D63, path: [U1.1", ",U1..U128.5", "]}]\n", 65,
         "more than 16384 points"},
        {"a row of sockets", "board|check|%s", HEAD "sockets: [{names: ", "U1-U99999",
         ", mount: socket}]\n", 1, "at most 128"},
        {"memory of 2^48 bytes", "test|%s|--on|sim:",
         "board: x\nword: 8\naddress-lines: 48\nbanks: []\nsockets: []\nregions:\n"
         "  - {name: r, range: 0x1-0xFFFFFFFFFFFE, kind: ram}\n",
         "", "", 0, "cannot be simulated"},
        {"a fault file of brackets", "test|" HALVORN "|--on|sim:%s", "faults: ", "[", "\n", 800,
         "more than 32 deep"},
        {"a plan of brackets", "test|" HALVORN "|--on|sim:|--plan|%s",
         "plan: x\nsteps: ", "{a: ", "\n", 200, "more than 32 deep"},
        {"a gap of a gigabyte", "identify|%s",
         ":020000040000FA\n:0100000041BE\n:020000043FFFBC\n:0100000042BD\n:00000001FF\n", "", "", 0,
         "such gaps are not filled"},
        {"a gap to be filled", "image|%s|--pad|1024M",
         ":020000040000FA\n:0100000041BE\n:020000043000CA\n:0100000042BD\n:00000001FF\n", "", "", 0,
         "such gaps are not filled"},
        {"a catalogue that names a device without end",
         "identify|demo/images/gauge.hex|--catalogue|%s", "images:\n",
         "  - {name: a, size: 256, crc32: \"00000000\", image: /dev/zero}\n", "", 8, ""},
        {"a fault file that names a device", "dump|" HALVORN "|U5|--on|sim:%s",
         "faults: [{kind: wrong image, socket: U5, image: /dev/zero}]\n", "", "", 0, "is no file"},
        {"a run file of brackets", "diagnose|%s", "", "[", "", 900, "not a run file"},
        {"a run file that is none", "diagnose|%s", "{\"rimeglass_run\": 3}", "", "", 0,
         "its board"},
        {"text that is no YAML", "board|check|%s", "%", "\t:", "\n", 300, "this is not YAML"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        GString *text = g_string_new(rows[i].head);
        const char *file = temporary_path("hostile");
        gchar *words = g_strdup_printf(rows[i].words, file);
        answer a;

        for (unsigned n = 0; n < rows[i].times; n++)
            g_string_append(text, rows[i].again);
        g_string_append(text, rows[i].tail);
        CHECK(text->len <= 1024, "%s: %zu bytes", rows[i].title, (size_t)text->len);
        CHECK(g_file_set_contents(file, text->str, (gssize)text->len, NULL), "written");
        a = call_with("rimeglass", words, NULL, small_limits);
        CHECK((a.status == 2 || (a.status == 1 && !*rows[i].says)) && strstr(a.err, rows[i].says),
              "%s: status %d, %s", rows[i].title, a.status, a.err);
        drop(&a);
        g_string_free(text, TRUE);
        g_free(words);
    }
    {
        answer a = call_with("rimeglass", "board|check|/dev/zero", NULL, small_limits);

        CHECK(a.status == 2 && strstr(a.err, "more than 8388608 bytes"), "%d, %s", a.status, a.err);
        drop(&a);
    }
}

static bool complete_in(const char *file, bool *readable)
{
    json_t *root = json_load_file(file, 0, NULL);
    const bool complete = json_is_true(json_object_get(root, "complete"));

    *readable = root != NULL;
    json_decref(root);
    return complete;
}

/* Ctrl-C, SIGTERM and a terminal that is closed end a run alike; others do no harm. */
static void signals(void)
{
    static const struct {
        const char *title;
        int signal, again;
        bool ends, at_once;
    } rows[] = {
        {"SIGINT", SIGINT, 0, true, false},      {"SIGTERM", SIGTERM, 0, true, false},
        {"SIGHUP", SIGHUP, 0, true, false},      {"SIGTERM twice", SIGTERM, SIGTERM, true, false},
        {"SIGWINCH", SIGWINCH, 0, false, false}, {"SIGPIPE", SIGPIPE, 0, false, false},
        {"SIGXFSZ", SIGXFSZ, 0, false, false}};
    gchar *run = g_strdup(temporary_path("signal.run"));
    gchar *json = g_strdup(temporary_path("signal.json"));
    gchar *out = g_strdup(temporary_path("signal.out"));
    gchar *words = g_strdup_printf(
        "test|" HALVORN "|--on|" NIGHT "|--until-stopped|--keep|--record|%s|--json|%s", run, json);

    for (size_t i = 0; i < COUNT(rows); i++) {
        const pid_t pid = begin(words, out, NULL);
        bool readable;
        int status;
        char *text;

        g_usleep(600000);
        kill(pid, rows[i].signal);
        if (rows[i].again)
            kill(pid, rows[i].again);
        if (!rows[i].ends) {
            g_usleep(200000);
            CHECK(waitpid(pid, &status, WNOHANG) == 0, "%s: goes on", rows[i].title);
            kill(pid, SIGINT);
        }
        status = ended(pid);
        CHECK(WIFEXITED(status) && WEXITSTATUS(status) == 3, "%s: status %x", rows[i].title,
              status);
        CHECK(!complete_in(json, &readable) && readable, "%s: the result is there", rows[i].title);
        text = file_text(out);
        CHECK(text && strstr(text, "NOT COMPLETE: stopped on request"), "%s: told", rows[i].title);
        g_free(text);
        CHECK(g_file_test(run, G_FILE_TEST_EXISTS) && !strangers(), "%s: nothing is left behind",
              rows[i].title);
        g_remove(json);
        g_remove(run);
    }
    g_free(words);
    g_free(run);
    g_free(json);
    g_free(out);
}

static void close_standard_files(gpointer data)
{
    (void)data;
    close(STDIN_FILENO);
    close(STDOUT_FILENO);
    close(STDERR_FILENO);
}

/* Closed files of the shell are not taken for those that are opened next. */
static void closed_files(void)
{
    gchar *json = g_strdup(temporary_path("closed.json"));
    gchar *run = g_strdup(temporary_path("closed.run"));
    gchar *words =
        g_strdup_printf("test|" HALVORN "|--on|sim:|--passes|2|--record|%s|--json|%s", run, json);
    const int status = ended(begin(words, temporary_path("closed.out"), close_standard_files));
    bool readable;

    CHECK(WIFEXITED(status) && WEXITSTATUS(status) == 2, "standard output cannot be written: %x",
          status);
    CHECK(complete_in(json, &readable) && readable, "the result is whole");
    CHECK(complete_in(run, &readable) && readable, "the run file too");
    g_free(words);
    g_free(json);
    g_free(run);
}

/* Many at once: every entry is there. */
static void added_at_once(void)
{
    enum { MANY = 12 };
    const char *catalogue = temporary_path("parallel.yaml");
    pid_t pids[MANY];
    unsigned good = 0, names = 0;
    char *text;

    g_remove(catalogue);
    for (unsigned i = 0; i < MANY; i++) {
        char name[24], content[24];
        gchar *words;

        g_snprintf(name, sizeof name, "image%u.bin", i);
        g_snprintf(content, sizeof content, "content of %u", i);
        words = g_strdup_printf("identify|%s|--add|--name|n%u|--catalogue|%s",
                                temporary_file(name, content), i, catalogue);
        pids[i] = begin(words, temporary_path("parallel.out"), NULL);
        g_free(words);
    }
    for (unsigned i = 0; i < MANY; i++)
        good += ended(pids[i]) == 0;
    text = file_text(catalogue);
    for (const char *p = text; p && (p = strstr(p, "name: ")) != NULL; p++)
        names++;
    CHECK(good == MANY && names == MANY, "%u added, %u entries", good, names);
    g_free(text);
}

static void ten_kilobytes(gpointer data)
{
    const struct rlimit limit = {10240, 10240};

    (void)data;
    setrlimit(RLIMIT_FSIZE, &limit);
}

/* A link stays a link, a mode a mode; of a split all files appear, or none; a full disk leaves the
 * old ones. */
static void files_replaced(void)
{
    gchar *file = g_strdup(temporary_file("mode.hex", "old")),
          *link = g_strdup(temporary_path("link.hex"));
    gchar *even = g_strdup(temporary_path("split.even"));
    gchar *words = g_strdup_printf("image|demo/images/gauge.hex|--force|--write|%s", link);
    struct stat about;
    answer a;

    CHECK(chmod(file, 0600) == 0 && symlink("mode.hex", link) == 0, "prepared");
    a = call(words);
    CHECK(a.status == 0 && lstat(link, &about) == 0 && S_ISLNK(about.st_mode), "a link: %s", a.err);
    CHECK(stat(file, &about) == 0 && (about.st_mode & 0777) == 0600 && about.st_size > 3,
          "its mode");
    drop(&a);
    g_free(words);
    words = g_strdup_printf("image|demo/images/gauge.hex|--split|%s,/nowhere/odd", even);
    a = call(words);
    CHECK(a.status == 2 && strstr(a.err, "/nowhere/odd") && !g_file_test(even, G_FILE_TEST_EXISTS),
          "all or none: %s", a.err);
    drop(&a);
    g_free(words);
    words = g_strdup_printf(
        "image|demo/images/halvorn64-system-2.1.bin|--as|intel|--force|--write|%s", file);
    a = call_with("rimeglass", words, NULL, ten_kilobytes);
    CHECK(a.status == 2 && strstr(a.err, "File too large") && stat(file, &about) == 0 &&
              about.st_size < 10240 && !strangers(),
          "no room: %s", a.err);
    drop(&a);
    g_unlink(link);
    g_free(words);
    g_free(file);
    g_free(link);
    g_free(even);
}

CU_TestInfo attack_tests[] = {
    {"hostile files", hostile_files}, {"signals", signals},
    {"closed files", closed_files},   {"files that are replaced", files_replaced},
    {"added at once", added_at_once}, CU_TEST_INFO_NULL,
};
