/* YAML files read by node, so that an error of meaning has its line too. Knows no board. */
#include "yaml.h"

#include <errno.h>
#include <string.h>

#include "file_read.h"
#include "text.h"

#define MOST_BYTES ((size_t)8 << 20)
#define MOST_DEPTH 32u     /* lists and maps within each other */
#define MOST_NODES 400000u /* texts, lists and maps in all */
#define MOST_KEYS  1000u   /* of one map */

/* A file while its nodes are put together: the lists and maps that are open, the innermost last. A
 * map's key waits for its value. */
typedef struct building {
    yaml_file *file;
    unsigned depth, nodes;
    int open[MOST_DEPTH + 1u]; /* numbers of nodes; 0: none */
    int key[MOST_DEPTH + 1u];  /* 0: none waits */
    unsigned count[MOST_DEPTH + 1u];
} building;

static const char *node_of(building *b, const yaml_event_t *event, int *number)
{
    yaml_document_t *document = &b->file->document;
    yaml_node_t *node;

    switch (event->type) {
    case YAML_SCALAR_EVENT:
        *number =
            yaml_document_add_scalar(document, NULL, event->data.scalar.value,
                                     (int)event->data.scalar.length, event->data.scalar.style);
        break;
    case YAML_SEQUENCE_START_EVENT:
        *number = yaml_document_add_sequence(document, NULL, event->data.sequence_start.style);
        break;
    default:
        *number = yaml_document_add_mapping(document, NULL, event->data.mapping_start.style);
        break;
    }
    node = *number ? yaml_document_get_node(document, *number) : NULL;
    if (!node)
        return "out of memory";
    node->start_mark = event->start_mark;
    node->end_mark = event->end_mark;
    return NULL;
}

/* Puts the node where it belongs. */
static const char *put_node(building *b, int number)
{
    yaml_document_t *document = &b->file->document;
    const int parent = b->open[b->depth];
    int *key = &b->key[b->depth];
    int done = 1;

    if (!parent)
        return NULL; /* the file's own */
    if (yaml_document_get_node(document, parent)->type == YAML_SEQUENCE_NODE) {
        done = yaml_document_append_sequence_item(document, parent, number);
    } else if (!*key) {
        *key = number;
        if (++b->count[b->depth] > MOST_KEYS)
            return "more than 1000 keys in one place";
    } else {
        done = yaml_document_append_mapping_pair(document, parent, *key, number);
        *key = 0;
    }
    return done ? NULL : "out of memory";
}

/* Takes the next part of the file; what is wrong with it, or NULL. */
static const char *take_event(building *b, const yaml_event_t *event)
{
    const bool opens =
        event->type == YAML_SEQUENCE_START_EVENT || event->type == YAML_MAPPING_START_EVENT;
    const char *wrong;
    int number;

    if (event->type == YAML_SEQUENCE_END_EVENT || event->type == YAML_MAPPING_END_EVENT) {
        yaml_document_get_node(&b->file->document, b->open[b->depth])->end_mark = event->end_mark;
        b->depth--;
    }
    if (event->type == YAML_ALIAS_EVENT)
        return "aliases (\"*name\") are not supported; write out what it stands for";
    if (!opens && event->type != YAML_SCALAR_EVENT)
        return NULL;
    if (++b->nodes > MOST_NODES)
        return "more than 400000 entries";
    if (opens && b->depth == MOST_DEPTH)
        return "lists and keys are nested more than 32 deep";
    wrong = node_of(b, event, &number);
    if (!wrong)
        wrong = put_node(b, number);
    if (opens && !wrong) {
        b->depth++;
        b->open[b->depth] = number;
        b->key[b->depth] = 0;
        b->count[b->depth] = 0;
    }
    return wrong;
}

unsigned rmg_yaml_line(const ynode *node)
{
    return (unsigned)node->start_mark.line + 1u;
}

unsigned rmg_yaml_source(const yaml_file *file, const ynode *node)
{
    const guint number = node ? (guint)(node - file->document.nodes.start) : 0;

    return file->origin && number < file->origin->len ? file->origin->data[number] : 0;
}

