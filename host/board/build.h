/* Inside the host library: a board while its file is being read and checked. */
#ifndef RMG_HOST_BOARD_BUILD_H
#define RMG_HOST_BOARD_BUILD_H

#include "base/internal.h"
#include "internal.h"

/* A board and what only its checks need. */
typedef struct board_build {
    rmg_board *board;
    yaml_file *file;
    GArray *regions;                                                  /* of rmg_region */
    GArray *banks;                                                    /* of rmg_bank */
    GArray *bank_wheres;                                              /* of rmg_where */
    GArray *sockets;                                                  /* of rmg_socket */
    GArray *lines;                                                    /* of rmg_line */
    GPtrArray *region_nodes, *bank_nodes, *socket_nodes, *line_nodes; /* of ynode *: where each
                                                                       * stands in the file */
    GArray *rules;                                                    /* of rmg_rule */
    GPtrArray *rule_nodes; /* of ynode *: where each rule stands in the file */
    GPtrArray *parts;      /* of rmg_part *: those the file describes */
    size_t point_count;    /* of all lines */
    GPtrArray *changes;    /* of board_changes *: the file's own first, then its base's ... */
} board_build;

/* based.c: what a board file that is based on another one does with the names of it. */
typedef struct board_changes {
    gchar *base;            /* the other file, as this one names it; NULL: based on none */
    GHashTable *renamed;    /* designator in small letters to designator */
    GHashTable *without[4]; /* names of the base's regions, banks, sockets and lines to leave out */
    GHashTable *met;        /* of all these, those that the base has */
    ynode *designators, *left_out;
} board_changes;

enum { WITHOUT_REGIONS, WITHOUT_BANKS, WITHOUT_SOCKETS, WITHOUT_LINES };

/* Puts the file that this one is based on into it, before anything is read. */
void rmg_board_put_together(board_build *b);
/* A designator at a node, by the names that the last of the files has; NULL: its socket is left
 * out. It belongs to the build, or is `name`. */
const char *rmg_board_designator(board_build *b, const ynode *node, const char *name);
/* Is a line of that name at that node left out? */
bool rmg_board_line_left_out(board_build *b, const ynode *node, const char *name);
/* A file named at a node, from the folder of the last of the files. To be freed with g_free. */
char *rmg_board_file_named(board_build *b, const ynode *node, const char *name);
/* Notes names that the base does not have. */
void rmg_board_check_changes(board_build *b);

/* build.c: memory that lives as long as the board. */
void *rmg_board_keep(board_build *b, size_t bytes);

/* build.c: the words for kinds of region, in their order, NULL at the end. */
extern const char *const rmg_region_kind_names[];

/* banks.c: the list `banks`. */
void rmg_board_read_banks(board_build *b, const ynode *root);
/* parts.c: the list `parts`; and a part by number, noting where there is none. */
void rmg_board_read_parts(board_build *b, const ynode *root);
const rmg_part *rmg_board_part(board_build *b, const ynode *map, bool needed);
/* sockets.c: the list `sockets`. */
void rmg_board_read_sockets(board_build *b, const ynode *root);
/* lines.c: the list `lines`. */
void rmg_board_read_lines(board_build *b, const ynode *root);
/* symptoms.c: the map `reports` and the list `symptoms`. */
void rmg_board_read_symptoms(board_build *b, const ynode *root);
/* test_rom.c: the map `test-rom`; and the same as text. */
void rmg_board_read_rom(board_build *b, const ynode *root);
/* A text between quotes, as YAML takes it. */
void rmg_board_write_quoted(GString *out, const char *text);
void rmg_board_write_rom(GString *out, const rmg_board *board);
/* check.c: do regions, banks and places fit together? */
void rmg_board_check(board_build *b);

/* build.c: a range in the board's way of writing, noting what is wrong with it. */
rmg_range rmg_board_range(board_build *b, const ynode *map, const char *key);

#endif
