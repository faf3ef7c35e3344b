/* The sockets of a board file: designators, how the chip is fitted, where it sits. */
#include "build.h"

#include <string.h>

static const char *const socket_keys[] = {"names", "mount",  "at",    "step", "part",
                                          "note",  "unseen", "image", NULL};
static const char *const mount_words[] = {"socket", "soldered", NULL};

static bool taken(const board_build *b, const char *name, unsigned *line)
{
    for (guint i = 0; i < b->sockets->len; i++) {
        const rmg_socket *s = &g_array_index(b->sockets, rmg_socket, i);

        if (g_ascii_strcasecmp(s->name, name) == 0) {
            *line = s->file_line;
            return true;
        }
    }
    return false;
}

static void add_socket(board_build *b, const ynode *node, rmg_socket socket, const char *name)
{
    unsigned line;

    if (taken(b, name, &line)) {
        rmg_yaml_wrong(b->file, node, "names", "%s is in the list already, in line %u", name, line);
        return;
    }
    if (b->sockets->len >= RMG_PLACE_RULES) {
        rmg_yaml_wrong(b->file, node, "names", "more than %u sockets", RMG_PLACE_RULES);
        return;
    }
    socket.name = g_strdup(name);
    socket.note = g_strdup(socket.note);
    socket.unseen = g_strdup(socket.unseen);
    socket.image = g_strdup(socket.image);
    g_array_append_val(b->sockets, socket);
}

/* "U11-U18", "U18-U11" or "U5": one socket after another, each a step further. */
static void add_names(board_build *b, const ynode *node, rmg_socket *socket, double dx, double dy)
{
    gchar **ends = g_strsplit(rmg_yaml_text(node), "-", 2);
    char stem[16], stem2[16];
    uint64_t from, to;

    for (size_t i = 0; ends[i]; i++)
        g_strstrip(ends[i]);
    if (!ends[0] || !rmg_designator_parse(ends[0], stem, sizeof stem, &from)) {
        rmg_yaml_wrong(b->file, node, "names",
                       "found \"%s\", expected designators like U5 or U11-U18",
                       rmg_yaml_text(node));
    } else if (!ends[1]) {
        add_socket(b, node, *socket, ends[0]);
        socket->x_mm += dx;
        socket->y_mm += dy;
    } else if (!rmg_designator_parse(ends[1], stem2, sizeof stem2, &to) ||
               strcmp(stem, stem2) != 0 || (from < to ? to - from : from - to) >= RMG_PLACE_RULES) {
        rmg_yaml_wrong(b->file, node, "names",
                       "found \"%s\", expected designators like U5 or U11-U18, at most %u",
                       rmg_yaml_text(node), RMG_PLACE_RULES);
    } else {
        for (uint64_t n = from;; n = from < to ? n + 1 : n - 1) {
            gchar *name = g_strdup_printf("%s%" G_GUINT64_FORMAT, stem, n);

            add_socket(b, node, *socket, name);
            g_free(name);
            socket->x_mm += dx;
            socket->y_mm += dy;
            if (n == to)
                break;
        }
    }
    g_strfreev(ends);
}

/* The file a socket's chip is an image of, named from the board file's folder. */
static char *image_file(board_build *b, const ynode *item)
{
    char *name = rmg_yaml_string(b->file, item, "image", "");
    char *file;

    if (!*name || !b->file->name)
        return name;
    file = rmg_file_beside(b->file->name, name);
    g_free(name);
    return file;
}

void rmg_board_read_sockets(board_build *b, const ynode *root)
{
    ynode *list = rmg_yaml_list(b->file, root, "sockets", true);
    ynode *item;

    for (size_t i = 0; (item = rmg_yaml_item(b->file, list, i)) != NULL; i++) {
        rmg_socket socket = {.file_line = rmg_yaml_line(item)};
        double dx = 0, dy = 0;
        ynode *names, *name;

        if (!rmg_yaml_is_map(b->file, item, "a socket", socket_keys))
            continue;
        names = rmg_yaml_need(b->file, item, "names");
        socket.soldered = rmg_yaml_choice(b->file, item, "mount", mount_words, -1) == 1;
        socket.drawn = rmg_yaml_point(b->file, item, "at", &socket.x_mm, &socket.y_mm);
        rmg_yaml_point(b->file, item, "step", &dx, &dy);
        socket.part = rmg_board_part(b, item, false);
        socket.note = rmg_yaml_string(b->file, item, "note", "");
        socket.unseen = rmg_yaml_string(b->file, item, "unseen", "");
        socket.image = image_file(b, item);
        if (names && names->type == YAML_SEQUENCE_NODE)
            for (size_t n = 0; (name = rmg_yaml_item(b->file, names, n)) != NULL; n++)
                add_names(b, name, &socket, dx, dy);
        else if (names)
            add_names(b, names, &socket, dx, dy);
        g_free(socket.note);
        g_free(socket.unseen);
        g_free(socket.image);
    }
}
