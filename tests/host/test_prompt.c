/* A prompt, with a monitor in a thread behind a pseudo terminal: what is typed when an echo or an
 * answer is spoilt, and that no half line is ever carried out. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "peer.h"
#include "rimeglass/prompt.h"
#include "suites.h"
#include "temporary.h"

/* "get A", "put A V"; ^X cancels. */
typedef struct monitor {
    unsigned char cells[1024];
    char line[80], carried_out[4000]; /* every whole line, a bar after each */
    size_t got;
    const char *answer; /* in the place of the right one, so many times */
    unsigned times;
    bool dumb; /* says nothing any more */
} monitor;

static void carry_out(peer *p, monitor *m)
{
    char text[80], rest;
    unsigned address, value;

    if (m->got && strlen(m->carried_out) + m->got + 2 < sizeof m->carried_out) {
        strcat(m->carried_out, m->line);
        strcat(m->carried_out, "|");
    }
    if (m->answer && m->got) {
        peer_send(p, m->answer);
        m->answer = --m->times ? m->answer : NULL;
    } else if (sscanf(m->line, "put %x %x%c", &address, &value, &rest) == 2 && address < 1024) {
        m->cells[address] = (unsigned char)value;
    } else if (sscanf(m->line, "get %x%c", &address, &rest) == 1 && address < 1024) {
        snprintf(text, sizeof text, "%03X=%02X\r\n", address, m->cells[address]);
        peer_send(p, text);
    } else if (m->got) {
        peer_send(p, "huh?\r\n");
    }
}

static void take(peer *p, char byte)
{
    monitor *m = p->context;
    const char text[2] = {byte};

    if (m->dumb)
        return;
    if (byte == '\r') {
        peer_send(p, "\r\n");
        carry_out(p, m);
    } else if (byte == 0x18) {
        peer_send(p, "\r\n");
    } else if (m->got + 1 < sizeof m->line) {
        m->line[m->got++] = byte;
        m->line[m->got] = '\0';
        peer_send(p, text);
        return;
    }
    m->got = 0;
    m->line[0] = '\0';
    peer_send(p, ":");
}

static const char profile_text[] = "prompt: bench\n"
                                   "ready: '^:$'\n"
                                   "read: {send: 'get {address}', answer: "
                                   "'^(?<address>[0-9A-F]{3})=(?<value>[0-9A-F]{2})$'}\n"
                                   "write: {send: 'put {address} {value}'}\n"
                                   "address: {digits: hex, width: 3}\n"
                                   "value: {digits: hex, width: 2}\n"
                                   "errors: ['^huh']\n"
                                   "cancel: \"\\x18\"\n"
                                   "delay: {answer: 400}\n";
static const char board_text[] = "board: bench\nword: 8\naddress-lines: 10\n"
                                 "regions: [{name: ram, range: 0x000-0x3FF, kind: ram}]\n"
                                 "banks: []\nsockets: []\n";

typedef struct bench {
    peer peer;
    monitor monitor;
    rmg_board *board;
    rmg_prompt_profile *profile;
    rmg_prompt *prompt;
    const rmg_bus *bus;
} bench;

static void begin(bench *b, const char *text)
{
    char why[RMG_STREAM_WHY];
    rmg_errors errors = {0};
    rmg_stream *stream;

    CHECK(rmg_board_load_text("bench", board_text, &b->board, &errors) == RMG_OK, "the board");
    CHECK(rmg_prompt_profile_load(temporary_file("bench.yaml", text), &b->profile, &errors) ==
              RMG_OK,
          "%s", errors.count ? errors.list[0].what : "the profile");
    b->peer.take = take;
    b->peer.context = &b->monitor;
    peer_start(&b->peer);
    CHECK(rmg_stream_open(b->peer.name, 100, &stream, why) == RMG_OK, "%s", why);
    CHECK(rmg_prompt_open(stream, b->profile, b->board, &b->prompt, why) == RMG_OK, "%s", why);
    b->bus = rmg_prompt_bus(b->prompt);
    b->monitor.carried_out[0] = '\0';
}

static void end(bench *b)
{
    rmg_prompt_close(b->prompt);
    peer_end(&b->peer);
    rmg_prompt_profile_free(b->profile);
    rmg_board_free(b->board);
}

/* Any byte of a write and a read, either way, lost, doubled or changed: the cell that was named
 * holds what was to be written, no other cell was touched, and the read gives it. A value that is
 * changed where it is told is beyond this: nothing tells. */
