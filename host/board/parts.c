/* Parts that a board file describes, and parts by number. */
#include "build.h"

#include <string.h>

#define MOST_PARTS 1024u

static const char *const part_keys[] = {
    "number", "kind",        "width",      "address-lines", "row-lines",
    "pins",   "supplies",    "refresh-ms", "column-from",   "refresh-cycles",
    "times",  "active-high", NULL};
static const char *const part_kinds[] = {"dram", "sram", "rom", NULL};

static char *keep_text(board_build *b, char *text)
{
    g_ptr_array_add(b->board->store, text);
    return text;
}

static void check_part(board_build *b, const ynode *item, const rmg_part *part)
{
    char *list = g_strdup(part->pins);
    uint8_t in, out;

    if (part->row_lines > part->address_lines)
        rmg_yaml_wrong(b->file, item, "row-lines", "%u is more than the part's %u address lines",
                       part->row_lines, part->address_lines);
    for (uint8_t i = 0; *g_strstrip(list) && i < part->width; i++) {
        rmg_part_data_pins(part, i, &in, &out);
        if (!in || !out)
            rmg_yaml_wrong(b->file, item, "pins", "data line %u of %s has no pin (expected %s)", i,
                           part->number,
                           part->width == 1   ? "D and Q"
                           : part->width == 4 ? "DQ1 to DQ4"
                                              : "D0, D1 and so on");
    }
    g_free(list);
}

void rmg_board_read_parts(board_build *b, const ynode *root)
{
    ynode *list = rmg_yaml_list(b->file, root, "parts", false);
    ynode *item;

    for (size_t i = 0; (item = rmg_yaml_item(b->file, list, i)) != NULL; i++) {
        rmg_part *part;

        if (i == MOST_PARTS) {
            rmg_yaml_wrong(b->file, item, "parts", "more than %u parts", MOST_PARTS);
            break;
        }
        if (!rmg_yaml_is_map(b->file, item, "a part", part_keys))
            continue;
        part = rmg_board_keep(b, sizeof *part);
        part->number = keep_text(b, rmg_yaml_string(b->file, item, "number", NULL));
        part->kind = (rmg_part_kind)rmg_yaml_choice(b->file, item, "kind", part_kinds, -1);
        part->width = (uint8_t)rmg_yaml_number(b->file, item, "width", 1, 32, -1);
        part->address_lines =
            (uint8_t)rmg_yaml_number(b->file, item, "address-lines", 1, RMG_PLACE_LINES, -1);
        part->row_lines = (uint8_t)rmg_yaml_number(b->file, item, "row-lines", 0, RMG_PLACE_LINES,
                                                   part->kind == RMG_PART_DRAM ? -1 : 0);
        part->column_from = (uint8_t)rmg_yaml_number(b->file, item, "column-from", 0, 15, 0);
        part->refresh_cycles =
            (uint16_t)rmg_yaml_number(b->file, item, "refresh-cycles", 0, 65535, 0);
        part->refresh_ms = (uint16_t)rmg_yaml_number(b->file, item, "refresh-ms", 0, 65535, 0);
        part->pins = keep_text(b, rmg_yaml_string(b->file, item, "pins", " "));
        part->supplies = keep_text(b, rmg_yaml_string(b->file, item, "supplies", " "));
        part->times = keep_text(b, rmg_yaml_string(b->file, item, "times", ""));
        part->high = keep_text(b, rmg_yaml_string(b->file, item, "active-high", ""));
        check_part(b, item, part);
        g_ptr_array_add(b->parts, part);
    }
}

/* A number that is in no list: the nearest one that is. */
static void say_unknown(board_build *b, const ynode *node, const char *number)
{
    GPtrArray *numbers = g_ptr_array_new();
    const char *near;

    for (guint i = 0; i < b->parts->len; i++)
        g_ptr_array_add(numbers,
                        (gpointer)(uintptr_t)((const rmg_part *)b->parts->pdata[i])->number);
    for (size_t i = 0; i < rmg_part_count(); i++)
        g_ptr_array_add(numbers, (gpointer)(uintptr_t)rmg_part_at(i)->number);
    g_ptr_array_add(numbers, NULL);
    near = rmg_nearest(number, (const char *const *)numbers->pdata);
    rmg_yaml_wrong(b->file, node, "part",
                   "\"%s\" is not known%s%s; expected a number that rimeglass part list shows, or "
                   "one described under \"parts\"",
                   number, near ? "; the nearest is " : "", near ? near : "");
    g_ptr_array_free(numbers, TRUE);
}

const rmg_part *rmg_board_part(board_build *b, const ynode *map, bool needed)
{
    const ynode *node =
        needed ? rmg_yaml_need(b->file, map, "part") : rmg_yaml_get(b->file, map, "part");
    const char *number = rmg_yaml_text(node);
    const rmg_part *part = NULL;

    if (!node)
        return NULL;
    for (guint i = 0; i < b->parts->len && !part; i++) {
        const rmg_part *own = g_ptr_array_index(b->parts, i);

        if (strcmp(own->number, number) == 0)
            part = own;
    }
    if (!part)
        part = rmg_part_find(number);
    if (part)
        return part;
    say_unknown(b, node, number);
    return NULL;
}
