/* Board files: what a good one gives, and every error reported with file, line and expectation. */
#include <glib.h>
#include <stdio.h>
#include <string.h>

#include "../check.h"
#include "rimeglass/board.h"
#include "suites.h"
#include "temporary.h"

/* A small board that is in order; each row below breaks one thing of it. */
static const char sound[] =
    "board: bench piece\n"                                               /* 1 */
    "word: 8\n"                                                          /* 2 */
    "address-lines: 12\n"                                                /* 3 */
    "undriven: high\n"                                                   /* 4 */
    "regions:\n"                                                         /* 5 */
    "  - {name: work, range: 0x000-0x3FF, kind: ram}\n"                  /* 6 */
    "  - {name: ports, range: 0x400-0x40F, kind: reserved}\n"            /* 7 */
    "banks:\n"                                                           /* 8 */
    "  - name: only\n"                                                   /* 9 */
    "    range: 0x000-0x3FF\n"                                           /* 10 */
    "    part: 2114\n"                                                   /* 11 */
    "    lines: A0-A9\n"                                                 /* 12 */
    "    data: {IC1: D0-D3, IC2: D4-D7}\n"                               /* 13 */
    "sockets:\n"                                                         /* 14 */
    "  - {names: IC1-IC3, mount: socket, at: [10, 20], step: [9, 0]}\n"; /* 15 */

