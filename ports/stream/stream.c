/* Streams of all kinds: opened by name, read and written with deadlines. */
#include "internal.h"

#include <errno.h>
#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <time.h>
#include <unistd.h>

/* "HOST:PORT" apart; false: it is no such name. Both are parts of `name`, which is changed. */
static bool split_address(char *name, char **host, char **port)
{
    char *colon = strrchr(name, ':');
    const size_t length = colon ? (size_t)(colon - name) : 0;

    if (!colon || !length || !colon[1] || strspn(colon + 1, "0123456789") != strlen(colon + 1) ||
        strchr(name, '/'))
        return false;
    *colon = '\0';
    *port = colon + 1;
    *host = name;
    if (*name == '[' && name[length - 1u] == ']') {
        name[length - 1u] = '\0';
        ++*host;
    }
    return strtoul(*port, NULL, 10) >= 1 && strtoul(*port, NULL, 10) <= 65535;
}

static bool is_device(const char *file)
{
    struct stat about;

    return stat(file, &about) == 0 && S_ISCHR(about.st_mode);
}

/* The kind of a name, its parts in `copy`: of a device its file, with *options behind it. */
static rmg_stream_kind kind_of(char *copy, char **host, char **port, char **options)
{
    char *comma;

    if (strcmp(copy, "-") == 0)
        return RMG_STREAM_STANDARD;
    if (strncmp(copy, "run:", 4) == 0)
        return RMG_STREAM_PROGRAM;
    if (access(copy, F_OK) == 0)
        return is_device(copy) ? RMG_STREAM_SERIAL : RMG_STREAM_FILE;
    comma = strchr(copy, ',');
    if (comma) {
        *comma = '\0';
        *options = comma + 1;
        if (is_device(copy) || strncmp(copy, "/dev/", 5) == 0)
            return RMG_STREAM_SERIAL;
        *comma = ',';
        *options = NULL;
    }
    if (split_address(copy, host, port))
        return RMG_STREAM_TCP;
    return strncmp(copy, "/dev/", 5) == 0 ? RMG_STREAM_SERIAL : RMG_STREAM_FILE;
}

bool rmg_stream_kind_of(const char *name, rmg_stream_kind *kind, char *why)
{
    char *copy = strdup(name), *host = NULL, *port = NULL, *options = NULL;
    rmg_stream tried = {.in = -1, .out = -1};
    bool good = copy != NULL;

    if (!good) {
        rmg_stream_say(why, "no memory is left");
        return false;
    }
    *kind = kind_of(copy, &host, &port, &options);
    if (*kind == RMG_STREAM_SERIAL)
        good = rmg_serial_options(&tried, options, why) == RMG_OK;
    if (*kind == RMG_STREAM_PROGRAM && !copy[4 + strspn(copy + 4, " ")]) {
        rmg_stream_say(why, "found \"%s\", expected run:COMMAND", name);
        good = false;
    }
    free(copy);
    return good;
}

bool rmg_stream_is_two_way(const char *name)
{
    char why[RMG_STREAM_WHY];
    rmg_stream_kind kind;

    return *name && rmg_stream_kind_of(name, &kind, why) && kind != RMG_STREAM_STANDARD &&
           kind != RMG_STREAM_FILE;
}

static rmg_status open_file(rmg_stream *s, const char *file, char *why)
{
    struct stat about;

    s->in = open(file, O_RDONLY | O_CLOEXEC | O_NOCTTY);
    if (s->in < 0) {
        rmg_stream_say(why, "%s: %s", file, strerror(errno));
        return RMG_ERR_FILE;
    }
    if (fstat(s->in, &about) == 0 && S_ISDIR(about.st_mode)) {
        rmg_stream_say(why, "%s: that is a folder, expected a file", file);
        return RMG_ERR_FILE;
    }
    return RMG_OK;
}

rmg_status rmg_stream_open(const char *name, uint32_t wait_ms, rmg_stream **stream, char *why)
{
    char *copy = strdup(name), *host = NULL, *port = NULL, *options = NULL;
    rmg_stream *s = calloc(1, sizeof *s);
    rmg_status status = RMG_ERR_MEMORY;

    *stream = NULL;
    *why = '\0';
    if (copy && s && rmg_stream_kind_of(name, &s->kind, why)) {
        s->in = s->out = -1;
        kind_of(copy, &host, &port, &options);
        switch (s->kind) {
        case RMG_STREAM_SERIAL:
            status = rmg_serial_options(s, options, why);
            status = status == RMG_OK ? rmg_serial_open(s, copy, why) : status;
            break;
        case RMG_STREAM_TCP:
            status = rmg_tcp_open(s, host, port, wait_ms, why);
            break;
        case RMG_STREAM_PROGRAM:
            status = rmg_program_open(s, copy + 4, why);
            break;
        case RMG_STREAM_STANDARD:
            s->in = STDIN_FILENO;
            s->out = STDOUT_FILENO;
            status = RMG_OK;
            break;
        case RMG_STREAM_FILE:
            status = open_file(s, copy, why);
        }
    } else {
        if (s)
            s->in = s->out = -1;
        status = *why ? RMG_ERR_ARGUMENT : RMG_ERR_MEMORY;
        if (!*why)
            rmg_stream_say(why, "no memory is left");
    }
    free(copy);
    if (status != RMG_OK)
        rmg_stream_close(s);
    else
        *stream = s;
    return status;
}

