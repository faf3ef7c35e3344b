/* Boards and faults at random. */
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "diag.h"

#define SCALE_PPB 200000u /* chance of a fault that comes and goes, an access */

const diag_kind diag_kinds[] = {
    {"cell stuck", RMG_FAULT_CELL, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"row stuck", RMG_FAULT_ROW, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"column stuck", RMG_FAULT_COLUMN, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"weak cells", RMG_FAULT_WEAK, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"output stuck", RMG_FAULT_OUTPUT, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"data pin open", RMG_FAULT_DATA_OPEN, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"data input open", RMG_FAULT_INPUT_OPEN, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"chip missing", RMG_FAULT_MISSING, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"outputs too late", RMG_FAULT_LATE, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"chip never written", RMG_FAULT_NO_WRITE, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"chip always on", RMG_FAULT_ALWAYS_ON, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"address pin", RMG_FAULT_ADDRESS_CHIP, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"wrong cells", RMG_FAULT_ADDRESS_CELLS, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"transition", RMG_FAULT_TRANSITION, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"write flips", RMG_FAULT_WRITE_FLIPS, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"read flips", RMG_FAULT_READ_FLIPS, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"read flips after", RMG_FAULT_READ_FLIPS_AFTER, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"read wrong", RMG_FAULT_READ_WRONG, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"transition, coupled", RMG_FAULT_TRANSITION, TRUTH_CHIP, REACH_CHIP, 0, true, 0},
    {"read flips, coupled", RMG_FAULT_READ_FLIPS, TRUTH_CHIP, REACH_CHIP, 0, true, 0},
    {"read wrong, coupled", RMG_FAULT_READ_WRONG, TRUTH_CHIP, REACH_CHIP, 0, true, 0},
    {"coupling inverts", RMG_FAULT_COUPLING_INVERTS, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"coupling sets", RMG_FAULT_COUPLING_SETS, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"coupling holds", RMG_FAULT_COUPLING_HOLDS, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"coupling flips", RMG_FAULT_COUPLING_FLIPS, TRUTH_CHIP, REACH_CHIP, 0, 0, 0},
    {"retention", RMG_FAULT_RETENTION, TRUTH_CHIP, REACH_CHIP, 0, 0, true},
    {"row disturb", RMG_FAULT_DISTURB, TRUTH_CHIP, REACH_CHIP, 0, 0, true},
    {"rows not refreshed", RMG_FAULT_REFRESH, TRUTH_CHIP, REACH_CHIP, 0, 0, true},
    {"data line stuck", RMG_FAULT_DATA_LINE, TRUTH_DATA, REACH_ALL, 0, 0, 0},
    {"data line, a bank", RMG_FAULT_LINE_STUCK, TRUTH_DATA, REACH_BANK, 0, 0, 0},
    {"data line, a branch", RMG_FAULT_LINE_STUCK, TRUTH_DATA, REACH_BRANCH, 0, 0, 0},
    {"data open, a bank", RMG_FAULT_LINE_OPEN, TRUTH_DATA, REACH_BANK, 0, 0, 0},
    {"data open, a branch", RMG_FAULT_LINE_OPEN, TRUTH_DATA, REACH_BRANCH, 0, 0, 0},
    {"data lines touch", RMG_FAULT_DATA_SHORT, TRUTH_TOUCH, REACH_BANK, 0, 0, 0},
    {"data lines exchanged", RMG_FAULT_DATA_SWAP, TRUTH_TOUCH, REACH_BANK, 0, 0, 0},
    {"address line, a bank", RMG_FAULT_ADDRESS_BANK, TRUTH_LINES, REACH_BANK, 0, 0, 0},
    {"address line, all", RMG_FAULT_ADDRESS_STUCK, TRUTH_LINES, REACH_ALL, 0, 0, 0},
    {"address, a branch", RMG_FAULT_ADDRESS_STUCK, TRUTH_LINES, REACH_BRANCH, 0, 0, 0},
    {"address lines touch", RMG_FAULT_ADDRESS_SHORT, TRUTH_LINES, REACH_BANK, 0, 0, 0},
    {"address exchanged", RMG_FAULT_ADDRESS_SWAP, TRUTH_LINES, REACH_BANK, 0, 0, 0},
    {"bank never selected", RMG_FAULT_DESELECTED, TRUTH_BANK, REACH_BANK, 0, 0, 0},
    {"bank never written", RMG_FAULT_NO_WRITE, TRUTH_WRITE, REACH_BANK, 0, 0, 0},
    {"bank answers twice", RMG_FAULT_ALSO_SELECTED, TRUTH_SELECT, REACH_BANK, 0, 0, 0},
};
const size_t diag_kind_count = sizeof diag_kinds / sizeof *diag_kinds;

