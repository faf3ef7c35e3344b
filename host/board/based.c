/* A board file that is based on another one: the other file's parts put into it, its designators
 * renamed, what is left out left out. */
#include "build.h"

#include <string.h>

#define MOST_BASES 8u

static const char *const without_keys[] = {"regions", "banks", "sockets", "lines", NULL};
static const char *const lists[] = {"regions", "banks", "sockets", "lines", "parts", NULL};
/* Keys that are about a file, not about its board. */
static const char *const own_keys[] = {"based-on", "designators", "without", NULL};

static gchar *small(const char *name)
{
    return g_ascii_strdown(name, -1);
}

static bool has(board_changes *c, unsigned what, const char *name)
{
    gchar *key = small(name);
    const bool there = g_hash_table_contains(c->without[what], key);

    if (there)
        g_hash_table_add(c->met, g_strdup_printf("%u %s", what, key));
    g_free(key);
    return there;
}

/* "U11-U18" or "U5": each designator of it. */
static GPtrArray *designators(const char *text)
{
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);
    gchar **ends = g_strsplit(text, "-", 2);
    char stem[16], stem2[16];
    uint64_t from, to;

    if (ends[0] && rmg_designator_parse(g_strstrip(ends[0]), stem, sizeof stem, &from)) {
        if (!ends[1])
            g_ptr_array_add(names, g_strdup(ends[0]));
        else if (rmg_designator_parse(g_strstrip(ends[1]), stem2, sizeof stem2, &to) &&
                 strcmp(stem, stem2) == 0 && (from < to ? to - from : from - to) < 1000)
            for (uint64_t n = from;; n = from < to ? n + 1 : n - 1) {
                g_ptr_array_add(names, g_strdup_printf("%s%" G_GUINT64_FORMAT, stem, n));
                if (n == to)
                    break;
            }
    }
    g_strfreev(ends);
    return names;
}

/* "designators: {U11-U18: IC1-IC8}" */
static void read_designators(yaml_file *file, board_changes *c)
{
    ynode *key, *value;

    if (c->designators && c->designators->type != YAML_MAPPING_NODE)
        rmg_yaml_wrong(file, c->designators, "designators",
                       "expected old and new names, like {U11-U18: IC1-IC8}");
    for (size_t i = 0; rmg_yaml_pair(file, c->designators, i, &key, &value); i++) {
        GPtrArray *old = designators(rmg_yaml_text(key));
        GPtrArray *new = designators(rmg_yaml_text(value));

        if (!old->len || old->len != new->len)
            rmg_yaml_wrong(file, key, "designators",
                           "found \"%s: %s\", expected as many new designators as old ones, like "
                           "U11-U18: IC1-IC8",
                           rmg_yaml_text(key), rmg_yaml_text(value));
        else
            for (guint n = 0; n < old->len; n++)
                g_hash_table_insert(c->renamed, small(old->pdata[n]), g_strdup(new->pdata[n]));
        g_ptr_array_free(old, TRUE);
        g_ptr_array_free(new, TRUE);
    }
}

/* "without: {sockets: [U40-U42], lines: [D3]}" */
static void read_without(yaml_file *file, board_changes *c)
{
    ynode *item;

    if (c->left_out && !rmg_yaml_is_map(file, c->left_out, "what is left out", without_keys))
        return;
    for (unsigned what = 0; c->left_out && what < G_N_ELEMENTS(c->without); what++) {
        const ynode *list = rmg_yaml_list(file, c->left_out, without_keys[what], false);

        for (size_t i = 0; (item = rmg_yaml_item(file, list, i)) != NULL; i++) {
            GPtrArray *names = what == WITHOUT_SOCKETS ? designators(rmg_yaml_text(item)) : NULL;

            for (guint n = 0; names && n < names->len; n++)
                g_hash_table_add(c->without[what], small(names->pdata[n]));
            if (!names || !names->len)
                g_hash_table_add(c->without[what], small(rmg_yaml_text(item)));
            if (names)
                g_ptr_array_free(names, TRUE);
        }
    }
}

static board_changes *changes_of(yaml_file *file, const ynode *base)
{
    board_changes *c = g_new0(board_changes, 1);
    const ynode *root = rmg_yaml_root(file);

    c->base = g_strdup(rmg_yaml_text(base));
    c->renamed = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free);
    for (size_t i = 0; i < G_N_ELEMENTS(c->without); i++)
        c->without[i] = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    c->met = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    c->designators = rmg_yaml_get(file, root, "designators");
    c->left_out = rmg_yaml_get(file, root, "without");
    read_designators(file, c);
    read_without(file, c);
    return c;
}

static void free_changes(gpointer data)
{
    board_changes *c = data;

    g_free(c->base);
    g_hash_table_destroy(c->renamed);
    for (size_t i = 0; i < G_N_ELEMENTS(c->without); i++)
        g_hash_table_destroy(c->without[i]);
    g_hash_table_destroy(c->met);
    g_free(c);
}

typedef struct dropping {
    board_changes *changes;
    unsigned what;
} dropping;

static bool is_dropped(void *context, const char *name)
{
    const dropping *d = context;

    return has(d->changes, d->what, name);
}

