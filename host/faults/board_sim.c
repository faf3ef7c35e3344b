/* A board as the simulator sees it. */
#include <glib.h>
#include <string.h>

#include "board/internal.h"
#include "rimeglass/fault.h"

#define KEEPS_LONGER 250u /* times what its data sheet says, a sound cell keeps its value */

void rmg_board_to_sim(const rmg_board *board, rmg_sim_model *model)
{
    model->chips = g_new0(rmg_sim_chip, MAX(board->socket_count, 1));
    for (size_t i = 0; i < board->socket_count; i++) {
        const rmg_part *part = board->sockets[i].part;

        model->chips[i].width = part ? part->width : 1;
        model->chips[i].address_lines = part ? part->address_lines : 0;
        model->chips[i].row_lines = part ? part->row_lines : 0;
        model->chips[i].rom = part && part->kind == RMG_PART_ROM;
        if (part && part->kind == RMG_PART_DRAM) {
            model->chips[i].refresh_us = board->refreshes ? (uint32_t)part->refresh_ms * 1000u : 0;
            model->chips[i].keep_us = (uint32_t)part->refresh_ms * 1000u * KEEPS_LONGER;
        }
    }
    model->mirrors = g_new0(rmg_sim_mirror, MAX(board->region_count, 1));
    model->board.mirrors = model->mirrors;
    model->board.mirror_count = 0;
    for (size_t i = 0; i < board->region_count; i++)
        if (board->regions[i].kind == RMG_REGION_MIRROR)
            model->mirrors[model->board.mirror_count++] =
                (rmg_sim_mirror){board->regions[i].range.first, board->regions[i].range.last,
                                 board->regions[i].mirror_of};
    memset(&model->board.pages, 0, sizeof model->board.pages);
    if (board->pages.count) {
        model->board.pages.first = board->pages.window.first;
        model->board.pages.last = board->pages.window.last;
        model->board.pages.select = board->pages.select;
        model->board.pages.shift = board->address_bits;
        model->board.pages.mask = 1;
        while (model->board.pages.mask < board->pages.count - 1u)
            model->board.pages.mask = model->board.pages.mask << 1 | 1u;
    }
    model->board.placement = &board->placement;
    model->board.chips = model->chips;
    model->board.chip_count = (uint16_t)board->socket_count;
    model->board.word_bits = board->word_bits;
    model->board.undriven = board->undriven;
    model->board.hold_ns = board->hold_ns;
    model->board.after = board->after_hold;
    model->board.access_ns = board->access_ns;
    model->board.lanes = rmg_board_lanes(board);
}

void rmg_sim_model_free(rmg_sim_model *model)
{
    g_free(model->chips);
    g_free(model->mirrors);
    model->chips = NULL;
}
