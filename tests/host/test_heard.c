/* Lines that other programs print: each profile of the demo and two written from docs/lines.md,
 * what each kind of rule makes of a line, and that nothing is claimed that the lines do not say. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "hearing.h"
#include "rimeglass/replay.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

/* The same, and the test ends there. */
#define CHECK_RETURN(condition, ...)                                                               \
    do {                                                                                           \
        const bool goes_on = (condition);                                                          \
        CHECK(goes_on, __VA_ARGS__);                                                               \
        if (!goes_on)                                                                              \
            return;                                                                                \
    } while (0)

/* Is some sentence about the suspect's reasons like this? */
static bool says(const rmg_suspect *s, const char *what)
{
    for (size_t i = 0; s->because[i]; i++)
        if (strstr(s->because[i], what))
            return true;
    return false;
}

#define TWO_LINES                                                                                  \
    "profile: two lines a failure\n"                                                               \
    "groups:\n  R: {bank: upper, address: {within: upper}}\n"                                      \
    "  S: {bank: lower, address: {within: lower}}\n"                                               \
    "lines:\n"                                                                                     \
    "  - {match: '^--- SET (?<group>\\w) ---$', is: heading}\n"                                    \
    "  - {match: '^AT (?<address>[0-9A-F]{4})$', is: heading}\n"                                   \
    "  - {match: '^ +WANT (?<wrote>..) GOT (?<read>..)$', is: failure}\n"                          \
    "  - {match: '^ROUND', is: pass}\n"
#define TWO_LINES_LOG                                                                              \
    "--- SET S ---\n--- SET R ---\nAT 0123\n  WANT FF GOT FB\nAT 0923\n  WANT 04 GOT 00\nROUND "   \
    "1\n"                                                                                          \
    "--- SET R ---\nAT 0123\n  WANT FF GOT FB\nAT 0923\n  WANT 04 GOT 00\nROUND 2\n"
#define PAGES                                                                                      \
    "profile: differing bits by page\n"                                                            \
    "fields: {page: {digits: hex, times: 0x1000, size: 0x1000}}\n"                                 \
    "lines:\n"                                                                                     \
    "  - {match: '^page (?<page>[0-9A-F]+) diff (?<differs>[0-9A-F]+)$', is: failure}\n"           \
    "  - {starts: checked all, is: end}\n"
#define PAGES_LOG "page 9 diff 40\npage A diff 40\npage 8 diff 40\nchecked all pages\n"

/* The eight profiles: which socket, and what is known. */
static void every_profile(void)
{
    static const struct {
        const char *name, *board;
        const char *profile, *log; /* NULL: of the demo */
        const char *socket, *bank;
        rmg_word bits;
        uint64_t failures, passes;
        bool addresses, directions, tested, at_least;
    } rows[] = {
        {"columns", HALVORN, NULL, NULL, "U21", "upper", 0x20, 16, 2, true, true, true, true},
        {"wide-words", "demo/boards/tarnbeck.yaml", NULL, NULL, "U17", "rank 1 high", 0x20000, 15,
         3, true, true, true, false},
        {"frame-status", "demo/boards/vessary.yaml", NULL, NULL, "U4", "right", 0, 4, 4, false,
         false, false, false},
        {"bad-bits", OSTREL, NULL, NULL, "U32", "near", 0x40, 3, 3, false, false, false, false},
        {"counts", "demo/boards/shutter.yaml", NULL, NULL, "U33", "shutter", 0x04, 2577, 2, false,
         false, false, false},
        {"staircase", HALVORN, NULL, NULL, "U24", "upper", 0x04, 8, 2, true, false, true, false},
        {"two lines", HALVORN, TWO_LINES, TWO_LINES_LOG, "U24", "upper", 0x04, 4, 2, true, true,
         false, false},
        {"pages", HALVORN, PAGES, PAGES_LOG, "U20", "upper", 0x40, 3, 1, false, false, false,
         false},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar *file = g_strdup_printf("demo/profiles/%s.yaml", rows[i].name);
        gchar *log_file = g_strdup_printf("demo/logs/%s.txt", rows[i].name);
        char *profile = rows[i].profile ? g_strdup(rows[i].profile) : file_text(project_path(file));
        char *log = rows[i].log ? g_strdup(rows[i].log) : file_text(project_path(log_file));
        const rmg_suspect *s;
        heard h;

        hear_text(&h, rows[i].board, profile, log);
        CHECK(h.status == RMG_OK && h.run.complete, "%s: %s", rows[i].name,
              h.error.what ? h.error.what : "complete");
        CHECK_RETURN(h.suspects.count == 1, "%s: %zu suspects", rows[i].name, h.suspects.count);
        s = &h.suspects.list[0];
        CHECK(strcmp(h.board->sockets[s->finding.socket].name, rows[i].socket) == 0 &&
                  strcmp(h.board->banks[s->finding.bank].name, rows[i].bank) == 0 &&
                  s->finding.bits == rows[i].bits,
              "%s: %s", rows[i].name, s->headline);
        CHECK(h.run.heard->failures == rows[i].failures && h.run.pass_count == rows[i].passes &&
                  !h.run.heard->unknown && h.run.heard->addresses == rows[i].addresses &&
                  h.run.heard->directions == rows[i].directions &&
                  h.run.heard->tested == rows[i].tested &&
                  h.run.heard->at_least == rows[i].at_least,
              "%s: what is known", rows[i].name);
        /* nothing that the lines do not say */
        CHECK(s->confidence > 0.5 && s->confidence < 0.9, "%s: %g", rows[i].name, s->confidence);
        CHECK(says(s, "is not known") == !rows[i].directions, "%s: which way", rows[i].name);
        CHECK(says(s, "lower bounds") == rows[i].at_least, "%s: bounds", rows[i].name);
        CHECK(!says(s, "words tested") && !says(s, "sound"), "%s: no claim of ours", rows[i].name);
        CHECK(rows[i].addresses || s->finding.kind == RMG_FINDING_REPORTED, "%s: no shape",
              rows[i].name);
        forget(&h);
        g_free(profile);
        g_free(log);
        g_free(file);
        g_free(log_file);
    }
}

