/* Several causes at once, and what is behind them: each is named by itself, and no chip is named
 * for what another fault does. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/fault.h"
#include "rimeglass/replay.h"
#include "suites.h"
#include "temporary.h"

#define HEAD "board: made\nword: 8\naddresses: words\naddress-lines: 12\naccess-ns: 400\n"

/* One bank of two chips, four bits each. */
static const char two_chips[] = HEAD
    "regions: [{name: all, range: 0x0-0x3FF, kind: ram}]\n"
    "banks:\n"
    "  - {name: b0, range: 0x0-0x3FF, part: 2114, lines: A0-A9, data: {U1: D0-D3, U2: D4-D7}}\n"
    "sockets: [{names: U1-U2, mount: socket}]\n";

/* Two banks, of eight chips and of two, which the highest line chooses. */
static const char unlike[] = HEAD
    "regions: [{name: all, range: 0x0-0x7FF, kind: ram}]\n"
    "banks:\n"
    "  - {name: b0, range: 0x0-0x7FF, where: [A10=0], part: 2102, lines: A0-A9, data: {U1: D0, "
    "U2: D1, U3: D2, U4: D3, U5: D4, U6: D5, U7: D6, U8: D7}}\n"
    "  - {name: b1, range: 0x0-0x7FF, where: [A10=1], part: 2114, lines: A0-A9, data: {U9: "
    "D0-D3, U10: D4-D7}}\n"
    "sockets: [{names: U1-U10, mount: socket}]\n";

/* Four banks of eight chips each. */
static const char many[] = HEAD
    "regions: [{name: all, range: 0x0-0xFFF, kind: ram}]\n"
    "banks:\n"
    "  - {name: b0, range: 0x0-0x3FF, part: 2102, lines: A0-A9, data: {U1: D0, U2: D1, U3: D2, "
    "U4: D3, U5: D4, U6: D5, U7: D6, U8: D7}}\n"
    "  - {name: b1, range: 0x400-0x7FF, part: 2102, lines: A0-A9, data: {U11: D0, U12: D1, U13: "
    "D2, U14: D3, U15: D4, U16: D5, U17: D6, U18: D7}}\n"
    "  - {name: b2, range: 0x800-0xBFF, part: 2102, lines: A0-A9, data: {U21: D0, U22: D1, U23: "
    "D2, U24: D3, U25: D4, U26: D5, U27: D6, U28: D7}}\n"
    "  - {name: b3, range: 0xC00-0xFFF, part: 2102, lines: A0-A9, data: {U31: D0, U32: D1, U33: "
    "D2, U34: D3, U35: D4, U36: D5, U37: D6, U38: D7}}\n"
    "sockets: [{names: U1-U8, mount: socket}, {names: U11-U18, mount: socket}, {names: U21-U28, "
    "mount: socket}, {names: U31-U38, mount: socket}]\n";

/* The same, of 16,384 words each: more fail than are looked at one by one. */
static const char deep[] =
    "board: made\nword: 8\naddresses: words\naddress-lines: 15\naccess-ns: 400\n"
    "regions: [{name: all, range: 0x0-0x7FFF, kind: ram}]\n"
    "banks:\n"
    "  - {name: b0, range: 0x0-0x7FFF, where: [A14=0], part: 4116, rows: A0-A6, columns: A7-A13, "
    "data: {U1: D0, U2: D1, U3: D2, U4: D3, U5: D4, U6: D5, U7: D6, U8: D7}}\n"
    "  - {name: b1, range: 0x0-0x7FFF, where: [A14=1], part: 4416, rows: A0-A7, columns: A8-A13, "
    "data: {U9: D0-D3, U10: D4-D7}}\n"
    "sockets: [{names: U1-U10, mount: socket}]\n";

/* Two chips of eight bits, chosen by the highest line. */
static const char two_banks[] =
    HEAD "regions: [{name: all, range: 0x0-0xFFF, kind: ram}]\n"
         "banks:\n"
         "  - {name: b0, range: 0x0-0xFFF, where: [A11=0], part: 6116, lines: A0-A10, data: {U1: "
         "D0-D7}}\n"
         "  - {name: b1, range: 0x0-0xFFF, where: [A11=1], part: 6116, lines: A0-A10, data: {U2: "
         "D0-D7}}\n"
         "sockets: [{names: U1-U2, mount: socket}]\n";

