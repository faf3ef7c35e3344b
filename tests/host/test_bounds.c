/* Runs of very many passes and sets of very many failures stay in bounded room, and what they say
 * stays right: passes summed up, failure sets packed and unpacked, hostile bytes. */
#include <glib.h>
#include <math.h>
#include <string.h>
#include <sys/stat.h>

#include "../../host/run/failset_pack.h"
#include "../../host/run/runner.h"
#include "../check.h"
#include "bench_board.h"
#include "rimeglass/run.h"
#include "suites.h"
#include "temporary.h"

static const char tiny_text[] =
    "board: tiny\nword: 8\naddresses: words\naddress-lines: 10\nundriven: high\n"
    "regions: [{name: ram, kind: ram, range: 0x000-0x00F}]\n"
    "banks:\n"
    "  - {name: low, range: 0x000-0x3FF, part: 2114, lines: A0-A9, data: {U1: D0-D3, U2: D4-D7}}\n"
    "sockets: [{names: U1-U2, mount: socket}]\n";

static rmg_board *tiny_board(void)
{
    rmg_errors errors = {0};
    rmg_board *board = NULL;

    CHECK(rmg_board_load_text("tiny", tiny_text, &board, &errors) == RMG_OK, "%s",
          errors.count ? errors.list[0].what : "");
    return board;
}

/* What a watcher counts for itself, pass by pass. */
typedef struct counted {
    rmg_run *run;
    rmg_sim_board_run *bench;
    rmg_run_writer *writer;
    uint64_t passes, failing, first_half, before;
    uint64_t stop_at;
} counted;

static void on_pass(void *context)
{
    counted *c = context;
    const uint64_t failed = c->run->tally.failing - c->before;

    c->before = c->run->tally.failing;
    c->passes++;
    c->failing += failed > 0;
}

static bool on_progress(void *context, const rmg_run_progress *p)
{
    const counted *c = context;

    return !c->stop_at || p->pass <= c->stop_at;
}

static uint64_t clock_of(void *context)
{
    return ((counted *)context)->bench->sim.now_ns;
}

static const rmg_sim_fault now_and_then = {
    .kind = RMG_FAULT_OUTPUT, .chip = 1, .data_line = 2, .level = 1, .when = {.rate_ppb = 500000}};

static void carry_on(counted *c)
{
    const rmg_watch watch = {c, on_progress, clock_of, NULL, on_pass};

    rmg_run_carry_out(c->run, &c->bench->target, &watch);
}

static void many_passes(void)
{
    static const uint64_t rows[] = {1023, 1024, 1025, 2048, 2049, 5000, 70001};
    rmg_board *board = tiny_board();

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_plan plan = bench_plan(true, (uint32_t)rows[i]);
        rmg_sim_board_run bench;
        rmg_run run;
        counted c = {.run = &run, .bench = &bench};
        uint64_t passes = 0, failing = 0, reads = 0;
        rmg_course course;
        rmg_error error = {0};

        bench_start(&bench, board, &now_and_then, 1, 5);
        CHECK(rmg_run_begin(&run, board, &plan, "sim:", &error) == RMG_OK, "begins");
        carry_on(&c);
        for (size_t s = 0; s < run.stretch_count; s++) {
            const rmg_stretch *one = &run.stretches[s];

            passes += one->passes;
            failing += one->failing_passes;
            reads += one->failing_reads;
            CHECK(one->passes == run.stretch_passes || s + 1 == run.stretch_count,
                  "%lu passes: stretch %zu is whole", (unsigned long)rows[i], s);
            CHECK(!s || one->seconds_target > run.stretches[s - 1].seconds_target, "in order");
        }
        CHECK(run.complete && run.pass_count == rows[i] && passes == rows[i] && c.passes == rows[i],
              "%lu passes", (unsigned long)rows[i]);
        CHECK(run.stretch_count <= RMG_STRETCHES_MOST &&
                  run.stretch_count > RMG_STRETCHES_MOST / 2u - 1u,
              "%lu passes in %zu stretches", (unsigned long)rows[i], run.stretch_count);
        CHECK(failing == c.failing && reads == run.tally.failing && failing > 0 && failing < passes,
              "%lu passes: %lu of them fail, %lu were seen to", (unsigned long)rows[i],
              (unsigned long)failing, (unsigned long)c.failing);
        CHECK(rmg_rate_of_passes(&run).events == c.failing &&
                  rmg_rate_of_passes(&run).trials == rows[i] && !rmg_run_repeats(&run),
              "the rate is exact");
        rmg_course_of(&run, &course);
        passes = reads = 0;
        for (size_t p = 0; p < course.parts; p++) {
            passes += course.passes[p];
            reads += course.failing_reads[p];
            CHECK(fabs((double)course.passes[p] - (double)rows[i] / 5) <=
                      2.0 * (double)run.stretch_passes,
                  "part %zu is a fifth: %lu", p, (unsigned long)course.passes[p]);
        }
        CHECK(passes == rows[i] && reads == run.tally.failing, "the course holds all");
        rmg_run_end(&run);
        rmg_sim_board_end(&bench);
    }
    rmg_board_free(board);
}

