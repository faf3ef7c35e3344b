/* Test ROMs: lines and what is read back of them, steps played on the simulated board, plans for
 * boards, and what is heard ends at places. The code of processors is judged in tests/rom. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "hearing.h"
#include "rimeglass/deadboard.h"
#include "rimeglass/heard.h"
#include "rimeglass/replay.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

#define ROM_PROFILE "profile: test ROM\ntest-rom: {march: MATS+, lines: 4}\n"

static void plan_of(const rmg_board *board, const char *march, unsigned lines,
                    rmg_testrom_plan *plan)
{
    rmg_board_rom how = board->rom;
    rmg_error error;

    CHECK(rmg_testrom_march(march, how.march, NULL), "%s is a march", march);
    how.lines = (uint8_t)lines;
    CHECK(rmg_dead_plan(board, &how, plan, NULL, NULL, &error) == RMG_OK, "%s", error.what);
    rmg_error_free(&error);
}

/* Every sort of line, its text, and the same read back. */
static void lines_and_back(void)
{
    rmg_board *board = bench_load(HALVORN);
    rmg_testrom_plan plan;
    static const struct {
        rmg_testrom_line line;
        const char *text;
    } rows[] = {
        {{.says = RMG_TESTROM_SAYS_SUM, .pass = 2}, "2R 4C"},
        {{.says = RMG_TESTROM_SAYS_FAILED,
          .kind = RMG_TESTROM_DATA,
          .at = true,
          .address = 0x8000,
          .bank = 1,
          .read = 1,
          .wrote = 0xFE,
          .read_as = 0x7E},
         "0DBb 8000 FE 7E 2D"},
        {{.says = RMG_TESTROM_SAYS_FAILED,
          .kind = RMG_TESTROM_MARCH,
          .at = true,
          .address = 0x3BFF,
          .read = 27,
          .read_as = 0x10},
         "0MA1 3BFF 00 10 D4"},
        {{.says = RMG_TESTROM_SAYS_FAILED,
          .kind = RMG_TESTROM_FIRST,
          .unchecked = true,
          .wrote = 0xFF,
          .read_as = 0xF7},
         "0FAa ---- FF F7 --"},
        {{.says = RMG_TESTROM_SAYS_DONE, .kind = RMG_TESTROM_FIRST}, "0FA. 00 C2"},
        {{.says = RMG_TESTROM_SAYS_MORE, .kind = RMG_TESTROM_MARCH, .bank = 1, .bits = 0x80},
         "0MB+ 80 10"},
        {{.says = RMG_TESTROM_SAYS_SKIPPED, .kind = RMG_TESTROM_MARCH}, "0MA/ 12"},
        {{.says = RMG_TESTROM_SAYS_END, .code = 0x48}, "0E 48 D3"},
    };
    char text[RMG_TESTROM_LINE];
    const char *why;

    plan_of(board, "MATS+", 8, &plan);
    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_testrom_line line;

        rmg_testrom_line_text(&plan, &rows[i].line, text);
        CHECK(strcmp(text, rows[i].text) == 0, "%s, expected %s", text, rows[i].text);
        CHECK(rmg_testrom_line_read(&plan, text, &line, &why) && !why, "%s: %s", text,
              why ? why : "");
        CHECK(line.says == rows[i].line.says && line.pass == rows[i].line.pass &&
                  line.kind == rows[i].line.kind && line.bank == rows[i].line.bank &&
                  line.read == rows[i].line.read && line.address == rows[i].line.address &&
                  line.wrote == rows[i].line.wrote && line.read_as == rows[i].line.read_as &&
                  line.bits == rows[i].line.bits && line.code == rows[i].line.code,
              "%s is read back", text);
        for (size_t c = 0; rows[i].text[c]; c++) { /* any other character: no line, or no check */
            g_strlcpy(text, rows[i].text, sizeof text);
            text[c] = text[c] == '5' ? '4' : '5';
            CHECK(rows[i].line.unchecked || !rmg_testrom_line_read(&plan, text, &line, &why),
                  "%s is taken", text);
        }
    }
    rmg_board_free(board);
}

static void lines_that_are_none(void)
{
    rmg_board *board = bench_load(HALVORN);
    rmg_testrom_plan plan;
    static const char *const rows[] = {
        "",        "0",          "8FA. 00 C2",  "0",          "0FC. 00 C2", "0QA. 00 C2",
        "0FA. 00", "0FA. 0 C2",  "0FA. 00 C2 ", "0FA. 00 c2", "0MAa 8000",  "0MA! 8000 00 FF 00",
        "0S",      "0S 0000 00", "hello"};
    const char *why;

    plan_of(board, "MATS+", 8, &plan);
    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_testrom_line line;

        CHECK(!rmg_testrom_line_read(&plan, rows[i], &line, &why) && why, "\"%s\"", rows[i]);
    }
    rmg_board_free(board);
}