diag_dice diag_seed(uint64_t seed, uint64_t use)
{
    diag_dice dice = seed * UINT64_C(0x9E3779B97F4A7C15) + use * 2u + 1u;

    diag_roll(&dice, 0);
    diag_roll(&dice, 0);
    return dice;
}

uint64_t diag_roll(diag_dice *dice, uint64_t below)
{
    *dice ^= *dice << 13;
    *dice ^= *dice >> 7;
    *dice ^= *dice << 17;
    return below ? (*dice >> 11) % below : 0;
}

/* A board file being written. */
typedef struct page {
    char *text;
    size_t size, room;
} page;

__attribute__((format(printf, 2, 3))) static void put(page *p, const char *format, ...)
{
    va_list args;
    int more;

    if (p->room - p->size < 4096) {
        p->room = p->room ? 2 * p->room : 65536;
        p->text = realloc(p->text, p->room);
        if (!p->text)
            exit(2);
    }
    va_start(args, format);
    more = vsnprintf(p->text + p->size, p->room - p->size, format, args);
    va_end(args);
    p->size += (size_t)more;
}

/* What a made-up board is like. */
typedef struct shape {
    const char *part;
    unsigned width, lines, rows; /* of the chip */
    unsigned word, banks, chips; /* chips a bank */
} shape;

static const char wide_part[] =
    "parts:\n  - {number: RAM16, kind: sram, width: 16, address-lines: 11, pins: \"A0 A1 A2 A3 A4 "
    "A5 "
    "A6 A7 A8 A9 A10 D0 D1 D2 D3 D4 D5 D6 D7 D8 D9 D10 D11 D12 D13 D14 D15 WE CE VCC VSS\"}\n";

static unsigned socket_of(const shape *s, unsigned bank, unsigned chip)
{
    return 1 + bank * s->chips + chip;
}

/* The chips of a bank that hold data bit `bit` (all where it is above the word) at one pin. */
static void put_pins(page *p, const shape *s, unsigned bank, unsigned bit, unsigned pin)
{
    for (unsigned c = 0; c < s->chips; c++)
        if (bit >= s->word || bit / s->width == c)
            put(p, ", U%u.%u", socket_of(s, bank, c), pin);
}

/* A data line: driver U201, one buffer for each two banks, the chips. */
static void put_data_line(page *p, const shape *s, const rmg_part *part, unsigned bit)
{
    uint8_t in = 0, out = 0;

    rmg_part_data_pins(part, (uint8_t)(bit % s->width), &in, &out);
    put(p, "  - {name: D%u, path: [U201.%u", bit, bit + 1);
    for (unsigned b = 0; b < s->banks; b++) {
        if (b % 2 == 0)
            put(p, ", [U%u.%u>U%u.%u", 210 + b / 2, 2 * bit + 1, 210 + b / 2, 2 * bit + 2);
        put_pins(p, s, b, bit, out);
        if (in != out)
            put_pins(p, s, b, bit, in);
        if (b % 2 == 1 || b + 1 == s->banks)
            put(p, "]");
    }
    put(p, "]}\n");
}