/* Stopped after thousands of passes, read back and continued: as one that was never stopped; and
 * the file is small. */
static void many_passes_continued(void)
{
    rmg_board *board = tiny_board();
    rmg_plan plan = bench_plan(true, 7000);
    const char *file = temporary_path("many.run");
    rmg_run whole, part;
    rmg_sim_board_run bench;
    counted c = {.run = &whole, .bench = &bench};
    rmg_run_file read;
    struct stat about;
    rmg_error error = {0};
    void *state;

    bench_start(&bench, board, &now_and_then, 1, 5);
    CHECK(rmg_run_begin(&whole, board, &plan, "sim:", &error) == RMG_OK, "begins");
    carry_on(&c);
    rmg_sim_board_end(&bench);

    bench_start(&bench, board, &now_and_then, 1, 5);
    plan.passes = 3333;
    c = (counted){.run = &part, .bench = &bench};
    CHECK(rmg_run_begin(&part, board, &plan, "sim:", &error) == RMG_OK, "begins");
    carry_on(&c);
    c.writer = rmg_run_writer_new(file);
    state = g_malloc(rmg_sim_state_bytes(&bench.sim));
    rmg_sim_save(&bench.sim, state);
    CHECK(rmg_run_writer_write(c.writer, &part, state, rmg_sim_state_bytes(&bench.sim), &error) ==
              RMG_OK,
          "%s", error.what ? error.what : "");
    rmg_run_writer_free(c.writer);
    rmg_run_end(&part);
    rmg_sim_board_end(&bench);
    CHECK(stat(file, &about) == 0 && about.st_size < 1 << 20, "%ld bytes", (long)about.st_size);

    CHECK(rmg_run_file_read(file, true, &read, &error) == RMG_OK, "%s",
          error.what ? error.what : "");
    bench_start(&bench, read.board, &now_and_then, 1, 5);
    CHECK(rmg_sim_restore(&bench.sim, read.state, read.state_bytes) == RMG_OK, "the board too");
    read.run.plan.passes = 7000;
    c = (counted){.run = &read.run, .bench = &bench, .before = read.run.tally.failing};
    carry_on(&c);
    CHECK(read.run.pass_count == 7000 && read.run.stretch_count == whole.stretch_count &&
              read.run.stretch_passes == whole.stretch_passes &&
              read.run.own->fingerprint == whole.own->fingerprint &&
              read.run.own->differs == whole.own->differs &&
              read.run.tally.failing == whole.tally.failing &&
              rmg_failset_fingerprint(read.run.failures) == rmg_failset_fingerprint(whole.failures),
          "the same end");
    for (size_t i = 0; i < whole.stretch_count; i++) {
        const rmg_stretch *a = &whole.stretches[i], *b = &read.run.stretches[i];

        CHECK(a->passes == b->passes && a->failing_passes == b->failing_passes &&
                  a->failing_reads == b->failing_reads && a->failing_words == b->failing_words &&
                  a->background == b->background,
              "stretch %zu", i);
    }
    g_free(state);
    rmg_run_file_free(&read);
    rmg_sim_board_end(&bench);
    rmg_run_end(&whole);
    rmg_board_free(board);
}

static const rmg_sim_fault steady = {
    .kind = RMG_FAULT_OUTPUT, .chip = 1, .data_line = 2, .level = 1};

