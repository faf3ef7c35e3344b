/* Both sides of limits, and kinds of board that the demo world has not: words of any width, memory
 * of gigabytes, lines that are pulled down, a line that keeps its value for a while. */
#include <glib.h>
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/plan.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

static void numbers(void)
{
    static const struct {
        const char *text;
        bool good;
        uint64_t value;
    } rows[] = {
        {"0", true, 0},
        {"10", true, 10},
        {"0x10", true, 16},
        {"0XfF", true, 255},
        {"$8000", true, 0x8000},
        {"&8000", true, 0x8000},
        {"8000h", true, 0x8000},
        {"0FFH", true, 255},
        {"0b101", true, 5},
        {"18446744073709551615", true, UINT64_MAX},
        {"0xFFFFFFFFFFFFFFFF", true, UINT64_MAX},
        {"18446744073709551616", false, 0},
        {"0x10000000000000000", false, 0},
        {"000", false, 0},
        {"08", false, 0},
        {"", false, 0},
        {"$", false, 0},
        {"h", false, 0},
        {"0x", false, 0},
        {"-1", false, 0},
        {" 1", false, 0},
        {"1 ", false, 0},
        {"12g", false, 0},
        {"0b2", false, 0},
        {"8000hh", false, 0},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        uint64_t value = 0;
        const bool good = rmg_number_parse(rows[i].text, &value);

        CHECK(good == rows[i].good && (!good || value == rows[i].value), "\"%s\": %d, %llu",
              rows[i].text, good, (unsigned long long)value);
    }
    CHECK(strstr(rmg_number_hint("000"), "$8000") && !*rmg_number_hint("0x10") &&
              !*rmg_number_hint("0"),
          "what a shell makes of $8000");
}

/* A board of one-bit chips, M1 at D0. To be freed with g_free. */
static gchar *one_bit_chips(unsigned width, unsigned lines, const char *undriven, const char *bank)
{
    GString *text = g_string_new(NULL);

    g_string_append_printf(text,
                           "board: wide\nword: %u\naddresses: words\naddress-lines: %u\n"
                           "undriven: %s\nregions: [{name: all, range: 0-%u, kind: ram}]\n"
                           "parts: [{number: big, kind: sram, width: 1, address-lines: %u, pins: "
                           "'D Q A0 A1'}]\nsockets:\n",
                           width, lines, undriven, (1u << lines) - 1u, lines);
    for (unsigned i = 1; i <= width; i++)
        g_string_append_printf(text, "  - {names: M%u, mount: socket}\n", i);
    g_string_append_printf(text,
                           "banks:\n  - {name: %s, part: big, range: 0-%u, lines: A0-A%u, data: {",
                           bank, (1u << lines) - 1u, lines - 1u);
    for (unsigned i = 1; i <= width; i++)
        g_string_append_printf(text, "%sM%u: D%u", i > 1 ? ", " : "", i, i - 1);
    g_string_append(text, "}}\n");
    return g_string_free(text, FALSE);
}

static rmg_board *load(gchar *text)
{
    rmg_errors found = {0};
    rmg_board *board;

    CHECK(rmg_board_load_text("made.yaml", text, &board, &found) == RMG_OK, "%s",
          found.count ? found.list[0].what : "");
    rmg_errors_free(&found);
    g_free(text);
    return board;
}

/* Words of every width: healthy is clean, and the lowest and the highest bit are named. */
static void any_width(void)
{
    for (unsigned width = 1; width <= 64; width++) {
        rmg_board *board = load(one_bit_chips(width, 8, "high", "B"));
        const rmg_plan plan = bench_plan(false, 2);

        for (unsigned turn = 0; turn < 3; turn++) {
            const rmg_sim_fault f = {.kind = RMG_FAULT_OUTPUT,
                                     .chip = turn == 1 ? 0 : (uint16_t)(width - 1),
                                     .level = 0};
            rmg_suspects s;
            rmg_run run;

            bench_examine(board, &f, turn > 0, &plan, width, &run, &s);
            CHECK(turn ? s.count == 1 && s.list[0].finding.socket == f.chip &&
                             s.list[0].finding.bits == (rmg_word)1 << f.chip
                       : !s.count && !rmg_run_failed(&run),
                  "%u bits, turn %u: %zu suspects", width, turn, s.count);
            rmg_suspects_free(&s);
            rmg_run_end(&run);
        }
        rmg_board_free(board);
    }
}

