/* "gdb:HOST:PORT", or another stream: a board behind a debug link. */
#include <string.h>

#include "internal.h"
#include "rimeglass/gdb.h"

static gchar *expected(const char *rest)
{
    if (rmg_stream_is_two_way(rest))
        return NULL;
    return g_strdup("gdb:HOST:PORT like gdb:127.0.0.1:2331, a serial device like "
                    "gdb:/dev/ttyUSB0,baud=115200, or gdb:run:COMMAND");
}

static const char *why_gdb(void *self)
{
    return rmg_gdb_why(self);
}

static void close_gdb(void *self)
{
    rmg_gdb_close(self);
}

static rmg_status open_gdb(const char *rest, const rmg_board *board, rmg_opened *opened,
                           GArray *notes)
{
    const rmg_gdb_words words = {.bits = board->word_bits,
                                 .byte_shift = board->counts_bytes
                                                   ? board->byte_shift
                                                   : (uint8_t)(board->word_bits > 32   ? 3
                                                               : board->word_bits > 16 ? 2
                                                               : board->word_bits > 8  ? 1
                                                                                       : 0),
                                 .high_first = board->high_first};
    char why[RMG_STREAM_WHY];
    rmg_stream *stream = NULL;
    rmg_gdb *gdb = NULL;
    rmg_status status = rmg_stream_open(rest, RMG_CONNECT_MS, &stream, why);

    if (status == RMG_OK)
        status = rmg_gdb_open(stream, &words, &gdb, why);
    if (status != RMG_OK) {
        rmg_note(notes, status, rest, "gdb:%s: %s", rest, *why ? why : rmg_status_text(status));
        return status;
    }
    opened->self = gdb;
    opened->close = close_gdb;
    opened->why = why_gdb;
    opened->stream = stream;
    opened->blocks = &rmg_gdb_blocks_bus;
    opened->accesses_a_second = rmg_gdb_speed(gdb);
    opened->target =
        (rmg_target){.bus = &rmg_gdb_bus,
                     .context = gdb,
                     .mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits)};
    opened->remark = g_strdup("");
    opened->caveat = g_strdup_printf(
        "Through a debug link (about %.0f accesses a second) each access is made when the far end "
        "makes it, maybe through a cache or in another width. Not found: DRF of DRAM, for refresh "
        "goes "
        "on in holds; faults that need accesses in close succession.",
        rmg_gdb_speed(gdb));
    return RMG_OK;
}

const rmg_target_kind rmg_target_gdb = {
    .prefix = "gdb:", .forms = "gdb:HOST:PORT", .expected = expected, .open = open_gdb};
