/* The simulated board: power-on, each fault as it is defined, fast and slow path alike, the clock.
 */
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "rimeglass/sim.h"
#include "suites.h"

/* Eight-bit bus. Bank 0 at 0x00: two four-bit DRAMs, 4 row and 3 column lines (128 cells). Bank 1
 * at 0x80: eight one-bit chips. ROM at 0x100. Bank 2 at 0x120: one chip, low nibble only. */
static const uint8_t nibble[2][4] = {{0, 1, 2, 3}, {4, 5, 6, 7}};
static const uint8_t single[8][1] = {{0}, {1}, {2}, {3}, {4}, {5}, {6}, {7}};
static const uint8_t byte[8] = {0, 1, 2, 3, 4, 5, 6, 7};
static const uint8_t feeds[7] = {0, 1, 2, 3, 4, 5, 6};

#define ONE_BIT(n)                                                                                 \
    {                                                                                              \
        {0x80, 0xFF, 0, 0}, single[n], NULL, NULL, feeds, NULL, 2 + n, 1, 1, 7                     \
    }
static const rmg_rule rules[] = {
    {{0x00, 0x7F, 0, 0}, nibble[0], NULL, NULL, feeds, NULL, 0, 0, 4, 7},
    {{0x00, 0x7F, 0, 0}, nibble[1], NULL, NULL, feeds, NULL, 1, 0, 4, 7},
    ONE_BIT(0),
    ONE_BIT(1),
    ONE_BIT(2),
    ONE_BIT(3),
    ONE_BIT(4),
    ONE_BIT(5),
    ONE_BIT(6),
    ONE_BIT(7),
    {{0x100, 0x11F, 0, 0}, byte, NULL, NULL, feeds, NULL, 10, 2, 8, 5},
    {{0x120, 0x12F, 0, 0}, nibble[0], NULL, NULL, feeds, NULL, 11, 3, 4, 4},
};
static const rmg_placement placement = {rules, COUNT(rules)};
static const rmg_sim_chip chips[] = {
    {4, 7, 4, false, 0, 0, NULL, 0}, {4, 7, 4, false, 0, 0, NULL, 0},
    {1, 7, 4, false, 0, 0, NULL, 0}, {1, 7, 4, false, 0, 0, NULL, 0},
    {1, 7, 4, false, 0, 0, NULL, 0}, {1, 7, 4, false, 0, 0, NULL, 0},
    {1, 7, 4, false, 0, 0, NULL, 0}, {1, 7, 4, false, 0, 0, NULL, 0},
    {1, 7, 4, false, 0, 0, NULL, 0}, {1, 7, 4, false, 0, 0, NULL, 0},
    {8, 5, 0, true, 0, 0, NULL, 0},  {4, 4, 0, false, 0, 0, NULL, 0}};
static rmg_sim_board board = {.placement = &placement,
                              .chips = chips,
                              .chip_count = COUNT(chips),
                              .word_bits = 8,
                              .undriven = RMG_UNDRIVEN_HIGH,
                              .access_ns = 250};
static uint64_t memory[2048];

static void start(rmg_sim *sim, const rmg_sim_fault *faults, uint16_t count, uint64_t seed)
{
    CHECK(rmg_sim_bytes(&board, count) && rmg_sim_bytes(&board, count) <= sizeof memory, "room");
    memset(memory, 0xA5, sizeof memory);
    CHECK(rmg_sim_start(sim, &board, faults, count, seed, memory) == RMG_OK, "starts");
}

/* Writes `value` at the address, its complement at `other`, reads the address. */
static rmg_word write_read(rmg_sim *sim, rmg_addr address, rmg_addr other, rmg_word value)
{
    rmg_sim_write(sim, address, value);
    rmg_sim_write(sim, other, ~value);
    return rmg_sim_read(sim, address);
}

