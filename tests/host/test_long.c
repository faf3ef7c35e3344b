/* Long runs: rates and their intervals, passes by time, run files, runs that stop and go on. */
#include <glib.h>
#include <glib/gstdio.h>
#include <jansson.h>
#include <math.h>
#include <string.h>

#include "../../host/run/runner.h"
#include "../check.h"
#include "bench_board.h"
#include "rimeglass/run.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

/* Limits from printed tables of the exact interval, and what follows from its definition. */
static void intervals(void)
{
    static const struct {
        uint64_t events, trials;
        double low, high;
    } rows[] = {
        {0, 10, 0, 0.30850},
        {5, 10, 0.18709, 0.81291},
        {10, 10, 0.69150, 1},
        {1, 100, 0.00025, 0.05446},
        {0, 1, 0, 0.975},
        {50, 1000, 0.03734, 0.06539},
        {3, 1000000, 6.187e-7, 8.767e-6},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        const rmg_rate r = rmg_rate_of(rows[i].events, rows[i].trials);

        CHECK(fabs(r.low - rows[i].low) <=
                      0.001 * rows[i].low + 1e-5 * (rows[i].trials < 1000000) &&
                  fabs(r.high - rows[i].high) <= 0.001 * rows[i].high,
              "row %zu: %g to %g", i, r.low, r.high);
    }
    CHECK(rmg_rate_of(0, 0).high >= 1 && rmg_rate_of(0, 0).low <= 0,
          "of nothing, nothing is known");
    CHECK(rmg_rate_of(700, (uint64_t)1 << 40).low > 5e-10 &&
              rmg_rate_of(700, (uint64_t)1 << 40).high < 7e-10,
          "of very many");
}

static void courses(void)
{
    static const struct {
        uint64_t early, late;
        rmg_movement movement;
        size_t passes;
    } rows[] = {
        {0, 0, RMG_MOVES_UNKNOWN, 20}, {1, 1, RMG_MOVES_NOT, 20},    {1, 4, RMG_MOVES_UP, 20},
        {4, 1, RMG_MOVES_DOWN, 20},    {0, 9, RMG_MOVES_UNKNOWN, 3}, {10, 11, RMG_MOVES_NOT, 10},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_stretch passes[20];
        rmg_run run = {
            .stretches = passes, .stretch_count = rows[i].passes, .pass_count = rows[i].passes};
        rmg_course course;
        uint64_t sum = 0;

        memset(passes, 0, sizeof passes);
        for (size_t p = 0; p < rows[i].passes; p++) {
            passes[p].passes = 1;
            passes[p].failing_reads = p < rows[i].passes / 2 ? rows[i].early : rows[i].late;
        }
        rmg_course_of(&run, &course);
        CHECK(course.movement == rows[i].movement, "row %zu: %d", i, (int)course.movement);
        for (size_t p = 0; p < course.parts; p++)
            sum += course.failing_reads[p];
        CHECK(course.parts == MIN(rows[i].passes, RMG_PARTS) &&
                  sum == rows[i].passes / 2 * rows[i].early +
                             (rows[i].passes - rows[i].passes / 2) * rows[i].late,
              "row %zu: parts", i);
    }
}

/* Forty worlds in which one output sticks now and then: the rate that was put in lies within the
 * stated interval in 36 at least, and only that socket fails. */