/* Names that the base does not have. */
static void note_unmet(yaml_file *file, board_changes *c)
{
    GHashTableIter each;
    gpointer name;

    for (unsigned what = 0; what < G_N_ELEMENTS(c->without); what++) {
        g_hash_table_iter_init(&each, c->without[what]);
        while (g_hash_table_iter_next(&each, &name, NULL)) {
            gchar *met = g_strdup_printf("%u %s", what, (const char *)name);

            if (!g_hash_table_contains(c->met, met))
                rmg_yaml_wrong(file, c->left_out, "without", "%s has no \"%s\" among its %s",
                               c->base, (const char *)name, without_keys[what]);
            g_free(met);
        }
    }
    g_hash_table_iter_init(&each, c->renamed);
    while (g_hash_table_iter_next(&each, &name, NULL)) {
        gchar *met = g_strdup_printf("= %s", (const char *)name);

        if (!g_hash_table_contains(c->met, met))
            rmg_yaml_wrong(file, c->designators, "designators", "%s has no %s", c->base,
                           (const char *)name);
        g_free(met);
    }
}

/* The file, and before it what it is based on, `depth` files from the last one. */
static void put_together(board_build *b, yaml_file *file, unsigned depth)
{
    const ynode *root = rmg_yaml_root(file);
    const ynode *base =
        root->type == YAML_MAPPING_NODE ? rmg_yaml_get(file, root, "based-on") : NULL;
    const guint before = file->errors->len;
    yaml_file other;
    board_changes *c;
    char *name;
    int number;

    for (size_t i = 1; !base && i < 3; i++)
        if (rmg_yaml_get(file, root, own_keys[i]))
            rmg_yaml_wrong(file, rmg_yaml_get(file, root, own_keys[i]), own_keys[i],
                           "only a board that is based on another one has it");
    if (!base)
        return;
    if (!*rmg_yaml_text(base)) {
        rmg_yaml_wrong(file, base, "based-on", "expected the name of a board file");
        return;
    }
    if (depth == MOST_BASES) {
        rmg_yaml_wrong(file, base, "based-on",
                       "more than %u files, each based on the next: do they name each other?",
                       MOST_BASES);
        return;
    }
    c = changes_of(file, base);
    g_ptr_array_add(b->changes, c);
    name = rmg_file_beside(file->name, c->base);
    if (rmg_yaml_open(&other, name, file->errors) != RMG_OK) {
        rmg_yaml_wrong(file, base, "based-on", "%s is not read: see above", c->base);
    } else {
        put_together(b, &other, depth + 1u);
        if (rmg_yaml_root(&other)->type != YAML_MAPPING_NODE)
            rmg_yaml_wrong(file, base, "based-on", "%s is not a board file", c->base);
    }
    if (file->errors->len == before) {
        rmg_yaml_graft_begin(file, &other);
        for (size_t i = 0; lists[i]; i++) {
            dropping d = {c, (unsigned)i};

            rmg_yaml_graft_list(file, &other, lists[i],
                                i == WITHOUT_SOCKETS || i == WITHOUT_LINES ? NULL
                                : i == WITHOUT_LINES + 1                   ? "number"
                                                                           : "name",
                                i <= WITHOUT_BANKS ? is_dropped : NULL, &d);
        }
        number = (int)(rmg_yaml_root(file) - file->document.nodes.start) + 1;
        rmg_yaml_graft_keys(file, number, &other, rmg_yaml_root(&other), own_keys);
        c->designators = rmg_yaml_get(file, rmg_yaml_root(file), "designators");
        c->left_out = rmg_yaml_get(file, rmg_yaml_root(file), "without");
    }
    g_free(name);
    rmg_yaml_close(&other);
}

void rmg_board_put_together(board_build *b)
{
    const ynode *base;

    b->changes = g_ptr_array_new_with_free_func(free_changes);
    put_together(b, b->file, 0);
    base = rmg_yaml_root(b->file)->type == YAML_MAPPING_NODE
               ? rmg_yaml_get(b->file, rmg_yaml_root(b->file), "based-on")
               : NULL;
    b->board->based_on = g_strdup(rmg_yaml_text(base));
}

const char *rmg_board_designator(board_build *b, const ynode *node, const char *name)
{
    for (unsigned k = rmg_yaml_source(b->file, node); k-- > 0;) {
        board_changes *c = b->changes->pdata[k];
        gchar *key = small(name);
        const char *other = g_hash_table_lookup(c->renamed, key);

        if (has(c, WITHOUT_SOCKETS, name)) {
            g_free(key);
            return NULL;
        }
        if (other) {
            g_hash_table_add(c->met, g_strdup_printf("= %s", key));
            name = other;
        }
        g_free(key);
    }
    return name;
}

bool rmg_board_line_left_out(board_build *b, const ynode *node, const char *name)
{
    bool left_out = false;

    for (unsigned k = rmg_yaml_source(b->file, node); k-- > 0;)
        left_out |= has(b->changes->pdata[k], WITHOUT_LINES, name);
    return left_out;
}

char *rmg_board_file_named(board_build *b, const ynode *node, const char *name)
{
    char *from_here = g_strdup(name);

    for (unsigned k = rmg_yaml_source(b->file, node); k-- > 0;) {
        const board_changes *c = b->changes->pdata[k];
        char *nearer = rmg_file_beside(c->base, from_here);

        g_free(from_here);
        from_here = nearer;
    }
    return from_here;
}

void rmg_board_check_changes(board_build *b)
{
    if (b->changes->len && b->file->errors->len == 0) /* a base names its own as it is read */
        note_unmet(b->file, b->changes->pdata[0]);
}