/* Eight gigabytes of memory cost what is tested of them. */
static void large_and_hardly_touched(void)
{
    const rmg_plan plan = {.march_name = "March C-",
                           .march = rmg_march_c_minus,
                           .passes = 1,
                           .seed = 1,
                           .limited = true,
                           .limit = {0x3FFFF000, 0x3FFFFFFF}};
    const rmg_sim_fault f = {
        .kind = RMG_FAULT_CELL, .chip = 63, .cell = 0x3FFFFFFE, .data_line = 0, .level = 1};
    rmg_board *board;
    rmg_sim_board_run bench;
    rmg_error error = {0};
    rmg_run run;

    if (sizeof(size_t) < 8) /* it has no such addresses */
        return;
    board = load(one_bit_chips(64, 30, "high", "B"));
    bench_start(&bench, board, &f, 1, 1);
    CHECK((uint64_t)rmg_sim_bytes(&bench.model.board, 1) >> 34, "16 GiB with the chips' cells");
    CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK &&
              rmg_run_carry_out(&run, &bench.target, NULL) == RMG_OK,
          "runs");
    CHECK(run.tally.failing == 3 && run.tally.address_and == 0x3FFFFFFE &&
              run.tally.address_or == 0x3FFFFFFE,
          "%llu failures", (unsigned long long)run.tally.failing);
    CHECK(bench.sim.touched >= 4096 * 8 && bench.sim.touched < 65536, "%zu bytes touched",
          bench.sim.touched);
    CHECK(rmg_sim_state_bytes(&bench.sim) < (size_t)64 << 20, "so is what is kept of it");
    rmg_run_end(&run);
    rmg_sim_limit(&bench.sim, bench.sim.touched);
    {
        rmg_word value;

        CHECK(rmg_sim_bus.read(&bench.sim, 0x3FFFF000, &value) == RMG_OK, "known already");
        CHECK(rmg_sim_bus.read(&bench.sim, 0x2000000, &value) == RMG_ERR_MEMORY &&
                  rmg_sim_bus.write(&bench.sim, 0x1000, 1) == RMG_ERR_MEMORY,
              "beyond the limit");
    }
    rmg_sim_board_end(&bench);
    rmg_board_free(board);
}

static bool has_cause(const rmg_suspect *s, rmg_cause cause)
{
    for (size_t i = 0; i < s->rival_count; i++)
        if (s->rivals[i].cause == cause)
            return true;
    return false;
}

/* A bit that reads as undriven lines do may be an empty socket; one held at the other level not. */
static void undriven_lines(void)
{
    static const struct {
        const char *undriven;
        uint8_t level; /* that an output is stuck at */
        bool empty;
    } rows[] = {{"high", 1, true}, {"high", 0, false},  {"low", 0, true},
                {"low", 1, false}, {"holds", 0, false}, {"holds", 1, false}};

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_board *board = load(one_bit_chips(8, 8, rows[i].undriven, "B"));
        const rmg_plan plan = bench_plan(false, 2);
        const rmg_sim_fault faults[] = {
            {.kind = RMG_FAULT_OUTPUT, .chip = 3, .level = rows[i].level},
            {.kind = RMG_FAULT_MISSING, .chip = 3}};

        for (size_t f = 0; f < COUNT(faults); f++) {
            rmg_suspects s;
            rmg_run run;

            bench_examine(board, &faults[f], 1, &plan, 7, &run, &s);
            CHECK(s.count == 1 && s.list[0].finding.socket == 3, "row %zu, fault %zu: named", i, f);
            CHECK(!s.count || has_cause(&s.list[0], RMG_CAUSE_PART_MISSING) == (f || rows[i].empty),
                  "undriven: %s, %s: empty or not", rows[i].undriven,
                  f               ? "empty"
                  : rows[i].level ? "stuck at 1"
                                  : "stuck at 0");
            rmg_suspects_free(&s);
            rmg_run_end(&run);
        }
        rmg_board_free(board);
    }
}

