/* Faults of lines, selects and strobes: what they are, and the chips they act for. */
#include <string.h>

#include "internal.h"

/* "D3" or "A9" as bus bit: 'D' or 'A', or 0 for another line. */
static char line_of(fault_reader *r, const ynode *node, uint8_t *bit)
{
    const rmg_board *board = r->board;
    char stem[16];
    uint64_t n;

    if (!rmg_designator_parse(rmg_yaml_text(node), stem, sizeof stem, &n))
        return 0;
    if (strcmp(stem, "D") == 0 && n < board->word_bits) {
        *bit = (uint8_t)n;
        return 'D';
    }
    if (strcmp(stem, "A") == 0 && n >= board->byte_shift &&
        n < (uint64_t)board->address_bits + board->byte_shift) {
        *bit = (uint8_t)(n - board->byte_shift);
        return 'A';
    }
    return 0;
}

/* Every socket on the traced line. */
static void include_line(fault_reader *r, const char *name, rmg_sim_fault *fault)
{
    const rmg_line *line = rmg_board_line(r->board, name);

    for (size_t p = 0; line && p < line->point_count; p++)
        if (line->points[p].socket != RMG_NO_SOCKET)
            rmg_fault_include(fault, line->points[p].socket);
}

/* A line stuck or open for some chips: data, address or control. */
void rmg_fault_read_line(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    const ynode *node = rmg_yaml_need(r->file, map, "line");
    const bool open = fault->kind == RMG_FAULT_LINE_OPEN;
    uint8_t bit = 0;
    char letter;

    if (!node)
        return;
    letter = line_of(r, node, &bit);
    fault->line = bit;
    if (letter == 'A') {
        fault->kind = RMG_FAULT_ADDRESS_STUCK;
        fault->lines = (rmg_addr)1 << bit;
    } else if (letter == 0 && open) {
        const rmg_line *line = rmg_board_line(r->board, rmg_yaml_text(node));

        fault->kind = line && line->writes ? RMG_FAULT_NO_WRITE : RMG_FAULT_DESELECTED;
        if (!line)
            rmg_yaml_wrong(
                r->file, node, "line",
                "found \"%s\", expected a data or address line, or a line the board file "
                "traces",
                rmg_yaml_text(node));
    } else if (letter == 0) {
        rmg_yaml_wrong(r->file, node, "line", "found \"%s\", expected a data or address line",
                       rmg_yaml_text(node));
    }
    if (letter == 0 && !rmg_yaml_get(r->file, map, "socket") &&
        !rmg_yaml_get(r->file, map, "bank") && !rmg_yaml_get(r->file, map, "beyond"))
        include_line(r, rmg_yaml_text(node), fault); /* a strobe serves what it is traced to */
    else
        rmg_fault_read_scope(r, map, rmg_yaml_text(node), fault);
}

/* Two lines that touch, or that changed places. */
void rmg_fault_read_touch(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    const ynode *one = rmg_yaml_need(r->file, map, "line");
    const ynode *two = rmg_yaml_need(r->file, map, "with");
    char letter;

    if (!one || !two)
        return;
    letter = line_of(r, one, &fault->line);
    if (!letter || line_of(r, two, &fault->line2) != letter || fault->line == fault->line2) {
        rmg_yaml_wrong(r->file, two, "with", "expected two data lines or two address lines");
        return;
    }
    if (letter == 'A') {
        fault->kind =
            fault->kind == RMG_FAULT_DATA_SHORT ? RMG_FAULT_ADDRESS_SHORT : RMG_FAULT_ADDRESS_SWAP;
        fault->lines = (rmg_addr)1 << fault->line | (rmg_addr)1 << fault->line2;
    }
    rmg_fault_read_scope(r, map, rmg_yaml_text(one), fault);
}

/* The lines of the list "with": data or address lines as `letter` says, all but `own`; no list: all
 * others that reach chips. */
