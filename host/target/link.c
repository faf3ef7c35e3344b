/* "link:STREAM": a board, or a chip, behind a far end that speaks the link. */
#include <string.h>

#include "internal.h"
#include "rimeglass/link.h"

static gchar *expected(const char *rest)
{
    if (rmg_stream_is_two_way(rest))
        return NULL;
    return g_strdup("link:DEVICE like link:/dev/ttyUSB0,baud=115200, link:HOST:PORT, or "
                    "link:run:COMMAND");
}

static const char *why_link(void *self)
{
    return rmg_link_why(self);
}

/* A cable that spoils lines costs time only, but whoever repairs boards wants to know. */
static char *afterwards(void *self)
{
    uint64_t again, lines;

    rmg_link_counts(self, &again, &lines);
    return again ? g_strdup_printf("%" G_GUINT64_FORMAT " of %" G_GUINT64_FORMAT
                                   " lines %s spoilt on the way, and asked for again.",
                                   again, lines, again == 1 ? "was" : "were")
                 : NULL;
}

static void close_link(void *self)
{
    rmg_link_close(self);
}

static rmg_status open_link(const char *rest, const rmg_board *board, rmg_opened *opened,
                            GArray *notes)
{
    const rmg_word mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits);
    char why[RMG_STREAM_WHY];
    rmg_stream *stream = NULL;
    rmg_link *link = NULL;
    rmg_status status = rmg_stream_open(rest, RMG_CONNECT_MS, &stream, why);
    const char *order;

    if (status == RMG_OK)
        status = rmg_link_open(stream, mask, &link, why);
    if (status != RMG_OK) {
        rmg_note(notes, status, rest, "link:%s: %s", rest, *why ? why : rmg_status_text(status));
        return status;
    }
    order =
        rmg_link_has_elements(link)
            ? "Through the link march elements run at the far end, in the order asked for, with "
              "pauses between the stretches"
            : "Through the link each access is made by itself; not found are faults that need "
              "accesses in close succession";
    opened->self = link;
    opened->close = close_link;
    opened->why = why_link;
    opened->afterwards = afterwards;
    opened->blocks = rmg_link_blocks_bus(link);
    opened->accesses_a_second = rmg_link_has_elements(link) ? 0 : rmg_link_speed(link);
    opened->target = (rmg_target){.bus = rmg_link_bus(link), .context = link, .mask = mask};
    opened->remark = g_strdup("");
    opened->caveat =
        g_strdup_printf("%s (about %.0f single accesses a second)%s.", order, rmg_link_speed(link),
                        rmg_link_is_checked(link) ? ""
                                                  : "; its lines carry no check, so a disturbance "
                                                    "on the way would pass for a wrong read");
    return RMG_OK;
}

static rmg_status open_bare(const char *rest, const rmg_board *board, uint16_t socket,
                            rmg_opened *opened, GArray *notes)
{
    return rmg_open_pod("link:", rest, NULL, board, socket, opened, notes);
}

const rmg_target_kind rmg_target_link = {.prefix = "link:",
                                         .forms = "link:STREAM",
                                         .expected = expected,
                                         .open = open_link,
                                         .open_bare = open_bare};
