/* Pictures are drawn in a process of their own: the libraries that find fonts and draw may crash,
 * or look for ever, where memory ends, and a run of hours is not to end with them. */
#include <errno.h>
#include <signal.h>
#include <string.h>
#include <sys/time.h>
#include <sys/wait.h>
#include <unistd.h>

#include "cli.h"

#define SECONDS 20 /* of the processor's time: a picture takes less than one */

/* In the new process. */
static void draw_and_exit(draw_call draw, const void *context)
{
    const struct itimerval timer = {{0, 0}, {SECONDS, 0}};
    rmg_error error = {0};
    rmg_status status;

    signal(SIGPROF, SIG_DFL);
    signal(SIGINT, SIG_DFL); /* nothing in here asks whether to stop */
    signal(SIGTERM, SIG_DFL);
    signal(SIGHUP, SIG_DFL);
    setitimer(ITIMER_PROF, &timer, NULL);
    status = draw(context, &error);
    if (status != RMG_OK)
        fprintf(stderr, "rimeglass: %s\n", error.what ? error.what : rmg_status_text(status));
    fflush(stderr);
    _exit(status == RMG_OK ? EXIT_PASS : EXIT_CALL);
}

bool draw_apart(draw_call draw, const void *context, const char *file)
{
    int status = 0;
    pid_t child, ended;

    fflush(stdout);
    fflush(stderr);
    child = fork();
    if (child == 0)
        draw_and_exit(draw, context);
    do
        ended = child > 0 ? waitpid(child, &status, 0) : -1;
    while (ended < 0 && child > 0 && errno == EINTR);
    if (ended < 0 || !WIFEXITED(status))
        fprintf(stderr, "rimeglass: %s could not be drawn: is there memory left?\n", file);
    return ended > 0 && WIFEXITED(status) && WEXITSTATUS(status) == EXIT_PASS;
}
