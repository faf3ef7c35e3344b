/* The conversation at a prompt: typing a line, comparing its echo, taking the answer. */
#include <string.h>

#include "internal.h"

#define LINE_MOST 4096u
#define ECHO_MS   400u /* for an echo, beside the time that its characters take */
#define QUIET_MS  30u  /* without a character, after which no other is expected; */
#define FIRST_MS  200u /* the same at first, when nothing is known of how fast it is */
#define LEAST_MS  50u  /* that an echo or an answer is waited for, however fast others were */
#define CHAR_MS   40u  /* that a character may take: 300 baud */

/* How long to wait, by the slowest lately. */
static gint64 patience(gint64 slowest_ms, gint64 most_ms)
{
    return slowest_ms < 0 ? most_ms : MIN(4 * slowest_ms + LEAST_MS, most_ms);
}

/* Keeps the slowest, which fades. */
static void keep_slowest(gint64 *slowest_ms, gint64 took_ms)
{
    *slowest_ms = MAX(took_ms, *slowest_ms - *slowest_ms / 16);
}

static gint64 now_ms(void)
{
    return g_get_monotonic_time() / 1000;
}

rmg_status rmg_prompt_fail(rmg_prompt *p, rmg_status status, const char *format, ...)
{
    va_list list;

    va_start(list, format);
    g_vsnprintf(p->why, sizeof p->why, format, list);
    va_end(list);
    for (char *c = p->why; *c; c++)
        if (*c < ' ' || *c > '~')
            *c = '?';
    return status;
}

/* The next byte before `until`; RMG_ERR_RANGE: none came. */
static rmg_status get_byte(rmg_prompt *p, gint64 until, unsigned char *byte)
{
    while (p->in_next == p->in_count) {
        const gint64 left = until - now_ms();
        rmg_status status;

        p->in_next = p->in_count = 0;
        status = rmg_stream_read(p->stream, p->in, sizeof p->in, left > 0 ? (uint32_t)left : 0,
                                 &p->in_count);
        if (status != RMG_OK)
            return rmg_prompt_fail(p, status, "%s", rmg_stream_why(p->stream));
        if (!p->in_count && rmg_stream_ended(p->stream))
            return rmg_prompt_fail(p, RMG_ERR_PORT_LOST, "the line to the prompt was closed");
        if (!p->in_count && now_ms() < until - 10)
            return RMG_ERR_CANCELLED; /* a signal */
        if (!p->in_count && now_ms() >= until)
            return RMG_ERR_RANGE;
    }
    *byte = p->in[p->in_next++];
    if (p->profile->strip)
        *byte &= 0x7Fu;
    return RMG_OK;
}

static rmg_status send(rmg_prompt *p, const char *bytes, size_t count)
{
    size_t sent = 0;
    const rmg_status status =
        rmg_stream_write(p->stream, bytes, count, 2000u + (uint32_t)count * CHAR_MS, &sent);

    return status == RMG_ERR_PORT_LOST || status == RMG_ERR_PORT_CANNOT
               ? rmg_prompt_fail(p, RMG_ERR_PORT_LOST, "%s",
                                 *rmg_stream_why(p->stream) ? rmg_stream_why(p->stream)
                                                            : "the line to the prompt was closed")
               : status;
}

/* Where the prompt stands: the unfinished line, or the last whole one where nothing follows it. */
static const char *stands_at(const rmg_prompt *p)
{
    return p->line->len    ? p->line->str
           : p->lines->len ? (const char *)p->lines->pdata[p->lines->len - 1u]
                           : "";
}

static void forget(rmg_prompt *p)
{
    if (*stands_at(p))
        g_strlcpy(p->heard, stands_at(p), sizeof p->heard);
    g_ptr_array_set_size(p->lines, 0);
    g_string_truncate(p->line, 0);
}

