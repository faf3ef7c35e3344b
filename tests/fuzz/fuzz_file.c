/* Fuzzes a file format: FUZZ_FORM 0 board files, 1 fault files for the Halvorn 64, 2 plan files, 3
 * run files. Accepted or refused with a text, never anything else. */
#include <stdio.h>
#include <stdlib.h>
#include <unistd.h>

#include "rimeglass/fault.h"
#include "rimeglass/plan.h"
#include "rimeglass/runfile.h"
#include "rimeglass/suspect.h"

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

static void try_board(const char *file)
{
    rmg_mistakes mistakes = {0};
    rmg_board *board;
    const rmg_status status = rmg_board_load(file, &board, &mistakes);

    if ((status == RMG_OK) != (board != NULL) || (status != RMG_OK && !mistakes.count))
        abort();
    rmg_board_free(board);
    rmg_mistakes_free(&mistakes);
}

static void try_faults(const char *file)
{
    static rmg_board *board;
    rmg_mistakes mistakes = {0};
    rmg_sim_board_run run;
    rmg_status status;

    if (!board && rmg_board_load(RMG_PROJECT "/demo/boards/halvorn64.yaml", &board, &mistakes))
        abort();
    status = rmg_sim_board_begin(&run, board, file, &mistakes);
    if (status != RMG_OK && !mistakes.count)
        abort(); /* what the reader accepts the simulator must accept */
    rmg_sim_board_end(&run);
    rmg_mistakes_free(&mistakes);
}

static void try_plan(const char *file)
{
    rmg_mistakes mistakes = {0};
    rmg_steps steps;
    const rmg_status status = rmg_steps_load(file, &steps, &mistakes);

    if ((status == RMG_OK) != (steps.count != 0) || (status != RMG_OK && !mistakes.count))
        abort();
    rmg_steps_free(&steps);
    rmg_mistakes_free(&mistakes);
}

/* What is read must bear being looked at. */
static void try_run(const char *file)
{
    for (int resume = 0; resume < 2; resume++) {
        rmg_run_file read;
        rmg_suspects suspects;
        char *message;
        const rmg_status status = rmg_run_file_read(file, resume, &read, &message);

        if ((status == RMG_OK) != (message == NULL))
            abort();
        if (status == RMG_OK) {
            rmg_suspects_find(&read.run, &suspects);
            rmg_suspects_free(&suspects);
        }
        rmg_text_free(message);
        rmg_run_file_free(&read);
    }
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static void (*const tries[])(const char *file) = {try_board, try_faults, try_plan, try_run};
    char file[64];
    FILE *to;

    snprintf(file, sizeof file, "/tmp/rimeglass-fuzz-%ld.yaml", (long)getpid());
    to = fopen(file, "wb");
    if (!to || fwrite(data, 1, size, to) != size || fclose(to))
        abort();
    tries[FUZZ_FORM](file);
    remove(file);
    return 0;
}