static void power_on(void)
{
    rmg_sim sim;
    rmg_word first[0x130];
    unsigned same = 0, ones = 0;

    start(&sim, NULL, 0, 7);
    for (rmg_addr a = 0; a < 0x130; a++) {
        first[a] = rmg_sim_read(&sim, a);
        for (unsigned i = 0; i < 8; i++)
            ones += (unsigned)(first[a] >> i & 1u);
    }
    start(&sim, NULL, 0, 7);
    for (rmg_addr a = 0; a < 0x130; a++)
        CHECK(rmg_sim_read(&sim, a) == first[a], "the same seed, the same contents");
    start(&sim, NULL, 0, 8);
    for (rmg_addr a = 0; a < 0x100; a++)
        same += rmg_sim_read(&sim, a) == first[a];
    CHECK(same < 10, "another seed, other contents: %u alike", same);
    CHECK(ones > 0x130 * 8 * 2 / 5 && ones < 0x130 * 8 * 3 / 5, "ones and zeros mixed: %u", ones);
}

static void sound_memory(void)
{
    rmg_sim sim;

    start(&sim, NULL, 0, 1);
    for (rmg_addr a = 0; a < 0x100; a++)
        CHECK(write_read(&sim, a, a ^ 0x80, 0x5A ^ a) == (0x5A ^ (a & 0xFF)), "%llx",
              (unsigned long long)a);
    CHECK((write_read(&sim, 0x120, 0x121, 0x05)) == 0xF5, "half a word: the rest is pulled up");
    CHECK(rmg_sim_read(&sim, 0x1000) == 0xFF, "nothing answers: pulled up");
    rmg_sim_write(&sim, 0x1000, 0x12);
    const rmg_word rom = rmg_sim_read(&sim, 0x105);
    CHECK(write_read(&sim, 0x105, 0x00, rom ^ 0xFF) == rom, "a ROM keeps what it holds");
}

static void undriven_levels(void)
{
    static const struct {
        rmg_undriven undriven;
        rmg_word value;
    } rows[] = {{RMG_UNDRIVEN_HIGH, 0xFF}, {RMG_UNDRIVEN_LOW, 0x00}, {RMG_UNDRIVEN_HOLDS, 0x3C}};

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_sim sim;

        board.undriven = rows[i].undriven;
        start(&sim, NULL, 0, 1);
        rmg_sim_write(&sim, 0x10, 0x3C);
        CHECK(rmg_sim_read(&sim, 0x2000) == rows[i].value, "undriven level %zu", i);
        CHECK(rmg_sim_read(&sim, 0x2000) == rows[i].value, "and again");
    }
    board.undriven = RMG_UNDRIVEN_HIGH;
}

/* Each fault, its definition in code: what is read at `a` after `v` was written there and ~v at
 * `other`. */
typedef struct fault_row {
    const char *title;
    rmg_sim_fault fault;
    rmg_addr at, other;
    rmg_word write, read;
} fault_row;

