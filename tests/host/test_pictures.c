/* Pictures of a run's failures, and the sets and reasons behind them. */
#include <cairo.h>
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/report.h"
#include "rimeglass/replay.h"
#include "suites.h"
#include "temporary.h"

/* A run with one fault. */
static void run_with(const rmg_board *board, const rmg_sim_fault *fault, uint32_t passes,
                     rmg_run *run, rmg_suspects *suspects)
{
    const rmg_plan plan = bench_plan(false, passes);

    bench_examine(board, fault, 1, &plan, 4, run, suspects);
}

static bool holds(const char *path, const char *words)
{
    char *text = file_text(path);
    const bool found = text && strstr(text, words);

    g_free(text);
    return found;
}

static void by_row_and_column(void)
{
    static const struct {
        const char *board, *socket, *bank;
        rmg_fault_kind kind;
        uint8_t data_line;
    } rows[] = {
        {"demo/boards/halvorn64.yaml", "U21", "upper", RMG_FAULT_ROW, 0},
        {"demo/boards/halvorn64.yaml", "U21", "upper", RMG_FAULT_COLUMN, 0},
        {"demo/boards/ostrel16.yaml", "U36", "far", RMG_FAULT_OUTPUT, 2},
        {"demo/boards/tarnbeck.yaml", "U3", "rank 0 low", RMG_FAULT_CELL,
         7}, /* no rows at the pins */
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        rmg_board *board = bench_load(rows[i].board);
        const rmg_sim_fault fault = {.kind = rows[i].kind,
                                     .chip = rmg_board_socket(board, rows[i].socket),
                                     .data_line = rows[i].data_line,
                                     .cell = 5,
                                     .level = 1};
        const char *svg = temporary_path("cells.svg");
        rmg_suspects s;
        rmg_run run;
        rmg_error error = {0};

        run_with(board, &fault, 1, &run, &s);
        CHECK(rmg_draw_failures(&run, rows[i].socket, svg, &error) == RMG_OK &&
                  holds(svg, "<svg") && holds(svg, "</svg>"),
              "row %zu: of the socket", i);
        CHECK(rmg_draw_failures(&run, rows[i].bank, temporary_path("bank.png"), &error) == RMG_OK &&
                  holds(temporary_path("bank.png"), "PNG"),
              "row %zu: of the bank", i);
        CHECK(rmg_draw_failures(&run, "U99", svg, &error) == RMG_ERR_ARGUMENT &&
                  strstr(error.what, "no bank and no socket with memory \"U99\""),
              "%s", error.what);
        rmg_error_free(&error);
        CHECK(rmg_draw_failures(&run, rows[i].socket, "x.gif", &error) == RMG_ERR_ARGUMENT &&
                  strstr(error.what, ".png, .svg or .pdf"),
              "%s", error.what);
        rmg_error_free(&error);
        CHECK(rmg_draw_failures(&run, rows[i].socket, "/none/x.png", &error) == RMG_ERR_FILE,
              "no folder");
        rmg_error_free(&error);
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_board_free(board);
    }
}

/* Pixels of that colour in a rectangle of a picture. */
static unsigned pixels(const char *png, unsigned rgb, int x, int y, int w, int h)
{
    cairo_surface_t *picture = cairo_image_surface_create_from_png(png);
    const int stride = cairo_image_surface_get_stride(picture);
    const unsigned char *bytes = cairo_image_surface_get_data(picture);
    unsigned count = 0;

    for (int j = y; j < y + h; j++)
        for (int i = x; i < x + w; i++) {
            uint32_t pixel;

            memcpy(&pixel, bytes + j * stride + 4 * i, sizeof pixel);
            count += (pixel & 0xFFFFFFu) == rgb;
        }
    cairo_surface_destroy(picture);
    return count;
}

/* Only the first quarter of the columns is tested: there the map is plain but for the row that
 * fails, beside it no pixel looks tested. In the map of the bank, the row is in its own chip alone.
 */
