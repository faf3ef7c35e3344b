/* Several sockets that fail alike, on boards whose lines nobody traced: what they share is
 * suspected, and no chip of them. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/replay.h"
#include "rimeglass/report.h"
#include "suites.h"

/* Four banks of one byte-wide chip each, U1 to U4; and one bank of eight one-bit chips, U11 at D0.
 */
static const char wide[] =
    "board: One chip a bank\nword: 8\naddress-lines: 13\nundriven: holds\n"
    "regions: [{name: ram, kind: ram, range: 0x0000-0x1FFF}]\n"
    "banks:\n"
    "  - {name: b0, range: 0x0000-0x07FF, part: 6116, lines: A0-A10, data: {U1: D0-D7}}\n"
    "  - {name: b1, range: 0x0800-0x0FFF, part: 6116, lines: A0-A10, data: {U2: D0-D7}}\n"
    "  - {name: b2, range: 0x1000-0x17FF, part: 6116, lines: A0-A10, data: {U3: D0-D7}}\n"
    "  - {name: b3, range: 0x1800-0x1FFF, part: 6116, lines: A0-A10, data: {U4: D0-D7}}\n"
    "sockets: [{names: U1-U4, mount: socket}]\n";
static const char bits[] =
    "board: One bit a chip\nword: 8\naddress-lines: 12\nundriven: high\n"
    "regions: [{name: ram, kind: ram, range: 0x000-0xFFF}]\n"
    "parts: [{number: bit, kind: sram, width: 1, address-lines: 12, pins: 'A0 A1 A2 A3 A4 A5 A6 A7 "
    "A8 A9 A10 A11 D Q WE CE'}]\n"
    "banks: [{name: only, range: 0-0xFFF, part: bit, lines: A0-A11, data: {U11: D0, U12: D1, U13: "
    "D2, U14: D3, U15: D4, U16: D5, U17: D6, U18: D7}}]\n"
    "sockets: [{names: U11-U18, mount: socket}]\n";

static rmg_sim_fault at_chips(rmg_sim_fault fault, uint64_t chips)
{
    fault.scope[0] = chips;
    return fault;
}

/* "U2 U3 U4": the sockets that a finding is about. */
static gchar *sockets_of(const rmg_run *run, const rmg_finding *f)
{
    bool *sockets = g_new0(bool, run->board->socket_count);
    GString *text = g_string_new(NULL);

    rmg_finding_sockets(run, f, sockets);
    for (size_t i = 0; i < run->board->socket_count; i++)
        if (sockets[i])
            g_string_append_printf(text, "%s%s", text->len ? " " : "", run->board->sockets[i].name);
    g_free(sockets);
    return g_string_free(text, FALSE);
}

