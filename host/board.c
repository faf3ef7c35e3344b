/* Questions to a board: names, addresses the way its people write them, and its simulation. */
#include "rimeglass/board.h"

#include <glib.h>
#include <string.h>

#include "board_internal.h"

uint16_t rmg_board_socket(const rmg_board *board, const char *name)
{
    for (size_t i = 0; i < board->socket_count; i++)
        if (g_ascii_strcasecmp(board->sockets[i].name, name) == 0)
            return (uint16_t)i;
    return RMG_NO_SOCKET;
}

uint8_t rmg_board_bank(const rmg_board *board, const char *name)
{
    for (size_t i = 0; i < board->bank_count; i++)
        if (g_ascii_strcasecmp(board->banks[i].name, name) == 0)
            return (uint8_t)i;
    return RMG_NO_BANK;
}

const rmg_region *rmg_board_region_at(const rmg_board *board, rmg_addr address)
{
    for (size_t i = 0; i < board->region_count; i++)
        if (address >= board->regions[i].range.first && address <= board->regions[i].range.last)
            return &board->regions[i];
    return NULL;
}

uint64_t rmg_board_shown(const rmg_board *board, rmg_addr address)
{
    return (uint64_t)address << board->byte_shift;
}

rmg_addr rmg_board_word(const rmg_board *board, uint64_t shown)
{
    return (rmg_addr)(shown >> board->byte_shift);
}

static int digits(const rmg_board *board)
{
    int bits = board->address_bits + board->byte_shift;

    while (board->last_address >> (bits - board->byte_shift))
        bits++;
    return (bits + 3) / 4;
}

char *rmg_board_address_text(const rmg_board *board, rmg_addr address, char *text, size_t room)
{
    g_snprintf(text, (gulong)room, "0x%0*" G_GINT64_MODIFIER "X", digits(board),
               (guint64)rmg_board_shown(board, address));
    return text;
}

char *rmg_board_range_text(const rmg_board *board, const rmg_range *range, char *text, size_t room)
{
    const guint64 last =
        rmg_board_shown(board, range->last) + ((guint64)1 << board->byte_shift) - 1u;

    g_snprintf(text, (gulong)room, "0x%0*" G_GINT64_MODIFIER "X-0x%0*" G_GINT64_MODIFIER "X",
               digits(board), (guint64)rmg_board_shown(board, range->first), digits(board), last);
    return text;
}

char *rmg_board_line_text(const rmg_board *board, uint8_t bit, char *text, size_t room)
{
    g_snprintf(text, (gulong)room, "A%u", bit + board->byte_shift);
    return text;
}

bool rmg_board_range_parse(const rmg_board *board, const char *text, rmg_range *range)
{
    uint64_t first, last;

    if (!rmg_range_parse(text, &first, &last) || first > last)
        return false;
    if (last >> board->byte_shift > RMG_COUNT_MAX)
        return false;
    range->first = rmg_board_word(board, first);
    range->last = rmg_board_word(board, last);
    return true;
}

bool rmg_next_match(rmg_addr from, rmg_addr mask, rmg_addr match, rmg_addr *found)
{
    const rmg_addr same = (from & ~mask) | match;
    bool any = same >= from;

    *found = same;
    for (uint8_t k = 0; k < RMG_ADDR_BITS; k++) {
        const rmg_addr line = (rmg_addr)1 << k;
        rmg_addr next;

        if ((mask & line) || (from & line))
            continue;
        next = ((((from >> k) | 1u) << k) & ~mask) | match;
        if (next >= from && (!any || next < *found)) {
            *found = next;
            any = true;
        }
    }
    return any;
}

bool rmg_where_within(const rmg_where *where, const rmg_range *range, rmg_where *part)
{
    const rmg_addr first = MAX(where->first, range->first), last = MIN(where->last, range->last);
    rmg_addr mirrored;

    *part = *where;
    if (first > last || !rmg_next_match(first, where->mask, where->match, &part->first))
        return false;
    /* the largest address up to `last` is the smallest from its complement on, complemented */
    if (!rmg_next_match(~last, where->mask, ~where->match & where->mask, &mirrored))
        return false;
    part->last = ~mirrored;
    return part->first <= part->last && part->last <= last && part->first <= last;
}

bool rmg_board_place_byte(const rmg_board *board, uint64_t byte, uint8_t bit, rmg_place *place)
{
    const uint64_t bytes = board->word_bits / 8u;

    if (byte / bytes > board->last_address)
        return false;
    return rmg_place_find(&board->placement, (rmg_addr)(byte / bytes),
                          (uint8_t)(byte % bytes * 8u + bit), place);
}

#define KEEPS_LONGER                                                                               \
    250u /* a sound cell keeps its value so much longer than its data sheet says                   \
          */

void rmg_board_to_sim(const rmg_board *board, rmg_sim_plan *plan)
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

void rmg_sim_plan_free(rmg_sim_plan *plan)
{
    g_free(plan->chips);
    g_free(plan->mirrors);
    plan->chips = NULL;
}
