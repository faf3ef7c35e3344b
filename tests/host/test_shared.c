/* Several sockets that fail alike, on boards whose lines nobody traced: what they share is
 * suspected, and no chip of them. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/replay.h"
#include "rimeglass/report.h"
#include "suites.h"

static rmg_sim_fault at_chips(rmg_sim_fault fault, uint64_t chips)
{
    fault.scope[0] = chips;
    return fault;
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
         made_wide,
         {at_chips((rmg_sim_fault){.kind = RMG_FAULT_LINE_OPEN, .line = 3}, 0xE)},
         1,
         RMG_FINDING_SHARED,
         RMG_FINDING_DATA_AT_SOCKET,
         "U2 U3 U4",
         "Look at data line D3 on its way to U2, U3 and U4"},
        {"stuck before two",
         made_wide,
         {at_chips((rmg_sim_fault){.kind = RMG_FAULT_LINE_STUCK, .line = 6, .level = 1}, 0x5)},
         1,
         RMG_FINDING_SHARED,
         RMG_FINDING_DATA_AT_SOCKET,
         "U1 U3",
         "Look at data line D6 on its way to U1 and U3"},
        {"an address line stuck before five of eight",
         made_bits,
         {at_chips((rmg_sim_fault){.kind = RMG_FAULT_ADDRESS_STUCK, .lines = 1u << 5, .level = 1},
                   0xF8)},
         1,
         RMG_FINDING_SHARED,
         RMG_FINDING_ADDRESS_AT_SOCKET,
         "U14 U15 U16 U17 U18",
         "Look at address line A5 on its way to U14-U18"},
        {"the write line open before two",
         made_bits,
         {at_chips((rmg_sim_fault){.kind = RMG_FAULT_NO_WRITE}, 0x3)},
         1,
         RMG_FINDING_SHARED,
         RMG_FINDING_NEVER_WRITTEN,
         "U11 U12",
         "Look at the write line on its way to U11 and U12"},
        {"address lines that touch, one chip a bank",
         made_wide,
         {at_chips((rmg_sim_fault){.kind = RMG_FAULT_ADDRESS_SHORT, .lines = 1u << 3 | 1u << 7},
                   0xF)},
         1,
         RMG_FINDING_ADDRESS_SHORT,
         RMG_FINDING_ALL_SILENT,
         "U1 U2 U3 U4",
         "Look at address lines A3 and A7 of all banks"},
        {"three chips never selected",
         made_wide,
         {at_chips((rmg_sim_fault){.kind = RMG_FAULT_DESELECTED}, 0xE)},
         1,
         RMG_FINDING_SHARED,
         RMG_FINDING_BANK_SILENT,
         "U2 U3 U4",
         "Look at the select, strobes and supply on their way to U2, U3 and U4"},
        {"five of eight never selected",
         made_bits,
         {at_chips((rmg_sim_fault){.kind = RMG_FAULT_DESELECTED}, 0x5D)},
         1,
         RMG_FINDING_SHARED,
         RMG_FINDING_BANK_SILENT,
         "U11 U13 U14 U15 U17",
         "Look at the select, strobes and supply on their way to U11, U13, U14, U15 and U17"},
        {"an output latch that lags",
         made_wide,
         {{.kind = RMG_FAULT_STALE, .chip = 2}},
         1,
         RMG_FINDING_STALE,
         RMG_FINDING_ALL_SILENT,
         "U3",
         "D0-D7 give what the read before should have given"},
        {"one chip alone",
         made_wide,
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
        sockets = bench_sockets_of(&run, &first->finding);
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

        CHECK(rmg_board_load_text("made", made_lanes, &board, &errors) == RMG_OK, "loads");
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

/* Every form in which a board file says which words a bank has: selects that fail, banks that
 * answer together and chips that are always on are told alike in all of them. */