const char *rmg_yaml_source_name(const yaml_file *file, unsigned source)
{
    return source && file->sources && source <= file->sources->len
               ? file->sources->pdata[source - 1u]
               : file->name;
}

char *rmg_yaml_place(const yaml_file *file, const ynode *node)
{
    const unsigned source = rmg_yaml_source(file, node);

    return source ? g_strdup_printf("line %u of %s", rmg_yaml_line(node),
                                    rmg_yaml_source_name(file, source))
                  : g_strdup_printf("line %u", rmg_yaml_line(node));
}

static void wrong_in(yaml_file *file, const char *name, size_t line, const char *said)
{
    gchar *where;

    if (file->errors->len > RMG_ERRORS_MOST) { /* counted: readers look at their number */
        g_array_set_size(file->errors, file->errors->len + 1u);
        return;
    }
    if (file->errors->len == RMG_ERRORS_MOST) {
        rmg_note(file->errors, RMG_ERR_CONTENT, file->name, "%s: and more of them", file->name);
        return;
    }
    where = g_strdup_printf("%s:%zu", name, line);
    rmg_note(file->errors, RMG_ERR_CONTENT, where, "%s: %s", where, said);
    g_free(where);
}

void rmg_yaml_wrong_at(yaml_file *file, size_t line, const char *format, ...)
{
    gchar *said;
    va_list args;

    va_start(args, format);
    said = g_strdup_vprintf(format, args);
    va_end(args);
    wrong_in(file, file->name, line, said);
    g_free(said);
}

/* The commonest error, if it is in that line (from 0). */
static const char *hint(const yaml_file *file, size_t line)
{
    const char *text = file->text, *end;

    while (line && (text = strchr(text, '\n')) != NULL) {
        text++;
        line--;
    }
    if (!text)
        return "";
    end = text + strcspn(text, "\n");
    if (memchr(text, '\t', (size_t)(end - text)))
        return " (there is a tab in this line; indent with spaces)";
    text = strstr(text, ": ");
    text = text ? strstr(text + 2, ": ") : NULL;
    return text && text < end ? " (there is a second \": \" in this line; put quotes around text "
                                "that holds one)"
                              : "";
}

/* Goes through the file's first document. */
static bool take_events(yaml_file *file, yaml_parser_t *parser)
{
    building b = {.file = file};
    yaml_event_t event;
    bool more = true;

    while (more) {
        const char *wrong;

        if (!yaml_parser_parse(parser, &event)) {
            rmg_yaml_wrong_at(file, parser->problem_mark.line + 1u, "this is not YAML: %s%s",
                              parser->problem ? parser->problem : "out of memory",
                              hint(file, parser->problem_mark.line));
            return false;
        }
        more = event.type != YAML_STREAM_END_EVENT && event.type != YAML_DOCUMENT_END_EVENT;
        wrong = take_event(&b, &event);
        if (wrong)
            rmg_yaml_wrong_at(file, event.start_mark.line + 1u, "%s", wrong);
        yaml_event_delete(&event);
        if (wrong)
            return false;
    }
    return true;
}

static rmg_status parse(yaml_file *file)
{
    yaml_parser_t parser;
    bool ok;

    if (!yaml_document_initialize(&file->document, NULL, NULL, NULL, 1, 1)) {
        rmg_yaml_wrong_at(file, 1, "out of memory");
        return RMG_ERR_CONTENT;
    }
    if (!yaml_parser_initialize(&parser)) {
        rmg_yaml_wrong_at(file, 1, "out of memory");
        return RMG_ERR_CONTENT;
    }
    yaml_parser_set_input_string(&parser, (const unsigned char *)file->text, file->size);
    ok = take_events(file, &parser);
    yaml_parser_delete(&parser);
    if (ok && !rmg_yaml_root(file)) {
        rmg_yaml_wrong_at(file, 1, "the file is empty");
        ok = false;
    }
    return ok ? RMG_OK : RMG_ERR_CONTENT;
}

rmg_status rmg_yaml_open_text(yaml_file *file, const char *name, const char *text, GArray *errors)
{
    memset(file, 0, sizeof *file);
    file->name = name;
    file->errors = errors;
    file->text = g_strdup(text);
    file->size = strlen(text);
    return parse(file);
}

