/* Replay: what is put into the simulated board gives the measured failures, or does not, and the
 * suspects say so. Runs from a file are diagnosed as at their end. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/replay.h"
#include "rimeglass/report.h"
#include "rimeglass/run.h"
#include "suites.h"
#include "temporary.h"

#define HALVORN "demo/boards/halvorn64.yaml"
#define OSTREL  "demo/boards/ostrel16.yaml"

#define SEEDS 8u /* of what memory holds at power-on */

/* A run with the faults of a fault file's text, and its suspects, replayed. */
static void examine(const rmg_board *board, const char *faults, uint32_t passes, rmg_run *run,
                    rmg_suspects *suspects)
{
    gchar *text = g_strdup_printf("faults: [%s]\nworld-seed: 77\n", faults);
    rmg_plan plan = bench_plan(false, passes);
    rmg_sim_board_run bench;
    rmg_errors found = {0};
    rmg_error error = {0};

    CHECK(rmg_sim_board_begin(&bench, board, temporary_file("replay.yaml", text), &found) == RMG_OK,
          "%s: %s", faults, found.count ? found.list[0].what : "");
    rmg_errors_free(&found);
    CHECK(rmg_run_begin(run, board, &plan, "sim", &error) == RMG_OK &&
              rmg_run_carry_out(run, &bench.target, NULL) == RMG_OK,
          "run");
    rmg_suspects_find(run, NULL, suspects);
    rmg_replay(run, suspects, 0, NULL, NULL);
    rmg_suspects_word(run, suspects);
    rmg_sim_board_end(&bench);
    g_free(text);
}

static const rmg_replayed *find(const rmg_suspect *s, const char *words)
{
    for (size_t i = 0; i < s->replay_count; i++)
        if (strstr(s->replays[i].fault, words))
            return &s->replays[i];
    return NULL;
}

static void the_same_and_not(void)
{
    static const struct {
        const char *board, *faults;
        const char *same;  /* words of a proposal that gives the same */
        const char *other; /* and of one that does not; "" if all do */
    } rows[] = {
        {HALVORN, "{kind: output stuck, socket: U19, bit: D7, level: 0}", "the output of U19 stuck",
         "floating at 1"},
        {HALVORN, "{kind: data pin open, socket: U19, bit: D7}",
         "a data pin of U19 without contact", "the output of U19 stuck"},
        {HALVORN, "{kind: data input open, socket: U19, floats: 0}", "floating at 0",
         "floating at 1"},
        {HALVORN, "{kind: chip missing, socket: U12}", "U12 empty", "the output of U12 stuck"},
        {HALVORN, "{kind: address pin open, socket: U22, pin: A3}", "the address pin of U22", ""},
        {HALVORN, "{kind: row stuck, socket: U21, row: 9, level: 1}", "a row of U21 stuck at 1",
         "a row of U21 stuck at 0"},
        {HALVORN, "{kind: column stuck, socket: U21, column: 9, level: 0}",
         "a column of U21 stuck at 0", "a row of U21 stuck at 0"},
        {OSTREL, "{kind: column stuck, socket: U33, bit: D9, column: 5, level: 1}",
         "a column of U33 stuck at 1", "a column of U33 stuck at 0"},
        {OSTREL, "{kind: row stuck, socket: U33, row: 200, level: 0}", "a row of U33 stuck at 0",
         "a column of U33 stuck at 0"},
        {HALVORN, "{kind: cell stuck, address: 0x9123, bit: D4, level: 1}", "cells of U22 stuck",
         "writing the same value again"},
        {HALVORN, "{kind: transition, address: 0x9123, bit: D4, level: 1}",
         "cannot be changed to one value", "a read flips unseen"},
        {HALVORN,
         "{kind: wrong cells, socket: U21, cell: 300, other: 4000, reaches: other, reads: and}",
         "reaches another one's cell", "cells of U21 stuck"},
        {HALVORN,
         "{kind: wrong cells, socket: U21, cell: 300, other: 4000, reaches: none, reads: or}",
         "reaches no cell", "writing the same value again"},
        {HALVORN, "{kind: data line stuck, line: D2, level: 1}", "the data line stuck at 1",
         "the data line stuck at 0"},
        {HALVORN, "{kind: lines touch, line: D1, with: D6, bank: upper, wins: 1}", "a 1 wins", ""},
        {HALVORN, "{kind: address line stuck, bank: lower, line: A9, level: 0}",
         "stuck or open at 0", ""},
        {HALVORN, "{kind: lines touch, line: A2, with: A11, bank: lower}", "a 0 wins", ""},
        {HALVORN, "{kind: never written, socket: U14}", "does not arrive", ""},
        {HALVORN, "{kind: never written, bank: upper}", "does not arrive", ""},
        {HALVORN, "{kind: never selected, bank: upper}", "none of these chips", ""},
        {HALVORN,
         "{kind: never selected, bank: upper}, {kind: also selected, bank: lower, where: upper}",
         "the lower bank answers", ""},
        {HALVORN, "{kind: always on, socket: U19}", "U19 drives its lines", ""},
        {HALVORN, "{kind: line open, line: A5, beyond: U22.10, floats: 0}", "A5 open", ""},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_board *board = bench_load(rows[i].board);
        const rmg_replayed *same, *other;
        rmg_suspects s;
        rmg_run run;
        size_t because = 0;

        examine(board, rows[i].faults, 1, &run, &s);
        same = s.count ? find(&s.list[0], rows[i].same) : NULL;
        other = s.count && *rows[i].other ? find(&s.list[0], rows[i].other) : NULL;
        CHECK(s.count == 1 && same && same->same && !same->left && !same->unseen,
              "%s: \"%s\" gives the same: %s", rows[i].faults, rows[i].same,
              s.count && s.list[0].replay_count ? s.list[0].replays[0].fault : "nothing");
        CHECK(!*rows[i].other ||
                  (other && !other->same && (other->left + other->unseen > 0 || !other->as_often)),
              "%s: \"%s\" does not", rows[i].faults, rows[i].other);
        CHECK(s.count && s.list[0].replays[0].same && !s.list[0].untried, "%s: the best first",
              rows[i].faults);
        for (size_t n = 0; s.count && s.list[0].because[n]; n++)
            because += strstr(s.list[0].because[n], "exactly the same failures") != NULL;
        CHECK(because == 1, "%s: and it is a reason", rows[i].faults);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
    }
}

