/* Streams: devices by pseudo terminals, TCP by a socket of our own, programs, files; what is said
 * when nothing comes, no text comes, or they go away; and how long that takes. */
#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <netinet/in.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/time.h>
#include <sys/wait.h>
#include <termios.h>
#include <unistd.h>

#include "../check.h"
#include "rimeglass/stream.h"
#include "suites.h"
#include "temporary.h"

static double now(void)
{
    return (double)g_get_monotonic_time() / 1e6;
}

/* A pseudo terminal: our end, and the device's name. */
static int device(char *name, size_t room)
{
    const int master = posix_openpt(O_RDWR | O_NOCTTY);

    CHECK(master >= 0 && grantpt(master) == 0 && unlockpt(master) == 0 &&
              ptsname_r(master, name, room) == 0,
          "a pseudo terminal");
    return master;
}

static rmg_stream *opened(const char *name)
{
    rmg_stream *s;
    char why[RMG_STREAM_WHY];

    CHECK(rmg_stream_open(name, 1000, &s, why) == RMG_OK, "%s: %s", name, why);
    return s;
}

/* All that comes until the end, at most a second. */
static gchar *all_of(rmg_stream *s, rmg_status *status)
{
    GString *text = g_string_new(NULL);
    const double end = now() + 1;

    *status = RMG_OK;
    while (*status == RMG_OK && !rmg_stream_ended(s) && now() < end) {
        char bytes[100];
        size_t got;

        *status = rmg_stream_read(s, bytes, sizeof bytes, 50, &got);
        g_string_append_len(text, bytes, (gssize)got);
    }
    return g_string_free(text, FALSE);
}

static void names(void)
{
    static const struct {
        const char *name;
        rmg_stream_kind kind;
        const char *wrong; /* "" where it is right */
    } rows[] = {
        {"-", RMG_STREAM_STANDARD, ""},
        {"run:true", RMG_STREAM_PROGRAM, ""},
        {"run: ", RMG_STREAM_PROGRAM, "expected run:COMMAND"},
        {"localhost:1", RMG_STREAM_TCP, ""},
        {"[::1]:65535", RMG_STREAM_TCP, ""},
        {"localhost:0", RMG_STREAM_FILE, ""},
        {"localhost:65536", RMG_STREAM_FILE, ""},
        {"./a:1", RMG_STREAM_FILE, ""},
        {"/dev/null", RMG_STREAM_SERIAL, ""},
        {"/dev/nothing,baud=300", RMG_STREAM_SERIAL, ""},
        {"/dev/null,baud=50", RMG_STREAM_SERIAL, ""},
        {"/dev/null,baud=49", RMG_STREAM_SERIAL, "expected baud=50 to baud=4000000"},
        {"/dev/null,baud=4000001", RMG_STREAM_SERIAL, "expected baud=50"},
        {"/dev/null,baud=9600x", RMG_STREAM_SERIAL, "expected baud=50"},
        {"/dev/null,baud=find,frame=7E1,flow=rts-cts", RMG_STREAM_SERIAL, ""},
        {"/dev/null,frame=9N1", RMG_STREAM_SERIAL, "expected data bits"},
        {"/dev/null,frame=8N3", RMG_STREAM_SERIAL, "expected data bits"},
        {"/dev/null,flow=yes", RMG_STREAM_SERIAL, "flow=xon-xoff"},
        {"/dev/null,speed=9600", RMG_STREAM_SERIAL, "expected baud=, frame= or flow="},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        char why[RMG_STREAM_WHY] = "";
        rmg_stream_kind kind;

        CHECK(rmg_stream_kind_of(rows[i].name, &kind, why) == !*rows[i].wrong &&
                  kind == rows[i].kind && strstr(why, rows[i].wrong),
              "%s: kind %d, %s", rows[i].name, (int)kind, why);
        CHECK(rmg_stream_is_two_way(rows[i].name) ==
                  (!*rows[i].wrong && kind != RMG_STREAM_FILE && kind != RMG_STREAM_STANDARD),
              "%s", rows[i].name);
    }
}