/* What several places share comes before the chips; a bank that is not known is not guessed. */
static void shared_causes(void)
{
    static const char profile[] = "profile: p\nunknown-lines: 0 %\nlines:\n"
                                  "  - {match: '^(?<bank>\\w+) (?<bits>[\\d ]+)$', is: failure}\n"
                                  "  - {match: '^any (?<bits>\\d+)$', is: failure}\n"
                                  "  - {match: '^(?<bits>\\d+)$', is: failure}\n"
                                  "  - {starts: ., is: pass}\n";
    static const struct {
        const char *log;
        rmg_finding_kind kind;
        const char *headline;
        size_t count;
    } rows[] = {
        {"upper 3\nlower 3\n.\nupper 3\nlower 3\n.\n", RMG_FINDING_REPORTED_LINE,
         "data line D3 before any chip", 1},
        {"upper 0 1 2 3 4 5 6 7\n.\nupper 0 1 2 3 4 5 6 7\n.\n", RMG_FINDING_REPORTED_BANK,
         "Do not change chips yet", 1},
        {"3\n.\n3\n.\n", RMG_FINDING_REPORTED_BIT, "but not in which bank. One of: U15 and U23", 1},
        {"upper 3\nupper 4\n.\nupper 3\nupper 4\n.\n", RMG_FINDING_REPORTED, "U2", 2},
        {"upper 3\nlower 4\nupper 5\n.\nupper 3\nlower 4\nupper 5\n.\n", RMG_FINDING_REPORTED, "U",
         3},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        heard h;
        double sum = 0;

        hear_text(&h, HALVORN, profile, rows[i].log);
        CHECK_RETURN(h.status == RMG_OK && h.suspects.count == rows[i].count, "%zu: %zu suspects",
                     i, h.suspects.count);
        CHECK(h.suspects.list[0].finding.kind == rows[i].kind &&
                  strstr(h.suspects.list[0].headline, rows[i].headline),
              "%zu: %s", i, h.suspects.list[0].headline);
        for (size_t n = 0; n < h.suspects.count; n++)
            sum = MAX(sum, h.suspects.list[n].confidence);
        CHECK(sum < (rows[i].count > 2 ? 0.5 : 0.9), "%zu: %g", i, sum);
        forget(&h);
    }
}

