/* Fault files: each kind, and every error reported with file, line and expectation. */
#include <glib.h>
#include <stdio.h>
#include <string.h>

#include "../check.h"
#include "rimeglass/target.h"
#include "suites.h"
#include "temporary.h"

static rmg_board *load(const char *file)
{
    rmg_errors found = {0};
    rmg_board *board;

    CHECK(rmg_board_load(project_path(file), &board, &found) == RMG_OK, "%s", file);
    rmg_errors_free(&found);
    return board;
}

static rmg_status read_one(const rmg_board *b, const char *entry, rmg_faults *faults,
                           rmg_errors *found)
{
    gchar *text = g_strdup_printf("world-seed: 5\nfaults:\n  - {%s}\n", entry);
    const rmg_status status =
        rmg_faults_load(temporary_file("faults.yaml", text), b, faults, found);

    g_free(text);
    return status;
}

static const struct {
    const char *entry;
    rmg_sim_fault fault;
} good[] = {
    {"kind: cell stuck, socket: U32, bit: D6, cell: 300, level: 1",
     {.kind = RMG_FAULT_CELL, .chip = 1, .data_line = 2, .cell = 300, .level = 1}},
    {"kind: cell stuck, address: 0x48002, bit: D13, level: 0",
     {.kind = RMG_FAULT_CELL, .chip = 7, .data_line = 1, .cell = 1}},
    {"kind: row stuck, socket: U31, row: 255, level: 0",
     {.kind = RMG_FAULT_ROW, .chip = 0, .data_line = RMG_ALL_DATA_LINES, .cell = 255}},
    {"kind: column stuck, socket: U31, column: 63, bit: D1, level: 1",
     {.kind = RMG_FAULT_COLUMN, .chip = 0, .data_line = 1, .cell = 63, .level = 1}},
    {"kind: output stuck, socket: U34, bit: D15, level: 1",
     {.kind = RMG_FAULT_OUTPUT, .chip = 3, .data_line = 3, .level = 1}},
    {"kind: data pin open, socket: U33, bit: D8",
     {.kind = RMG_FAULT_DATA_OPEN, .chip = 2, .level = 1}},
    {"kind: chip missing, socket: u35", {.kind = RMG_FAULT_MISSING, .chip = 4, .level = 1}},
    {"kind: data line stuck, line: D9, level: 0", {.kind = RMG_FAULT_DATA_LINE, .line = 9}},
    {"kind: address pin stuck, socket: U31, pin: A3, level: 0",
     {.kind = RMG_FAULT_ADDRESS_CHIP, .lines = 1u << 3 | 1u << 10}},
    {"kind: address pin open, socket: U31, pin: 14, floats: 0",
     {.kind = RMG_FAULT_ADDRESS_CHIP, .lines = 1u}},
    {"kind: address line stuck, bank: far, line: A4, level: 1",
     {.kind = RMG_FAULT_ADDRESS_BANK, .bank = 1, .lines = 1u << 3, .level = 1}},
    {"kind: address line open, bank: near, pin: A3",
     {.kind = RMG_FAULT_ADDRESS_BANK, .lines = 1u << 3 | 1u << 10, .level = 1}},
    {"kind: transition, socket: U32, bit: D6, cell: 300, level: 1, one-in: 3, from-c: 40",
     {.kind = RMG_FAULT_TRANSITION,
      .chip = 1,
      .data_line = 2,
      .cell = 300,
      .level = 1,
      .when = {.rate_ppb = 333333333, .warm = true, .from_millic = 40000}}},
    {"kind: deceptive read destructive, socket: U32, bit: D6, cell: 3, level: 0, by-cell: 9, "
     "by-bit: D5, while: 1",
     {.kind = RMG_FAULT_READ_FLIPS_AFTER,
      .chip = 1,
      .data_line = 2,
      .cell = 3,
      .coupled = true,
      .cell2 = 9,
      .data_line2 = 1,
      .state = 1}},
    {"kind: inversion coupling, socket: U32, bit: D6, cell: 3, by-cell: 9, change-to: 0",
     {.kind = RMG_FAULT_COUPLING_INVERTS,
      .chip = 1,
      .data_line = 2,
      .cell = 3,
      .cell2 = 9,
      .data_line2 = 2,
      .level = 1}},
    {"kind: disturb coupling, socket: U31, bit: D0, cell: 3, by-cell: 3, by-bit: D1, level: 1, "
     "operation: 1w0",
     {.kind = RMG_FAULT_COUPLING_FLIPS,
      .cell = 3,
      .cell2 = 3,
      .data_line2 = 1,
      .level = 1,
      .operation = RMG_OPERATION_1W0}},
    {"kind: wrong cells, socket: U31, cell: 7, other: 8, reaches: both, reads: or",
     {.kind = RMG_FAULT_ADDRESS_CELLS,
      .cell = 7,
      .cell2 = 8,
      .reaches = RMG_REACHES_BOTH,
      .reads = RMG_READS_OR,
      .level = 1}},
    {"kind: retention, socket: U31, bit: D0, cell: 7, level: 0, after-us: 900, below-mv: 4600",
     {.kind = RMG_FAULT_RETENTION, .cell = 7, .after_us = 900, .when = {.below_mv = 4600}}},
    {"kind: row disturb, socket: U31, bit: D0, cell: 0x105, level: 1, row: 6, accesses: 500",
     {.kind = RMG_FAULT_DISTURB, .cell = 0x105, .level = 1, .row = 6, .count = 500}},
    {"kind: late output, socket: U33, from-hz: 2000000",
     {.kind = RMG_FAULT_LATE, .chip = 2, .level = 1, .when = {.from_hz = 2000000}}},
    {"kind: noise, one-in: 1000000",
     {.kind = RMG_FAULT_NOISE, .line = RMG_ALL_DATA_LINES, .level = 1, .when = {.rate_ppb = 1000}}},
};