static void every_form_of_where(void)
{
    static const char *const forms[] = {/* one above the other */
                                        "range: 0x000-0x3FF, lines: A0-A9,",
                                        "range: 0x400-0x7FF, lines: A0-A9,",
                                        /* the lowest line, the highest, one in the middle */
                                        "range: 0-0x7FF, where: [A0=0], lines: A1-A10,",
                                        "range: 0-0x7FF, where: [A0=1], lines: A1-A10,",
                                        "range: 0-0x7FF, where: [A10=1], lines: A0-A9,",
                                        "range: 0-0x7FF, where: [A10=0], lines: A0-A9,",
                                        "range: 0-0x7FF, where: [A4=0], lines: [A0-A3, A5-A10],",
                                        "range: 0-0x7FF, where: [A4=1], lines: [A0-A3, A5-A10],",
                                        /* a line that is said beside a range which says it too */
                                        "range: 0-0x3FF, where: [A10=0], lines: A0-A9,",
                                        "range: 0x400-0x7FF, where: [A10=1], lines: A0-A9,",
                                        /* lines in another order for each bank */
                                        "range: 0-0x7FF, where: [A0=0], lines: A1-A10,",
                                        "range: 0-0x7FF, where: [A0=1], lines: [A10, A1-A9],"};
    static const struct {
        rmg_sim_fault fault;
        rmg_finding_kind kind;
        uint8_t bank;
    } faults[] = {
        {{.kind = RMG_FAULT_DESELECTED, .scope = {0xC}}, RMG_FINDING_BANK_SILENT, 1},
        {{.kind = RMG_FAULT_ALSO_SELECTED, .bank = 1, .bank2 = 0}, RMG_FINDING_BANKS_BOTH, 1},
        {{.kind = RMG_FAULT_ALSO_SELECTED, .bank = 0, .bank2 = 1, .level = 1},
         RMG_FINDING_BANKS_BOTH,
         0},
        {{.kind = RMG_FAULT_NO_WRITE, .scope = {0x3}}, RMG_FINDING_BANK_NEVER_WRITTEN, 0},
        {{.kind = RMG_FAULT_ALWAYS_ON, .scope = {0x4}}, RMG_FINDING_DRAGGED, 1},
        {{.kind = RMG_FAULT_ALWAYS_ON, .scope = {0x2}, .level = 1}, RMG_FINDING_DRAGGED, 0},
    };
    const rmg_plan plan = bench_plan(false, 2);

    for (size_t i = 0; i < COUNT(forms); i += 2)
        for (size_t n = 0; n < COUNT(faults); n++) {
            gchar *text =
                g_strdup_printf("board: Two banks\nword: 8\naddress-lines: 11\nundriven: high\n"
                                "regions: [{name: ram, kind: ram, range: 0x000-0x7FF}]\nbanks:\n"
                                "  - {name: one, part: 2114, %s data: {U1: D0-D3, U2: D4-D7}}\n"
                                "  - {name: two, part: 2114, %s data: {U3: D0-D3, U4: D4-D7}}\n"
                                "sockets: [{names: U1-U4, mount: socket}]\n",
                                forms[i], forms[i + 1]);
            rmg_errors errors = {0};
            rmg_board *board = NULL;
            rmg_suspects s;
            rmg_run run;

            CHECK(rmg_board_load_text("made", text, &board, &errors) == RMG_OK, "%s: %s", forms[i],
                  errors.count ? errors.list[0].what : "");
            bench_examine(board, &faults[n].fault, 1, &plan, 3, &run, &s);
            CHECK(s.count == 1 && s.list[0].finding.kind == faults[n].kind &&
                      s.list[0].finding.bank == faults[n].bank,
                  "%s, fault %zu: %zu suspects, %s", forms[i], n, s.count,
                  s.count ? s.list[0].headline : "");
            rmg_suspects_free(&s);
            rmg_run_end(&run);
            rmg_board_free(board);
            g_free(text);
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

/* Two or three bad chips that are not alike stay as many, and replay of all together takes nothing
 * from them, whatever the others do. */
static void not_alike(void)
{
    static const struct {
        const char *title;
        rmg_sim_fault faults[3];
        size_t count;
    } rows[] = {
        {"two outputs",
         {{.kind = RMG_FAULT_OUTPUT, .chip = 1, .data_line = 4},
          {.kind = RMG_FAULT_OUTPUT, .chip = 2, .data_line = 5}},
         2},
        {"an empty socket and a cell",
         {{.kind = RMG_FAULT_MISSING, .chip = 1, .scope = {2}},
          {.kind = RMG_FAULT_CELL, .chip = 2, .data_line = 5, .cell = 77, .level = 1}},
         2},
        {"a chip that is never written, and an output",
         {{.kind = RMG_FAULT_NO_WRITE, .chip = 0, .scope = {1}},
          {.kind = RMG_FAULT_OUTPUT, .chip = 3, .data_line = 1, .level = 1}},
         2},
        {"an output, a cell set by another and an address pin",
         {{.kind = RMG_FAULT_OUTPUT, .chip = 0, .data_line = 7},
          {.kind = RMG_FAULT_COUPLING_SETS,
           .chip = 1,
           .data_line = 2,
           .data_line2 = 2,
           .cell = 100,
           .cell2 = 300,
           .state = 1,
           .level = 1},
          {.kind = RMG_FAULT_ADDRESS_CHIP, .chip = 2, .lines = 16, .level = 1}},
         3},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_errors errors = {0};
        const rmg_plan plan = bench_plan(false, 2);
        rmg_board *board = NULL;
        rmg_suspects s;
        rmg_run run;

        CHECK(rmg_board_load_text("made", made_wide, &board, &errors) == RMG_OK, "loads");
        bench_examine(board, rows[i].faults, rows[i].count, &plan, 3, &run, &s);
        CHECK(rmg_replay(&run, &s, RMG_REPLAY_WORK, NULL, NULL) == RMG_OK, "replayed");
        CHECK(s.count == rows[i].count, "%s: %zu suspects", rows[i].title, s.count);
        for (size_t n = 0; n < s.count; n++) {
            bool meant = false;

            for (size_t k = 0; k < rows[i].count; k++)
                meant |= s.list[n].finding.socket == rows[i].faults[k].chip;
            CHECK(meant && s.list[n].confidence > 0.85, "%s: socket %u at %g", rows[i].title,
                  s.list[n].finding.socket, s.list[n].confidence);
        }
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
    }
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
        gchar **parts = g_strsplit(made_wide, "undriven: holds\n", 2);
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

/* A plan that does not check the lines: what the march shows of dead bits is read as the check
 * would, and a chip is not named where all on its line fail as a whole, each in its own way. */
static void lines_not_checked(void)
{
    static const struct {
        const char *title;
        rmg_sim_fault faults[2];
        size_t count;
        bool line;
        const char *sites[2];
        double least, most;
    } cases[] = {
        {"data line",
         {{.kind = RMG_FAULT_DATA_LINE, .line = 3, .level = 1}},
         1,
         true,
         {"data line D3 on its way to U15 and U23"},
         0.9,
         1},
        {"data line, low",
         {{.kind = RMG_FAULT_DATA_LINE, .line = 6, .level = 0}},
         1,
         true,
         {"data line D6 on its way to U12 and U20"},
         0.9,
         1},
        {"one output",
         {{.kind = RMG_FAULT_OUTPUT, .chip = 8, .level = 1}},
         1,
         false,
         {"U19"},
         0.9,
         1},
        {"no chip", {{.kind = RMG_FAULT_MISSING, .chip = 8}}, 1, false, {"U19"}, 0.9, 1},
        {"all on one line, each in its own way",
         {{.kind = RMG_FAULT_OUTPUT, .chip = 0, .level = 1},
          {.kind = RMG_FAULT_MISSING, .chip = 8}},
         2,
         false,
         {"U19", "U11"},
         0.3,
         0.5},
    };
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_steps steps = {0};
    rmg_errors errors = {0};
    rmg_plan plan = {.passes = 2, .seed = 1, .steps = &steps};

    CHECK(rmg_steps_parse("own", "plan: own\nsteps:\n  - march: March C-\n", &steps, &errors) ==
              RMG_OK,
          "a plan");
    for (size_t i = 0; i < COUNT(cases); i++) {
        const size_t suspects = cases[i].count;
        rmg_sim_fault faults[2];
        rmg_suspects s;
        rmg_run run;

        for (size_t f = 0; f < cases[i].count; f++) {
            faults[f] = cases[i].faults[f];
            for (uint16_t n = 0; n < 16; n++)
                if (cases[i].line || n == faults[f].chip)
                    rmg_fault_include(&faults[f], n);
        }
        bench_examine(board, faults, cases[i].count, &plan, 3, &run, &s);
        rmg_replay(&run, &s, 0, NULL, NULL);
        rmg_suspects_word(&run, &s);
        CHECK(s.count == suspects, "%s: %zu suspects", cases[i].title, s.count);
        for (size_t n = 0; n < s.count && n < suspects; n++) {
            CHECK(strcmp(s.list[n].site, cases[i].sites[n]) == 0 &&
                      s.list[n].confidence > cases[i].least &&
                      s.list[n].confidence <= cases[i].most,
                  "%s: %s, %.2f", cases[i].title, s.list[n].site, s.list[n].confidence);
            CHECK(s.list[n].rival_count > 1 &&
                      (cases[i].line || s.list[n].rivals[0].cause == RMG_CAUSE_CHIP_OUTPUT),
                  "%s: the chip among what looks the same", cases[i].title);
        }
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    rmg_steps_free(&steps);
    rmg_board_free(board);
}

CU_TestInfo shared_tests[] = {
    {"lines not checked", lines_not_checked}, {"every form of where", every_form_of_where},
    {"silent chips", silent_chips},           {"what sockets share", what_sockets_share},
    {"interleaved banks", interleaved},       {"unequal banks", unequal_banks},
    {"what is not alike", not_alike},         CU_TEST_INFO_NULL,
};
