/* The sockets of a board file: designators, how the chip is fitted, where it sits. */
#include "build.h"

#include <string.h>

static const char *const socket_keys[] = {"names", "mount",  "at",    "step",      "part",
                                          "note",  "unseen", "image", "within-ns", NULL};
static const char *const mount_words[] = {"socket", "soldered", "ball", NULL};

const char *rmg_mount_name(rmg_mount mount)
{
    return mount_words[mount];
}

const char *rmg_mount_text(rmg_mount mount)
{
    return mount == RMG_MOUNT_SOCKET     ? "in a socket"
           : mount == RMG_MOUNT_SOLDERED ? "soldered"
                                         : "on solder balls";
}

static rmg_socket *taken(const board_build *b, const char *name, guint *number)
{
    for (*number = 0; *number < b->sockets->len; (*number)++) {
        rmg_socket *s = &g_array_index(b->sockets, rmg_socket, *number);

        if (g_ascii_strcasecmp(s->name, name) == 0)
            return s;
    }
    return NULL;
}

static void set_text(char **text, const char *to)
{
    g_free(*text);
    *text = g_strdup(to);
}

/* What a later file says of a socket of its base. */
static void change_socket(board_build *b, const ynode *item, rmg_socket *old,
                          const rmg_socket *socket)
{
    if (rmg_yaml_get(b->file, item, "mount"))
        old->mount = socket->mount;
    if (rmg_yaml_get(b->file, item, "at")) {
        old->drawn = socket->drawn;
        old->x_mm = socket->x_mm;
        old->y_mm = socket->y_mm;
    }
    if (rmg_yaml_get(b->file, item, "part"))
        old->part = socket->part;
    if (rmg_yaml_get(b->file, item, "within-ns"))
        old->within_ns = socket->within_ns;
    if (rmg_yaml_get(b->file, item, "note"))
        set_text(&old->note, socket->note);
    if (rmg_yaml_get(b->file, item, "unseen"))
        set_text(&old->unseen, socket->unseen);
    if (rmg_yaml_get(b->file, item, "image")) {
        set_text(&old->image, socket->image);
        set_text(&old->image_named, socket->image_named);
        set_text(&old->stands, socket->stands);
    }
}

static void add_socket(board_build *b, const ynode *item, const ynode *node, rmg_socket socket,
                       const char *name)
{
    rmg_socket *old;
    guint number;

    name = rmg_board_designator(b, node, name);
    if (!name)
        return;
    old = taken(b, name, &number);
    if (old &&
        rmg_yaml_source(b->file, b->socket_nodes->pdata[number]) > rmg_yaml_source(b->file, item)) {
        change_socket(b, item, old, &socket);
        return;
    }
    if (old) {
        char *place = rmg_yaml_place(b->file, b->socket_nodes->pdata[number]);

        rmg_yaml_wrong(b->file, node, "names", "%s is in the list already, in %s", name, place);
        g_free(place);
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
    socket.image_named = g_strdup(socket.image_named);
    socket.stands = g_strdup(socket.stands);
    g_array_append_val(b->sockets, socket);
    g_ptr_array_add(b->socket_nodes, (gpointer)(uintptr_t)item);
}

/* "U11-U18", "U18-U11" or "U5": one socket after another, each a step further. */
static void add_names(board_build *b, const ynode *item, const ynode *node, rmg_socket *socket,
                      double dx, double dy)
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
        add_socket(b, item, node, *socket, ends[0]);
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

            add_socket(b, item, node, *socket, name);
            g_free(name);
            socket->x_mm += dx;
            socket->y_mm += dy;
            if (n == to)
                break;
        }
    }
    g_strfreev(ends);
}

/* The file a socket's chip is an image of: from here, and from the board file's folder. */
static void read_image(board_build *b, const ynode *item, rmg_socket *socket)
{
    const ynode *node = rmg_yaml_get(b->file, item, "image");
    char *name = rmg_yaml_string(b->file, item, "image", "");

    socket->image_named = node && *name ? rmg_board_file_named(b, node, name) : g_strdup("");
    socket->image = *socket->image_named && b->file->name
                        ? rmg_file_beside(b->file->name, socket->image_named)
                        : g_strdup(socket->image_named);
    g_free(name);
}

void rmg_board_read_sockets(board_build *b, const ynode *root)
{
    ynode *list = rmg_yaml_list(b->file, root, "sockets", true);
    ynode *item;

    for (size_t i = 0; (item = rmg_yaml_item(b->file, list, i)) != NULL; i++) {
        rmg_socket socket = {0};
        double dx = 0, dy = 0;
        const guint before = b->sockets->len;
        ynode *names, *name;

        if (!rmg_yaml_is_map(b->file, item, "a socket", socket_keys))
            continue;
        names = rmg_yaml_need(b->file, item, "names");
        socket.mount = (rmg_mount)rmg_yaml_choice(b->file, item, "mount", mount_words, 0);
        socket.drawn = rmg_yaml_point(b->file, item, "at", &socket.x_mm, &socket.y_mm);
        rmg_yaml_point(b->file, item, "step", &dx, &dy);
        socket.part = rmg_board_part(b, item, false);
        socket.within_ns = (uint32_t)rmg_yaml_number(b->file, item, "within-ns", 1, 1000000, 0);
        socket.note = rmg_yaml_string(b->file, item, "note", "");
        socket.unseen = rmg_yaml_string(b->file, item, "unseen", "");
        read_image(b, item, &socket);
        socket.stands =
            g_strdup_printf("%s:%u", rmg_yaml_source_name(b->file, rmg_yaml_source(b->file, item)),
                            rmg_yaml_line(item));
        if (names && names->type == YAML_SEQUENCE_NODE)
            for (size_t n = 0; (name = rmg_yaml_item(b->file, names, n)) != NULL; n++)
                add_names(b, item, name, &socket, dx, dy);
        else if (names)
            add_names(b, item, names, &socket, dx, dy);
        if (b->sockets->len > before) /* what only changes a socket need not say it */
            rmg_yaml_need(b->file, item, "mount");
        g_free(socket.note);
        g_free(socket.unseen);
        g_free(socket.image);
        g_free(socket.image_named);
        g_free(socket.stands);
    }
}
