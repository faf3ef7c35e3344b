/* Questions to a board: names, addresses as they are written on it. */
#include "rimeglass/board.h"

#include <glib.h>
#include <string.h>

#include "build.h"

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

char *rmg_board_name_hint(const rmg_board *board, const char *name, unsigned of)
{
    GPtrArray *names = g_ptr_array_new();
    const char *near;
    char *hint;

    for (size_t i = 0; of & RMG_NAMES_SOCKETS && i < board->socket_count; i++)
        g_ptr_array_add(names, board->sockets[i].name);
    for (size_t i = 0; of & RMG_NAMES_BANKS && i < board->bank_count; i++)
        g_ptr_array_add(names, board->banks[i].name);
    for (size_t i = 0; of & RMG_NAMES_REGIONS && i < board->region_count; i++)
        g_ptr_array_add(names, board->regions[i].name);
    for (size_t i = 0; of & RMG_NAMES_LINES && i < board->line_count; i++)
        g_ptr_array_add(names, board->lines[i].name);
    g_ptr_array_add(names, NULL);
    near = rmg_nearest(name, (const char *const *)names->pdata);
    hint = near ? g_strdup_printf("; did you mean %s?", near) : g_strdup("");
    g_ptr_array_free(names, TRUE);
    return hint;
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

rmg_word rmg_board_bits(const rmg_board *board, uint8_t bank, uint16_t socket)
{
    rmg_word bits = 0;

    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (board->placement.rules[r].bank == bank &&
            (socket == RMG_NO_SOCKET || board->placement.rules[r].socket == socket))
            bits |= rmg_rule_bits(&board->placement.rules[r]);
    return bits;
}

rmg_addr rmg_board_lanes(const rmg_board *board)
{
    rmg_addr lanes = 0;

    for (size_t n = 0; n < board->line_count; n++)
        if (board->lines[n].kind == RMG_LINE_DATA)
            lanes |= board->lines[n].lane.mask;
    return lanes;
}
