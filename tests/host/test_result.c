/* Results: JSON with every promised field, files whole or not at all, pictures. */
#include <fcntl.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <jansson.h>
#include <signal.h>
#include <string.h>
#include <sys/file.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <unistd.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

static rmg_board *board;
static rmg_run run;
static rmg_suspects suspects;

static void make_run(void)
{
    const rmg_sim_fault bad = {.kind = RMG_FAULT_OUTPUT, .chip = 8, .level = 0};
    const rmg_plan plan = bench_plan(true, 2);
    rmg_sim_board_run bench;
    rmg_error error = {0};

    board = bench_load("demo/boards/halvorn64.yaml");
    bench_start(&bench, board, &bad, 1, 9);
    CHECK(rmg_run_begin(&run, board, &plan, "sim:x", &error) == RMG_OK &&
              rmg_run_carry_out(&run, &bench.target, NULL) == RMG_OK,
          "runs");
    rmg_suspects_find(&run, NULL, &suspects);
    rmg_suspects_word(&run, &suspects);
    rmg_sim_board_end(&bench);
}

static void drop_run(void)
{
    rmg_suspects_free(&suspects);
    rmg_run_end(&run);
    rmg_board_free(board);
}

static void json_fields(void)
{
    static const char *const fields[] = {"board",         "target",   "plan",       "passes",
                                         "complete",      "verdict",  "tested",     "not_tested",
                                         "failures",      "suspects", "operations", "seconds_wall",
                                         "seconds_target"};
    char *text;
    json_t *root, *first;

    make_run();
    text = rmg_run_json(&run, &suspects);
    root = json_loads(text, 0, NULL);
    for (size_t i = 0; i < COUNT(fields); i++)
        CHECK(json_object_get(root, fields[i]), "%s", fields[i]);
    CHECK(json_is_true(json_object_get(root, "complete")) &&
              strcmp(json_string_value(json_object_get(root, "verdict")), "fail") == 0,
          "complete and failed");
    first = json_array_get(json_object_get(root, "suspects"), 0);
    CHECK(first && strcmp(json_string_value(json_object_get(first, "site")), "U19") == 0, "U19");
    CHECK(json_real_value(json_object_get(first, "explained")) == 1.0 &&
              json_array_size(json_object_get(first, "because")) &&
              json_array_size(json_object_get(first, "next")) &&
              json_array_size(json_object_get(first, "rivals")),
          "its evidence");
    first = json_array_get(json_object_get(json_object_get(root, "failures"), "by_bit"), 0);
    CHECK(json_integer_value(json_object_get(first, "words")) == 0x4000 &&
              json_integer_value(json_object_get(first, "bit")) == 7,
          "D7 of 16384 words");
    json_decref(root);
    rmg_text_free(text);
    text = rmg_board_json(board);
    root = json_loads(text, 0, NULL);
    CHECK(json_array_size(json_object_get(root, "sockets")) == 18, "the board as JSON");
    json_decref(root);
    rmg_text_free(text);
    drop_run();
}

/* Each way in which a file cannot be written: told, nothing under its name, the old one kept. */
static void files_whole_or_not(void)
{
    const char *good = temporary_path("result.json");
    gchar *deep = g_strdup_printf("%s/none/result.json", good);
    struct rlimit limit, small;
    char *text;
    rmg_error error = {0};

    CHECK(rmg_file_write(good, "one\n", 4, &error) == RMG_OK && !error.what, "written");
    CHECK(rmg_file_write(deep, "x", 1, &error) == RMG_ERR_FILE && error.status == RMG_ERR_FILE &&
              strstr(error.what, deep) && strcmp(error.where, deep) == 0,
          "no such folder");
    rmg_error_free(&error);
    CHECK(rmg_file_write("/dev/full", "x", 1, &error) == RMG_ERR_FILE &&
              strstr(error.what, "/dev/full"),
          "device full");
    rmg_error_free(&error);
    CHECK(g_file_test("/dev/full", G_FILE_TEST_EXISTS) &&
              !g_file_test("/dev/full", G_FILE_TEST_IS_REGULAR),
          "a device stays one");
    signal(SIGXFSZ, SIG_IGN);
    getrlimit(RLIMIT_FSIZE, &limit);
    small = limit;
    small.rlim_cur = 2;
    setrlimit(RLIMIT_FSIZE, &small);
    CHECK(rmg_file_write(good, "two two\n", 8, &error) == RMG_ERR_FILE && error.what, "no room");
    setrlimit(RLIMIT_FSIZE, &limit);
    rmg_error_free(&error);
    text = file_text(good);
    CHECK(text && strcmp(text, "one\n") == 0, "the old file is whole");
    g_free(text);
    g_free(deep);
}

