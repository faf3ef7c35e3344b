/* A board written as the text of a board file. */
#include "build.h"

#include <string.h>

static void add_text(GString *out, const char *key, const char *text)
{
    if (!text[strspn(text, " ")])
        return;
    g_string_append(out, key);
    rmg_board_write_quoted(out, text);
}

static void add_number(GString *out, double number)
{
    char text[G_ASCII_DTOSTR_BUF_SIZE];

    g_string_append(out, g_ascii_formatd(text, sizeof text, "%.10g", number));
}

static const char *level_name(rmg_undriven level)
{
    return level == RMG_UNDRIVEN_HIGH ? "high" : level == RMG_UNDRIVEN_LOW ? "low" : "holds";
}

static void add_range(GString *out, const rmg_board *board, const char *key, const rmg_range *range)
{
    char text[40];

    g_string_append_printf(out, "%s%s", key, rmg_board_range_text(board, range, text, sizeof text));
}

static void add_head(GString *out, const rmg_board *board)
{
    add_text(out, "board: ", board->name);
    add_text(out, "\nrevision: ", board->revision);
    g_string_append_printf(out, "\nword: %u\naddress-lines: %u\naddresses: %s\n", board->word_bits,
                           board->address_bits + board->byte_shift,
                           board->counts_bytes ? "bytes" : "words");
    g_string_append_printf(out, "byte-order: %s first\n", board->high_first ? "high" : "low");
    if (board->undriven_known)
        g_string_append_printf(out, "undriven: %s\n", level_name(board->undriven));
    if (board->hold_ns)
        g_string_append_printf(out, "holds-ns: %" G_GUINT64_FORMAT "\nholds-then: %s\n",
                               board->hold_ns, level_name(board->after_hold));
    if (board->clock_hz)
        g_string_append_printf(out, "clock: %u\n", board->clock_hz);
    g_string_append_printf(out, "access-ns: %u\n", board->access_ns);
    if (board->refresh_known)
        g_string_append_printf(out, "refresh: %s\n", board->refreshes ? "board" : "accesses");
    if (board->refresh_cycles)
        g_string_append_printf(out, "refresh-cycles: %u\nrefresh-ms: %u\n", board->refresh_cycles,
                               board->refresh_ms);
    if (board->first_memory.first <= board->first_memory.last) {
        add_range(out, board, "first-memory: ", &board->first_memory);
        g_string_append_c(out, '\n');
    }
    if (board->pages.count) {
        add_range(out, board, "pages: {window: ", &board->pages.window);
        g_string_append_printf(
            out, ", select: %" G_GUINT64_FORMAT ", count: %" G_GUINT64_FORMAT "}\n",
            rmg_board_shown(board, board->pages.select), (uint64_t)board->pages.count);
    }
    if (board->width_mm > 0) {
        g_string_append(out, "drawing: {width: ");
        add_number(out, board->width_mm);
        g_string_append(out, ", height: ");
        add_number(out, board->height_mm);
        g_string_append(out, "}\n");
    }
}

static void add_regions(GString *out, const rmg_board *board)
{
    g_string_append(out, board->region_count ? "regions:\n" : "regions: []\n");
    for (size_t i = 0; i < board->region_count; i++) {
        const rmg_region *r = &board->regions[i];
        const rmg_range of = {r->mirror_of, r->mirror_of + (r->range.last - r->range.first)};

        add_text(out, "  - {name: ", r->name);
        add_range(out, board, ", range: ", &r->range);
        g_string_append_printf(out, ", kind: %s", rmg_region_kind_name(r->kind));
        if (r->kind == RMG_REGION_MIRROR)
            add_range(out, board, ", of: ", &of);
        add_text(out, ", note: ", r->note);
        g_string_append(out, "}\n");
    }
}

static void add_part(GString *out, const rmg_part *part)
{
    static const char *const kinds[] = {"dram", "sram", "rom"};

    add_text(out, "  - {number: ", part->number);
    g_string_append_printf(out, ", kind: %s, width: %u, address-lines: %u", kinds[part->kind],
                           part->width, part->address_lines);
    if (part->kind == RMG_PART_DRAM || part->row_lines)
        g_string_append_printf(out, ", row-lines: %u", part->row_lines);
    g_string_append_printf(out, ", column-from: %u, refresh-cycles: %u, refresh-ms: %u",
                           part->column_from, part->refresh_cycles, part->refresh_ms);
    add_text(out, ", pins: ", part->pins);
    add_text(out, ", supplies: ", part->supplies);
    add_text(out, ", times: ", part->times ? part->times : "");
    add_text(out, ", active-high: ", part->high ? part->high : "");
    g_string_append(out, "}\n");
}

