/* Lines of the link at its near half: numbers, checks, and what is spoilt on the way. */
#include <inttypes.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "internal.h"

#define LEAST_WAIT_S 0.1 /* before a line is asked for again */

double rmg_link_now(void)
{
    struct timespec t;

    clock_gettime(CLOCK_MONOTONIC, &t);
    return (double)t.tv_sec + (double)t.tv_nsec / 1e9;
}

size_t rmg_link_length(const rmg_link *l)
{
    const uint64_t most = l->bytes / (2 * l->again + 3u);

    return most < 40 ? 40 : most < LINK_LINE / 2u ? (size_t)most : LINK_LINE / 2u;
}

static rmg_status fail(rmg_link *l, rmg_status status, const char *why)
{
    snprintf(l->why, sizeof l->why, "%s", *why ? why : "the far end closed the link");
    return status;
}

/* Takes bytes up to the next LF. RMG_ERR_RANGE: not before `until`. */
static rmg_status get_line(rmg_link *l, double until)
{
    for (;;) {
        const double left = until - rmg_link_now();
        rmg_status status;

        while (l->in_next < l->in_count) {
            const char c = (char)l->in[l->in_next++];

            if (c == '\n') {
                const bool whole = !l->too_long;

                l->answer[l->got] = '\0';
                l->got = 0;
                l->too_long = false;
                return whole ? RMG_OK : RMG_ERR_CONTENT;
            }
            if (c != '\r' && l->got + 1u < LINK_LINE)
                l->answer[l->got++] = c;
            else if (c != '\r')
                l->too_long = true;
        }
        if (left <= 0)
            return RMG_ERR_RANGE;
        l->in_next = l->in_count = 0;
        status = rmg_stream_read(l->stream, l->in, sizeof l->in, (uint32_t)(left * 1000) + 1u,
                                 &l->in_count);
        l->bytes += l->in_count;
        if (status != RMG_OK)
            return fail(l, status, rmg_stream_why(l->stream));
        if (!l->in_count && rmg_stream_ended(l->stream))
            return fail(l, RMG_ERR_PORT_LOST, "the far end closed the link");
        if (!l->in_count && rmg_link_now() < until - 0.01)
            return RMG_ERR_CANCELLED; /* a signal */
    }
}

/* The number before a line's text. */
static bool has_number(const char *line, unsigned *number)
{
    if (link_digit(line[0]) < 0 || link_digit(line[1]) < 0 || line[2] != ' ')
        return false;
    *number = (unsigned)(link_digit(line[0]) * 16 + link_digit(line[1]));
    return true;
}

/* A far end without checks answers hello without one. So does a line that lost its "*" on the way:
 * it must come twice alike. */
static bool is_plain_hello(rmg_link *l)
{
    const char *text = l->answer + 3;
    unsigned number;
    bool again;

    if (!l->greeting || !has_number(l->answer, &number) || number != l->number ||
        strncmp(text, "ok link=", 8) != 0 || strchr(text, '*'))
        return false;
    again = strcmp(l->plain, text) == 0;
    snprintf(l->plain, sizeof l->plain, "%s", text);
    return again;
}

/* "*CHECK" of a line, as long as they are now. */
static size_t check_text(const rmg_link *l, const char *line, size_t size, char *text, size_t room)
{
    if (!l->check)
        return 0;
    if (l->check == 8)
        return (size_t)snprintf(text, room, "*%08" PRIX32, rmg_link_check32(0, line, size));
    return (size_t)snprintf(text, room, "*%04X", rmg_link_check(0xFFFF, line, size));
}

/* Is the line in link->answer whole, and which number has it? The check is cut off. */
static bool is_whole(rmg_link *l, unsigned *number)
{
    char *line = l->answer;
    const size_t size = strlen(line), other = l->check + (l->check > 0);
    char check[12];

    if (l->check) {
        if (size < 3u + other)
            return false;
        check_text(l, line, size - other, check, sizeof check);
        if (strcmp(check, line + size - other) != 0)
            return false;
        line[size - other] = '\0';
    }
    return has_number(line, number);
}

/* The next whole line with the number asked for. RMG_ERR_CONTENT: one came that is not whole;
 * RMG_ERR_RANGE: none came before `until`. */
