/* A board as the simulator sees it. */
#include <glib.h>
#include <string.h>

#include "rimeglass/fault.h"

#define KEEPS_LONGER 250u /* times what its data sheet says, a sound cell keeps its value */

void rmg_board_to_sim(const rmg_board *board, rmg_sim_model *plan)
{
    plan->chips = g_new0(rmg_sim_chip, MAX(board->socket_count, 1));
    for (size_t i = 0; i < board->socket_count; i++) {
        const rmg_part *part = board->sockets[i].part;

        plan->chips[i].width = part ? part->width : 1;
        plan->chips[i].address_lines = part ? part->address_lines : 0;
        plan->chips[i].row_lines = part ? part->row_lines : 0;
        plan->chips[i].rom = part && part->kind == RMG_PART_ROM;
        if (part && part->kind == RMG_PART_DRAM) {
            plan->chips[i].refresh_us = board->refreshes ? (uint32_t)part->refresh_ms * 1000u : 0;
            plan->chips[i].keep_us = (uint32_t)part->refresh_ms * 1000u * KEEPS_LONGER;
        }
    }
    plan->mirrors = g_new0(rmg_sim_mirror, MAX(board->region_count, 1));
    plan->board.mirrors = plan->mirrors;
    plan->board.mirror_count = 0;
    for (size_t i = 0; i < board->region_count; i++)
        if (board->regions[i].kind == RMG_REGION_MIRROR)
            plan->mirrors[plan->board.mirror_count++] =
                (rmg_sim_mirror){board->regions[i].range.first, board->regions[i].range.last,
                                 board->regions[i].mirror_of};
    memset(&plan->board.pages, 0, sizeof plan->board.pages);
    if (board->pages.count) {
        plan->board.pages.first = board->pages.window.first;
        plan->board.pages.last = board->pages.window.last;
        plan->board.pages.select = board->pages.select;
        plan->board.pages.shift = board->address_bits;
        plan->board.pages.mask = 1;
        while (plan->board.pages.mask < board->pages.count - 1u)
            plan->board.pages.mask = plan->board.pages.mask << 1 | 1u;
    }
    plan->board.placement = &board->placement;
    plan->board.chips = plan->chips;
    plan->board.chip_count = (uint16_t)board->socket_count;
    plan->board.word_bits = board->word_bits;
    plan->board.undriven = board->undriven;
    plan->board.hold_ns = board->hold_ns;
    plan->board.after = board->after_hold;
    plan->board.access_ns = board->access_ns;
}

void rmg_sim_model_free(rmg_sim_model *plan)
{
    g_free(plan->chips);
    g_free(plan->mirrors);
    plan->chips = NULL;
}
