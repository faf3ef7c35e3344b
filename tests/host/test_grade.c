/* Grades: limits among steps of clock, time and supply; chips of a board by its runs. */
#include <jansson.h>
#include <stdlib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/grade.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

static void check_limit(const rmg_grade_chart *chart, int32_t mv, int32_t clean, int32_t failing)
{
    const rmg_grade_point *good, *bad;

    rmg_grade_limit(chart, mv, &good, &bad);
    CHECK((good ? good->at : -1) == clean && (bad ? bad->at : -1) == failing,
          "at %d mV clean %d, failing %d; expected %d, %d", mv, good ? good->at : -1,
          bad ? bad->at : -1, clean, failing);
}

/* The limit is the hardest clean step with no failing one before it, whichever way is harder. */
static void limits(void)
{
    rmg_grade_chart clock = {.axis = RMG_GRADE_CLOCK}, time = {.axis = RMG_GRADE_TIME};
    static const int32_t steps[] = {300, 100, 500, 200, 400};
    size_t count;
    int32_t *supplies;

    for (size_t i = 0; i < COUNT(steps); i++) {
        rmg_grade_add(&clock, 5000, steps[i], 2, steps[i] >= 400);
        rmg_grade_add(&clock, 4500, steps[i], 1, steps[i] == 200); /* clean again above: luck */
        rmg_grade_add(&time, 5000, steps[i], 1, steps[i] <= 200);
    }
    rmg_grade_add(&clock, 5250, 100, 1, 1);
    rmg_grade_add(&clock, 5500, 100, 1, 0);
    CHECK(clock.count == 12, "%zu points", clock.count);
    for (size_t i = 1; i < clock.count; i++)
        CHECK(clock.points[i - 1].supply_mv < clock.points[i].supply_mv ||
                  (clock.points[i - 1].supply_mv == clock.points[i].supply_mv &&
                   clock.points[i - 1].at < clock.points[i].at),
              "points rise");
    check_limit(&clock, 5000, 300, 400);
    check_limit(&clock, 4500, 100, 200);
    check_limit(&clock, 5250, -1, 100);
    check_limit(&clock, 5500, 100, -1);
    check_limit(&clock, 1000, -1, -1);
    check_limit(&time, 5000, 300, 200);
    rmg_grade_add(&clock, 5000, 300, 3, 1); /* the same step again */
    CHECK(clock.count == 12, "no point twice");
    check_limit(&clock, 5000, 200, 300);
    supplies = rmg_grade_supplies(&clock, &count);
    CHECK(count == 4 && supplies[0] == 4500 && supplies[3] == 5500, "%zu supplies", count);
    free(supplies);
    rmg_grade_free(&clock);
    rmg_grade_free(&time);
}

static void words(void)
{
    static const struct {
        int32_t at;
        const char *clock, *time;
    } steps[] = {{4000000, "4 MHz", NULL},
                 {14318180, "14.32 MHz", NULL},
                 {32768, "32.77 kHz", NULL},
                 {125, NULL, "125 ns"},
                 {RMG_NOT_KNOWN, "not stated", "not stated"}};
    static const struct {
        int32_t own;
        const char *text; /* NULL: none */
    } margins[] = {{1000, "a margin of 200 %"},
                   {3000, "no margin was seen"},
                   {3500, "where it was not tried"},
                   {4000, "it fails there"},
                   {RMG_NOT_KNOWN, NULL}};
    rmg_grade_chart chart = {.axis = RMG_GRADE_CLOCK};
    char *text;

    for (size_t i = 0; i < COUNT(steps); i++) {
        text = rmg_grade_step_text(steps[i].clock ? RMG_GRADE_CLOCK : RMG_GRADE_TIME, steps[i].at);
        CHECK(strcmp(text, steps[i].clock ? steps[i].clock : steps[i].time) == 0, "%s", text);
        rmg_text_free(text);
    }
    text = rmg_grade_supply_text(4955);
    CHECK(strcmp(text, "4.95 V") == 0, "%s", text);
    rmg_text_free(text);
    rmg_grade_add(&chart, 5000, 3000, 1, 0);
    rmg_grade_add(&chart, 5000, 3000, 1, 0);
    rmg_grade_add(&chart, 5000, 4000, 1, 1);
    text = rmg_grade_limit_text(&chart, 5000);
    CHECK(strcmp(text,
                 "clean up to 3 kHz in 2 passes (fails in fewer than 78 % of passes), fails at "
                 "4 kHz") == 0,
          "%s", text);
    rmg_text_free(text);
    for (size_t i = 0; i < COUNT(margins); i++) {
        text = rmg_grade_margin_text(&chart, 5000, margins[i].own);
        CHECK(margins[i].text ? text && strstr(text, margins[i].text) : !text, "%d: %s",
              margins[i].own, text ? text : "none");
        rmg_text_free(text);
    }
    rmg_grade_free(&chart);
}

