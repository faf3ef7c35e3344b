/* Questions to a board file: what holds this bit, what does this socket hold, where does this line
 * run. */
#include <string.h>

#include "cli.h"

static void print_pins(const rmg_rule *rule, uint8_t line)
{
    const unsigned in = rule->in_pins[line], out = rule->out_pins[line];

    if (in == out)
        printf("pin %u", out);
    else
        printf("in at pin %u, out at pin %u", in, out);
}

static void print_place(const rmg_board *board, const rmg_place *place, unsigned bit)
{
    const rmg_socket *socket = &board->sockets[place->socket];
    const rmg_rule *rule = &board->placement.rules[place->rule];

    printf("  D%-3u %-6s %-6s %-14s", bit, socket->name, socket->part->number,
           place->bank == RMG_NO_BANK ? "" : board->banks[place->bank].name);
    print_pins(rule, place->data_line);
    if (socket->part->row_lines)
        printf("; row %" G_GUINT64_FORMAT ", column %" G_GUINT64_FORMAT "\n",
               (guint64)(place->cell & ((1u << socket->part->row_lines) - 1u)),
               (guint64)(place->cell >> socket->part->row_lines));
    else
        printf("; cell 0x%" G_GINT64_MODIFIER "X\n", (guint64)place->cell);
}

int ask_address(const rmg_board *board, const char *text, const char *bit_text)
{
    const bool letter = bit_text && (*bit_text == 'D' || *bit_text == 'd');
    uint64_t shown = 0, bit = 0;
    const rmg_region *region;
    rmg_addr address;
    unsigned held = 0;
    char at[40];

    if (!rmg_number_parse(text, &shown) || rmg_board_word(board, shown) > board->last_address)
        return wrong_call("board", "--at %s: expected an address up to %s%s", text,
                          rmg_board_address_text(board, board->last_address, at, sizeof at),
                          rmg_number_hint(text));
    if (bit_text && (!rmg_number_parse(bit_text + letter, &bit) || bit >= board->word_bits))
        return wrong_call("board", "--bit %s: expected a data bit from D0 to D%u", bit_text,
                          board->word_bits - 1u);
    address = rmg_board_word(board, shown);
    region = rmg_board_region_at(board, address);
    if (region && region->kind == RMG_REGION_MIRROR)
        address = address - region->range.first + region->mirror_of;
    printf("%s: %s%s%s\n",
           rmg_board_address_text(board, rmg_board_word(board, shown), at, sizeof at),
           region ? region->name : "the board file does not describe this", region ? ", " : "",
           region ? rmg_region_kind_name(region->kind) : "");
    for (unsigned b = board->word_bits; b-- > 0;) {
        rmg_place place;

        if ((bit_text && b != bit) ||
            !rmg_place_find(&board->placement, address, (uint8_t)b, &place))
            continue;
        print_place(board, &place, b);
        held++;
    }
    if (!held)
        printf("  no socket of the board file holds %s here\n", bit_text ? bit_text : "anything");
    return EXIT_PASS;
}

/* The address lines at one pin, as the rule feeds them. */
static void print_address_pin(const rmg_board *board, const rmg_rule *rule, unsigned pin)
{
    bool any = false;
    char name[8];

    for (uint8_t i = 0; i < rule->address_lines; i++) {
        const uint8_t feed = rule->address_bits[i];

        if (rule->address_pins[i] != pin)
            continue;
        printf("%s%s", any ? " and " : "",
               feed == RMG_FEED_0   ? "low"
               : feed == RMG_FEED_1 ? "high"
                                    : rmg_board_line_text(board, feed, name, sizeof name));
        any = true;
    }
}