static uint64_t lines_beside(fault_reader *r, const ynode *map, char letter, uint8_t own)
{
    const ynode *with = rmg_yaml_get(r->file, map, "with"), *item;
    uint64_t lines = 0;

    for (uint16_t n = 0; !with && n < r->board->placement.rule_count; n++) {
        const rmg_rule *rule = &r->board->placement.rules[n];

        if (letter == 'D')
            lines |= rmg_rule_bits(rule);
        for (uint8_t i = 0; letter == 'A' && i < rule->address_lines; i++)
            if (rule->address_bits[i] < RMG_ADDR_BITS)
                lines |= (uint64_t)1 << rule->address_bits[i];
    }
    if (!with)
        return lines & ~((uint64_t)1 << own);
    for (size_t i = 0; (item = rmg_yaml_item(r->file, with, i)) != NULL; i++) {
        uint8_t bit;

        if (line_of(r, item, &bit) != letter || bit == own)
            rmg_yaml_wrong(r->file, item, "with", "found \"%s\", expected another %s line",
                           rmg_yaml_text(item), letter == 'D' ? "data" : "address");
        else
            lines |= (uint64_t)1 << bit;
    }
    if (!lines)
        rmg_yaml_wrong(r->file, with, "with", "expected a list of lines, such as [D2, D4]");
    return lines;
}

void rmg_fault_read_nearby(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    static const char *const ofs[] = {"any", "still", "turning", NULL};
    const ynode *node = rmg_yaml_need(r->file, map, "line");
    const char letter = node ? line_of(r, node, &fault->line) : 0;
    uint64_t lines;

    if (node && !letter)
        rmg_yaml_wrong(r->file, node, "line", "found \"%s\", expected a data or address line",
                       rmg_yaml_text(node));
    fault->state = (uint8_t)rmg_yaml_number(r->file, map, "change-to", 0, 1, -1);
    fault->by = (uint8_t)rmg_yaml_choice(r->file, map, "of", ofs, 0);
    if (!letter)
        return;
    lines = lines_beside(r, map, letter, fault->line);
    if (letter == 'A') {
        fault->kind = RMG_FAULT_ADDRESS_CROSSTALK;
        fault->lines = (rmg_addr)lines;
        rmg_fault_read_scope(r, map, "", fault);
    } else {
        fault->with = (rmg_word)lines;
    }
}

void rmg_fault_read_chips(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    rmg_fault_read_scope(r, map, "", fault);
}

void rmg_fault_read_also_selected(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    static const char *const keys[] = {"bank", "where"};
    uint8_t *to[] = {&fault->bank, &fault->bank2};

    for (size_t i = 0; i < 2; i++) {
        const ynode *node = rmg_yaml_need(r->file, map, keys[i]);

        if (!node)
            continue;
        *to[i] = rmg_board_bank(r->board, rmg_yaml_text(node));
        if (*to[i] == RMG_NO_BANK)
            rmg_yaml_wrong(r->file, node, keys[i], "the board %s has no bank \"%s\"",
                           r->board->name, rmg_yaml_text(node));
    }
    if (fault->bank == fault->bank2)
        rmg_yaml_wrong(r->file, map, "where", "expected another bank");
}

void rmg_fault_read_smaller(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    const rmg_part *part;
    uint64_t lines;

    fault->chip = rmg_fault_socket(r, map);
    part = rmg_fault_part(r, fault->chip);
    lines = rmg_yaml_number(r->file, map, "address-lines", 0, part->address_lines - 1u, -1);
    fault->lines = (((rmg_addr)1 << part->address_lines) - 1u) & ~(((rmg_addr)1 << lines) - 1u);
    if (!part->row_lines)
        return;
    /* rows and columns share their pins: a pin less is a row line and a column line less */
    fault->lines = 0;
    for (unsigned missing = part->address_lines - (unsigned)lines, n = 0; missing; missing--, n++) {
        const unsigned of = n % 2u ? part->address_lines : part->row_lines;

        fault->lines |= (rmg_addr)1 << (of - 1u - n / 2u);
    }
}
