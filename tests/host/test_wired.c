/* Faults that no fault file has, on a third model of a board (bench/wired_board.h): lines of
 * different sorts that touch, supplies that sag, outputs too weak for their line. No chip may be
 * named for what is not its own. */
#include <glib.h>
#include <string.h>

#include "../../bench/wired_board.h"
#include "../check.h"
#include "bench_board.h"
#include "rimeglass/replay.h"
#include "rimeglass/report.h"
#include "suites.h"

static const char of_words[] =
    "board: Two chips of a word each\nword: 16\naddresses: words\naddress-lines: 9\n"
    "regions: [{name: ram, kind: ram, range: 0x000-0x1FF}]\n"
    "parts: [{number: word, kind: sram, width: 16, address-lines: 8, pins: 'A0 A1 A2 A3 A4 A5 A6 "
    "A7 D0 D1 D2 D3 D4 D5 D6 D7 D8 D9 D10 D11 D12 D13 D14 D15 WE CE'}]\n"
    "banks:\n  - {name: b0, range: 0x000-0x0FF, part: word, lines: A0-A7, data: {U1: D0-D15}}\n"
    "  - {name: b1, range: 0x100-0x1FF, part: word, lines: A0-A7, data: {U2: D0-D15}}\n"
    "sockets: [{names: U1-U2, mount: socket}]\n";
static const char of_nibbles[] =
    "board: Two banks of two chips\nword: 8\naddress-lines: 9\nundriven: high\n"
    "regions: [{name: ram, kind: ram, range: 0x000-0x1FF}]\n"
    "parts: [{number: nibble, kind: sram, width: 4, address-lines: 8, pins: 'A0 A1 A2 A3 A4 A5 A6 "
    "A7 DQ1 DQ2 DQ3 DQ4 WE CE'}]\n"
    "banks:\n  - {name: b0, range: 0x000-0x0FF, part: nibble, lines: A0-A7, data: {U1: D0-D3, U2: "
    "D4-D7}}\n"
    "  - {name: b1, range: 0x100-0x1FF, part: nibble, lines: A0-A7, data: {U3: D0-D3, U4: D4-D7}}\n"
    "sockets: [{names: U1-U4, mount: socket}]\n";
static const char of_bits[] =
    "board: One-bit chips, banks that take turns\nword: 4\naddress-lines: 9\nundriven: holds\n"
    "regions: [{name: ram, kind: ram, range: 0x000-0x1FF}]\n"
    "parts: [{number: bit, kind: sram, width: 1, address-lines: 8, pins: 'A0 A1 A2 A3 A4 A5 A6 A7 "
    "D Q WE CE'}]\n"
    "banks:\n"
    "  - {name: b0, range: 0x000-0x1FF, where: [A2=0], part: bit, lines: [A0, A1, A3-A8], data: "
    "{U1: D0, U2: D1, U3: D2, U4: D3}}\n"
    "  - {name: b1, range: 0x000-0x1FF, where: [A2=1], part: bit, lines: [A0, A1, A3-A8], data: "
    "{U5: D0, U6: D1, U7: D2, U8: D3}}\n"
    "sockets: [{names: U1-U8, mount: socket}]\n";

/* What is made of a board with the fault. */
typedef struct examined {
    diag_board board;
    rmg_run run;
    rmg_suspects suspects;
} examined;

static void examine(const char *text, const wired_fault *fault, diag_dice dice, examined *e)
{
    const rmg_plan plan = bench_plan(false, 2);
    rmg_errors errors = {0};
    rmg_error error = {0};
    wired_board *b;
    rmg_target target;

    memset(e, 0, sizeof *e);
    CHECK(rmg_board_load_text("made", text, &e->board.board, &errors) == RMG_OK, "%s",
          errors.count ? errors.list[0].what : "");
    e->board.undriven = e->board.board->undriven;
    b = wired_board_new(&e->board, fault, dice);
    target = (rmg_target){.bus = &wired_board_bus,
                          .context = b,
                          .mask = ((rmg_word)1 << e->board.board->word_bits) - 1u};
    CHECK(rmg_run_begin(&e->run, e->board.board, &plan, "wired", &error) == RMG_OK, "begins");
    CHECK(rmg_run_carry_out(&e->run, &target, NULL) == RMG_OK, "runs");
    wired_board_free(b);
    rmg_suspects_find(&e->run, NULL, &e->suspects);
    CHECK(rmg_replay(&e->run, &e->suspects, RMG_REPLAY_WORK, NULL, NULL) == RMG_OK, "replayed");
    rmg_suspects_word(&e->run, &e->suspects);
}

static void end(examined *e)
{
    rmg_suspects_free(&e->suspects);
    rmg_run_end(&e->run);
    rmg_board_free(e->board.board);
}

/* The surest socket that is named, but for one. */
static double surest_but(const examined *e, const char *but)
{
    double most = 0;

    for (size_t i = 0; i < e->suspects.count; i++) {
        const rmg_finding *f = &e->suspects.list[i].finding;

        if (f->socket != RMG_NO_SOCKET &&
            strcmp(e->run.board->sockets[f->socket].name, but ? but : "") != 0)
            most = MAX(most, e->suspects.list[i].confidence);
    }
    return most;
}

static bool is_said(const examined *e, const char *what)
{
    for (size_t i = 0; i < e->suspects.count; i++)
        if (e->suspects.list[i].confidence > 0.5 && strstr(e->suspects.list[i].headline, what))
            return true;
    return false;
}

