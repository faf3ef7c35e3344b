/* What the ports to a far end cost, against the bare bytes that go there and back: ratios in one
 * run, medians of nine, both sides in turn.
 *
 *   single accesses by the debug link   against the same packets, sent and waited for by a loop
 *   single accesses by the link         against a line there and back over the same kind of pipe
 *   a march's elements at the far end   against the same march in this process
 *   reads at a prompt of 9600 baud      against the time that the characters take by themselves
 *
 * The far end of the last two is this very program, its memory an array of 1 Mi words behind a port
 * that reads and writes one word. */
#include <fcntl.h>
#include <glib.h>
#include <netinet/in.h>
#include <sched.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <time.h>
#include <unistd.h>

#include "link_ports.h"
#include "rimeglass/far_end.h"
#include "rimeglass/gdb.h"
#include "rimeglass/link.h"
#include "rimeglass/march.h"
#include "rimeglass/prompt.h"

#define ROUNDS   9
#define ACCESSES 4000u
#define WORDS    (1u << 20)
#define CHAR_NS  1041667 /* of a character of ten bits at 9600 baud */

static unsigned char cells[WORDS];

static rmg_status read_cell(void *context, rmg_addr address, rmg_word *value)
{
    *value = ((const unsigned char *)context)[address];
    return RMG_OK;
}

static rmg_status write_cell(void *context, rmg_addr address, rmg_word value)
{
    ((unsigned char *)context)[address] = (unsigned char)value;
    return RMG_OK;
}

static const rmg_bus cells_bus = {
    .version = RMG_BUS_VERSION, .read = read_cell, .write = write_cell};
static const rmg_target cells_target = {&cells_bus, cells, 0xFF};

void bench_far_end(void)
{
    static char request[256], answer[4096];
    static rmg_far_found found[200];
    const rmg_far_room room = {request, sizeof request, answer, sizeof answer, found, 200};
    rmg_far_end far;
    int byte;

    if (rmg_far_begin(&far, &cells_target, WORDS - 1u, "array", &room) != RMG_OK)
        return;
    while ((byte = getchar()) != EOF) {
        const char *text = rmg_far_take(&far, (char)byte);

        if (text && (fputs(text, stdout) == EOF || fflush(stdout) == EOF))
            return;
    }
}

/* A stub that knows nothing: every packet gets the same answer, with no acknowledgements. Forked.
 */
static void serve_packets(int to)
{
    unsigned char byte;
    bool acks = true;

    while (read(to, &byte, 1) == 1) {
        char packet[64];
        size_t size = 0;
        const char *answer;

        if (byte != '$')
            continue;
        while (read(to, &byte, 1) == 1 && byte != '#')
            if (size < sizeof packet - 1u)
                packet[size++] = (char)byte;
        packet[size] = '\0';
        if (read(to, packet + 60, 2) != 2)
            return;
        answer = strcmp(packet, "QStartNoAckMode") == 0 ? "$OK#9a"
                 : packet[0] == 'm'                     ? "$55#6a"
                                                        : "$#00";
        if (acks && write(to, "+", 1) != 1)
            return;
        if (strcmp(packet, "QStartNoAckMode") == 0)
            acks = false;
        if (write(to, answer, strlen(answer)) < 0)
            return;
    }
}

/* A listener whose connections the stub serves, in a process of its own; its port. */
static int packets_port(pid_t *child)
{
    const int listener = socket(AF_INET, SOCK_STREAM, 0);
    struct sockaddr_in name = {.sin_family = AF_INET, .sin_addr.s_addr = htonl(INADDR_LOOPBACK)};
    socklen_t size = sizeof name;

    if (bind(listener, (struct sockaddr *)&name, size) != 0 || listen(listener, 4) != 0 ||
        getsockname(listener, (struct sockaddr *)&name, &size) != 0)
        return 0;
    *child = fork();
    if (*child == 0) {
        for (;;) {
            const int link = accept(listener, NULL, NULL);

            if (fork() == 0) {
                serve_packets(link);
                _exit(0);
            }
            close(link);
        }
    }
    close(listener);
    return ntohs(name.sin_port);
}

