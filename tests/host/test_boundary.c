/* Both sides of small numbers that no larger test happens to meet: widths of addresses, first and
 * last elements, marks at the very end of a file, values that are exactly 0. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/catalogue.h"
#include "rimeglass/fault.h"
#include "rimeglass/file.h"
#include "rimeglass/heard.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

static rmg_board *made(const char *head, const char *rest)
{
    gchar *text = g_strconcat("board: x\n", head, rest, NULL);
    rmg_errors found = {0};
    rmg_board *board = NULL;

    CHECK(rmg_board_load_text("made.yaml", text, &board, &found) == RMG_OK, "%s",
          found.count ? found.list[0].what : "");
    rmg_errors_free(&found);
    g_free(text);
    return board;
}

#define NOTHING "regions: [{name: r, range: 0-3, kind: ram}]\nbanks: []\nsockets: []\n"

/* As many hex digits as the last address needs; in bytes one or two bits more. */
static void address_digits(void)
{
    static const struct {
        const char *head, *text;
    } rows[] = {
        {"word: 8\naddress-lines: 2\n", "0x1"},
        {"word: 8\naddress-lines: 4\n", "0x1"},
        {"word: 8\naddress-lines: 5\n", "0x01"},
        {"word: 8\naddress-lines: 16\n", "0x0001"},
        {"word: 8\naddress-lines: 17\n", "0x00001"},
        {"word: 8\naddress-lines: 20\n", "0x00001"},
        {"word: 8\naddress-lines: 21\n", "0x000001"},
        {"word: 16\naddresses: bytes\naddress-lines: 16\n", "0x0002"},
        {"word: 16\naddresses: bytes\naddress-lines: 17\n", "0x00002"},
        {"word: 32\naddresses: bytes\naddress-lines: 13\n", "0x0004"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_board *board = made(rows[i].head, NOTHING);
        char text[40];

        CHECK(board &&
                  strcmp(rmg_board_address_text(board, 1, text, sizeof text), rows[i].text) == 0,
              "%s: %s", rows[i].head, text);
        rmg_board_free(board);
    }
}

/* Sockets of a list stand at `at`, and on from there by `step`, which is nothing where it is not
 * given. */
static void places_on_the_drawing(void)
{
    rmg_board *board = made("word: 8\naddress-lines: 4\n",
                            "regions: [{name: r, range: 0-1, kind: ram}]\nbanks: []\nsockets:\n"
                            "  - {names: U1-U2, mount: socket, part: 2114, at: [10, 20]}\n"
                            "  - {names: U3-U4, mount: socket, part: 2114, at: [30, 40], step: [5, "
                            "-6]}\n");

    CHECK(board->sockets[1].x_mm > 9.9 && board->sockets[1].x_mm < 10.1 &&
              board->sockets[1].y_mm > 19.9 && board->sockets[1].y_mm < 20.1,
          "%g, %g", board->sockets[1].x_mm, board->sockets[1].y_mm);
    CHECK(board->sockets[3].x_mm > 34.9 && board->sockets[3].x_mm < 35.1 &&
              board->sockets[3].y_mm > 33.9 && board->sockets[3].y_mm < 34.1,
          "%g, %g", board->sockets[3].x_mm, board->sockets[3].y_mm);
    rmg_board_free(board);
}

/* A designator's letters have room for fifteen; and a socket at the very edge of the drawing is on
 * it.
 */
static void designators_and_edges(void)
{
    static const struct {
        const char *names, *at;
        bool good, hinted;
    } rows[] = {
        {"ABCDEFGHIJKLMNO1-ABCDEFGHIJKLMNO2", "[0, 0]", true, false},
        {"ABCDEFGHIJKLMNOP1-ABCDEFGHIJKLMNOP2", "[0, 0]", false, false},
        {"U1-U2", "[100, 50]", true, false},
        {"U1-U2", "[101, 50]", true, true},
        {"U1-U2", "[100, 51]", true, true},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar *text = g_strdup_printf(
            "board: x\nword: 8\naddress-lines: 4\ndrawing: {width: 100, height: 50}\n"
            "regions: [{name: r, range: 0-1, kind: ram}]\nbanks: []\n"
            "sockets: [{names: %s, mount: socket, part: 2114, at: %s}]\n",
            rows[i].names, rows[i].at);
        rmg_errors found = {0};
        rmg_board *board = NULL;

        CHECK((rmg_board_load_text("made.yaml", text, &board, &found) == RMG_OK) == rows[i].good,
              "%s: %s", rows[i].names, found.count ? found.list[0].what : "taken");
        if (board) {
            char **hints = rmg_board_hints(board);
            bool outside = false;

            for (size_t n = 0; hints[n]; n++)
                outside |= strstr(hints[n], "outside the board") != NULL;
            CHECK(outside == rows[i].hinted, "%s at %s: %d", rows[i].names, rows[i].at, outside);
            rmg_texts_free(hints);
        }
        rmg_errors_free(&found);
        rmg_board_free(board);
        g_free(text);
    }
}

/* Of more than a hundred errors the rest is only said to exist. */
static void very_many_errors(void)
{
    for (unsigned count = 99; count <= 103; count++) {
        GString *text = g_string_new("board: x\nword: 8\naddress-lines: 4\nregions: []\nbanks: []\n"
                                     "sockets:\n");
        rmg_errors found = {0};
        rmg_board *board;

        for (unsigned i = 0; i < count; i++)
            g_string_append_printf(text, "  - {names: U%u, mount: glue}\n", i + 1);
        rmg_board_load_text("made.yaml", text->str, &board, &found);
        CHECK(found.count == MIN(count, 101), "%u errors: %zu", count, found.count);
        CHECK((strstr(found.list[found.count - 1].what, "and more of them") != NULL) ==
                  (count > 100),
              "%u errors: %s", count, found.list[found.count - 1].what);
        rmg_errors_free(&found);
        g_string_free(text, TRUE);
    }
}

/* A picture is ours by a mark that may be the last of it, and not by a part of it. */
static void marks_of_our_own(void)
{
    static const char png[] = "\x89PNG....tEXtSoftware\0Rimeglass";
    static const char svg[] = "<svg/><!-- Rimeglass -->\n";
    static const struct {
        const char *bytes;
        size_t size;
    } rows[] = {{png, sizeof png - 1}, {svg, sizeof svg - 1}};
    const char *path = temporary_path("mark.any");

    for (size_t i = 0; i < COUNT(rows); i++) {
        g_file_set_contents(path, rows[i].bytes, (gssize)rows[i].size, NULL);
        CHECK(rmg_file_is_ours(path), "%zu: whole", i);
        g_file_set_contents(path, rows[i].bytes, (gssize)rows[i].size - 1, NULL);
        CHECK(!rmg_file_is_ours(path), "%zu: cut", i);
    }
}

/* The first memory may be one word, at the beginning or end of what is tested. */
static void first_memory_of_one_word(void)
{
    static const char *const ranges[] = {"0x0", "0xF", "0x3-0x4"};

    for (size_t i = 0; i < COUNT(ranges); i++) {
        gchar *head = g_strdup_printf("word: 8\naddress-lines: 4\nfirst-memory: %s\n", ranges[i]);
        rmg_board *board = made(head, "regions: [{name: r, range: 0-15, kind: ram}]\nbanks: []\n"
                                      "sockets: []\n");
        const rmg_plan plan = bench_plan(true, 1);
        rmg_error error = {0};
        rmg_run run;

        CHECK(rmg_run_begin(&run, board, &plan, "x", &error) == RMG_OK &&
                  run.first_memory_count == 1 &&
                  run.first_memory[0].first == board->first_memory.first,
              "%s: %zu", ranges[i], run.first_memory_count);
        rmg_run_end(&run);
        rmg_board_free(board);
        g_free(head);
    }
}

/* Cells of a fault file: the last one of the chip, and the one after it. */
static void last_cells(void)
{
    static const struct {
        const char *entry;
        bool good;
    } rows[] = {
        {"kind: state coupling, socket: U31, bit: D0, cell: 16383, level: 0, by-cell: 16382, "
         "while: 1",
         true},
        {"kind: state coupling, socket: U31, bit: D0, cell: 16382, level: 0, by-cell: 16383, "
         "while: 1",
         true},
        {"kind: state coupling, socket: U31, bit: D0, cell: 16384, level: 0, by-cell: 1, while: 1",
         false},
        {"kind: state coupling, socket: U31, bit: D0, cell: 1, level: 0, by-cell: 16384, while: 1",
         false},
        {"kind: row stuck, socket: U31, row: 255, level: 0", true},
        {"kind: row stuck, socket: U31, row: 256, level: 0", false},
        {"kind: column stuck, socket: U31, column: 63, level: 0", true},
        {"kind: column stuck, socket: U31, column: 64, level: 0", false},
    };
    rmg_board *board = bench_load("demo/boards/ostrel16.yaml");

    for (size_t i = 0; i < COUNT(rows); i++) {
        gchar *text = g_strdup_printf("faults:\n  - {%s}\n", rows[i].entry);
        rmg_errors errors = {0};
        rmg_faults faults;
        const rmg_status status =
            rmg_faults_load(temporary_file("cells.yaml", text), board, &faults, &errors);

        CHECK((status == RMG_OK) == rows[i].good, "%s: %s", rows[i].entry,
              errors.count ? errors.list[0].what : "read");
        rmg_errors_free(&errors);
        rmg_faults_free(&faults);
        g_free(text);
    }
    rmg_board_free(board);
}

static void count_record(void *context, rmg_addr address, uint32_t record,
                         const rmg_fail_part *parts, size_t count)
{
    GHashTable *records = context;

    (void)address;
    (void)parts;
    (void)count;
    g_hash_table_add(records, GUINT_TO_POINTER(record));
}

/* Words that failed alike share a record, in whatever order they came. */
static void records_shared(void)
{
    rmg_failset *set = rmg_failset_new();
    GHashTable *records = g_hash_table_new(NULL, NULL);

    for (rmg_addr a = 0; a < 3000; a++)
        rmg_failset_add(set, a * 37 % 3001, a % 3 ? 1 : 2, 0, 7);
    rmg_failset_each_record(set, count_record, records);
    CHECK(g_hash_table_size(records) == 2 && rmg_failset_words(set, NULL, 3) == 3000, "%u records",
          g_hash_table_size(records));
    g_hash_table_destroy(records);
    rmg_failset_free(set);
}

/* No time at all is a time; a negative one is none. */
static void times_of_nothing(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_suspects none = {0};
    char *text;
    rmg_run run;

    CHECK(rmg_run_begin_heard(&run, board, "x", "p", NULL) == RMG_OK, "begins");
    run.seconds_target = 0;
    text = rmg_run_json(&run, &none);
    CHECK(strstr(text, "\"seconds_target\": 0.0") != NULL, "0");
    rmg_text_free(text);
    run.seconds_target = -1;
    text = rmg_run_json(&run, &none);
    CHECK(strstr(text, "\"seconds_target\": null") != NULL, "none");
    rmg_text_free(text);
    rmg_run_end(&run);
    rmg_board_free(board);
}

/* The march of a plan of one march: its hold, its name, and nothing else. */
static void steps_of_one_march(void)
{
    rmg_steps steps;

    CHECK(rmg_steps_of_march("March C-", rmg_march_c_minus, &steps) == RMG_OK && steps.count == 3 &&
              steps.list[2].hold_us == 100000 && steps.list[2].kind == RMG_STEP_MARCH &&
              strcmp(steps.list[2].name, "March C-") == 0 &&
              strcmp(steps.list[0].name, "wiring") == 0 &&
              strcmp(steps.list[1].name, "first memory") == 0,
          "%zu steps", steps.count);
    rmg_steps_free(&steps);
}

/* A board with pages hands them to the simulator as they are in its file. */
static void pages_to_the_simulator(void)
{
    rmg_board *board =
        made("word: 8\naddress-lines: 15\n",
             "pages: {window: 0x4000-0x4FFF, select: 0x5000, count: 3}\n"
             "regions: [{name: r, range: 0-0xFFF, kind: ram}, {name: w, range: 0x4000-0x4FFF, "
             "kind: ram}]\nbanks: []\nsockets: []\n");
    rmg_sim_model model;

    if (!board)
        return;
    rmg_board_to_sim(board, &model);
    CHECK(model.board.pages.first == 0x4000 && model.board.pages.last == 0x4FFF &&
              model.board.pages.select == 0x5000 && model.board.pages.shift == 15 &&
              model.board.pages.mask == 3,
          "%lx-%lx", (unsigned long)model.board.pages.first, (unsigned long)model.board.pages.last);
    rmg_sim_model_free(&model);
    rmg_board_free(board);
}

CU_TestInfo boundary_tests[] = {
    {"designators and edges", designators_and_edges},
    {"digits of addresses", address_digits},
    {"places on the drawing", places_on_the_drawing},
    {"very many errors", very_many_errors},
    {"marks of our own", marks_of_our_own},
    {"first memory of one word", first_memory_of_one_word},
    {"last cells", last_cells},
    {"records are shared", records_shared},
    {"times of nothing", times_of_nothing},
    {"steps of one march", steps_of_one_march},
    {"pages to the simulator", pages_to_the_simulator},
    CU_TEST_INFO_NULL,
};