/* Two at once: each suspect's replay is compared where that suspect lies. */
static void two_at_once(void)
{
    rmg_board *board = bench_load(OSTREL);
    rmg_suspects s;
    rmg_run run;

    examine(
        board,
        "{kind: address pin open, socket: U36, pin: A3}, {kind: row stuck, socket: U32, row: 12, "
        "level: 1}",
        2, &run, &s);
    CHECK(s.count == 2 && s.list[0].replays[0].same && s.list[1].replays[0].same, "both");
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
}

/* What does not repeat, or is of no kind that is proposed, is not claimed to be the same. */
static void not_explained(void)
{
    rmg_board *board = bench_load(HALVORN);
    rmg_suspects s;
    rmg_run run;

    examine(board, "{kind: output stuck, socket: U19, bit: D7, level: 0, one-in: 4000}", 8, &run,
            &s);
    CHECK(s.count == 1 && strcmp(s.list[0].site, "U19") == 0, "an intermittent output");
    for (size_t i = 0; s.count && i < s.list[0].replay_count; i++)
        CHECK(!s.list[0].replays[i].same, "%s", s.list[0].replays[i].fault);
    CHECK(s.count && s.list[0].confidence > 0.6,
          "all failures at one socket of sixteen are no chance: %.2f",
          s.count ? s.list[0].confidence : 0);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    examine(board,
            "{kind: inversion coupling, socket: U19, cell: 300, by-cell: 4000, change-to: 1}", 2,
            &run, &s);
    CHECK(s.count == 1 && strcmp(s.list[0].site, "U19") == 0 && s.list[0].replay_count > 1,
          "a coupling: the chip is right");
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
}

/* A suspect for which nothing speaks that another does not explain as well goes to the end; the two
 * that it takes are reported to explain everything together. Made by holding the suspects of three
 * faults against a run with two of them. */
static void needless_suspects(void)
{
    static const char *const faults[] = {
        "{kind: cell stuck, socket: U12, cell: 700, level: 1}, {kind: output stuck, socket: U21, "
        "bit: "
        "D5, level: 1}",
        "{kind: cell stuck, socket: U12, cell: 700, level: 1}, {kind: output stuck, socket: U21, "
        "bit: "
        "D5, level: 1}, {kind: output stuck, socket: U25, bit: D1, level: 0}"};
    rmg_board *board = bench_load(HALVORN);
    rmg_suspects two, three;
    rmg_run run, more;
    bool last = false, together = false;

    examine(board, faults[0], 2, &run, &two);
    examine(board, faults[1], 2, &more, &three);
    CHECK(two.count == 2 && three.count == 3, "%zu and %zu", two.count, three.count);
    rmg_suspects_free(&three);
    rmg_suspects_find(&more, NULL, &three);
    rmg_replay(&run, &three, 0, NULL, NULL);
    rmg_suspects_word(&run, &three);
    for (size_t n = 0; three.list[2].because[n]; n++)
        last |= strstr(three.list[2].because[n], "as well without it") != NULL;
    CHECK(strcmp(three.list[2].site, "U25") == 0 && last && three.list[2].confidence < 0.5,
          "%s, %.2f", three.list[2].site, three.list[2].confidence);
    for (size_t i = 0; i < 2; i++, together = false) {
        for (size_t n = 0; three.list[i].because[n]; n++)
            together |= strstr(three.list[i].because[n], "together, the 2 suspects give") != NULL;
        CHECK(together && three.list[i].confidence > 0.9, "%s, %.2f", three.list[i].site,
              three.list[i].confidence);
    }
    rmg_suspects_free(&two);
    rmg_suspects_free(&three);
    rmg_run_end(&run);
    rmg_run_end(&more);
    rmg_board_free(board);
}

