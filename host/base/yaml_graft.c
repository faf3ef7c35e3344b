/* Parts of one YAML file put into another: each node still knows the file and line it stands in. */
#include <string.h>

#include "yaml.h"

static guint node_number(const yaml_file *file, const ynode *node)
{
    return (guint)(node - file->document.nodes.start);
}

void rmg_yaml_graft_begin(yaml_file *to, const yaml_file *from)
{
    if (!to->sources) {
        to->sources = g_ptr_array_new_with_free_func(g_free);
        to->origin = g_byte_array_new();
    }
    g_ptr_array_add(to->sources, g_strdup(from->name));
    for (guint i = 0; from->sources && i < from->sources->len; i++)
        g_ptr_array_add(to->sources, g_strdup(from->sources->pdata[i]));
}

/* Notes where a new node comes from. */
static void set_origin(yaml_file *to, int number, unsigned source)
{
    const guint count = to->origin->len;

    if ((guint)number > count) {
        g_byte_array_set_size(to->origin, (guint)number);
        memset(to->origin->data + count, 0, (guint)number - count);
    }
    to->origin->data[number - 1] = (guint8)source;
}

int rmg_yaml_graft(yaml_file *to, yaml_file *from, const ynode *node)
{
    yaml_document_t *document = &to->document;
    ynode *key, *value, *item;
    int number;

    switch (node->type) {
    case YAML_SEQUENCE_NODE:
        number = yaml_document_add_sequence(document, NULL, YAML_ANY_SEQUENCE_STYLE);
        for (size_t i = 0; (item = rmg_yaml_item(from, node, i)) != NULL; i++)
            yaml_document_append_sequence_item(document, number, rmg_yaml_graft(to, from, item));
        break;
    case YAML_MAPPING_NODE:
        number = yaml_document_add_mapping(document, NULL, YAML_ANY_MAPPING_STYLE);
        for (size_t i = 0; rmg_yaml_pair(from, node, i, &key, &value); i++) {
            const int name = rmg_yaml_graft(to, from, key);

            yaml_document_append_mapping_pair(document, number, name,
                                              rmg_yaml_graft(to, from, value));
        }
        break;
    default:
        number = yaml_document_add_scalar(document, NULL, node->data.scalar.value,
                                          (int)node->data.scalar.length, node->data.scalar.style);
        break;
    }
    if (!number)
        g_error("out of memory");
    item = yaml_document_get_node(document, number);
    item->start_mark = node->start_mark;
    item->end_mark = node->end_mark;
    set_origin(to, number, rmg_yaml_source(from, node) + 1u);
    return number;
}

/* The number by which a document knows the node. */
static int number_of(const yaml_file *file, const ynode *node)
{
    return (int)node_number(file, node) + 1;
}

void rmg_yaml_graft_keys(yaml_file *to, int map, yaml_file *from, const ynode *source,
                         const char *const *but)
{
    ynode *key, *value;

    for (size_t i = 0; rmg_yaml_pair(from, source, i, &key, &value); i++) {
        const ynode *here = yaml_document_get_node(&to->document, map);
        const char *name = rmg_yaml_text(key);
        int number;

        if (rmg_yaml_get(to, here, name) || (but && g_strv_contains(but, name)))
            continue;
        number = rmg_yaml_graft(to, from, key);
        yaml_document_append_mapping_pair(&to->document, map, number,
                                          rmg_yaml_graft(to, from, value));
    }
}

/* Puts a value into a map under a key that it has already, or has not. */
static void set_value(yaml_file *file, int map, const char *key, int value)
{
    ynode *node = yaml_document_get_node(&file->document, map);
    int name;

    for (yaml_node_pair_t *p = node->data.mapping.pairs.start; p < node->data.mapping.pairs.top;
         p++)
        if (strcmp(rmg_yaml_text(yaml_document_get_node(&file->document, p->key)), key) == 0) {
            p->value = value;
            return;
        }
    name = yaml_document_add_scalar(&file->document, NULL, (const yaml_char_t *)key, -1,
                                    YAML_PLAIN_SCALAR_STYLE);
    yaml_document_append_mapping_pair(&file->document, map, name, value);
}

/* The entry of the list whose `by` is that text, or NULL. */
static ynode *entry_of(yaml_file *file, const ynode *list, const char *by, const char *text)
{
    ynode *item;

    for (size_t i = 0; by && (item = rmg_yaml_item(file, list, i)) != NULL; i++) {
        const ynode *name = rmg_yaml_get(file, item, by);

        if (name && strcmp(rmg_yaml_text(name), text) == 0)
            return item;
    }
    return NULL;
}

void rmg_yaml_graft_list(yaml_file *to, yaml_file *from, const char *key, const char *by,
                         bool (*drop)(void *context, const char *name), void *context)
{
    yaml_document_t *document = &to->document;
    const int root = number_of(to, rmg_yaml_root(to));
    const ynode *theirs = rmg_yaml_get(from, rmg_yaml_root(from), key);
    const ynode *ours = rmg_yaml_get(to, rmg_yaml_root(to), key);
    const int old = ours ? number_of(to, ours) : 0;
    ynode *item;
    int list;

    if (!theirs || theirs->type != YAML_SEQUENCE_NODE || (ours && ours->type != YAML_SEQUENCE_NODE))
        return;
    list = yaml_document_add_sequence(document, NULL, YAML_ANY_SEQUENCE_STYLE);
    for (size_t i = 0; (item = rmg_yaml_item(from, theirs, i)) != NULL; i++) {
        const ynode *name = by ? rmg_yaml_get(from, item, by) : NULL;
        const char *text = rmg_yaml_text(name);
        const ynode *change =
            by && old ? entry_of(to, yaml_document_get_node(document, old), by, text) : NULL;

        if (name && drop && drop(context, text))
            continue;
        if (change) {
            const int number = number_of(to, change);

            rmg_yaml_graft_keys(to, number, from, item, NULL);
            yaml_document_append_sequence_item(document, list, number);
        } else {
            yaml_document_append_sequence_item(document, list, rmg_yaml_graft(to, from, item));
        }
    }
    for (size_t i = 0;
         old && (item = rmg_yaml_item(to, yaml_document_get_node(document, old), i)) != NULL; i++) {
        const ynode *name = by ? rmg_yaml_get(to, item, by) : NULL;

        if (!name || !entry_of(from, theirs, by, rmg_yaml_text(name)))
            yaml_document_append_sequence_item(document, list, number_of(to, item));
    }
    item = yaml_document_get_node(document, list);
    if (old) {
        item->start_mark = yaml_document_get_node(document, old)->start_mark;
    } else {
        item->start_mark = theirs->start_mark;
        set_origin(to, list, 1);
    }
    set_value(to, root, key, list);
}