static const fault_row fault_rows[] = {
    {"cell stuck",
     {.kind = RMG_FAULT_CELL, .chip = 0, .data_line = 2, .cell = 9, .level = 0},
     9,
     10,
     0xFF,
     0xFB},
    {"its neighbour",
     {.kind = RMG_FAULT_CELL, .chip = 0, .data_line = 2, .cell = 9},
     8,
     9,
     0xFF,
     0xFF},
    {"row, one data line",
     {.kind = RMG_FAULT_ROW, .chip = 1, .data_line = 0, .cell = 5, .level = 1},
     0x35,
     0,
     0x00,
     0x10},
    {"row, whole chip",
     {.kind = RMG_FAULT_ROW, .chip = 1, .data_line = RMG_ALL_DATA_LINES, .cell = 5, .level = 1},
     0x75,
     0,
     0x00,
     0xF0},
    {"another row",
     {.kind = RMG_FAULT_ROW, .chip = 1, .data_line = 0, .cell = 5, .level = 1},
     0x34,
     0,
     0x00,
     0x00},
    {"column",
     {.kind = RMG_FAULT_COLUMN, .chip = 4, .data_line = 0, .cell = 3, .level = 1},
     0xB7,
     0,
     0x00,
     0x04},
    {"another column",
     {.kind = RMG_FAULT_COLUMN, .chip = 4, .data_line = 0, .cell = 3, .level = 1},
     0xA7,
     0,
     0x00,
     0x00},
    {"output stuck",
     {.kind = RMG_FAULT_OUTPUT, .chip = 9, .data_line = 0, .level = 0},
     0x90,
     0,
     0xFF,
     0x7F},
    {"data pin open",
     {.kind = RMG_FAULT_DATA_OPEN, .chip = 0, .data_line = 1},
     0x10,
     0,
     0x00,
     0x02},
    {"data input open",
     {.kind = RMG_FAULT_INPUT_OPEN, .chip = 2, .data_line = 0, .level = 0},
     0x90,
     0,
     0xFF,
     0xFE},
    {"chip missing", {.kind = RMG_FAULT_MISSING, .chip = 1}, 0x10, 0, 0x00, 0xF0},
    {"data line stuck, one bank",
     {.kind = RMG_FAULT_DATA_LINE, .line = 6, .level = 0},
     0x10,
     0,
     0xFF,
     0xBF},
    {"data line stuck, the other",
     {.kind = RMG_FAULT_DATA_LINE, .line = 6, .level = 0},
     0x90,
     0,
     0xFF,
     0xBF},
    {"data line stuck, nothing there",
     {.kind = RMG_FAULT_DATA_LINE, .line = 6, .level = 0},
     0x500,
     0,
     0xFF,
     0xBF},
    {"address line at a chip",
     {.kind = RMG_FAULT_ADDRESS_CHIP, .chip = 0, .lines = 8, .level = 1},
     0x00,
     0x08,
     0xFF,
     0xF0},
    {"an unlike address",
     {.kind = RMG_FAULT_ADDRESS_CHIP, .chip = 0, .lines = 8, .level = 1},
     0x00,
     0x04,
     0xFF,
     0xFF},
    {"address line of a bank",
     {.kind = RMG_FAULT_ADDRESS_BANK, .bank = 1, .lines = 2, .level = 0},
     0x90,
     0x92,
     0xFF,
     0x00},
    {"the other bank",
     {.kind = RMG_FAULT_ADDRESS_BANK, .bank = 1, .lines = 2, .level = 0},
     0x10,
     0x12,
     0xFF,
     0xFF},
};

static void faults(void)
{
    for (size_t i = 0; i < COUNT(fault_rows); i++) {
        const fault_row *r = &fault_rows[i];
        rmg_sim sim;
        rmg_word got;

        start(&sim, &r->fault, 1, 3);
        got = write_read(&sim, r->at, r->other, r->write);
        CHECK(got == r->read, "%s: read %lx, expected %lx", r->title, (unsigned long)got,
              (unsigned long)r->read);
    }
}

/* A missing chip keeps nothing: what is written does not come back when it is read elsewhere. */
static void open_pin_writes_do_not_arrive(void)
{
    const rmg_sim_fault open = {.kind = RMG_FAULT_DATA_OPEN, .chip = 3, .data_line = 0};
    rmg_sim healthy, broken;
    rmg_word before;

    start(&healthy, NULL, 0, 5);
    before = rmg_sim_read(&healthy, 0x90) >> 1 & 1u;
    start(&broken, &open, 1, 5);
    rmg_sim_write(&broken, 0x90, before ? 0x00 : 0xFF);
    CHECK((rmg_sim_word(&broken, 3, 0x10) & 1u) == before,
          "the cell behind the open pin keeps its contents");
}

/* A board whose every page is slow reads as one whose pages are fast: the same accesses, drawn at
 * random. The fault that makes the pages slow sets one address line to the level it has anyway, on
 * a condition that always holds. */
static void fast_path_is_slow_path(void)
{
    static const rmg_sim_fault harmless[] = {
        {.kind = RMG_FAULT_ADDRESS_BANK, .bank = 0, .lines = 1u << 12, .when = {.from_hz = 1}},
        {.kind = RMG_FAULT_ADDRESS_BANK, .bank = 1, .lines = 1u << 12, .when = {.from_hz = 1}}};
    static uint64_t other[2048];
    rmg_sim fast, slow;
    uint32_t dice = 12345;

    start(&fast, NULL, 0, 11);
    CHECK(rmg_sim_start(&slow, &board, harmless, 2, 11, other) == RMG_OK, "starts");
    for (unsigned i = 0; i < 20000; i++) {
        rmg_addr a;

        dice = dice * 1664525u + 1013904223u;
        a = dice >> 8 & 0x1FFu;
        if (dice >> 30)
            CHECK(rmg_sim_read(&fast, a) == rmg_sim_read(&slow, a), "access %u at %lx", i,
                  (unsigned long)a);
        else {
            rmg_sim_write(&fast, a, dice >> 20 & 0xFFu);
            rmg_sim_write(&slow, a, dice >> 20 & 0xFFu);
        }
    }
    CHECK(!fast.slow[0] && slow.slow[0], "one fast, one slow");
}

