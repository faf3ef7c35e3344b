/* Inside the host library: a YAML file whose every error is reported with file, line and what was
 * expected. Readers return a value in any case and note errors as they go. */
#ifndef RMG_HOST_YAML_H
#define RMG_HOST_YAML_H

#include <glib.h>
#include <yaml.h>

#include "rimeglass/text.h"

typedef struct yaml_file {
    yaml_document_t document;
    const char *name; /* as in messages */
    GArray *errors;   /* of char * */
    gchar *text;
    gsize size;
    GPtrArray *sources; /* of char *: the files that parts of it were taken from; NULL: none */
    GByteArray *origin; /* by node: 0 this file, or one more than its number in `sources` */
} yaml_file;

typedef yaml_node_t ynode;

/* Loads the file's only document. RMG_ERR_FILE or RMG_ERR_CONTENT are noted in *errors. Close in
 * any case. */
rmg_status rmg_yaml_open(yaml_file *file, const char *name, GArray *errors);
/* The same from text. */
rmg_status rmg_yaml_open_text(yaml_file *file, const char *name, const char *text, GArray *errors);
void rmg_yaml_close(yaml_file *file);
ynode *rmg_yaml_root(yaml_file *file);

unsigned rmg_yaml_line(const ynode *node);
const char *rmg_yaml_text(const ynode *node); /* "" where it is not plain text */

/* yaml_graft.c: parts of another file put into this one. Pointers to nodes hold only until the next
 * graft; after rmg_yaml_graft_begin, which names the other file, its parts are copied: a node,
 * whose number comes back; the keys of a map that a map here does not have, but those in `but`
 * (NULL at the end; may be NULL); a list under a key of both roots. In a list, an entry here whose
 * key `by` has the same text as there changes that entry: what it does not say is taken from there;
 * `by` NULL: all there, then all here. Entries there that `drop` says are not wanted stay out. */
void rmg_yaml_graft_begin(yaml_file *to, const yaml_file *from);
int rmg_yaml_graft(yaml_file *to, yaml_file *from, const ynode *node);
void rmg_yaml_graft_keys(yaml_file *to, int map, yaml_file *from, const ynode *source,
                         const char *const *but);
void rmg_yaml_graft_list(yaml_file *to, yaml_file *from, const char *key, const char *by,
                         bool (*drop)(void *context, const char *name), void *context);

/* Which file a node stands in: 0 this one, 1 that which was grafted, 2 that which had been grafted
 * into it ...; and its name. */
unsigned rmg_yaml_source(const yaml_file *file, const ynode *node);
const char *rmg_yaml_source_name(const yaml_file *file, unsigned source);
/* "line 12", or "line 12 of other.yaml". To be freed with g_free. */
char *rmg_yaml_place(const yaml_file *file, const ynode *node);

/* Notes "FILE:LINE: ..."; of more than RMG_ERRORS_MOST no text. */
void rmg_yaml_wrong_at(yaml_file *file, size_t line, const char *format, ...) G_GNUC_PRINTF(3, 4);

/* Notes each text of the file that holds a control character. */
void rmg_yaml_refuse_controls(yaml_file *file);

/* Notes "FILE:LINE: key: found ..., expected ...". `key` may be NULL. */
void rmg_yaml_wrong(yaml_file *file, const ynode *node, const char *key, const char *format, ...)
    G_GNUC_PRINTF(4, 5);

/* Is it a map, and are all its keys among `keys` (NULL at the end) and none twice? Notes what is
 * not. `what` names it in messages: "a region". */
bool rmg_yaml_is_map(yaml_file *file, const ynode *node, const char *what, const char *const *keys);

/* Pair by pair, entry by entry; false after the last, or where `node` is not of that form. */
bool rmg_yaml_pair(yaml_file *file, const ynode *node, size_t index, ynode **key, ynode **value);
ynode *rmg_yaml_item(yaml_file *file, const ynode *node, size_t index);

/* Value of a key, or NULL. rmg_yaml_need notes where it is missing. */
ynode *rmg_yaml_get(yaml_file *file, const ynode *map, const char *key);
ynode *rmg_yaml_need(yaml_file *file, const ynode *map, const char *key);
/* A list; noted where it is not one. */
ynode *rmg_yaml_list(yaml_file *file, const ynode *map, const char *key, bool needed);

/* Text of a key, newly allocated; `standard` where it is missing (NULL: it must be there). */
char *rmg_yaml_string(yaml_file *file, const ynode *map, const char *key, const char *standard);
/* A whole number, decimal, 0x hex or 0b binary, low..high. `standard` < 0: it must be there. */
uint64_t rmg_yaml_number(yaml_file *file, const ynode *map, const char *key, uint64_t low,
                         uint64_t high, int64_t standard);
/* Position of the text in `words` (NULL at the end). `standard` < 0: it must be there. */
unsigned rmg_yaml_choice(yaml_file *file, const ynode *map, const char *key,
                         const char *const *words, int standard);
/* Two numbers [x, y]; false and a note where they are not. */
bool rmg_yaml_point(yaml_file *file, const ynode *map, const char *key, double *x, double *y);

#endif