/* An address line, or two that share a pin: driver U202, a multiplexer and a resistor a bank. */
static void put_address_line(page *p, const shape *s, const rmg_part *part, unsigned k)
{
    const unsigned pin = rmg_part_address_pin(part, (uint8_t)k);
    unsigned second = 0;

    for (unsigned n = k + 1; n < s->lines; n++)
        if (rmg_part_address_pin(part, (uint8_t)n) == pin)
            second = n;
    for (unsigned n = 0; n < k; n++)
        if (rmg_part_address_pin(part, (uint8_t)n) == pin)
            return; /* written with the first */
    if (second)
        put(p, "  - {name: A%u/A%u, path: [U202.%u/%u", k, second, k + 1, second + 1);
    else
        put(p, "  - {name: A%u, path: [U202.%u", k, k + 1);
    for (unsigned b = 0; b < s->banks; b++) {
        if (second)
            put(p, ", [U%u.%u/%u>U%u.%u, R%u", 220 + b, 3 * k + 1, 3 * k + 2, 220 + b, 3 * k + 3,
                1 + b * 32 + k);
        else
            put(p, ", [U%u.%u>U%u.%u, R%u", 220 + b, 3 * k + 1, 220 + b, 3 * k + 3, 1 + b * 32 + k);
        put_pins(p, s, b, s->word, pin);
        put(p, "]");
    }
    put(p, "]}\n");
}

static void put_board(page *p, const shape *s, uint64_t seed, diag_dice *dice)
{
    const rmg_part *part = rmg_part_find(s->part);
    unsigned n = 1;

    put(p,
        "board: made up %llu\nword: %u\naddresses: words\naddress-lines: %u\nundriven: %s\n"
        "access-ns: 400\nregions:\n",
        (unsigned long long)seed, s->word, s->lines + 3, diag_roll(dice, 2) ? "high" : "holds");
    for (unsigned b = 0; b < s->banks; b++)
        put(p, "  - {name: r%u, range: 0x%x-0x%x, kind: ram}\n", b, b << s->lines,
            ((b + 1) << s->lines) - 1);
    put(p, "banks:\n");
    for (unsigned b = 0; b < s->banks; b++) {
        put(p, "  - {name: b%u, range: 0x%x-0x%x, part: %s, ", b, b << s->lines,
            ((b + 1) << s->lines) - 1, s->part);
        if (s->rows)
            put(p, "rows: A0-A%u, columns: A%u-A%u, data: {", s->rows - 1, s->rows, s->lines - 1);
        else
            put(p, "lines: A0-A%u, data: {", s->lines - 1);
        for (unsigned c = 0; c < s->chips; c++, n++)
            put(p, "%sU%u: D%u-D%u", c ? ", " : "", n, c * s->width, (c + 1) * s->width - 1);
        put(p, "}}\n");
    }
    put(p, "sockets:\n  - {names: U1-U%u, mount: %s}\n", n - 1,
        diag_roll(dice, 2) ? "socket" : "soldered");
    if (!part)
        put(p, "%s", wide_part);
    if (part && diag_roll(dice, 2)) {
        put(p, "lines:\n");
        for (unsigned bit = 0; bit < s->word; bit++)
            put_data_line(p, s, part, bit);
        for (unsigned k = 0; k < s->lines; k++)
            put_address_line(p, s, part, k);
    }
}

void diag_board_make(uint64_t seed, diag_board *made)
{
    static const shape parts[] = {{"4116", 1, 14, 7, 0, 0, 0}, {"4416", 4, 14, 8, 0, 0, 0},
                                  {"2114", 4, 10, 0, 0, 0, 0}, {"6116", 8, 11, 0, 0, 0, 0},
                                  {"6264", 8, 13, 0, 0, 0, 0}, {"RAM16", 16, 11, 0, 0, 0, 0}};
    diag_dice dice = diag_seed(seed, 7);
    shape s = parts[diag_roll(&dice, sizeof parts / sizeof *parts)];
    rmg_errors errors = {0};
    char name[32];
    page p = {NULL, 0, 0};

    s.word = 8u << diag_roll(&dice, 3);
    if (s.word < s.width)
        s.word = s.width;
    s.banks = 1 + (unsigned)diag_roll(&dice, 4);
    s.chips = s.word / s.width;
    put_board(&p, &s, seed, &dice);
    snprintf(name, sizeof name, "made-up-%llu", (unsigned long long)seed);
    memset(made, 0, sizeof *made);
    if (rmg_board_load_text(name, p.text, &made->board, &errors) != RMG_OK) {
        fprintf(stderr, "%s\n%s\n", p.text, errors.list[0].what);
        exit(2);
    }
    free(p.text);
    made->made_up = true;
    made->undriven = (rmg_undriven)diag_roll(&dice, 3);
    made->hold_ns = diag_roll(&dice, 2) ? 0 : 1000 + diag_roll(&dice, 100000);
}

