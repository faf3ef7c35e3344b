/* Faults that only force levels are laid over whole stretches of the simulated memory; what comes
 * of it must be just what access by access, chip by chip, comes of it. A condition that always
 * holds ("from 1 Hz") is what keeps a fault from being laid over. */
#include <glib.h>
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/run.h"
#include "../../host/run/failset_pack.h"
#include "suites.h"

#define FAULTS 3u

static const rmg_fault_kind kinds[] = {
    RMG_FAULT_OUTPUT, RMG_FAULT_DATA_OPEN, RMG_FAULT_INPUT_OPEN, RMG_FAULT_MISSING, RMG_FAULT_LATE,
    RMG_FAULT_NO_WRITE, RMG_FAULT_LINE_STUCK, RMG_FAULT_LINE_OPEN, RMG_FAULT_DATA_LINE,
    RMG_FAULT_CELL, RMG_FAULT_DESELECTED, RMG_FAULT_ADDRESS_CHIP, RMG_FAULT_DATA_SHORT,
    RMG_FAULT_ALWAYS_ON, RMG_FAULT_STALE,
    /* words on which they act get what the last word that held the same got */
    RMG_FAULT_ADDRESS_BANK, RMG_FAULT_ADDRESS_STUCK, RMG_FAULT_ADDRESS_SHORT,
    RMG_FAULT_ADDRESS_SWAP, RMG_FAULT_DATA_SWAP, RMG_FAULT_ALSO_SELECTED, RMG_FAULT_ROW,
    RMG_FAULT_WEAK, RMG_FAULT_ADDRESS_CHIP, RMG_FAULT_NO_WRITE, RMG_FAULT_SLOW_LINE,
    RMG_FAULT_SLOW_LINE, RMG_FAULT_INPUT_OPEN, RMG_FAULT_RETENTION, RMG_FAULT_RETENTION,
    RMG_FAULT_ALWAYS_ON, RMG_FAULT_ALWAYS_ON, RMG_FAULT_ALWAYS_ON, RMG_FAULT_STALE};

/* One to three faults of chips and lines of the board. */
static size_t draw(const rmg_board *board, uint64_t *dice, rmg_sim_fault *faults)
{
    const size_t count = bench_dice(dice, 2) ? 1u : 1u + (size_t)bench_dice(dice, FAULTS);

    for (size_t i = 0; i < count; i++) {
        const rmg_rule *rule =
            &board->placement.rules[bench_dice(dice, board->placement.rule_count)];
        rmg_sim_fault *f = &faults[i];

        memset(f, 0, sizeof *f);
        f->kind = kinds[bench_dice(dice, G_N_ELEMENTS(kinds))];
        f->chip = rule->socket;
        f->bank = rule->bank;
        f->level = (uint8_t)bench_dice(dice, 2);
        f->state = (uint8_t)bench_dice(dice, 2);
        f->data_line = (uint8_t)bench_dice(dice, rule->width);
        f->line = rule->data_bits[f->data_line];
        f->line2 = (uint8_t)((f->line + 1u) % board->word_bits);
        f->after_us = 1u + (uint32_t)bench_dice(dice, 1u << bench_dice(dice, 16));
        f->cell = f->kind == RMG_FAULT_CELL || f->kind == RMG_FAULT_RETENTION
                      ? bench_dice(dice, 1000) % (1u << rule->address_lines)
                      : 0;
        f->count = 1u + (uint32_t)bench_dice(dice, 40);
        f->bank2 = (uint8_t)((f->bank + 1u) % board->bank_count);
        f->lines = f->kind == RMG_FAULT_DATA_LINE /* of which they are a condition */
                       ? 0
                       : (rmg_addr)1 << bench_dice(dice, rule->address_lines);
        if (f->kind == RMG_FAULT_ADDRESS_SHORT || f->kind == RMG_FAULT_ADDRESS_SWAP)
            f->lines |= f->lines & 1u ? 2u : f->lines >> 1;
        if (f->kind == RMG_FAULT_ALSO_SELECTED && f->bank == f->bank2)
            f->kind = RMG_FAULT_NO_WRITE;
        if (f->kind == RMG_FAULT_ROW && !board->sockets[f->chip].part->row_lines)
            f->kind = RMG_FAULT_WEAK;
        if ((f->kind == RMG_FAULT_ROW || f->kind == RMG_FAULT_WEAK) && bench_dice(dice, 2))
            f->data_line = RMG_ALL_DATA_LINES;
        if (i && f->kind == RMG_FAULT_CELL) { /* another line of the same cell */
            f->chip = faults[0].chip;
            f->cell = faults[0].kind == RMG_FAULT_CELL ? faults[0].cell : f->cell;
            f->data_line =
                (uint8_t)((faults[0].data_line + 1u) % board->sockets[f->chip].part->width);
        }
        for (uint16_t r = 0; r < board->placement.rule_count; r++)
            if (board->placement.rules[r].socket == rule->socket || bench_dice(dice, 2))
                rmg_fault_include(f, board->placement.rules[r].socket);
    }
    return count;
}