static const struct {
    const char *title, *from, *to;
    unsigned line;
    const char *says[2];
} errors[] = {
    {"not YAML", "word: 8", "word: [8", 3, {"not YAML", ""}},
    {"a terminal's escape", "word: 8", "word: \"8\\e[31m\"", 2, {"control character", ""}},
    {"a tab", "word: 8", "\tword: 8", 2, {"not YAML", ""}},
    {"unknown key", "undriven: high", "undrivn: high", 4, {"undrivn", "did you mean \"undriven\""}},
    {"unknown key of a region",
     "kind: ram}",
     "kind: ram, sort: x}",
     6,
     {"sort", "expected one of"}},
    {"key twice", "undriven: high", "word: 8", 4, {"is given twice", "line 2"}},
    {"key missing", "board: bench piece\n", "", 1, {"board", "is missing"}},
    {"no number", "word: 8", "word: eight", 2, {"\"eight\"", "a number from 1 to 64"}},
    {"word width",
     "word: 8",
     "addresses: bytes\nword: 12",
     2,
     {"words of 12 bits have no", "expected \"words\""}},
    {"number too large", "address-lines: 12", "address-lines: 99", 3, {"\"99\"", "2 to 48"}},
    {"refresh without its period",
     "word: 8",
     "word: 8\nrefresh-cycles: 128",
     3,
     {"refresh-cycles", "goes with refresh-ms"}},
    {"choice", "undriven: high", "undriven: hihg", 4, {"\"hihg\"", "did you mean \"high\""}},
    {"no range", "range: 0x000-0x3FF, kind", "range: all, kind", 6, {"\"all\"", "a range like"}},
    {"range turned", "0x400-0x40F", "0x40F-0x400", 7, {"0x40F-0x400", "ends below its start"}},
    {"past the address width",
     "0x400-0x40F",
     "0x400-0x1FFF",
     7,
     {"past the address width", "last address is 0xFFF"}},
    {"no list", "regions:\n", "regions: 3\nx:\n", 5, {"regions", "expected a list"}},
    {"regions overlap", "0x400-0x40F", "0x3FF-0x40F", 7, {"overlaps \"work\"", "line 6"}},
    {"part unknown",
     "part: 2114",
     "part: 2115",
     11,
     {"\"2115\" is not known", "the nearest is 211"}},
    {"line past the width", "lines: A0-A9", "lines: A0-A12", 12, {"A0-A12", "from A0 to A11"}},
    {"no line", "lines: A0-A9", "lines: B0-B9", 12, {"B0-B9", "address lines"}},
    {"too few lines", "lines: A0-A9", "lines: A0-A8", 12, {"9 lines given", "2114 has 10"}},
    {"bit past the word", "IC2: D4-D7", "IC2: D5-D8", 13, {"D5-D8", "from D0 to D7"}},
    {"chip width", "IC2: D4-D7", "IC2: D4-D6", 13, {"3 data bits given", "2114 has 4"}},
    {"bit no chip holds", ", IC2: D4-D7", "", 6, {"no socket holds D4", "0x000-0x3FF"}},
    {"overlapping placements",
     "IC2: D4-D7",
     "IC2: D3-D6",
     13,
     {"overlapping placements", "IC1 and IC2 both hold D3"}},
    {"socket twice", "IC2: D4-D7", "IC2: D4-D7, IC1: D4-D7", 13, {"IC1", "twice"}},
    {"socket unknown",
     "IC2: D4-D7",
     "IC9: D4-D7",
     13,
     {"\"IC9\" is not in the list", "did you mean IC"}},
    {"range larger than the part",
     "range: 0x000-0x3FF\n",
     "range: 0x000-0x7FF\n",
     9,
     {"2114 does not fit", "A10 varies"}},
    {"range smaller than the region",
     "range: 0x000-0x3FF\n",
     "range: 0x000-0x1FF\n",
     6,
     {"no socket holds D0", "0x200-0x3FF"}},
    {"mount", "mount: socket", "mount: glued", 15, {"\"glued\"", "socket, soldered"}},
    {"designators", "IC1-IC3", "IC1-U3", 15, {"IC1-U3", "designators like"}},
    {"socket listed twice", "IC1-IC3", "[IC1-IC3, IC2]", 15, {"IC2", "already"}},
    {"place on the board", "[10, 20]", "[10, left]", 15, {"at", "two numbers"}},
    {"first memory", "undriven: high", "first-memory: 0x3F0-0x40F", 1, {"first-memory", "RAM"}},
    {"too many conditions",
     "part: 2114",
     "part: 2114\n    where: [A0=0, A1=0, A2=0, A3=0, A4=0, A5=0, A6=0, A7=0, A8=0]",
     12,
     {"where", "more than 8"}},
    {"where", "part: 2114", "part: 2114\n    where: [A10=2]", 12, {"A10=2", "like A15=1"}},
    {"line without a path",
     "sockets:",
     "lines: [{name: D0}]\nsockets:",
     14,
     {"path", "is missing"}},
    {"point that is none",
     "sockets:",
     "lines: [{name: D0, path: [U1.9, here]}]\nsockets:",
     14,
     {"\"here\"", "a point like U22.9"}},
    {"point with a pin too many",
     "sockets:",
     "lines: [{name: D0, path: [IC1.19]}]\nsockets:",
     14,
     {"IC1.19", "2114 has pins 1 to 18"}},
    {"range of another length",
     "sockets:",
     "lines: [{name: D0-D3, path: [U1.9-11]}]\nsockets:",
     14,
     {"U1.9-11", "must have as many"}},
    {"row of chips",
     "sockets:",
     "lines: [{name: WE, path: [IC1..U3.9]}]\nsockets:",
     14,
     {"IC1..U3.9", "chips in a row"}},
    {"lane of no bank",
     "sockets:",
     "lines: [{name: D0, lane-of: x, path: [U1.9]}]\nsockets:",
     14,
     {"lane-of", "no bank \"x\""}},
    {"mirror of nothing", "kind: reserved}", "kind: mirror}", 7, {"of", "is missing"}},
    {"pages",
     "undriven: high",
     "pages: {window: 0x0-0xF, select: 0x400}",
     4,
     {"count", "is missing"}},
    {"hold", "undriven: high", "holds-then: soon", 4, {"\"soon\"", "high, low"}},
    {"empty", sound, "", 1, {"the file is empty", ""}},
};

