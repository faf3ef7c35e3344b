/* What to change next: each change that the board allows, played for every cause that is left; its
 * possible results part the causes more or less, and cost more or less. */
#include <string.h>

#include "base/internal.h"
#include "foresee.h"

#define TELLS 0.02 /* bits: a change that is expected to give less is not worth doing */
#define SETTLED                                                                                    \
    0.9 /* share at which mending it is the next step, whatever else could be learnt               \
         */

/* What belongs together is one thing to mend: the chip, the contact and the track of one socket are
 * three. */
static void tell_result(const playing *w, const rmg_foreseen *r, rmg_forecast *f)
{
    double best = 0;

    *f = (rmg_forecast){.outcome = r->outcome, .chance = r->chance};
    for (rmg_belongs b = RMG_BELONGS_CHIP; b <= RMG_BELONGS_UNKNOWN; b++) {
        double share = 0;

        for (size_t i = 0; i < w->count; i++)
            if (w->list[i].belongs == b)
                share += r->shares[i];
        if (share > best) {
            best = share;
            f->belongs = b;
            f->share = share / r->chance;
        }
    }
}

/* What a change is worth. */
static bool weigh(playing *w, const rmg_change *change, const rmg_cost_table *costs,
                  rmg_advice *advice)
{
    const rmg_mount mount = change->socket == RMG_NO_SOCKET
                                ? RMG_MOUNT_SOCKET
                                : w->run->board->sockets[change->socket].mount;
    unsigned fault = 0;
    double bits;
    GArray *results = rmg_playing_results(w, change, &fault, &bits);

    *advice =
        (rmg_advice){.change = *change, .cost = costs->costs[change->kind][mount], .bits = bits};
    for (guint n = 0; results && n < results->len && n < RMG_FORECASTS; n++) {
        const rmg_foreseen *r = &g_array_index(results, result, n).is;

        if (r->chance > 0.005)
            tell_result(w, r, &advice->results[advice->result_count++]);
    }
    if (results)
        rmg_playing_free_results(results);
    return advice->cost.minutes >= 0;
}

static double price(const rmg_cost *cost)
{
    return cost->minutes + cost->damage * RMG_DAMAGE_MINUTES + 1; /* and the test afterwards */
}

static gint by_worth(gconstpointer a, gconstpointer b)
{
    const rmg_advice *x = a, *y = b;
    const bool x_sure = x->settles && x->share >= SETTLED,
               y_sure = y->settles && y->share >= SETTLED;

    if (x_sure != y_sure)
        return x_sure ? -1 : 1;
    if (x->settles != y->settles) /* what tells more comes before what only may mend */
        return x->settles ? 1 : -1;
    return x->settles ? rmg_by_real(y->share / price(&y->cost), x->share / price(&x->cost))
                      : rmg_by_real(y->bits / price(&y->cost), x->bits / price(&x->cost));
}

/* A sound socket whose chip could be changed for that one's; RMG_NO_SOCKET: none. */
static uint16_t partner(const playing *w, uint16_t socket)
{
    const rmg_board *board = w->run->board;
    uint16_t best = RMG_NO_SOCKET;

    for (uint16_t s = 0; s < board->socket_count; s++)
        if (s != socket && board->sockets[s].part == board->sockets[socket].part &&
            board->sockets[s].mount == RMG_MOUNT_SOCKET && !w->before[s] &&
            (best == RMG_NO_SOCKET || ABS((int)s - socket) < ABS((int)best - socket)))
            best = s;
    return best;
}

void rmg_advise_change(playing *w, rmg_change change, const rmg_cost_table *costs, GArray *list)
{
    rmg_advice one;

    change.bank = RMG_NO_BANK;
    change.value = INT64_MIN;
    if (weigh(w, &change, costs, &one) && one.bits >= TELLS)
        g_array_append_val(list, one);
}

/* What is mended together: a chip; a contact and the track at a pin; a line; a select. */
static bool mended_with(const rmg_hypothesis *a, const rmg_hypothesis *b)
{
    const bool joint = a->belongs == RMG_BELONGS_CONTACT || a->belongs == RMG_BELONGS_PLACE,
               other = b->belongs == RMG_BELONGS_CONTACT || b->belongs == RMG_BELONGS_PLACE;

    return a->rival != SIZE_MAX && b->rival != SIZE_MAX && a->fault == b->fault &&
           a->socket == b->socket && (joint ? other : a->belongs == b->belongs) &&
           (a->socket != RMG_NO_SOCKET || a->suspect == b->suspect);
}

