/* A chip to swap a suspect with. */
#include "internal.h"

static bool is_suspect(const wording *w, uint16_t socket)
{
    for (size_t i = 0; i < w->all->count; i++)
        if (w->all->list[i].finding.socket == socket)
            return true;
    return false;
}

static bool in_bank(const rmg_board *board, uint16_t socket, uint8_t bank)
{
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (board->placement.rules[r].socket == socket && board->placement.rules[r].bank == bank)
            return true;
    return false;
}

uint16_t rmg_neighbour_of(const wording *w)
{
    const rmg_board *board = w->board;
    const rmg_finding *f = &w->s->finding;
    uint16_t best = RMG_NO_SOCKET;

    for (uint16_t s = 0; s < board->socket_count; s++) {
        if (s == f->socket || board->sockets[s].mount != RMG_MOUNT_SOCKET || is_suspect(w, s) ||
            board->sockets[s].part != board->sockets[f->socket].part)
            continue;
        if (in_bank(board, s, f->bank) &&
            (best == RMG_NO_SOCKET || !in_bank(board, best, f->bank) ||
             ABS((int)s - (int)f->socket) < ABS((int)best - (int)f->socket)))
            best = s;
        else if (best == RMG_NO_SOCKET)
            best = s;
    }
    return best;
}
