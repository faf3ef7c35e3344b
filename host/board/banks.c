/* The banks of a board file: which socket holds which bits, and what feeds its address lines. */
#include "build.h"

#include <string.h>

static const char *const bank_keys[] = {"name",    "range", "where", "part", "rows",
                                        "columns", "lines", "data",  NULL};

#define MOST_CONDITIONS 8u

/* One name of a line ("A7", "D3", "low", "high") to its number. */
static bool line_number(const board_build *b, const char *text, char letter, uint8_t *number)
{
    const rmg_board *board = b->board;
    char stem[4];
    uint64_t n;

    if (letter == 'A' && strcmp(text, "low") == 0)
        *number = RMG_FEED_0;
    else if (letter == 'A' && strcmp(text, "high") == 0)
        *number = RMG_FEED_1;
    else if (!rmg_designator_parse(text, stem, sizeof stem, &n) || stem[1] || stem[0] != letter)
        return false;
    else if (letter == 'A' && n >= board->byte_shift && n < 64)
        *number = (uint8_t)(n - board->byte_shift);
    else if (letter == 'D' && n < 64)
        *number = (uint8_t)n;
    else
        return false;
    return true;
}

static void wrong_line(board_build *b, const ynode *node, const char *key, const char *text,
                       char letter)
{
    const rmg_board *board = b->board;

    if (letter == 'A')
        rmg_yaml_wrong(b->file, node, key,
                       "found \"%s\", expected address lines from A%u to A%u, low or high", text,
                       board->byte_shift, board->address_bits + board->byte_shift - 1u);
    else
        rmg_yaml_wrong(b->file, node, key, "found \"%s\", expected data bits from D0 to D%u", text,
                       board->word_bits - 1u);
}

/* "A0-A6", "D3" or "D3-D0" added to `lines`; the order written is the order of the chip's lines. */
static void add_lines(board_build *b, const ynode *node, const char *key, char letter,
                      GByteArray *lines)
{
    const uint8_t most = letter == 'A' ? b->board->address_bits : b->board->word_bits;
    gchar **ends = g_strsplit(rmg_yaml_text(node), "-", 2);
    uint8_t from = 0, to = 0;
    bool ok = ends[0] && line_number(b, g_strstrip(ends[0]), letter, &from);

    to = from;
    if (ok && ends[1])
        ok = line_number(b, g_strstrip(ends[1]), letter, &to) && from < RMG_FEED_0 &&
             to < RMG_FEED_0;
    if (!ok || (from >= most && from < RMG_FEED_0) || (to >= most && to < RMG_FEED_0))
        wrong_line(b, node, key, rmg_yaml_text(node), letter);
    else
        for (uint8_t n = from;; n = (uint8_t)(from < to ? n + 1 : n - 1)) {
            g_byte_array_append(lines, &n, 1);
            if (n == to)
                break;
        }
    g_strfreev(ends);
}

static void read_lines(board_build *b, const ynode *node, const char *key, char letter,
                       GByteArray *lines)
{
    ynode *item;

    if (!node)
        return;
    if (node->type != YAML_SEQUENCE_NODE)
        add_lines(b, node, key, letter, lines);
    else
        for (size_t i = 0; (item = rmg_yaml_item(b->file, node, i)) != NULL; i++)
            add_lines(b, item, key, letter, lines);
}

static const uint8_t *keep_bytes(board_build *b, const GByteArray *bytes)
{
    uint8_t *copy = rmg_board_keep(b, bytes->len);

    if (bytes->len)
        memcpy(copy, bytes->data, bytes->len);
    return copy;
}