/* One failure, once: no more than a hint. Passes that differ: less sure. */
static void little_is_little(void)
{
    static const char profile[] =
        "profile: p\nlines:\n  - {match: '^(?<address>\\w{4}) (?<differs>..)$', is: failure}\n"
        "  - {starts: pass, is: pass}\n";
    heard h;

    hear_text(&h, HALVORN, profile, "pass\n8000 01\npass\n");
    CHECK(h.suspects.count == 1 && h.suspects.list[0].confidence < 0.5 &&
              says(&h.suspects.list[0], "may be chance"),
          "once");
    forget(&h);
    hear_text(&h, HALVORN, profile, "8000 01\npass\n8000 01\npass\n");
    CHECK(h.suspects.list[0].confidence > 0.7 && rmg_run_repeats(&h.run), "alike");
    forget(&h);
    hear_text(&h, HALVORN, profile, "8000 01\npass\n8001 01\npass\n");
    CHECK(h.suspects.list[0].confidence < 0.7 && !rmg_run_repeats(&h.run), "not alike");
    forget(&h);
    hear_text(&h, HALVORN, profile, "pass\npass\n");
    CHECK(!h.suspects.count && !rmg_run_failed(&h.run), "nothing");
    forget(&h);
}

/* Start, end, and what is cut off; counts that do not agree with what was reported. */
static void from_start_to_end(void)
{
    static const char profile[] =
        "profile: p\nlimit: {reports: 3, per: heading}\nlines:\n"
        "  - {starts: BEGIN, is: start}\n"
        "  - {match: '^(?<address>\\w{4}) (?<differs>..)$', is: failure}\n"
        "  - {match: '^BLOCK (?<address>\\w{4})', is: heading}\n"
        "  - {match: '^TOTAL (?<count>\\d+)', is: end}\n";
    static const struct {
        const char *log;
        uint64_t failures, passes;
        bool complete, at_least;
    } rows[] = {
        {"noise\n8000 01\nBEGIN\n8000 01\nTOTAL 1\n", 1, 1, true, false},
        {"BEGIN\n8000 01\n8001 01\nTOTAL 2\n8002 01\n", 2, 1, true, false},
        {"BEGIN\n8000 01\n8001 01\nTOTAL 3\n", 2, 1, true, true},
        {"BEGIN\n8000 01\n8001 01\n8002 01\nTOTAL 3\n", 3, 1, true, true},
        {"BEGIN\n8000 01\n8001 01\nBLOCK 8002\n8002 01\nTOTAL 3\n", 3, 1, true, false},
        {"BEGIN\n8000 01\n8001 0", 1, 0, false, false},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar *loose = g_strdup_printf("%sunknown-lines: 40 %%\n", profile);
        heard h;

        hear_text(&h, HALVORN, loose, rows[i].log);
        CHECK(h.status == RMG_OK && h.run.heard->failures == rows[i].failures &&
                  h.run.pass_count == rows[i].passes && h.run.complete == rows[i].complete &&
                  h.run.heard->at_least == rows[i].at_least,
              "%zu: %u failures, %u passes, complete %d, at least %d: %s", i,
              (unsigned)h.run.heard->failures, (unsigned)h.run.pass_count, h.run.complete,
              h.run.heard->at_least, h.error.what ? h.error.what : "");
        forget(&h);
        g_free(loose);
    }
}

/* The run file keeps all of it: the same suspects, and the same result to the letter. */
static void kept_in_a_run_file(void)
{
    static const char *const names[][2] = {{"columns", HALVORN},
                                           {"frame-status", "demo/boards/vessary.yaml"},
                                           {"counts", "demo/boards/shutter.yaml"}};

    for (size_t i = 0; i < COUNT(names); i++) {
        gchar *file = g_strdup_printf("demo/profiles/%s.yaml", names[i][0]);
        gchar *log_file = g_strdup_printf("demo/logs/%s.txt", names[i][0]);
        char *profile = file_text(project_path(file)), *log = file_text(project_path(log_file));
        gchar *whole = g_strdup_printf("test: March C-\n%s", profile);
        const char *path = temporary_path("heard.run");
        rmg_run_writer *writer = rmg_run_writer_new(path);
        rmg_run_file read;
        rmg_suspects suspects;
        rmg_error error = {0};
        char *texts[2];
        heard h;

        hear_text(&h, names[i][1], i ? whole : profile, log);
        CHECK(rmg_run_writer_close(writer, &h.run, NULL, 0, &error) == RMG_OK, "%s", error.what);
        rmg_run_writer_free(writer);
        CHECK(rmg_run_file_read(path, true, &read, &error) == RMG_ERR_CONTENT &&
                  strstr(error.what, "cannot be continued"),
              "%s", error.what);
        rmg_error_free(&error);
        rmg_run_file_free(&read);
        CHECK_RETURN(rmg_run_file_read(path, false, &read, &error) == RMG_OK, "%s", error.what);
        rmg_suspects_find(&read.run, NULL, &suspects);
        rmg_suspects_word(&read.run, &suspects);
        texts[0] = rmg_run_json(&h.run, &h.suspects);
        texts[1] = rmg_run_json(&read.run, &suspects);
        CHECK(strcmp(texts[0], texts[1]) == 0, "%s: the same result", names[i][0]);
        CHECK(strstr(texts[0], "\"heard\"") && strstr(texts[0], i ? "March C-" : "not known"),
              "%s: steps", names[i][0]);
        rmg_text_free(texts[0]);
        rmg_text_free(texts[1]);
        rmg_suspects_free(&suspects);
        rmg_run_file_free(&read);
        forget(&h);
        g_free(whole);
        g_free(profile);
        g_free(log);
        g_free(file);
        g_free(log_file);
    }
}

