/* Bytes to lines, lines to reports, reports into a run. */
#include "listen.h"

#include <string.h>

#define MOST_SHOWN  3u
#define SHOWN_BYTES 100u

rmg_listener *rmg_listen_begin(const rmg_profile *profile, rmg_run *run)
{
    rmg_listener *l = g_new0(rmg_listener, 1);

    l->profile = profile;
    l->run = run;
    l->started = !profile->has_start;
    l->began_us = g_get_monotonic_time();
    if (profile->rom) {
        rmg_error error;

        rmg_run_hear_rom(run, &profile->how, &error); /* the profile was refused if it cannot be */
        rmg_error_free(&error);
    } else {
        run->heard->limit = profile->limit;
    }
    rmg_listen_forget(l);
    return l;
}

void rmg_listen_free(rmg_listener *l)
{
    if (!l)
        return;
    for (unsigned i = 0; i < MOST_SHOWN; i++) {
        g_free(l->unknown[i]);
        g_free(l->before_start[i]);
    }
    g_free(l);
}

void rmg_listen_watch(rmg_listener *l,
                      void (*line)(void *context, const rmg_understood *understood), void *context)
{
    l->watch = line;
    l->watch_context = context;
}

bool rmg_listen_ended(const rmg_listener *l)
{
    return l->ended;
}

const char *rmg_line_is_name(rmg_line_is is)
{
    static const char *const names[] = {"unknown", "skipped", "empty",  "failure", "status",
                                        "count",   "heading", "tested", "pass",    "start",
                                        "summary", "end",     "ignore"};

    _Static_assert(G_N_ELEMENTS(names) == RMG_LINE_IS, "each kind of line has its name");
    return is < RMG_LINE_IS ? names[is] : "";
}

/* A pass ended: where the profile has no lines for that, a start or an end is one. */
static rmg_status end_pass(rmg_listener *l)
{
    l->in_limit = l->profile->limit_per == 2 ? 0 : l->in_limit;
    l->since_pass = 0;
    return rmg_run_hear_pass(l->run, (double)(g_get_monotonic_time() - l->began_us) / 1e6);
}

/* Reports into the run. */
static rmg_status take_reports(rmg_listener *l, const rmg_understood *u)
{
    rmg_heard *heard = l->run->heard;
    rmg_status status = RMG_OK;

    for (size_t i = 0; i < u->report_count && status == RMG_OK; i++) {
        char *words = NULL;

        if (heard->first_count < RMG_HEARD_FIRST) {
            char *what = rmg_report_text(l->run->board, &u->reports[i]);

            words = g_strdup_printf("line %" G_GUINT64_FORMAT ": %s", u->number, what);
            rmg_text_free(what);
        }
        status = rmg_run_hear(l->run, &u->reports[i], words);
        g_free(words);
        l->since_pass += u->reports[i].count;
        l->since_start += u->reports[i].count;
    }
    if (u->report_count && l->profile->limit && ++l->in_limit >= l->profile->limit)
        heard->at_least = true;
    return status;
}

static rmg_status act(rmg_listener *l, const rmg_understood *u)
{
    rmg_status status = RMG_OK;

    switch (u->is) {
    case RMG_LINE_FAILURE:
    case RMG_LINE_STATUS:
    case RMG_LINE_COUNT:
        return take_reports(l, u);
    case RMG_LINE_HEADING:
        l->in_limit = l->profile->limit_per == 1 ? 0 : l->in_limit;
        return RMG_OK;
    case RMG_LINE_TESTED:
        if (l->run->tested_count < UINT8_MAX)
            rmg_run_hear_tested(l->run, l->tested);
        return RMG_OK;
    case RMG_LINE_PASS:
        status = take_reports(l, u); /* of blinks: the first finding of the pass */
        if (status != RMG_OK)
            return status;
        if (l->has_total && l->since_pass < l->total)
            l->run->heard->at_least = true;
        return end_pass(l);
    case RMG_LINE_START:
        if (l->open && !l->profile->has_pass && !l->profile->has_end)
            status = end_pass(l);
        rmg_listen_forget(l);
        l->since_start = 0;
        l->started = l->open = true;
        l->ended = false;
        return status;
    case RMG_LINE_SUMMARY:
    case RMG_LINE_END:
        if (l->has_total && l->since_start < l->total) /* it counted more than it told */
            l->run->heard->at_least = true;
        if (!l->profile->has_pass && !l->ended)
            status = end_pass(l);
        l->ended = true;
        l->open = false;
        if (u->is == RMG_LINE_END && l->profile->has_start)
            l->started = false; /* what comes before the next start says nothing */
        return status;
    default:
        return RMG_OK;
    }
}

