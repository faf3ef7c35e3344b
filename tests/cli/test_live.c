/* The live view on a pseudo terminal of 80 by 24: what it shows, its keys, another size, and the
 * report on the normal screen afterwards. */
#include <fcntl.h>
#include <glib.h>
#include <poll.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../check.h"
#include "calls.h"

#define HALVORN "demo/boards/halvorn64.yaml"

/* The tool on a terminal of its own, and all that it has written there. */
typedef struct screen {
    int master;
    pid_t tool;
    GString *seen;
} screen;

static void size(int fd, unsigned short lines, unsigned short columns)
{
    const struct winsize window = {.ws_row = lines, .ws_col = columns};

    ioctl(fd, TIOCSWINSZ, &window);
}

static void open_screen(screen *s, const char *words)
{
    gchar **list = g_strsplit(words, "|", -1);
    gchar **argv = g_new0(gchar *, g_strv_length(list) + 2);
    char name[64];

    s->seen = g_string_new(NULL);
    s->master = posix_openpt(O_RDWR | O_NOCTTY | O_CLOEXEC);
    CHECK(s->master >= 0 && grantpt(s->master) == 0 && unlockpt(s->master) == 0 &&
              ptsname_r(s->master, name, sizeof name) == 0,
          "a pseudo terminal");
    size(s->master, 24, 80);
    argv[0] = g_build_filename(RMG_BUILD, "rimeglass", NULL);
    for (size_t i = 0; list[i]; i++)
        argv[i + 1] = list[i];
    s->tool = fork();
    if (s->tool == 0) {
        int terminal;

        setsid();
        terminal = open(name, O_RDWR);
        for (int fd = 0; fd < 3; fd++)
            dup2(terminal, fd);
        setenv("TERM", "xterm", 1);
        if (chdir(RMG_PROJECT) == 0)
            execv(argv[0], argv);
        _exit(99);
    }
    g_free(argv[0]);
    g_free(argv);
    g_strfreev(list);
}

/* Takes what is written until it has this text (NULL: until the end), at most so many seconds. */
static bool until(screen *s, const char *text, double seconds)
{
    const gint64 end = g_get_monotonic_time() + (gint64)(seconds * 1e6);

    while (!text || !strstr(s->seen->str, text)) {
        struct pollfd in = {s->master, POLLIN, 0};
        char bytes[4096];
        ssize_t got;

        if (g_get_monotonic_time() > end)
            return false;
        if (poll(&in, 1, 50) <= 0)
            continue;
        got = read(s->master, bytes, sizeof bytes);
        if (got <= 0)
            return !text;
        for (ssize_t i = 0; i < got; i++) /* a zero would end it */
            g_string_append_c(s->seen, bytes[i] ? bytes[i] : ' ');
    }
    return true;
}

static void press(const screen *s, const char *keys)
{
    CHECK(write(s->master, keys, strlen(keys)) == (ssize_t)strlen(keys), "pressed");
}

/* Presses keys, and waits for what follows on the screen. */
static bool pressed(screen *s, const char *keys, const char *text)
{
    g_string_truncate(s->seen, 0);
    press(s, keys);
    return until(s, text, 10);
}

static int close_screen(screen *s)
{
    int status = 0;

    until(s, NULL, 20);
    CHECK(waitpid(s->tool, &status, 0) == s->tool, "ends");
    close(s->master);
    g_string_free(s->seen, TRUE);
    return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
}

