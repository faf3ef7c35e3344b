/* A chip in the socket of a pod: behind "link:STREAM", or behind "pod:FILE,STREAM" where its file
 * says which line is which. */
#include <string.h>

#include "internal.h"
#include "rimeglass/chip.h"
#include "rimeglass/stream.h"

static gchar *expected(const char *rest)
{
    const char *comma = strchr(rest, ',');

    if (comma && comma != rest && rmg_stream_is_two_way(comma + 1))
        return NULL;
    return g_strdup("pod:FILE.yaml,DEVICE,baud=115200, pod:FILE.yaml,HOST:PORT, or "
                    "pod:FILE.yaml,run:COMMAND");
}

static const char *why_pod(void *self)
{
    return rmg_pod_why(self);
}

static void close_pod(void *self)
{
    rmg_pod_close(self);
}

rmg_status rmg_open_pod(const char *prefix, const char *stream, const char *map,
                        const rmg_board *board, uint16_t socket, rmg_opened *opened, GArray *notes)
{
    const rmg_socket *s = &board->sockets[socket];
    rmg_error error = {0};
    rmg_pod *pod;
    rmg_chip chip;
    rmg_status status = rmg_pod_open(stream, map, &pod, &error);
    char *refused = NULL, *why = NULL;

    if (status != RMG_OK) {
        rmg_note_error(notes, &error);
        return status;
    }
    refused = s->part && s->part->kind == RMG_PART_DRAM
                  ? g_strdup_printf("%s loses its contents when it is pulled: chip tests it",
                                    s->part->number)
              : s->part ? rmg_pod_refuses(pod, s->part)
                        : g_strdup_printf("the board file names no part for %s", s->name);
    if (refused || !rmg_pod_hold(pod, s->part, &chip)) {
        if (!refused)
            why = rmg_chip_refused(&chip);
        rmg_note(notes, RMG_ERR_PORT_CANNOT, stream, "%s%s%s%s: %s", prefix, map ? map : "",
                 map ? "," : "", stream, refused ? refused : why);
        rmg_text_free(refused);
        rmg_text_free(why);
        rmg_pod_close(pod);
        return RMG_ERR_PORT_CANNOT;
    }
    opened->self = pod;
    opened->close = close_pod;
    opened->why = why_pod;
    opened->board = rmg_chip_board(s->part, s->name);
    opened->target = rmg_pod_target(pod, s->part);
    opened->remark = g_strdup("");
    opened->caveat = g_strdup_printf("The chip sits in the socket of \"%s\".", rmg_pod_name(pod));
    return RMG_OK;
}

static rmg_status open_pod(const char *rest, const rmg_board *board, rmg_opened *opened,
                           GArray *notes)
{
    (void)board;
    (void)opened;
    rmg_note(
        notes, RMG_ERR_PORT_CANNOT, rest,
        "pod:%s: a pod holds one chip on its own pins: dump, verify and identify reach it with "
        "--bare, chip by its part",
        rest);
    return RMG_ERR_PORT_CANNOT;
}

static rmg_status open_bare(const char *rest, const rmg_board *board, uint16_t socket,
                            rmg_opened *opened, GArray *notes)
{
    const char *comma = strchr(rest, ',');
    gchar *map = g_strndup(rest, (gsize)(comma - rest));
    const rmg_status status = rmg_open_pod("pod:", comma + 1, map, board, socket, opened, notes);

    g_free(map);
    return status;
}

const rmg_target_kind rmg_target_pod = {.prefix = "pod:",
                                        .forms = "pod:FILE,STREAM",
                                        .expected = expected,
                                        .open = open_pod,
                                        .open_bare = open_bare};