/* Puts a byte to the lines: CR, LF or both end one; what moves a cursor is no text. */
static void put_byte(rmg_prompt *p, unsigned char byte)
{
    if (byte == '\r' || byte == '\n') {
        if (p->line->len)
            g_ptr_array_add(p->lines, g_strndup(p->line->str, p->line->len));
        g_string_truncate(p->line, 0);
    } else if (byte >= ' ' && byte != 0x7F && p->line->len < LINE_MOST) {
        g_string_append_c(p->line, (char)byte);
    }
}

/* Takes what comes until the unfinished line is one that the prompt waits at, and nothing follows
 * at once. RMG_ERR_RANGE: not before `until`. */
static rmg_status wait_at(rmg_prompt *p, const GRegex *ready, gint64 until)
{
    for (;;) {
        unsigned char byte;
        rmg_status status;

        if (p->in_next == p->in_count) {
            if (g_regex_match(ready, stands_at(p), 0, NULL)) {
                status = get_byte(p, now_ms() + 1, &byte);
                if (status == RMG_ERR_RANGE)
                    return RMG_OK;
                if (status != RMG_OK)
                    return status;
                put_byte(p, byte);
                continue;
            }
            if (p->profile->more && p->line->len &&
                g_regex_match(p->profile->more, p->line->str, 0, NULL)) {
                g_string_truncate(p->line, 0);
                status = send(p, p->profile->more_send, strlen(p->profile->more_send));
                if (status != RMG_OK)
                    return status;
            }
        }
        status = get_byte(p, until, &byte);
        if (status != RMG_OK)
            return status;
        put_byte(p, byte);
    }
}

/* Takes what still comes until nothing does for so long: a prompt of an earlier line that is late.
 */
static rmg_status settle(rmg_prompt *p, unsigned quiet_ms)
{
    const gint64 end = now_ms() + 20 * (gint64)quiet_ms;
    rmg_status status = RMG_OK;
    unsigned char byte;

    while (status == RMG_OK && now_ms() < end)
        status = get_byte(p, now_ms() + quiet_ms, &byte);
    return status == RMG_ERR_RANGE ? RMG_OK : status;
}

rmg_status rmg_prompt_rest(rmg_prompt *p, bool typed)
{
    const unsigned quiet_ms = p->speed > 0 ? QUIET_MS : FIRST_MS;
    const rmg_prompt_profile *f = p->profile;
    /* a program needs time to start, on a busy machine more than a prompt to answer */
    const bool starts = p->speed <= 0 && rmg_stream_kind_is(p->stream) == RMG_STREAM_PROGRAM;
    const unsigned answer_ms = f->answer_ms * (starts ? 4u : 1u);
    rmg_status status = RMG_ERR_RANGE;

    for (unsigned tries = 0; tries < PROMPT_TRIES && status == RMG_ERR_RANGE; tries++) {
        forget(p);
        /* never a line end after half a line: it would carry out what is not what was meant */
        if (typed && *f->cancel)
            status = send(p, f->cancel, strlen(f->cancel));
        else
            status = send(p, f->line_end, strlen(f->line_end));
        if (status == RMG_OK)
            status = wait_at(p, f->ready, now_ms() + answer_ms / 8 * (tries + 1));
    }
    if (status == RMG_OK)
        status = settle(p, quiet_ms);
    if (status != RMG_ERR_RANGE)
        return status;
    forget(p);
    if (!*p->heard)
        return rmg_prompt_fail(p, RMG_ERR_PORT_LOST, "no prompt came, nor anything else");
    return rmg_prompt_fail(p, RMG_ERR_PORT_LOST,
                           "no prompt came that matches \"%.40s\", but \"%.60s\"",
                           g_regex_get_pattern(f->ready), p->heard);
}