/* Seconds for so many times the same bytes there, and bytes up to `end` back. */
static double ping_pong(rmg_stream *stream, const char *bytes, char end, unsigned tail)
{
    const gint64 start = g_get_monotonic_time();
    unsigned char in[256];

    for (unsigned i = 0; i < ACCESSES; i++) {
        unsigned behind = 0;
        bool ended = false;
        size_t sent, got;

        if (rmg_stream_write(stream, bytes, strlen(bytes), 1000, &sent) != RMG_OK)
            return 0;
        while (!ended || behind < tail) {
            if (rmg_stream_read(stream, in, sizeof in, 1000, &got) != RMG_OK || !got)
                return 0;
            for (size_t n = 0; n < got; n++) {
                behind += ended;
                ended |= in[n] == (unsigned char)end;
            }
        }
    }
    return (double)(g_get_monotonic_time() - start) / 1e6;
}

static double single_reads(const rmg_bus *bus, void *context)
{
    const gint64 start = g_get_monotonic_time();
    rmg_word value;

    for (unsigned i = 0; i < ACCESSES; i++)
        if (bus->read(context, 0x8000, &value) != RMG_OK)
            return 0;
    return (double)(g_get_monotonic_time() - start) / 1e6;
}

static double march(const rmg_target *target)
{
    static rmg_tally tally;
    const rmg_range range = {0, WORDS - 1u};
    const rmg_march_job job = {.code = rmg_march_c_minus, .ranges = &range, .range_count = 1};
    const gint64 start = g_get_monotonic_time();

    rmg_tally_clear(&tally, NULL, 0);
    if (rmg_march_run(target, &job, &tally) != RMG_OK || tally.failing)
        return 0;
    return (double)(g_get_monotonic_time() - start) / 1e6;
}

static int rising(const void *a, const void *b)
{
    const double x = *(const double *)a, y = *(const double *)b;

    return (x > y) - (x < y);
}

static bool print(const char *what, const char *against, double *bare, double *ours, double aim)
{
    double ratios[ROUNDS];

    for (int i = 0; i < ROUNDS; i++)
        ratios[i] = ours[i] > 0 ? bare[i] / ours[i] : 0;
    qsort(ratios, ROUNDS, sizeof *ratios, rising);
    printf("%-34s %-36s %5.2f  %4.2f\n", what, against, ratios[ROUNDS / 2], aim);
    return ratios[ROUNDS / 2] >= aim;
}

/* Single reads by the debug link. */
static bool packets(void)
{
    double bare[ROUNDS], ours[ROUNDS];
    char name[64], why[RMG_STREAM_WHY];
    const rmg_gdb_words words = {.bits = 8};
    rmg_stream *plain = NULL, *stream = NULL;
    rmg_gdb *gdb = NULL;
    pid_t child = 0;
    bool good;

    snprintf(name, sizeof name, "127.0.0.1:%d", packets_port(&child));
    good = rmg_stream_open(name, 1000, &stream, why) == RMG_OK &&
           rmg_gdb_open(stream, &words, &gdb, why) == RMG_OK &&
           rmg_stream_open(name, 1000, &plain, why) == RMG_OK;
    if (good)
        ping_pong(plain, "$QStartNoAckMode#b0", '#', 2);
    for (int i = 0; good && i < ROUNDS; i++) {
        bare[i] = ping_pong(plain, "$m8000,1#5d", '#', 2);
        ours[i] = single_reads(&rmg_gdb_bus, gdb);
    }
    good = good &&
           print("single reads by the debug link", "the same packets by a loop", bare, ours, 0.8);
    rmg_gdb_close(gdb);
    rmg_stream_close(plain);
    if (child > 0)
        kill(child, SIGTERM);
    return good;
}

/* Single reads and whole elements by the link. */
static bool lines(const char *self)
{
    double bare[ROUNDS], ours[ROUNDS];
    char why[RMG_STREAM_WHY];
    gchar *far_end = g_strdup_printf("run:%s far-end", self);
    rmg_stream *plain = NULL, *stream = NULL;
    rmg_target linked = {.mask = 0xFF};
    rmg_link *link = NULL;
    bool good = rmg_stream_open("run:cat", 1000, &plain, why) == RMG_OK &&
                rmg_stream_open(far_end, 1000, &stream, why) == RMG_OK &&
                rmg_link_open(stream, 0xFF, &link, why) == RMG_OK;

    for (int i = 0; good && i < ROUNDS; i++) {
        bare[i] = ping_pong(plain, "01 read 08000*1234\n", '\n', 0);
        ours[i] = single_reads(rmg_link_bus(link), link);
    }
    good = good &&
           print("single reads by the link", "a line there and back by a pipe", bare, ours, 0.5);
    if (good) {
        linked.bus = rmg_link_bus(link);
        linked.context = link;
        march(&linked);
    }
    for (int i = 0; good && i < ROUNDS; i++) {
        bare[i] = march(&cells_target);
        ours[i] = march(&linked);
    }
    good = good &&
           print("March C-, elements at the far end", "the same in this process", bare, ours, 0.8);
    rmg_link_close(link);
    rmg_stream_close(plain);
    g_free(far_end);
    return good;
}

