/* A test that passed before a change, as evidence: what the change did not touch was right then. */
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "base/internal.h"
#include "internal.h"

/* How likely something is to have become wrong by the change, against one that is put in its place
 * or made anew. */
#define BY_ITSELF 0.03 /* just then, untouched */
#define HANDLED   0.1  /* a chip that was right, and was taken out and put in; a line there */
#define DAMAGED   0.3  /* a socket, and the tracks to it; or something that nobody thought of */

#define BROUGHT 0.02 /* times: a place at which another chip passed, against the chip that came */

static void touch(rmg_touched *at, uint16_t socket, rmg_touched how)
{
    if (socket != RMG_NO_SOCKET)
        at[socket] = MAX(at[socket], how);
}

bool rmg_touched_by(const rmg_board *board, const rmg_change *changes, size_t count,
                    rmg_touched *at)
{
    bool any = false;

    for (size_t i = 0; i < count; i++) {
        const rmg_change *c = &changes[i];

        switch (c->kind) {
        case RMG_CHANGE_FIT:
        case RMG_CHANGE_REPLACE:
            touch(at, c->socket, RMG_NEW_CHIP);
            break;
        case RMG_CHANGE_SWAP:
        case RMG_CHANGE_MOVE:
        case RMG_CHANGE_RESEAT:
        case RMG_CHANGE_PULL:
            touch(at, c->socket, RMG_TAKEN_OUT);
            touch(at, c->other, RMG_TAKEN_OUT);
            for (uint16_t s = 0; c->bank != RMG_NO_BANK && s < board->socket_count; s++)
                touch(at, s, rmg_board_bits(board, c->bank, s) ? RMG_TAKEN_OUT : RMG_UNTOUCHED);
            break;
        case RMG_CHANGE_MEASURE:
        case RMG_CHANGE_NOTHING:
            continue;
        default:
            return false;
        }
        any = true;
    }
    return any;
}

/* The chance that a fault that was there passed all the same. */
static double by_chance(const rmg_run *base, const rmg_run *passed)
{
    const rmg_rate rate = rmg_rate_of_passes(base);

    return rate.trials
               ? pow(1 - (double)rate.events / (double)rate.trials, (double)passed->pass_count)
               : 0;
}

/* Was one of the sockets that the suspect is about touched? */
static bool near(const rmg_run *run, const rmg_suspects *suspects, const rmg_hypothesis *h,
                 const rmg_touched *at)
{
    bool *sockets = g_new0(bool, run->board->socket_count + 1u), any = false;

    if (h->suspect < suspects->count)
        rmg_finding_sockets(run, &suspects->list[h->suspect].finding, sockets);
    for (size_t s = 0; s < run->board->socket_count; s++)
        any |= sockets[s] && at[s];
    g_free(sockets);
    return any;
}

double rmg_newly_wrong(const rmg_hypothesis *h, const rmg_touched *at, bool near)
{
    const rmg_touched here = h->socket == RMG_NO_SOCKET ? RMG_UNTOUCHED : at[h->socket];

    if (h->rival == SIZE_MAX)
        return DAMAGED;
    if (h->belongs == RMG_BELONGS_CHIP && here)
        return here == RMG_NEW_CHIP ? 1 : HANDLED;
    if (h->belongs == RMG_BELONGS_CONTACT && here)
        return 1;
    if (h->belongs == RMG_BELONGS_PLACE && here)
        return DAMAGED;
    return h->belongs == RMG_BELONGS_LINE && near ? HANDLED : BY_ITSELF;
}

bool rmg_passed_weigh(const rmg_run *base, const rmg_suspects *suspects, const rmg_run *passed,
                      const rmg_change *changes, size_t change_count, rmg_hypothesis *list,
                      size_t count)
{
    rmg_touched *at = g_new0(rmg_touched, base->board->socket_count + 1u);
    const double chance = by_chance(base, passed);
    const bool follows = passed->tested_words == base->tested_words && passed->pass_count &&
                         rmg_touched_by(base->board, changes, change_count, at);

    for (size_t i = 0; i < count && follows; i++) {
        const double now = rmg_newly_wrong(&list[i], at, near(base, suspects, &list[i], at));

        list[i].after *= now + (1 - now) * chance;
    }
    if (follows)
        rmg_hypotheses_settle(list, count);
    g_free(at);
    return follows && count;
}

void rmg_brought_weigh(const bool *sound, rmg_hypothesis *list, size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (list[i].socket != RMG_NO_SOCKET && sound[list[i].socket] &&
            (list[i].belongs == RMG_BELONGS_CONTACT || list[i].belongs == RMG_BELONGS_PLACE))
            list[i].after *= BROUGHT;
    rmg_hypotheses_settle(list, count);
}
