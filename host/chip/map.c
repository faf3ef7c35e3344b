/* The file of another person's pod: names of lines, and numbers of the far end. */
#include "map.h"

#include <stdlib.h>
#include <string.h>

#include "internal.h"

#define LINES_MOST 255u

static unsigned number_at(const char *text, const char **end)
{
    char *behind;
    const guint64 number = g_ascii_strtoull(text, &behind, 10);

    *end = behind;
    return (unsigned)MIN(number, 9999u);
}

/* "A0" or "A0-A10", "2" or "2-12": the two ends; false: it is neither. */
static bool ends_of(const char *text, const char *prefix, unsigned most, unsigned *first,
                    unsigned *last)
{
    const size_t length = strlen(prefix);
    const char *end;

    if (!g_str_has_prefix(text, prefix) || !g_ascii_isdigit(text[length]))
        return false;
    *first = *last = number_at(text + length, &end);
    if (*end == '-' && g_str_has_prefix(end + 1, prefix) && g_ascii_isdigit(end[1 + length]))
        *last = number_at(end + 1 + length, &end);
    return *end == '\0' && *first <= *last && *last < most;
}

static bool put(yaml_file *file, const ynode *key, const ynode *value, int *lines, unsigned most,
                const char *prefix)
{
    unsigned first, last, from, to;

    if (!ends_of(rmg_yaml_text(key), prefix, most, &first, &last))
        return false;
    if (!ends_of(rmg_yaml_text(value), "", LINES_MOST + 1u, &from, &to) ||
        to - from != last - first)
        rmg_yaml_wrong(file, value, rmg_yaml_text(key),
                       "expected as many line numbers, from 0 to %u, like 2 or 2-9", LINES_MOST);
    else
        for (unsigned i = first; i <= last; i++)
            lines[i] = (int)(from + i - first);
    return true;
}

static void read_lines(yaml_file *file, pod_map *map, const ynode *node)
{
    static const char *const strobes[] = {"CE", "OE", "WE"};
    ynode *key, *value;

    if (!node || node->type != YAML_MAPPING_NODE) {
        rmg_yaml_wrong(file, node ? node : rmg_yaml_root(file), "lines",
                       "expected names and numbers of lines (\"A0-A10: 2-12\")");
        return;
    }
    for (size_t i = 0; rmg_yaml_pair(file, node, i, &key, &value); i++) {
        bool known = put(file, key, value, map->address, MAP_ADDRESS, "A") ||
                     put(file, key, value, map->data, MAP_DATA, "D") ||
                     put(file, key, value, map->inputs, MAP_DATA, "IN");

        for (unsigned s = 0; s < MAP_STROBES && !known; s++)
            if (strcmp(rmg_yaml_text(key), strobes[s]) == 0) {
                unsigned first, last;

                known = true;
                if (ends_of(rmg_yaml_text(value), "", LINES_MOST + 1u, &first, &last) &&
                    first == last)
                    map->strobes[s] = (int)first;
                else
                    rmg_yaml_wrong(file, value, strobes[s],
                                   "expected the number of a line, from 0 to %u", LINES_MOST);
            }
        if (!known)
            rmg_yaml_wrong(file, key, NULL,
                           "line \"%s\": expected A0 to A%u, D0 to D%u, IN0 to IN%u, CE, OE or WE",
                           rmg_yaml_text(key), MAP_ADDRESS - 1u, MAP_DATA - 1u, MAP_DATA - 1u);
    }
}

static int number_or_none(yaml_file *file, const ynode *map, const char *key)
{
    return rmg_yaml_get(file, map, key) ? (int)rmg_yaml_number(file, map, key, 0, LINES_MOST, -1)
                                        : NO_LINE;
}

static void read_rails(yaml_file *file, pod_map *map, const ynode *node)
{
    static const char *const names[] = {"plus5", "plus12", "minus5", NULL};
    static const char *const keys[] = {"power", "feed", "volts", NULL};

    if (!node || !rmg_yaml_is_map(file, node, "the rails", names))
        return;
    for (unsigned i = 0; i < 3; i++) {
        const ynode *rail = rmg_yaml_get(file, node, names[i]);

        if (!rail || !rmg_yaml_is_map(file, rail, names[i], keys))
            continue;
        map->rails[i].power = (int)rmg_yaml_number(file, rail, "power", 0, LINES_MOST, -1);
        map->rails[i].feed = number_or_none(file, rail, "feed");
        map->rails[i].volts = number_or_none(file, rail, "volts");
    }
}