static void tested_or_not(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_sim_fault fault = {
        .kind = RMG_FAULT_ROW, .chip = rmg_board_socket(board, "U20"), .cell = 37, .level = 0};
    rmg_plan plan = bench_plan(false, 1);
    gchar *png = g_strdup(temporary_path("quarter.png"));
    rmg_error error = {0};
    rmg_suspects s;
    rmg_run run;

    plan.limited = true;
    plan.limit = (rmg_range){0x8000, 0x8FFF};
    bench_examine(board, &fault, 1, &plan, 4, &run, &s);
    CHECK(rmg_draw_failures(&run, "U20", png, &error) == RMG_OK, "%s", error.what);
    CHECK(pixels(png, 0xECEAE3, 100, 130, 120, 100) == 12000, "tested and good: plain");
    CHECK(pixels(png, 0xECEAE3, 240, 116, 400, 540) == 0, "not tested: hatched");
    CHECK(pixels(png, 0xB03A00, 100, 270, 120, 12) >= 240, "row 37 reads 0");
    CHECK(pixels(png, 0xB03A00, 100, 116, 500, 140) == 0, "and no other");
    CHECK(rmg_draw_failures(&run, "upper", png, &error) == RMG_OK, "%s", error.what);
    CHECK(pixels(png, 0xB03A00, 332, 138, 266, 266) >= 60, "in U20's map");
    CHECK(pixels(png, 0xB03A00, 24, 138, 266, 266) == 0, "not in U19's");
    g_free(png);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
}

static void over_the_passes(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_sim_fault fault = {.kind = RMG_FAULT_OUTPUT,
                                 .chip = rmg_board_socket(board, "U21"),
                                 .when = {.rate_ppb = 100000}};
    const char *svg = temporary_path("course.svg");
    rmg_suspects s;
    rmg_run run;
    rmg_error error = {0};
    size_t count;

    run_with(board, &fault, 6, &run, &s);
    CHECK(rmg_draw_course(&run, svg, &error) == RMG_OK && holds(svg, "</svg>"), "drawn");
    for (size_t i = 0; i < run.pass_count; i++)
        run.stretches[i].heat_millic = 20000 + 1000 * (int32_t)i;
    CHECK(rmg_draw_course(&run, svg, &error) == RMG_OK && holds(svg, "</svg>"),
          "with a temperature that moves");
    count = (size_t)run.pass_count;
    run.pass_count = 0;
    CHECK(rmg_draw_course(&run, svg, &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "not one whole"),
          "%s", error.what);
    rmg_error_free(&error);
    run.pass_count = count;
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
}

/* The only cell of a chip that fails: what was around it when it first did, or which cell came
 * before. */
static void how_it_first_failed(void)
{
    static const char *const plans[] = {"plan: n\nsteps:\n  - {neighbours: all}\n",
                                        "plan: m\nsteps:\n  - {moving: galloping by lines}\n"};
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const uint16_t u21 = rmg_board_socket(board, "U21");
    const rmg_sim_fault faults[] = {{.kind = RMG_FAULT_PATTERN_SETS,
                                     .chip = u21,
                                     .cell = 42u << 7 | 55u,
                                     .around = 12,
                                     .around_mask = 14},
                                    {.kind = RMG_FAULT_SLOW_DECODER,
                                     .chip = u21,
                                     .cell = 42u << 7 | 55u,
                                     .cell2 = 10u << 7 | 55u,
                                     .reaches = RMG_REACHES_OTHER}};
    const char *png = temporary_path("first.png");

    for (size_t i = 0; i < COUNT(plans); i++) {
        rmg_errors errors = {0};
        rmg_error error = {0};
        rmg_suspects s;
        rmg_steps steps;
        rmg_plan plan = {.steps = &steps, .passes = 1, .seed = 1};
        rmg_run run;

        CHECK(rmg_steps_parse("n", plans[i], &steps, &errors) == RMG_OK, "a plan");
        bench_examine(board, &faults[i], 1, &plan, 7, &run, &s);
        CHECK(rmg_draw_failures(&run, "U21", png, &error) == RMG_OK, "%s", error.what);
        if (i == 0) { /* five cells, the upper one with a thick frame; 1 to its left and right */
            CHECK(pixels(png, 0x1D232C, 919, 447, 54, 4) >= 54 * 4, "what changed: above");
            CHECK(pixels(png, 0x1D232C, 919, 574, 54, 4) < 54 * 2, "and not below");
            CHECK(pixels(png, 0xECEAE3, 860, 512, 10, 46) == 460, "left of it a 1");
            CHECK(pixels(png, 0xECEAE3, 922, 576, 10, 44) == 0, "below it a 0");
        } else { /* a ring of 8 around row 55, column 10 */
            CHECK(pixels(png, 0x1D232C, 130, 345, 24, 20) >= 20, "a ring");
            CHECK(pixels(png, 0x1D232C, 919, 447, 54, 180) == 0, "no cells around");
        }
        rmg_suspects_free(&s);
        rmg_run_end(&run);
        rmg_steps_free(&steps);
    }
    rmg_board_free(board);
}