static void rate_is_found(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const double injected = 1.0 / 8000;
    unsigned held = 0;

    for (uint64_t seed = 1; seed <= 40; seed++) {
        const rmg_sim_fault f = {
            .kind = RMG_FAULT_OUTPUT, .chip = 11, .level = seed & 1u, .when = {.rate_ppb = 125000}};
        rmg_plan plan = bench_plan(false, 6);
        rmg_sim_board_run bench;
        rmg_place place;
        rmg_run run;
        rmg_error error = {0};
        uint64_t failed, could, wanted = 0;
        rmg_rate rate;

        plan.limited = true;
        plan.limit = (rmg_range){0x8000, 0x8FFF};
        plan.seed = seed;
        bench_start(&bench, board, &f, 1, seed * 77);
        CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK, "begins");
        CHECK(rmg_run_carry_out(&run, &bench.target, NULL) == RMG_OK, "runs");
        for (uint8_t i = 0; i < 8; i++)
            if (rmg_place_find(&board->placement, 0x8000, i, &place) && place.socket == 11) {
                rmg_run_bit_rate(&run, 1, (rmg_word)1 << i, &failed, &could);
                rate = rmg_rate_of(failed, could);
                held += rate.low <= injected && injected <= rate.high;
                for (size_t p = 0; p < run.pass_count; p++) /* March C- reads 0 thrice, 1 twice */
                    wanted +=
                        4096u * ((run.stretches[p].background >> i & 1u) == (seed & 1u) ? 2 : 3);
                CHECK(failed == run.tally.failing && could == wanted,
                      "seed %lu: only that bit fails; %lu reads could show it", (unsigned long)seed,
                      (unsigned long)could);
            }
        rmg_run_end(&run);
        rmg_sim_board_end(&bench);
    }
    CHECK(held >= 36, "the rate is within its interval in %u of 40 runs", held);
    rmg_board_free(board);
}

static uint64_t sim_clock(void *context)
{
    return ((rmg_sim_board_run *)context)->sim.now_ns;
}

/* Passes go on until the target's own time is over; the pass that runs is ended. */
static void passes_by_time(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_plan plan = bench_plan(true, 0);
    rmg_sim_board_run bench;
    const rmg_watch watch = {.context = &bench, .clock_ns = sim_clock};
    rmg_run run;
    rmg_error error = {0};
    double pass;

    plan.seconds = 0.5;
    bench_start(&bench, board, NULL, 0, 1);
    CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) == RMG_OK, "begins");
    CHECK(rmg_run_carry_out(&run, &bench.target, &watch) == RMG_OK && run.complete, "runs");
    pass = (double)run.tested_words * 5 * board->access_ns / 1e9;
    CHECK(run.pass_count == (size_t)ceil(0.5 / pass) || run.pass_count == (size_t)(0.5 / pass) + 1,
          "%zu passes of %g s", (size_t)run.pass_count, pass);
    CHECK(run.seconds_target >= 0.5 && run.seconds_target < 0.5 + 1.1 * pass, "%g s",
          run.seconds_target);
    rmg_run_end(&run);
    rmg_sim_board_end(&bench);
    rmg_board_free(board);
}

/* A run that is watched: it may be stopped at a call, and is recorded at every boundary. */
typedef struct recorder {
    rmg_sim_board_run *bench;
    rmg_run *run;
    rmg_run_writer *writer;
    unsigned calls, stop_at, written;
} recorder;

static uint64_t recorder_clock(void *context)
{
    return ((recorder *)context)->bench->sim.now_ns;
}

static bool maybe_stop(void *context, const rmg_run_progress *progress)
{
    recorder *r = context;

    (void)progress;
    return ++r->calls != r->stop_at;
}

static void write_boundary(void *context)
{
    recorder *r = context;
    const size_t bytes = rmg_sim_state_bytes(&r->bench->sim);
    void *state = g_malloc(bytes);
    rmg_error error = {0};

    rmg_sim_save(&r->bench->sim, state);
    CHECK(rmg_run_writer_write(r->writer, r->run, state, bytes, &error) == RMG_OK, "%s",
          error.what ? error.what : "");
    r->written++;
    g_free(state);
}

static rmg_status watched(recorder *r, rmg_run *run, rmg_sim_board_run *bench)
{
    const rmg_watch watch = {.context = r,
                             .progress = maybe_stop,
                             .clock_ns = recorder_clock,
                             .pass_ended = write_boundary};

    r->run = run;
    r->bench = bench;
    return rmg_run_carry_out(run, &bench->target, &watch);
}