/* Keeps a line for the message that the lines do not fit. */
static void keep(char *list[MOST_SHOWN], unsigned *count, const rmg_understood *u)
{
    gchar *text;

    if (*count == MOST_SHOWN)
        return;
    text = g_strndup(u->text, SHOWN_BYTES);
    for (char *c = text; *c; c++)
        if (!g_ascii_isprint(*c))
            *c = '.';
    list[(*count)++] = g_strdup_printf("line %" G_GUINT64_FORMAT ": \"%s\"%s%s%s", u->number, text,
                                       u->why ? " (" : "", u->why ? u->why : "", u->why ? ")" : "");
    g_free(text);
}

static rmg_status take_line(rmg_listener *l)
{
    rmg_understood u;
    rmg_status status;

    l->line[l->length] = '\0';
    l->run->heard->lines++;
    rmg_listen_understand(l, l->line, l->length, &u);
    l->length = 0;
    if (u.is == RMG_LINE_UNKNOWN) {
        l->run->heard->unknown++;
        keep(l->unknown, &l->unknown_count, &u);
    } else if (u.is == RMG_LINE_SKIPPED) {
        l->skipped++;
        keep(l->before_start, &l->before_count, &u);
    } else if (u.is != RMG_LINE_EMPTY) {
        l->known++;
    }
    status = act(l, &u);
    if (l->watch)
        l->watch(l->watch_context, &u);
    return status;
}

/* One byte of what a terminal shows. */
static rmg_status take_byte(rmg_listener *l, unsigned char byte)
{
    const unsigned char before = l->before;

    if (l->escape) { /* ESC [ ... letter, or ESC and one character */
        if (l->escape == 1 && byte == '[')
            l->escape = 2;
        else if (l->escape == 1 || (byte >= 0x40 && byte <= 0x7E))
            l->escape = 0;
        return RMG_OK;
    }
    l->before = byte;
    switch (byte) {
    case '\r': /* CR LF, LF CR and CR CR LF are one end */
        if (before == '\r')
            return RMG_OK;
        if (before == '\n' && !l->paired) {
            l->paired = true;
            return RMG_OK;
        }
        l->paired = false;
        return take_line(l);
    case '\n':
        if (before == '\r' && !l->paired) {
            l->paired = true;
            return RMG_OK;
        }
        l->paired = false;
        return take_line(l);
    case 0x1B:
        l->escape = 1;
        return RMG_OK;
    case '\b':
        l->length -= l->length > 0;
        return RMG_OK;
    case '\0':
        l->before = before;
        return RMG_OK;
    default:
        l->paired = false;
        if (l->length < RMG_LINE_BYTES)
            l->line[l->length++] = (char)byte;
        return RMG_OK;
    }
}

rmg_status rmg_listen_bytes(rmg_listener *l, const char *bytes, size_t count)
{
    rmg_status status = RMG_OK;

    for (size_t i = 0; i < count && status == RMG_OK; i++)
        status = take_byte(l, (unsigned char)bytes[i]);
    return status;
}

static rmg_status no_fit(char *const list[MOST_SHOWN], const char *why, rmg_error *error)
{
    GString *text = g_string_new(why);

    for (unsigned i = 0; i < MOST_SHOWN && list[i]; i++)
        g_string_append_printf(text, "\n  %s", list[i]);
    rmg_fail(error, RMG_ERR_CONTENT, NULL, "%s", text->str);
    g_string_free(text, TRUE);
    return RMG_ERR_CONTENT;
}

rmg_status rmg_listen_end(rmg_listener *l, bool stopped, rmg_error *error)
{
    const rmg_heard *heard = l->run->heard;
    rmg_status status = l->length ? take_line(l) : RMG_OK;
    gchar *why;

    rmg_error_none(error);
    if (status != RMG_OK)
        return rmg_fail(error, status, NULL, "%s", rmg_status_text(status));
    if (!l->known && !heard->unknown)
        return no_fit(l->before_start,
                      l->skipped ? "no line is one that the profile calls the start (is: start); "
                                   "the first are"
                                 : "not one line arrived",
                      error);
    if ((double)heard->unknown > (double)(l->known + heard->unknown) * l->profile->unknown_most) {
        why = g_strdup_printf("the lines do not fit the profile: %" G_GUINT64_FORMAT
                              " of %" G_GUINT64_FORMAT " are not known to it%s",
                              heard->unknown, l->known + heard->unknown,
                              heard->unknown > MOST_SHOWN ? ", among them" : "");
        status = no_fit(l->unknown, why, error);
        g_free(why);
        return status;
    }
    l->run->seconds_wall = (double)(g_get_monotonic_time() - l->began_us) / 1e6;
    l->run->complete = !stopped && (!l->profile->has_end || l->ended);
    l->run->status = l->run->complete ? RMG_OK : stopped ? RMG_ERR_CANCELLED : RMG_ERR_PORT_LOST;
    return RMG_OK;
}
