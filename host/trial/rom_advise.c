/* What to do next with a ROM that reads wrong. */
#include <string.h>

#include "base/internal.h"
#include "foresee.h"
#include "rom.h"

/* The results of a trial: it is found again, or it is not. */
enum { SAME = 1, GONE = 2 };

static void add_result(const playing *w, GArray *results, guint64 print, size_t i, double chance)
{
    rmg_foreseen *r;

    if (chance <= 0)
        return;
    r = &rmg_playing_result(results, print, w->count)->is;
    r->shares[i] += chance;
    r->chance += chance;
    r->outcome = print == SAME ? RMG_OUTCOME_UNCHANGED : RMG_OUTCOME_GONE;
}

static bool add(playing *w, const rmg_change *change, size_t i, GArray *results)
{
    const rmg_rom_verdict *base = w->of;
    const rmg_hypothesis *h = &w->list[i];
    double there = 1 - h->gone;

    if (h->rival == SIZE_MAX)
        return false;
    if (change->kind == RMG_CHANGE_READ)
        there = base->bare ? there : there * rmg_rom_shows_bare(base, h);
    else if (h->belongs == RMG_BELONGS_CHIP && change->socket != RMG_NO_SOCKET &&
             change->socket == rmg_playing_socket_now(w, h) &&
             (change->kind == RMG_CHANGE_FIT || change->kind == RMG_CHANGE_REPLACE ||
              change->kind == RMG_CHANGE_PULL))
        there = 0;
    else
        there *= 1 - rmg_rom_undone(w->run->board, base, h, change);
    add_result(w, results, SAME, i, h->after * there);
    add_result(w, results, GONE, i, h->after * (1 - there));
    return true;
}

/* The share of causes that another clock may take away, and that are not gone. */
static double share_of_timing(const playing *w)
{
    double share = 0;

    for (size_t i = 0; i < w->count; i++)
        share +=
            rmg_rom_is_timing(w->of, &w->list[i]) ? w->list[i].after * (1 - w->list[i].gone) : 0;
    return share;
}

/* Has this been done, and nothing since that makes it worth while again: a chip is read on its own
 * pins once, all else until something is changed at its socket. */
static bool is_done(const rmg_changes *done, rmg_change_kind kind, uint16_t socket)
{
    bool is = false;

    for (size_t i = 0; done && i < done->count; i++) {
        const rmg_change *c = &done->list[i];
        const bool other_chip = c->kind == RMG_CHANGE_FIT || c->kind == RMG_CHANGE_REPLACE ||
                                c->kind == RMG_CHANGE_SWAP || c->kind == RMG_CHANGE_MOVE;

        if (c->socket != socket && c->other != socket)
            continue;
        is = c->kind == kind || (is && !other_chip &&
                                 (kind == RMG_CHANGE_READ || c->kind == RMG_CHANGE_READ ||
                                  c->kind == RMG_CHANGE_MEASURE));
    }
    return is;
}

/* Is something wrong at its pins, to which a meter can be held? */
static bool at_pins(const playing *w, uint16_t socket)
{
    for (size_t i = 0; i < w->suspects->count; i++)
        if (rmg_rom_is_at_pins(&w->suspects->list[i]) &&
            w->suspects->list[i].finding.socket == socket)
            return true;
    return false;
}

/* What can be done at a socket: of the ROM itself, or of another chip on its lines. */
static void consider_socket(playing *w, uint16_t s, const rmg_changes *done,
                            const rmg_cost_table *costs, GArray *list)
{
    const rmg_rom_verdict *base = w->of;
    static const struct {
        rmg_change_kind kind;
        bool own, another, pulls;
    } rows[] = {
        {RMG_CHANGE_MEASURE, true, false, false}, {RMG_CHANGE_READ, true, false, true},
        {RMG_CHANGE_RESEAT, true, false, true},   {RMG_CHANGE_FIT, true, false, true},
        {RMG_CHANGE_PULL, false, true, true},
    };

    for (unsigned i = 0; i < G_N_ELEMENTS(rows); i++) {
        const rmg_change change = {.kind = rows[i].kind, .socket = s, .other = RMG_NO_SOCKET};
        const bool in_board = rows[i].kind == RMG_CHANGE_MEASURE || rows[i].kind == RMG_CHANGE_READ;

        if (!(base->sockets[s] ? rows[i].own : rows[i].another) ||
            (rows[i].pulls && w->run->board->sockets[s].mount != RMG_MOUNT_SOCKET) ||
            (in_board && base->bare) || (rows[i].kind == RMG_CHANGE_MEASURE && !at_pins(w, s)) ||
            (rows[i].kind == RMG_CHANGE_READ && base->both) ||
            (rows[i].kind != RMG_CHANGE_FIT && is_done(done, rows[i].kind, s)))
            continue;
        rmg_advise_change(w, change, costs, list);
    }
}

