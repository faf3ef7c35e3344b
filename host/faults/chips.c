/* Faults of a whole chip, its pins, or a line of its bank. */
#include <string.h>

#include "internal.h"

static void read_row_or_column(fault_reader *r, const ynode *map, bool row, rmg_sim_fault *fault)
{
    const char *key = row ? "row" : "column";
    const rmg_part *part;
    uint64_t most;

    fault->chip = rmg_fault_socket(r, map);
    fault->data_line = rmg_fault_data_line(r, map, "bit", fault->chip, true);
    part = rmg_fault_part(r, fault->chip);
    if (!part->row_lines) {
        rmg_yaml_wrong(r->file, map, key, "a %s has no rows and columns at its pins", part->number);
        return;
    }
    most = (uint64_t)1 << (row ? part->row_lines : part->address_lines - part->row_lines);
    fault->cell = rmg_yaml_number(r->file, map, key, 0, most - 1u, -1);
}

void rmg_fault_read_row(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    read_row_or_column(r, map, true, fault);
}

void rmg_fault_read_column(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    read_row_or_column(r, map, false, fault);
}

void rmg_fault_read_output(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    fault->chip = rmg_fault_socket(r, map);
    fault->data_line = rmg_fault_data_line(r, map, "bit", fault->chip, false);
}

void rmg_fault_read_input(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    rmg_fault_read_output(r, map, fault);
    if (rmg_fault_part(r, fault->chip)->width != 1)
        rmg_yaml_wrong(r->file, map, "socket",
                       "a %s has one pin for data in and out; expected kind \"data pin open\"",
                       rmg_fault_part(r, fault->chip)->number);
}

void rmg_fault_read_chip(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    fault->chip = rmg_fault_socket(r, map);
}

void rmg_fault_read_data_line(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    const ynode *lane = rmg_yaml_get(r->file, map, "lane-of");
    uint8_t bank;

    fault->line = rmg_fault_bit(r, map, "line");
    if (!lane)
        return;
    bank = rmg_board_bank(r->board, rmg_yaml_text(lane));
    if (bank == RMG_NO_BANK) {
        rmg_yaml_wrong(r->file, lane, "lane-of", "the board %s has no bank \"%s\"", r->board->name,
                       rmg_yaml_text(lane));
        return;
    }
    fault->cell = r->board->bank_wheres[bank].mask;
    fault->lines = r->board->bank_wheres[bank].match;
}

/* A pin by number or by name ("A3"): every address line of the part at that pin. */
static rmg_addr lines_at_pin(fault_reader *r, const ynode *map, const rmg_part *part)
{
    const ynode *node = rmg_yaml_need(r->file, map, "pin");
    rmg_addr lines = 0;
    uint64_t pin = 0;

    if (!node)
        return 0;
    if (!rmg_number_parse(rmg_yaml_text(node), &pin))
        pin = rmg_part_pin(part, rmg_yaml_text(node));
    for (uint8_t i = 0; pin && i < part->address_lines; i++)
        if (rmg_part_address_pin(part, i) == pin)
            lines |= (rmg_addr)1 << i;
    if (!lines)
        rmg_yaml_wrong(r->file, node, "pin", "found \"%s\", expected an address pin of a %s",
                       rmg_yaml_text(node), part->number);
    return lines;
}

void rmg_fault_read_address_pin(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    fault->chip = rmg_fault_socket(r, map);
    fault->lines = lines_at_pin(r, map, rmg_fault_part(r, fault->chip));
}

/* One bus line of a bank; or the multiplexed line that leads to one address pin of its chips. */
void rmg_fault_read_bank_line(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    const ynode *node = rmg_yaml_need(r->file, map, "bank");
    const ynode *line = rmg_yaml_get(r->file, map, "line");
    char stem[4];
    uint64_t n;

    if (!node)
        return;
    fault->bank = rmg_board_bank(r->board, rmg_yaml_text(node));
    if (fault->bank == RMG_NO_BANK) {
        rmg_yaml_wrong(r->file, node, "bank", "the board %s has no bank \"%s\"", r->board->name,
                       rmg_yaml_text(node));
        fault->bank = 0;
    } else if (!line) {
        const rmg_addr cell_lines = lines_at_pin(r, map, r->board->banks[fault->bank].part);

        for (uint16_t i = 0; i < r->board->placement.rule_count; i++) {
            const rmg_rule *rule = &r->board->placement.rules[i];

            for (uint8_t k = 0; rule->bank == fault->bank && k < rule->address_lines; k++)
                if ((cell_lines >> k) & 1u && rule->address_bits[k] < RMG_ADDR_BITS)
                    fault->lines |= (rmg_addr)1 << rule->address_bits[k];
        }
    } else if (!rmg_designator_parse(rmg_yaml_text(line), stem, sizeof stem, &n) ||
               strcmp(stem, "A") != 0 || n < r->board->byte_shift ||
               n >= (uint64_t)r->board->address_bits + r->board->byte_shift) {
        rmg_yaml_wrong(r->file, line, "line",
                       "found \"%s\", expected an address line from A%u to A%u",
                       rmg_yaml_text(line), r->board->byte_shift,
                       r->board->address_bits + r->board->byte_shift - 1u);
    } else {
        fault->lines = (rmg_addr)1 << (n - r->board->byte_shift);
    }
}
