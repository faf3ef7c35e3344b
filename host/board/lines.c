/* The lines of a board file: chains of points with branches, several alike lines written as one. */
#include "build.h"

#include <string.h>

#define MOST_POINTS 16384u /* of all lines together */

static const char *const line_keys[] = {"name", "path", "lane-of", NULL};

/* The line being built. */
typedef struct tracing {
    board_build *b;
    rmg_line *line;
    const ynode *node; /* of its entry */
    GArray *points;    /* of rmg_point */
    uint64_t index;    /* which of the alike lines */
    uint64_t count;
} tracing;

/* Element `index` of "a/b/c", `count` of them; else the text itself. Newly allocated, or NULL. */
static gchar *pick_element(const char *text, uint64_t index, uint64_t count)
{
    gchar **parts = g_strsplit(text, "/", -1);
    gchar *one = NULL;

    if (!parts[0] || !parts[1])
        one = g_strdup(text);
    else if (g_strv_length(parts) == count)
        one = g_strdup(g_strstrip(parts[index]));
    g_strfreev(parts);
    return one;
}

/* "11", "11-18", "18-11" or "4/9/2": the number for line `index` of `count`. */
static bool pick(const char *text, uint64_t index, uint64_t count, uint64_t *number)
{
    uint64_t last;
    gchar *one = pick_element(text, index, count);
    gchar **ends = g_strsplit(one ? one : "", "-", 2);
    bool ok = ends[0] && rmg_decimal_parse(ends[0], number);

    if (ok && ends[1]) {
        ok = rmg_decimal_parse(ends[1], &last) &&
             (*number < last ? last - *number : *number - last) + 1u == count;
        *number = *number < last ? *number + index : *number - index;
    }
    g_strfreev(ends);
    g_free(one);
    return ok;
}

/* "U5", "U18-U11" or "R1/R3" for line `index`; newly allocated, NULL if it is no designator. */
static gchar *pick_designator(const char *text, uint64_t index, uint64_t count)
{
    gchar *one = pick_element(text, index, count);
    gchar **ends = g_strsplit(one ? one : "", "-", 2);
    char stem[16], stem2[16];
    uint64_t first, last;
    gchar *name = NULL;

    if (ends[0] && rmg_designator_parse(ends[0], stem, sizeof stem, &first)) {
        last = first;
        if (!ends[1])
            name = g_strdup(ends[0]);
        else if (rmg_designator_parse(ends[1], stem2, sizeof stem2, &last) &&
                 strcmp(stem, stem2) == 0 &&
                 (first < last ? last - first : first - last) + 1u == count)
            name = g_strdup_printf("%s%" G_GUINT64_FORMAT, stem,
                                   first < last ? first + index : first - index);
    }
    g_strfreev(ends);
    g_free(one);
    return name;
}

static uint16_t socket_of(const board_build *b, const char *name)
{
    for (guint i = 0; i < b->sockets->len; i++)
        if (g_ascii_strcasecmp(g_array_index(b->sockets, rmg_socket, i).name, name) == 0)
            return (uint16_t)i;
    return RMG_NO_SOCKET;
}

/* One end "U22.9" for this line; the pin may be missing on two-legged parts. */
static bool read_end(tracing *t, const char *text, GString *name, rmg_point *point)
{
    gchar **halves = g_strsplit(text, ".", 2);
    gchar *written = halves[0] ? pick_designator(g_strstrip(halves[0]), t->index, t->count) : NULL;
    const char *renamed = written ? rmg_board_designator(t->b, t->node, written) : NULL;
    const char *designator = renamed ? renamed : written;
    uint64_t pin = 0;
    bool ok = designator && (!halves[1] || pick(halves[1], t->index, t->count, &pin)) && pin < 256;

    if (ok) {
        g_string_append(name, designator);
        if (halves[1])
            g_string_append_printf(name, ".%" G_GUINT64_FORMAT, pin);
        point->socket = socket_of(t->b, designator);
        point->pin = (uint8_t)pin;
    }
    g_free(written);
    g_strfreev(halves);
    return ok;
}

static void check_pin(tracing *t, const ynode *node, const rmg_point *point)
{
    const rmg_socket *s;

    if (point->socket == RMG_NO_SOCKET)
        return;
    s = &g_array_index(t->b->sockets, rmg_socket, point->socket);
    if (s->part && (!point->pin || point->pin > rmg_part_pin_count(s->part)))
        rmg_yaml_wrong(t->b->file, node, "path", "%s: a %s has pins 1 to %u", point->name,
                       s->part->number, rmg_part_pin_count(s->part));
}