/* No line has two uses. */
static void check_twice(yaml_file *file, const pod_map *map)
{
    unsigned uses[LINES_MOST + 1u] = {0};
    const int *const lists[] = {map->address, map->data, map->inputs, map->strobes};
    const unsigned most[] = {MAP_ADDRESS, MAP_DATA, MAP_DATA, MAP_STROBES};

    for (unsigned l = 0; l < 4; l++)
        for (unsigned i = 0; i < most[l]; i++)
            if (lists[l][i] >= 0)
                uses[lists[l][i]]++;
    for (unsigned i = 0; i < 3; i++) {
        if (map->rails[i].power >= 0)
            uses[map->rails[i].power]++;
        if (map->rails[i].feed >= 0)
            uses[map->rails[i].feed]++;
    }
    if (map->good >= 0)
        uses[map->good]++;
    if (map->bad >= 0)
        uses[map->bad]++;
    for (unsigned i = 0; i <= LINES_MOST; i++)
        if (uses[i] > 1) {
            rmg_yaml_wrong(file, rmg_yaml_root(file), NULL, "line %u has %u uses, expected one", i,
                           uses[i]);
            return;
        }
}

static void check(yaml_file *file, const pod_map *map)
{
    if (!rmg_pod_map_count(map->address, MAP_ADDRESS) || !rmg_pod_map_count(map->data, MAP_DATA))
        rmg_yaml_wrong(file, rmg_yaml_root(file), "lines",
                       "expected address lines from A0 and data lines from D0 on");
    if (map->strobes[MAP_SELECT] < 0)
        rmg_yaml_wrong(file, rmg_yaml_root(file), "lines", "expected CE, the chip's select");
    if (map->rails[0].power < 0)
        rmg_yaml_wrong(file, rmg_yaml_root(file), "rails",
                       "expected plus5 with the line that switches it");
    check_twice(file, map);
}

static void nothing(int *lines, unsigned count)
{
    for (unsigned i = 0; i < count; i++)
        lines[i] = NO_LINE;
}

static void read_map(yaml_file *file, pod_map *map)
{
    static const char *const keys[] = {"pod", "lines", "rails", "lamps", NULL};
    static const char *const lamps[] = {"good", "bad", NULL};
    ynode *root = rmg_yaml_root(file), *node;

    nothing(map->address, MAP_ADDRESS);
    nothing(map->data, MAP_DATA);
    nothing(map->inputs, MAP_DATA);
    nothing(map->strobes, MAP_STROBES);
    map->good = map->bad = NO_LINE;
    for (unsigned i = 0; i < 3; i++)
        map->rails[i] = (pod_rail){NO_LINE, NO_LINE, NO_LINE};
    if (!rmg_yaml_is_map(file, root, "a pod's file", keys))
        return;
    map->name = rmg_yaml_string(file, root, "pod", NULL);
    read_lines(file, map, rmg_yaml_get(file, root, "lines"));
    read_rails(file, map, rmg_yaml_get(file, root, "rails"));
    node = rmg_yaml_get(file, root, "lamps");
    if (node && rmg_yaml_is_map(file, node, "the lamps", lamps)) {
        map->good = number_or_none(file, node, "good");
        map->bad = number_or_none(file, node, "bad");
    }
    check(file, map);
}

unsigned rmg_pod_map_count(const int *lines, unsigned most)
{
    unsigned count = 0;

    while (count < most && lines[count] >= 0)
        count++;
    return count;
}

rmg_status rmg_pod_map_read(const char *file, pod_map **map, rmg_error *error)
{
    GArray *notes = rmg_notes_new();
    rmg_errors found = {0};
    yaml_file yaml;
    rmg_status status = rmg_yaml_open(&yaml, file, notes);

    *map = g_new0(pod_map, 1);
    if (status == RMG_OK)
        read_map(&yaml, *map);
    if (status == RMG_OK && notes->len)
        status = RMG_ERR_CONTENT;
    rmg_yaml_close(&yaml);
    rmg_errors_take(notes, &found);
    if (status != RMG_OK) {
        rmg_fail(error, status, file, "%s",
                 found.count ? found.list[0].what : rmg_status_text(status));
        rmg_pod_map_free(*map);
        *map = NULL;
    }
    rmg_errors_free(&found);
    return status;
}

void rmg_pod_map_free(pod_map *map)
{
    if (map)
        g_free(map->name);
    g_free(map);
}
