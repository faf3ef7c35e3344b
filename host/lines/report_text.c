/* A report in words. */
#include "listen.h"

/* "D2 (U21), D5 (U24)" */
static void append_bits(GString *text, const rmg_board *board, const rmg_report *report)
{
    unsigned named = 0;

    for (uint8_t i = 0; i < board->word_bits; i++) {
        rmg_place place;
        uint16_t socket = RMG_NO_SOCKET;

        if (!(report->bits >> i & 1u))
            continue;
        if (++named > 8) {
            g_string_append(text, ", ...");
            return;
        }
        g_string_append_printf(text, "%sD%u", named > 1 ? ", " : "", i);
        if (report->at && rmg_place_find(&board->placement, report->address, i, &place))
            socket = place.socket;
        for (uint16_t n = 0;
             !report->at && report->bank != RMG_NO_BANK && n < board->placement.rule_count; n++)
            if (board->placement.rules[n].bank == report->bank &&
                (rmg_rule_bits(&board->placement.rules[n]) >> i & 1u))
                socket = board->placement.rules[n].socket;
        if (socket != RMG_NO_SOCKET)
            g_string_append_printf(text, " (%s)", board->sockets[socket].name);
    }
}

char *rmg_report_text(const rmg_board *board, const rmg_report *report)
{
    GString *text = g_string_new(NULL);
    char address[40];

    if (report->at)
        g_string_append(text,
                        rmg_board_address_text(board, report->address, address, sizeof address));
    else if (report->bank != RMG_NO_BANK)
        g_string_append(text, board->banks[report->bank].called);
    if (report->both)
        g_string_append_printf(
            text, "%swrote 0x%0*" G_GINT64_MODIFIER "X, read 0x%0*" G_GINT64_MODIFIER "X",
            text->len ? ", " : "", (board->word_bits + 3) / 4, (guint64)report->wrote,
            (board->word_bits + 3) / 4, (guint64)report->read);
    if (report->count > 1)
        g_string_append_printf(text, "%s%" G_GUINT64_FORMAT " times", text->len ? ", " : "",
                               report->count);
    if (text->len && (report->bits || report->socket != RMG_NO_SOCKET))
        g_string_append(text, ": ");
    if (report->bits)
        append_bits(text, board, report);
    else if (report->socket != RMG_NO_SOCKET)
        g_string_append(text, board->sockets[report->socket].name);
    else if (!text->len)
        g_string_append(text, "without a place");
    return g_string_free(text, FALSE);
}