static void run_on(const rmg_board *board, const rmg_sim_fault *faults, size_t count,
                   const rmg_plan *plan, rmg_run *run)
{
    rmg_sim_board_run bench;
    rmg_error error = {0};

    bench_start(&bench, board, faults, count, 7);
    CHECK(rmg_run_begin(run, board, plan, "sim", &error) == RMG_OK &&
              rmg_run_carry_out(run, &bench.target, NULL) == RMG_OK,
          "runs");
    rmg_sim_board_end(&bench);
}

static bool same_failures(const rmg_run *a, const rmg_run *b)
{
    uint8_t *bytes[2];
    size_t sizes[2];
    uint64_t left_out[2];
    bool same;

    CHECK(rmg_failset_pack(a->failures, 1 << 24, &bytes[0], &sizes[0], &left_out[0]) &&
              rmg_failset_pack(b->failures, 1 << 24, &bytes[1], &sizes[1], &left_out[1]),
          "packed");
    same = sizes[0] == sizes[1] && memcmp(bytes[0], bytes[1], sizes[0]) == 0;
    free(bytes[0]);
    free(bytes[1]);
    return same && rmg_failset_fingerprint(a->failures) == rmg_failset_fingerprint(b->failures);
}

static void as_chip_by_chip(const rmg_board *board, const rmg_plan *plan, rmg_sim_fault *faults,
                            size_t count)
{
    rmg_run laid, single;

    run_on(board, faults, count, plan, &laid);
    for (size_t i = 0; i < count; i++)
        faults[i].when.from_hz = 1;
    run_on(board, faults, count, plan, &single);
    CHECK(bench_same_tally(&laid.tally, &single.tally) && same_failures(&laid, &single),
          "%s: kinds %d, %d: %llu and %llu failing reads", board->name, (int)faults[0].kind,
          count > 1 ? (int)faults[1].kind : -1, (unsigned long long)laid.tally.failing,
          (unsigned long long)single.tally.failing);
    CHECK(laid.reads == single.reads && laid.writes == single.writes &&
              memcmp(laid.wirings, single.wirings, board->bank_count * sizeof *laid.wirings) == 0,
          "%s: accesses and wiring", board->name);
    rmg_run_end(&laid);
    rmg_run_end(&single);
}

/* Chips whose cells are stored in more bits than they have data lines. */
static const char made_threes[] =
    "board: Three bits a chip\nword: 9\naddress-lines: 8\nundriven: high\n"
    "regions: [{name: ram, kind: ram, range: 0x00-0xFF}]\n"
    "parts: [{number: three, kind: sram, width: 3, address-lines: 7, pins: 'A0 A1 A2 A3 A4 A5 A6 "
    "D0 D1 D2 WE CE'}]\n"
    "banks:\n"
    "  - {name: low, range: 0-0x7F, part: three, lines: A0-A6, data: {U1: D0-D2, U2: D3-D5, U3: "
    "D6-D8}}\n"
    "  - {name: high, range: 0x80-0xFF, part: three, lines: A0-A6, data: {U4: D0-D2, U5: D3-D5, "
    "U6: D6-D8}}\n"
    "sockets: [{names: U1-U6, mount: socket}]\n";