/* Carries so many passes out, writes the run, and reads it back. */
static void write_and_read(rmg_sim_board_run *bench, const rmg_board *board, uint32_t passes,
                           rmg_run_file *read)
{
    const char *file = temporary_path("first.run");
    rmg_plan plan = bench_plan(true, MAX(passes, 1u));
    rmg_run_writer *writer = rmg_run_writer_new(file);
    rmg_error error = {0};
    rmg_run run;
    counted c = {.run = &run, .bench = bench};
    gchar *text, *first, *older;

    CHECK(rmg_run_begin(&run, board, &plan, "sim:", &error) == RMG_OK, "begins");
    if (passes)
        carry_on(&c);
    CHECK(rmg_run_writer_write(writer, &run, NULL, 0, &error) == RMG_OK, "%s",
          error.what ? error.what : "");
    rmg_run_writer_free(writer);
    rmg_run_end(&run);
    CHECK(g_file_get_contents(file, &text, NULL, NULL), "there");
    first = strstr(text, "\"first_pass\"");
    CHECK(first != NULL, "it has the first pass");
    if (passes == 2 &&
        first) { /* as an earlier version wrote it: another number under another key */
        *first = '\0';
        older = g_strdup_printf("%s\"fingerprint\":12345,\"was\"%s", text,
                                first + strlen("\"first_pass\""));
        CHECK(g_file_set_contents(file, older, -1, NULL), "written");
        g_free(older);
    }
    g_free(text);
    CHECK(rmg_run_file_read(file, true, read, &error) == RMG_OK, "%s",
          error.what ? error.what : "");
}

/* A fault that is always there fails alike in each pass, wherever the run was interrupted: before
 * its first pass, after it, or by an earlier version of the tool. */
static void gone_on_with(void)
{
    rmg_board *board = tiny_board();

    for (uint32_t passes = 0; passes < 3; passes++) {
        rmg_sim_board_run bench;
        rmg_run_file read;
        counted c;

        bench_start(&bench, board, &steady, 1, 5);
        write_and_read(&bench, board, passes, &read);
        read.run.plan.passes = 4;
        c = (counted){.run = &read.run, .bench = &bench};
        carry_on(&c);
        CHECK(read.run.pass_count == 4 && read.run.tally.passes_failing == 4 &&
                  rmg_run_repeats(&read.run),
              "after %u passes: %u failed, alike: %d", passes, read.run.tally.passes_failing,
              rmg_run_repeats(&read.run));
        rmg_run_file_free(&read);
        rmg_sim_board_end(&bench);
    }
    rmg_board_free(board);
}

/* A set drawn from a seed: words in stretches and alone, with parts that repeat and that do not. */
static rmg_failset *draw_set(uint64_t *state, unsigned words)
{
    rmg_failset *set = rmg_failset_new();
    rmg_addr at = bench_dice(state, 1000);

    for (unsigned i = 0; i < words; i++) {
        rmg_failset_add(set, at, bench_dice(state, 4) ? 4 : bench_dice(state, 256),
                        bench_dice(state, 256) & 0x30, bench_dice(state, 3) << 24);
        at += bench_dice(state, 3) ? 1 : 1 + bench_dice(state, 5000);
    }
    return set;
}

typedef struct comparing {
    const rmg_failset *other;
    unsigned words, differ;
} comparing;

static void compare_word(void *context, rmg_addr address, uint32_t record,
                         const rmg_fail_part *parts, size_t count)
{
    comparing *c = context;
    size_t others;
    const rmg_fail_part *other = rmg_failset_parts(c->other, address, &others);
    bool same = others == count;

    (void)record;
    for (size_t i = 0; same && i < count; i++)
        same = parts[i].first == other[i].first && parts[i].passes == other[i].passes &&
               parts[i].high == other[i].high && parts[i].low == other[i].low;
    c->words++;
    c->differ += !same;
}

/* Packed and unpacked a set is what it was; cut off or changed anywhere it is refused or another
 * set, and nothing worse. */
