/* What a board shows of itself: the memory that its start-up counts, and what was once seen of it.
 */
#include "build.h"

#include <string.h>

static const char *const symptom_keys[] = {"seen", "look-at", "first", "note", NULL};

uint64_t rmg_board_ram_banks(const rmg_board *board)
{
    uint64_t banks = 0;

    for (size_t b = 0; b < board->bank_count; b++)
        if (board->banks[b].part && board->banks[b].part->kind != RMG_PART_ROM)
            banks |= (uint64_t)1 << b;
    return banks;
}

/* The same while the board is read. */
static uint64_t ram_banks(const board_build *b)
{
    uint64_t banks = 0;

    for (guint i = 0; i < b->banks->len; i++) {
        const rmg_part *part = g_array_index(b->banks, rmg_bank, i).part;

        if (part && part->kind != RMG_PART_ROM)
            banks |= (uint64_t)1 << i;
    }
    return banks;
}

/* "lower", or "lower and upper"; 0 where one is no bank of RAM. */
static uint64_t banks_named(const board_build *b, const char *text)
{
    gchar **names = g_strsplit(text, " and ", -1);
    uint64_t banks = 0;

    for (size_t n = 0; names[n]; n++) {
        uint64_t one = 0;

        for (guint i = 0; i < b->banks->len; i++)
            if (g_ascii_strcasecmp(g_array_index(b->banks, rmg_bank, i).name,
                                   g_strstrip(names[n])) == 0)
                one = (uint64_t)1 << i & ram_banks(b);
        if (!one) {
            banks = 0;
            break;
        }
        banks |= one;
    }
    g_strfreev(names);
    return banks;
}

/* "healthy", "lower only", "without upper": the banks that answer then; 0: it is none of these. */
static uint64_t present(const board_build *b, const char *text)
{
    uint64_t banks = 0;
    gchar *names;

    if (strcmp(text, "healthy") == 0)
        return ram_banks(b);
    if (g_str_has_prefix(text, "without "))
        banks = banks_named(b, text + strlen("without "));
    if (banks)
        return ram_banks(b) & ~banks;
    if (!g_str_has_suffix(text, " only"))
        return 0;
    names = g_strndup(text, strlen(text) - strlen(" only"));
    banks = banks_named(b, names);
    g_free(names);
    return banks;
}

static void read_report(board_build *b, const ynode *map, const ynode *key, GArray *rows)
{
    const char *name = rmg_yaml_text(key);
    rmg_report_row row = {.present = present(b, name)};

    if (!row.present) {
        rmg_yaml_wrong(b->file, key, "reports",
                       "found \"%s\", expected healthy, \"BANK only\", \"BANK and BANK only\" or "
                       "\"without BANK\", with banks of RAM",
                       name);
        return;
    }
    row.name = g_strdup(name);
    row.number = rmg_yaml_number(b->file, map, name, 0, G_MAXINT64, -1);
    if (strcmp(name, "healthy") == 0)
        g_array_prepend_val(rows, row);
    else
        g_array_append_val(rows, row);
}

static void read_reports(board_build *b, const ynode *root)
{
    const ynode *map = rmg_yaml_get(b->file, root, "reports");
    GArray *rows = g_array_new(FALSE, TRUE, sizeof(rmg_report_row));
    ynode *key, *value;

    if (map && map->type != YAML_MAPPING_NODE)
        rmg_yaml_wrong(b->file, map, "reports",
                       "expected which banks answer and the number shown, like healthy: 40960");
    for (size_t i = 0; rmg_yaml_pair(b->file, map, i, &key, &value); i++)
        read_report(b, map, key, rows);
    if (map && (!rows->len || strcmp(g_array_index(rows, rmg_report_row, 0).name, "healthy") != 0))
        rmg_yaml_wrong(b->file, map, "reports", "\"healthy\" is missing here");
    b->board->report_count = rows->len;
    b->board->reports = rmg_array_take(rows);
}

/* Has the board something of that name? */
static bool is_known(const board_build *b, const char *name)
{
    bool known = false;

    for (guint i = 0; i < b->banks->len; i++)
        known |= g_ascii_strcasecmp(g_array_index(b->banks, rmg_bank, i).name, name) == 0;
    for (guint i = 0; i < b->regions->len; i++)
        known |= g_ascii_strcasecmp(g_array_index(b->regions, rmg_region, i).name, name) == 0;
    for (guint i = 0; i < b->sockets->len; i++)
        known |= g_ascii_strcasecmp(g_array_index(b->sockets, rmg_socket, i).name, name) == 0;
    for (guint i = 0; i < b->lines->len; i++) {
        const rmg_line *line = &g_array_index(b->lines, rmg_line, i);
        const size_t length = strlen(name);

        known |= g_ascii_strcasecmp(line->name, name) == 0;
        for (size_t p = 0; p < line->point_count; p++) /* a part on the way */
            known |= g_ascii_strncasecmp(line->points[p].name, name, length) == 0 &&
                     strchr(".>", line->points[p].name[length]);
    }
    return known;
}

static char *read_places(board_build *b, const ynode *item)
{
    const ynode *list = rmg_yaml_list(b->file, item, "look-at", true);
    GString *names = g_string_new(NULL);
    ynode *name;

    for (size_t i = 0; (name = rmg_yaml_item(b->file, list, i)) != NULL; i++) {
        const char *renamed = rmg_board_designator(b, name, rmg_yaml_text(name));

        if (!renamed || !is_known(b, renamed))
            rmg_yaml_wrong(b->file, name, "look-at",
                           "found \"%s\", expected a bank, region, socket or line of this board, "
                           "or a part on one of its lines",
                           renamed ? renamed : rmg_yaml_text(name));
        g_string_append_printf(names, "%s%s", i ? ", " : "", renamed ? renamed : "");
    }
    return g_string_free(names, FALSE);
}

static void read_first(board_build *b, const ynode *item, rmg_symptom *symptom)
{
    const uint64_t top = rmg_board_shown(b->board, b->board->last_address) +
                         ((uint64_t)1 << b->board->byte_shift) - 1u;

    symptom->has_first = rmg_yaml_get(b->file, item, "first") != NULL;
    if (symptom->has_first)
        symptom->first =
            rmg_board_word(b->board, rmg_yaml_number(b->file, item, "first", 0, top, -1));
}

void rmg_board_read_symptoms(board_build *b, const ynode *root)
{
    ynode *list = rmg_yaml_list(b->file, root, "symptoms", false);
    GArray *rows = g_array_new(FALSE, TRUE, sizeof(rmg_symptom));
    ynode *item;

    read_reports(b, root);
    for (size_t i = 0; (item = rmg_yaml_item(b->file, list, i)) != NULL; i++) {
        rmg_symptom symptom = {0};

        if (!rmg_yaml_is_map(b->file, item, "a symptom", symptom_keys))
            continue;
        symptom.seen = rmg_yaml_string(b->file, item, "seen", NULL);
        symptom.look_at = read_places(b, item);
        symptom.note = rmg_yaml_string(b->file, item, "note", "");
        read_first(b, item, &symptom);
        g_array_append_val(rows, symptom);
    }
    b->board->symptom_count = rows->len;
    b->board->symptoms = rmg_array_take(rows);
}