/* "where: [A15=1, A0=0]" */
static void read_where(board_build *b, const ynode *map, rmg_where *where)
{
    ynode *list = rmg_yaml_list(b->file, map, "where", false);
    ynode *item;

    if (rmg_yaml_item(b->file, list, MOST_CONDITIONS))
        rmg_yaml_wrong(b->file, list, "where", "more than %u address lines", MOST_CONDITIONS);
    for (size_t i = 0; i < MOST_CONDITIONS && (item = rmg_yaml_item(b->file, list, i)) != NULL;
         i++) {
        gchar **sides = g_strsplit(rmg_yaml_text(item), "=", 2);
        const bool two = sides[0] && sides[1];
        const bool one = two && strcmp(g_strstrip(sides[1]), "1") == 0;
        const bool zero = two && strcmp(g_strstrip(sides[1]), "0") == 0;
        uint8_t bit = 0;

        if (!(one || zero) || !line_number(b, g_strstrip(sides[0]), 'A', &bit) ||
            bit >= b->board->address_bits) {
            rmg_yaml_wrong(b->file, item, "where",
                           "found \"%s\", expected an address line and its level, like A15=1",
                           rmg_yaml_text(item));
        } else {
            where->mask |= (rmg_addr)1 << bit;
            if (one)
                where->match |= (rmg_addr)1 << bit;
        }
        g_strfreev(sides);
    }
}

static uint16_t find_socket(board_build *b, const ynode *node)
{
    const char *renamed = rmg_board_designator(b, node, rmg_yaml_text(node));
    const char *name = renamed ? renamed : rmg_yaml_text(node);
    GPtrArray *names = g_ptr_array_new();
    const char *near;
    uint16_t found = RMG_NO_SOCKET;

    for (guint i = 0; i < b->sockets->len; i++) {
        const rmg_socket *s = &g_array_index(b->sockets, rmg_socket, i);

        if (g_ascii_strcasecmp(s->name, name) == 0)
            found = (uint16_t)i;
        g_ptr_array_add(names, s->name);
    }
    g_ptr_array_add(names, NULL);
    if (found == RMG_NO_SOCKET) {
        near = rmg_nearest(name, (const char *const *)names->pdata);
        rmg_yaml_wrong(b->file, node, "data", "\"%s\" is not in the list \"sockets\"%s%s%s", name,
                       near ? "; did you mean " : "", near ? near : "", near ? "?" : "");
    }
    g_ptr_array_free(names, TRUE);
    return found;
}

static void fill_pins(board_build *b, rmg_rule *rule, const rmg_part *part)
{
    uint8_t *in = rmg_board_keep(b, rule->width);
    uint8_t *out = rmg_board_keep(b, rule->width);
    uint8_t *address = rmg_board_keep(b, rule->address_lines);

    for (uint8_t i = 0; i < rule->width; i++)
        rmg_part_data_pins(part, i, &in[i], &out[i]);
    for (uint8_t i = 0; i < rule->address_lines; i++)
        address[i] = rmg_part_address_pin(part, i);
    rule->in_pins = in;
    rule->out_pins = out;
    rule->address_pins = address;
}

static void add_rule(board_build *b, ynode *key, ynode *value, rmg_rule rule, const rmg_part *part)
{
    GByteArray *bits = g_byte_array_new();
    const guint before = b->file->errors->len;

    rule.socket = find_socket(b, key);
    read_lines(b, value, rmg_yaml_text(key), 'D', bits);
    if (b->file->errors->len == before && bits->len != part->width)
        rmg_yaml_wrong(b->file, value, rmg_yaml_text(key), "%u data bits given, but a %s has %u",
                       bits->len, part->number, part->width);
    if (b->file->errors->len == before) {
        rmg_socket *s = &g_array_index(b->sockets, rmg_socket, rule.socket);

        if (s->part && s->part != part) {
            char *place = rmg_yaml_place(b->file, b->socket_nodes->pdata[rule.socket]);

            rmg_yaml_wrong(b->file, key, "data", "%s is a %s in %s, but this bank is of %s",
                           s->name, s->part->number, place, part->number);
            g_free(place);
        }
        s->part = part;
        rule.width = (uint8_t)bits->len;
        rule.data_bits = keep_bytes(b, bits);
        fill_pins(b, &rule, part);
        g_array_append_val(b->rules, rule);
        g_ptr_array_add(b->rule_nodes, key);
    }
    g_byte_array_free(bits, TRUE);
}

