/* Loads a board file, tests the simulated board, prints what to look at.
 *
 *   example-test-a-board BOARD.yaml [FAULTS.yaml]
 *
 * Exit status: 0 no fault found, 1 faults found, 2 a file is wrong, 3 the run is not complete. */
#include <stdio.h>

#include "rimeglass/target.h"
#include "rimeglass/report.h"
#include "rimeglass/suspect.h"

static int complain(rmg_errors *errors)
{
    for (size_t i = 0; i < errors->count; i++)
        fprintf(stderr, "%s\n", errors->list[i].what);
    rmg_errors_free(errors);
    return 2;
}

static int test_board(const rmg_board *board, const rmg_target *target)
{
    const rmg_plan plan = {
        .march_name = "March C-", .march = rmg_march_c_minus, .passes = 2, .seed = 1};
    rmg_run run;
    rmg_suspects suspects;
    rmg_error error = {0};
    int result = 2;

    if (rmg_run_begin(&run, board, &plan, "simulated board", &error) != RMG_OK) {
        fprintf(stderr, "%s\n", error.what);
        rmg_error_free(&error);
    } else if (rmg_run_carry_out(&run, target, NULL) != RMG_OK) {
        fprintf(stderr, "The run stopped: %s.\n", rmg_status_text(run.status));
        result = 3;
    } else {
        rmg_suspects_find(&run, NULL, &suspects);
        rmg_suspects_word(&run, &suspects);
        for (size_t i = 0; i < suspects.count; i++)
            printf("%s\n", suspects.list[i].headline);
        if (!rmg_run_failed(&run))
            printf("No fault found.\n");
        result = rmg_run_failed(&run);
        rmg_suspects_free(&suspects);
    }
    rmg_run_end(&run);
    return result;
}

int main(int argc, char **argv)
{
    rmg_errors errors = {0};
    rmg_sim_board_run sim;
    rmg_board *board;
    int result;

    if (argc < 2) {
        fprintf(stderr, "Give a board file and, if you like, a fault file.\n");
        return 2;
    }
    if (rmg_board_load(argv[1], &board, &errors) != RMG_OK)
        return complain(&errors);
    if (rmg_sim_board_begin(&sim, board, argc > 2 ? argv[2] : NULL, &errors) != RMG_OK)
        result = complain(&errors);
    else
        result = test_board(board, &sim.target);
    rmg_sim_board_end(&sim);
    rmg_board_free(board);
    return result;
}