/* Parts that the table does not have. */
static void add_parts(GString *out, const rmg_board *board)
{
    GPtrArray *own = g_ptr_array_new();

    for (size_t i = 0; i < board->socket_count; i++) {
        const rmg_part *part = board->sockets[i].part;

        if (part && rmg_part_find(part->number) != part && !g_ptr_array_find(own, part, NULL))
            g_ptr_array_add(own, (gpointer)(uintptr_t)part);
    }
    if (own->len)
        g_string_append(out, "parts:\n");
    for (guint i = 0; i < own->len; i++)
        add_part(out, own->pdata[i]);
    g_ptr_array_free(own, TRUE);
}

static void add_feeds(GString *out, const rmg_board *board, const char *key, const uint8_t *feeds,
                      unsigned count)
{
    char text[8];

    g_string_append_printf(out, "%s[", key);
    for (unsigned i = 0; i < count; i++)
        g_string_append_printf(out, "%s%s", i ? ", " : "",
                               feeds[i] == RMG_FEED_0 ? "low"
                               : feeds[i] == RMG_FEED_1
                                   ? "high"
                                   : rmg_board_line_text(board, feeds[i], text, sizeof text));
    g_string_append_c(out, ']');
}

static void add_where(GString *out, const rmg_board *board, const rmg_where *where)
{
    const char *lead = ", where: [";
    char text[8];

    for (uint8_t k = 0; k < RMG_ADDR_BITS; k++)
        if (where->mask >> k & 1u) {
            g_string_append_printf(out, "%s%s=%u", lead,
                                   rmg_board_line_text(board, k, text, sizeof text),
                                   (unsigned)(where->match >> k & 1u));
            lead = ", ";
        }
    if (where->mask)
        g_string_append_c(out, ']');
}

/* What of a bank is not its sockets; `rule` is one of its own. */
static void add_bank_facts(GString *out, const rmg_board *board, size_t bank, const rmg_rule *rule)
{
    const rmg_part *part = board->banks[bank].part;
    const rmg_range range = {board->bank_wheres[bank].first, board->bank_wheres[bank].last};

    add_range(out, board, "range: ", &range);
    add_where(out, board, &board->bank_wheres[bank]);
    add_text(out, ", part: ", part->number);
    if (rule) {
        add_feeds(out, board, part->row_lines ? ", rows: " : ", lines: ", rule->address_bits,
                  part->row_lines ? part->row_lines : rule->address_lines);
        if (part->row_lines)
            add_feeds(out, board, ", columns: ", rule->address_bits + part->row_lines,
                      (unsigned)rule->address_lines - part->row_lines);
    }
}

static void add_data(GString *out, const rmg_rule *rule)
{
    g_string_append_c(out, '[');
    for (uint8_t i = 0; i < rule->width; i++)
        g_string_append_printf(out, "%sD%u", i ? ", " : "", rule->data_bits[i]);
    g_string_append_c(out, ']');
}

static const rmg_rule *first_rule(const rmg_board *board, size_t bank)
{
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (board->placement.rules[r].bank == bank)
            return &board->placement.rules[r];
    return NULL;
}

static void add_banks(GString *out, const rmg_board *board)
{
    g_string_append(out, board->bank_count ? "banks:\n" : "banks: []\n");
    for (size_t b = 0; b < board->bank_count; b++) {
        bool any = false;

        add_text(out, "  - {name: ", board->banks[b].name);
        g_string_append(out, ", ");
        add_bank_facts(out, board, b, first_rule(board, b));
        for (uint16_t r = 0; r < board->placement.rule_count; r++)
            if (board->placement.rules[r].bank == b) {
                const rmg_rule *rule = &board->placement.rules[r];

                g_string_append_printf(out, "%s%s: ", any ? ", " : ", data: {",
                                       board->sockets[rule->socket].name);
                add_data(out, rule);
                any = true;
            }
        g_string_append(out, any ? "}}\n" : ", data: {}}\n");
    }
}