static void each_kind(void)
{
    rmg_board *b = load("demo/boards/ostrel16.yaml");

    for (size_t i = 0; i < COUNT(good); i++) {
        rmg_errors found = {0};
        rmg_faults faults;
        const rmg_sim_fault *want = &good[i].fault;

        CHECK(read_one(b, good[i].entry, &faults, &found) == RMG_OK && faults.count == 1 &&
                  faults.world_seed == 5,
              "%s: %s", good[i].entry, found.count ? found.list[0].what : "");
        if (faults.count)
            CHECK(memcmp(&faults.list[0], want, sizeof *want) == 0,
                  "%s: chip %u, line %u, cell %lu, lines %lx, level %u", good[i].entry,
                  faults.list[0].chip, faults.list[0].data_line, (unsigned long)faults.list[0].cell,
                  (unsigned long)faults.list[0].lines, faults.list[0].level);
        rmg_faults_free(&faults);
        rmg_errors_free(&found);
    }
    rmg_board_free(b);
}

static const struct {
    const char *entry, *says;
} bad[] = {
    {"kind: output stuk, socket: U31, level: 0", "did you mean \"output stuck\""},
    {"socket: U31", "kind: is missing"},
    {"kind: chip missing", "socket: is missing"},
    {"kind: chip missing, socket: U3l", "did you mean U3"},
    {"kind: chip missing, socket: U31, level: 0", "chip missing has no such key"},
    {"kind: output stuck, socket: U31, bit: D0, level: 2",
     "found \"2\", expected a number from 0 to 1"},
    {"kind: output stuck, socket: U31, bit: D0", "level: is missing"},
    {"kind: output stuck, socket: U31, level: 0", "bit: is missing"},
    {"kind: output stuck, socket: U31, bit: D4, level: 0", "U31 does not hold D4"},
    {"kind: output stuck, socket: U31, bit: D16, level: 0", "from D0 to D15"},
    {"kind: row stuck, socket: U31, row: 256, level: 0", "from 0 to 255"},
    {"kind: row stuck, socket: U41, row: 1, level: 0", "no rows and columns"},
    {"kind: cell stuck, address: 0x90000, bit: D0, level: 0", "no socket of the board holds"},
    {"kind: cell stuck, address: here, bit: D0, level: 0", "an address like"},
    {"kind: data input open, socket: U31, bit: D0", "no such key"},
    {"kind: address pin stuck, socket: U31, pin: 2, level: 0", "an address pin of a 4416"},
    {"kind: address line stuck, bank: left, line: A4, level: 0", "no bank \"left\""},
    {"kind: line open, line: D3, beyond: U99.1", "expected a point of line D3"},
    {"kind: line open, line: XYZ", "a line the board file"},
    {"kind: line stuck, line: WE, level: 0", "expected a data or address line"},
    {"kind: lines touch, line: D3, with: A3", "two data lines or two address lines"},
    {"kind: lines touch, line: D3, with: D3", "two data lines or two address lines"},
    {"kind: also selected, bank: near, where: near", "expected another bank"},
    {"kind: never written, bank: middle", "no bank \"middle\""},
    {"kind: smaller part, socket: U31, address-lines: 14", "from 0 to 13"},
    {"kind: address line stuck, bank: far, line: A0, level: 0", "from A1 to A18"},
    {"kind: noise", "one-in: is missing"},
    {"kind: noise, one-in: 0", "from 1 to 1000000000"},
    {"kind: state coupling, socket: U31, bit: D0, cell: 7, level: 0, by-cell: 7, while: 1",
     "another cell than the victim"},
    {"kind: disturb coupling, socket: U31, bit: D0, cell: 7, level: 0, by-cell: 8, operation: 2w1",
     "0w1"},
    {"kind: wrong cells, socket: U31, cell: 7, other: 7, reaches: other", "another address"},
    {"kind: row disturb, socket: U31, bit: D0, cell: 6, level: 1, row: 6, accesses: 5",
     "another row"},
    {"kind: row disturb, socket: U41, bit: D0, cell: 6, level: 1, row: 6, accesses: 5",
     "no rows and columns"},
    {"kind: chip missing, socket: U31, from-c: 500", "from 0 to 150"},
};