/* Takes the echo of a character or more. RMG_ERR_CONTENT: it is another, or missing. */
static rmg_status take_echo(rmg_prompt *p, const char *text, size_t count)
{
    const gint64 start = now_ms();
    const gint64 until = start + patience(p->slowest_echo_ms, ECHO_MS + (gint64)count * CHAR_MS);

    for (size_t i = 0; i < count;) {
        unsigned char byte;
        const rmg_status status = get_byte(p, until, &byte);

        if (status != RMG_OK)
            return status == RMG_ERR_RANGE ? RMG_ERR_CONTENT : status;
        if (byte < ' ')
            continue; /* a line that is folded */
        if (p->profile->upper ? g_ascii_toupper((gchar)byte) != text[i] : (char)byte != text[i])
            return RMG_ERR_CONTENT;
        i++;
    }
    keep_slowest(&p->slowest_echo_ms, now_ms() - start);
    if (count > 2)
        p->character_ms = (3 * p->character_ms + (double)(now_ms() - start) / (double)count) / 4;
    return RMG_OK;
}

/* Nothing may follow the echo: a character that was doubled on its way to the prompt. Waits for
 * twice the time that a character takes. */
static rmg_status no_more_echo(rmg_prompt *p)
{
    unsigned char byte;
    const rmg_status status = get_byte(p, now_ms() + 1 + (gint64)(2 * p->character_ms), &byte);

    return status == RMG_ERR_RANGE ? RMG_OK : status == RMG_OK ? RMG_ERR_CONTENT : status;
}

/* Types text, without its line end. RMG_ERR_CONTENT: its echo was not right. */
static rmg_status type(rmg_prompt *p, const char *text)
{
    const rmg_prompt_profile *f = p->profile;
    const size_t size = strlen(text);
    const bool one_by_one = f->character_ms || f->waits_for_echo;
    rmg_status status = RMG_OK;

    for (size_t i = 0; i < size && status == RMG_OK; i += one_by_one ? 1 : size) {
        const size_t count = one_by_one ? 1 : size;

        if (f->character_ms)
            g_usleep(f->character_ms * 1000u);
        status = send(p, text + i, count);
        if (status == RMG_OK && f->echo && (f->waits_for_echo || !one_by_one))
            status = take_echo(p, text + i, count);
    }
    if (status == RMG_OK && f->echo && one_by_one && !f->waits_for_echo)
        status = take_echo(p, text, size);
    return status == RMG_OK && f->echo && size ? no_more_echo(p) : status;
}

static void append_number(GString *to, const number_form *form, uint64_t number)
{
    const uint64_t value = number + form->add;
    const int width = (int)form->width;

    if (form->base == 16)
        g_string_append_printf(to, "%0*" G_GINT64_MODIFIER "X", width, (guint64)value);
    else if (form->base == 8)
        g_string_append_printf(to, "%0*" G_GINT64_MODIFIER "o", width, (guint64)value);
    else
        g_string_append_printf(to, "%0*" G_GINT64_MODIFIER "u", width, (guint64)value);
}

/* The line to type: braces replaced by numbers. */
static gchar *line_of(const rmg_prompt_profile *f, const typed_step *step, const asked *what)
{
    GString *line = g_string_new(NULL);

    for (const char *at = step->send; *at; at++) {
        if (g_str_has_prefix(at, "{address}"))
            append_number(line, &f->address, what->address);
        else if (g_str_has_prefix(at, "{last}"))
            append_number(line, &f->address, what->last);
        else if (g_str_has_prefix(at, "{value}"))
            append_number(line, &f->value, what->value);
        else {
            g_string_append_c(line, *at);
            continue;
        }
        at = strchr(at, '}');
    }
    if (f->upper)
        g_string_ascii_up(line);
    return g_string_free(line, FALSE);
}

bool rmg_prompt_number(const number_form *form, const char *text, uint64_t *value)
{
    gchar *end;

    if (!g_ascii_isxdigit(*text))
        return false;
    *value = g_ascii_strtoull(text, &end, form->base);
    return end != text && !*end;
}