static void add_sockets(GString *out, const rmg_board *board)
{
    g_string_append(out, board->socket_count ? "sockets:\n" : "sockets: []\n");
    for (size_t i = 0; i < board->socket_count; i++) {
        const rmg_socket *s = &board->sockets[i];

        g_string_append_printf(out, "  - {names: %s, mount: %s", s->name, rmg_mount_name(s->mount));
        if (s->part)
            add_text(out, ", part: ", s->part->number);
        if (s->within_ns)
            g_string_append_printf(out, ", within-ns: %u", s->within_ns);
        if (s->drawn) {
            g_string_append(out, ", at: [");
            add_number(out, s->x_mm);
            g_string_append(out, ", ");
            add_number(out, s->y_mm);
            g_string_append_c(out, ']');
        }
        add_text(out, ", image: ", s->image_named);
        add_text(out, ", unseen: ", s->unseen);
        add_text(out, ", note: ", s->note);
        g_string_append(out, "}\n");
    }
}

/* The points after `parent`: one goes on, of several each is a branch. */
static void add_points(GString *out, const rmg_line *line, uint16_t parent, bool first)
{
    unsigned count = 0;

    for (size_t p = 0; p < line->point_count; p++)
        count += line->points[p].parent == parent;
    for (size_t p = 0; p < line->point_count; p++) {
        if (line->points[p].parent != parent)
            continue;
        g_string_append_printf(out, "%s%s%s", first ? "" : ", ", count > 1 ? "[" : "",
                               line->points[p].name);
        add_points(out, line, (uint16_t)p, false);
        if (count > 1)
            g_string_append_c(out, ']');
        first = false;
    }
}

char *rmg_board_path_text(const rmg_line *line)
{
    GString *out = g_string_new("[");

    add_points(out, line, RMG_NO_POINT, true);
    g_string_append_c(out, ']');
    return g_string_free(out, FALSE);
}

static void add_lines(GString *out, const rmg_board *board)
{
    if (board->line_count)
        g_string_append(out, "lines:\n");
    for (size_t i = 0; i < board->line_count; i++) {
        const rmg_line *line = &board->lines[i];
        char *path = rmg_board_path_text(line);

        add_text(out, "  - {name: ", line->name);
        for (size_t b = 0; line->lane.mask && b < board->bank_count; b++)
            if (board->bank_wheres[b].mask == line->lane.mask &&
                board->bank_wheres[b].match == line->lane.match) {
                add_text(out, ", lane-of: ", board->banks[b].name);
                break;
            }
        g_string_append_printf(out, ", path: %s}\n", path);
        g_free(path);
    }
}

static void add_symptoms(GString *out, const rmg_board *board)
{
    char text[40];

    for (size_t i = 0; i < board->report_count; i++) {
        g_string_append(out, i ? ", " : "reports: {");
        rmg_board_write_quoted(out, board->reports[i].name);
        g_string_append_printf(out, ": %" G_GUINT64_FORMAT, board->reports[i].number);
    }
    g_string_append(out, board->report_count ? "}\n" : "");
    for (size_t i = 0; i < board->symptom_count; i++) {
        const rmg_symptom *s = &board->symptoms[i];

        add_text(out, i ? "  - {seen: " : "symptoms:\n  - {seen: ", s->seen);
        g_string_append_printf(out, ", look-at: [%s]", s->look_at);
        if (s->has_first)
            g_string_append_printf(out, ", first: %s",
                                   rmg_board_address_text(board, s->first, text, sizeof text));
        add_text(out, ", note: ", s->note);
        g_string_append(out, "}\n");
    }
}

char *rmg_board_text(const rmg_board *board)
{
    GString *out = g_string_new(NULL);

    add_head(out, board);
    add_regions(out, board);
    add_parts(out, board);
    add_banks(out, board);
    add_sockets(out, board);
    add_lines(out, board);
    add_symptoms(out, board);
    rmg_board_write_rom(out, board);
    return g_string_free(out, FALSE);
}

char *rmg_board_bank_text(const rmg_board *board, size_t bank)
{
    GString *out = g_string_new(NULL);

    add_bank_facts(out, board, bank, first_rule(board, bank));
    return g_string_free(out, FALSE);
}
