/* Tests a board on any target, simulates what could explain the failures, writes the result as
 * JSON: what the rimeglass tool does, with the public headers alone.
 *
 *   example-test-and-report BOARD.yaml TARGET [RESULT.json]
 *
 * Exit status: 0 no fault found, 1 faults found, 2 wrong call or wrong file, 3 not complete. */
#include <stdio.h>
#include <string.h>

#include "rimeglass/report.h"
#include "rimeglass/target.h"

static int complain(rmg_errors *errors)
{
    for (size_t i = 0; i < errors->count; i++)
        fprintf(stderr, "%s\n", errors->list[i].what);
    rmg_errors_free(errors);
    return 2;
}

/* What was found, in words; and to `file`, unless it is NULL, whole. */
static int report(const rmg_run *run, const rmg_suspects *suspects, const char *file)
{
    rmg_error error = {0};
    char *json = file ? rmg_run_json(run, suspects) : NULL;

    for (size_t i = 0; i < suspects->count; i++)
        printf("%3.0f %%  %s\n", 100 * suspects->list[i].confidence, suspects->list[i].headline);
    if (json && rmg_file_write(file, json, strlen(json), &error) != RMG_OK)
        fprintf(stderr, "%s\n", error.what);
    rmg_error_free(&error);
    rmg_text_free(json);
    return !run->complete ? 3 : rmg_run_failed(run) ? 1 : 0;
}

static int test(const rmg_board *board, const rmg_opened *opened, const char *name,
                const char *file)
{
    const rmg_plan plan = {
        .march_name = "March C-", .march = rmg_march_c_minus, .passes = 2, .seed = 1};
    rmg_run run;
    rmg_suspects suspects;
    rmg_error error = {0};
    int result = 2;

    if (rmg_run_begin(&run, board, &plan, name, &error) != RMG_OK) {
        fprintf(stderr, "%s\n", error.what);
        rmg_error_free(&error);
    } else {
        rmg_target_describe(opened, &run);
        rmg_run_carry_out(&run, &opened->target, NULL);
        rmg_suspects_find(&run, NULL, &suspects);
        rmg_replay(&run, &suspects, 0, NULL, NULL);
        rmg_suspects_word(&run, &suspects);
        result = report(&run, &suspects, file);
        rmg_suspects_free(&suspects);
    }
    rmg_run_end(&run);
    return result;
}

int main(int argc, char **argv)
{
    rmg_errors errors = {0};
    rmg_board *board;
    rmg_opened opened;
    int result;

    if (argc < 3 || rmg_board_load(argv[1], &board, &errors) != RMG_OK)
        return argc < 3 ? fprintf(stderr, "Give a board file and a target.\n"),
               2        : complain(&errors);
    if (rmg_target_open(argv[2], board, &opened, &errors) != RMG_OK)
        result = complain(&errors);
    else
        result = test(opened.board ? opened.board : board, &opened, argv[2], argv[3]);
    rmg_target_close(&opened);
    rmg_board_free(board);
    return result;
}