static void sets_packed(void)
{
    uint64_t state = 3;

    for (unsigned turn = 0; turn < 40; turn++) {
        rmg_failset *set = draw_set(&state, turn < 2 ? turn : 300), *back = rmg_failset_new();
        comparing c = {back, 0, 0};
        uint64_t left_out;
        uint8_t *bytes;
        size_t size;

        CHECK(rmg_failset_pack(set, 1 << 20, &bytes, &size, &left_out) && !left_out, "packed");
        CHECK(rmg_failset_unpack(back, bytes, size, UINT64_MAX), "turn %u: unpacked", turn);
        rmg_failset_each_record(set, compare_word, &c);
        CHECK(!c.differ && c.words == rmg_failset_words(back, NULL, ~(rmg_word)0),
              "turn %u: %u of %u words differ", turn, c.differ, c.words);
        for (size_t cut = 0; turn < 4 && cut < size; cut++) {
            rmg_failset *part = rmg_failset_new();

            CHECK(!rmg_failset_unpack(part, bytes, cut, UINT64_MAX), "turn %u: cut at %zu", turn,
                  cut);
            rmg_failset_free(part);
        }
        for (unsigned i = 0; i < 200; i++) {
            rmg_failset *changed = rmg_failset_new();
            uint8_t *spoiled = g_memdup2(bytes, size);

            spoiled[bench_dice(&state, size)] = (uint8_t)bench_dice(&state, 256);
            rmg_failset_unpack(changed, spoiled, size, 100000);
            rmg_failset_each_record(changed, compare_word, &(comparing){back, 0, 0});
            rmg_failset_free(changed);
            g_free(spoiled);
        }
        free(bytes);
        rmg_failset_free(set);
        rmg_failset_free(back);
    }
}

/* A set that reaches the last address there may be: one more word after it is refused. */
static void packed_to_the_end(void)
{
    for (rmg_addr last = 99; last < 102; last++) {
        rmg_failset *set = rmg_failset_new(), *back = rmg_failset_new();
        uint64_t left_out;
        uint8_t *bytes;
        size_t size;

        rmg_failset_add(set, 7, 1, 0, 0);
        rmg_failset_add(set, 99, 1, 0, 0);
        rmg_failset_add(set, 100, 2, 0, 0);
        CHECK(rmg_failset_pack(set, 1 << 20, &bytes, &size, &left_out) && !left_out, "packed");
        CHECK(rmg_failset_unpack(back, bytes, size, last) == (last >= 100), "to %u",
              (unsigned)last);
        free(bytes);
        rmg_failset_free(set);
        rmg_failset_free(back);
    }
}

/* More words than may be packed: the first ones are kept, the others counted. */
static void too_many_to_pack(void)
{
    rmg_failset *set = rmg_failset_new(), *back = rmg_failset_new();
    uint64_t left_out;
    uint8_t *bytes;
    size_t size;

    for (rmg_addr a = 0; a < 100000; a += 2)
        rmg_failset_add(set, a, 1, 0, 0);
    CHECK(rmg_failset_pack(set, 30000, &bytes, &size, &left_out) && size < 31000, "%zu bytes",
          size);
    CHECK(rmg_failset_unpack(back, bytes, size, 99999), "unpacked");
    CHECK(left_out && rmg_failset_words(back, NULL, 1) + left_out == 50000, "%lu left out",
          (unsigned long)left_out);
    free(bytes);
    rmg_failset_free(set);
    rmg_failset_free(back);
}

/* Words of which every one fails in its own way: bounded, counted, and those kept are right. */
static void records_are_bounded(void)
{
    rmg_failset *set = rmg_failset_new();
    unsigned wrong = 0;

    for (uint64_t n = 0; n < 400000; n++)
        rmg_failset_add(set, n, n + 1u, 0, n << 8);
    CHECK(!rmg_failset_starved(set), "memory was there");
    CHECK(rmg_failset_lost(set) > 200000 &&
              rmg_failset_words(set, NULL, ~(rmg_word)0) + rmg_failset_lost(set) == 400000,
          "%lu lost", (unsigned long)rmg_failset_lost(set));
    CHECK(rmg_failset_words(set, NULL, ~(rmg_word)0) > 90000, "and many kept");
    for (uint64_t n = 0; n < 400000; n++) {
        size_t count;
        const rmg_fail_part *part = rmg_failset_parts(set, n, &count);

        wrong += count && (count > 1 || part->high != n + 1u || part->first != n << 8);
    }
    CHECK(!wrong, "%u words are wrong", wrong);
    rmg_failset_free(set);
}

