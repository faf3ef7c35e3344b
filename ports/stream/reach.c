/* Streams to other programs: by TCP, and by the pipes of one that we start. */
#include "internal.h"

#include <errno.h>
#include <fcntl.h>
#include <netdb.h>
#include <netinet/in.h>
#include <netinet/tcp.h>
#include <poll.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

/* Connects within the time; the error, or 0. */
static int try_connect(int fd, const struct addrinfo *to, uint32_t wait_ms)
{
    struct pollfd waiting = {fd, POLLOUT, 0};
    int error = 0;
    socklen_t size = sizeof error;

    if (connect(fd, to->ai_addr, to->ai_addrlen) == 0)
        return 0;
    if (errno != EINPROGRESS)
        return errno;
    if (poll(&waiting, 1, (int)wait_ms) <= 0)
        return ETIMEDOUT;
    return getsockopt(fd, SOL_SOCKET, SO_ERROR, &error, &size) == 0 ? error : errno;
}

rmg_status rmg_tcp_open(rmg_stream *s, const char *host, const char *port, uint32_t wait_ms,
                        char *why)
{
    const struct addrinfo wanted = {.ai_socktype = SOCK_STREAM, .ai_family = AF_UNSPEC};
    struct addrinfo *found = NULL;
    const int unknown = getaddrinfo(host, port, &wanted, &found);
    int error = EHOSTUNREACH;

    if (unknown) {
        rmg_stream_say(why, "%s: %s", host, gai_strerror(unknown));
        return RMG_ERR_FILE;
    }
    for (const struct addrinfo *to = found; to && s->in < 0; to = to->ai_next) {
        const int fd =
            socket(to->ai_family, to->ai_socktype | SOCK_NONBLOCK | SOCK_CLOEXEC, to->ai_protocol);
        const int at_once = 1;

        if (fd < 0)
            continue;
        error = try_connect(fd, to, wait_ms);
        if (error) {
            close(fd);
            continue;
        }
        setsockopt(fd, IPPROTO_TCP, TCP_NODELAY, &at_once, sizeof at_once);
        s->in = s->out = fd;
    }
    freeaddrinfo(found);
    if (s->in < 0)
        rmg_stream_say(why, "%s:%s: %s", host, port, strerror(error));
    return s->in < 0 ? RMG_ERR_FILE : RMG_OK;
}

/* The program's side, after the fork: a group of its own, so that all it starts ends with it. */
static void become(const char *command, const int to[2], const int from[2])
{
    setpgid(0, 0);
    signal(SIGPIPE, SIG_DFL);
    dup2(to[0], STDIN_FILENO);
    dup2(from[1], STDOUT_FILENO);
    execl("/bin/sh", "sh", "-c", command, (char *)NULL);
    _exit(127);
}

rmg_status rmg_program_open(rmg_stream *s, const char *command, char *why)
{
    int to[2], from[2];

    if (pipe2(to, O_CLOEXEC) != 0) {
        rmg_stream_say(why, "run: %s", strerror(errno));
        return RMG_ERR_FILE;
    }
    if (pipe2(from, O_CLOEXEC) != 0 || (s->program = fork()) < 0) {
        rmg_stream_say(why, "run: %s", strerror(errno));
        s->program = 0;
        close(to[0]);
        close(to[1]);
        return RMG_ERR_FILE;
    }
    if (s->program == 0)
        become(command, to, from);
    setpgid(s->program, s->program); /* whoever is first */
    close(to[0]);
    close(from[1]);
    s->out = to[1];
    s->in = from[0];
    fcntl(s->out, F_SETFL, O_NONBLOCK);
    return RMG_OK;
}

void rmg_program_ended(rmg_stream *s, uint32_t wait_ms)
{
    const int64_t end = rmg_stream_now_ms() + wait_ms;
    const struct timespec moment = {0, 5000000};
    int status;
    pid_t gone = 0;

    while (s->program && (gone = waitpid(s->program, &status, WNOHANG)) == 0 &&
           rmg_stream_now_ms() < end)
        nanosleep(&moment, NULL);
    if (gone <= 0)
        return;
    s->program = 0;
    if (WIFEXITED(status) && WEXITSTATUS(status) == 127)
        rmg_stream_say(s->why, "the command was not found");
    else if (WIFEXITED(status) && WEXITSTATUS(status))
        rmg_stream_say(s->why, "the command ended with status %d", WEXITSTATUS(status));
    else if (WIFSIGNALED(status))
        rmg_stream_say(s->why, "the command was ended by signal %d", WTERMSIG(status));
}

void rmg_program_close(rmg_stream *s)
{
    const pid_t group = s->program;

    if (!group)
        return;
    kill(-group, SIGTERM);
    rmg_program_ended(s, 500);
    kill(-group, SIGKILL);
    if (s->program)
        waitpid(s->program, NULL, 0);
}