/* What is tested of a board, and what is left out and why. */
static void plans(void)
{
    rmg_board *halvorn = bench_load(HALVORN), *merrow = bench_load("demo/boards/merrow.yaml");
    rmg_board *ostrel = bench_load(OSTREL);
    rmg_testrom_plan plan;

    plan_of(halvorn, "MATS+", 8, &plan);
    CHECK(plan.bank_count == 2 && plan.banks[0].range.last == 0x3BFF &&
              plan.banks[1].range.first == 0x8000 && plan.banks[1].bits == 0xFF,
          "RAM alone: the screen's shadow is none");
    CHECK(plan.step_count == 8 && plan.steps[4].kind == RMG_TESTROM_FIRST &&
              plan.steps[4].range.last == 0x3FF && plan.steps[5].kind == RMG_TESTROM_ACROSS,
          "first memory before all banks against each other");
    plan_of(merrow, "MATS+", 8, &plan);
    CHECK(plan.bank_count == 3 && plan.steps[0].kind == RMG_TESTROM_FIRST &&
              plan.steps[0].range.last == 0x1FF,
          "a 6502 proves zero page and stack before anything else");
    CHECK(plan.steps[8].kind == RMG_TESTROM_MARCH && plan.steps[8].range.first == 0x200,
          "... and leaves them alone after that");
    plan_of(ostrel, "MATS+", 8, &plan);
    CHECK(plan.byte_shift == 1 && plan.bank_count == 2 && plan.banks[1].range.first == 0x24000,
          "words, not bytes; nothing of the kept memory");
    rmg_board_free(halvorn);
    rmg_board_free(merrow);
    rmg_board_free(ostrel);
}

#define TWELVE_READS "r0,r0,r0,r0,r0,r0,r0,r0,r0,r0,r0,r0"

static void refused_plans(void)
{
    static const struct {
        const char *old, *new, *says;
    } rows[] = {
        {"processor: Z80", "processor: \"68000\"", "a 68000 has a bus of 16 bits"},
        {"processor: Z80", "processor: \"6502\"", "no error"},
        {"socket: U5", "socket: [U5, U52]", "takes its ROM from 1 sockets"},
        {"socket: U5", "socket: U18\n  origin: 0xC000", "no ROM of 8 data lines"},
        {"  socket: U5", "  offset: 0x8000\n  socket: U5", "lies behind the end"},
        {"serial: {at: 0x4020", "serial: {at: 0x8020", "0x8020 lies in high RAM"},
        {"serial: {at: 0x4020", "writes: [{at: 0xC000, value: 1}]\n  serial: {at: 0x4020",
         "0xC000 lies in system ROM"},
        {"access-ns: 500", "access-ns: 500\nrefresh: accesses", "no error"},
        {"test-rom:\n",
         "test-rom:\n  march: \"any(w0); up(" TWELVE_READS "); up(" TWELVE_READS
         "); down(" TWELVE_READS ")\"\n",
         "no error"},
        {"test-rom:\n",
         "test-rom:\n  march: \"any(w0,r0); up(" TWELVE_READS "); up(" TWELVE_READS
         "); down(" TWELVE_READS ")\"\n",
         "reads a word 37 times"},
    };
    gchar *text;

    CHECK(g_file_get_contents(project_path(HALVORN), &text, NULL, NULL), "the file");
    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar **parts = g_strsplit(text, rows[i].old, 2);
        gchar *other = g_strjoinv(rows[i].new, parts);
        rmg_board *board;
        rmg_errors errors = {0};
        rmg_testrom_plan plan;
        rmg_error error = {0};

        if (rmg_board_load_text("other.yaml", other, &board, &errors) == RMG_OK)
            rmg_dead_plan(board, &board->rom, &plan, NULL, NULL, &error);
        CHECK(strstr(errors.count ? errors.list[0].what
                     : error.what ? error.what
                                  : "no error",
                     rows[i].says),
              "%s: %s", rows[i].new,
              errors.count ? errors.list[0].what
              : error.what ? error.what
                           : "no error");
        rmg_errors_free(&errors);
        rmg_error_free(&error);
        rmg_board_free(board);
        g_free(other);
        g_strfreev(parts);
    }
    g_free(text);
}