static void print_rule(const rmg_board *board, const rmg_rule *rule)
{
    const rmg_range range = {rule->where.first, rule->where.last};
    const rmg_part *part = board->sockets[rule->socket].part;
    char text[40];

    printf("  %s, %s\n", bank_alone(&board->banks[rule->bank]),
           rmg_board_range_text(board, &range, text, sizeof text));
    for (uint8_t i = 0; i < rule->width; i++) {
        printf("    D%-3u ", rule->data_bits[i]);
        print_pins(rule, i);
        printf("\n");
    }
    for (unsigned pin = 1; pin <= rmg_part_pin_count(part); pin++)
        for (uint8_t i = 0; i < rule->address_lines; i++)
            if (rule->address_pins[i] == pin) {
                printf("    pin %-3u ", pin);
                print_address_pin(board, rule, pin);
                printf("\n");
                break;
            }
}

static int no_such(const rmg_board *board, const char *what, const char *name, unsigned of,
                   const char *otherwise)
{
    char *hint = rmg_board_name_hint(board, name, of);

    wrong_call("board", "--%s %s: the board has no such %s%s%s", what, name, what,
               *hint ? hint : "; ", *hint ? "" : otherwise);
    rmg_text_free(hint);
    return EXIT_CALL;
}

int ask_socket(const rmg_board *board, const char *name)
{
    const uint16_t number = rmg_board_socket(board, name);
    const rmg_socket *socket;
    bool any = false;

    if (number == RMG_NO_SOCKET)
        return no_such(board, "socket", name, RMG_NAMES_SOCKETS, "rimeglass board show lists them");
    socket = &board->sockets[number];
    printf("%s: %s, %s%s%s\n", socket->name, socket->part ? socket->part->number : "part not known",
           rmg_mount_text(socket->mount), *socket->note ? "; " : "", socket->note);
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (board->placement.rules[r].socket == number) {
            print_rule(board, &board->placement.rules[r]);
            any = true;
        }
    if (*socket->image)
        printf("  It should hold %s.\n", socket->image);
    if (*socket->unseen)
        printf("  The processor cannot see it: %s.\n", socket->unseen);
    else if (!any)
        printf("  The board file does not say what it holds.\n");
    if (socket->part && socket->part->supplies[strspn(socket->part->supplies, " ")])
        printf("  Supplies: %s\n", socket->part->supplies);
    return EXIT_PASS;
}

/* The part that a point belongs to, for the technician: what sits there. */
static void print_point(const rmg_board *board, const rmg_point *point, unsigned depth, bool branch)
{
    const char *what = strchr(point->name, '>')   ? "through"
                       : strchr(point->name, '.') ? "at"
                                                  : "over";

    printf("  %*s%s%s %s", (int)(4 * depth), "", branch ? "+ " : "  ", what, point->name);
    if (point->socket != RMG_NO_SOCKET && board->sockets[point->socket].part)
        printf("  (%s)", board->sockets[point->socket].part->number);
    printf("\n");
}

/* Points after `parent`: a chain at one depth, each branch one deeper. */
static void print_points(const rmg_board *board, const rmg_line *line, uint16_t parent,
                         unsigned depth)
{
    unsigned children = 0;

    for (size_t i = 0; i < line->point_count; i++)
        children += line->points[i].parent == parent;
    for (size_t i = 0; i < line->point_count; i++)
        if (line->points[i].parent == parent) {
            const unsigned below = depth + (children > 1);

            print_point(board, &line->points[i], below, children > 1);
            print_points(board, line, (uint16_t)i, below);
        }
}

int ask_line(const rmg_board *board, const char *name)
{
    bool any = false;

    for (size_t i = 0; i < board->line_count; i++) {
        const rmg_line *line = &board->lines[i];

        if (g_ascii_strcasecmp(line->name, name) != 0)
            continue;
        printf("%s, from its driver on; each branch begins with +\n", line->name);
        print_points(board, line, RMG_NO_POINT, 0);
        any = true;
    }
    if (any)
        return EXIT_PASS;
    return no_such(board, "line", name, RMG_NAMES_LINES,
                   board->line_count ? "its lines are under \"lines\" in the board file"
                                     : "its file traces none (docs/board-file.md, lines)");
}