static void carry_out(const rmg_board *board, const rmg_sim_fault *bad, size_t count, rmg_run *run)
{
    const rmg_plan plan = bench_plan(true, 1);
    rmg_sim_board_run bench;
    rmg_error error = {0};

    bench_start(&bench, board, bad, count, 3);
    CHECK(rmg_run_begin(run, board, &plan, "sim", &error) == RMG_OK &&
              rmg_run_carry_out(run, &bench.target, NULL) == RMG_OK,
          "runs");
    rmg_sim_board_end(&bench);
}

/* A run as it would be at another clock and supply; what it holds stays the first one's. */
static rmg_run at(const rmg_run *run, int32_t hz, int32_t mv)
{
    rmg_run copy = *run;

    copy.conditions[RMG_CONDITION_CLOCK_HZ] = hz;
    copy.conditions[RMG_CONDITION_SUPPLY_MV] = mv;
    return copy;
}

static void of_a_board(void)
{
    rmg_board *board = bench_load("demo/boards/halvorn64.yaml");
    const uint16_t u19 = rmg_board_socket(board, "U19"), u22 = rmg_board_socket(board, "U22");
    const rmg_sim_fault bad[] = {{.kind = RMG_FAULT_OUTPUT, .chip = u19, .level = 1},
                                 {.kind = RMG_FAULT_CELL, .chip = u22, .cell = 1234, .level = 1}};
    rmg_run good, one, both, runs[4];
    const rmg_run *list[] = {&runs[0], &runs[1], &runs[2], &runs[3]};
    static const char *const names[] = {"a", "b", "c", "d"};
    rmg_grades grades;
    rmg_error error = {0};
    json_t *json;
    char *text;

    carry_out(board, NULL, 0, &good);
    carry_out(board, bad, 1, &one);
    carry_out(board, bad, 2, &both);
    runs[0] = at(&good, 2000000, 5000);
    runs[1] = at(&one, 3000000, 5000);
    runs[2] = at(&both, 4000000, 5000);
    runs[3] = at(&good, 3000000, 5250);
    CHECK(rmg_grades_of_runs(list, names, 4, &grades, &error) == RMG_OK, "%s", error.what);
    CHECK(grades.chip_count == 2 && grades.chips[0].socket == u19 &&
              grades.chips[1].socket == u22 && grades.sound == 14,
          "%zu chips, %zu sound", grades.chip_count, grades.sound);
    check_limit(&grades.all, 5000, 2000000, 3000000);
    if (grades.chip_count == 2) {
        check_limit(&grades.chips[0].chart, 5000, 2000000, 3000000);
        check_limit(&grades.chips[1].chart, 5000, 3000000, 4000000);
        check_limit(&grades.chips[1].chart, 5250, 3000000, -1);
    }
    CHECK(rmg_grade_own_clock(board, false) == 4000000, "its test ROM's clock");
    board->clock_hz = 3500000;
    CHECK(rmg_grade_own_clock(board, false) == 3500000, "its own clock comes first");
    CHECK(rmg_grade_own_clock(board, true) == 2000000, "an access takes 500 ns");
    board->clock_hz = 0;
    board->rom.known = false;
    CHECK(rmg_grade_own_clock(board, false) == RMG_NOT_KNOWN, "nothing tells");
    text = rmg_grades_json(&grades);
    json = json_loads(text, 0, NULL);
    CHECK(json && json_array_size(json_object_get(json, "steps")) == 4 &&
              json_array_size(json_object_get(json, "chips")) == 2 &&
              json_integer_value(json_object_get(json, "own_clock_hz")) == 4000000,
          "%s", text);
    json_decref(json);
    rmg_text_free(text);
    CHECK(rmg_draw_grades(&grades.all, "board", "", 3500000, temporary_file("grades.png", ""),
                          &error) == RMG_OK,
          "drawn");
    rmg_grades_free(&grades);
    runs[1] = at(&one, RMG_NOT_KNOWN, RMG_NOT_KNOWN);
    CHECK(rmg_grades_of_runs(list, names, 4, &grades, &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "b knows neither clock nor supply"),
          "%s", error.what);
    rmg_error_free(&error);
    runs[1] = at(&one, 3000000, RMG_NOT_KNOWN);
    runs[1].pass_count = 0;
    CHECK(rmg_grades_of_runs(list, names, 4, &grades, &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "b has not one whole pass"),
          "%s", error.what);
    rmg_error_free(&error);
    {
        rmg_board *other = bench_load("demo/boards/ostrel16.yaml");

        runs[1] = at(&one, 3000000, RMG_NOT_KNOWN);
        runs[1].board = other;
        CHECK(rmg_grades_of_runs(list, names, 4, &grades, &error) == RMG_ERR_ARGUMENT &&
                  strstr(error.what, "b is a run of another board file than a"),
              "%s", error.what);
        rmg_error_free(&error);
        rmg_board_free(other);
    }
    rmg_run_end(&good);
    rmg_run_end(&one);
    rmg_run_end(&both);
    rmg_board_free(board);
}

CU_TestInfo grade_tests[] = {
    {"limits", limits}, {"in words", words}, {"chips of a board", of_a_board}, CU_TEST_INFO_NULL};
