/* Every number that a file of ours may hold, at both ends: the lowest and the highest are taken,
 * those beyond are refused, with the key's name. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/catalogue.h"
#include "rimeglass/chip.h"
#include "rimeglass/fault.h"
#include "rimeglass/lines.h"
#include "rimeglass/plan.h"
#include "rimeglass/prompt.h"
#include "suites.h"
#include "temporary.h"

typedef struct row {
    const char *text; /* with %s for the number */
    const char *good[2], *bad[2];
} row;

typedef rmg_status reader(const char *text, const rmg_board *board, rmg_errors *found);

static void try_rows(const row *rows, size_t count, reader *read, const char *board_file)
{
    rmg_board *board = bench_load(board_file);

    for (size_t i = 0; i < count; i++)
        for (unsigned n = 0; n < 4; n++) {
            const char *number = n < 2 ? rows[i].good[n] : rows[i].bad[n - 2];
            gchar **around = g_strsplit(rows[i].text, "%s", 2);
            gchar *text = g_strconcat(around[0], number, around[1], NULL);
            rmg_errors found = {0};
            const rmg_status status = read(text, board, &found);

            CHECK((status == RMG_OK) == (n < 2), "%s with %s: %s", rows[i].text, number,
                  found.count ? found.list[0].what : "taken");
            CHECK(n < 2 || (found.count && strstr(found.list[0].what, number)), "%s with %s: %s",
                  rows[i].text, number, found.count ? found.list[0].what : "nothing said");
            rmg_errors_free(&found);
            g_strfreev(around);
            g_free(text);
        }
    rmg_board_free(board);
}

static rmg_status read_faults(const char *text, const rmg_board *board, rmg_errors *found)
{
    rmg_faults faults;
    const rmg_status status =
        rmg_faults_load(temporary_file("limits.yaml", text), board, &faults, found);

    if (status == RMG_OK)
        rmg_faults_free(&faults);
    return status;
}

#define CELL(rest)  "faults: [{kind: cell stuck, socket: U19, bit: D7, cell: 0, level: 1" rest "}]\n"
#define FAULT(rest) "faults: [{" rest "}]\n"

static void of_faults(void)
{
    static const row rows[] = {
        {CELL(", one-in: %s"), {"1", "1000000000"}, {"0", "1000000001"}},
        {CELL(", from-c: %s"), {"0", "150"}, {"-1", "151"}},
        {CELL(", below-mv: %s"), {"1", "20000"}, {"0", "20001"}},
        {CELL(", from-mv: %s"), {"1", "20000"}, {"0", "20001"}},
        {CELL(", from-hz: %s"), {"1", "1000000000"}, {"0", "1000000001"}},
        {CELL("") "warms-up: {from-c: %s, to-c: 40, minutes: 5}\n", {"0", "150"}, {"-1", "151"}},
        {CELL("") "warms-up: {from-c: 20, to-c: %s, minutes: 5}\n", {"0", "150"}, {"-1", "151"}},
        {CELL("") "warms-up: {from-c: 20, to-c: 40, minutes: %s}\n", {"0", "1440"}, {"-1", "1441"}},
        {CELL("") "world-seed: %s\n",
         {"0", "18446744073709551615"},
         {"-1", "18446744073709551616"}},
        {CELL("") "clock: %s\n", {"1000", "1000000000"}, {"999", "1000000001"}},
        {CELL("") "supply-mv: %s\n", {"1", "20000"}, {"0", "20001"}},
        {FAULT("kind: cell stuck, socket: U19, bit: D7, cell: %s, level: 1"),
         {"0", "16383"},
         {"-1", "16384"}},
        {FAULT("kind: cell stuck, socket: U19, bit: D7, cell: 5, level: %s"),
         {"0", "1"},
         {"-1", "2"}},
        {FAULT("kind: row stuck, socket: U19, bit: D7, row: %s, level: 1"),
         {"0", "127"},
         {"-1", "128"}},
        {FAULT("kind: column stuck, socket: U19, bit: D7, column: %s, level: 1"),
         {"0", "127"},
         {"-1", "128"}},
        {FAULT("kind: address pin open, socket: U19, pin: A2, floats: %s"),
         {"0", "1"},
         {"-1", "2"}},
        {FAULT("kind: lines touch, line: D2, with: D3, wins: %s"), {"0", "1"}, {"-1", "2"}},
        {FAULT("kind: smaller part, socket: U19, address-lines: %s"), {"0", "13"}, {"-1", "14"}},
        {FAULT("kind: fading bits, socket: U5, one-cell-in: %s, level: 1"),
         {"1", "100000000"},
         {"0", "100000001"}},
        {FAULT("kind: late output, socket: U5, access-ns: %s"), {"1", "1000000"}, {"0", "1000001"}},
        {FAULT("kind: retention, socket: U19, bit: D7, cell: 9, level: 1, after-us: %s"),
         {"1", "4294967295"},
         {"0", "4294967296"}},
        {FAULT("kind: row disturb, socket: U19, bit: D7, cell: 9, level: 1, row: %s, accesses: 5"),
         {"0", "127"},
         {"-1", "128"}},
        {FAULT("kind: row disturb, socket: U19, bit: D7, cell: 9, level: 1, row: 5, accesses: %s"),
         {"1", "4294967295"},
         {"0", "4294967296"}},
        {FAULT(
             "kind: inversion coupling, socket: U19, bit: D7, cell: 9, by-cell: %s, change-to: 1"),
         {"0", "16383"},
         {"-1", "16384"}},
        {FAULT(
             "kind: inversion coupling, socket: U19, bit: D7, cell: 9, by-cell: 8, change-to: %s"),
         {"0", "1"},
         {"-1", "2"}},
    };

    try_rows(rows, COUNT(rows), read_faults, "demo/boards/halvorn64.yaml");
}