static void no_chip_for_what_is_shared(void)
{
    static const struct {
        const char *title, *board;
        wired_fault fault;
        const char *says; /* by one that is surer than not; NULL: nothing of that kind need be */
        unsigned times;   /* of three, at least */
    } rows[] = {
        {"a data line and a select",
         of_words,
         {.kind = WIRED_TOUCH, .net = {WIRED_DATA, 10}, .other = {WIRED_SELECT, 1}},
         "Look at data line D10, before any chip",
         1},
        {"a data line and a select, of one-bit chips",
         of_bits,
         {.kind = WIRED_TOUCH, .net = {WIRED_DATA, 1}, .other = {WIRED_SELECT, 0}},
         "Look at data line D1, before any chip",
         1},
        {"a data line and the write line",
         of_words,
         {.kind = WIRED_TOUCH, .net = {WIRED_DATA, 3}, .other = {WIRED_WRITE, 0}},
         "Look at data line D3",
         3},
        {"a data line and an address line",
         of_words,
         {.kind = WIRED_TOUCH, .net = {WIRED_DATA, 10}, .other = {WIRED_ADDRESS, 6}},
         "Look at data line D10, before any chip",
         2},
        {"an address line and a select",
         of_words,
         {.kind = WIRED_TOUCH, .net = {WIRED_ADDRESS, 1}, .other = {WIRED_SELECT, 0}},
         NULL,
         3},
        {"a supply of two chips",
         of_nibbles,
         {.kind = WIRED_SAG, .bank = 1, .strength = 20},
         "2 of 2 chips of the b1 bank have bad cells, each its own",
         3},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        unsigned said = 0;

        for (diag_dice dice = 3; dice < 6; dice++) { /* which strengths, which contents */
            examined e;

            examine(rows[i].board, &rows[i].fault, diag_seed(dice, 1), &e);
            CHECK(rmg_run_failed(&e.run), "%s: fails", rows[i].title);
            CHECK(surest_but(&e, NULL) <= 0.5, "%s, %d: a chip at %.2f: %s", rows[i].title,
                  (int)dice, surest_but(&e, NULL), e.suspects.list[0].headline);
            said += !rows[i].says || is_said(&e, rows[i].says);
            end(&e);
        }
        CHECK(said >= rows[i].times, "%s: said %u times of 3", rows[i].title, said);
    }
}

/* What a chip does is still put to it. */
static void a_chip_for_its_own(void)
{
    static const struct {
        const char *title, *board;
        wired_fault fault;
        const char *socket;
    } rows[] = {
        {"an output that leaves the level before",
         of_words,
         {.kind = WIRED_WEAK_OUTPUT, .chip = 1},
         "U2"},
        {"the same, of two banks that take turns",
         of_bits,
         {.kind = WIRED_WEAK_OUTPUT, .chip = 2},
         "U3"},
        {"half of it", of_nibbles, {.kind = WIRED_HALF_CHIP, .chip = 3, .level = 1}, "U4"},
        {"a row, and cells",
         of_nibbles,
         {.kind = WIRED_TWO_DEFECTS, .chip = 0, .level = 1, .strength = 5},
         "U1"},
        {"a write pin that is always low",
         of_nibbles,
         {.kind = WIRED_WRITES_CHIP, .chip = 2},
         "U3"},
    };

    for (size_t i = 0; i < COUNT(rows); i++)
        for (diag_dice dice = 3; dice < 6; dice++) {
            examined e;
            const rmg_finding *f;

            examine(rows[i].board, &rows[i].fault, diag_seed(dice, 1), &e);
            f = &e.suspects.list[0].finding;
            CHECK(e.suspects.count && f->socket != RMG_NO_SOCKET &&
                      strcmp(e.run.board->sockets[f->socket].name, rows[i].socket) == 0,
                  "%s, %d: %s", rows[i].title, (int)dice,
                  e.suspects.count ? e.suspects.list[0].headline : "nobody");
            CHECK(surest_but(&e, rows[i].socket) <= 0.5, "%s, %d: another chip", rows[i].title,
                  (int)dice);
            end(&e);
        }
}

/* All chips of a bank drive their lines at every read: what they share, not four chips. */
static void a_bank_that_drives(void)
{
    const rmg_plan plan = bench_plan(false, 2);
    rmg_sim_fault fault = {.kind = RMG_FAULT_ALWAYS_ON};
    rmg_errors errors = {0};
    rmg_board *board = NULL;
    rmg_suspects s;
    rmg_run run;

    CHECK(rmg_board_load_text("made", of_bits, &board, &errors) == RMG_OK, "loads");
    for (uint16_t socket = 4; socket < 8; socket++)
        rmg_fault_include(&fault, socket);
    bench_examine(board, &fault, 1, &plan, 7, &run, &s);
    CHECK(rmg_replay(&run, &s, RMG_REPLAY_WORK, NULL, NULL) == RMG_OK, "replayed");
    rmg_suspects_word(&run, &s);
    CHECK(s.count == 1 && s.list[0].confidence > 0.9 &&
              strcmp(s.list[0].headline, "Do not change chips yet: the b1 bank also answers where "
                                         "the b0 bank is addressed. Look at its select.") == 0,
          "%zu: %.2f %s", s.count, s.list[0].confidence, s.list[0].headline);
    CHECK(s.list[0].replay_count == 1 && s.list[0].replays[0].same &&
              strcmp(s.list[0].replays[0].fault, "the b1 bank drives its lines at every read") == 0,
          "the same: %s", s.list[0].replays[0].fault);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
}

CU_TestInfo wired_tests[] = {
    {"a bank that drives", a_bank_that_drives},
    {"no chip for what is shared", no_chip_for_what_is_shared},
    {"a chip for its own", a_chip_for_its_own},
    CU_TEST_INFO_NULL,
};