static void every_error(void)
{
    rmg_board *b = load("demo/boards/ostrel16.yaml");

    for (size_t i = 0; i < COUNT(bad); i++) {
        rmg_errors found = {0};
        rmg_faults faults;
        bool told = false;

        CHECK(read_one(b, bad[i].entry, &faults, &found) == RMG_ERR_CONTENT && !faults.list,
              "%s: refused", bad[i].entry);
        for (size_t m = 0; m < found.count; m++)
            told |= strstr(found.list[m].what, bad[i].says) &&
                    strstr(found.list[m].what, "faults.yaml:3: ");
        CHECK(told, "%s: expected %s, found %s", bad[i].entry, bad[i].says,
              found.count ? found.list[0].what : "nothing");
        rmg_errors_free(&found);
    }
    rmg_board_free(b);
}

/* Faults of lines, and the chips they act for. */
static void faults_of_lines(void)
{
    static const struct {
        const char *entry;
        rmg_fault_kind kind;
        uint64_t scope; /* of the Halvorn's sockets: bit 0 is U11, bit 8 U19 */
        rmg_addr lines;
        uint8_t line, line2;
    } rows[] = {
        {"kind: line stuck, line: D3, bank: upper, level: 0", RMG_FAULT_LINE_STUCK, 0xFF00, 0, 3,
         0},
        {"kind: line open, line: D3, beyond: U8.5>U8.15", RMG_FAULT_LINE_OPEN, 0x1000, 0, 3, 0},
        {"kind: line open, line: A5, beyond: U24.10", RMG_FAULT_ADDRESS_STUCK, 0xE000, 32, 5, 0},
        {"kind: line open, line: WE, beyond: U11.3", RMG_FAULT_NO_WRITE, 0xFFFF, 1, 0, 0},
        {"kind: line open, line: CAS upper", RMG_FAULT_DESELECTED, 0xFF00, 1, 0, 0},
        {"kind: lines touch, line: D0, with: D7, wins: 1, socket: U5", RMG_FAULT_DATA_SHORT,
         0x10000, 1, 0, 7},
        {"kind: lines touch, line: A1, with: A3, bank: lower", RMG_FAULT_ADDRESS_SHORT, 0xFF, 10, 1,
         3},
        {"kind: never written, socket: U12", RMG_FAULT_NO_WRITE, 2, 0, 0, 0},
        {"kind: never selected, bank: lower", RMG_FAULT_DESELECTED, 0xFF, 0, 0, 0},
        {"kind: always on, socket: U13", RMG_FAULT_ALWAYS_ON, 4, 0, 0, 0},
    };
    rmg_board *b = load("demo/boards/halvorn64.yaml");

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_errors found = {0};
        rmg_faults faults;

        CHECK(read_one(b, rows[i].entry, &faults, &found) == RMG_OK && faults.count == 1, "%s",
              rows[i].entry);
        if (faults.count)
            CHECK(faults.list[0].kind == rows[i].kind && faults.list[0].scope[0] == rows[i].scope &&
                      faults.list[0].line == rows[i].line &&
                      faults.list[0].line2 == rows[i].line2 &&
                      (!(rows[i].lines & ~1u) || faults.list[0].lines == rows[i].lines),
                  "%s: scope %lx, lines %lx", rows[i].entry, (unsigned long)faults.list[0].scope[0],
                  (unsigned long)faults.list[0].lines);
        rmg_faults_free(&faults);
        rmg_errors_free(&found);
    }
    rmg_board_free(b);
}

static void one_bit_chips(void)
{
    rmg_board *b = load("demo/boards/halvorn64.yaml");
    rmg_errors found = {0};
    rmg_faults faults;
    rmg_sim_board_run run;

    CHECK(read_one(b, "kind: data input open, socket: U20, floats: 0", &faults, &found) == RMG_OK &&
              faults.list[0].kind == RMG_FAULT_INPUT_OPEN && faults.list[0].level == 0,
          "the bit of a one-bit chip goes without saying");
    rmg_faults_free(&faults);
    CHECK(rmg_sim_board_begin(&run, b, temporary_path("no-such.yaml"), &found) == RMG_ERR_FILE,
          "no such file");
    CHECK(found.count == 1, "said");
    rmg_sim_board_end(&run);
    rmg_errors_free(&found);
    rmg_board_free(b);
}

CU_TestInfo fault_tests[] = {
    {"each kind", each_kind},
    {"every error, with its line", every_error},
    {"faults of lines", faults_of_lines},
    {"one-bit chips, and a missing file", one_bit_chips},
    CU_TEST_INFO_NULL,
};