/* Chips with rows, two banks of which lines in the middle choose; refreshed by the board. */
static const char made_rows[] =
    "board: Rows\nword: 4\naddress-lines: 14\nundriven: high\n"
    "regions: [{name: ram, kind: ram, range: 0x0000-0x3FFF}]\n"
    "parts: [{number: rows, kind: dram, width: 1, address-lines: 12, row-lines: 6, refresh-ms: 2, "
    "pins: 'VBB D WE RAS A0 A2 A1 VDD VCC A5 A4 A3 Q CAS VSS A6'}]\n"
    "banks:\n"
    "  - {name: b0, range: 0-0x3FFF, where: [A6=0, A13=0], part: rows, rows: A0-A5, columns: "
    "A7-A12, data: {U1: D0, U2: D1, U3: D2, U4: D3}}\n"
    "  - {name: b1, range: 0-0x3FFF, where: [A6=1, A13=0], part: rows, rows: A0-A5, columns: "
    "A7-A12, data: {U5: D0, U6: D1, U7: D2, U8: D3}}\n"
    "  - {name: b2, range: 0x2000-0x2FFF, part: rows, rows: A0-A5, columns: A6-A11, data: {U9: "
    "D0, U10: D1, U11: D2, U12: D3}}\n"
    "  - {name: b3, range: 0x3000-0x3FFF, part: rows, rows: A0-A5, columns: A6-A11, data: {U13: "
    "D0, U14: D1, U15: D2, U16: D3}}\n"
    "sockets: [{names: U1-U16, mount: socket}]\n";

static void levels_laid_over(void)
{
    static const char *const texts[] = {made_wide, made_bits, made_lanes, made_threes, made_rows};
    const uint8_t *const marches[] = {rmg_march_mats_plus, rmg_march_c_minus, rmg_march_ss};
    const char *setting = getenv("RMG_TEST_TURNS");
    const unsigned turns = setting ? (unsigned)atoi(setting) : 150;
    uint64_t dice = 20;

    for (unsigned turn = 0; turn < turns; turn++) {
        rmg_sim_fault faults[FAULTS];
        rmg_errors errors = {0};
        rmg_board *board;
        rmg_plan plan = bench_plan(false, 1 + turn % 2u);
        size_t count;

        CHECK(rmg_board_load_text("made", texts[turn % 5u], &board, &errors) == RMG_OK,
              "a board: %s", errors.count ? errors.list[0].what : "");
        board->undriven = (rmg_undriven)(turn / 5u % 3u);
        plan.march = marches[turn / 15u % 3u];
        count = draw(board, &dice, faults);
        as_chip_by_chip(board, &plan, faults, count);
        rmg_board_free(board);
    }
}

/* A whole element in one call: what a word of one bank gave is no sign for a bank whose chip is
 * missing, though the same chip of a third one drives both. */
static void missing_beside_always_on(void)
{
    rmg_plan plan = bench_plan(false, 2);
    rmg_sim_fault faults[] = {{.kind = RMG_FAULT_ALWAYS_ON, .chip = 3, .level = 1},
                              {.kind = RMG_FAULT_MISSING, .chip = 1}};
    rmg_errors errors = {0};
    rmg_board *board;

    CHECK(rmg_board_load_text("made", made_wide, &board, &errors) == RMG_OK, "a board: %s",
          errors.count ? errors.list[0].what : "");
    board->undriven = RMG_UNDRIVEN_LOW;
    plan.march = rmg_march_c_minus;
    for (size_t i = 0; i < COUNT(faults); i++)
        rmg_fault_include(&faults[i], faults[i].chip);
    as_chip_by_chip(board, &plan, faults, COUNT(faults));
    rmg_board_free(board);
}

/* A cell that fades, of chips whose rows follow each other on the bus: the rows come again after 64
 * words, which is soon enough for some of the times and too late for others. */
