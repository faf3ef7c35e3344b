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
#ifndef __SANITIZE_ADDRESS__
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

/* The tool begun in the background, its output in files. */
static pid_t begin(const char *words, const char *out, GSpawnChildSetupFunc setup)
{
    gchar **list = g_strsplit(words, "|", -1);
    gchar **argv = g_new0(gchar *, g_strv_length(list) + 2);
    const pid_t pid = fork();

    if (pid == 0) {
        argv[0] = g_build_filename(RMG_BUILD, "rimeglass", NULL);
        for (size_t i = 0; list[i]; i++)
            argv[i + 1] = list[i];
        if (chdir(RMG_PROJECT) != 0 || !freopen(out, "w", stdout) ||
            !freopen("/dev/null", "w", stderr))
            _exit(99);
        if (setup)
            setup(NULL);
        execv(argv[0], argv);
        _exit(99);
    }
    g_strfreev(list);
    g_free(argv);
    return pid;
}

static int ended(pid_t pid)
{
    int status = 0;

    CHECK(waitpid(pid, &status, 0) == pid, "ends");
    return status;
}

/* Files in the tests' folder that are not among these. */
static unsigned strangers(void)
{
    gchar *folder = g_path_get_dirname(temporary_path("x"));
    GDir *dir = g_dir_open(folder, 0, NULL);
    const gchar *name;
    unsigned count = 0;

    while (dir && (name = g_dir_read_name(dir)) != NULL)
        count += *name == '.';
    if (dir)
        g_dir_close(dir);
    g_free(folder);
    return count;
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

/* A run's, or reading's, result without times. */
static json_t *outcome(const char *file)
{
    json_t *root = json_load_file(file, 0, NULL), *each, *one;
    size_t i;

    json_object_del(root, "seconds_wall");
    json_object_del(root, "target");
    each = json_object_get(json_object_get(root, "passes"), "each");
    json_array_foreach(each, i, one) json_object_del(one, "ended_seconds_wall");
    return root;
}

static void kill_after(pid_t pid, unsigned us)
{
    g_usleep(us);
    kill(pid, SIGKILL);
    ended(pid);
}

#ifdef __SANITIZE_ADDRESS__
#define KILLS 1u
#else
#define KILLS 4u
#endif

/* So many kills: RMG_TEST_KILLS. */
static unsigned kills(void)
{
    const char *asked = getenv("RMG_TEST_KILLS");

    return asked ? (unsigned)strtoul(asked, NULL, 10) : KILLS;
}

/* A soak killed at any moment, gone on with, ends as one that was never killed. */
static void soaks_killed(void)
{
    gchar *run = g_strdup(temporary_path("killed.run")),
          *json = g_strdup(temporary_path("killed.json"));
    gchar *out = g_strdup(temporary_path("killed.out"));
    gchar *whole = g_strdup_printf("test|" HALVORN "|--on|" NIGHT "|--passes|60|--json|%s", json);
    gchar *begun = g_strdup_printf("test|" HALVORN "|--on|" NIGHT "|--passes|60|--record|%s", run);
    gchar *resumed = g_strdup_printf("test|--resume|%s|--passes|60|--json|%s", run, json);
    unsigned same = 0, gone_on = 0;
    json_t *wanted;

    ended(begin(whole, out, NULL));
    wanted = outcome(json);
    for (unsigned i = 0; i < kills(); i++) {
        json_t *got;

        g_remove(run);
        g_remove(json);
        kill_after(begin(begun, out, NULL), 5000 + i * 150007 % 500000);
        if (!g_file_test(run, G_FILE_TEST_EXISTS))
            continue; /* before the first boundary */
        gone_on++;
        kill_after(begin(resumed, out, NULL), 1000 + i * 104729 % 150000);
        ended(begin(resumed, out, NULL));
        got = outcome(json);
        same += json_equal(got, wanted) ? 1u : 0u;
        json_decref(got);
    }
    CHECK(same == gone_on && !strangers(), "%u of %u", same, gone_on);
    printf("  soaks: %u killed, %u gone on with to the same result ", kills(), same);
    json_decref(wanted);
    g_free(run);
    g_free(json);
    g_free(out);
    g_free(whole);
    g_free(begun);
    g_free(resumed);
}

#ifndef __SANITIZE_ADDRESS__
/* A chip large enough that its reading takes seconds. */
static const char slow_board[] =
    "board: slow\nword: 8\naddresses: words\naddress-lines: 19\nundriven: holds\n"
    "regions:\n  - {name: rom, kind: rom, range: 0x00000-0x3FFFF}\n"
    "  - {name: free, kind: empty, range: 0x40000-0x40000}\n"
    "parts: [{number: ROM256, kind: rom, width: 8, address-lines: 18, pins: \"A0 A1 A2 A3 A4 A5 A6 "
    "A7 "
    "A8 A9 A10 A11 A12 A13 A14 A15 A16 A17 D0 D1 D2 D3 D4 D5 D6 D7\"}]\n"
    "banks: [{name: rom, range: 0x00000-0x3FFFF, part: ROM256, lines: A0-A17, data: {U1: D0-D7}}]\n"
    "sockets: [{names: U1, mount: socket}]\n";

/* Dumps killed at any moment: what was read is kept, and gone on with to the same image. */
static void dumps_killed(void)
{
    const char *board = temporary_file("slow.yaml", slow_board);
    gchar *image = g_strdup(temporary_path("slow.bin")),
          *out = g_strdup(temporary_path("slow.out"));
    gchar *kept = g_strconcat(image, ".unfinished", NULL), *good = NULL, *got;
    gchar *begun = g_strdup_printf("dump|%s|U1|--on|sim:|--readings|110|--write|%s", board, image);
    gchar *resumed = g_strconcat(begun, "|--resume", NULL);
    unsigned saved = 0, same = 0;
    gsize size, got_size;

    ended(begin(begun, out, NULL));
    CHECK(g_file_get_contents(image, &good, &size, NULL), "the whole dump");
    for (unsigned i = 0; i < (kills() + 7) / 8; i++) {
        g_remove(image);
        g_remove(kept);
        kill_after(begin(begun, out, NULL), 2300000 + i * 7919 % 700000);
        if (!g_file_test(kept, G_FILE_TEST_EXISTS))
            continue;
        saved++;
        kill_after(begin(resumed, out, NULL), i * 104729 % 200000);
        ended(begin(resumed, out, NULL));
        if (g_file_get_contents(image, &got, &got_size, NULL)) {
            same += got_size == size && memcmp(got, good, size) == 0;
            g_free(got);
        }
        CHECK(!g_file_test(kept, G_FILE_TEST_EXISTS), "what was kept is not needed any more");
    }
    CHECK(saved && same == saved && !strangers(), "%u of %u", same, saved);
    printf("  dumps: %u saved themselves, %u gone on with to the same image ", saved, same);
    g_free(good);
    g_free(image);
    g_free(out);
    g_free(kept);
    g_free(begun);
    g_free(resumed);
}
#endif

/* Images and catalogues written while they are killed: the old file or the new one. */
static void writes_killed(void)
{
    static const struct {
        const char *title, *words, *file;
    } rows[] = {
        {"image", "image|demo/images/halvorn64-system-2.1.bin|--repeat|4M|--as|intel|--write|%s",
         "written.hex"},
        {"--add", "identify|demo/images/halvorn64-system-2.1.bin|--add|--name|new|--catalogue|%s",
         "written.yaml"}};
    gchar *out = g_strdup(temporary_path("written.out"));

    for (size_t r = 0; r < COUNT(rows); r++) {
        const char *file = temporary_path(rows[r].file);
        gchar *words = g_strdup_printf(rows[r].words, file), *new = NULL, *now;
        unsigned olds = 0, news = 0;
        gint64 took = g_get_monotonic_time();

        temporary_file(rows[r].file, "images: []\n");
        ended(begin(words, out, NULL));
        took = g_get_monotonic_time() - took;
        new = file_text(file);
        for (unsigned i = 0; i < kills() && took > 0; i++) {
            temporary_file(rows[r].file, "images: []\n");
            kill_after(begin(words, out, NULL), (unsigned)took * (5 * i + 4) / (4 * kills()));
            now = file_text(file);
            olds += now && strcmp(now, "images: []\n") == 0;
            news += now && strcmp(now, new) == 0;
            g_free(now);
        }
        CHECK(olds + news == kills(), "%s: %u old, %u new of %u", rows[r].title, olds, news,
              kills());
        printf("  %s: %u killed, %u old files, %u new ", rows[r].title, kills(), olds, news);
        g_free(new);
        g_free(words);
    }
    g_free(out);
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
    gchar *words = g_strdup_printf("image|demo/images/gauge.hex|--write|%s", link);
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
    words =
        g_strdup_printf("image|demo/images/halvorn64-system-2.1.bin|--as|intel|--write|%s", file);
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
    {"added at once", added_at_once}, {"soaks killed", soaks_killed},
#ifndef __SANITIZE_ADDRESS__ /* seconds of reading, ten times as many there */
    {"dumps killed", dumps_killed},
#endif
    {"writes killed", writes_killed}, CU_TEST_INFO_NULL,
};