/* What is to be named, with 40 % at least where the row says nothing else; of a chip its socket. */
typedef struct named {
    rmg_finding_kind kind, of;
    rmg_word bits;
    const char *socket;
} named;

typedef struct row {
    const char *title, *board, *faults;
    uint32_t passes;
    named are[3];
    const char *at_fault; /* sockets that may be named above 50 % */
    double least;         /* of what is to be named; 0: 40 % */
} row;

#define LINE(bits)                                                                                 \
    {                                                                                              \
        RMG_FINDING_NOW_AND_THEN, RMG_FINDING_DATA_LINE, bits, NULL                                \
    }
#define PAIR(bits)                                                                                 \
    {                                                                                              \
        RMG_FINDING_NOW_AND_THEN, RMG_FINDING_DATA_SHORT, bits, NULL                               \
    }
#define CHIP(kind, socket)                                                                         \
    {                                                                                              \
        RMG_FINDING_##kind, 0, 0, socket                                                           \
    }

static const row rows[] = {
    {"lines that touch, and a bit of one of the chips on them",
     two_chips,
     "{kind: lines touch, line: D0, with: D5, wins: 0, one-in: 40}, "
     "{kind: output stuck, socket: U2, bit: D7, level: 1, one-in: 9}",
     8,
     {PAIR(0x21), CHIP(CELLS, "U2")},
     "U2"},
    {"lines that touch inside of one chip or beside it",
     two_chips,
     "{kind: lines touch, line: D1, with: D2, wins: 1, one-in: 20}",
     8,
     {PAIR(0x06)},
     ""},
    {"a line of both banks, and a chip",
     unlike,
     "{kind: data line stuck, line: D3, level: 0, one-in: 30}, "
     "{kind: output stuck, socket: U7, bit: D6, level: 1, one-in: 9}",
     8,
     {LINE(0x08), CHIP(CELLS, "U7")},
     "U7"},
    {"a line, two that touch, and a chip",
     unlike,
     "{kind: data line stuck, line: D6, level: 0, one-in: 9}, "
     "{kind: lines touch, line: D3, with: D4, wins: 0, one-in: 60}, "
     "{kind: chip missing, socket: U2, one-in: 90}",
     16,
     {LINE(0x40), PAIR(0x18), CHIP(CELLS, "U2")},
     "U2"},
    {"noise on a line, in one pass",
     unlike,
     "{kind: noise, line: D2, one-in: 60}",
     1,
     {LINE(0x04)},
     ""},
    {"... beside one that is stuck at times",
     unlike,
     "{kind: noise, line: D2, one-in: 60}, {kind: data line stuck, line: D5, level: 1, one-in: 9}",
     1,
     {LINE(0x04), LINE(0x20)},
     ""},
    {"a chip that drives at times, in the bank above",
     two_banks,
     "{kind: always on, socket: U2, wins: 0, one-in: 10}",
     3,
     {CHIP(DRAGGED, "U2")},
     "U2"},
    {"an address line, of which a dead chip hides half",
     two_chips,
     "{kind: never selected, socket: U1}, {kind: address line stuck, bank: b0, line: A8, level: 0}",
     2,
     {CHIP(DATA_AT_SOCKET, "U1"), CHIP(ADDRESS_AT_SOCKET, "U2")},
     "U1"},
    {"address lines that touch, of which one that is never written hides half",
     two_chips,
     "{kind: never written, socket: U1}, {kind: lines touch, line: A3, with: A7, bank: b0, wins: "
     "1}",
     2,
     {CHIP(NEVER_WRITTEN, "U1"), CHIP(ADDRESS_SHORT, "U2")},
     "U1"},
    {"a chip that fails often, and a line that does seldom",
     deep,
     "{kind: address pin stuck, socket: U7, pin: A6, level: 0, one-in: 10}, "
     "{kind: noise, line: D2, one-in: 20000}",
     4,
     {CHIP(CELLS, "U7"), LINE(0x04)},
     "U7"},
    {"... and one whose latch lags",
     two_chips,
     "{kind: stale output, socket: U1}, {kind: address line stuck, bank: b0, line: A8, level: 0}",
     2,
     {CHIP(STALE, "U1"), CHIP(ADDRESS_AT_SOCKET, "U2")},
     "U1"},
    {"two silent chips of different banks: each, or what both share",
     unlike,
     "{kind: never selected, socket: U3}, {kind: chip missing, socket: U10}",
     2,
     {CHIP(DATA_AT_SOCKET, "U3"),
      CHIP(DATA_AT_SOCKET, "U10"),
      {RMG_FINDING_SHARED, RMG_FINDING_BANK_SILENT, 0xF4, NULL}},
     "",
     0.25},
    {"... of many chips: what they share comes first",
     many,
     "{kind: never selected, socket: U3}, {kind: chip missing, socket: U35}",
     2,
     {CHIP(DATA_AT_SOCKET, "U3"),
      CHIP(DATA_AT_SOCKET, "U35"),
      {RMG_FINDING_SHARED, RMG_FINDING_BANK_SILENT, 0x14, NULL}},
     ""},
    {"three: what they share",
     unlike,
     "{kind: never selected, socket: U3}, {kind: never selected, socket: U5}, "
     "{kind: never selected, socket: U10}",
     2,
     {{RMG_FINDING_SHARED, RMG_FINDING_BANK_SILENT, 0xF4 | 0x10, NULL}},
     ""},
    {"a data line at one level, of which a dead chip hides half",
     two_banks,
     "{kind: data line stuck, line: D2, level: 1}, {kind: never selected, socket: U2}",
     2,
     {CHIP(DATA_AT_SOCKET, "U1")},
     "U2"},
};