/* The result without what a wall clock gives. */
static json_t *result_of(const rmg_run *run)
{
    rmg_suspects suspects;
    json_t *root, *each;
    char *text;

    rmg_suspects_find(run, NULL, &suspects);
    rmg_suspects_word(run, &suspects);
    text = rmg_run_json(run, &suspects);
    root = json_loads(text, 0, NULL);
    json_object_del(root, "seconds_wall");
    each = json_object_get(json_object_get(root, "passes"), "each");
    for (size_t i = 0; i < json_array_size(each); i++)
        json_object_del(json_array_get(each, i), "ended_seconds_wall");
    rmg_text_free(text);
    rmg_suspects_free(&suspects);
    return root;
}

static const rmg_sim_fault soak[] = {
    {.kind = RMG_FAULT_OUTPUT, .chip = 12, .level = 1, .when = {.rate_ppb = 30000}},
    {.kind = RMG_FAULT_COUPLING_INVERTS, .chip = 2, .cell = 100, .cell2 = 228, .state = 1},
    {.kind = RMG_FAULT_TRANSITION, .chip = 5, .cell = 777, .level = 0},
};

/* Stopped anywhere, read back and continued, a run ends as one that was never stopped. */
static void stopped_and_continued(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_errors none = {0};
    rmg_steps steps;
    const rmg_plan march = bench_plan(false, 5);
    rmg_plan plans[2] = {march, {.steps = &steps, .passes = 4, .seed = 9}};
    char *file = g_strdup(temporary_file("soak.run", ""));

    CHECK(rmg_steps_parse("own",
                          "plan: own\nsteps:\n  - wiring\n  - first memory\n"
                          "  - {march: MATS++, background: random, order: rows first}\n"
                          "  - {hold-ms: 5}\n  - copy\n",
                          &steps, &none) == RMG_OK,
          "plan");
    for (unsigned turn = 0; turn < 8; turn += 3) {
        const rmg_plan *plan = &plans[turn & 1u];
        recorder r = {.stop_at = 950 + 300 * turn}, go_on = {0}, whole = {0};
        rmg_sim_board_run bench;
        rmg_run_file read;
        const size_t reads_bytes = board->bank_count * board->word_bits * sizeof(rmg_bit_reads);
        rmg_bit_reads *reads;
        rmg_tally tally;
        json_t *wanted, *got;
        rmg_run run;
        rmg_error error = {0};

        whole.writer = rmg_run_writer_new(temporary_file("whole.run", ""));
        bench_start(&bench, board, soak, COUNT(soak), 3);
        CHECK(rmg_run_begin(&run, board, plan, "sim:soak.yaml", &error) == RMG_OK, "begins");
        CHECK(watched(&whole, &run, &bench) == RMG_OK && rmg_run_failed(&run), "the whole run");
        wanted = result_of(&run);
        tally = run.tally;
        reads = g_memdup2(run.own->bit_reads, reads_bytes);
        rmg_run_end(&run);
        rmg_sim_board_end(&bench);
        rmg_run_writer_free(whole.writer);

        r.writer = rmg_run_writer_new(file);
        bench_start(&bench, board, soak, COUNT(soak), 3);
        CHECK(rmg_run_begin(&run, board, plan, "sim:soak.yaml", &error) == RMG_OK, "begins");
        CHECK(watched(&r, &run, &bench) == RMG_ERR_CANCELLED, "turn %u: stopped", turn);
        CHECK(rmg_run_writer_close(r.writer, &run, NULL, 0, &error) == RMG_OK, "closed");
        CHECK(run.pass_count && run.pass_count < plan->passes,
              "turn %u: in pass %" G_GUINT64_FORMAT, turn, run.pass_count + 1);
        rmg_run_writer_free(r.writer);
        CHECK(rmg_run_file_read(file, false, &read, &error) == RMG_OK, "turn %u: %s", turn,
              error.what ? error.what : "");
        CHECK(!read.run.complete && read.run.tally.failing == run.tally.failing &&
                  rmg_failset_fingerprint(read.run.failures) ==
                      rmg_failset_fingerprint(run.failures) &&
                  read.run.reads == run.reads,
              "turn %u: all that was found is in the file", turn);
        rmg_run_file_free(&read);
        rmg_run_end(&run);
        rmg_sim_board_end(&bench);

        CHECK(rmg_run_file_read(file, true, &read, &error) == RMG_OK, "turn %u: %s", turn,
              error.what ? error.what : "");
        if (error.what)
            return;
        bench_start(&bench, read.board, soak, COUNT(soak), 3);
        CHECK(rmg_sim_restore(&bench.sim, read.state, read.state_bytes) == RMG_OK, "the board too");
        go_on.writer = rmg_run_writer_new(file);
        CHECK(watched(&go_on, &read.run, &bench) == RMG_OK && read.run.complete, "goes on");
        got = result_of(&read.run);
        CHECK(json_equal(wanted, got), "turn %u: the same end", turn);
        tally.banks = read.run.tally.banks;
        CHECK(bench_same_tally(&tally, &read.run.tally), "turn %u: the same tally", turn);
        CHECK(memcmp(reads, read.run.own->bit_reads, reads_bytes) == 0, "turn %u: the same reads",
              turn);
        g_free(reads);
        json_decref(wanted);
        json_decref(got);
        rmg_run_writer_free(go_on.writer);
        rmg_run_file_free(&read);
        rmg_sim_board_end(&bench);
    }
    rmg_steps_free(&steps);
    g_free(file);
    rmg_board_free(board);
}

