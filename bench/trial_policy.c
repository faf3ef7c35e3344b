#include "trial_policy.h"

#include <string.h>

double trial_price(const rmg_cost *cost)
{
    return cost->minutes + cost->damage * RMG_DAMAGE_MINUTES + TRIAL_TEST;
}

/* Has the socket got another of the board's chips since that change? */
static bool swapped_since(const rmg_change *list, size_t from, size_t count, uint16_t socket)
{
    for (size_t i = from + 1u; i < count; i++)
        if (list[i].kind == RMG_CHANGE_SWAP &&
            (list[i].socket == socket || list[i].other == socket))
            return true;
    return false;
}

bool trial_is_done(const rmg_change *c, const rmg_change *list, size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (list[i].kind == c->kind && list[i].socket == c->socket &&
            (!c->text || (list[i].text && strcmp(list[i].text, c->text) == 0)) &&
            (c->socket == RMG_NO_SOCKET || !swapped_since(list, i, count, c->socket)))
            return true;
    return false;
}

/* The advice to take next; NULL: none is left. */
static const rmg_advice *as_advised(const rmg_advice *list, size_t count, const rmg_change *made,
                                    size_t made_count)
{
    for (size_t i = 0; i < count; i++)
        if (!trial_is_done(&list[i].change, made, made_count))
            return &list[i];
    return NULL;
}

/* The cheapest of the changes that tell something, until a repair is advised before all others. */
static const rmg_advice *cheapest_telling(const rmg_advice *list, size_t count,
                                          const rmg_change *made, size_t made_count)
{
    const rmg_advice *best = as_advised(list, count, made, made_count);

    for (size_t i = 0; best && !best->settles && i < count; i++)
        if (!list[i].settles && !trial_is_done(&list[i].change, made, made_count) &&
            trial_price(&list[i].cost) < trial_price(&best->cost))
            best = &list[i];
    return best;
}

/* A sound socket with the same part that a chip can be changed with; RMG_NO_SOCKET: none. */
static uint16_t partner(const rmg_board *board, const rmg_run *run, uint16_t socket)
{
    for (uint16_t s = 0; s < board->socket_count; s++) {
        bool fails = s == socket || board->sockets[s].part != board->sockets[socket].part ||
                     board->sockets[s].mount != RMG_MOUNT_SOCKET;

        for (uint16_t r = 0; r < board->placement.rule_count; r++)
            fails |= board->placement.rules[r].socket == s &&
                     rmg_failset_bits(run->failures, &board->placement.rules[r].where,
                                      rmg_rule_bits(&board->placement.rules[r]));
        if (!fails)
            return s;
    }
    return RMG_NO_SOCKET;
}

/* The fixed order: what is cheapest at a socket that some cause is at, likelier sockets first; once
 * one thing is as good as sure, or all is done, the repairs in the same order. */
static const rmg_advice *cheapest_first(const diag_case *base, const rmg_advice *list, size_t count,
                                        const causes *c, const rmg_cost_table *costs,
                                        const rmg_change *made, size_t made_count, rmg_advice *own)
{
    static const rmg_change_kind kinds[] = {RMG_CHANGE_RESEAT, RMG_CHANGE_PULL, RMG_CHANGE_MEASURE,
                                            RMG_CHANGE_HOLD,   RMG_CHANGE_SWAP, RMG_CHANGE_LIFT};
    const rmg_board *board = base->board->board;
    const rmg_advice *best = NULL;
    double cheapest = 0;

    for (size_t i = 0; i < count; i++)
        if (list[i].settles && list[i].share >= TRIAL_SURE &&
            !trial_is_done(&list[i].change, made, made_count))
            return &list[i];
    for (size_t i = 0; i < c->count; i++)
        for (size_t k = 0; k < sizeof kinds / sizeof *kinds; k++) {
            const uint16_t s = c->list[i].socket;
            rmg_advice one = {.change = {.kind = kinds[k],
                                         .socket = s,
                                         .other = RMG_NO_SOCKET,
                                         .bank = RMG_NO_BANK,
                                         .value = INT64_MIN}};

            if (s == RMG_NO_SOCKET || c->list[i].after < 0.02 ||
                trial_is_done(&one.change, made, made_count))
                continue;
            one.cost = costs->costs[kinds[k]][board->sockets[s].mount];
            if (kinds[k] == RMG_CHANGE_SWAP)
                one.change.other = partner(board, &base->run, s);
            if (one.cost.minutes < 0 ||
                (kinds[k] == RMG_CHANGE_SWAP && one.change.other == RMG_NO_SOCKET))
                continue;
            if (!best || trial_price(&one.cost) < cheapest) {
                *own = one;
                cheapest = trial_price(&one.cost);
                best = own;
            }
        }
    for (size_t i = 0; i < count && !best; i++)
        if (list[i].settles && !trial_is_done(&list[i].change, made, made_count) &&
            (!best || trial_price(&list[i].cost) < trial_price(&best->cost)))
            best = &list[i];
    return best;
}

const rmg_advice *trial_choose(choice *c, int policy)
{
    return policy == CHEAPEST_FIRST ? cheapest_first(c->base, c->list, c->count, c->causes,
                                                     c->costs, c->made, c->made_count, &c->own)
           : policy == CHEAPEST_TELLING
               ? cheapest_telling(c->list, c->count, c->made, c->made_count)
           : policy == SEARCHED ? trial_searched(c)
                                : as_advised(c->list, c->count, c->made, c->made_count);
}