/* A line that is traced and suspected is drawn under the board, point by point; of a socket none.
 */
static void chain_of_a_line(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    rmg_sim_fault fault = {.kind = RMG_FAULT_ADDRESS_STUCK, .lines = (rmg_addr)1 << 5};
    const rmg_sim_fault chip = {.kind = RMG_FAULT_OUTPUT, .chip = rmg_board_socket(board, "U21")};
    gchar *svg = g_strdup(temporary_path("chain.svg")), *plain = g_strdup(temporary_path("no.svg"));
    gsize with = 0, without = 0;
    gchar *text = NULL;
    rmg_suspects s;
    rmg_run run;
    rmg_error error = {0};

    for (uint16_t n = 0; n < 5; n++)
        rmg_fault_include(&fault, (uint16_t)(rmg_board_socket(board, "U22") + n));
    run_with(board, &fault, 2, &run, &s);
    CHECK(s.count && s.list[0].finding.kind == RMG_FINDING_BRANCH, "a branch of A5");
    CHECK(rmg_draw_run(&run, &s, svg, &error) == RMG_OK &&
              g_file_get_contents(svg, &text, &with, NULL),
          "drawn");
    g_free(text);
    text = NULL;
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    run_with(board, &chip, 2, &run, &s);
    CHECK(rmg_draw_run(&run, &s, plain, &error) == RMG_OK &&
              g_file_get_contents(plain, &text, &without, NULL),
          "drawn");
    g_free(text);
    text = NULL;
    /* letters are drawn as shapes: 24 boxes and their names take room */
    CHECK(with > without + 24 * 100, "%zu and %zu bytes", (size_t)with, (size_t)without);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    g_free(svg);
    g_free(plain);
    rmg_board_free(board);
}

/* What comes and goes: at one socket it is put to it, over several sockets to none. */
static void comes_and_goes(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const rmg_sim_fault one = {.kind = RMG_FAULT_OUTPUT,
                               .chip = rmg_board_socket(board, "U21"),
                               .when = {.rate_ppb = 300000}};
    const rmg_sim_fault noise = {
        .kind = RMG_FAULT_NOISE, .line = RMG_ALL_DATA_LINES, .when = {.rate_ppb = 60000}};
    rmg_suspects s;
    rmg_run run;
    char *json;

    run_with(board, &one, 10, &run, &s);
    CHECK(s.count == 1 && strcmp(s.list[0].site, "U21") == 0 && s.list[0].confidence >= 0.85,
          "one socket: %s, %.2f", s.count ? s.list[0].site : "",
          s.count ? s.list[0].confidence : 0);
    rmg_replay(&run, &s, 0, NULL, NULL);
    rmg_suspects_word(&run, &s);
    json = rmg_run_json(&run, &s);
    CHECK(!s.list[0].replay_count && !strstr(json, "\"same\": true"),
          "what comes and goes is not replayed");
    rmg_text_free(json);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    run_with(board, &noise, 10, &run, &s);
    for (size_t i = 0; i < s.count; i++)
        CHECK(s.list[i].finding.socket == RMG_NO_SOCKET, "noise names no chip: %s", s.list[i].site);
    rmg_suspects_free(&s);
    rmg_run_end(&run);
    rmg_board_free(board);
}

CU_TestInfo picture_tests[] = {
    {"by row and column", by_row_and_column},
    {"tested or not", tested_or_not},
    {"over the passes", over_the_passes},
    {"the chain of a line", chain_of_a_line},
    {"how it first failed", how_it_first_failed},
    {"comes and goes", comes_and_goes},
    CU_TEST_INFO_NULL,
};