static void every_error(void)
{
    for (size_t i = 0; i < COUNT(errors); i++) {
        char *text = replaced(sound, errors[i].from, errors[i].to);
        const char *file = temporary_file("board.yaml", text);
        gchar *place = g_strdup_printf("%s:%u: ", file, errors[i].line);
        rmg_errors found = {0};
        rmg_board *board;
        bool told = false;

        CHECK(rmg_board_load(file, &board, &found) == RMG_ERR_CONTENT && !board, "%s: refused",
              errors[i].title);
        for (size_t m = 0; m < found.count; m++)
            told |= found.list[m].status == RMG_ERR_CONTENT &&
                    g_str_has_prefix(found.list[m].what, place) &&
                    strlen(found.list[m].where) + 2 == strlen(place) &&
                    g_str_has_prefix(place, found.list[m].where) &&
                    strstr(found.list[m].what, errors[i].says[0]) &&
                    strstr(found.list[m].what, errors[i].says[1]);
        CHECK(told, "%s: expected %s%s ... %s, found %s", errors[i].title, place, errors[i].says[0],
              errors[i].says[1], found.count ? found.list[0].what : "nothing");
        rmg_errors_free(&found);
        g_free(place);
        g_free(text);
    }
}

/* Several errors are reported at once, not one a try. */
static void all_at_once(void)
{
    char *one = replaced(sound, "word: 8", "word: x");
    char *two = replaced(one, "mount: socket", "mount: x");
    rmg_errors found = {0};
    rmg_board *board;

    CHECK(rmg_board_load(temporary_file("board.yaml", two), &board, &found) == RMG_ERR_CONTENT,
          "refused");
    CHECK(found.count >= 2, "%zu errors", found.count);
    rmg_errors_free(&found);
    CHECK(rmg_board_load(temporary_path("none.yaml"), &board, &found) == RMG_ERR_FILE, "no file");
    CHECK(found.count == 1 && strstr(found.list[0].what, "none.yaml"), "named");
    rmg_errors_free(&found);
    g_free(one);
    g_free(two);
}

/* Every file cut short at any byte, and with any one byte changed, is answered, never crashed on.
 */
static void damaged_files(void)
{
    for (size_t i = 0; i < sizeof sound - 1; i += 3) {
        char *text = g_strndup(sound, i);
        rmg_errors found = {0};
        rmg_board *board;

        CHECK(rmg_board_load(temporary_file("cut.yaml", text), &board, &found) == RMG_ERR_CONTENT ||
                  board,
              "cut at %zu", i);
        CHECK((board == NULL) == (found.count > 0), "cut at %zu: told", i);
        rmg_board_free(board);
        rmg_errors_free(&found);
        g_free(text);
        text = g_strdup(sound);
        text[i] = (char)("{}[]:-,#'\"\n\x01"[i % 12]);
        if (rmg_board_load(temporary_file("cut.yaml", text), &board, &found) != RMG_OK)
            CHECK(found.count > 0, "changed at %zu: told", i);
        rmg_board_free(board);
        rmg_errors_free(&found);
        g_free(text);
    }
}

static rmg_board *load(const char *file)
{
    rmg_errors found = {0};
    rmg_board *board;

    CHECK(rmg_board_load(file, &board, &found) == RMG_OK, "%s: %s", file,
          found.count ? found.list[0].what : "");
    rmg_errors_free(&found);
    return board;
}

