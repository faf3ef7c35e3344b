/* rimeglass log through the tool itself: files, pipes, programs, a device that is silent, speaks at
 * another speed or disappears, and what is refused. */
#include <fcntl.h>
#include <glib.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <termios.h>
#include <unistd.h>

#include "../check.h"
#include "../host/temporary.h"
#include "calls.h"

#define HALVORN "demo/boards/halvorn64.yaml"
#define COLUMNS "log|" HALVORN "|--profile|demo/profiles/columns.yaml|"

static void answers(void)
{
    static const call_row rows[] = {
        {COLUMNS "demo/logs/columns.txt", 1, "Look at U21, the 4116", ""},
        {COLUMNS "demo/logs/columns.txt|--check", 0, "= 0x8000, wrote 0xA2, read 0x82: D5 (U21)",
         ""},
        {COLUMNS "demo/logs/columns.txt|--json|-", 1, "\"lower_bound\": true", ""},
        {COLUMNS "demo/logs/columns.txt|--told|clock=4000000,supply=4750,temperature=31.5|--json|-",
         1, "\"temperature_millic\": 31500", ""},
        {COLUMNS "run:cat demo/logs/columns.txt", 1, "Look at U21", ""},
        {COLUMNS "run:head -n 20 demo/logs/columns.txt", 3,
         "NOT COMPLETE: the lines end before the one that ends them", ""},
        {COLUMNS "run:cat demo/logs/columns.txt; exit 4", 1, "Look at U21", ""},
        {COLUMNS "run:grep -v ERR demo/logs/columns.txt", 0, "No line reports a fault", ""},
        {COLUMNS "run:echo READY; exit 2", 2, "", "the command ended with status 2"},
        {COLUMNS "demo/logs/counts.txt", 2, "", "line 1: \"SHUTTER DIAGNOSTIC 3\""},
        {COLUMNS "demo/boards/halvorn64.yaml|--check", 2, "skipped", "the first are"},
        {"log|demo/boards/vessary.yaml|--profile|demo/profiles/frame-status.yaml|"
         "demo/logs/frame-status.txt",
         1, "Look at U4, a 32K x 32 of the right bank", ""},
        {"log|demo/boards/tarnbeck.yaml|--profile|demo/profiles/wide-words.yaml|"
         "demo/logs/wide-words.txt|--known-good|U17",
         1, "What you reported rules out: the chip in U17", ""},
    };

    check_calls(rows, COUNT(rows));
}

static void refused(void)
{
    static const call_row rows[] = {
        {"log|" HALVORN "|demo/logs/columns.txt", 2, "", "--profile PROFILE"},
        {COLUMNS "", 2, "", "No such file"},
        {"log|" HALVORN "|--profile|demo/profiles/columns.yaml", 2, "",
         "a board file and a source"},
        {COLUMNS "nowhere.txt", 2, "", "nowhere.txt: No such file"},
        {COLUMNS "127.0.0.1:1", 2, "", "Connection refused"},
        {COLUMNS "/dev/null,baud=9600", 2, "", "it is no serial line"},
        {COLUMNS "/dev/null,bits=8", 2, "", "expected baud=, frame= or flow="},
        {COLUMNS "run:", 2, "", "expected run:COMMAND"},
        {COLUMNS "demo/logs/columns.txt|--told|clock", 2, "", "expected clock=HZ"},
        {COLUMNS "demo/logs/columns.txt|--told|clock=0", 2, "", "clock=N in Hz"},
        {COLUMNS "demo/logs/columns.txt|--told|supply=100001", 2, "", "supply=N in mV"},
        {COLUMNS "demo/logs/columns.txt|--told|supply=5000x", 2, "", "supply=N in mV"},
        {COLUMNS "demo/logs/columns.txt|--told|", 2, "", "--told: expected"},
        {COLUMNS "demo/logs/columns.txt|--record|-", 2, "", "cannot go to standard output"},
        {COLUMNS "demo/logs/columns.txt|--for|5", 2, "", "--for"},
        {"log|demo/boards/shutter.yaml|--profile|demo/profiles/frame-status.yaml|x", 2, "",
         "has no bank \"left\""},
        {"log|" HALVORN "|--profile|" HALVORN "|x", 2, "", "halvorn64.yaml"},
        {"test|" HALVORN "|--on|sim:|--told|heat=3", 2, "", "expected clock=HZ"},
    };

    check_calls(rows, COUNT(rows));
}