rmg_status rmg_yaml_open(yaml_file *file, const char *name, GArray *errors)
{
    rmg_error error;
    rmg_status status;

    memset(file, 0, sizeof *file);
    file->name = name;
    file->errors = errors;
    status = rmg_file_read(name, MOST_BYTES, &file->text, &file->size, &error);
    if (status == RMG_OK)
        return parse(file);
    rmg_note_error(errors, &error);
    return status;
}

void rmg_yaml_close(yaml_file *file)
{
    yaml_document_delete(&file->document);
    g_free(file->text);
    if (file->sources) {
        g_ptr_array_free(file->sources, TRUE);
        g_byte_array_free(file->origin, TRUE);
    }
}

ynode *rmg_yaml_root(yaml_file *file)
{
    return yaml_document_get_root_node(&file->document);
}

const char *rmg_yaml_text(const ynode *node)
{
    return node && node->type == YAML_SCALAR_NODE ? (const char *)node->data.scalar.value : "";
}

void rmg_yaml_refuse_controls(yaml_file *file)
{
    for (const ynode *node = file->document.nodes.start; node < file->document.nodes.top; node++)
        if (node->type == YAML_SCALAR_NODE &&
            rmg_text_controls((const char *)node->data.scalar.value, node->data.scalar.length))
            rmg_yaml_wrong(file, node, NULL,
                           "a text holds a control character; expected characters that can be "
                           "printed");
}

void rmg_yaml_wrong(yaml_file *file, const ynode *node, const char *key, const char *format, ...)
{
    va_list args;
    gchar *said, *whole;

    va_start(args, format);
    said = g_strdup_vprintf(format, args);
    va_end(args);
    whole = g_strconcat(key ? key : "", key ? ": " : "", said, NULL);
    wrong_in(file, rmg_yaml_source_name(file, rmg_yaml_source(file, node)), rmg_yaml_line(node),
             whole);
    g_free(whole);
    g_free(said);
}

bool rmg_yaml_pair(yaml_file *file, const ynode *node, size_t index, ynode **key, ynode **value)
{
    const yaml_node_pair_t *pair;

    if (!node || node->type != YAML_MAPPING_NODE)
        return false;
    pair = node->data.mapping.pairs.start + index;
    if (pair >= node->data.mapping.pairs.top)
        return false;
    *key = yaml_document_get_node(&file->document, pair->key);
    *value = yaml_document_get_node(&file->document, pair->value);
    return true;
}

ynode *rmg_yaml_item(yaml_file *file, const ynode *node, size_t index)
{
    const yaml_node_item_t *item;

    if (!node || node->type != YAML_SEQUENCE_NODE)
        return NULL;
    item = node->data.sequence.items.start + index;
    return item < node->data.sequence.items.top ? yaml_document_get_node(&file->document, *item)
                                                : NULL;
}

ynode *rmg_yaml_get(yaml_file *file, const ynode *map, const char *key)
{
    ynode *k, *v;

    for (size_t i = 0; rmg_yaml_pair(file, map, i, &k, &v); i++)
        if (strcmp(rmg_yaml_text(k), key) == 0)
            return v;
    return NULL;
}

ynode *rmg_yaml_need(yaml_file *file, const ynode *map, const char *key)
{
    ynode *value = rmg_yaml_get(file, map, key);

    if (!value)
        rmg_yaml_wrong(file, map, key, "is missing here");
    return value;
}

ynode *rmg_yaml_list(yaml_file *file, const ynode *map, const char *key, bool needed)
{
    ynode *value = needed ? rmg_yaml_need(file, map, key) : rmg_yaml_get(file, map, key);

    if (value && value->type != YAML_SEQUENCE_NODE) {
        rmg_yaml_wrong(file, value, key, "expected a list, one entry after each \"-\"");
        return NULL;
    }
    return value;
}

