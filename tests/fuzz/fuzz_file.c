/* Fuzzes a file format: FUZZ_FORM 0 board files, 1 fault files for a small board, 2 plan files, 3
 * run files, 4 images, 5 catalogues, 6 unfinished readings, 7 profiles and their lines, 8 profiles
 * of prompts. Accepted or refused with a text, never anything else. Files stand in memory, boards
 * are small: what counts is how many inputs are tried.
 */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/mman.h>
#include <unistd.h>

#include "rimeglass/catalogue.h"
#include "rimeglass/target.h"
#include "rimeglass/report.h"
#include "rimeglass/image.h"
#include "rimeglass/lines.h"
#include "rimeglass/plan.h"
#include "rimeglass/prompt.h"
#include "rimeglass/rom.h"
#include "rimeglass/run.h"
#include "rimeglass/suspect.h"

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

/* A board of two RAMs and a ROM of 16 words. */
static const char small_text[] =
    "board: small\nword: 8\naddresses: words\naddress-lines: 8\nundriven: high\n"
    "parts:\n"
    "  - {number: RAM16, kind: sram, width: 4, address-lines: 4, pins: \"A0 A1 A2 A3 DQ1 DQ2 DQ3 "
    "DQ4 "
    "WE\"}\n"
    "  - {number: ROM16, kind: rom, width: 8, address-lines: 4, pins: \"A0 A1 A2 A3 D0 D1 D2 D3 D4 "
    "D5 "
    "D6 D7\"}\n"
    "  - {number: DRAM16, kind: dram, width: 1, address-lines: 4, row-lines: 2, refresh-ms: 2, "
    "pins: \"A0 A1 D Q WE\"}\n"
    "regions: [{name: ram, range: 0x00-0x0F, kind: ram}, {name: rom, range: 0x10-0x1F, kind: "
    "rom}]\n"
    "banks:\n"
    "  - {name: low, range: 0x00-0x0F, part: RAM16, lines: A0-A3, data: {U1: D0-D3, U2: D4-D7}}\n"
    "  - {name: rom, range: 0x10-0x1F, part: ROM16, lines: A0-A3, data: {U3: D0-D7}}\n"
    "sockets: [{names: U1-U3, mount: socket}]\n"
    "lines: [{name: D0, path: [U9.1, [R1, U1.5], U3.5]}, {name: A0, path: [U9.2, U1.1, U3.1]}]\n";

static rmg_board *small_board(void)
{
    static rmg_board *board;
    rmg_errors errors = {0};

    if (!board && rmg_board_load_text("small", small_text, &board, &errors) != RMG_OK) {
        fprintf(stderr, "%s\n", errors.list[0].what);
        abort();
    }
    return board;
}

static void try_board(const char *file)
{
    rmg_errors errors = {0};
    rmg_board *board;
    const rmg_status status = rmg_board_load(file, &board, &errors);

    if ((status == RMG_OK) != (board != NULL) || (status != RMG_OK && !errors.count))
        abort();
    rmg_board_free(board);
    rmg_errors_free(&errors);
}

static void try_faults(const char *file)
{
    rmg_errors errors = {0};
    rmg_sim_board_run run;
    const rmg_status status = rmg_sim_board_begin(&run, small_board(), file, &errors);

    if (status != RMG_OK && !errors.count)
        abort(); /* what the reader accepts the simulator must accept */
    rmg_sim_board_end(&run);
    rmg_errors_free(&errors);
}

static void try_plan(const char *file)
{
    rmg_errors errors = {0};
    rmg_steps steps;
    const rmg_status status = rmg_steps_load(file, &steps, &errors);

    if ((status == RMG_OK) != (steps.count != 0) || (status != RMG_OK && !errors.count))
        abort();
    rmg_steps_free(&steps);
    rmg_errors_free(&errors);
}

/* What is read must bear being looked at. */
static void try_run(const char *file)
{
    for (int resume = 0; resume < 2; resume++) {
        rmg_run_file read;
        rmg_suspects suspects;
        rmg_error error = {0};
        const rmg_status status = rmg_run_file_read(file, resume, &read, &error);

        if ((status == RMG_OK) != (error.what == NULL))
            abort();
        if (status == RMG_OK) {
            rmg_suspects_find(&read.run, NULL, &suspects);
            rmg_suspects_word(&read.run, &suspects);
            rmg_suspects_free(&suspects);
        }
        rmg_error_free(&error);
        rmg_run_file_free(&read);
    }
}