static void what_sockets_share(void)
{
    const struct {
        const char *title, *board;
        rmg_sim_fault faults[2];
        size_t count;
        rmg_finding_kind kind, of;
        const char *sockets, *says;
    } rows[] = {
        {"a data line open before three of four banks",
         wide,
         {at_chips((rmg_sim_fault){.kind = RMG_FAULT_LINE_OPEN, .line = 3}, 0xE)},
         1,
         RMG_FINDING_SHARED,
         RMG_FINDING_DATA_AT_SOCKET,
         "U2 U3 U4",
         "Look at data line D3 on its way to U2, U3 and U4"},
        {"stuck before two",
         wide,
         {at_chips((rmg_sim_fault){.kind = RMG_FAULT_LINE_STUCK, .line = 6, .level = 1}, 0x5)},
         1,
         RMG_FINDING_SHARED,
         RMG_FINDING_DATA_AT_SOCKET,
         "U1 U3",
         "Look at data line D6 on its way to U1 and U3"},
        {"an address line stuck before five of eight",
         bits,
         {at_chips((rmg_sim_fault){.kind = RMG_FAULT_ADDRESS_STUCK, .lines = 1u << 5, .level = 1},
                   0xF8)},
         1,
         RMG_FINDING_SHARED,
         RMG_FINDING_ADDRESS_AT_SOCKET,
         "U14 U15 U16 U17 U18",
         "Look at address line A5 on its way to U14, U15, U16, U17 and U18"},
        {"the write line open before two",
         bits,
         {at_chips((rmg_sim_fault){.kind = RMG_FAULT_NO_WRITE}, 0x3)},
         1,
         RMG_FINDING_SHARED,
         RMG_FINDING_NEVER_WRITTEN,
         "U11 U12",
         "Look at the write line on its way to U11 and U12"},
        {"address lines that touch, one chip a bank",
         wide,
         {at_chips((rmg_sim_fault){.kind = RMG_FAULT_ADDRESS_SHORT, .lines = 1u << 3 | 1u << 7},
                   0xF)},
         1,
         RMG_FINDING_ADDRESS_SHORT,
         RMG_FINDING_ALL_SILENT,
         "U1 U2 U3 U4",
         "Look at address lines A3 and A7 of all banks"},
        {"three chips never selected",
         wide,
         {at_chips((rmg_sim_fault){.kind = RMG_FAULT_DESELECTED}, 0xE)},
         1,
         RMG_FINDING_SHARED,
         RMG_FINDING_BANK_SILENT,
         "U2 U3 U4",
         "Look at the select, strobes and supply on their way to U2, U3 and U4"},
        {"five of eight never selected",
         bits,
         {at_chips((rmg_sim_fault){.kind = RMG_FAULT_DESELECTED}, 0x5D)},
         1,
         RMG_FINDING_SHARED,
         RMG_FINDING_BANK_SILENT,
         "U11 U13 U14 U15 U17",
         "Look at the select, strobes and supply on their way to U11, U13, U14, U15 and U17"},
        {"an output latch that lags",
         wide,
         {{.kind = RMG_FAULT_STALE, .chip = 2}},
         1,
         RMG_FINDING_STALE,
         RMG_FINDING_ALL_SILENT,
         "U3",
         "D0-D7 give what the read before should have given"},
        {"one chip alone",
         wide,
         {{.kind = RMG_FAULT_OUTPUT, .chip = 2, .data_line = 4}},
         1,
         RMG_FINDING_DATA_AT_SOCKET,
         RMG_FINDING_ALL_SILENT,
         "U3",
         "Look at U3"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_errors errors = {0};
        rmg_board *board = NULL;
        const rmg_plan plan = bench_plan(false, 2);
        rmg_suspects s;
        const rmg_suspect *first;
        gchar *sockets;
        rmg_run run;
        bool same = false;

        CHECK(rmg_board_load_text("made", rows[i].board, &board, &errors) == RMG_OK, "%s",
              errors.count ? errors.list[0].what : "");
        bench_examine(board, rows[i].faults, rows[i].count, &plan, 3, &run, &s);
        CHECK(rmg_replay(&run, &s, RMG_REPLAY_WORK, NULL, NULL) == RMG_OK, "%s: replayed",
              rows[i].title);
        rmg_suspects_word(&run, &s);
        first = &s.list[0];
        sockets = sockets_of(&run, &first->finding);
        CHECK(s.count == 1, "%s: %zu suspects", rows[i].title, s.count);
        CHECK(first->finding.kind == rows[i].kind &&
                  (first->finding.kind != RMG_FINDING_SHARED || first->finding.of == rows[i].of) &&
                  strcmp(sockets, rows[i].sockets) == 0 && strstr(first->headline, rows[i].says),
              "%s: %s; %s", rows[i].title, sockets, first->headline);
        CHECK(first->confidence > 0.8, "%s: %g", rows[i].title, first->confidence);
        for (size_t n = 0; n < first->replay_count; n++)
            same |= first->replays[n].same;
        CHECK(same, "%s: a replay gives the same", rows[i].title);
        g_free(sockets);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
    }
}

/* Banks that low address lines choose, on one bus. */
static const char lanes[] =
    "board: Two lanes on one bus\nword: 8\naddress-lines: 12\nundriven: high\n"
    "regions: [{name: ram, kind: ram, range: 0x000-0x7FF}]\n"
    "banks:\n"
    "  - {name: even, range: 0x000-0x7FF, where: [A0=0], part: 2114, lines: A1-A10, data: {U1: "
    "D0-D3, U2: D4-D7}}\n"
    "  - {name: odd, range: 0x000-0x7FF, where: [A0=1], part: 2114, lines: A1-A10, data: {U3: "
    "D0-D3, U4: D4-D7}}\n"
    "sockets: [{names: U1-U4, mount: socket}]\n";

/* Selects and chips that are always on, as on banks that high lines choose. */
static void interleaved(void)
{
    static const struct {
        const char *title;
        rmg_sim_fault faults[2];
        size_t count;
        rmg_finding_kind kind;
        const char *headline, *because;
    } rows[] = {
        {"also selected",
         {{.kind = RMG_FAULT_ALSO_SELECTED, .bank = 1, .bank2 = 0}},
         1,
         RMG_FINDING_BANKS_BOTH,
         "the odd bank also answers where the even bank is addressed",
         "of 1024 words tested in the odd bank"},
        {"the same",
         {{.kind = RMG_FAULT_ALSO_SELECTED, .bank = 1, .bank2 = 0},
          {.kind = RMG_FAULT_DESELECTED, .scope = {3}}},
         2,
         RMG_FINDING_BANKS_SAME,
         "the even bank and the odd bank reach the same cells",
         "of 1024 words tested in the even bank"},
        {"always on",
         {{.kind = RMG_FAULT_ALWAYS_ON, .scope = {4}}},
         1,
         RMG_FINDING_DRAGGED,
         "Look at U3",
         "Reading the even bank gives 0"},
        {"also selected, a high wins",
         {{.kind = RMG_FAULT_ALSO_SELECTED, .bank = 1, .bank2 = 0, .level = 1}},
         1,
         RMG_FINDING_BANKS_BOTH,
         "the odd bank also answers where the even bank is addressed",
         "of 1024 words tested in the odd bank"},
        {"always on, a high wins",
         {{.kind = RMG_FAULT_ALWAYS_ON, .scope = {4}, .level = 1}},
         1,
         RMG_FINDING_DRAGGED,
         "Look at U3",
         "Reading the even bank gives 1"},
        {"healthy", {{0}}, 0, RMG_FINDING_KINDS, NULL, NULL},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_errors errors = {0};
        const rmg_plan plan = bench_plan(false, 2);
        rmg_board *board = NULL;
        const rmg_suspect *first;
        bool because = false;
        rmg_suspects s;
        rmg_run run;

        CHECK(rmg_board_load_text("made", lanes, &board, &errors) == RMG_OK, "loads");
        bench_examine(board, rows[i].faults, rows[i].count, &plan, 3, &run, &s);
        CHECK(rmg_replay(&run, &s, RMG_REPLAY_WORK, NULL, NULL) == RMG_OK, "replayed");
        rmg_suspects_word(&run, &s);
        CHECK(s.count == (rows[i].headline != NULL), "%s: %zu suspects", rows[i].title, s.count);
        first = s.count ? &s.list[0] : NULL;
        CHECK(!first || (first->replay_count && first->replays[0].same), "%s: the same",
              rows[i].title);
        for (size_t n = 0; first && n < first->reason_count; n++)
            because |= strstr(first->because[n], rows[i].because) != NULL;
        CHECK(!first || (first->finding.kind == rows[i].kind && because &&
                         strstr(first->headline, rows[i].headline)),
              "%s: %s", rows[i].title, first ? first->headline : "");
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
    }
}

/* Two banks of which one is larger: a chip that is always on is named, in either. */
static void unequal_banks(void)
{
    static const char unequal[] =
        "board: Unequal banks\nword: 8\naddress-lines: 13\nundriven: high\n"
        "regions: [{name: a, kind: ram, range: 0x0000-0x03FF}, {name: b, kind: ram, range: "
        "0x1000-0x17FF}]\n"
        "banks:\n"
        "  - {name: small, range: 0x0000-0x03FF, part: 2114, lines: A0-A9, data: {U1: D0-D3, U2: "
        "D4-D7}}\n"
        "  - {name: large, range: 0x1000-0x17FF, part: 6116, lines: A0-A10, data: {U3: D0-D7}}\n"
        "sockets: [{names: U1-U3, mount: socket}]\n";
    const rmg_plan plan = bench_plan(false, 2);

    for (uint16_t chip = 0; chip < 3; chip++) {
        const rmg_sim_fault on =
            at_chips((rmg_sim_fault){.kind = RMG_FAULT_ALWAYS_ON}, (uint64_t)1 << chip);
        rmg_errors errors = {0};
        rmg_board *board = NULL;
        rmg_suspects s;
        rmg_run run;

        CHECK(rmg_board_load_text("made", unequal, &board, &errors) == RMG_OK, "%s",
              errors.count ? errors.list[0].what : "");
        bench_examine(board, &on, 1, &plan, 3, &run, &s);
        CHECK(s.count == 1 && s.list[0].finding.kind == RMG_FINDING_DRAGGED &&
                  s.list[0].finding.socket == chip,
              "chip %u: %zu suspects, %s", chip, s.count, s.count ? s.list[0].headline : "");
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
    }
}

/* Two bad chips that are not alike stay two. */
static void not_alike(void)
{
    const rmg_sim_fault faults[] = {{.kind = RMG_FAULT_OUTPUT, .chip = 1, .data_line = 4},
                                    {.kind = RMG_FAULT_OUTPUT, .chip = 2, .data_line = 5}};
    rmg_errors errors = {0};
    const rmg_plan plan = bench_plan(false, 2);
    rmg_board *board = NULL;
    rmg_suspects s;
    rmg_run run;

    CHECK(rmg_board_load_text("made", wide, &board, &errors) == RMG_OK, "loads");
    bench_examine(board, faults, 2, &plan, 3, &run, &s);
    CHECK(s.count == 2 && s.list[0].finding.socket != RMG_NO_SOCKET &&
              s.list[1].finding.socket != RMG_NO_SOCKET,
          "%zu suspects", s.count);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
}

static bool among(const rmg_suspect *s, rmg_cause cause)
{
    for (size_t i = 0; i < s->rival_count; i++)
        if (s->rivals[i].cause == cause)
            return true;
    return false;
}

/* A chip that is silent on all outputs: its select pin, not eight contacts. And where the board
 * file does not say what undriven lines do, every steady reading may be that. */
static void silent_chips(void)
{
    static const rmg_sim_fault faults[] = {
        {.kind = RMG_FAULT_DESELECTED, .scope = {4}},
        {.kind = RMG_FAULT_DATA_LINE, .line = 0, .level = 0, .cell = 0x1800, .lines = 0x1000},
    };
    static const struct {
        const char *undriven;
        unsigned fault;
        bool select, contact, missing;
    } rows[] = {
        {"undriven: holds\n", 0, true, false, true},
        {"undriven: high\n", 0, true, false, true},
        {"", 0, true, false, true},
        {"undriven: high\n", 1, false, false, false},
        {"undriven: low\n", 1, false, true, true},
        {"", 1, false, true, true},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar **parts = g_strsplit(wide, "undriven: holds\n", 2);
        gchar *text = g_strconcat(parts[0], rows[i].undriven, parts[1], NULL);
        rmg_errors errors = {0};
        const rmg_plan plan = bench_plan(false, 2);
        rmg_board *board = NULL;
        rmg_suspects s;
        rmg_run run;

        CHECK(rmg_board_load_text("made", text, &board, &errors) == RMG_OK, "loads");
        bench_examine(board, &faults[rows[i].fault], 1, &plan, 3, &run, &s);
        CHECK(s.count == 1 && s.list[0].finding.socket == 2, "%zu: %s", i, s.list[0].headline);
        CHECK(among(&s.list[0], RMG_CAUSE_CONTACT_SELECT) == rows[i].select &&
                  among(&s.list[0], RMG_CAUSE_CONTACT_OUTPUT) == rows[i].contact &&
                  among(&s.list[0], RMG_CAUSE_PART_MISSING) == rows[i].missing,
              "%zu: rivals", i);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
        g_free(text);
        g_strfreev(parts);
    }
}

/* Noise while the lines are checked, and clean passes after it: no chip. Half of all reads are
 * disturbed until the board has cooled down, after so many accesses. */
static void noise_at_the_start(void)
{
    static const rmg_sim_fault noise = {
        .kind = RMG_FAULT_NOISE,
        .line = RMG_ALL_DATA_LINES,
        .when = {.rate_ppb = 500000000, .warm = true, .from_millic = 50000}};
    rmg_errors errors = {0};
    const rmg_plan plan = bench_plan(false, 2);
    rmg_board *board = NULL;
    unsigned noisy = 0;

    CHECK(rmg_board_load_text("made", bits, &board, &errors) == RMG_OK, "loads");
    for (uint64_t seed = 0; seed < 60; seed++) {
        rmg_sim_board_run bench;
        rmg_suspects s;
        rmg_error error = {0};
        rmg_run run;

        bench_start(&bench, board, &noise, 1, seed);
        rmg_sim_warm(&bench.sim, 51000, 0, 51000 * seed * 200);
        CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK &&
                  rmg_run_carry_out(&run, &bench.target, NULL) == RMG_OK,
              "runs");
        noisy += run.wiring_accesses > 200;
        rmg_suspects_find(&run, NULL, &s);
        for (size_t i = 0; i < s.count; i++)
            CHECK(s.list[i].finding.socket == RMG_NO_SOCKET || s.list[i].confidence <= 0.5,
                  "seed %u: socket %u at %g", (unsigned)seed, s.list[i].finding.socket,
                  s.list[i].confidence);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_sim_board_end(&bench);
    }
    CHECK(noisy > 0, "some checks were disturbed");
    rmg_board_free(board);
}

