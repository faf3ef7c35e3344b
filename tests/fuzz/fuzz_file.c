/* Fuzzes a file format: FUZZ_FORM 0 board files, 1 fault files for the Halvorn 64, 2 plan files, 3
 * run files, 4 images, 5 catalogues, 6 unfinished readings. Accepted or refused with a text, never
 * anything else. */
#include <stdio.h>
#include <stdlib.h>
#include <unistd.h>

#include "rimeglass/catalogue.h"
#include "rimeglass/fault.h"
#include "rimeglass/image.h"
#include "rimeglass/plan.h"
#include "rimeglass/reading.h"
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
            rmg_suspects_find(&read.run, NULL, &suspects);
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

/* What is read is looked up in: nothing may be read past its end. */
static void try_catalogue(const char *file)
{
    rmg_catalogue catalogue;
    rmg_mistakes mistakes = {0};
    rmg_identity identity;

    if (rmg_catalogue_load(file, &catalogue, &mistakes) == RMG_OK) {
        rmg_identify("0123456789abcdef", 16, &catalogue, &identity);
        rmg_identity_free(&identity);
    } else if (!mistakes.count || catalogue.count) {
        abort();
    }
    rmg_catalogue_free(&catalogue);
    rmg_mistakes_free(&mistakes);
}

/* What is taken for a reading of the character ROM must bear being judged and gone on with. */
static void try_reading(const char *file)
{
    static rmg_sim_board_run bench;
    static rmg_board *board;
    rmg_mistakes mistakes = {0};
    rmg_reading reading;
    rmg_quality quality;
    char *message;
    rmg_rom rom;

    if (!board &&
        (rmg_board_load(RMG_PROJECT "/demo/boards/halvorn64.yaml", &board, &mistakes) ||
         rmg_sim_bare_begin(&bench, board, rmg_board_socket(board, "U52"), NULL, &mistakes)))
        abort();
    rmg_rom_of_adapter(bench.adapter, &rom);
    if (rmg_reading_load(file, &rom, &bench.target, &reading, &message) == RMG_OK) {
        rmg_reading_judge(&reading, &quality);
        if (reading.wanted > reading.done + 2u)
            reading.wanted = reading.done + 2u;
        if (rmg_reading_run(&reading, &bench.target, NULL, NULL) != RMG_OK)
            abort();
        rmg_reading_judge(&reading, &quality);
    } else if (!message) {
        abort();
    }
    rmg_text_free(message);
    rmg_reading_end(&reading);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static void (*const tries[])(const char *file) = {try_board, try_faults,    try_plan,   try_run,
                                                      try_image, try_catalogue, try_reading};
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
