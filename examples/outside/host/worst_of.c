/* Tests a board several times, as a bench does over a day, and says of each socket that was ever
 * suspected how sure that was at most: a program of one's own, with the public headers alone.
 *
 *   worst-of BOARD.yaml TARGET [TIMES]
 *
 * Exit status: 0 nobody suspected, 1 somebody, 2 wrong call or wrong file, 3 a run not complete. */
#include <stdio.h>
#include <stdlib.h>

#include <rimeglass/report.h>
#include <rimeglass/target.h>

/* One run of the plan `quick`; keeps in sure[] of each socket the highest that was said. */
static int once(const rmg_board *board, const rmg_opened *opened, const char *name, double *sure)
{
    rmg_errors errors = {0};
    rmg_steps steps;
    rmg_plan plan = {.steps = &steps, .passes = 1, .seed = 1};
    rmg_suspects suspects;
    rmg_error error = {0};
    rmg_run run;
    int status = 2;

    if (rmg_steps_load("quick", &steps, &errors) != RMG_OK) {
        rmg_errors_free(&errors);
        return 2;
    }
    if (rmg_run_begin(&run, board, &plan, name, &error) == RMG_OK) {
        rmg_target_describe(opened, &run);
        status = rmg_run_carry_out(&run, &opened->target, NULL) == RMG_OK ? 0 : 3;
        rmg_suspects_find(&run, NULL, &suspects);
        for (size_t i = 0; i < suspects.count; i++) {
            const uint16_t socket = suspects.list[i].finding.socket;

            if (socket != RMG_NO_SOCKET && suspects.list[i].confidence > sure[socket])
                sure[socket] = suspects.list[i].confidence;
        }
        rmg_suspects_free(&suspects);
    } else {
        fprintf(stderr, "%s\n", error.what);
        rmg_error_free(&error);
    }
    rmg_run_end(&run);
    rmg_steps_free(&steps);
    return status;
}

static int complain(rmg_errors *errors)
{
    for (size_t i = 0; i < errors->count; i++)
        fprintf(stderr, "%s\n", errors->list[i].what);
    rmg_errors_free(errors);
    return 2;
}

static int print(const rmg_board *board, const double *sure)
{
    int any = 0;

    for (size_t i = 0; i < board->socket_count; i++)
        if (sure[i] > 0) {
            printf("%-8s %3.0f %%\n", board->sockets[i].name, 100 * sure[i]);
            any = 1;
        }
    return any;
}

int main(int argc, char **argv)
{
    const int times = argc > 3 ? atoi(argv[3]) : 3;
    rmg_errors errors = {0};
    rmg_opened opened;
    rmg_board *board;
    double *sure;
    int status = 0;

    if (argc < 3 || times < 1) {
        fprintf(stderr, "worst-of BOARD.yaml TARGET [TIMES]\n");
        return 2;
    }
    if (rmg_board_load(argv[1], &board, &errors) != RMG_OK)
        return complain(&errors);
    sure = calloc(board->socket_count, sizeof *sure);
    if (rmg_target_open(argv[2], board, &opened, &errors) != RMG_OK)
        status = complain(&errors);
    for (int n = 0; sure && n < times && status == 0; n++)
        status = once(board, &opened, argv[2], sure);
    rmg_target_close(&opened);
    if (sure && print(board, sure) && status == 0)
        status = 1;
    free(sure);
    rmg_board_free(board);
    return status;
}