static bool tested(const rmg_board *board, const rmg_rule *rule)
{
    const rmg_region *region = rmg_board_region_at(board, rule->where.first);

    return region && region->kind == RMG_REGION_RAM &&
           board->sockets[rule->socket].part->kind != RMG_PART_ROM;
}

/* Chips at and beyond a point of a line into the fault's scope; how many of them are tested RAM. */
static unsigned include_beyond(const rmg_board *board, const rmg_line *line, uint16_t point,
                               rmg_sim_fault *f)
{
    unsigned count = 0;

    for (uint16_t p = point; p < line->point_count; p++) {
        const uint16_t socket = line->points[p].socket;
        uint16_t up = p;

        while (up != RMG_NO_POINT && up != point)
            up = line->points[up].parent;
        for (uint16_t r = 0; up == point && r < board->placement.rule_count; r++)
            if (board->placement.rules[r].socket == socket &&
                tested(board, &board->placement.rules[r]) && !rmg_fault_acts_for(f, socket)) {
                rmg_fault_include(f, socket);
                count++;
            }
    }
    return count;
}

/* A point of a traced line beyond which some chips hang, but not all. */
static bool choose_branch(diag_dice *dice, const rmg_board *board, rmg_line_kind kind,
                          rmg_sim_fault *f)
{
    for (unsigned tries = 0; board->line_count && tries < 200; tries++) {
        const rmg_line *line = &board->lines[diag_roll(dice, board->line_count)];
        const uint16_t point = (uint16_t)diag_roll(dice, line->point_count);
        rmg_sim_fault all = *f;

        if (line->kind != kind || line->lane.mask || !point)
            continue;
        memset(f->scope, 0, sizeof f->scope);
        if (include_beyond(board, line, point, f) > 1 && include_beyond(board, line, 0, &all) &&
            memcmp(all.scope, f->scope, sizeof all.scope)) {
            f->line = line->bit;
            f->lines = (rmg_addr)1 << line->bit;
            return true;
        }
    }
    return false;
}

static bool include_reach(diag_dice *dice, const rmg_board *board, const diag_kind *k,
                          const rmg_rule *rule, rmg_sim_fault *f)
{
    if (k->reach == REACH_BRANCH)
        return choose_branch(dice, board, k->truth == TRUTH_DATA ? RMG_LINE_DATA : RMG_LINE_ADDRESS,
                             f);
    for (uint16_t r = 0; r < board->placement.rule_count; r++) {
        const rmg_rule *other = &board->placement.rules[r];

        if (k->reach == REACH_CHIP ? other->socket == rule->socket
                                   : k->reach == REACH_ALL || other->bank == rule->bank)
            rmg_fault_include(f, other->socket);
    }
    return true;
}

