/* The status line of a long run, and Ctrl-C. On a terminal only; at most 10 updates a second. */
#include <signal.h>
#include <string.h>
#include <unistd.h>

#include "cli.h"

static volatile sig_atomic_t stop_asked;
static gint64 started, shown;
static bool on_terminal;

static void ask_stop(int signal_number)
{
    (void)signal_number;
    stop_asked = 1;
}

void progress_start(void)
{
    struct sigaction action;

    memset(&action, 0, sizeof action);
    action.sa_handler = ask_stop;
    action.sa_flags = (int)SA_RESETHAND; /* a second Ctrl-C ends at once */
    sigaction(SIGINT, &action, NULL);
    sigaction(SIGTERM, &action, NULL);
    started = g_get_monotonic_time();
    shown = 0;
    on_terminal = isatty(STDERR_FILENO);
}

bool progress_show(void *context, const rmg_run_progress *p)
{
    const gint64 now = g_get_monotonic_time();
    const double spent = (double)(now - started) / 1e6;

    (void)context;
    if (stop_asked || !on_terminal || now - shown < 100000)
        return !stop_asked;
    shown = now;
    fprintf(stderr, "\r\033[K%3.0f %% done, pass %u of %u, %s, %" G_GUINT64_FORMAT " failing reads",
            MIN(p->share, 1.0) * 100, p->pass, p->passes, p->step, p->failing_reads);
    if (p->share > 0.01 && spent > 1)
        fprintf(stderr, ", about %.0f s left", spent / p->share - spent);
    fflush(stderr);
    return true;
}

void progress_end(void)
{
    if (on_terminal && shown)
        fprintf(stderr, "\r\033[K");
}