/* A mirror shows the same cells; a window shows the page last selected. */
static void mirrors_and_pages(void)
{
    static const rmg_sim_mirror mirror = {0x400, 0x47F, 0x80};
    rmg_sim sim;

    board.mirrors = &mirror;
    board.mirror_count = 1;
    board.pages = (rmg_sim_pages){0x00, 0x7F, 0x7000, 1, 7}; /* page 1 of bank 0 is bank 1 */
    start(&sim, NULL, 0, 1);
    rmg_sim_write(&sim, 0x9F, 0x12);
    CHECK(rmg_sim_read(&sim, 0x41F) == 0x12, "the mirror shows what was written");
    rmg_sim_write(&sim, 0x402, 0x34);
    CHECK(rmg_sim_read(&sim, 0x82) == 0x34, "and takes what is written");
    rmg_sim_write(&sim, 0x7000, 0);
    rmg_sim_write(&sim, 0x1F, 0x55);
    rmg_sim_write(&sim, 0x7000, 0xFF);
    CHECK(rmg_sim_read(&sim, 0x1F) == 0x12, "page 1");
    rmg_sim_write(&sim, 0x7000, 0xFE);
    CHECK(rmg_sim_read(&sim, 0x1F) == 0x55, "page 0");
    board.mirror_count = 0;
    board.pages.mask = 0;
}

/* Bytes of a word on a 16-bit board: a byte written leaves the other alone, fast path and slow. */
static void bytes_of_a_word(void)
{
    static const uint8_t halves[2][8] = {{0, 1, 2, 3, 4, 5, 6, 7}, {8, 9, 10, 11, 12, 13, 14, 15}};
    static const rmg_rule two[] = {
        {{0, 0x1F, 0, 0}, halves[0], NULL, NULL, feeds, NULL, 0, 0, 8, 5},
        {{0, 0x1F, 0, 0}, halves[1], NULL, NULL, feeds, NULL, 1, 0, 8, 5}};
    static const rmg_placement wide = {two, 2};
    static const rmg_sim_chip ram[] = {{8, 5, 0, false, 0, 0, NULL, 0},
                                       {8, 5, 0, false, 0, 0, NULL, 0}};
    static const rmg_sim_board sixteen = {
        .placement = &wide, .chips = ram, .chip_count = 2, .word_bits = 16, .access_ns = 1};
    static const rmg_sim_fault cell = {.kind = RMG_FAULT_CELL, .chip = 1, .cell = 31, .level = 1};

    for (uint16_t faults = 0; faults < 2; faults++)
        for (uint8_t lane = 0; lane < 2; lane++) {
            rmg_sim sim;
            rmg_word value = 0;
            uint8_t byte_value = 0;
            const rmg_addr at = faults ? 30 : 3; /* the fault makes its page slow */

            CHECK(rmg_sim_start(&sim, &sixteen, &cell, faults, 1, memory) == RMG_OK, "starts");
            rmg_sim_write(&sim, at, 0x1234);
            CHECK(rmg_sim_bus.write_byte(&sim, at, lane, 0xAB) == RMG_OK &&
                      rmg_sim_bus.read(&sim, at, &value) == RMG_OK,
                  "accesses");
            CHECK(value == (lane ? 0xAB34 : 0x12AB), "lane %u: %lx", lane, (unsigned long)value);
            CHECK(rmg_sim_bus.read_byte(&sim, at, lane, &byte_value) == RMG_OK &&
                      byte_value == 0xAB,
                  "read back by byte");
        }
}