static void choose_cells(diag_dice *dice, const rmg_part *part, const diag_kind *k,
                         rmg_sim_fault *f)
{
    const uint64_t depth = (uint64_t)1 << part->address_lines;
    const uint64_t rows = (uint64_t)1 << part->row_lines;

    f->cell = diag_roll(dice, depth);
    f->cell2 = (f->cell + 1 + diag_roll(dice, depth - 1)) % depth;
    f->reaches = (rmg_sim_reaches)diag_roll(dice, 4);
    f->reads = (rmg_sim_reads)diag_roll(dice, 3);
    f->operation = (rmg_sim_operation)diag_roll(dice, 6);
    f->count = (uint32_t)(50 + diag_roll(dice, 200));
    f->after_us = (uint32_t)(5000 + diag_roll(dice, 40000));
    f->row = ((f->cell & (rows - 1)) ^ 1u) & (rows - 1);
    if (k->fault == RMG_FAULT_ADDRESS_CELLS && f->reaches == RMG_REACHES_NONE)
        f->cell2 = f->cell;
    if (k->fault == RMG_FAULT_WEAK)
        f->count = (uint32_t)(depth / (2 + diag_roll(dice, 30)));
    if (k->fault == RMG_FAULT_ROW || k->fault == RMG_FAULT_REFRESH)
        f->cell = diag_roll(dice, rows);
    if (k->fault == RMG_FAULT_COLUMN)
        f->cell = diag_roll(dice, depth / rows);
    if (k->fault == RMG_FAULT_REFRESH) {
        f->cell = rows / 2; /* a part that needs twice the cycles that the board gives */
        f->after_us = part->refresh_ms * 1000u;
    }
    if (k->fault == RMG_FAULT_ADDRESS_CHIP)
        f->lines = (rmg_addr)1 << diag_roll(dice, part->address_lines);
}

/* an address line of the bus that feeds a line of the rule's chip; the others are tied */
static rmg_addr fed_line(diag_dice *dice, const rmg_rule *rule)
{
    uint8_t bit;

    do
        bit = rule->address_bits[diag_roll(dice, rule->address_lines)];
    while (bit == RMG_FEED_0 || bit == RMG_FEED_1);
    return (rmg_addr)1 << bit;
}

bool diag_fault_make(diag_dice *dice, const rmg_board *board, const diag_kind *k, rmg_sim_fault *f)
{
    const rmg_rule *rule;
    const rmg_part *part;
    unsigned tries = 0;

    do
        rule = &board->placement.rules[diag_roll(dice, board->placement.rule_count)];
    while (!tested(board, rule) && tries++ < 1000);
    part = board->sockets[rule->socket].part;
    if (!tested(board, rule) || (!part->row_lines && (k->time || k->fault == RMG_FAULT_ROW ||
                                                      k->fault == RMG_FAULT_COLUMN)))
        return false;
    memset(f, 0, sizeof *f);
    f->kind = k->fault;
    f->chip = rule->socket;
    f->bank = f->bank2 = rule->bank;
    f->level = (uint8_t)diag_roll(dice, 2);
    f->state = (uint8_t)diag_roll(dice, 2);
    f->coupled = k->coupled;
    f->data_line = f->data_line2 = (uint8_t)diag_roll(dice, rule->width);
    f->line = f->line2 = rule->data_bits[f->data_line];
    choose_cells(dice, part, k, f);
    if (k->fault == RMG_FAULT_DATA_LINE)
        f->cell = 0;
    if (k->truth == TRUTH_TOUCH)
        while (f->line2 == f->line)
            f->line2 = (uint8_t)diag_roll(dice, board->word_bits);
    if (k->truth == TRUTH_LINES)
        f->lines = fed_line(dice, rule);
    while ((k->fault == RMG_FAULT_ADDRESS_SHORT || k->fault == RMG_FAULT_ADDRESS_SWAP) &&
           !(f->lines & (f->lines - 1u)))
        f->lines |= fed_line(dice, rule);
    for (tries = 0; k->truth == TRUTH_SELECT && f->bank2 == f->bank; tries++) {
        const rmg_rule *other =
            &board->placement.rules[diag_roll(dice, board->placement.rule_count)];

        if (tries == 100)
            return false;
        if (tested(board, other) && board->sockets[other->socket].part == part &&
            other->where.mask == rule->where.mask && other->where.match == rule->where.match)
            f->bank2 = other->bank;
    }
    if (k->when == WHEN_NOW_AND_THEN)
        f->when.rate_ppb = SCALE_PPB;
    return include_reach(dice, board, k, rule, f);
}