/* Two chips that are in each other's socket are exchanged. */
static void consider_exchange(const playing *w, const rmg_cost_table *costs, GArray *list)
{
    const rmg_rom_verdict *base = w->of;
    rmg_advice one = {.settles = true,
                      .change = {.kind = RMG_CHANGE_SWAP,
                                 .socket = RMG_NO_SOCKET,
                                 .other = RMG_NO_SOCKET,
                                 .bank = RMG_NO_BANK,
                                 .value = INT64_MIN}};
    bool soldered = false;

    for (uint16_t s = 0; s < base->socket_count; s++)
        if (base->sockets[s]) {
            *(one.change.socket == RMG_NO_SOCKET ? &one.change.socket : &one.change.other) = s;
            soldered |= w->run->board->sockets[s].mount != RMG_MOUNT_SOCKET;
        }
    for (size_t i = 0; i < w->count; i++) {
        const rmg_rival *r = rmg_rom_rival(base, &w->list[i]);

        one.share += r && r->is.said == RMG_SAY_EXCHANGED_SOCKETS
                         ? w->list[i].after * (1 - w->list[i].gone)
                         : 0;
    }
    one.cost = costs->costs[RMG_CHANGE_SWAP][RMG_MOUNT_SOCKET];
    if (one.change.other != RMG_NO_SOCKET && !soldered && one.share >= RMG_CANDIDATE &&
        one.cost.minutes >= 0)
        g_array_append_val(list, one);
}

static double price(const rmg_cost *cost)
{
    return cost->minutes + cost->damage * RMG_DAMAGE_MINUTES + 1; /* and the reading afterwards */
}

/* Before a socket is repaired its chip is reseated, where that costs less in the mean; before a
 * chip is replaced, for which another one must be programmed, it is read on its own pins. */
static bool comes_first(const rmg_advice *first, const rmg_advice *one)
{
    double gone = 0;

    if (one->change.socket != first->change.socket)
        return false;
    if (first->change.kind == RMG_CHANGE_REPLACE)
        return one->change.kind == RMG_CHANGE_READ;
    for (size_t r = 0; r < one->result_count; r++)
        gone += one->results[r].outcome == RMG_OUTCOME_GONE ? one->results[r].chance : 0;
    return first->change.kind == RMG_CHANGE_REPAIR && one->change.kind == RMG_CHANGE_RESEAT &&
           price(&one->cost) < gone * price(&first->cost);
}

static void put_first(GArray *list)
{
    for (guint i = 1; i < list->len; i++) {
        const rmg_advice one = g_array_index(list, rmg_advice, i);

        if (!comes_first(&g_array_index(list, rmg_advice, 0), &one))
            continue;
        g_array_remove_index(list, i);
        g_array_prepend_val(list, one);
        return;
    }
}

bool rmg_rom_change_concerns(const rmg_board *board, const rmg_rom_verdict *base,
                             const rmg_hypothesis *list, size_t count, const rmg_change *change)
{
    bool concerns = change->kind == RMG_CHANGE_OTHER || change->kind == RMG_CHANGE_JUMPER;

    for (uint16_t s = 0; s < base->socket_count; s++)
        concerns |= base->sockets[s] && rmg_change_touches(board, change, s);
    for (size_t i = 0; i < count; i++)
        concerns |= rmg_rom_undone(board, base, &list[i], change) > 0 ||
                    (rmg_rom_is_another(base, &list[i]) &&
                     rmg_change_touches(board, change, list[i].socket));
    return concerns;
}

void rmg_rom_advise(const rmg_board *board, const rmg_rom_verdict *base, const rmg_hypothesis *list,
                    size_t count, const rmg_changes *done, const rmg_cost_table *costs,
                    rmg_advice **advice, size_t *advice_count)
{
    GArray *found = g_array_new(FALSE, TRUE, sizeof(rmg_advice));
    const rmg_run run = {.board = board};
    playing w = {.run = &run,
                 .suspects = &base->suspects,
                 .list = list,
                 .count = count,
                 .changes = g_new0(rmg_change, (done ? done->count : 0) + 1u),
                 .done = done ? done->count : 0,
                 .fault_count = rmg_faults_at_once(list, count),
                 .add = add,
                 .of = base};

    if (w.done)
        memcpy(w.changes, done->list, w.done * sizeof *done->list);
    for (uint16_t s = 0; s < board->socket_count; s++)
        if (rmg_advise_at(&w, s))
            consider_socket(&w, s, done, costs, found);
    if (share_of_timing(&w) >= RMG_CANDIDATE && !is_done(done, RMG_CHANGE_CLOCK, RMG_NO_SOCKET))
        rmg_advise_change(&w,
                          (rmg_change){.kind = RMG_CHANGE_CLOCK,
                                       .socket = RMG_NO_SOCKET,
                                       .other = RMG_NO_SOCKET,
                                       .value = INT64_MIN},
                          costs, found);
    rmg_advise_repairs(&w, costs, found);
    consider_exchange(&w, costs, found);
    rmg_advise_sort(found);
    put_first(found);
    g_free(w.changes);
    *advice_count = found->len;
    *advice = rmg_array_take(found);
}
