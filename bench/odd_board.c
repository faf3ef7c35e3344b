/* Boards of parts of several widths, with address and data lines in any order, and entries of a
 * fault file that fit them. */
#include <stdlib.h>
#include <string.h>

#include "odd_board.h"

/* Parts of as many address lines, so that banks of different ones share a range. */
typedef struct sort {
    const char *number;
    unsigned width, lines, rows;
} sort;

static const sort sorts[] = {{"2102", 1, 10, 0},  {"2114", 4, 10, 0},  {"6116", 8, 11, 0},
                             {"BIT11", 1, 11, 0}, {"4116", 1, 14, 7},  {"4416", 4, 14, 8},
                             {"6264", 8, 13, 0},  {"FOUR13", 4, 13, 0}};
#define SORTS (sizeof sorts / sizeof *sorts)

static const char own_parts[] =
    "parts:\n"
    "  - {number: BIT11, kind: sram, width: 1, address-lines: 11, pins: \"A0 A1 A2 A3 A4 A5 A6 A7 "
    "A8 A9 A10 D Q WE CE VCC VSS\"}\n"
    "  - {number: FOUR13, kind: sram, width: 4, address-lines: 13, pins: \"A0 A1 A2 A3 A4 A5 A6 A7 "
    "A8 A9 A10 A11 A12 DQ1 DQ2 DQ3 DQ4 WE CE VCC VSS\"}\n";

static const sort *any_sort(odd_dice *dice, unsigned lines)
{
    const sort *s;

    do
        s = &sorts[odd_roll(dice, SORTS)];
    while (lines && s->lines != lines);
    return s;
}

/* Numbers below `count`, in any order. */
static void shuffle(odd_dice *dice, unsigned *list, unsigned count)
{
    for (unsigned i = 0; i < count; i++)
        list[i] = i;
    for (unsigned i = count; i > 1; i--) {
        const unsigned with = (unsigned)odd_roll(dice, i), was = list[i - 1];

        list[i - 1] = list[with];
        list[with] = was;
    }
}

/* The bank's line of the board file: its chips have their address and data lines in any order. */
static void put_bank(FILE *to, odd_dice *dice, const sort *s, unsigned word, unsigned *socket,
                     const unsigned *feeds)
{
    unsigned pins[16], bits[16];

    shuffle(dice, pins, s->lines);
    shuffle(dice, bits, word);
    fprintf(to, "part: %s, %s", s->number, s->rows ? "rows: [" : "lines: [");
    for (unsigned k = 0; k < s->lines; k++)
        fprintf(to, "%sA%u", !k ? "" : k == s->rows ? "], columns: [" : ", ", feeds[pins[k]]);
    fprintf(to, "], data: {");
    for (unsigned c = 0; c < word / s->width; c++) {
        fprintf(to, "%sU%u: [", c ? ", " : "", (*socket)++);
        for (unsigned n = 0; n < s->width; n++)
            fprintf(to, "%sD%u", n ? ", " : "", bits[c * s->width + n]);
        fprintf(to, "]");
    }
    fprintf(to, "}}\n");
}

/* Banks that `choosing` lines part, 0 to 2, from an address that fits them on, `at` or above it;
 * where they end. */
static unsigned put_banks(FILE *to, FILE *regions, odd_dice *dice, unsigned at, unsigned choosing,
                          unsigned word, unsigned *bank, unsigned *socket, const sort *first)
{
    const unsigned all = first->lines + choosing;
    unsigned lines[16], feeds[16], n = 0;

    at = (at + (1u << all) - 1u) >> all << all;
    fprintf(regions, "  - {name: r%u, range: 0x%x-0x%x, kind: ram}\n", *bank, at,
            at + (1u << all) - 1u);
    shuffle(dice, lines, all); /* the first ones choose */
    for (unsigned k = 0; k < all; k++) {
        bool chooses = false;

        for (unsigned c = 0; c < choosing; c++)
            chooses |= lines[c] == k;
        if (!chooses)
            feeds[n++] = k;
    }
    for (unsigned b = 0; b < 1u << choosing; b++) {
        fprintf(to, "  - {name: b%u, range: 0x%x-0x%x, ", (*bank)++, at, at + (1u << all) - 1u);
        for (unsigned c = 0; c < choosing; c++)
            fprintf(to, "%sA%u=%u%s", c ? ", " : "where: [", lines[c], b >> c & 1u,
                    c + 1 == choosing ? "], " : "");
        put_bank(to, dice, odd_roll(dice, 2) ? first : any_sort(dice, first->lines), word, socket,
                 feeds);
    }
    return at + (1u << all);
}