static void is_named(const row *r, const rmg_board *board, const rmg_suspects *s, const named *is)
{
    bool found = false;

    for (size_t n = 0; n < s->count; n++) {
        const rmg_finding *f = &s->list[n].finding;

        found |= f->kind == is->kind && s->list[n].confidence >= (r->least > 0 ? r->least : 0.4) &&
                 (is->socket ? f->socket == rmg_board_socket(board, is->socket)
                             : f->of == is->of && f->bits == is->bits);
    }
    CHECK(found, "%s: not %s%llx; %s", r->title, is->socket ? is->socket : "",
          (unsigned long long)is->bits, s->count ? s->list[0].headline : "nobody");
}

static void each_by_itself(void)
{
    for (size_t i = 0; i < COUNT(rows); i++) {
        const row *r = &rows[i];
        const rmg_plan plan = bench_plan(false, r->passes);
        gchar *text = g_strdup_printf("faults: [%s]\n", r->faults);
        gchar **at_fault = g_strsplit(r->at_fault, " ", -1);
        rmg_errors errors = {0};
        rmg_board *board = NULL;
        rmg_faults faults;
        rmg_suspects s;
        rmg_run run;

        CHECK(rmg_board_load_text("made", r->board, &board, &errors) == RMG_OK, "loads");
        CHECK(rmg_faults_load(temporary_file("causes.yaml", text), board, &faults, &errors) ==
                  RMG_OK,
              "%s", text);
        bench_examine(board, faults.list, faults.count, &plan, i + 1, &run, &s);
        rmg_replay(&run, &s, 0, NULL, NULL);
        for (size_t n = 0; n < COUNT(r->are) && r->are[n].kind; n++)
            is_named(r, board, &s, &r->are[n]);
        CHECK(!s.count || !s.list[0].finding.or_each || s.list[0].finding.socket == RMG_NO_SOCKET,
              "%s: first %s", r->title, s.list[0].site);
        for (size_t n = 0; n < s.count; n++) {
            const uint16_t socket = s.list[n].finding.socket;

            CHECK(socket == RMG_NO_SOCKET || s.list[n].confidence <= 0.5 ||
                      g_strv_contains((const gchar *const *)at_fault, board->sockets[socket].name),
                  "%s: %s at %g: %s", r->title, s.list[n].site, s.list[n].confidence,
                  s.list[n].headline);
        }
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_faults_free(&faults);
        rmg_board_free(board);
        g_strfreev(at_fault);
        g_free(text);
    }
}

CU_TestInfo causes_tests[] = {
    {"each by itself", each_by_itself},
    CU_TEST_INFO_NULL,
};