/* Adds the point of this text after `parent`; returns its number, or `parent` where it is wrong. */
static uint16_t add_point(tracing *t, const ynode *node, const char *text, uint16_t parent)
{
    gchar **sides = g_strsplit(text, ">", 2);
    GString *name = g_string_new(NULL);
    rmg_point point = {.parent = parent, .socket = RMG_NO_SOCKET};
    bool ok = sides[0] && read_end(t, sides[0], name, &point);

    if (ok && sides[1]) {
        rmg_point out = point;

        g_string_append_c(name, '>');
        ok = read_end(t, sides[1], name, &out);
        point.socket = RMG_NO_SOCKET;
    }
    if (ok && t->b->point_count++ >= MOST_POINTS) {
        if (t->b->point_count == MOST_POINTS + 1u)
            rmg_yaml_wrong(t->b->file, node, "path", "more than %u points in all lines together",
                           MOST_POINTS);
        g_string_free(name, TRUE);
    } else if (!ok) {
        if (!t->index)
            rmg_yaml_wrong(t->b->file, node, "path",
                           "found \"%s\", expected a point like U22.9, R4 or U22.2>U22.18; a range "
                           "in it must have as many members as there are lines",
                           text);
        g_string_free(name, TRUE);
    } else {
        point.name = g_string_free(name, FALSE);
        check_pin(t, node, &point);
        g_array_append_val(t->points, point);
        parent = (uint16_t)(t->points->len - 1u);
    }
    g_strfreev(sides);
    return parent;
}

/* "U11..U18.5": one line that runs from chip to chip in this order. */
static uint16_t add_row(tracing *t, const ynode *node, uint16_t parent)
{
    gchar **ends = g_strsplit(rmg_yaml_text(node), "..", 2);
    gchar **last_pin = g_strsplit(ends[1], ".", 2);
    char stem[16], stem2[16];
    uint64_t first, last;

    if (!rmg_designator_parse(ends[0], stem, sizeof stem, &first) || !last_pin[0] || !last_pin[1] ||
        !rmg_designator_parse(last_pin[0], stem2, sizeof stem2, &last) ||
        strcmp(stem, stem2) != 0 ||
        (first < last ? last - first : first - last) >= RMG_PLACE_RULES) {
        if (!t->index)
            rmg_yaml_wrong(
                t->b->file, node, "path",
                "found \"%s\", expected at most 128 chips in a row and their pin, like U11..U18.5",
                rmg_yaml_text(node));
    } else {
        for (uint64_t n = first;; n = first < last ? n + 1 : n - 1) {
            gchar *text = g_strdup_printf("%s%" G_GUINT64_FORMAT ".%s", stem, n, last_pin[1]);

            parent = add_point(t, node, text, parent);
            g_free(text);
            if (n == last || t->b->point_count > MOST_POINTS)
                break;
        }
    }
    g_strfreev(last_pin);
    g_strfreev(ends);
    return parent;
}

/* A path: points in order; a list within it is a branch from the point before it. */
static void add_path(tracing *t, const ynode *list, uint16_t parent)
{
    ynode *item;

    for (size_t i = 0;
         t->b->point_count <= MOST_POINTS && (item = rmg_yaml_item(t->b->file, list, i)) != NULL;
         i++) {
        if (item->type == YAML_SEQUENCE_NODE)
            add_path(t, item, parent);
        else if (strstr(rmg_yaml_text(item), ".."))
            parent = add_row(t, item, parent);
        else
            parent = add_point(t, item, rmg_yaml_text(item), parent);
    }
}

static void set_kind(board_build *b, rmg_line *line)
{
    char stem[16];
    uint64_t number;

    line->kind = RMG_LINE_CONTROL;
    if (!rmg_designator_parse(line->name, stem, sizeof stem, &number))
        return;
    if (strcmp(stem, "D") == 0 && number < b->board->word_bits) {
        line->kind = RMG_LINE_DATA;
        line->bit = (uint8_t)number;
    } else if (strcmp(stem, "A") == 0 && number >= b->board->byte_shift &&
               number < 64u + b->board->byte_shift) {
        line->kind = RMG_LINE_ADDRESS;
        line->bit = (uint8_t)(number - b->board->byte_shift);
    }
}

/* By the pins it reaches: a board may call it anything. */
static bool reaches_write_pin(const board_build *b, const rmg_line *line, bool *known)
{
    for (size_t p = 0; p < line->point_count; p++) {
        const rmg_point *point = &line->points[p];
        const rmg_part *part = point->socket == RMG_NO_SOCKET
                                   ? NULL
                                   : g_array_index(b->sockets, rmg_socket, point->socket).part;

        if (!part || part->kind == RMG_PART_ROM || !rmg_part_pin(part, "WE"))
            continue;
        *known = true;
        if (point->pin == rmg_part_pin(part, "WE"))
            return true;
    }
    return false;
}

