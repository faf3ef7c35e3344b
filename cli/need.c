/* What a socket of a board asks of a chip, and what a graded one has to spare there. */
#include <string.h>

#include "chip.h"
#include "cli.h"
#include "rimeglass/board.h"

/* A DRAM is marked by the time from its row strobe; its data come after the column strobe in some
 * six tenths of that, by data sheets. */
#define CAS_SHARE 0.6

bool need_read(const char *text, socket_need *need)
{
    const char *comma = strrchr(text, ',');
    gchar *file = comma ? g_strndup(text, (gsize)(comma - text)) : NULL;
    rmg_board *board = NULL;
    rmg_errors errors = {0};
    uint16_t socket = RMG_NO_SOCKET;

    memset(need, 0, sizeof *need);
    if (!comma)
        wrong_call("chip", "--need %s: expected a board file, a comma and a socket", text);
    else if (rmg_board_load(file, &board, &errors) != RMG_OK)
        print_errors(&errors);
    else if ((socket = rmg_board_socket(board, comma + 1)) == RMG_NO_SOCKET)
        wrong_call("chip", "--need %s: %s has no socket %s", text, board->name, comma + 1);
    else if (!board->sockets[socket].part)
        wrong_call("chip", "--need %s: no memory sits in %s", text, comma + 1);
    if (socket != RMG_NO_SOCKET && board->sockets[socket].part)
        *need = (socket_need){g_strdup_printf("%s of %s", comma + 1, board->name),
                              board->sockets[socket].within_ns, board->refresh_ms,
                              board->sockets[socket].part->kind == RMG_PART_DRAM};
    rmg_errors_free(&errors);
    rmg_board_free(board);
    g_free(file);
    return need->name != NULL;
}

static void add(GString *text, const char *format, ...)
{
    va_list args;

    if (text->len)
        g_string_append(text, "; ");
    va_start(args, format);
    g_string_append_vprintf(text, format, args);
    va_end(args);
}

gchar *need_text(const socket_need *need, unsigned data_ns, int holds_ms, bool *serves)
{
    const double within = need->within_ns * (need->dram ? CAS_SHARE : 1.0);
    GString *text = g_string_new(NULL);

    *serves = true;
    if (!need->within_ns)
        add(text, "how fast it must be is not stated (within-ns)");
    else if (!data_ns)
        add(text, "its speed was not tried");
    else if (data_ns <= within)
        add(text, "%s%.0f ns to spare of %.0f%s", need->dram ? "about " : "", within - data_ns,
            within, need->dram ? " after CAS" : "");
    else
        add(text, "%s%.0f ns too slow: it may take %.0f%s", need->dram ? "about " : "",
            data_ns - within, within, need->dram ? " after CAS" : "");
    *serves = !(need->within_ns && data_ns > within);
    if (need->dram && !need->refresh_ms)
        add(text, "how often the board refreshes is not stated (refresh-ms)");
    else if (need->dram && holds_ms > 0) {
        add(text, "holds %.1f times as long as the board's %u ms",
            holds_ms / (double)need->refresh_ms, need->refresh_ms);
        *serves = *serves && holds_ms >= (int)need->refresh_ms;
    }
    return g_string_free(text, FALSE);
}