/* A line that holds keeps what was last on it for so long, and not a nanosecond longer. */
static void a_line_that_holds(void)
{
    static const uint64_t waits[] = {0, 1, 2, 3, 4, 5};
    gchar *text = one_bit_chips(8, 8, "holds", "B");
    gchar **parts = g_strsplit(text, "undriven: holds\n", 2);
    rmg_board *board = load(g_strdup_printf("%sundriven: holds\nholds-ns: 3000\nholds-then: low\n"
                                            "access-ns: 1000\n%s",
                                            parts[0], parts[1]));
    const rmg_sim_fault f = {.kind = RMG_FAULT_MISSING, .chip = 0};

    g_free(text);
    g_strfreev(parts);
    for (size_t i = 0; i < COUNT(waits); i++) {
        rmg_sim_board_run bench;
        uint64_t since;
        rmg_word value;

        bench_start(&bench, board, &f, 1, 1);
        rmg_sim_write(&bench.sim, 5, 0xFF);
        since = bench.sim.now_ns;
        if (waits[i])
            rmg_sim_wait(&bench.sim, (uint32_t)waits[i]);
        value = rmg_sim_read(&bench.sim, 5);
        since = bench.sim.now_ns - since;
        CHECK((value & 1u) == (since <= 3000), "%llu ns after it was driven: %llu",
              (unsigned long long)since, (unsigned long long)(value & 1u));
        rmg_sim_board_end(&bench);
    }
    rmg_board_free(board);
}

/* What a bank is called within a sentence. */
static void banks_called(void)
{
    static const struct {
        const char *name, *called;
    } rows[] = {{"upper", "the upper bank"},
                {"Bank 2", "Bank 2"},
                {"spare bank", "the spare bank"},
                {"embankment", "the embankment bank"}};

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_board *board = load(one_bit_chips(1, 4, "high", rows[i].name));

        CHECK(strcmp(board->banks[0].called, rows[i].called) == 0, "%s: %s", rows[i].name,
              board->banks[0].called);
        rmg_board_free(board);
    }
}

/* Numbers in board files: the lowest and the highest that are allowed, and those beyond. */
static void limits_of_numbers(void)
{
    static const struct {
        const char *line; /* with %s for the number */
        const char *good[2], *bad[2];
    } rows[] = {
        {"word: %s", {"1", "64"}, {"0", "65"}},
        {"address-lines: %s", {"2", "48"}, {"1", "49"}},
        {"access-ns: %s", {"1", "1000000000"}, {"0", "1000000001"}},
        {"holds-ns: %s", {"0", "1000000000000"}, {"-1", "1000000000001"}},
        {"drawing: {width: %s, height: 10}", {"10", "2000"}, {"9", "2001"}},
        {"drawing: {width: 10, height: %s}", {"10", "2000"}, {"9", "2001"}},
        {"pages: {window: 0-1, select: 3, count: %s}", {"2", "256"}, {"1", "257"}},
        {"pages: {window: 0-1, select: %s, count: 2}", {"0", "3"}, {"-1", "4"}},
        {"parts: [{number: x, kind: sram, width: %s, address-lines: 4}]", {"1", "32"}, {"0", "33"}},
        {"parts: [{number: x, kind: sram, width: 1, address-lines: %s}]", {"1", "32"}, {"0", "33"}},
        {"parts: [{number: x, kind: dram, width: 1, address-lines: 6, row-lines: %s}]",
         {"1", "6"},
         {"-1", "7"}},
        {"parts: [{number: x, kind: dram, width: 1, address-lines: 6, row-lines: 3, "
         "column-from: %s}]",
         {"0", "15"},
         {"-1", "16"}},
        {"parts: [{number: x, kind: dram, width: 1, address-lines: 6, row-lines: 3, "
         "refresh-cycles: %s}]",
         {"0", "65535"},
         {"-1", "65536"}},
        {"parts: [{number: x, kind: dram, width: 1, address-lines: 6, row-lines: 3, "
         "refresh-ms: %s}]",
         {"0", "65535"},
         {"-1", "65536"}},
    };
    static const char rest[] = "board: x\naddresses: words\nregions: []\nbanks: []\nsockets: []\n";

    for (size_t i = 0; i < COUNT(rows); i++)
        for (unsigned n = 0; n < 4; n++) {
            const char *number = n < 2 ? rows[i].good[n] : rows[i].bad[n - 2];
            gchar **around = g_strsplit(rows[i].line, "%s", 2);
            const bool word = g_str_has_prefix(rows[i].line, "word");
            const bool lines = g_str_has_prefix(rows[i].line, "address-lines");
            gchar *text =
                g_strdup_printf("%s%s%s%s%s%s\n", rest, word ? "" : "word: 8\n",
                                lines ? "" : "address-lines: 2\n", around[0], number, around[1]);
            rmg_errors found = {0};
            rmg_board *board;
            const rmg_status status = rmg_board_load_text("made.yaml", text, &board, &found);

            CHECK((status == RMG_OK) == (n < 2), "%s with %s: %s", rows[i].line, number,
                  found.count ? found.list[0].what : "taken");
            CHECK(n < 2 || (found.count == 1 && (strstr(found.list[0].what, "expected") ||
                                                 strstr(found.list[0].what, "more than"))),
                  "%s with %s is told", rows[i].line, number);
            rmg_errors_free(&found);
            rmg_board_free(board);
            g_strfreev(around);
            g_free(text);
        }
}