/* "55 AA FF" into the values from `at` on; false: not so many numbers. */
static bool take_values(const rmg_prompt *p, const gchar *text, size_t at, const asked *what,
                        GByteArray *got)
{
    gchar **words = g_strsplit_set(text, " ,", -1);
    bool ok = true;

    for (size_t i = 0; words[i] && ok; i++) {
        uint64_t value;

        if (!*words[i])
            continue;
        ok = rmg_prompt_number(&p->profile->value, words[i], &value) && value <= p->mask;
        if (ok && at < what->count) {
            what->values[at] = (rmg_word)value;
            got->data[at] = 1;
        }
        at++;
    }
    g_strfreev(words);
    return ok;
}

/* One line of an answer, if it is one. RMG_ERR_RANGE: it is not. */
static rmg_status take_line(const rmg_prompt *p, const typed_step *step, const asked *what,
                            const char *line, GByteArray *got)
{
    GMatchInfo *match = NULL;
    rmg_status status = RMG_ERR_RANGE;
    uint64_t address = what->address + p->profile->address.add, value;

    if (g_regex_match(step->answer, line, 0, &match)) {
        gchar *at = g_match_info_fetch_named(match, "address");
        gchar *one = g_match_info_fetch_named(match, "value");
        gchar *many = g_match_info_fetch_named(match, "values");
        const uint64_t first = what->address + p->profile->address.add;

        status = RMG_OK;
        if (at && *at &&
            (!rmg_prompt_number(&p->profile->address, at, &address) || address < first ||
             address > what->last + p->profile->address.add))
            status = RMG_ERR_CONTENT;
        if (status == RMG_OK && many && *many && what->values &&
            !take_values(p, many, (size_t)rmg_board_word(p->board, address - first), what, got))
            status = RMG_ERR_CONTENT;
        if (status == RMG_OK && one && *one) {
            if (!rmg_prompt_number(&p->profile->value, one, &value) || value > p->mask)
                status = RMG_ERR_CONTENT;
            else if (what->values && what->count == 1) {
                what->values[0] = (rmg_word)value;
                got->data[0] = 1;
            }
        }
        g_free(at);
        g_free(one);
        g_free(many);
    }
    g_match_info_free(match);
    return status;
}

/* What the lines say that came. RMG_ERR_CONTENT: not what was asked for. */
static rmg_status take_answer(rmg_prompt *p, const typed_step *step, const asked *what,
                              const char *typed, GByteArray *got)
{
    bool taken = !step->answer;

    for (guint i = 0; i <= p->lines->len; i++) {
        const char *line = i < p->lines->len ? p->lines->pdata[i] : p->line->str;
        rmg_status status = RMG_ERR_RANGE;

        for (guint e = 0; i < p->lines->len && e < p->profile->errors->len; e++)
            if (g_regex_match(p->profile->errors->pdata[e], line, 0, NULL))
                return rmg_prompt_fail(p, RMG_ERR_PORT, "the prompt answers \"%.60s\" to \"%.60s\"",
                                       line, typed);
        if (step->answer)
            status = take_line(p, step, what, line, got);
        if (status == RMG_ERR_CONTENT)
            return rmg_prompt_fail(p, status,
                                   "the prompt answers \"%.60s\" to \"%.60s\", which is not of it",
                                   line, typed);
        taken |= status == RMG_OK;
    }
    if (!taken)
        return rmg_prompt_fail(
            p, RMG_ERR_CONTENT,
            "the prompt answers \"%.60s\" to \"%.60s\": expected a line that matches \"%.60s\"",
            p->lines->len ? (const char *)p->lines->pdata[0] : "", typed,
            g_regex_get_pattern(step->answer));
    return RMG_OK;
}