/* A device by a pseudo terminal; and the tool that listens to it, in the background. */
typedef struct device {
    int master;
    char name[64];
    pid_t tool;
    const char *out;
} device;

/* Errors where the answer goes. */
static void together(gpointer data)
{
    (void)data;
    dup2(STDOUT_FILENO, STDERR_FILENO);
}

static void listen_to_device(device *d, const char *options)
{
    gchar *words;

    d->master = posix_openpt(O_RDWR | O_NOCTTY | O_CLOEXEC);
    CHECK(d->master >= 0 && grantpt(d->master) == 0 && unlockpt(d->master) == 0 &&
              ptsname_r(d->master, d->name, sizeof d->name) == 0,
          "a pseudo terminal");
    d->out = temporary_path("device.out");
    words = g_strdup_printf(COLUMNS "%s%s%s", d->name, options,
                            strstr(options, "--for") ? "" : "|--for|20s");
    d->tool = begin(words, d->out, together);
    g_free(words);
    g_usleep(400000);
}

static void say(const device *d, const char *text)
{
    CHECK(write(d->master, text, strlen(text)) == (ssize_t)strlen(text), "sent");
}

static void ends(device *d, int status, const char *what)
{
    gchar *out;
    const int how = ended(d->tool), was = WIFEXITED(how) ? WEXITSTATUS(how) : -1;

    out = file_text(d->out);
    CHECK(was == status && out && strstr(out, what), "status %d, expected %d: %s", was, status,
          out);
    g_free(out);
    if (d->master >= 0)
        close(d->master);
}

/* What a device sends arrives as it comes; Ctrl-C ends it within 0.2 s, and what was heard is
 * reported. */
static void devices(void)
{
    device d;
    gint64 start;

    listen_to_device(&d, ",baud=300");
    say(&d, "MEMORY EXERCISE 4\r\nERR  8000   A2   82\r\nERR  8004   A2   82\r\nREADY\r\n");
    ends(&d, 1, "Look at U21");
    listen_to_device(&d, ",baud=300");
    say(&d, "MEMORY EXERCISE 4\r\nERR  8000   A2   82\r\nERR  8004   A2   82\r\n");
    g_usleep(300000);
    start = g_get_monotonic_time();
    kill(d.tool, SIGINT);
    ends(&d, 3, "Look at U21");
    CHECK(g_get_monotonic_time() - start < 700000, "%.2f s",
          (double)(g_get_monotonic_time() - start) / 1e6);
    listen_to_device(&d, "");
    say(&d, "MEMORY EXERCISE 4\r\nERR  8000   A2   82\r\n");
    g_usleep(300000);
    close(d.master);
    d.master = -1;
    ends(&d, 3, "the device disappeared");
    listen_to_device(&d, "|--for|1s");
    ends(&d, 2, "not one line arrived");
}

/* Bytes that are no text; and silence, with the usual reasons. */
static void no_text(void)
{
    device d;
    char noise[120];

    listen_to_device(&d, ",baud=4800");
    memset(noise, 0x9B, sizeof noise);
    CHECK(write(d.master, noise, sizeof noise) == sizeof noise, "sent");
    g_usleep(300000);
    kill(d.tool, SIGINT); /* it tries other speeds */
    ends(&d, 2, "is no text: of 96 bytes 0 % are printable");
    listen_to_device(&d, "|--for|6s");
    ends(&d, 2,
         "Usual reasons: another device, TX and RX crossed or not, no common ground, another "
         "speed");
}

CU_TestInfo log_tests[] = {
    {"what it answers", answers},
    {"what it refuses", refused},
    {"devices", devices},
    {"what is no text", no_text},
    CU_TEST_INFO_NULL,
};