/* A name that says already what it is, such as "Bank 2" or "spare bank", is not said twice. */
static char *called(const char *name)
{
    gchar *low = g_ascii_strdown(name, -1);
    char *text = g_str_has_prefix(low, "bank")   ? g_strdup(name)
                 : g_str_has_suffix(low, "bank") ? g_strdup_printf("the %s", name)
                                                 : g_strdup_printf("the %s bank", name);

    g_free(low);
    return text;
}

/* The address lines of the bank's chips, row lines first. */
static void read_feeds(board_build *b, const ynode *item, const rmg_part *part, rmg_rule *rule)
{
    GByteArray *feeds = g_byte_array_new();
    const guint before = b->file->errors->len;
    const bool rows = part->row_lines > 0;

    read_lines(b, rmg_yaml_need(b->file, item, rows ? "rows" : "lines"), rows ? "rows" : "lines",
               'A', feeds);
    if (b->file->errors->len == before && rows && feeds->len != part->row_lines)
        rmg_yaml_wrong(b->file, rmg_yaml_get(b->file, item, "rows"), "rows",
                       "%u row lines given, but a %s has %u", feeds->len, part->number,
                       part->row_lines);
    if (rows)
        read_lines(b, rmg_yaml_need(b->file, item, "columns"), "columns", 'A', feeds);
    if (b->file->errors->len == before && feeds->len != part->address_lines)
        rmg_yaml_wrong(b->file, rmg_yaml_get(b->file, item, rows ? "columns" : "lines"),
                       rows ? "columns" : "lines", "%u lines given, but a %s has %u",
                       feeds->len - (rows ? part->row_lines : 0u), part->number,
                       part->address_lines - part->row_lines);
    rule->address_lines = (uint8_t)feeds->len;
    rule->address_bits = keep_bytes(b, feeds);
    g_byte_array_free(feeds, TRUE);
}

static void read_bank(board_build *b, ynode *item)
{
    rmg_bank bank = {0};
    rmg_rule rule = {.bank = (uint8_t)b->banks->len};
    rmg_range range;
    ynode *data, *key, *value;

    bank.name = rmg_yaml_string(b->file, item, "name", NULL);
    bank.called = called(bank.name);
    bank.part = rmg_board_part(b, item, true);
    range = rmg_board_range(b, item, "range");
    rule.where.first = range.first;
    rule.where.last = range.last;
    read_where(b, item, &rule.where);
    data = rmg_yaml_need(b->file, item, "data");
    if (data && data->type != YAML_MAPPING_NODE)
        rmg_yaml_wrong(b->file, data, "data", "expected sockets and their data bits, like U18: D0");
    if (bank.part) {
        read_feeds(b, item, bank.part, &rule);
        for (size_t i = 0; rmg_yaml_pair(b->file, data, i, &key, &value); i++)
            add_rule(b, key, value, rule, bank.part);
    }
    g_array_append_val(b->banks, bank);
    g_ptr_array_add(b->bank_nodes, item);
    g_array_append_val(b->bank_wheres, rule.where);
}

void rmg_board_read_banks(board_build *b, const ynode *root)
{
    ynode *list = rmg_yaml_list(b->file, root, "banks", true);
    ynode *item;

    for (size_t i = 0; (item = rmg_yaml_item(b->file, list, i)) != NULL; i++) {
        if (i == RMG_TALLY_BANKS)
            rmg_yaml_wrong(b->file, item, "banks", "more than %u banks", RMG_TALLY_BANKS);
        if (i < RMG_TALLY_BANKS && rmg_yaml_is_map(b->file, item, "a bank", bank_keys))
            read_bank(b, item);
    }
    if (b->rules->len > RMG_PLACE_RULES)
        rmg_yaml_wrong(b->file, list, "banks", "more than %u places", RMG_PLACE_RULES);
}