static void halvorn(void)
{
    rmg_board *b = load(project_path("demo/boards/halvorn64.yaml"));
    rmg_place place;
    rmg_range range;
    char text[40];

    CHECK(b->word_bits == 8 && b->address_bits == 16 && b->bank_count == 3 && b->socket_count == 18,
          "sizes");
    CHECK(rmg_place_find(&b->placement, 0x9C40, 6, &place) && place.bank == 1 &&
              strcmp(b->sockets[place.socket].name, "U20") == 0 && place.out_pin == 14,
          "0x9C40 bit 6 is in U20 at pin 14");
    CHECK(rmg_place_find(&b->placement, 0x0000, 0, &place) &&
              strcmp(b->sockets[place.socket].name, "U18") == 0 &&
              b->sockets[place.socket].mount == RMG_MOUNT_SOLDERED,
          "D0 of the lower bank is in U18, soldered");
    CHECK(rmg_board_socket(b, "u19") != RMG_NO_SOCKET &&
              rmg_board_socket(b, "U99") == RMG_NO_SOCKET,
          "sockets by name");
    CHECK(rmg_board_bank(b, "upper") == 1 && rmg_board_bank(b, "x") == RMG_NO_BANK,
          "banks by name");
    CHECK(rmg_board_range_parse(b, "0x8000..0x8FFF", &range) && range.first == 0x8000 &&
              range.last == 0x8FFF && !rmg_board_range_parse(b, "9-3", &range) &&
              !rmg_board_range_parse(b, "0x", &range) && !rmg_board_range_parse(b, "-3", &range),
          "ranges");
    CHECK(strcmp(rmg_board_line_text(b, 9, text, sizeof text), "A9") == 0, "A9");
    CHECK(strlen(b->hash) == 64, "hash");
    rmg_board_free(b);
}

/* Addresses in bytes on a 16-bit bus: shown and read their way, words inside. */
static void ostrel(void)
{
    rmg_board *b = load(project_path("demo/boards/ostrel16.yaml"));
    const rmg_range ram = {0x20000, 0x27FFF};
    rmg_place place;
    rmg_range range;
    char text[40];

    CHECK(strcmp(rmg_board_range_text(b, &ram, text, sizeof text), "0x40000-0x4FFFF") == 0, "%s",
          text);
    CHECK(rmg_board_range_parse(b, "0x40000-0x4FFFF", &range) && range.first == ram.first &&
              range.last == ram.last,
          "read back");
    CHECK(strcmp(rmg_board_line_text(b, 0, text, sizeof text), "A1") == 0, "lowest line is A1");
    CHECK(rmg_place_find(&b->placement, rmg_board_word(b, 0x48002), 13, &place) &&
              strcmp(b->sockets[place.socket].name, "U38") == 0 && place.data_line == 1 &&
              place.cell == 1 && place.out_pin == 3,
          "D13 at 0x48002 is in U38 at pin 3");
    rmg_board_free(b);
}

/* A part of the file's own, conditions on address lines, tied lines, lines in any order. */
/* What a board gives its chips, and what its own parts say, comes back from the board's text. */
static void what_it_gives(void)
{
    static const char text[] =
        "board: gives\nword: 8\naddress-lines: 8\nrefresh-cycles: 256\nrefresh-ms: 4\n"
        "parts:\n  - {number: X16, kind: sram, width: 8, address-lines: 8, times: '-2 150, 300', "
        "active-high: CE, pins: CE VCC D0 D1 D2 D3 D4 D5 D6 D7}\n"
        "regions: [{name: all, range: 0-255, kind: ram}]\n"
        "banks: [{name: all, range: 0-255, part: X16, lines: A0-A7, data: {Q1: D0-D7}}]\n"
        "sockets: [{names: Q1, mount: socket, within-ns: 250}]\n";
    rmg_board *first = load(temporary_file("gives.yaml", text));
    char *again = first ? rmg_board_text(first) : NULL;
    rmg_board *b = again ? load(temporary_file("gives2.yaml", again)) : NULL;

    CHECK(b && b->refresh_cycles == 256 && b->refresh_ms == 4 && b->sockets[0].within_ns == 250,
          "refresh and time: %s", again);
    CHECK(b && rmg_part_ns(b->sockets[0].part, "-2") == 150 &&
              rmg_part_ns(b->sockets[0].part, "") == 300 &&
              strcmp(b->sockets[0].part->high, "CE") == 0,
          "its own part: %s", again);
    rmg_text_free(again);
    rmg_board_free(first);
    rmg_board_free(b);
}