/* A port that is lost in the middle of a pass: what was found is kept, in the file too. */
static void damaged_run_files(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_plan plan = bench_plan(true, 2);
    char *file = g_strdup(temporary_file("damaged.run", "")), *text;
    static const struct {
        const char *find, *put, *says;
    } rows[] = {
        {"\"rimeglass_run\":3", "\"rimeglass_run\":2", "older version"},
        {"\"rimeglass_run\":3", "\"rimeglass_run\":4", "no \"rimeglass_run\": 3"},
        {"\"sha256\":\"", "\"sha256\":\"0", "not the one it names"},
        {"\"word: 8", "\"word: 9", "no socket holds D8"},
        {"\"passes\":[[", "\"passes\":[[\"x\",", "passes"},
        {"\"passes\":[[1,", "\"passes\":[[2,", "passes"},
        {"\"passes\":[[1,", "\"passes\":[[-1,", "passes"},
        {"\"pass_count\":2", "\"pass_count\":3", "passes"},
        {"\"stretch_passes\":1", "\"stretch_passes\":0", "passes"},
        {"\"stretch_passes\":1", "\"stretch_passes\":3", "passes"},
        {"\"march\":\"c102", "\"march\":\"0102", "march of its plan"},
        {"\"march\":\"c102", "\"march\":\"ff02", "march of its plan"},
        {"\"not_kept\":0", "\"not_kept\":\"0\"", "failures"},
        {"\"words\":{\"bytes\":", "\"words\":{\"bytes\":1", "failures"},
        {"\"words\":{\"bytes\":", "\"words\":{\"bytes\":-", "failures"},
        {"\"byte_order\":\"", "\"byte_order\":\"x", "another byte order"},
        {"\"wiring\":{\"done\"", "\"wiring\":{\"gone\"", "wiring"},
        {"\"first\":[[", "\"first\":[[[],", "tally"},
        {"\"zlib_base64\":\"", "\"zlib_base64\":\"AAAA", "failures"},
        {"\"state\":{\"bytes\":", "\"state\":{\"bytes\":1", "target's state"},
        {"\"status\":0", "\"status\":99", "status"},
        {"\"seed\":", "\"sead\":", "its plan"},
        {"\"limit\":[0,0]", "\"limit\":[\"a\",0]", "its plan"},
        {"\"boundary\":{", "\"boundary\":0,\"x\":{", "results"},
    };
    recorder r = {0};
    rmg_sim_board_run bench;
    rmg_run_file read;
    rmg_run run;
    rmg_error error = {0};
    gsize size;

    r.writer = rmg_run_writer_new(file);
    bench_start(&bench, board, soak, COUNT(soak), 3);
    CHECK(rmg_run_begin(&run, board, &plan, "sim:", &error) == RMG_OK, "begins");
    CHECK(watched(&r, &run, &bench) == RMG_OK && r.written == 2, "runs");
    rmg_run_writer_free(r.writer);
    rmg_run_end(&run);
    rmg_sim_board_end(&bench);
    CHECK(g_file_get_contents(file, &text, &size, NULL), "written");
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *at = strstr(text, rows[i].find);
        GString *changed = g_string_new(NULL);

        if (rows[i].find[1] == 'w' &&
            rows[i].find[5] == ':') { /* the board's text is in one line */
            at = strstr(text, "\\nword: 8");
            g_string_append_len(changed, text, at - text);
            g_string_append(changed, "\\nword: 9");
            g_string_append(changed, at + strlen("\\nword: 8"));
        } else {
            CHECK(at != NULL, "row %zu: \"%s\" is there", i, rows[i].find);
            g_string_append_len(changed, text, at - text);
            g_string_append(changed, rows[i].put);
            g_string_append(changed, at + strlen(rows[i].find));
        }
        CHECK(rmg_run_file_read(temporary_file("changed.run", changed->str), true, &read, &error) ==
                      RMG_ERR_CONTENT &&
                  error.what && strstr(error.what, rows[i].says),
              "row %zu: %s", i, error.what ? error.what : "read all the same");
        rmg_error_free(&error);
        rmg_run_file_free(&read);
        g_string_free(changed, TRUE);
    }
    for (gsize cut = 0; cut < size; cut += 1 + size / 60) { /* cut off anywhere */
        char *part = g_strndup(text, cut);

        CHECK(rmg_run_file_read(temporary_file("cut.run", part), false, &read, &error) ==
                      RMG_ERR_CONTENT &&
                  error.what,
              "cut at %zu", (size_t)cut);
        rmg_error_free(&error);
        rmg_run_file_free(&read);
        g_free(part);
    }
    CHECK(rmg_run_file_read("/nowhere.run", true, &read, &error) == RMG_ERR_FILE &&
              strstr(error.what, "/nowhere.run: cannot be read"),
          "%s", error.what);
    rmg_error_free(&error);
    rmg_run_file_free(&read);
    g_free(text);
    g_free(file);
    rmg_board_free(board);
}