static void one_byte_spoilt(void)
{
    enum { PUT = 22, GET = 16 }; /* "put 123 A7" and "get 123" with their line ends, and the echo */
    bench b = {0};
    unsigned bytes = 0;

    begin(&b, profile_text);
    for (unsigned at = 0; at <= bytes; at++)
        for (unsigned how = 0; how < (!at || at > PUT + GET ? 2u : 3u); how++) {
            const unsigned before = b.peer.passed, put = (at * 3 + how) & 0xFFu;
            const spoil spoils[] = {{at ? before + at : 0, how}};
            rmg_word value = 0;
            unsigned touched = 0;

            b.peer.spoils = spoils;
            b.peer.spoil_count = 1;
            b.monitor.carried_out[0] = '\0';
            CHECK(b.bus->write(b.prompt, 0x123, put) == RMG_OK &&
                      b.bus->read(b.prompt, 0x123, &value) == RMG_OK && value == put,
                  "byte %u, way %u: %02X, %s", at, how, (unsigned)value, rmg_prompt_why(b.prompt));
            for (unsigned i = 0; i < 1024; i++)
                touched += i != 0x123 && b.monitor.cells[i];
            CHECK(!touched && b.monitor.cells[0x123] == put, "byte %u, way %u: other cells %u: %s",
                  at, how, touched, b.monitor.carried_out);
            if (!at)
                bytes = b.peer.passed - before;
            b.peer.spoil_count = 0;
        }
    CHECK(bytes > PUT + GET + 8, "bytes of a write and a read: %u", bytes);
    end(&b);
}

/* Answers that are not of what was asked, errors, silence. */
static void strange_answers(void)
{
    static const struct {
        const char *answer, *why;
        rmg_status status;
        unsigned times;
        unsigned again; /* it is typed so often again */
    } rows[] = {
        {"124=55\r\n", "", RMG_OK, 1, 1},
        {"123=5\r\n", "", RMG_OK, 1, 1},
        {"123=555\r\n", "", RMG_OK, 1, 1},
        {"nothing\r\n", "", RMG_OK, 1, 1},
        /* once: a line that was spoilt unseen; twice: what it says is meant */
        {"huh? line 10\r\n", "", RMG_OK, 1, 1},
        {"huh? line 10\r\n", "the prompt answers \"huh? line 10\" to \"get 123\"", RMG_ERR_PORT, 2,
         0},
        {"124=55\r\n", "which is not of it", RMG_ERR_PORT, 9, 4},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        bench b = {0};
        rmg_word value = 0;
        uint64_t again, accesses;

        begin(&b, profile_text);
        b.monitor.cells[0x123] = 0x3C;
        b.monitor.answer = rows[i].answer;
        b.monitor.times = rows[i].times;
        CHECK(b.bus->read(b.prompt, 0x123, &value) == rows[i].status &&
                  strstr(rmg_prompt_why(b.prompt), rows[i].why) &&
                  (rows[i].status != RMG_OK || value == 0x3C),
              "row %zu: %02X, \"%s\"", i, (unsigned)value, rmg_prompt_why(b.prompt));
        rmg_prompt_counts(b.prompt, &again, &accesses);
        /* a busy machine may let one or two more run out of time */
        CHECK(again >= rows[i].again && again <= rows[i].again + 2u,
              "row %zu: typed again %u times", i, (unsigned)again);
        b.monitor.dumb = i == 0;
        CHECK(i || (b.bus->read(b.prompt, 0x123, &value) == RMG_ERR_PORT_LOST &&
                    strstr(rmg_prompt_why(b.prompt), "no prompt came")),
              "silence: %s", rmg_prompt_why(b.prompt));
        end(&b);
    }
}

/* Profiles of other manners read the same cell. */
static void manners(void)
{
    static const char *const more[] = {"echo: each\n", "line-end: cr\n",
                                       "delay: {character: 1, line: 2}\n", "wake: \"\\r\"\n",
                                       "more: {match: '^-more-$', send: ' '}\n"};

    for (size_t i = 0; i < COUNT(more); i++) {
        bench b = {0};
        gchar *text = g_strdup_printf("%.*s%s", (int)(strstr(profile_text, "delay") - profile_text),
                                      profile_text, more[i]);
        rmg_word value = 0;

        begin(&b, text);
        CHECK(rmg_prompt_is_checked(b.prompt) && b.bus->write(b.prompt, 0x3FF, 1) == RMG_OK &&
                  b.bus->read(b.prompt, 0x3FF, &value) == RMG_OK && value == 1 &&
                  strcmp(b.monitor.carried_out, "put 3FF 01|get 3FF|") == 0,
              "%s%s: %s", more[i], rmg_prompt_why(b.prompt), b.monitor.carried_out);
        end(&b);
        g_free(text);
    }
}

CU_TestInfo prompt_tests[] = {
    {"one byte spoilt", one_byte_spoilt},
    {"strange answers", strange_answers},
    {"manners", manners},
    CU_TEST_INFO_NULL,
};