/* A monitor that looks up words, at 9600 baud: each character takes its time, both ways at once.
 * Forked. */
static void serve_prompt(int to)
{
    struct timespec due;
    char line[80];
    size_t size = 0;
    char byte;

    clock_gettime(CLOCK_MONOTONIC, &due);
    while (read(to, &byte, 1) == 1) {
        char text[100] = {byte};
        struct timespec now;

        if (byte == '\r') {
            line[size] = '\0';
            size = 0;
            snprintf(text, sizeof text,
                     strncmp(line, "look ", 5) ? "\r\n- " : "\r\n%.4s holds 55\r\n- ", line + 5);
        } else if (byte == 0x18) {
            size = 0;
            snprintf(text, sizeof text, "\r\n- ");
        } else if (size + 1 < sizeof line) {
            line[size++] = byte;
        }
        clock_gettime(CLOCK_MONOTONIC, &now);
        if (now.tv_sec > due.tv_sec || (now.tv_sec == due.tv_sec && now.tv_nsec > due.tv_nsec))
            due = now; /* it was idle */
        for (const char *c = text; *c; c++) {
            due.tv_nsec += CHAR_NS;
            due.tv_sec += due.tv_nsec / 1000000000;
            due.tv_nsec %= 1000000000;
            clock_nanosleep(CLOCK_MONOTONIC, TIMER_ABSTIME, &due, NULL);
            if (write(to, c, 1) != 1)
                return;
        }
    }
}

/* Reads at a prompt. */
static bool prompt(void)
{
    enum { READS = 20, CHARS = 10 + 19 }; /* "look 0000" and CR; what comes after it */
    double bare[ROUNDS], ours[ROUNDS];
    const int outer = posix_openpt(O_RDWR | O_NOCTTY);
    char name[64] = "", why[RMG_STREAM_WHY];
    rmg_prompt_profile *profile = NULL;
    rmg_board *board = NULL;
    rmg_stream *stream = NULL;
    rmg_prompt *p = NULL;
    rmg_errors errors = {0};
    pid_t child = -1;
    bool good = outer >= 0 && grantpt(outer) == 0 && unlockpt(outer) == 0 &&
                ptsname_r(outer, name, sizeof name) == 0 &&
                rmg_board_load("demo/boards/lampdriver.yaml", &board, &errors) == RMG_OK &&
                rmg_prompt_profile_load("demo/prompts/look.yaml", &profile, &errors) == RMG_OK &&
                rmg_stream_open(name, 100, &stream, why) == RMG_OK;

    if (good) {
        child = fork();
        if (child == 0) {
            serve_prompt(outer);
            _exit(0);
        }
        good = rmg_prompt_open(stream, profile, board, &p, why) == RMG_OK;
    }
    for (int i = 0; good && i < ROUNDS; i++) {
        const gint64 start = g_get_monotonic_time();
        rmg_word value = 0;

        for (int n = 0; n < READS; n++)
            good &= rmg_prompt_bus(p)->read(p, 0, &value) == RMG_OK && value == 0x55;
        bare[i] = READS * CHARS * (CHAR_NS / 1e9);
        ours[i] = (double)(g_get_monotonic_time() - start) / 1e6;
    }
    good = good &&
           print("reads at a prompt of 9600 baud", "what the characters take", bare, ours, 0.8);
    rmg_prompt_close(p);
    if (child > 0)
        kill(child, SIGTERM);
    close(outer);
    rmg_prompt_profile_free(profile);
    rmg_board_free(board);
    rmg_errors_free(&errors);
    return good;
}

bool bench_link_ports(const char *self)
{
    cpu_set_t one;
    bool good;

    CPU_ZERO(&one);
    CPU_SET(0, &one);
    sched_setaffinity(0, sizeof one,
                      &one); /* inherited: where two processes wake is no matter then */
    printf("what                               against                              ratio   aim\n");
    good = packets();
    good &= lines(self);
    return prompt() && good;
}