static void what_cannot_be_opened(void)
{
    static const struct {
        const char *name, *why;
    } rows[] = {
        {"/nowhere/at/all", "/nowhere/at/all: No such file"},
        {"/dev/rmg-none", "/dev/rmg-none: No such file"},
        {"/dev/null", "it is no serial line"},
        {"/tmp", "that is a folder"},
        {"127.0.0.1:1", "127.0.0.1:1: Connection refused"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_stream *s;
        char why[RMG_STREAM_WHY];

        CHECK(rmg_stream_open(rows[i].name, 300, &s, why) == RMG_ERR_FILE && !s &&
                  strstr(why, rows[i].why),
              "%s: %s", rows[i].name, why);
        rmg_stream_close(s);
    }
}

/* Speed and frame are set, odd ones too; the device has its own settings back afterwards. */
static void a_serial_line(void)
{
    char name[64], *with;
    const int master = device(name, sizeof name);
    struct termios before, during, after;
    rmg_stream *s;
    rmg_status status;
    uint32_t baud;
    rmg_frame frame;
    size_t sent, got;
    char bytes[10];
    double start;

    tcgetattr(master, &before);
    with = g_strdup_printf("%s,baud=4800,frame=7E2", name);
    s = opened(with);
    tcgetattr(master, &during);
    CHECK(cfgetospeed(&during) == B4800 && (during.c_cflag & CSTOPB) && !(during.c_lflag & ECHO),
          "set");
    CHECK(rmg_stream_get_line(s, &baud, &frame) == RMG_OK && baud == 4800 && frame.data_bits == 7 &&
              frame.parity == 'E' && frame.stop_bits == 2,
          "and known");
    CHECK(rmg_stream_set_line(s, 31250, (rmg_frame){8, 'N', 1}) == RMG_OK &&
              rmg_stream_get_line(s, &baud, &frame) == RMG_OK && baud == 31250,
          "any speed");
    CHECK(rmg_stream_write(s, "R 8000\r", 7, 500, &sent) == RMG_OK && sent == 7 &&
              read(master, bytes, sizeof bytes) == 7 && memcmp(bytes, "R 8000\r", 7) == 0,
          "sent as it is");
    CHECK(write(master, "\x80\r\n\xFF", 4) == 4, "answered");
    CHECK(rmg_stream_read(s, bytes, sizeof bytes, 500, &got) == RMG_OK && got == 4 &&
              memcmp(bytes, "\x80\r\n\xFF", 4) == 0,
          "read as it is");
    start = now();
    CHECK(rmg_stream_read(s, bytes, sizeof bytes, 150, &got) == RMG_OK && !got &&
              now() - start > 0.1 && now() - start < 0.4 && !rmg_stream_ended(s),
          "nothing came within %.2f s", now() - start);
    rmg_stream_close(s);
    tcgetattr(master, &after);
    CHECK(cfgetospeed(&after) == cfgetospeed(&before) && after.c_lflag == before.c_lflag,
          "as it was");
    g_free(with);
    s = opened(name);
    close(master); /* pulled out */
    g_free(all_of(s, &status));
    CHECK(status == RMG_ERR_PORT_LOST && strstr(rmg_stream_why(s), "the device disappeared"), "%s",
          rmg_stream_why(s));
    rmg_stream_close(s);
}

/* Plays a board that sends at one speed: at any other its bytes are of no sense. */
static pid_t board_at(int master, speed_t speed, bool parity)
{
    const pid_t pid = fork();

    while (pid == 0) {
        static const char text[] = "ERR 8000 55 51\r\n";
        struct termios line;
        char bytes[sizeof text];

        tcgetattr(master, &line);
        for (size_t i = 0; i < sizeof text - 1; i++) {
            bytes[i] = text[i];
            if (parity && __builtin_parity((unsigned)bytes[i]))
                bytes[i] = (char)(bytes[i] | 0x80);
            if (cfgetospeed(&line) != speed)
                bytes[i] = (char)(0x80u | ((unsigned char)bytes[i] ^ 0x55u) << 1);
        }
        if (write(master, bytes, sizeof text - 1) < 0)
            _exit(0);
        usleep(5000);
    }
    return pid;
}

static bool always(void *context, uint32_t baud)
{
    unsigned *asked = context;

    ++*asked;
    return baud > 0;
}

static bool never(void *context, uint32_t baud)
{
    (void)context;
    (void)baud;
    return false;
}

static void speed_found(void)
{
    static const struct {
        speed_t speed;
        uint32_t baud;
        bool parity;
    } rows[] = {
        {B9600, 9600, false}, {B4800, 4800, false}, {B300, 300, false}, {B19200, 19200, true}};

    for (size_t i = 0; i < COUNT(rows); i++) {
        char name[64], *with;
        const int master = device(name, sizeof name);
        uint64_t heard = 0;
        uint32_t baud = 0;
        rmg_frame frame = {0};
        unsigned asked = 0;
        rmg_stream *s;
        pid_t pid;

        with = g_strdup_printf("%s,baud=find", name);
        s = opened(with);
        CHECK(rmg_stream_wants_speed(s), "asked for");
        pid = board_at(master, rows[i].speed, rows[i].parity);
        CHECK(rmg_stream_find_speed(s, 120, never, NULL, &heard) == RMG_ERR_CANCELLED, "stopped");
        CHECK(rmg_stream_find_speed(s, 120, always, &asked, &heard) == RMG_OK && heard && asked,
              "%u: found, %u bytes", rows[i].baud, (unsigned)heard);
        rmg_stream_get_line(s, &baud, &frame);
        CHECK(baud == rows[i].baud && frame.parity == (rows[i].parity ? 'E' : 'N'), "%u: %u %c",
              rows[i].baud, baud, frame.parity);
        kill(pid, SIGKILL);
        waitpid(pid, NULL, 0);
        if (i == 0) { /* silence */
            tcflush(master, TCIOFLUSH);
            CHECK(rmg_stream_find_speed(s, 20, NULL, NULL, &heard) == RMG_ERR_RANGE, "at none");
        }
        rmg_stream_close(s);
        close(master);
        g_free(with);
    }
}

static void text_shares(void)
{
    static const unsigned char text[] = "OK 8000\r\n\t\033[2J", noise[] = {0x80, 0xFF, 3, 'A'};
    char parity;

    CHECK(rmg_text_share(text, sizeof text - 1) > 0.999, "text");
    CHECK(rmg_text_share(noise, 4) < 0.26 && rmg_text_share(noise, 4) > 0.24, "noise");
    CHECK(rmg_text_share(text, 0) < 0.001, "nothing");
    CHECK(rmg_text_share_parity(text, sizeof text - 1, &parity) > 0.999 && parity == 'N',
          "no parity");
}

static void programs(void)
{
    static const struct {
        const char *name, *text, *why;
    } rows[] = {
        {"run:echo one; echo two", "one\ntwo\n", ""},
        {"run:printf x; exit 3", "x", "the command ended with status 3"},
        {"run:no-such-command-here 2>/dev/null", "", "the command was not found"},
        {"run:kill -9 $$", "", "the command was ended by signal 9"},
    };
    rmg_stream *s;
    rmg_status status;
    size_t sent;
    gchar *text;
    double start;

    for (size_t i = 0; i < COUNT(rows); i++) {
        s = opened(rows[i].name);
        text = all_of(s, &status);
        CHECK(status == RMG_OK && rmg_stream_ended(s) && strcmp(text, rows[i].text) == 0 &&
                  strcmp(rmg_stream_why(s), rows[i].why) == 0,
              "%s: \"%s\", %s", rows[i].name, text, rmg_stream_why(s));
        g_free(text);
        rmg_stream_close(s);
    }
    s = opened("run:head -n 1");
    CHECK(rmg_stream_write(s, "hello\n", 6, 500, &sent) == RMG_OK && sent == 6, "sent");
    text = all_of(s, &status);
    CHECK(strcmp(text, "hello\n") == 0, "and back");
    g_free(text);
    rmg_stream_close(s);
    s = opened("run:sleep 100 & sleep 100");
    start = now();
    CHECK(rmg_stream_write(s, "x", 1, 0, &sent) == RMG_OK || sent == 0, "no wait");
    rmg_stream_close(s);
    CHECK(now() - start < 0.8, "ended in %.2f s", now() - start);
}

/* Whoever is written to is gone: an error comes of it, and no signal; one that is waiting stays. */
static void nobody_reads(void)
{
    void (*before)(int) = signal(SIGPIPE, SIG_DFL); /* would end the tests */
    rmg_stream *s = opened("run:exec 0<&-; sleep 10");
    const double start = now();
    rmg_status status = RMG_OK;
    sigset_t pipe, old, waiting;
    size_t sent;

    while (status == RMG_OK && now() - start < 5)
        status = rmg_stream_write(s, "hello\n", 6, 500, &sent);
    CHECK(status == RMG_ERR_PORT_LOST, "%s after %.2f s", rmg_status_text(status), now() - start);
    rmg_stream_close(s);
    sigemptyset(&pipe);
    sigaddset(&pipe, SIGPIPE);
    pthread_sigmask(SIG_BLOCK, &pipe, &old);
    raise(SIGPIPE);
    s = opened("run:exec 0<&-; sleep 10");
    for (status = RMG_OK; status == RMG_OK && now() - start < 5;)
        status = rmg_stream_write(s, "hello\n", 6, 500, &sent);
    sigpending(&waiting);
    CHECK(status == RMG_ERR_PORT_LOST && sigismember(&waiting, SIGPIPE) == 1,
          "a signal of somebody else's is not taken away");
    rmg_stream_close(s);
    signal(SIGPIPE, SIG_IGN); /* which drops it */
    pthread_sigmask(SIG_SETMASK, &old, NULL);
    signal(SIGPIPE, before);
}

static void by_tcp(void)
{
    struct sockaddr_in at = {.sin_family = AF_INET, .sin_addr = {htonl(INADDR_LOOPBACK)}};
    socklen_t size = sizeof at;
    const int listener = socket(AF_INET, SOCK_STREAM, 0);
    char name[40];
    rmg_stream *s;
    rmg_status status;
    gchar *text;
    int end;

    CHECK(bind(listener, (struct sockaddr *)&at, sizeof at) == 0 && listen(listener, 1) == 0 &&
              getsockname(listener, (struct sockaddr *)&at, &size) == 0,
          "listens");
    g_snprintf(name, sizeof name, "127.0.0.1:%u", ntohs(at.sin_port));
    s = opened(name);
    end = accept(listener, NULL, NULL);
    CHECK(write(end, "here\n", 5) == 5, "sent");
    close(end);
    text = all_of(s, &status);
    CHECK(status == RMG_OK && strcmp(text, "here\n") == 0 && rmg_stream_ended(s), "%s", text);
    g_free(text);
    rmg_stream_close(s);
    s = opened(name);
    end = accept(listener, NULL, NULL);
    { /* broken off */
        const struct linger at_once = {1, 0};

        setsockopt(end, SOL_SOCKET, SO_LINGER, &at_once, sizeof at_once);
        close(end);
    }
    g_free(all_of(s, &status));
    CHECK(status == RMG_ERR_PORT_LOST && strstr(rmg_stream_why(s), "the connection broke"), "%s",
          rmg_stream_why(s));
    rmg_stream_close(s);
    close(listener);
}

static void on_alarm(int number)
{
    (void)number;
}

/* A signal ends a wait at once. */
static void signals(void)
{
    const struct itimerval soon = {{0, 0}, {0, 100000}};
    struct sigaction action = {.sa_handler = on_alarm}, before;
    char name[64], byte;
    const int master = device(name, sizeof name);
    rmg_stream *s = opened(name);
    const double start = now();
    size_t got;

    sigaction(SIGALRM, &action, &before);
    setitimer(ITIMER_REAL, &soon, NULL);
    CHECK(rmg_stream_read(s, &byte, 1, 5000, &got) == RMG_OK && !got && now() - start < 0.3,
          "%.2f s", now() - start);
    sigaction(SIGALRM, &before, NULL);
    rmg_stream_close(s);
    close(master);
}

static void files(void)
{
    rmg_stream *s = opened(temporary_file("stream.txt", "line\n"));
    rmg_status status;
    gchar *text = all_of(s, &status);
    uint32_t baud;
    rmg_frame frame;
    size_t sent;

    CHECK(strcmp(text, "line\n") == 0 && rmg_stream_ended(s), "%s", text);
    CHECK(rmg_stream_write(s, "x", 1, 10, &sent) == RMG_ERR_PORT_CANNOT && !sent, "takes nothing");
    CHECK(rmg_stream_get_line(s, &baud, &frame) == RMG_ERR_PORT_CANNOT &&
              rmg_stream_find_speed(s, 10, NULL, NULL, &(uint64_t){0}) == RMG_ERR_PORT_CANNOT,
          "has no speed");
    g_free(text);
    rmg_stream_close(s);
    rmg_stream_close(NULL);
}

CU_TestInfo stream_tests[] = {
    {"nobody reads", nobody_reads},
    {"names", names},
    {"what cannot be opened", what_cannot_be_opened},
    {"a serial line", a_serial_line},
    {"the speed is found", speed_found},
    {"what is text", text_shares},
    {"programs", programs},
    {"by TCP", by_tcp},
    {"signals", signals},
    {"files", files},
    CU_TEST_INFO_NULL,
};