static rmg_status take_step(rmg_prompt *p, const typed_step *step, const asked *what,
                            GByteArray *got)
{
    const rmg_prompt_profile *f = p->profile;
    gchar *line = line_of(f, step, what);
    rmg_status status;
    gint64 start;

    forget(p);
    status = type(p, line);
    if (status == RMG_ERR_CONTENT)
        rmg_prompt_fail(p, status, "the echo of \"%.60s\" was not right, %u times", line,
                        PROMPT_TRIES);
    if (status == RMG_OK && step->end)
        status = send(p, f->line_end, strlen(f->line_end));
    if (status == RMG_OK && f->line_ms)
        g_usleep(f->line_ms * 1000u);
    start = now_ms();
    if (status == RMG_OK)
        status = wait_at(p, step->ready, start + patience(p->slowest_answer_ms, f->answer_ms));
    if (status == RMG_OK)
        keep_slowest(&p->slowest_answer_ms, now_ms() - start);
    if (status == RMG_ERR_RANGE)
        status = rmg_prompt_fail(p, RMG_ERR_CONTENT,
                                 "no prompt came back after \"%.60s\", but \"%.60s\"", line,
                                 stands_at(p));
    if (status == RMG_OK)
        status = take_answer(p, step, what, line, got);
    g_free(line);
    return status;
}

rmg_status rmg_prompt_talk(rmg_prompt *p, const GArray *steps, const asked *what)
{
    GByteArray *got = g_byte_array_sized_new((guint)what->count);
    rmg_status status = RMG_ERR_CONTENT;
    bool refused = false;

    p->accesses++;
    for (unsigned tries = 0; tries < PROMPT_TRIES && status == RMG_ERR_CONTENT; tries++) {
        if (tries > 1) /* or it is only slow, once */
            p->slowest_echo_ms = p->slowest_answer_ms = -1;
        g_byte_array_set_size(got, (guint)what->count);
        if (what->count)
            memset(got->data, 0, what->count);
        status = tries ? rmg_prompt_rest(p, true) : RMG_OK;
        p->again += tries > 0;
        for (guint i = 0; i < steps->len && status == RMG_OK; i++)
            status = take_step(p, &g_array_index(steps, typed_step, i), what, got);
        if (status == RMG_OK && what->values && memchr(got->data, 0, what->count))
            status = rmg_prompt_fail(p, RMG_ERR_CONTENT,
                                     "the prompt did not tell all words that were asked for");
        if (status == RMG_ERR_PORT && !refused) {
            /* it refused the line; or a character that was doubled on its way there, and whose
             * echo came late, made another line of it: that does not happen twice */
            refused = true;
            status = RMG_ERR_CONTENT;
        } else if (status == RMG_ERR_PORT) {
            p->again--;
        }
    }
    g_byte_array_unref(got);
    if (status == RMG_OK)
        *p->why = '\0';
    return status == RMG_ERR_CONTENT ? RMG_ERR_PORT : status;
}

rmg_status rmg_prompt_start(rmg_prompt *p, const typed_step *step, uint64_t address,
                            unsigned answer_ms)
{
    const rmg_prompt_profile *f = p->profile;
    const asked what = {.address = address, .last = address};
    gchar *line = line_of(f, step, &what);
    rmg_status status = RMG_ERR_CONTENT;

    for (unsigned tries = 0; tries < PROMPT_TRIES && status == RMG_ERR_CONTENT; tries++) {
        status = tries ? rmg_prompt_rest(p, true) : RMG_OK;
        p->again += tries > 0;
        forget(p);
        if (status == RMG_OK)
            status = type(p, line);
    }
    if (status == RMG_ERR_CONTENT)
        status = rmg_prompt_fail(p, RMG_ERR_PORT, "the echo of \"%.60s\" was not right, %u times",
                                 line, PROMPT_TRIES);
    if (status == RMG_OK)
        status = send(p, f->line_end, strlen(f->line_end));
    if (status == RMG_OK)
        status = wait_at(p, step->ready, now_ms() + answer_ms);
    if (status == RMG_ERR_RANGE)
        status =
            rmg_prompt_fail(p, RMG_ERR_PORT_LOST,
                            "no prompt came back within %u ms after \"%.60s\"", answer_ms, line);
    if (status == RMG_OK && take_answer(p, step, &what, line, NULL) != RMG_OK)
        status = RMG_ERR_PORT;
    g_free(line);
    return status;
}