static void a_soak(void)
{
    screen s;

    open_screen(&s,
                "test|" HALVORN
                "|--on|sim:demo/faults/halvorn64-night.yaml|--until-stopped|--live|--no-replay");
    CHECK(until(&s, "Halvorn 64 operator console", 10) && until(&s, ">U22<", 30) &&
              until(&s, "the first:", 10) && until(&s, "(U22), pass", 10),
          "%s", s.seen->str);
    CHECK(strstr(s.seen->str, "\033[?1049h") != NULL, "on a screen of its own");
    CHECK(pressed(&s, "h", "no access is made until"), "help");
    CHECK(pressed(&s, "hx", "no such key"), "a key that is none");
    CHECK(pressed(&s, "p", "PAUSED"), "a pause");
    CHECK(!pressed(&s, "", "pass") || strstr(s.seen->str, "PAUSED"), "nothing goes on");
    CHECK(pressed(&s, "p", "pause"), "and on");
    CHECK(pressed(&s, "t42.5\r", "42.5 C as typed"), "a temperature");
    CHECK(pressed(&s, "tx\r", "that is no temperature"), "none");
    size(s.master, 8, 60);
    kill(s.tool, SIGWINCH);
    g_string_truncate(s.seen, 0);
    CHECK(until(&s, "enlarge the window", 10), "a small window");
    size(s.master, 40, 120);
    kill(s.tool, SIGWINCH);
    CHECK(pressed(&s, "h", "no access is made") && pressed(&s, "h", ">U22<"), "a large one");
    CHECK(pressed(&s, "s", "\033[?1049l") && until(&s, "NOT COMPLETE: stopped on request", 20),
          "%s", s.seen->str);
    CHECK(strstr(s.seen->str, "U22") != NULL, "the report follows");
    CHECK(close_screen(&s) == 3, "status 3");
}

/* A run that ends by itself; lines; a chip that is watched; Ctrl-C. */
static void others(void)
{
    screen s;

    open_screen(&s, "log|" HALVORN
                    "|--live|--profile|demo/profiles/columns.yaml|run:cat demo/logs/columns.txt; "
                    "sleep 1; echo READY");
    CHECK(until(&s, ">U21<", 10) && until(&s, "line 5: 0x8000, wrote 0xA2", 10) &&
              until(&s, "Look at U21", 10),
          "lines: %s", s.seen->str);
    CHECK(close_screen(&s) == 1, "faults");
    open_screen(&s, "dump|" HALVORN
                    "|U52|--bare|--watch|--until-change|--live|--every|60s|--on|sim:demo/faults/"
                    "halvorn64-warm.yaml");
    CHECK(until(&s, "data bits", 10) && until(&s, "It first differed in pass", 30), "%s",
          s.seen->str);
    CHECK(close_screen(&s) == 1, "moved");
    open_screen(&s, "log|" HALVORN "|--live|--profile|demo/profiles/columns.yaml|-");
    CHECK(until(&s, "the lines cannot come from there", 10), "%s", s.seen->str);
    CHECK(close_screen(&s) == 2, "keys and lines from one terminal");
    open_screen(&s, "test|" HALVORN "|--on|sim:|--until-stopped|--live");
    CHECK(until(&s, "U26", 10), "a healthy board");
    kill(s.tool, SIGINT);
    CHECK(until(&s, "o fault found", 10), "stopped, in the first pass or later");
    CHECK(close_screen(&s) == 3, "not complete");
}

static void refused(void)
{
    static const call_row rows[] = {
        {"test|" HALVORN "|--on|sim:|--live", 2, "", "--live needs a terminal"},
        {"log|" HALVORN "|--profile|demo/profiles/columns.yaml|demo/logs/columns.txt|--live", 2, "",
         "--live needs a terminal"},
        {"log|" HALVORN
         "|--profile|demo/profiles/columns.yaml|demo/logs/columns.txt|--live|--check",
         2, "", "not both"},
        {"dump|" HALVORN "|U5|--on|sim:|--live", 2, "", "goes with --watch"},
        {"dump|" HALVORN "|U5|--on|sim:|--watch|--live", 2, "", "--live needs a terminal"},
    };

    check_calls(rows, COUNT(rows));
}

CU_TestInfo live_tests[] = {
    {"a soak", a_soak},
    {"lines, a watch, Ctrl-C", others},
    {"where there is no terminal", refused},
    CU_TEST_INFO_NULL,
};