/* What is read is written in both hex forms, and reads back as many bytes. */
static void try_image(const char *file)
{
    rmg_image image, back;
    char *bytes;
    rmg_error error = {0};
    size_t size;

    if (rmg_image_load(file, &image, &error) != RMG_OK) {
        if (!error.what || image.count)
            abort();
        rmg_error_free(&error);
        return;
    }
    for (int form = RMG_IMAGE_INTEL; form <= RMG_IMAGE_MOTOROLA; form++) {
        if (rmg_image_form_as(&image, (rmg_image_form)form, 0, &bytes, &size, &error) != RMG_OK ||
            rmg_image_read("x", (rmg_image_form)form, bytes, size, &back, &error) != RMG_OK ||
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
    rmg_errors errors = {0};
    rmg_identity identity;

    if (rmg_catalogue_load(file, &catalogue, &errors) == RMG_OK) {
        rmg_identify("0", 1, &catalogue, &identity);
        rmg_identity_free(&identity);
    } else if (!errors.count || catalogue.count) {
        abort();
    }
    rmg_catalogue_free(&catalogue);
    rmg_errors_free(&errors);
}

/* What is taken for a reading of the small ROM must bear being judged and continued. */
static void try_reading(const char *file)
{
    static rmg_sim_board_run bench;
    rmg_errors errors = {0};
    rmg_reading reading;
    rmg_quality quality;
    rmg_error error = {0};
    rmg_rom rom;

    if (!bench.adapter && rmg_sim_bare_begin(&bench, small_board(), 2, NULL, &errors) != RMG_OK)
        abort();
    rmg_rom_of_adapter(bench.adapter, &rom);
    if (rmg_reading_load(file, &rom, &bench.target, &reading, &error) == RMG_OK) {
        rmg_reading_judge(&reading, &quality);
        if (reading.wanted > reading.done + 2u)
            reading.wanted = reading.done + 2u;
        if (rmg_reading_run(&reading, &bench.target, NULL, NULL) != RMG_OK)
            abort();
        rmg_reading_judge(&reading, &quality);
    } else if (!error.what) {
        abort();
    }
    rmg_error_free(&error);
    rmg_reading_end(&reading);
}

/* A profile, and after a line "---" what is heard by it: the run must bear being looked at. */
static void try_lines(const char *file)
{
    char *text = calloc(1, 4096), *lines = NULL;
    FILE *from = fopen(file, "r");
    rmg_profile *profile;
    rmg_errors errors = {0};
    rmg_error error = {0};
    rmg_run run;

    if (!text || !from || !fread(text, 1, 4095, from) || !(lines = strstr(text, "\n---\n")))
        lines = text ? text + strlen(text) : NULL;
    if (lines && *lines) {
        lines[1] = '\0';
        lines += 5;
    }
    if (from)
        fclose(from);
    if (text && rmg_profile_load_text("p", text, small_board(), &profile, &errors) == RMG_OK) {
        rmg_suspects suspects;
        rmg_listener *l;

        if (rmg_run_begin_heard(&run, small_board(), "x", rmg_profile_name(profile),
                                rmg_profile_steps(profile)) != RMG_OK)
            abort();
        l = rmg_listen_begin(profile, &run);
        if (rmg_listen_bytes(l, lines, strlen(lines)) != RMG_OK ||
            (rmg_listen_end(l, false, &error) != RMG_OK) != (error.what != NULL))
            abort();
        rmg_listen_free(l);
        rmg_suspects_find(&run, NULL, &suspects);
        rmg_suspects_word(&run, &suspects);
        rmg_suspects_free(&suspects);
        rmg_run_end(&run);
        rmg_profile_free(profile);
    } else if (text && !errors.count) {
        abort();
    }
    rmg_error_free(&error);
    rmg_errors_free(&errors);
    free(text);
}

/* A profile that is read has a name, and one that is not, a reason. */
static void try_prompt(const char *file)
{
    rmg_prompt_profile *profile = NULL;
    rmg_errors errors = {0};
    const rmg_status status = rmg_prompt_profile_load(file, &profile, &errors);

    if ((status == RMG_OK) != (profile != NULL) || (status != RMG_OK && !errors.count) ||
        (profile && !rmg_prompt_profile_name(profile)))
        abort();
    rmg_prompt_profile_free(profile);
    rmg_errors_free(&errors);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static void (*const tries[])(const char *file) = {try_board,   try_faults, try_plan,
                                                      try_run,     try_image,  try_catalogue,
                                                      try_reading, try_lines,  try_prompt};
    static int memory = -1;
    static char file[64];

    if (memory < 0) {
        memory = memfd_create("fuzz", 0);
        snprintf(file, sizeof file, "/proc/self/fd/%d", memory);
    }
    if (memory < 0 || ftruncate(memory, 0) != 0 || pwrite(memory, data, size, 0) != (ssize_t)size)
        abort();
    tries[FUZZ_FORM](file);
    return 0;
}
