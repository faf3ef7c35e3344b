/* Boards at random, in three families: banks that high address lines choose, of equal or unequal
 * depth; banks that any lines choose, which share a range; banks that are halves of a wider bus. */
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "diag.h"

#define BANKS_MOST 4u

const char *const diag_family_names[DIAG_FAMILIES] = {"banks by high address", "interleaved banks",
                                                      "lanes of a wider bus"};

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

uint64_t diag_world(diag_dice *dice)
{
    diag_roll(dice, 0);
    return *dice;
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

/* A part, and another of the same width with more or fewer address lines. */
typedef struct part_shape {
    const char *number;
    unsigned width, lines, rows;
    unsigned other; /* of parts[] */
} part_shape;

static const part_shape parts[] = {
    {"4116", 1, 14, 7, 6}, {"4416", 4, 14, 8, 2},   {"2114", 4, 10, 0, 2}, {"6116", 8, 11, 0, 4},
    {"6264", 8, 13, 0, 3}, {"BIG16", 16, 11, 0, 5}, {"BIT12", 1, 12, 0, 0}};

static const char own_parts[] =
    "parts:\n"
    "  - {number: BIG16, kind: sram, width: 16, address-lines: 11, pins: \"A0 A1 A2 A3 A4 A5 A6 A7 "
    "A8 A9 A10 D0 D1 D2 D3 D4 D5 D6 D7 D8 D9 D10 D11 D12 D13 D14 D15 WE CE VCC VSS\"}\n"
    "  - {number: BIT12, kind: sram, width: 1, address-lines: 12, pins: \"A0 A1 A2 A3 A4 A5 A6 A7 "
    "A8 A9 A10 A11 D Q WE CE VCC VSS\"}\n";

/* What a made-up board is like. */
typedef struct shape {
    diag_family family;
    unsigned word, banks, chips;        /* chips a bank */
    const part_shape *part[BANKS_MOST]; /* of each bank */
    unsigned first[BANKS_MOST], last[BANKS_MOST];
    unsigned choosing; /* bus address lines that choose a bank within a range */
    unsigned levels[BANKS_MOST];
    unsigned feeds[16]; /* bus address line of each line of a chip */
    unsigned lines;     /* of the bus that are used */
} shape;

static unsigned socket_of(const shape *s, unsigned bank, unsigned chip)
{
    return 1 + bank * s->chips + chip;
}

/* Which half of the bus a bank is on. */
static unsigned lane_of(const shape *s, unsigned bank)
{
    return s->family == DIAG_LANES ? bank % 2u : 0;
}

/* Banks one above another; the larger ones below. */
static void lay_out_high(shape *s)
{
    unsigned at = 0;

    for (unsigned b = 0; b < s->banks; b++) {
        s->first[b] = at;
        at += 1u << s->part[b]->lines;
        s->last[b] = at - 1u;
    }
    for (unsigned k = 0; k < s->part[0]->lines; k++)
        s->feeds[k] = k;
    for (s->lines = 1; 1u << s->lines < at; s->lines++)
        ;
}

/* Banks that share a range, chosen by one or two lines at any place. Of lanes, one line chooses the
 * half; ranks lie one above another. */
static void lay_out_shared(shape *s, diag_dice *dice)
{
    const unsigned chosen = s->family == DIAG_LANES || s->banks == 2 ? 1 : 2;
    const unsigned ranks = s->family == DIAG_LANES ? s->banks / 2u : 1;
    const unsigned all = s->part[0]->lines + chosen;
    unsigned lines[2], n = 0;

    lines[0] = (unsigned)diag_roll(dice, s->family == DIAG_LANES ? 3 : all);
    do
        lines[1] = (unsigned)diag_roll(dice, all);
    while (lines[1] == lines[0]);
    for (unsigned i = 0; i < chosen; i++)
        s->choosing |= 1u << lines[i];
    for (unsigned k = 0; k < all; k++)
        if (!(s->choosing >> k & 1u))
            s->feeds[n++] = k;
    for (unsigned b = 0; b < s->banks; b++) {
        const unsigned rank = s->family == DIAG_LANES ? b / 2u : 0;

        s->first[b] = rank << all;
        s->last[b] = ((rank + 1u) << all) - 1u;
        s->levels[b] = b % 2u ? 1u << lines[0] : 0;
        if (chosen == 2 && b / 2u)
            s->levels[b] |= 1u << lines[1];
    }
    s->lines = all + (ranks > 1);
}

static shape make_shape(diag_dice *dice, diag_family family)
{
    shape s = {.family = family};
    const part_shape *part = &parts[diag_roll(dice, sizeof parts / sizeof *parts)];
    const bool unequal = family == DIAG_HIGH && diag_roll(dice, 4) == 0;

    s.word = 8u << diag_roll(dice, 3);
    if (s.word < part->width)
        s.word = part->width;
    s.chips = s.word / part->width;
    s.banks = family == DIAG_HIGH          ? 1 + (unsigned)diag_roll(dice, 4)
              : family == DIAG_INTERLEAVED ? 2u << diag_roll(dice, 2)
                                           : 2u << diag_roll(dice, 2);
    for (unsigned b = 0; b < s.banks; b++)
        s.part[b] = part;
    if (unequal && s.banks > 1) {
        const part_shape *other = &parts[part->other];

        s.part[0] = other->lines > part->lines ? other : part;
        s.part[s.banks - 1] = other->lines > part->lines ? part : other;
    }
    if (family == DIAG_HIGH)
        lay_out_high(&s);
    else
        lay_out_shared(&s, dice);
    return s;
}

/* Pin `pin` of the chips of a bank that hold data bit `bit`; all where that is above the word. */
static void put_pins(page *p, const shape *s, unsigned bank, unsigned bit, unsigned pin)
{
    for (unsigned c = 0; c < s->chips; c++)
        if (bit >= s->word || bit / s->part[bank]->width == c)
            put(p, ", U%u.%u", socket_of(s, bank, c), pin);
}

/* A data line of one half of the bus: its driver, one buffer for each two of its banks, the chips.
 */
static void put_data_line(page *p, const shape *s, unsigned bit, unsigned lane)
{
    unsigned open = 0;

    put(p, "  - {name: D%u, ", bit);
    if (s->family == DIAG_LANES)
        put(p, "lane-of: b%u, ", lane);
    put(p, "path: [U%u.%u", 201 + 2 * lane, bit + 1);
    for (unsigned b = 0; b < s->banks; b++) {
        uint8_t in = 0, out = 0;

        if (lane_of(s, b) != lane)
            continue;
        if (open++ % 2 == 0)
            put(p, "%s, [U%u.%u>U%u.%u", open > 1 ? "]" : "", 210 + b, 2 * bit + 1, 210 + b,
                2 * bit + 2);
        rmg_part_data_pins(rmg_part_find(s->part[b]->number), (uint8_t)(bit % s->part[b]->width),
                           &in, &out);
        put_pins(p, s, b, bit, out);
        if (in != out)
            put_pins(p, s, b, bit, in);
    }
    put(p, "]]}\n");
}

/* An address line, or two that share a pin: its driver, a multiplexer and a resistor a bank. */
static void put_address_line(page *p, const shape *s, unsigned k)
{
    const rmg_part *part = rmg_part_find(s->part[0]->number);
    const unsigned pin = rmg_part_address_pin(part, (uint8_t)k);
    unsigned second = 0;

    for (unsigned n = k + 1; n < s->part[0]->lines; n++)
        if (rmg_part_address_pin(part, (uint8_t)n) == pin)
            second = n;
    for (unsigned n = 0; n < k; n++)
        if (rmg_part_address_pin(part, (uint8_t)n) == pin)
            return; /* written with the first */
    if (second)
        put(p, "  - {name: A%u/A%u, path: [U202.%u/%u", s->feeds[k], s->feeds[second], k + 1,
            second + 1);
    else
        put(p, "  - {name: A%u, path: [U202.%u", s->feeds[k], k + 1);
    for (unsigned b = 0; b < s->banks; b++) {
        if (k >= s->part[b]->lines)
            continue;
        if (second)
            put(p, ", [U%u.%u/%u>U%u.%u, R%u", 220 + b, 3 * k + 1, 3 * k + 2, 220 + b, 3 * k + 3,
                1 + b * 32 + k);
        else
            put(p, ", [U%u.%u>U%u.%u, R%u", 220 + b, 3 * k + 1, 220 + b, 3 * k + 3, 1 + b * 32 + k);
        put_pins(p, s, b, s->word,
                 rmg_part_address_pin(rmg_part_find(s->part[b]->number), (uint8_t)k));
        put(p, "]");
    }
    put(p, "]}\n");
}

static void put_feeds(page *p, const shape *s, unsigned from, unsigned to)
{
    for (unsigned k = from; k < to; k++)
        put(p, "%sA%u", k > from ? ", " : "[", s->feeds[k]);
    put(p, "]");
}

static void put_bank(page *p, const shape *s, unsigned b)
{
    const part_shape *part = s->part[b];

    put(p, "  - {name: b%u, range: 0x%x-0x%x, part: %s, ", b, s->first[b], s->last[b],
        part->number);
    for (unsigned k = 0, n = 0; s->choosing >> k; k++)
        if (s->choosing >> k & 1u)
            put(p, "%sA%u=%u", n++ ? ", " : "where: [", k, s->levels[b] >> k & 1u);
    if (s->choosing)
        put(p, "], ");
    if (part->rows) {
        put(p, "rows: ");
        put_feeds(p, s, 0, part->rows);
        put(p, ", columns: ");
        put_feeds(p, s, part->rows, part->lines);
    } else {
        put(p, "lines: ");
        put_feeds(p, s, 0, part->lines);
    }
    put(p, ", data: {");
    for (unsigned c = 0; c < s->chips; c++)
        put(p, "%sU%u: D%u-D%u", c ? ", " : "", socket_of(s, b, c), c * part->width,
            (c + 1) * part->width - 1);
    put(p, "}}\n");
}

/* What is traced: nothing, or the lines whose pins the table of parts knows. Of lanes always the
 * data lines, which tell that they are lanes. */
static void put_lines(page *p, const shape *s, diag_dice *dice)
{
    const bool traced = diag_roll(dice, 2);
    bool known = true;

    for (unsigned b = 0; b < s->banks; b++)
        known &= rmg_part_find(s->part[b]->number) != NULL;
    if (s->family == DIAG_LANES && !known) {
        put(p, "lines:\n");
        for (unsigned lane = 0; lane < 2; lane++)
            put(p, "  - {name: D0-D%u, lane-of: b%u, path: [U%u.1-%u]}\n", s->word - 1, lane,
                201 + 2 * lane, s->word);
        return;
    }
    if (!known || (!traced && s->family != DIAG_LANES))
        return;
    put(p, "lines:\n");
    for (unsigned lane = 0; lane <= (s->family == DIAG_LANES); lane++)
        for (unsigned bit = 0; bit < s->word; bit++)
            put_data_line(p, s, bit, lane);
    for (unsigned k = 0; traced && k < s->part[0]->lines; k++)
        put_address_line(p, s, k);
}

static void put_board(page *p, const shape *s, const diag_board *made, uint64_t seed,
                      diag_dice *dice)
{
    static const char *const undriven[] = {"high", "low", "holds"};

    put(p, "board: made up %llu\nword: %u\naddresses: words\naddress-lines: %u\naccess-ns: 400\n%s",
        (unsigned long long)seed, s->word, s->lines, own_parts);
    if (diag_roll(dice, 2))
        put(p, "undriven: %s\n", undriven[made->undriven]);
    put(p, "regions:\n  - {name: all, range: 0x0-0x%x, kind: ram}\nbanks:\n",
        s->last[s->banks - 1]);
    for (unsigned b = 0; b < s->banks; b++)
        put_bank(p, s, b);
    put(p, "sockets:\n  - {names: U1-U%u, mount: %s}\n", socket_of(s, s->banks - 1, s->chips - 1),
        diag_roll(dice, 2) ? "socket" : "soldered");
    put_lines(p, s, dice);
}

void diag_board_make(uint64_t seed, diag_family family, diag_board *made)
{
    diag_dice dice = diag_seed(seed, 7);
    const shape s = make_shape(&dice, family);
    rmg_errors errors = {0};
    char name[32];
    page p = {NULL, 0, 0};

    memset(made, 0, sizeof *made);
    made->made_up = true;
    made->undriven = (rmg_undriven)diag_roll(&dice, 3);
    made->hold_ns = diag_roll(&dice, 2) ? 0 : 1000 + diag_roll(&dice, 100000);
    made->high_wins = diag_roll(&dice, 2);
    put_board(&p, &s, made, seed, &dice);
    snprintf(name, sizeof name, "made-up-%llu", (unsigned long long)seed);
    if (rmg_board_load_text(name, p.text, &made->board, &errors) != RMG_OK) {
        fprintf(stderr, "%s\n%s\n", p.text, errors.list[0].what);
        exit(2);
    }
    free(p.text);
}

uint64_t diag_board_cells(const rmg_board *board)
{
    uint64_t cells = 0;

    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        cells += (uint64_t)board->placement.rules[r].width
                 << board->placement.rules[r].address_lines;
    return cells;
}