/* A few cells that fail in the first passes and more later: those alone would pass for stuck ones,
 * so nothing is claimed. Of two passes that differ by their data it is, and it is said. */
static void passes_that_differ(void)
{
    rmg_board *board = bench_load(HALVORN);
    rmg_suspects s;
    rmg_run run;
    bool told = false;

    for (uint32_t passes = 3; passes <= 12; passes += 3) {
        examine(board, "{kind: output stuck, socket: U22, bit: D4, level: 1, one-in: 40000}",
                passes, &run, &s);
        for (size_t i = 0; i < s.count; i++)
            for (size_t n = 0; n < s.list[i].replay_count; n++)
                CHECK(!s.list[i].replays[n].same, "%u passes: %s", passes,
                      s.list[i].replays[n].fault);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    examine(board, "{kind: lines touch, line: D1, with: D6, bank: upper, wins: 1}", 2, &run, &s);
    CHECK(s.count == 1 && !rmg_run_repeats(&run) && s.list[0].replays[0].same,
          "solid zeros do not show it, other data do");
    for (size_t n = 0; s.count && s.list[0].because[n]; n++)
        told |= strstr(s.list[0].because[n], "because of the data written") != NULL;
    CHECK(told, "the passes differ by their data");
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
}

static bool stop_at_once(void *context, double share)
{
    (void)share;
    return ++*(unsigned *)context <= 2;
}

static void cut_short(void)
{
    rmg_board *board = bench_load(HALVORN);
    rmg_plan plan = bench_plan(true, 1);
    rmg_sim_fault fault = {.kind = RMG_FAULT_OUTPUT, .chip = rmg_board_socket(board, "U19")};
    rmg_sim_board_run bench;
    rmg_suspects s;
    unsigned asked = 0;
    rmg_run run;
    size_t untried = 0;
    rmg_error error = {0};

    bench_start(&bench, board, &fault, 1, 1);
    CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK &&
              rmg_run_carry_out(&run, &bench.target, NULL) == RMG_OK,
          "run");
    rmg_suspects_find(&run, NULL, &s);
    rmg_replay(&run, &s, 0, stop_at_once, &asked);
    rmg_suspects_word(&run, &s);
    CHECK(s.count == 1 && s.list[0].replay_count == 2 && s.list[0].untried == 7,
          "two were tried, seven not: %zu, %zu", s.list[0].replay_count, s.list[0].untried);
    rmg_suspects_free(&s);
    rmg_suspects_find(&run, NULL, &s);
    rmg_replay(&run, &s, 1, NULL, NULL);
    rmg_suspects_word(&run, &s);
    CHECK(s.list[0].untried == 8 && s.list[0].replay_count == 1, "the first is more than that");
    rmg_suspects_free(&s);
    for (unsigned turn = 0; turn < 2; turn++) { /* the same whatever else this machine does */
        rmg_suspects_find(&run, NULL, &s);
        rmg_replay(&run, &s, 700000, NULL, NULL);
        CHECK(!turn || s.list[0].untried == untried, "%zu and %zu", s.list[0].untried, untried);
        untried = s.list[0].untried;
        rmg_suspects_free(&s);
    }
    CHECK(untried > 0 && untried < 8, "some: %zu", untried);
    rmg_run_end(&run);
    rmg_sim_board_end(&bench);
    rmg_board_free(board);
}