static void set_writes(const board_build *b, rmg_line *line)
{
    bool known = false;

    line->writes =
        line->kind == RMG_LINE_CONTROL &&
        (reaches_write_pin(b, line, &known) || (!known && g_ascii_toupper(line->name[0]) == 'W'));
}

static void set_lane(board_build *b, const ynode *item, rmg_line *line)
{
    const ynode *lane = rmg_yaml_get(b->file, item, "lane-of");

    line->lane.last = (rmg_addr) ~(rmg_addr)0;
    if (!lane)
        return;
    for (guint i = 0; i < b->banks->len; i++)
        if (strcmp(g_array_index(b->banks, rmg_bank, i).name, rmg_yaml_text(lane)) == 0) {
            line->lane.mask = g_array_index(b->bank_wheres, rmg_where, i).mask;
            line->lane.match = g_array_index(b->bank_wheres, rmg_where, i).match;
            return;
        }
    rmg_yaml_wrong(b->file, lane, "lane-of", "there is no bank \"%s\"", rmg_yaml_text(lane));
}

/* How many lines a name stands for: "D0-D7" is eight, "A0/A7" two. */
static uint64_t count_names(const char *text)
{
    gchar **list = g_strsplit(text, "/", -1);
    const uint64_t listed = g_strv_length(list);
    gchar **ends = g_strsplit(text, "-", 2);
    char stem[16], stem2[16];
    uint64_t first, last, count = 1;

    if (ends[0] && ends[1] && rmg_designator_parse(ends[0], stem, sizeof stem, &first) &&
        rmg_designator_parse(ends[1], stem2, sizeof stem2, &last) && strcmp(stem, stem2) == 0)
        count = (first < last ? last - first : first - last) + 1u;
    g_strfreev(ends);
    g_strfreev(list);
    return MIN(MAX(count, listed), 64);
}

static void free_line(rmg_line *line)
{
    for (size_t p = 0; p < line->point_count; p++)
        g_free(line->points[p].name);
    g_free(line->points);
    g_free(line->name);
}

/* Adds a line, or puts it in the place of the base's line of that name and lane. */
static void keep_line(board_build *b, const ynode *item, rmg_line *line)
{
    if (rmg_board_line_left_out(b, item, line->name)) {
        free_line(line);
        return;
    }
    for (guint i = 0; i < b->lines->len; i++) {
        rmg_line *old = &g_array_index(b->lines, rmg_line, i);

        if (rmg_yaml_source(b->file, b->line_nodes->pdata[i]) <= rmg_yaml_source(b->file, item) ||
            g_ascii_strcasecmp(old->name, line->name) != 0 || old->lane.mask != line->lane.mask ||
            old->lane.match != line->lane.match)
            continue;
        free_line(old);
        *old = *line;
        b->line_nodes->pdata[i] = (gpointer)(uintptr_t)item;
        return;
    }
    g_array_append_val(b->lines, *line);
    g_ptr_array_add(b->line_nodes, (gpointer)(uintptr_t)item);
}

static void read_line(board_build *b, const ynode *item)
{
    char *names = rmg_yaml_string(b->file, item, "name", NULL);
    const ynode *path = rmg_yaml_list(b->file, item, "path", true);
    const uint64_t count = count_names(names);

    for (uint64_t i = 0; i < count && path; i++) {
        rmg_line line = {0};
        tracing t = {b, &line, path, g_array_new(FALSE, TRUE, sizeof(rmg_point)), i, count};

        line.name = count > 1 ? pick_designator(names, i, count) : g_strdup(names);
        if (!line.name)
            line.name = g_strdup(names);
        set_kind(b, &line);
        set_lane(b, item, &line);
        add_path(&t, path, RMG_NO_POINT);
        line.point_count = t.points->len;
        line.points = rmg_array_take(t.points);
        set_writes(b, &line);
        keep_line(b, item, &line);
    }
    g_free(names);
}

void rmg_board_read_lines(board_build *b, const ynode *root)
{
    ynode *list = rmg_yaml_list(b->file, root, "lines", false);
    ynode *item;

    for (size_t i = 0; (item = rmg_yaml_item(b->file, list, i)) != NULL; i++)
        if (rmg_yaml_is_map(b->file, item, "a line", line_keys))
            read_line(b, item);
}

const rmg_line *rmg_board_line(const rmg_board *board, const char *name)
{
    for (size_t i = 0; i < board->line_count; i++)
        if (g_ascii_strcasecmp(board->lines[i].name, name) == 0)
            return &board->lines[i];
    return NULL;
}
