/* Fuzzes a file format: FUZZ_FORM 0 board files, 1 fault files for the Halvorn 64, 2 plan files, 3
 * run files. Accepted or refused with a text, never anything else. */
#include <stdio.h>
#include <stdlib.h>
#include <unistd.h>

#include "rimeglass/fault.h"
#include "rimeglass/image.h"
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

/* What is read is written in both hex forms, and reads back as many bytes. */
static void try_image(const char *file)
{
    rmg_image image, back;
    char *message, *bytes;
    size_t size;

    if (rmg_image_load(file, &image, &message) != RMG_OK) {
        if (!message || image.count)
            abort();
        rmg_text_free(message);
        return;
    }
    for (int form = RMG_IMAGE_INTEL; form <= RMG_IMAGE_MOTOROLA; form++) {
        if (rmg_image_form_as(&image, (rmg_image_form)form, 0, &bytes, &size, &message) != RMG_OK ||
            rmg_image_read("x", (rmg_image_form)form, bytes, size, &back, &message) != RMG_OK ||
            rmg_image_bytes(&back) != rmg_image_bytes(&image))
            abort();
        rmg_text_free(bytes);
        rmg_image_free(&back);
    }
    rmg_image_free(&image);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static void (*const tries[])(const char *file) = {try_board, try_faults, try_plan, try_run,
                                                      try_image};
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
