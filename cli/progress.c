/* The status line of a long run with the first failures above it, and Ctrl-C. On a terminal only;
 * at most 10 updates a second. SIGTERM and a terminal that is closed end a run like Ctrl-C. */
#include <signal.h>
#include <string.h>
#include <unistd.h>

#include "cli.h"

static volatile sig_atomic_t stop_asked;
static gint64 started, shown;
static bool on_terminal;
static double first_share; /* where a resumed run began; negative: not known yet */
static unsigned failures_shown;

#define FAILURES_SHOWN 8u

/* The first one asks for an orderly end; a second Ctrl-C does not wait for it. */
static void ask_stop(int signal_number)
{
    if (stop_asked && signal_number == SIGINT) {
        signal(SIGINT, SIG_DFL);
        raise(SIGINT);
    }
    stop_asked = 1;
}

static void listen_to(int signal_number)
{
    struct sigaction action, before;

    if (signal_number == SIGHUP && sigaction(SIGHUP, NULL, &before) == 0 &&
        before.sa_handler == SIG_IGN)
        return; /* nohup: the run is to go on without a terminal */
    memset(&action, 0, sizeof action);
    action.sa_handler = ask_stop;
    sigaction(signal_number, &action, NULL);
}

void progress_start(void)
{
    listen_to(SIGINT);
    listen_to(SIGTERM);
    listen_to(SIGHUP);
    started = g_get_monotonic_time();
    shown = 0;
    first_share = -1;
    failures_shown = 0;
    on_terminal = on_screen(stderr);
}

char *time_text(double seconds, char *text, size_t room)
{
    if (seconds < 100)
        g_snprintf(text, (gulong)room, "%.0f s", seconds);
    else if (seconds < 6000)
        g_snprintf(text, (gulong)room, "%.0f min", seconds / 60);
    else
        g_snprintf(text, (gulong)room, "%.1f h", seconds / 3600);
    return text;
}

bool progress_show(const rmg_run_progress *p)
{
    const gint64 now = g_get_monotonic_time();
    const double spent = (double)(now - started) / 1e6;
    GString *line;
    char text[24];

    if (first_share < 0 && p->share >= 0)
        first_share = p->share;
    if (stop_asked || !on_terminal || now - shown < 100000)
        return !stop_asked;
    shown = now;
    line = g_string_new(NULL);
    if (p->share >= 0)
        g_string_append_printf(line, "%3.0f %% done, ", MIN(p->share, 1.0) * 100);
    g_string_append_printf(line, "pass %" G_GUINT64_FORMAT, p->pass);
    if (p->passes)
        g_string_append_printf(line, " of %u", p->passes);
    g_string_append_printf(line, " (%.0f %%), %s, %" G_GUINT64_FORMAT " failing reads",
                           p->pass_share * 100, p->step, p->failing_reads);
    if (p->share - first_share > 0.01 && spent > 1)
        g_string_append_printf(
            line, ", about %s left",
            time_text(spent / (p->share - first_share) * (1 - p->share), text, sizeof text));
    fprintf(stderr, "\r\033[K%.*s", (int)text_columns(stderr) - 1, line->str);
    fflush(stderr);
    g_string_free(line, TRUE);
    return true;
}

bool progress_share(const char *what, double share)
{
    const gint64 now = g_get_monotonic_time();

    if (stop_asked || !on_terminal || now - shown < 100000)
        return !stop_asked;
    shown = now;
    fprintf(stderr, "\r\033[K%s, %3.0f %% done", what, share * 100);
    fflush(stderr);
    return true;
}

bool progress_lines(uint64_t lines, uint64_t failures)
{
    const gint64 now = g_get_monotonic_time();

    if (stop_asked || !on_terminal || now - shown < 100000)
        return !stop_asked;
    shown = now;
    fprintf(stderr, "\r\033[K%" G_GUINT64_FORMAT " lines, %" G_GUINT64_FORMAT " failures", lines,
            failures);
    fflush(stderr);
    return true;
}

/* "D2 (U24), D5 (U21)": the bits that failed, and their sockets. */
static void name_bits(const rmg_board *board, const rmg_failure *f, GString *text)
{
    const rmg_word wrong = f->expected ^ f->actual;
    unsigned named = 0;

    for (uint8_t i = 0; i < board->word_bits; i++) {
        rmg_place place;

        if (!(wrong >> i & 1u))
            continue;
        if (++named > 4) {
            g_string_append(text, ", ...");
            return;
        }
        g_string_append_printf(text, "%sD%u", named > 1 ? ", " : "", i);
        if (rmg_place_find(&board->placement, f->address, i, &place))
            g_string_append_printf(text, " (%s)", board->sockets[place.socket].name);
    }
}

char *failure_text(const rmg_board *board, const rmg_failure *f)
{
    const int digits = (board->word_bits + 3) / 4;
    char address[40];
    GString *bits = g_string_new(NULL);
    gchar *text;

    name_bits(board, f, bits);
    text = g_strdup_printf(
        "%s: expected 0x%0*" G_GINT64_MODIFIER "X, read 0x%0*" G_GINT64_MODIFIER "X: %s, pass %u",
        rmg_board_address_text(board, f->address, address, sizeof address), digits,
        (guint64)f->expected, digits, (guint64)f->actual, bits->str, f->pass + 1u);
    g_string_free(bits, TRUE);
    return text;
}

void progress_failure(const rmg_board *board, const rmg_failure *f)
{
    gchar *text;

    if (!on_terminal || failures_shown > FAILURES_SHOWN)
        return;
    fprintf(stderr, "\r\033[K");
    if (failures_shown++ == FAILURES_SHOWN) {
        fprintf(stderr, "  more failures are counted, not shown\n");
        return;
    }
    text = failure_text(board, f);
    fprintf(stderr, "  %s\n", text);
    g_free(text);
}

bool progress_stopped(void)
{
    return stop_asked;
}

void progress_end(void)
{
    if (on_terminal && shown)
        fprintf(stderr, "\r\033[K");
}