/* From the run file alone the same comes out as at the end of the test. */
static void from_a_file(void)
{
    static const char *const faults[] = {
        "", "{kind: output stuck, socket: U19, bit: D7, level: 0}",
        "{kind: lines touch, line: D1, with: D6, bank: upper}",
        "{kind: never selected, bank: lower}",
        "{kind: output stuck, socket: U13, bit: D5, level: 1, one-in: 9000}"};
    rmg_board *board = bench_load(HALVORN);
    const char *path = temporary_path("diagnose.run");

    for (size_t i = 0; i < COUNT(faults); i++) {
        rmg_run_writer *writer;
        rmg_run_file file;
        rmg_suspects s, again;
        rmg_run run;
        char *one, *other;
        rmg_error error = {0};

        examine(board, faults[i], 2, &run, &s);
        writer = rmg_run_writer_new(path);
        CHECK(rmg_run_writer_close(writer, &run, NULL, 0, &error) == RMG_OK, "kept");
        rmg_run_writer_free(writer);
        CHECK(rmg_run_file_read(path, false, &file, &error) == RMG_OK, "%s",
              error.what ? error.what : "");
        rmg_suspects_find(&file.run, NULL, &again);
        rmg_replay(&file.run, &again, 0, NULL, NULL);
        rmg_suspects_word(&file.run, &again);
        one = rmg_run_json(&run, &s);
        other = rmg_run_json(&file.run, &again);
        CHECK(strcmp(one, other) == 0, "row %zu: the same result", i);
        rmg_text_free(one);
        rmg_text_free(other);
        rmg_suspects_free(&again);
        rmg_run_file_free(&file);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
    }
    rmg_board_free(board);
}

/* Do these faults give just the failures of the run, with what memory holds at power-on as one of
 * some seeds has it? */
static bool gives_the_same(const rmg_board *board, const rmg_replayed *r, const rmg_run *run)
{
    const rmg_plan plan = bench_plan(false, 1);
    bool same = false;

    for (uint64_t seed = 77; seed < 77 + SEEDS && !same; seed++) {
        rmg_suspects found;
        rmg_run again;

        bench_examine(board, r->faults, r->fault_count, &plan, seed, &again, &found);
        same = rmg_failset_fingerprint(run->failures) == rmg_failset_fingerprint(again.failures) &&
               run->tally.failing == again.tally.failing;
        rmg_suspects_free(&found);
        rmg_run_end(&again);
    }
    return same;
}

/* Where one word failed, much is played once for many places, and of a row or column its own words
 * alone are marched over: each proposal that is said to give the same is put into a board of its
 * own, the whole plan is run there, and it does. */
static void put_in_again(void)
{
    static const struct {
        const char *board, *fault;
        size_t words; /* that fail; 0: one */
    } rows[] = {
        {HALVORN, "{kind: idempotent coupling, socket: U21, cell: 300, by-cell: 299, change-to: 1, "
                  "level: 0}"},
        {HALVORN, "{kind: idempotent coupling, socket: U21, cell: 300, by-cell: 812, change-to: 0, "
                  "level: 1}"},
        {HALVORN, "{kind: inversion coupling, socket: U12, cell: 5000, by-cell: 77, change-to: 1}"},
        {HALVORN, "{kind: inversion coupling, socket: U12, cell: 77, by-cell: 5000, change-to: 0}"},
        {HALVORN, "{kind: state coupling, socket: U24, cell: 4096, by-cell: 9000, while: 1, level: "
                  "0}"},
        {HALVORN,
         "{kind: disturb coupling, socket: U24, cell: 9000, by-cell: 4096, operation: 1r1, "
         "level: 1}"},
        {OSTREL, "{kind: state coupling, socket: U33, bit: D9, cell: 700, by-cell: 12, by-bit: D9, "
                 "while: 0, level: 1}"},
        {HALVORN, "{kind: row stuck, socket: U21, row: 5, level: 0}", 128},
        {HALVORN, "{kind: row stuck, socket: U24, row: 127, level: 1}", 128},
        {HALVORN, "{kind: column stuck, socket: U21, column: 9, level: 1}", 128},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_board *board = bench_load(rows[i].board);
        const size_t words = rows[i].words ? rows[i].words : 1u;
        size_t alike = 0;
        rmg_suspects s;
        rmg_run run;

        examine(board, rows[i].fault, 1, &run, &s);
        CHECK(rmg_failset_words(run.failures, NULL, ~(rmg_word)0) == words, "%s: %zu words fail",
              rows[i].fault, words);
        for (size_t n = 0; s.count && n < s.list[0].replay_count; n++) {
            const rmg_replayed *r = &s.list[0].replays[n];

            if (r->floats != RMG_FLOATS_AS_FILE || !r->same)
                continue;
            alike++;
            CHECK(gives_the_same(board, r, &run), "%s: %s gives something else", rows[i].fault,
                  r->fault);
        }
        CHECK(alike && s.list[0].replays[0].whole, "%s: something gives the same", rows[i].fault);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
    }
}

CU_TestInfo replay_tests[] = {
    {"the same, and not", the_same_and_not},
    {"two at once", two_at_once},
    {"not explained", not_explained},
    {"passes that differ", passes_that_differ},
    {"needless suspects", needless_suspects},
    {"cut short", cut_short},
    {"from a file", from_a_file},
    {"put in again", put_in_again},
    CU_TEST_INFO_NULL,
};