static void rows_that_rest(void)
{
    static const uint32_t times[] = {40, 63, 64, 65, 127, 128, 129, 200, 256, 300, 1000, 9000};
    static const uint16_t chips[] = {8, 13}; /* of the banks that lie in one piece */
    rmg_errors errors = {0};
    rmg_board *board;

    CHECK(rmg_board_load_text("made", made_rows, &board, &errors) == RMG_OK, "a board: %s",
          errors.count ? errors.list[0].what : "");
    for (size_t i = 0; i < COUNT(times) * COUNT(chips); i++) {
        rmg_plan plan = bench_plan(i % 3u == 0, 1 + i % 2u);
        rmg_sim_fault fades = {.kind = RMG_FAULT_RETENTION,
                               .chip = chips[i % COUNT(chips)],
                               .cell = 64u * (i + 1u) + 63u - i % 5u, /* in the last rows */
                               .level = i / 2u & 1u,
                               .after_us = times[i / COUNT(chips)]};

        as_chip_by_chip(board, &plan, &fades, 1);
    }
    rmg_board_free(board);
}

/* How often the words stand in pairs of the banks of a board, for every two of them. */
static unsigned banks_together(rmg_board *board, rmg_plan *plan, uint64_t *dice)
{
    unsigned paired = 0;

    for (uint8_t own = 0; own < board->bank_count; own++)
        for (uint8_t other = 0; other < board->bank_count; other++) {
            rmg_sim_fault bad[2] = {{.kind = RMG_FAULT_ALSO_SELECTED,
                                     .bank = own,
                                     .bank2 = other,
                                     .level = (uint8_t)bench_dice(dice, 2)},
                                    {.kind = RMG_FAULT_CELL, .cell = 3, .level = 1}};
            const size_t count = bench_dice(dice, 4) ? 1 : 2;
            rmg_run together, single;
            rmg_sim_board_run bench;

            bad[1].chip =
                board->placement.rules[bench_dice(dice, board->placement.rule_count)].socket;
            if (own == other)
                continue;
            bench_start(&bench, board, bad, count, 7);
            paired += bench.sim.pairs.act;
            rmg_sim_board_end(&bench);
            run_on(board, bad, count, plan, &together);
            bad[0].when.from_hz = 1;
            run_on(board, bad, count, plan, &single);
            CHECK(bench_same_tally(&together.tally, &single.tally) &&
                      same_failures(&together, &single) && together.reads == single.reads &&
                      together.writes == single.writes &&
                      memcmp(together.wirings, single.wirings,
                             board->bank_count * sizeof *single.wirings) == 0,
                  "%s: %s where %s is, %s: %llu and %llu failing reads", board->name,
                  board->banks[own].name, board->banks[other].name, plan->march_name,
                  (unsigned long long)together.tally.failing,
                  (unsigned long long)single.tally.failing);
            rmg_run_end(&together);
            rmg_run_end(&single);
        }
    return paired;
}

static void banks_in_pairs(void)
{
    static const char *const files[] = {
        "demo/boards/halvorn64.yaml",     "demo/shapes/interleaved.yaml",
        "demo/shapes/even-and-odd.yaml",  "demo/shapes/four-bit-pairs.yaml",
        "demo/shapes/unequal-banks.yaml", "demo/shapes/lanes.yaml"};
    static const char *const names[] = {"MATS+", "March C-", "March SS"};
    const uint8_t *const marches[] = {rmg_march_mats_plus, rmg_march_c_minus, rmg_march_ss};
    const bool slow = getenv("RMG_TEST_PLACES") != NULL;       /* of a build that is */
    const size_t turns = slow ? 3u : G_N_ELEMENTS(files) + 3u; /* the first three twice */
    uint64_t dice = 4;
    unsigned paired = 0;

    for (size_t i = 0; i < turns; i++) {
        rmg_board *board = bench_load(files[i % G_N_ELEMENTS(files)]);
        rmg_plan plan = bench_plan(false, 1 + i % 2u);

        board->undriven = (rmg_undriven)(i % 3u);
        plan.march = marches[i % G_N_ELEMENTS(marches)];
        plan.march_name = names[i % G_N_ELEMENTS(marches)];
        paired += banks_together(board, &plan, &dice);
        rmg_board_free(board);
    }
    CHECK(paired > (slow ? 1u : 5u), "%u times words stand in pairs", paired);
}

CU_TestInfo force_tests[] = {{"levels laid over stretches are as chip by chip", levels_laid_over},
                             {"banks that answer together are as chip by chip", banks_in_pairs},
                             {"rows that rest", rows_that_rest},
                             {"missing beside always on", missing_beside_always_on},
                             CU_TEST_INFO_NULL};
