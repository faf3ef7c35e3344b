/* Keys of a fault file that several kinds of fault take: a socket, a bit, a cell, for whom. */
#include <string.h>

#include "internal.h"

uint16_t rmg_fault_socket(fault_reader *r, const ynode *map)
{
    const ynode *node = rmg_yaml_need(r->file, map, "socket");
    const char **names = g_new0(const char *, r->board->socket_count + 1);
    uint16_t found = 0;
    const char *near;

    if (node) {
        found = rmg_board_socket(r->board, rmg_yaml_text(node));
        for (size_t i = 0; i < r->board->socket_count; i++)
            names[i] = r->board->sockets[i].name;
        near = rmg_nearest(rmg_yaml_text(node), names);
        if (found == RMG_NO_SOCKET)
            rmg_yaml_wrong(r->file, node, "socket", "the board %s has no \"%s\"%s%s%s",
                           r->board->name, rmg_yaml_text(node), near ? "; did you mean " : "",
                           near ? near : "", near ? "?" : "");
        else if (!r->board->sockets[found].part)
            rmg_yaml_wrong(r->file, node, "socket", "the board file does not say what %s holds",
                           rmg_yaml_text(node));
        if (found == RMG_NO_SOCKET || !r->board->sockets[found].part)
            found = 0;
    }
    g_free(names);
    return found;
}

const rmg_part *rmg_fault_part(const fault_reader *r, uint16_t socket)
{
    return r->board->sockets[socket].part ? r->board->sockets[socket].part : rmg_part_find("4116");
}

/* "D5": a bus data bit. */
uint8_t rmg_fault_bit(fault_reader *r, const ynode *map, const char *key)
{
    const ynode *node = rmg_yaml_need(r->file, map, key);
    char stem[4];
    uint64_t n = 0;

    if (!node)
        return 0;
    if (!rmg_designator_parse(rmg_yaml_text(node), stem, sizeof stem, &n) ||
        strcmp(stem, "D") != 0 || n >= r->board->word_bits) {
        rmg_yaml_wrong(r->file, node, key, "found \"%s\", expected a data bit from D0 to D%u",
                       rmg_yaml_text(node), r->board->word_bits - 1u);
        return 0;
    }
    return (uint8_t)n;
}

/* Which data line of the fault's chip carries the bus bit under `key`; needed only where it has
 * several. */
uint8_t rmg_fault_data_line(fault_reader *r, const ynode *map, const char *key, uint16_t socket,
                            bool all_allowed)
{
    const ynode *node = rmg_yaml_get(r->file, map, key);
    uint8_t bit;

    if (!node && rmg_fault_part(r, socket)->width == 1)
        return 0;
    if (!node && all_allowed)
        return RMG_ALL_DATA_LINES;
    bit = rmg_fault_bit(r, map, key);
    if (!node)
        return 0;
    for (uint16_t i = 0; i < r->board->placement.rule_count; i++) {
        const rmg_rule *rule = &r->board->placement.rules[i];

        for (uint8_t line = 0; rule->socket == socket && line < rule->width; line++)
            if (rule->data_bits[line] == bit)
                return line;
    }
    rmg_yaml_wrong(r->file, node, key, "%s does not hold D%u", r->board->sockets[socket].name, bit);
    return 0;
}

void rmg_fault_read_cell(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    const ynode *node = rmg_yaml_get(r->file, map, "address");
    uint64_t address;
    rmg_place place;

    if (!node) {
        const rmg_part *part;

        fault->chip = rmg_fault_socket(r, map);
        fault->data_line = rmg_fault_data_line(r, map, "bit", fault->chip, false);
        part = rmg_fault_part(r, fault->chip);
        fault->cell =
            rmg_yaml_number(r->file, map, "cell", 0, ((uint64_t)1 << part->address_lines) - 1u, -1);
        return;
    }
    if (!rmg_number_parse(rmg_yaml_text(node), &address))
        rmg_yaml_wrong(r->file, node, "address", "found \"%s\", expected an address like 0x9C40",
                       rmg_yaml_text(node));
    else if (!rmg_place_find(&r->board->placement, rmg_board_word(r->board, address),
                             rmg_fault_bit(r, map, "bit"), &place))
        rmg_yaml_wrong(r->file, node, "address", "no socket of the board holds that bit at %s",
                       rmg_yaml_text(node));
    else {
        fault->chip = place.socket;
        fault->data_line = place.data_line;
        fault->cell = place.cell;
    }
}

/* Puts into the fault's scope every socket at or beyond a point of the line. */
static void include_beyond(fault_reader *r, const ynode *node, const char *line_name,
                           rmg_sim_fault *fault)
{
    bool found = false;

    for (size_t i = 0; i < r->board->line_count; i++) {
        const rmg_line *line = &r->board->lines[i];

        if (g_ascii_strcasecmp(line->name, line_name) != 0)
            continue;
        for (uint16_t p = 0; p < line->point_count; p++) {
            uint16_t up = p;

            while (up != RMG_NO_POINT &&
                   g_ascii_strcasecmp(line->points[up].name, rmg_yaml_text(node)) != 0)
                up = line->points[up].parent;
            if (up == RMG_NO_POINT)
                continue;
            found = true;
            if (line->points[p].socket != RMG_NO_SOCKET)
                rmg_fault_include(fault, line->points[p].socket);
        }
    }
    if (!found)
        rmg_yaml_wrong(r->file, node, "beyond",
                       "found \"%s\", expected a point of line %s as the board file traces it "
                       "(rimeglass board show BOARD --line %s)",
                       rmg_yaml_text(node), line_name, line_name);
}

/* The chips a fault acts for: "socket", "bank", "beyond" a point of the line; none: all. */
void rmg_fault_read_scope(fault_reader *r, const ynode *map, const char *line_name,
                          rmg_sim_fault *fault)
{
    const ynode *beyond = rmg_yaml_get(r->file, map, "beyond");
    const ynode *bank = rmg_yaml_get(r->file, map, "bank");
    uint8_t number = RMG_NO_BANK;

    if (rmg_yaml_get(r->file, map, "socket")) {
        rmg_fault_include(fault, rmg_fault_socket(r, map));
        return;
    }
    if (beyond) {
        include_beyond(r, beyond, line_name, fault);
        return;
    }
    if (bank) {
        number = rmg_board_bank(r->board, rmg_yaml_text(bank));
        if (number == RMG_NO_BANK)
            rmg_yaml_wrong(r->file, bank, "bank", "the board %s has no bank \"%s\"", r->board->name,
                           rmg_yaml_text(bank));
    }
    for (uint16_t i = 0; i < r->board->placement.rule_count; i++)
        if (!bank || r->board->placement.rules[i].bank == number)
            rmg_fault_include(fault, r->board->placement.rules[i].socket);
}
