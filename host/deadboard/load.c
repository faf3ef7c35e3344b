/* A test ROM's code as a program that is loaded into RAM. */
#include "base/internal.h"
#include "board/internal.h"
#include "rimeglass/deadboard.h"

#define PAGE 256u

rmg_status rmg_dead_load(const rmg_board *board, rmg_board_rom *how, uint32_t at, rmg_error *error)
{
    const rmg_region *region = rmg_board_region_at(board, rmg_board_word(board, at));
    rmg_status status = RMG_OK;

    if (at & (PAGE - 1u))
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        "0x%X: expected an address that is a multiple of 256", at);
    if (!region || region->kind != RMG_REGION_RAM)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL, "0x%X: no RAM of the board file lies there",
                        at);
    how->socket_count = how->header_count = 0;
    how->slot_size = how->offset = 0;
    how->load_at = at;
    how->load_size = PAGE;
    for (;;) { /* what it tests, and so its size, depends on what it takes */
        rmg_testrom_plan plan;
        rmg_dead_image image = {0};
        uint32_t takes;

        status = rmg_dead_plan(board, how, &plan, NULL, NULL, error);
        if (status == RMG_OK)
            status = rmg_dead_make(how, &plan, &image, error);
        takes = (uint32_t)image.used + rmg_testrom_rows[how->processor].vectors;
        rmg_dead_image_free(&image);
        if (status == RMG_OK || takes <= how->load_size)
            break;
        rmg_error_free(error);
        how->load_size = (takes + PAGE - 1u) & ~(uint32_t)(PAGE - 1u);
    }
    if (status == RMG_OK && rmg_board_word(board, at + how->load_size - 1u) > region->range.last)
        status =
            rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                     "the program takes %u bytes, more than lie between 0x%X and the end of %s",
                     how->load_size, at, region->name);
    return status;
}