static rmg_status read_board(const char *text, const rmg_board *board, rmg_errors *found)
{
    rmg_board *made = NULL;
    const rmg_status status = rmg_board_load_text("limits.yaml", text, &made, found);

    (void)board;
    rmg_board_free(made);
    return status;
}

/* A board with a test ROM: 16 address lines, a Z80 or a 68000. */
#define BOARD(head, rom)                                                                           \
    "board: x\nword: 8\naddress-lines: 16\naddresses: words\nundriven: high\n" head                \
    "regions: [{name: ram, range: 0x0000-0x03FF, kind: ram}, {name: rom, range: 0xF800-0xFFFF, "   \
    "kind: rom}]\n"                                                                                \
    "banks:\n  - {name: b, range: 0x0000-0x03FF, part: 2114, lines: A0-A9, data: {U1: D0-D3, U2: " \
    "D4-D7}}\n"                                                                                    \
    "  - {name: r, range: 0xF800-0xFFFF, part: 2716, lines: A0-A10, data: {U3: D0-D7}}\n"          \
    "sockets: [{names: U1-U3, mount: socket" rom
#define ROM(keys)                                                                                  \
    BOARD("", "}]\n"                                                                               \
              "test-rom:\n  processor: Z80\n  socket: U3\n" keys)
#define ALL "  clock: 4000000\n  serial: {port: 1, bit: 0}\n"

static void of_boards(void)
{
    static const row rows[] = {
        {BOARD("clock: %s\n", "}]\n"), {"1000", "1000000000"}, {"999", "1000000001"}},
        {BOARD("refresh-cycles: %s\nrefresh-ms: 2\n", "}]\n"), {"1", "65535"}, {"0", "65536"}},
        {BOARD("refresh-cycles: 128\nrefresh-ms: %s\n", "}]\n"), {"1", "65535"}, {"0", "65536"}},
        {BOARD("", ", within-ns: %s}]\n"), {"1", "1000000"}, {"0", "1000001"}},
        {ROM("  clock: %s\n  serial: {port: 1, bit: 0}\n"),
         {"100000", "50000000"},
         {"99999", "50000001"}},
        {ROM(ALL "  hold-ms: %s\n"), {"1", "60000"}, {"0", "60001"}},
        {ROM(ALL "  lines: %s\n"), {"1", "31"}, {"0", "32"}},
        {ROM(ALL "  stop-after: %s\n  then: 0\n"), {"1", "7"}, {"0", "8"}},
        {ROM(ALL "  stop-after: 1\n  then: %s\n"), {"0", "0xFFFF"}, {"-1", "0x10000"}},
        {ROM("  clock: 4000000\n  serial: {port: %s, bit: 0}\n"), {"0", "255"}, {"-1", "256"}},
        {ROM("  clock: 4000000\n  serial: {port: 1, bit: %s}\n"), {"0", "7"}, {"-1", "8"}},
        {ROM("  clock: 4000000\n  serial: {port: 1, bit: 0, others: %s}\n"),
         {"0", "255"},
         {"-1", "256"}},
        {ROM("  clock: 4000000\n  serial: {port: 1, bit: 0, baud: %s}\n"),
         {"300", "19200"},
         {"299", "19201"}},
        {ROM("  clock: 4000000\n  lamp: {port: 1, bit: 0, tone: %s}\n"),
         {"100", "5000"},
         {"99", "5001"}},
        {ROM(ALL "  writes: [{port: 2, value: %s}]\n"), {"0", "255"}, {"-1", "256"}},
    };

    try_rows(rows, COUNT(rows), read_board, "demo/boards/halvorn64.yaml");
}

static rmg_status read_plan(const char *text, const rmg_board *board, rmg_errors *found)
{
    rmg_steps steps;
    const rmg_status status = rmg_steps_parse("limits.yaml", text, &steps, found);

    (void)board;
    if (status == RMG_OK)
        rmg_steps_free(&steps);
    return status;
}