/* A line that nothing drives keeps its value for the time given, then goes to its level. */
static void hold_time(void)
{
    rmg_sim sim;

    board.undriven = RMG_UNDRIVEN_HOLDS;
    board.hold_ns = 1000;
    board.after = RMG_UNDRIVEN_LOW;
    start(&sim, NULL, 0, 1);
    rmg_sim_write(&sim, 0x10, 0x3C);
    CHECK(rmg_sim_read(&sim, 0x2000) == 0x3C, "held for a while");
    rmg_sim_wait(&sim, 1000);
    CHECK(rmg_sim_read(&sim, 0x2000) == 0x00, "gone after it");
    board.undriven = RMG_UNDRIVEN_HIGH;
    board.hold_ns = 0;
}

static void time_and_counts(void)
{
    const rmg_target target = {&rmg_sim_bus, NULL, 0xFF};
    rmg_sim sim;
    rmg_word value;

    start(&sim, NULL, 0, 1);
    sim.now_ns = UINT64_MAX - 600;
    CHECK(target.bus->write(&sim, 1, 2) == RMG_OK && target.bus->read(&sim, 1, &value) == RMG_OK,
          "two accesses");
    CHECK(sim.now_ns == UINT64_MAX - 100 && sim.reads == 1 && sim.writes == 1, "2 x 250 ns");
    CHECK(target.bus->read(&sim, 1, &value) == RMG_OK && sim.now_ns == 149 && value == 2,
          "the clock wraps around");
    CHECK(target.bus->wait(&sim, 3) == RMG_OK && sim.now_ns == 3149, "a wait of 3 us");
}

static void refusals(void)
{
    static const rmg_sim_fault bad[] = {
        {.kind = RMG_FAULT_CELL, .chip = 12},
        {.kind = RMG_FAULT_CELL, .chip = 0, .data_line = 4},
        {.kind = RMG_FAULT_CELL, .chip = 0, .cell = 128},
        {.kind = RMG_FAULT_ROW, .chip = 0, .cell = 16},
        {.kind = RMG_FAULT_COLUMN, .chip = 0, .cell = 8},
        {.kind = RMG_FAULT_OUTPUT, .chip = 2, .data_line = 1},
        {.kind = RMG_FAULT_DATA_LINE, .line = 8},
        {.kind = RMG_FAULT_ADDRESS_CHIP, .chip = 0, .lines = 128},
        {.kind = RMG_FAULT_MISSING, .chip = 0, .level = 2},
        {.kind = RMG_FAULT_MISSING, .chip = 77},
    };
    rmg_sim_board wrong = board;
    rmg_sim sim;

    for (size_t i = 0; i < COUNT(bad); i++)
        CHECK(rmg_sim_start(&sim, &board, &bad[i], 1, 1, memory) == RMG_ERR_ARGUMENT, "fault %zu",
              i);
    wrong.chip_count = 5;
    CHECK(!rmg_sim_bytes(&wrong, 0), "a rule for a chip that is not there");
    wrong = board;
    wrong.word_bits = 4;
    CHECK(!rmg_sim_bytes(&wrong, 0), "a data bit that is not there");
    wrong.word_bits = 0;
    CHECK(!rmg_sim_bytes(&wrong, 0), "no word");
    {
        const rmg_sim_fault none = {.kind = RMG_FAULT_KINDS};
        rmg_sim refusing;

        CHECK(rmg_sim_start(&refusing, &board, &none, 1, 1, memory) == RMG_ERR_ARGUMENT,
              "a kind that is none");
    }
}

/* Does a weak cell of the static chip keep its 1 for so long? */
static bool keeps(rmg_sim *sim, uint64_t ns)
{
    rmg_sim_write(sim, 0x120, 0xF);
    rmg_sim_wait(sim, ns - board.access_ns);
    return (rmg_sim_read(sim, 0x120) & 1u) != 0;
}

/* How long a cell holds that holds 1 ms at 25 C: half as long for every 10 C more, evenly between.
 */