/* The section as it is written is the section as it was read. */
static void section_written(void)
{
    static const char *const files[] = {HALVORN, OSTREL, "demo/boards/merrow.yaml",
                                        "demo/boards/quarle.yaml", "demo/boards/selvane.yaml"};

    for (size_t i = 0; i < COUNT(files); i++) {
        rmg_board *board = bench_load(files[i]), *again = NULL;
        char *text = rmg_board_text(board);
        rmg_errors errors = {0};

        CHECK(rmg_board_load_text(board->file, text, &again, &errors) == RMG_OK, "%s: %s", files[i],
              errors.count ? errors.list[0].what : "");
        if (again) {
            const rmg_board_rom *a = &board->rom, *b = &again->rom;

            CHECK(b->known && a->processor == b->processor && a->clock_hz == b->clock_hz &&
                      a->socket_count == b->socket_count && a->origin == b->origin &&
                      memcmp(&a->serial, &b->serial, sizeof a->serial) == 0 &&
                      memcmp(&a->lamp, &b->lamp, sizeof a->lamp) == 0 && a->baud == b->baud &&
                      a->lines == b->lines && strcmp(a->march_text, b->march_text) == 0,
                  "%s is the same again", files[i]);
        }
        rmg_errors_free(&errors);
        rmg_text_free(text);
        rmg_board_free(board);
        rmg_board_free(again);
    }
}

typedef struct told_lines {
    const rmg_testrom_plan *plan;
    GString *text;
    unsigned most; /* lines, then it is enough */
} told_lines;

static bool take_line(void *context, const rmg_testrom_line *line)
{
    told_lines *t = context;
    char text[RMG_TESTROM_LINE];

    g_string_append_printf(t->text, "%s\n", rmg_testrom_line_text(t->plan, line, text));
    return !t->most || --t->most;
}

/* What the ROM tells of a board with these faults. */
static char *tell(const rmg_board *board, const char *march, unsigned lines, unsigned passes,
                  const rmg_sim_fault *faults, size_t count)
{
    rmg_testrom_plan plan;
    rmg_sim_board_run bench;
    told_lines t = {&plan, g_string_new(NULL), 0};
    const rmg_testrom_listener to = {.context = &t, .line = take_line};

    plan_of(board, march, lines, &plan);
    bench_start(&bench, board, faults, count, 3);
    CHECK(rmg_testrom_play(&plan, &bench.target, &to, passes) == RMG_OK, "played");
    rmg_sim_board_end(&bench);
    return g_string_free(t.text, FALSE);
}

static void played(void)
{
    rmg_board *board = bench_load(HALVORN), *merrow = bench_load("demo/boards/merrow.yaml");
    const rmg_sim_fault stuck = {
        .kind = RMG_FAULT_CELL, .chip = rmg_board_socket(board, "U13"), .cell = 0x155, .level = 1};
    const rmg_sim_fault dead = {.kind = RMG_FAULT_OUTPUT,
                                .chip = rmg_board_socket(merrow, "U11"),
                                .data_line = 2,
                                .level = 1};
    rmg_testrom_plan plan;
    rmg_sim_board_run bench;
    told_lines enough = {&plan, g_string_new(NULL), 2};
    const rmg_testrom_listener to = {.context = &enough, .line = take_line};
    char *text = tell(board, "MATS+", 8, 2, NULL, 0);

    CHECK(strstr(text, "0MA. 00 00\n0MB. 00 60\n0E 00 D3\n1S ") && strstr(text, "1E 00 "),
          "a healthy board, twice:\n%s", text);
    g_free(text);
    text = tell(board, "MATS+", 8, 1, &stuck, 1);
    CHECK(strstr(text, "0FAa 0155 00 20 ") && strstr(text, "0FA. 20 ") &&
              strstr(text, "0MAa 0155 00 20 ") && strstr(text, "0MA. 20 ") &&
              strstr(text, "0E 26 ") && !strstr(text, "DAa"),
          "a cell in the first memory:\n%s", text);
    g_free(text);
    text = tell(merrow, "MATS+", 8, 2, &dead, 1);
    CHECK(strstr(text, "0DAa ---- 00 04 --\n0E 23 --\n0S ") && !strstr(text, "1S"),
          "a 6502 whose zero page is bad begins anew:\n%s", text);
    g_free(text);
    plan_of(board, "MATS+", 8, &plan);
    bench_start(&bench, board, NULL, 0, 3);
    CHECK(rmg_testrom_play(&plan, &bench.target, &to, 1) == RMG_ERR_CANCELLED, "enough");
    rmg_sim_board_end(&bench);
    g_string_free(enough.text, TRUE);
    rmg_board_free(board);
    rmg_board_free(merrow);
}