bool rmg_yaml_is_map(yaml_file *file, const ynode *node, const char *what, const char *const *keys)
{
    ynode *k, *v, *k2;

    if (node->type != YAML_MAPPING_NODE) {
        rmg_yaml_wrong(file, node, NULL, "expected %s with keys and values (\"name: ...\")", what);
        return false;
    }
    for (size_t i = 0; rmg_yaml_pair(file, node, i, &k, &v); i++) {
        if (!g_strv_contains(keys, rmg_yaml_text(k))) {
            const char *near = rmg_nearest(rmg_yaml_text(k), keys);
            gchar *all = g_strjoinv(", ", (gchar **)keys);

            rmg_yaml_wrong(file, k, rmg_yaml_text(k), "%s has no such key; %s%s%s%s", what,
                           near ? "did you mean \"" : "expected one of ", near ? near : all,
                           near ? "\"" : "", near ? "?" : "");
            g_free(all);
        }
        for (size_t j = 0; j < i && rmg_yaml_pair(file, node, j, &k2, &v); j++)
            if (strcmp(rmg_yaml_text(k), rmg_yaml_text(k2)) == 0)
                rmg_yaml_wrong(file, k, rmg_yaml_text(k), "is given twice, first in line %u",
                               rmg_yaml_line(k2));
    }
    return true;
}

char *rmg_yaml_string(yaml_file *file, const ynode *map, const char *key, const char *standard)
{
    const ynode *value = standard ? rmg_yaml_get(file, map, key) : rmg_yaml_need(file, map, key);

    if (!value)
        return g_strdup(standard ? standard : "");
    if (value->type != YAML_SCALAR_NODE || !*rmg_yaml_text(value))
        rmg_yaml_wrong(file, value, key, "expected a text");
    return g_strdup(rmg_yaml_text(value));
}

uint64_t rmg_yaml_number(yaml_file *file, const ynode *map, const char *key, uint64_t low,
                         uint64_t high, int64_t standard)
{
    const ynode *value =
        standard >= 0 ? rmg_yaml_get(file, map, key) : rmg_yaml_need(file, map, key);
    uint64_t number = low;

    if (!value)
        return standard >= 0 ? (uint64_t)standard : low;
    if (!rmg_number_parse(rmg_yaml_text(value), &number) || number < low || number > high) {
        rmg_yaml_wrong(file, value, key,
                       "found \"%s\", expected a number from %" G_GUINT64_FORMAT
                       " to %" G_GUINT64_FORMAT,
                       rmg_yaml_text(value), low, high);
        return low;
    }
    return number;
}

unsigned rmg_yaml_choice(yaml_file *file, const ynode *map, const char *key,
                         const char *const *words, int standard)
{
    const ynode *value =
        standard >= 0 ? rmg_yaml_get(file, map, key) : rmg_yaml_need(file, map, key);
    const char *near;
    gchar *all;

    if (!value)
        return standard >= 0 ? (unsigned)standard : 0;
    for (unsigned i = 0; words[i]; i++)
        if (strcmp(words[i], rmg_yaml_text(value)) == 0)
            return i;
    near = rmg_nearest(rmg_yaml_text(value), words);
    all = g_strjoinv(", ", (gchar **)words);
    rmg_yaml_wrong(file, value, key, "found \"%s\", expected one of %s%s%s%s", rmg_yaml_text(value),
                   all, near ? " (did you mean \"" : "", near ? near : "", near ? "\"?)" : "");
    g_free(all);
    return 0;
}

bool rmg_yaml_point(yaml_file *file, const ynode *map, const char *key, double *x, double *y)
{
    const ynode *value = rmg_yaml_get(file, map, key);
    double *to[2] = {x, y};

    if (!value)
        return false;
    for (size_t i = 0; i < 2; i++) {
        const char *text = rmg_yaml_text(rmg_yaml_item(file, value, i));
        char *end = NULL;

        *to[i] = g_ascii_strtod(text, &end);
        if (end == text || *end || !(*to[i] > -10000.0 && *to[i] < 10000.0)) {
            rmg_yaml_wrong(file, value, key, "expected two numbers of millimetres, [across, down]");
            *x = *y = 0;
            return false;
        }
    }
    if (rmg_yaml_item(file, value, 2))
        rmg_yaml_wrong(file, value, key, "expected two numbers of millimetres, [across, down]");
    return true;
}