void rmg_stream_close(rmg_stream *s)
{
    if (!s)
        return;
    if (s->kind == RMG_STREAM_SERIAL)
        rmg_serial_close(s);
    if (s->kind != RMG_STREAM_STANDARD) {
        if (s->in >= 0)
            close(s->in);
        if (s->out >= 0 && s->out != s->in)
            close(s->out);
    }
    if (s->kind == RMG_STREAM_PROGRAM)
        rmg_program_close(s);
    free(s);
}

rmg_stream_kind rmg_stream_kind_is(const rmg_stream *s)
{
    return s->kind;
}

bool rmg_stream_ended(const rmg_stream *s)
{
    return s->ended;
}

const char *rmg_stream_why(const rmg_stream *s)
{
    return s->why;
}

bool rmg_stream_wants_speed(const rmg_stream *s)
{
    return s->find_speed;
}

/* How the stream came to an end, by what a read said. */
static rmg_status ended(rmg_stream *s, int error)
{
    s->ended = true;
    switch (s->kind) {
    case RMG_STREAM_SERIAL: /* a line has no end: the device was pulled out */
        rmg_stream_say(s->why, "the device disappeared%s%s", error ? ": " : "",
                       error ? strerror(error) : "");
        return RMG_ERR_PORT_LOST;
    case RMG_STREAM_TCP:
        if (error)
            rmg_stream_say(s->why, "the connection broke: %s", strerror(error));
        return error ? RMG_ERR_PORT_LOST : RMG_OK;
    case RMG_STREAM_PROGRAM:
        rmg_program_ended(s, 200);
        return RMG_OK;
    default:
        if (error)
            rmg_stream_say(s->why, "it cannot be read: %s", strerror(error));
        return error ? RMG_ERR_PORT_LOST : RMG_OK;
    }
}

void rmg_stream_stop_when(rmg_stream *s, bool (*stops)(void *context), void *context)
{
    s->stops = stops;
    s->stops_context = context;
}

rmg_status rmg_stream_read(rmg_stream *s, void *bytes, size_t room, uint32_t wait_ms, size_t *got)
{
    struct pollfd waiting = {s->in, POLLIN, 0};
    ssize_t count;

    *got = 0;
    if (s->ended || (s->stops && s->stops(s->stops_context)))
        return RMG_OK;
    if (s->kind != RMG_STREAM_FILE &&
        poll(&waiting, 1, wait_ms > 3600000u ? 3600000 : (int)wait_ms) <= 0)
        return RMG_OK;
    count = read(s->in, bytes, room);
    if (count > 0) {
        unsigned char *taken = bytes;

        for (ssize_t i = 0; s->frame.data_bits == 7 && i < count; i++)
            taken[i] &= 0x7Fu; /* what a driver leaves there of a parity bit */
        *got = (size_t)count;
        return RMG_OK;
    }
    if (count < 0 && (errno == EINTR || errno == EAGAIN))
        return RMG_OK;
    return ended(s, count < 0 ? errno : 0);
}

/* As write, but a program whose other end went away gets an error from it, not a signal. */
static ssize_t write_quietly(int fd, const void *bytes, size_t count)
{
    const struct timespec at_once = {0, 0};
    sigset_t pipe, before, waiting;
    ssize_t done;
    int error;

    sigemptyset(&pipe);
    sigaddset(&pipe, SIGPIPE);
    sigpending(&waiting);
    pthread_sigmask(SIG_BLOCK, &pipe, &before);
    done = write(fd, bytes, count);
    error = errno;
    if (done < 0 && error == EPIPE && !sigismember(&waiting, SIGPIPE))
        sigtimedwait(&pipe, NULL, &at_once);
    pthread_sigmask(SIG_SETMASK, &before, NULL);
    errno = error;
    return done;
}

rmg_status rmg_stream_write(rmg_stream *s, const void *bytes, size_t count, uint32_t wait_ms,
                            size_t *sent)
{
    const int64_t end = rmg_stream_now_ms() + wait_ms;

    *sent = 0;
    if (s->out < 0)
        return RMG_ERR_PORT_CANNOT;
    while (*sent < count) {
        struct pollfd waiting = {s->out, POLLOUT, 0};
        const int64_t left = end - rmg_stream_now_ms();
        ssize_t more;

        if (left < 0 || poll(&waiting, 1, (int)left) <= 0)
            return RMG_ERR_CANCELLED;
        more = write_quietly(s->out, (const char *)bytes + *sent, count - *sent);
        if (more > 0)
            *sent += (size_t)more;
        else if (more < 0 && errno != EINTR && errno != EAGAIN) {
            ended(s, errno);
            return RMG_ERR_PORT_LOST;
        }
    }
    return RMG_OK;
}
