/* What all readers of a board file share: memory that lives with the board, and ranges. */
#include "build.h"

void *rmg_board_keep(board_build *b, size_t bytes)
{
    void *memory = g_malloc0(bytes ? bytes : 1);

    g_ptr_array_add(b->board->store, memory);
    return memory;
}

rmg_range rmg_board_range(board_build *b, const ynode *map, const char *key)
{
    const ynode *node = rmg_yaml_need(b->file, map, key);
    const rmg_board *board = b->board;
    const rmg_addr top = board->last_address;
    rmg_range range = {0, 0};
    uint64_t first, last;
    char text[40];

    if (!node)
        return range;
    if (!rmg_range_parse(rmg_yaml_text(node), &first, &last)) {
        rmg_yaml_wrong(b->file, node, key, "found \"%s\", expected a range like 0x8000-0xBFFF",
                       rmg_yaml_text(node));
        return range;
    }
    if (first > last) {
        rmg_yaml_wrong(b->file, node, key, "%s ends below its start", rmg_yaml_text(node));
        return range;
    }
    range.first = (rmg_addr)(first >> board->byte_shift);
    range.last = (rmg_addr)(last >> board->byte_shift);
    if (range.last > top) {
        rmg_board_address_text(board, top, text, sizeof text);
        rmg_yaml_wrong(b->file, node, key,
                       "%s is past the address width: with %u address lines the last address is %s",
                       rmg_yaml_text(node), board->address_bits + board->byte_shift, text);
        range.first = range.last = 0;
    } else if (first != (uint64_t)range.first << board->byte_shift ||
               last + 1u != ((uint64_t)range.last + 1u) << board->byte_shift) {
        rmg_yaml_wrong(b->file, node, key, "%s splits a word of %u bits", rmg_yaml_text(node),
                       board->word_bits);
    }
    return range;
}

const char *const rmg_region_kind_names[] = {"ram",  "rom",   "reserved", "shadow",
                                             "kept", "empty", "mirror",   NULL};
static const char *const region_reasons[] = {
    "",
    "ROM is not tested by writing",
    "reserved: writing here may do something",
    "other memory answers here; the cells beneath are not tested",
    "its contents are kept",
    "nothing is fitted here",
    "the same cells as elsewhere, tested there"};
const char *rmg_region_kind_name(rmg_region_kind kind)
{
    return rmg_region_kind_names[kind];
}

const char *rmg_region_kind_reason(rmg_region_kind kind)
{
    return region_reasons[kind];
}