static void of_plans(void)
{
    static const row rows[] = {
        {"plan: x\nsteps: [{march: MATS}, {noisy-lines: %s}]\n", {"8", "10000"}, {"7", "10001"}},
        {"plan: x\nsteps: [{march: MATS}, {moving: galloping by row, partners: %s}]\n",
         {"1", "1048576"},
         {"0", "1048577"}},
    };

    try_rows(rows, COUNT(rows), read_plan, "demo/boards/halvorn64.yaml");
}

static rmg_status read_profile(const char *text, const rmg_board *board, rmg_errors *found)
{
    rmg_profile *profile = NULL;
    const rmg_status status = rmg_profile_load_text("limits.yaml", text, board, &profile, found);

    rmg_profile_free(profile);
    return status;
}

#define LINE "lines: [{match: '^BAD (?<address>[0-9A-F]+) (?<wrote>.+) (?<read>.+)$', is: failure"

static void of_profiles(void)
{
    static const row rows[] = {
        {"profile: x\nlimit: {reports: %s, per: pass}\n" LINE "}]\n",
         {"1", "1000000000"},
         {"0", "1000000001"}},
        {"profile: x\ndata: {bits: %s}\n" LINE "}]\n", {"1", "8"}, {"0", "9"}},
        {"profile: x\n" LINE ", address: {times: %s}}]\n",
         {"1", "1099511627776"},
         {"0", "1099511627777"}},
        {"profile: x\n" LINE ", address: {add: %s}}]\n",
         {"0", "281474976710656"},
         {"-1", "281474976710657"}},
    };

    try_rows(rows, COUNT(rows), read_profile, "demo/boards/halvorn64.yaml");
}

static rmg_status read_prompt(const char *text, const rmg_board *board, rmg_errors *found)
{
    rmg_prompt_profile *profile = NULL;
    const rmg_status status =
        rmg_prompt_profile_load(temporary_file("limits.yaml", text), &profile, found);

    (void)board;
    rmg_prompt_profile_free(profile);
    return status;
}

#define PROMPT                                                                                     \
    "prompt: x\nready: '^- $'\nread: {send: 'look {address}', answer: '^(?<value>[0-9A-F]+)$'}\n"  \
    "write: {send: 'put {address} {value}'}\ncancel: \"\\x03\"\n"

#define LOAD "load-and-run: {send: 'go {address}', processor: "

static void of_prompts(void)
{
    static const row rows[] = {
        {PROMPT "address: {width: %s}\n", {"0", "22"}, {"-1", "23"}},
        {PROMPT "address: {add: %s}\n",
         {"0", "4611686018427387904"},
         {"-1", "4611686018427387905"}},
        {PROMPT "delay: {character: %s}\n", {"0", "5000"}, {"-1", "5001"}},
        {PROMPT "delay: {line: %s}\n", {"0", "60000"}, {"-1", "60001"}},
        {PROMPT "delay: {answer: %s}\n", {"10", "600000"}, {"9", "600001"}},
        {PROMPT LOAD "\"6502\", memory: 0x0-0x1FF, zero-page: %s}\n", {"0", "254"}, {"-1", "255"}},
        {PROMPT LOAD "Z80, memory: 0x0-0x1FF, words: %s}\n", {"1", "32000"}, {"0", "32001"}},
        {PROMPT LOAD "Z80, memory: 0x0-0x1FF, wait: %s}\n", {"100", "3600000"}, {"99", "3600001"}},
        {PROMPT LOAD "Z80, memory: 0xFE00-%s}\n", {"0xFFFF", "0xFFFF"}, {"0xFFFE", "0x10000"}},
    };

    try_rows(rows, COUNT(rows), read_prompt, "demo/boards/halvorn64.yaml");
}

static rmg_status read_catalogue(const char *text, const rmg_board *board, rmg_errors *found)
{
    rmg_catalogue catalogue;
    const rmg_status status =
        rmg_catalogue_load(temporary_file("limits.yaml", text), &catalogue, found);

    (void)board;
    rmg_catalogue_free(&catalogue);
    return status;
}

static void of_catalogues(void)
{
    static const row rows[] = {
        {"images:\n  - {name: a, size: %s, sha256: "
         "0000000000000000000000000000000000000000000000000000000000000000}\n",
         {"1", "1073741824"},
         {"0", "1073741825"}},
    };

    try_rows(rows, COUNT(rows), read_catalogue, "demo/boards/halvorn64.yaml");
}

CU_TestInfo limit_tests[] = {{"of faults", of_faults},   {"of boards", of_boards},
                             {"of plans", of_plans},     {"of profiles", of_profiles},
                             {"of prompts", of_prompts}, {"of catalogues", of_catalogues},
                             CU_TEST_INFO_NULL};