/* Heard lines end at a place; kept in a run file they end there again. */
static void heard_and_named(void)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_sim_fault faults[] = {
        {.kind = RMG_FAULT_OUTPUT, .chip = rmg_board_socket(board, "U22"), .level = 0},
        {.kind = RMG_FAULT_ADDRESS_CHIP, .chip = rmg_board_socket(board, "U14"), .lines = 0x81},
        {.kind = RMG_FAULT_TRANSITION, .chip = rmg_board_socket(board, "U20"), .cell = 0x3FF0},
    };
    static const char *const sockets[] = {"U22", "U14", "U20"};

    for (size_t i = 0; i < COUNT(faults); i += ONE_IN) {
        char *text = tell(board, "MATS+", 4, 2, &faults[i], 1);
        const char *file = temporary_path("told.run");
        rmg_run_writer *writer;
        rmg_run_file read;
        rmg_error error = {0};
        rmg_suspects again;
        heard h;

        hear_text(&h, HALVORN, ROM_PROFILE, text);
        CHECK(h.status == RMG_OK && h.run.heard->told && h.run.heard->told->passes == 2 &&
                  !h.run.heard->told->unlike,
              "two passes alike");
        rmg_replay(&h.run, &h.suspects, 0, NULL, NULL);
        CHECK(h.suspects.count == 1 &&
                  h.suspects.list[0].finding.socket == rmg_board_socket(board, sockets[i]) &&
                  h.suspects.list[0].confidence > 0.9 && h.suspects.list[0].replays[0].same,
              "%s alone, of\n%s", sockets[i], text);
        writer = rmg_run_writer_new(file);
        CHECK(rmg_run_writer_close(writer, &h.run, NULL, 0, &error) == RMG_OK, "kept");
        rmg_run_writer_free(writer);
        CHECK(rmg_run_file_read(file, false, &read, &error) == RMG_OK, "read: %s",
              error.what ? error.what : "");
        rmg_suspects_find(&read.run, NULL, &again);
        rmg_replay(&read.run, &again, 0, NULL, NULL);
        CHECK(again.count == 1 && again.list[0].finding.socket == h.suspects.list[0].finding.socket,
              "the same of the file");
        rmg_suspects_free(&again);
        rmg_run_file_free(&read);
        rmg_error_free(&error);
        forget(&h);
        g_free(text);
    }
    rmg_board_free(board);
}

/* Two faults: in two banks, and one of data lines before one of address lines. */
static void two_at_once(void)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_sim_fault of_banks[] = {
        {.kind = RMG_FAULT_OUTPUT, .chip = rmg_board_socket(board, "U22"), .level = 1},
        {.kind = RMG_FAULT_CELL,
         .chip = rmg_board_socket(board, "U14"),
         .cell = 0x2345,
         .level = 1},
    };
    char *text = tell(board, "MATS+", 4, 1, of_banks, 2);
    bool first = false, second = false;
    heard h;

    hear_text(&h, HALVORN, ROM_PROFILE, text);
    rmg_replay(&h.run, &h.suspects, 0, NULL, NULL);
    for (size_t i = 0; i < h.suspects.count; i++) {
        first |= h.suspects.list[i].finding.socket == rmg_board_socket(board, "U22");
        second |= h.suspects.list[i].finding.socket == rmg_board_socket(board, "U14");
    }
    CHECK(h.suspects.count == 2 && first && second, "both, and no other: %zu of\n%s",
          h.suspects.count, text);
    forget(&h);
    g_free(text);
    rmg_board_free(board);
}

/* Passes that differ are not replayed: what comes and goes is no fault of these. */
static void passes_that_differ(void)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_sim_fault dead = {
        .kind = RMG_FAULT_OUTPUT, .chip = rmg_board_socket(board, "U22"), .level = 0};
    char *bad = tell(board, "MATS+", 4, 1, &dead, 1), *good = tell(board, "MATS+", 4, 1, NULL, 0);
    gchar *both = g_strconcat(bad, good, bad, NULL);
    heard h;

    hear_text(&h, HALVORN, ROM_PROFILE, both);
    CHECK(h.run.heard->told->passes == 3 && h.run.heard->told->unlike == 1, "one is unlike");
    rmg_replay(&h.run, &h.suspects, 0, NULL, NULL);
    CHECK(h.suspects.count && !h.suspects.list[0].replay_count &&
              h.suspects.list[0].confidence < 0.8,
          "no replay, less sure");
    forget(&h);
    g_free(both);
    g_free(bad);
    g_free(good);
    rmg_board_free(board);
}

CU_TestInfo testrom_tests[] = {{"lines and back", lines_and_back},
                               {"lines that are none", lines_that_are_none},
                               {"plans", plans},
                               {"refused plans", refused_plans},
                               {"section written", section_written},
                               {"played", played},
                               {"heard and named", heard_and_named},
                               {"two at once", two_at_once},
                               {"passes that differ", passes_that_differ},
                               CU_TEST_INFO_NULL};