/* The repair of a cause, as a change; false: it is none that can be told. */
static bool repair_of(const playing *w, const rmg_hypothesis *h, rmg_change *c)
{
    const rmg_board *board = w->run->board;
    const rmg_finding *f =
        h->suspect < w->suspects->count ? &w->suspects->list[h->suspect].finding : NULL;
    const uint16_t at = rmg_playing_socket_now(w, h);

    *c = (rmg_change){.kind = RMG_CHANGE_REPAIR,
                      .socket = RMG_NO_SOCKET,
                      .other = RMG_NO_SOCKET,
                      .bank = RMG_NO_BANK,
                      .value = INT64_MIN};
    if (!f || h->rival == SIZE_MAX || h->belongs == RMG_BELONGS_UNKNOWN ||
        (h->belongs == RMG_BELONGS_CHIP && at == RMG_NO_SOCKET))
        return false;
    if (h->belongs == RMG_BELONGS_CHIP) {
        c->kind = RMG_CHANGE_REPLACE;
        c->socket = at;
    } else if (h->belongs == RMG_BELONGS_CONTACT || h->belongs == RMG_BELONGS_PLACE) {
        c->socket = at;
        return at != RMG_NO_SOCKET;
    } else if (h->belongs == RMG_BELONGS_LINE && f->point != RMG_NO_POINT &&
               f->line < board->line_count) {
        c->text = g_strdup_printf("%s at %s", board->lines[f->line].name,
                                  board->lines[f->line].points[f->point].name);
    } else {
        c->text = g_strdup(rmg_belongs_name(h->belongs));
    }
    return true;
}

/* Repairs, one for what is mended together. */
void rmg_advise_repairs(const playing *w, const rmg_cost_table *costs, GArray *list)
{
    for (size_t i = 0; i < w->count; i++) {
        rmg_advice one = {.settles = true};
        bool told = false;
        rmg_mount mount;

        for (size_t n = 0; n < i; n++)
            told |= mended_with(&w->list[n], &w->list[i]);
        for (size_t n = 0; n < w->count; n++)
            one.share += mended_with(&w->list[i], &w->list[n]) ? w->list[n].after : 0;
        if (w->fault_count > 1 && rmg_fault_gone(w->list, w->count, w->list[i].fault) >= RMG_GONE)
            continue;
        if (told || one.share < RMG_CANDIDATE || !repair_of(w, &w->list[i], &one.change))
            continue;
        mount = one.change.socket != RMG_NO_SOCKET ? w->run->board->sockets[one.change.socket].mount
                                                   : RMG_MOUNT_SOCKET;
        one.cost = costs->costs[one.change.kind][mount];
        if (one.cost.minutes >= 0)
            g_array_append_val(list, one);
        else
            g_free(one.change.text);
    }
}

/* Changes at a socket that some cause is at. */
static void consider_socket(playing *w, uint16_t s, const rmg_cost_table *costs, GArray *list)
{
    const rmg_board *board = w->run->board;
    const uint16_t other = partner(w, s);

    rmg_advise_change(w, (rmg_change){.kind = RMG_CHANGE_LIFT, .socket = s, .other = RMG_NO_SOCKET},
                      costs, list);
    rmg_advise_change(w,
                      (rmg_change){.kind = RMG_CHANGE_MEASURE, .socket = s, .other = RMG_NO_SOCKET},
                      costs, list);
    rmg_advise_change(w, (rmg_change){.kind = RMG_CHANGE_HOLD, .socket = s, .other = RMG_NO_SOCKET},
                      costs, list);
    if (board->sockets[s].mount != RMG_MOUNT_SOCKET)
        return;
    rmg_advise_change(w,
                      (rmg_change){.kind = RMG_CHANGE_RESEAT, .socket = s, .other = RMG_NO_SOCKET},
                      costs, list);
    rmg_advise_change(w, (rmg_change){.kind = RMG_CHANGE_PULL, .socket = s, .other = RMG_NO_SOCKET},
                      costs, list);
    if (other != RMG_NO_SOCKET)
        rmg_advise_change(w, (rmg_change){.kind = RMG_CHANGE_SWAP, .socket = s, .other = other},
                          costs, list);
    else
        rmg_advise_change(w,
                          (rmg_change){.kind = RMG_CHANGE_FIT, .socket = s, .other = RMG_NO_SOCKET},
                          costs, list);
}

/* Is some cause of a fault that is still there at that socket? */
bool rmg_advise_at(const playing *w, uint16_t socket)
{
    for (unsigned f = 0; f < w->fault_count; f++) {
        double share = 0;

        for (size_t i = 0; i < w->count; i++)
            if (w->list[i].fault == f && rmg_playing_socket_now(w, &w->list[i]) == socket)
                share += w->list[i].after;
        if (share >= RMG_CANDIDATE &&
            (w->fault_count == 1 || rmg_fault_gone(w->list, w->count, f) < RMG_GONE))
            return true;
    }
    return false;
}

void rmg_advise_sort(GArray *list)
{
    g_array_sort(list, by_worth);
}

void rmg_advise(const rmg_run *run, const rmg_suspects *suspects, const rmg_hypothesis *list,
                size_t count, const rmg_changes *done, const rmg_cost_table *costs,
                rmg_advice **advice, size_t *advice_count)
{
    GArray *found = g_array_new(FALSE, TRUE, sizeof(rmg_advice));
    rmg_stage stage;
    playing w;

    if (rmg_playing_begin(&w, run, suspects, list, count, done, &stage)) {
        for (uint16_t s = 0; s < run->board->socket_count; s++) {
            if (rmg_advise_at(&w, s))
                consider_socket(&w, s, costs, found);
        }
        rmg_advise_repairs(&w, costs, found);
    }
    rmg_playing_end(&w);
    rmg_advise_sort(found);
    *advice_count = found->len;
    *advice = rmg_array_take(found);
}

void rmg_advice_free(rmg_advice *advice, size_t count)
{
    for (size_t i = 0; i < count; i++)
        g_free(advice[i].change.text);
    g_free(advice);
}