static void holding_by_heat(void)
{
    static const struct {
        int32_t millic;
        uint64_t ns;
    } rows[] = {{25000, 1000000}, {30000, 750000},  {34999, 500050},  {35000, 500000},
                {44999, 250025},  {45000, 250000},  {55000, 125000},  {24999, 1000100},
                {20000, 1500000}, {15000, 2000000}, {14999, 2000200}, {5000, 4000000}};
    const rmg_sim_fault weak = {
        .kind = RMG_FAULT_RETENTION, .chip = 11, .cell = 0, .level = 0, .after_us = 1000};
    rmg_sim sim;

    start(&sim, &weak, 1, 1);
    for (size_t i = 0; i < COUNT(rows); i++) {
        CHECK(rmg_sim_set(&sim, RMG_CONDITION_HEAT_MILLIC, rows[i].millic) == RMG_OK, "set");
        CHECK(keeps(&sim, rows[i].ns - 10) && !keeps(&sim, rows[i].ns + 10), "%d millidegrees",
              (int)rows[i].millic);
    }
}

/* Both ends of what a condition may be set to. */
static void conditions_within(void)
{
    static const struct {
        rmg_condition which;
        int32_t value;
        bool may;
    } rows[] = {
        {RMG_CONDITION_CLOCK_HZ, 999, false},       {RMG_CONDITION_CLOCK_HZ, 1000, true},
        {RMG_CONDITION_CLOCK_HZ, 1000000000, true}, {RMG_CONDITION_CLOCK_HZ, 1000000001, false},
        {RMG_CONDITION_SUPPLY_MV, -1, false},       {RMG_CONDITION_SUPPLY_MV, 0, true},
        {RMG_CONDITION_SUPPLY_MV, 20000, true},     {RMG_CONDITION_SUPPLY_MV, 20001, false},
        {RMG_CONDITION_HEAT_MILLIC, -55001, false}, {RMG_CONDITION_HEAT_MILLIC, -55000, true},
        {RMG_CONDITION_HEAT_MILLIC, 150000, true},  {RMG_CONDITION_HEAT_MILLIC, 150001, false},
        {RMG_CONDITION_REFRESH, -1, false},         {RMG_CONDITION_REFRESH, 0, true},
        {RMG_CONDITION_REFRESH, 1, true},           {RMG_CONDITION_REFRESH, 2, false},
    };
    rmg_sim sim;

    start(&sim, NULL, 0, 1);
    for (size_t i = 0; i < COUNT(rows); i++)
        CHECK((rmg_sim_set(&sim, rows[i].which, rows[i].value) == RMG_OK) == rows[i].may,
              "condition %d at %d", (int)rows[i].which, (int)rows[i].value);
}

/* A state is taken back whole or not at all: one byte more or less is another board's. */
static void states_of_their_size(void)
{
    rmg_sim sim;
    size_t bytes;
    uint8_t *state;

    start(&sim, NULL, 0, 1);
    rmg_sim_write(&sim, 0x10, 0x5A);
    bytes = rmg_sim_state_bytes(&sim);
    state = calloc(1, bytes + 1);
    rmg_sim_save(&sim, state);
    rmg_sim_write(&sim, 0x10, 0xA5);
    CHECK(rmg_sim_restore(&sim, state, bytes + 1) == RMG_ERR_ARGUMENT, "larger");
    CHECK(rmg_sim_restore(&sim, state, bytes - 1) == RMG_ERR_ARGUMENT, "smaller");
    CHECK(rmg_sim_read(&sim, 0x10) == 0xA5, "nothing was changed");
    CHECK(rmg_sim_restore(&sim, state, bytes) == RMG_OK && rmg_sim_read(&sim, 0x10) == 0x5A,
          "its own");
    free(state);
}

CU_TestInfo sim_tests[] = {
    {"power-on contents", power_on},
    {"sound memory", sound_memory},
    {"undriven lines", undriven_levels},
    {"each fault as defined", faults},
    {"writes do not arrive at an open pin", open_pin_writes_do_not_arrive},
    {"fast and slow path are alike", fast_path_is_slow_path},
    {"mirrors and pages", mirrors_and_pages},
    {"bytes of a word", bytes_of_a_word},
    {"how long undriven lines hold", hold_time},
    {"clock and counts", time_and_counts},
    {"what is refused", refusals},
    {"holding time by temperature", holding_by_heat},
    {"limits of conditions", conditions_within},
    {"states of their size", states_of_their_size},
    CU_TEST_INFO_NULL,
};