char *odd_board_text(odd_dice *dice, const char *undriven, bool told)
{
    const unsigned word = 8u << odd_roll(dice, 2);
    char *text = NULL, *banks = NULL, *regions = NULL;
    unsigned at = 0, bank = 0, socket = 1, groups = 1 + (unsigned)odd_roll(dice, 2), lines = 1;
    const sort *s = any_sort(dice, 0);
    const bool traced = odd_roll(dice, 2);
    size_t size, room;
    FILE *to = open_memstream(&banks, &size), *beside = open_memstream(&regions, &room);

    if (!to || !beside)
        exit(2);
    while (groups--)
        at = put_banks(to, beside, dice, at, (unsigned)odd_roll(dice, bank ? 2 : 3), word, &bank,
                       &socket, bank ? any_sort(dice, s->lines) : s);
    fclose(to);
    fclose(beside);
    while (1u << lines < at)
        lines++;
    to = open_memstream(&text, &size);
    if (!to)
        exit(2);
    fprintf(to,
            "board: odd\nword: %u\naddresses: words\naddress-lines: %u\naccess-ns: 400\n%s"
            "regions:\n%sbanks:\n%ssockets:\n"
            "  - {names: U1-U%u, mount: socket}\n",
            word, lines, own_parts, regions, banks, socket - 1u);
    if (told)
        fprintf(to, "undriven: %s\n", undriven);
    if (traced) /* from a buffer to nothing that is known: the chips' pins are not */
        fprintf(to, "lines:\n  - {name: D0-D%u, path: [U90.1-%u]}\n", word - 1u, word);
    fclose(to);
    free(banks);
    free(regions);
    return text;
}

/* How an entry begins; what stands for a place is drawn: %s socket, %b bank, %p another bank, %d
 * data line, %e another, %a and %A address lines of the bus, %i a bit of the socket, %c and %C
 * cells, %r row, %k column, %n a pin, %l a level. */
typedef struct form {
    const char *text;
    unsigned weight;
    bool dram; /* rows and columns */
} form;

static const form forms[] = {
    {"kind: cell stuck, socket: %s, bit: %i, cell: %c, level: %l", 2, false},
    {"kind: row stuck, socket: %s, row: %r, level: %l", 1, true},
    {"kind: column stuck, socket: %s, bit: %i, column: %k, level: %l", 1, true},
    {"kind: output stuck, socket: %s, bit: %i, level: %l", 2, false},
    {"kind: data pin open, socket: %s, bit: %i", 2, false},
    {"kind: chip missing, socket: %s", 2, false},
    {"kind: address pin stuck, socket: %s, pin: %n, level: %l", 2, false},
    {"kind: address pin open, socket: %s, pin: %n, floats: %l", 1, false},
    {"kind: never written, socket: %s", 1, false},
    {"kind: never selected, socket: %s", 1, false},
    {"kind: always on, socket: %s, wins: %l", 2, false},
    {"kind: stale output, socket: %s", 1, false},
    {"kind: slow address line, socket: %s, address-line: %k, change-to: %l", 1, false},
    {"kind: transition, socket: %s, bit: %i, cell: %c, level: %l", 1, false},
    {"kind: read destructive, socket: %s, bit: %i, cell: %c, level: %l", 1, false},
    {"kind: incorrect read, socket: %s, bit: %i, cell: %c, level: %l", 1, false},
    {"kind: wrong cells, socket: %s, cell: %c, other: %C, reaches: both, reads: and", 1, false},
    {"kind: fading bits, socket: %s, one-cell-in: 400", 1, false},
    {"kind: data line stuck, line: %d, level: %l", 2, false},
    {"kind: line stuck, line: %d, bank: %b, level: %l", 1, false},
    {"kind: line open, line: %d, floats: %l", 1, false},
    {"kind: line open, line: %d, bank: %b, floats: %l", 1, false},
    {"kind: lines touch, line: %d, with: %e, wins: %l", 2, false},
    {"kind: lines touch, line: %d, with: %e, bank: %b, wins: %l", 1, false},
    {"kind: lines touch, line: %a, with: %A, bank: %b, wins: %l", 1, false},
    {"kind: address line stuck, bank: %b, line: %a, level: %l", 2, false},
    {"kind: line open, line: %a, floats: %l", 1, false},
    {"kind: line stuck, line: %a, level: %l", 1, false},
    {"kind: crosstalk, line: %d, change-to: %l, of: still", 1, false},
    {"kind: never written, bank: %b", 1, false},
    {"kind: never selected, bank: %b", 2, false},
    {"kind: also selected, bank: %b, where: %p, wins: %l", 2, false},
    {"kind: noise, line: %d", 2, false},
    {"kind: noise", 1, false}};
