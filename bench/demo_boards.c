/* See demo_boards.h. */
#include "demo_boards.h"

#include <stdio.h>
#include <stdlib.h>

const char *const demo_board_files[DEMO_BOARDS] = {
    "demo/boards/halvorn64.yaml", "demo/boards/ostrel16.yaml", "demo/boards/quarle.yaml",
    "demo/boards/merrow.yaml"};

rmg_board *demo_board(uint64_t number)
{
    const char *file = demo_board_files[number % DEMO_BOARDS];
    rmg_errors errors = {0};
    rmg_board *board = NULL;

    if (rmg_board_load(file, &board, &errors) != RMG_OK) {
        fprintf(stderr, "%s: run this from the top of the project\n", file);
        exit(2);
    }
    return board;
}

void demo_steps(const char *steps, rmg_steps *plan)
{
    rmg_errors errors = {0};
    char text[300];

    snprintf(text, sizeof text, "plan: bench\nsteps: %s%s\n", *steps == '[' ? "" : "\n  - ", steps);
    if (rmg_steps_parse("bench", text, plan, &errors) != RMG_OK) {
        fprintf(stderr, "%s\n", text);
        exit(2);
    }
}

uint64_t demo_dice_start(uint64_t seed)
{
    uint64_t state = seed * UINT64_C(0x9E3779B97F4A7C15) + 0x1234567u;

    for (unsigned i = 0; i < 8; i++)
        demo_dice(&state, 2);
    return state;
}

uint64_t demo_dice(uint64_t *state, uint64_t below)
{
    *state ^= *state << 13;
    *state ^= *state >> 7;
    *state ^= *state << 17;
    return (*state >> 20) % below;
}