static rmg_status get_answer(rmg_link *l, double until, bool *heard)
{
    for (;;) {
        const rmg_status status = get_line(l, until);
        unsigned number;

        *heard |= status == RMG_OK || status == RMG_ERR_CONTENT || l->got > 0;
        if (status != RMG_OK)
            return status;
        if (!*l->answer)
            continue;
        if (l->check && is_plain_hello(l)) {
            l->check = 0;
            return RMG_OK;
        }
        if (!is_whole(l, &number))
            return RMG_ERR_CONTENT;
        if (number == l->number)
            return RMG_OK;
    }
}

/* What a whole answer of our number says. */
static rmg_status take(rmg_link *l, const char *request)
{
    static const struct {
        const char *reason, *text;
        rmg_status status;
    } reasons[] = {
        {"hello", "the far end has started anew; what its memory held may be gone",
         RMG_ERR_PORT_LOST},
        {"lost", "the far end has lost its memory", RMG_ERR_PORT_LOST},
        {"cannot", "the far end cannot do that", RMG_ERR_PORT_CANNOT},
    };
    char *text = l->answer + 3;

    if (strncmp(text, "ok", 2) == 0 && (text[2] == ' ' || !text[2])) {
        memmove(l->answer, text + 2 + (text[2] == ' '), strlen(text + 2 + (text[2] == ' ')) + 1u);
        return RMG_OK;
    }
    snprintf(l->refused, sizeof l->refused, "%.60s", strncmp(text, "no ", 3) == 0 ? text + 3 : "");
    for (size_t i = 0; i < sizeof reasons / sizeof *reasons; i++)
        if (strncmp(text, "no ", 3) == 0 && strcmp(text + 3, reasons[i].reason) == 0)
            return fail(l, reasons[i].status, reasons[i].text);
    for (char *c = text; *c; c++)
        if (*c < ' ' || *c > '~')
            *c = '?';
    snprintf(l->why, sizeof l->why, "the far end answers \"%.60s\" to \"%.60s\"", text, request);
    return RMG_ERR_PORT;
}

/* Sends the line and takes its answer. RMG_ERR_CONTENT, RMG_ERR_RANGE: not yet. */
static rmg_status try_once(rmg_link *l, const char *line, size_t size, double until, bool stops,
                           bool *heard)
{
    const double began = rmg_link_now();
    size_t sent;
    rmg_status status;

    l->lines++;
    l->bytes += size;
    status = rmg_stream_write(l->stream, line, size, (uint32_t)(LINK_WAIT_S * 1000), &sent);
    if (status == RMG_ERR_PORT_LOST || status == RMG_ERR_PORT_CANNOT)
        return fail(l, RMG_ERR_PORT_LOST, rmg_stream_why(l->stream));
    do {
        status = get_answer(l, until, heard);
        l->interrupted |= status == RMG_ERR_CANCELLED;
    } while (status == RMG_ERR_CANCELLED && !stops);
    l->took = rmg_link_now() - began;
    return status;
}

rmg_status rmg_link_ask(rmg_link *l, const char *request, double takes_s, bool stops)
{
    const double end = rmg_link_now() + LINK_WAIT_S + takes_s;
    const double usual = 4 * l->slowest > LEAST_WAIT_S ? 4 * l->slowest : LEAST_WAIT_S;
    char line[LINK_ASK + 16u];
    bool heard = false, damaged = false;
    size_t size;

    l->number = (l->number + 1u) & 0xFFu;
    size = (size_t)snprintf(line, sizeof line, "%02X %s", l->number, request);
    size += check_text(l, line, size, line + size, sizeof line - size);
    line[size++] = '\n';
    for (unsigned tries = 0; rmg_link_now() < end; tries++) {
        const double until = rmg_link_now() + takes_s + usual * (1 + tries);
        const rmg_status status = try_once(l, line, size, until < end ? until : end, stops, &heard);

        if (status == RMG_OK) {
            const double late = l->took - takes_s;

            l->slowest = late > l->slowest ? late : 0.9 * l->slowest;
            return take(l, request);
        }
        if (status != RMG_ERR_CONTENT && status != RMG_ERR_RANGE)
            return status;
        damaged |= status == RMG_ERR_CONTENT;
        l->again++;
    }
    return fail(l, RMG_ERR_PORT_LOST,
                damaged && l->lines > 8
                    ? "answers of the far end arrive damaged, however often they are asked for"
                : heard ? "the far end sends, but no answer to what was asked"
                        : "the far end does not answer");
}