/* A file that cannot be written: said, and nothing else stands in its place. */
static void unwritable_run_file(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_plan plan = bench_plan(true, 1);
    rmg_run_writer *writer;
    rmg_run run;
    rmg_error error = {0};

    CHECK(rmg_run_begin(&run, board, &plan, "sim:", &error) == RMG_OK, "begins");
    writer = rmg_run_writer_new("/nowhere/at/all.run");
    CHECK(rmg_run_writer_due(writer), "the first boundary is always written");
    CHECK(rmg_run_writer_write(writer, &run, NULL, 0, &error) == RMG_ERR_FILE && error.what &&
              strstr(error.what, "/nowhere/at/all.run"),
          "%s", error.what ? error.what : "");
    CHECK(!rmg_run_writer_due(writer), "not again at once");
    rmg_error_free(&error);
    rmg_run_writer_free(writer);
    rmg_run_end(&run);
    rmg_board_free(board);
}

CU_TestInfo long_tests[] = {
    {"exact intervals", intervals},
    {"how failures move over a run", courses},
    {"an injected rate is found again", rate_is_found},
    {"passes by time", passes_by_time},
    {"stopped and continued", stopped_and_continued},
    {"damaged run files", damaged_run_files},
    {"a run file that cannot be written", unwritable_run_file},
    CU_TEST_INFO_NULL,
};