#define FORMS (sizeof forms / sizeof *forms)

static const form *any_form(odd_dice *dice)
{
    unsigned all = 0, at;

    for (size_t i = 0; i < FORMS; i++)
        all += forms[i].weight;
    at = (unsigned)odd_roll(dice, all);
    for (size_t i = 0;; at -= forms[i++].weight)
        if (at < forms[i].weight)
            return &forms[i];
}

/* A data bit of the rule's chip. */
static unsigned bit_of(odd_dice *dice, const rmg_rule *rule)
{
    unsigned bit;

    do
        bit = (unsigned)odd_roll(dice, RMG_WORD_BITS);
    while (!(rmg_rule_bits(rule) >> bit & 1u));
    return bit;
}

static void put_place(FILE *to, odd_dice *dice, char what, const rmg_board *board,
                      const rmg_rule *rule)
{
    const rmg_socket *socket = &board->sockets[rule->socket];
    const unsigned rows = socket->part->row_lines, lines = socket->part->address_lines;

    switch (what) {
    case 's':
        fprintf(to, "%s", socket->name);
        break;
    case 'b':
        fprintf(to, "%s", board->banks[rule->bank].name);
        break;
    case 'p':
        fprintf(to, "%s", board->banks[(rule->bank + 1u) % board->bank_count].name);
        break;
    case 'd':
    case 'e':
        fprintf(to, "D%u",
                (unsigned)odd_roll(dice, board->word_bits / 2u) * 2u + (what == 'e' ? 1u : 0u));
        break;
    case 'a':
    case 'A':
        fprintf(to, "A%u", (unsigned)odd_roll(dice, lines / 2u) * 2u + (what == 'A' ? 1u : 0u));
        break;
    case 'i':
        fprintf(to, "D%u", bit_of(dice, rule));
        break;
    case 'c':
    case 'C':
        fprintf(to, "%u", (unsigned)odd_roll(dice, 1u << (lines - 1u)) * 2u + (what == 'C'));
        break;
    case 'r':
        fprintf(to, "%u", (unsigned)odd_roll(dice, 1u << rows));
        break;
    case 'k':
        fprintf(to, "%u", (unsigned)odd_roll(dice, lines - rows));
        break;
    case 'n':
        fprintf(to, "A%u", (unsigned)odd_roll(dice, rows ? rows : lines));
        break;
    default:
        fprintf(to, "%u", (unsigned)odd_roll(dice, 2));
    }
}

void odd_fault_put(FILE *to, odd_dice *dice, const rmg_board *board)
{
    static const unsigned rates[] = {2, 3, 5, 10, 100, 1000, 5000, 20000};
    const rmg_rule *rule = &board->placement.rules[odd_roll(dice, board->placement.rule_count)];
    const form *f;

    do
        f = any_form(dice);
    while ((f->dram && !board->sockets[rule->socket].part->row_lines) ||
           (strstr(f->text, "%p") && board->bank_count < 2));
    fprintf(to, "  - {");
    for (const char *p = f->text; *p; p++)
        if (*p == '%')
            put_place(to, dice, *++p, board, rule);
        else
            fputc(*p, to);
    if (strstr(f->text, "noise") || odd_roll(dice, 2))
        fprintf(to, ", one-in: %u", rates[odd_roll(dice, sizeof rates / sizeof *rates)]);
    fprintf(to, "}\n");
}