/* The same in plan files. */
static void limits_of_plans(void)
{
    static const struct {
        const char *step;
        const char *good[2], *bad[2];
    } rows[] = {
        {"{hold-ms: %s}", {"1", "3600000"}, {"0", "3600001"}},
        {"{march: MATS, hold-ms: %s}", {"1", "3600000"}, {"0", "3600001"}},
        {"{row-accesses: %s}", {"1", "100000000"}, {"0", "100000001"}},
    };

    for (size_t i = 0; i < COUNT(rows); i++)
        for (unsigned n = 0; n < 4; n++) {
            const char *number = n < 2 ? rows[i].good[n] : rows[i].bad[n - 2];
            gchar **around = g_strsplit(rows[i].step, "%s", 2);
            gchar *text =
                g_strdup_printf("plan: x\nsteps:\n  - %s%s%s\n", around[0], number, around[1]);
            rmg_errors found = {0};
            rmg_steps steps;
            const rmg_status status = rmg_steps_parse("made.yaml", text, &steps, &found);

            CHECK((status == RMG_OK) == (n < 2) && (n < 2 || found.count == 1), "%s with %s: %s",
                  rows[i].step, number, found.count ? found.list[0].what : "taken");
            rmg_errors_free(&found);
            if (status == RMG_OK)
                rmg_steps_free(&steps);
            g_strfreev(around);
            g_free(text);
        }
}

/* A row that is disturbed: by so many accesses, not by one fewer. */
static void disturbed_at_the_count(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_sim_fault f = {
        .kind = RMG_FAULT_DISTURB, .chip = 8, .cell = 5, .level = 1, .row = 6, .count = 40};

    for (unsigned accesses = 39; accesses <= 41; accesses++) {
        rmg_sim_board_run bench;
        bool flipped;

        bench_start(&bench, board, &f, 1, 1);
        rmg_sim_write(&bench.sim, 0x8005, 0x00);
        for (unsigned i = 0; i < accesses; i++)
            rmg_sim_read(&bench.sim, 0x8006);
        flipped = rmg_sim_read(&bench.sim, 0x8005) != 0;
        CHECK(flipped == (accesses >= 40), "%u accesses: %s", accesses,
              flipped ? "flipped" : "kept");
        rmg_sim_board_end(&bench);
    }
    rmg_board_free(board);
}

/* A block whose 64 words all fail counts 64, in the tally and in the failure set. */
static void a_whole_block(void)
{
    rmg_mismatch_block block = {.first = 128, .failing = ~UINT64_C(0), .expected = 0xFF};
    const rmg_failure like = {.expected = 0xFF};
    rmg_failset *set = rmg_failset_new();
    rmg_tally tally;

    for (unsigned i = 0; i < 64; i++)
        block.actual[i] = 0x7F;
    rmg_tally_clear(&tally, NULL, 0);
    rmg_tally_add_block(&tally, &block, &like);
    rmg_failset_add_block(set, &block, 0);
    CHECK(tally.failing == 64, "%llu in the tally", (unsigned long long)tally.failing);
    CHECK(rmg_failset_words(set, NULL, ~(rmg_word)0) == 64, "in the set");
    rmg_failset_free(set);
}

/* What cannot be drawn or kept in less is reported as what it is. */
static void less_than_asked_for(void)
{
    rmg_board *board = load(one_bit_chips(8, 8, "high", "B"));
    const rmg_plan plan = bench_plan(false, 1);
    rmg_opened opened = {.remark = (char[]){"half of it"}, .less = true};
    rmg_suspects s;
    rmg_error none;
    rmg_run run;
    char *json;

    bench_examine(board, NULL, 0, &plan, 1, &run, &s);
    json = rmg_run_json(&run, &s);
    CHECK(strstr(json, "\"complete\": true"), "all of it");
    rmg_text_free(json);
    rmg_target_describe(&opened, &run);
    json = rmg_run_json(&run, &s);
    CHECK(run.less && strstr(json, "\"complete\": false") && strstr(json, "half of it"),
          "less is not complete");
    rmg_text_free(json);
    CHECK(rmg_draw_check(board, &none) == RMG_ERR_ARGUMENT && strstr(none.what, "\"drawing\"") &&
              strcmp(none.where, "made.yaml") == 0,
          "it says what the file lacks");
    rmg_error_free(&none);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
}