/* What another program would print of a simulated fault: a line a failing word. */
static void print_word(void *context, rmg_addr address, rmg_word high, rmg_word low)
{
    g_string_append_printf(context, "F %04X %02X\n", (unsigned)address, (unsigned)(high | low));
}

static gchar *log_of(const rmg_sim_fault *fault)
{
    rmg_board *board = bench_load(HALVORN);
    const rmg_plan plan = bench_plan(false, 1);
    GString *text = g_string_new("T 8000 BFFF\n");
    rmg_suspects suspects;
    rmg_run run;

    bench_examine(board, fault, 1, &plan, 1, &run, &suspects);
    for (unsigned pass = 0; pass < 2; pass++) {
        rmg_failset_each(run.failures, print_word, text);
        g_string_append(text, "P\n");
    }
    rmg_suspects_free(&suspects);
    rmg_run_end(&run);
    rmg_board_free(board);
    return g_string_free(text, FALSE);
}

/* Replay where the profile says which test it was, and only there: faults that would have failed
 * otherwise are ruled out, and the right one gives the same. */
static void replayed(void)
{
    static const char profile[] =
        "profile: p\n%slines:\n  - {match: '^F (?<address>\\w{4}) (?<differs>..)$', is: failure}\n"
        "  - {starts: P, is: pass}\n"
        "  - {match: '^T (?<first>\\w+) (?<last>\\w+)', is: tested}\n";
    static const struct {
        rmg_sim_fault fault;
        const char *says, *socket;
    } rows[] = {
        {{.kind = RMG_FAULT_OUTPUT, .level = 0}, "the output of U21 stuck", "U21"},
        {{.kind = RMG_FAULT_CELL, .cell = 0x123, .level = 1}, "cells of U21 stuck", "U21"},
    };

    for (size_t i = 0; i < COUNT(rows); i++)
        for (unsigned known = 0; known < 2; known++) {
            gchar *whole = g_strdup_printf(profile, known ? "test: March C-\n" : "");
            rmg_board *board = bench_load(HALVORN);
            rmg_sim_fault fault = rows[i].fault;
            gchar *log;
            heard h;
            const rmg_suspect *s;
            bool same = false;

            fault.chip = rmg_board_socket(board, rows[i].socket);
            rmg_board_free(board);
            log = log_of(&fault);
            hear_text(&h, HALVORN, whole, log);
            CHECK(rmg_heard_replayable(&h.run) == (known > 0), "%s: replayable", rows[i].says);
            if (known)
                CHECK(rmg_replay(&h.run, &h.suspects, RMG_REPLAY_WORK, NULL, NULL) == RMG_OK,
                      "replayed");
            rmg_suspects_word(&h.run, &h.suspects);
            s = &h.suspects.list[0];
            for (size_t n = 0; n < s->replay_count; n++)
                same |= s->replays[n].same && strstr(s->replays[n].fault, rows[i].says);
            CHECK(same == (known > 0) && (known > 0) == (s->confidence > 0.9), "%s: %g, %s",
                  rows[i].says, s->confidence,
                  s->replay_count ? s->replays[0].fault : "not replayed");
            CHECK(strcmp(s->site, rows[i].socket) == 0, "%s", s->site);
            forget(&h);
            g_free(log);
            g_free(whole);
        }
}

CU_TestInfo heard_tests[] = {
    {"every profile ends at its socket", every_profile},
    {"shared causes", shared_causes},
    {"little is little", little_is_little},
    {"from start to end", from_start_to_end},
    {"kept in a run file", kept_in_a_run_file},
    {"replayed", replayed},
    CU_TEST_INFO_NULL,
};