/* What fails now and then: the place that all of it fits, be it shared, and none where chance may
 * do the same. Confidences of places that exclude each other do not add up to more than 1. */
static void now_and_then(void)
{
    static const struct {
        const char *title, *board;
        rmg_sim_fault fault;
        uint32_t rate_ppb;
        rmg_finding_kind kind;
        const char *sockets;
        double least;
    } rows[] = {
        {"a data line of four banks",
         wide,
         {.kind = RMG_FAULT_LINE_STUCK, .line = 6, .level = 1, .scope = {0xF}},
         1000000,
         RMG_FINDING_NOW_AND_THEN,
         "U1 U2 U3 U4",
         0.9},
        {"a data line open before two of four banks",
         wide,
         {.kind = RMG_FAULT_LINE_OPEN, .line = 2, .scope = {0xA}},
         3000000,
         RMG_FINDING_NOW_AND_THEN,
         "U2 U4",
         0.9},
        {"the same bit of one chip",
         wide,
         {.kind = RMG_FAULT_OUTPUT, .chip = 1, .data_line = 6, .level = 1},
         1000000,
         RMG_FINDING_CELLS,
         "U2",
         0.9},
        {"the select of a bank of two chips",
         lanes,
         {.kind = RMG_FAULT_DESELECTED, .scope = {0xC}},
         2000000,
         RMG_FINDING_NOW_AND_THEN,
         "U3 U4",
         0.9},
        {"an address line of a bank",
         lanes,
         {.kind = RMG_FAULT_ADDRESS_STUCK, .lines = 1u << 5, .level = 1, .scope = {0x3}},
         2000000,
         RMG_FINDING_NOW_AND_THEN,
         "U1 U2",
         0.9},
        {"the select of one chip",
         lanes,
         {.kind = RMG_FAULT_DESELECTED, .scope = {0x4}},
         2000000,
         RMG_FINDING_CELLS,
         "U3",
         0.9},
        {"noise",
         wide,
         {.kind = RMG_FAULT_NOISE, .line = RMG_ALL_DATA_LINES},
         100000,
         RMG_FINDING_SPREAD,
         "U1 U2 U3 U4",
         0.9},
        {"little noise",
         wide,
         {.kind = RMG_FAULT_NOISE, .line = RMG_ALL_DATA_LINES},
         12000,
         RMG_FINDING_SPREAD,
         "U1 U2 U3 U4",
         0},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_sim_fault fault = rows[i].fault;
        rmg_errors errors = {0};
        const rmg_plan plan = bench_plan(false, 8);
        rmg_board *board = NULL;
        rmg_suspects s;
        gchar *sockets;
        double sum = 0;
        rmg_run run;

        fault.when.rate_ppb = rows[i].rate_ppb;
        CHECK(rmg_board_load_text("made", rows[i].board, &board, &errors) == RMG_OK, "loads");
        bench_examine(board, &fault, 1, &plan, 3, &run, &s);
        CHECK(s.count > 0, "%s: nobody", rows[i].title);
        for (size_t n = 0; n < s.count; n++)
            sum += s.list[n].confidence;
        CHECK(sum <= 1.0, "%s: %zu suspects, together %g", rows[i].title, s.count, sum);
        if (s.count) {
            sockets = sockets_of(&run, &s.list[0].finding);
            CHECK(s.list[0].finding.kind == rows[i].kind && strcmp(sockets, rows[i].sockets) == 0,
                  "%s: %s; %s", rows[i].title, sockets, s.list[0].headline);
            CHECK(s.list[0].confidence >= rows[i].least, "%s: %g", rows[i].title,
                  s.list[0].confidence);
            g_free(sockets);
        }
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
    }
}

CU_TestInfo shared_tests[] = {
    {"now and then", now_and_then},     {"noise at the start", noise_at_the_start},
    {"silent chips", silent_chips},     {"what sockets share", what_sockets_share},
    {"interleaved banks", interleaved}, {"unequal banks", unequal_banks},
    {"what is not alike", not_alike},   CU_TEST_INFO_NULL,
};