static void own_forms(void)
{
    static const char text[] =
        "board: forms\nword: 8\naddress-lines: 8\naddresses: words\n"
        "parts:\n  - {number: X16, kind: dram, width: 1, address-lines: 6, row-lines: 3, "
        "pins: D Q A0 A1 A2 VCC VSS -}\n"
        "regions: [{name: all, range: 0-63, kind: ram}]\n"
        "banks:\n"
        "  - {name: even, range: 0-63, where: [A0=0], part: X16, rows: [A3, A2, A1], "
        "columns: [A5, A4, high], data: {Q0: D0, Q1: D1, Q2: D2, Q3: D3, Q4: D4, Q5: D5, Q6: D6, "
        "Q7: D7}}\n"
        "  - {name: odd, range: 0-63, where: [A0=1], part: X16, rows: A1-A3, "
        "columns: [A4-A5, low], data: {R0: D0, R1: D1, R2: D2, R3: D3, R4: D4, R5: D5, R6: D6, "
        "R7: D7}}\n"
        "sockets: [{names: [Q0-Q7, R7-R0], mount: soldered}]\n";
    rmg_board *b = load(temporary_file("forms.yaml", text));
    rmg_place place;

    if (!b)
        return;
    CHECK(rmg_place_find(&b->placement, 0x12, 3, &place) && place.bank == 0 && place.cell == 0x34,
          "even word: rows and columns crossed, one line high: %lx", (unsigned long)place.cell);
    CHECK(rmg_place_find(&b->placement, 0x13, 3, &place) && place.bank == 1 && place.cell == 9 &&
              strcmp(b->sockets[place.socket].name, "R3") == 0,
          "odd word: %lx", (unsigned long)place.cell);
    rmg_board_free(b);
}

/* Lines as traced: order, branches, ranges that count with the lines, chips in a row. */
static void traced_lines(void)
{
    rmg_board *b = load(project_path("demo/boards/halvorn64.yaml"));
    const rmg_line *d7 = rmg_board_line(b, "d7"), *a12 = rmg_board_line(b, "A12");
    const rmg_line *we = rmg_board_line(b, "WE");

    CHECK(d7 && d7->kind == RMG_LINE_DATA && d7->bit == 7 && d7->point_count == 8, "D7");
    CHECK(strcmp(d7->points[0].name, "U1.16") == 0 && d7->points[0].parent == RMG_NO_POINT &&
              strcmp(d7->points[4].name, "U8.9>U8.11") == 0 && d7->points[4].parent == 0 &&
              strcmp(d7->points[5].name, "U19.14") == 0 && d7->points[5].parent == 4 &&
              d7->points[5].pin == 14 && d7->points[5].socket == rmg_board_socket(b, "U19"),
          "its points");
    CHECK(a12 && a12->kind == RMG_LINE_ADDRESS && a12->bit == 12 &&
              strcmp(a12->points[0].name, "U1.2") == 0 &&
              strcmp(a12->points[1].name, "U5.2") == 0 &&
              strcmp(a12->points[2].name, "U32.6>U32.7") == 0 &&
              strcmp(a12->points[11].name, "U18.10") == 0 && a12->points[11].parent == 10,
          "A12");
    CHECK(we && we->kind == RMG_LINE_CONTROL && we->point_count == 18, "WE");
    CHECK(!rmg_board_line(b, "D8"), "no D8");
    rmg_board_free(b);
}

static void nearest(void)
{
    static const char *const words[] = {"board", "test", "check", NULL};

    CHECK(strcmp(rmg_nearest("tset", words), "test") == 0, "letters turned");
    CHECK(strcmp(rmg_nearest("Boards", words), "board") == 0, "one too many");
    CHECK(!rmg_nearest("zzz", words) && !rmg_nearest("", words), "nothing near");
}

CU_TestInfo board_tests[] = {
    {"every error, with its line", every_error},
    {"all errors at once", all_at_once},
    {"damaged files", damaged_files},
    {"Halvorn 64", halvorn},
    {"Ostrel 16", ostrel},
    {"own parts, conditions, tied and crossed lines", own_forms},
    {"what the board gives", what_it_gives},
    {"traced lines", traced_lines},
    {"nearest spelling", nearest},
    CU_TEST_INFO_NULL,
};