/* RAM in very many stretches: 255 can be tested in one run, one more is refused with the reason. */
static void very_many_stretches(void)
{
    for (unsigned count = 255; count <= 256; count++) {
        GString *text = g_string_new("board: combs\nword: 8\naddress-lines: 13\nregions:\n");
        const rmg_plan plan = bench_plan(true, 1);
        rmg_errors errors = {0};
        rmg_error error = {0};
        rmg_board *board;
        rmg_run run;

        for (unsigned i = 0; i < count; i++)
            g_string_append_printf(text, "  - {name: r%u, kind: ram, range: %u-%u}\n", i, i * 16,
                                   i * 16 + 7);
        g_string_append(text, "banks: [{name: all, range: 0-0x1FFF, part: 6264, lines: A0-A12, "
                              "data: {U1: D0-D7}}]\nsockets: [{names: U1, mount: socket}]\n");
        CHECK(rmg_board_load_text("combs.yaml", text->str, &board, &errors) == RMG_OK, "%s",
              errors.count ? errors.list[0].what : "");
        CHECK(rmg_run_begin(&run, board, &plan, "sim", &error) ==
                  (count == 255 ? RMG_OK : RMG_ERR_RANGE),
              "%u stretches", count);
        CHECK(count == 255 || (strstr(error.what, "256 separate stretches") &&
                               strcmp(error.where, "combs.yaml") == 0),
              "%s", error.what);
        rmg_error_free(&error);
        rmg_run_end(&run);
        rmg_board_free(board);
        g_string_free(text, TRUE);
    }
}

/* Lists of files have an end, and a file with very many errors reports the first ones. */
static void long_lists(void)
{
    static const struct {
        const char *title, *head, *again;
        unsigned times;
        const char *says;
    } rows[] = {
        {"regions", "regions:\n", "  - {name: r%u, range: %u-%u, kind: reserved}\n", 1025,
         "more than 1024 regions"},
        {"parts", "regions: []\nparts:\n",
         "  - {number: P%u, kind: sram, width: 1, address-lines: 4}\n", 1025,
         "more than 1024 parts"},
        {"keys", "regions: []\n", "k%u: 1\n", 1001, "more than 1000 keys"},
        {"errors", "regions:\n", "  - nothing\n", 300, "and more of them"},
    };
    rmg_board *halvorn = bench_load("demo/boards/halvorn64.yaml");
    GString *many = g_string_new("faults:\n");
    rmg_errors found = {0};
    rmg_faults faults;

    for (size_t i = 0; i < COUNT(rows); i++) {
        GString *text =
            g_string_new("board: x\nword: 8\naddress-lines: 16\nbanks: []\nsockets: []\n");
        rmg_errors errors = {0};
        rmg_board *board;

        g_string_append(text, rows[i].head);
        for (unsigned n = 0; n < rows[i].times; n++) {
#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wformat-nonliteral"
            g_string_append_printf(text, rows[i].again, n, n, n);
#pragma GCC diagnostic pop
        }
        CHECK(rmg_board_load_text("x", text->str, &board, &errors) == RMG_ERR_CONTENT &&
                  errors.count && errors.count <= 101 &&
                  strstr(errors.list[errors.count - 1].what, rows[i].says),
              "%s: %s", rows[i].title, errors.count ? errors.list[errors.count - 1].what : "");
        rmg_errors_free(&errors);
        g_string_free(text, TRUE);
    }
    for (unsigned n = 0; n <= 4096; n++)
        g_string_append(many, "  - {kind: cell stuck, socket: U19, bit: D7, cell: 1, level: 1}\n");
    CHECK(rmg_faults_load(temporary_file("many.yaml", many->str), halvorn, &faults, &found) ==
                  RMG_ERR_CONTENT &&
              found.count == 1 && strstr(found.list[0].what, "more than 4096 faults"),
          "faults: %s", found.count ? found.list[0].what : "");
    rmg_errors_free(&found);
    g_string_free(many, TRUE);
    rmg_board_free(halvorn);
}

CU_TestInfo bounds_tests[] = {
    {"very many passes", many_passes},
    {"very many passes continued", many_passes_continued},
    {"gone on with", gone_on_with},
    {"failure sets packed", sets_packed},
    {"packed to the last address", packed_to_the_end},
    {"too many to pack", too_many_to_pack},
    {"records are bounded", records_are_bounded},
    {"long lists", long_lists},
    {"very many stretches", very_many_stretches},
    CU_TEST_INFO_NULL,
};