static const rmg_saying *hold_said(const rmg_suspects *s)
{
    for (size_t n = 0; n < s->list[0].reason_count; n++)
        if (s->list[0].reasons[n].said == RMG_SAY_HOLDS_FOR)
            return &s->list[0].reasons[n];
    return NULL;
}

/* Where the work does not suffice to find out, it is told that something was not tried. */
static void with_less_work(const rmg_run *run)
{
    unsigned cut = 0;

    for (uint64_t work = 1u << 20; work < RMG_REPLAY_WORK; work += work / 2u) {
        rmg_suspects s;

        rmg_suspects_find(run, NULL, &s);
        CHECK(rmg_replay(run, &s, work, NULL, NULL) == RMG_OK, "replayed");
        CHECK(hold_said(&s) || s.list[0].untried, "said, or not tried, with %llu accesses",
              (unsigned long long)work);
        cut += !hold_said(&s) && s.list[0].replays[0].same;
        rmg_suspects_free(&s);
    }
    CHECK(cut, "the search was cut off with some of them");
}

/* The board's lines hold for a while, and its file does not say so: where reads tell for how many
 * accesses, the report does. */
static void how_long_lines_hold(void)
{
    static const struct {
        unsigned accesses; /* 0: for longer than the test takes */
        const char *then;
    } rows[] = {{3, "high"}, {40, "low"}, {1000, "high"}, {2500, "low"}, {0, "high"}};

    for (size_t i = 0; i < COUNT(rows); i++) {
        const rmg_sim_fault open = {.kind = RMG_FAULT_DATA_OPEN, .chip = 7};
        gchar **parts = g_strsplit(made_bits, "undriven: high\n", 2);
        rmg_board *told = load(g_strjoinv("access-ns: 250\n", parts));
        gchar *how =
            g_strdup_printf("access-ns: 250\nundriven: holds\nholds-ns: %u\nholds-then: %s\n",
                            rows[i].accesses * 250u, rows[i].then);
        rmg_board *truth = load(g_strjoinv(how, parts));
        const rmg_plan plan = bench_plan(false, 2);
        rmg_sim_board_run bench;
        rmg_error error = {0};
        const rmg_saying *hold;
        rmg_suspects s;
        rmg_run run;

        bench_start(&bench, truth, &open, 1, 7);
        CHECK(rmg_run_begin(&run, told, &plan, "sim", &error) == RMG_OK, "begins");
        CHECK(rmg_run_carry_out(&run, &bench.target, NULL) == RMG_OK, "runs");
        rmg_suspects_find(&run, NULL, &s);
        CHECK(rmg_replay(&run, &s, RMG_REPLAY_WORK, NULL, NULL) == RMG_OK, "replayed");
        CHECK(s.count == 1 && s.list[0].replays[0].floats == RMG_FLOATS_HOLDS, "%zu: holds", i);
        hold = hold_said(&s);
        CHECK((hold != NULL) == (rows[i].accesses != 0), "%zu: said", i);
        if (hold)
            CHECK(hold->n + 2u >= rows[i].accesses && hold->n <= rows[i].accesses + 2u &&
                      hold->level == (strcmp(rows[i].then, "high") == 0),
                  "%zu: %u, then %u", i, (unsigned)hold->n, hold->level);
        if (!i)
            with_less_work(&run);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_sim_board_end(&bench);
        rmg_board_free(told);
        rmg_board_free(truth);
        g_free(how);
        g_strfreev(parts);
    }
}

CU_TestInfo edge_tests[] = {
    {"numbers", numbers},
    {"words of any width", any_width},
    {"large and hardly touched", large_and_hardly_touched},
    {"undriven lines", undriven_lines},
    {"how long lines hold", how_long_lines_hold},
    {"a line that holds", a_line_that_holds},
    {"what banks are called", banks_called},
    {"limits of numbers", limits_of_numbers},
    {"limits of plans", limits_of_plans},
    {"rows disturbed at the count", disturbed_at_the_count},
    {"a whole block", a_whole_block},
    {"less than asked for", less_than_asked_for},
    CU_TEST_INFO_NULL,
};
