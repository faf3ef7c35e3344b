/* Fuzzes a file format: FUZZ_FAULTS 0 board files, 1 fault files for the Halvorn 64. Accepted or
 * refused with a text, never anything else. */
#include <stdio.h>
#include <stdlib.h>
#include <unistd.h>

#include "rimeglass/fault.h"

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

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    char file[64];
    FILE *to;

    snprintf(file, sizeof file, "/tmp/rimeglass-fuzz-%ld.yaml", (long)getpid());
    to = fopen(file, "wb");
    if (!to || fwrite(data, 1, size, to) != size || fclose(to))
        abort();
    if (FUZZ_FAULTS)
        try_faults(file);
    else
        try_board(file);
    remove(file);
    return 0;
}