static void left_file(const char *name, const char *text)
{
    CHECK(g_file_set_contents(name, text, -1, NULL), "%s", name);
}

static bool there(const char *name)
{
    return g_file_test(name, G_FILE_TEST_EXISTS);
}

/* A process killed between two names leaves a file: who writes next takes it away, but no file that
 * somebody holds, and none of another name. */
static void what_a_killed_process_left(void)
{
    const char *file = temporary_path("again.json");
    gchar *folder = g_path_get_dirname(file), *left[3], *text;
    rmg_error error = {0};
    int held;

    for (unsigned i = 0; i < 3; i++) {
        left[i] = g_strdup_printf("%s/.again.json.rimeglass-%u.new", folder, i);
        left_file(left[i], "left\n");
    }
    g_unlink(file);
    CHECK(rmg_file_write(file, "one\n", 4, &error) == RMG_OK && there(left[0]),
          "a new name needs no other");
    held = open(left[0], O_RDONLY | O_CLOEXEC);
    CHECK(held >= 0 && flock(held, LOCK_EX) == 0, "somebody writes");
    CHECK(rmg_file_write(file, "two\n", 4, &error) == RMG_OK && there(left[0]) && !there(left[1]) &&
              there(left[2]),
          "the first that nobody holds");
    close(held);
    CHECK(rmg_file_write(file, "three\n", 6, &error) == RMG_OK && !there(left[0]), "the first");
    text = file_text(left[2]);
    CHECK(text && strcmp(text, "left\n") == 0, "no other is touched");
    g_free(text);
    text = file_text(file);
    CHECK(text && strcmp(text, "three\n") == 0, "written");
    g_free(text);
    left_file(left[0], "left\n");
    left_file(left[1], "left\n");
    CHECK(rmg_file_remove(file, &error) == RMG_OK && !there(file) && !there(left[0]) &&
              !there(left[1]) && !there(left[2]),
          "with what was left");
    CHECK(rmg_file_remove(file, &error) == RMG_OK && !error.what, "nothing to remove");
    CHECK(rmg_file_remove(folder, &error) == RMG_ERR_FILE && strstr(error.what, folder),
          "no folder: %s", error.what);
    rmg_error_free(&error);
    CHECK(rmg_file_write(file, "one\n", 4, &error) == RMG_OK, "again");
    CHECK(mkdir(left[0], 0700) == 0 && rmg_file_write(file, "four\n", 5, &error) == RMG_OK &&
              there(left[0]) && rmdir(left[0]) == 0,
          "a folder of that name stays");
    CHECK(symlink(file, left[0]) == 0 && rmg_file_write(file, "five\n", 5, &error) == RMG_OK &&
              g_file_test(left[0], G_FILE_TEST_IS_SYMLINK),
          "and a link");
    g_unlink(left[0]);
    for (unsigned i = 0; i < 3; i++)
        g_free(left[i]);
    g_free(folder);
}

static void pictures(void)
{
    const char *png = temporary_path("board.png"), *svg = temporary_path("board.svg");
    const char *gif = temporary_path("board.gif");
    char *text;
    rmg_error error = {0};

    make_run();
    CHECK(rmg_draw_run(&run, &suspects, png, &error) == RMG_OK, "png");
    text = file_text(png);
    CHECK(text && memcmp(text, "\x89PNG", 4) == 0, "is a PNG");
    /* width and height stand in the header, big-endian at bytes 16 and 20 */
    CHECK(text && memcmp(text + 16, "\0\0\5\0\0\0\3\x20", 8) == 0, "1280 by 800");
    g_free(text);
    CHECK(rmg_draw_run(&run, &suspects, svg, &error) == RMG_OK, "svg");
    text = file_text(svg);
    CHECK(text && strstr(text, "<svg") && strstr(text, "</svg>"), "is an SVG");
    g_free(text);
    CHECK(rmg_draw_run(&run, &suspects, gif, &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, ".png, .svg or .pdf") && !g_file_test(gif, G_FILE_TEST_EXISTS),
          "no other form");
    rmg_error_free(&error);
    board->width_mm = 0;
    CHECK(rmg_draw_run(&run, &suspects, png, &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "drawing"),
          "a board without places");
    rmg_error_free(&error);
    drop_run();
}

CU_TestInfo result_tests[] = {
    {"JSON has what is promised", json_fields},
    {"files whole or not at all", files_whole_or_not},
    {"what a killed process left", what_a_killed_process_left},
    {"pictures", pictures},
    CU_TEST_INFO_NULL,
};
