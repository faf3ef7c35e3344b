/* Findings of ROMs: what was read, what it can be, and what shows it. */
#include "rimeglass/verify.h"
#include "base/internal.h"

#include <glib.h>
#include <string.h>

#include "find.h"

static rmg_rom_finding begin(const rmg_rom_case *rc)
{
    rmg_rom_finding w = {.rc = rc,
                         .bit = UINT8_MAX,
                         .facts = rc->facts,
                         .reasons = g_array_new(FALSE, TRUE, sizeof(rmg_saying)),
                         .steps = g_array_new(FALSE, TRUE, sizeof(rmg_saying)),
                         .rivals = g_array_new(FALSE, TRUE, sizeof(rmg_rival))};

    w.socket = rc->rom->socket;
    if (rc->rom->bare)
        w.socket = rmg_board_socket(rc->board, rc->rom->board->sockets[0].name);
    if (w.socket != RMG_NO_SOCKET)
        w.soldered = rc->board->sockets[w.socket].mount != RMG_MOUNT_SOCKET;
    w.s.finding.socket = w.socket;
    w.s.finding.bank = w.s.finding.bank2 = RMG_NO_BANK;
    w.s.finding.point = RMG_NO_POINT;
    return w;
}

static void settle(rmg_rom_finding *w, GArray *list)
{
    wording known = {.facts = w->facts,
                     .board = w->rc->board,
                     .s = &w->s,
                     .reasons = w->reasons,
                     .steps = w->steps,
                     .rivals = w->rivals};

    if (w->rivals->len)
        rmg_rule_out(&known);
    w->s.rival_count = w->rivals->len - w->s.ruled_count;
    w->s.rivals = rmg_array_take(w->rivals);
    w->s.reason_count = w->reasons->len;
    w->s.reasons = rmg_array_take(w->reasons);
    w->s.step_count = w->steps->len;
    w->s.steps = rmg_array_take(w->steps);
    g_array_append_val(list, w->s);
}

typedef void (*describe)(rmg_rom_finding *w, const void *what);

static void add(const rmg_rom_case *rc, describe how, const void *what, GArray *list)
{
    rmg_rom_finding w = begin(rc);

    how(&w, what);
    settle(&w, list);
}

/* Is nearly all that no line explains unsteady? Then it is reported as that. */
static bool left_unsteady(const rmg_comparison *c)
{
    return c->left_unsteady >= c->left - c->left / 10u;
}

static void compared(const rmg_rom_case *rc, GArray *list)
{
    const rmg_comparison *c = rc->comparison;

    for (size_t i = 0; i < c->step_count; i++)
        add(rc, rmg_romfind_step, &c->steps[i], list);
    if (c->left && !left_unsteady(c))
        add(rc, rmg_romfind_left, c, list);
}

static gint surest(gconstpointer a, gconstpointer b)
{
    const rmg_suspect *x = a, *y = b;

    return rmg_by_real(y->explained, x->explained);
}

/* One finding for each chip of a region that does not answer, where that is not as it should be. */
static void silent_chips(const rmg_rom_case *rc, GArray *list)
{
    rmg_word left = rc->quality->silent;

    for (uint8_t bit = 0; left && bit < rc->rom->bits; bit++) {
        rmg_rom_finding w;
        rmg_quality q = *rc->quality;
        uint64_t wrong = 0;
        uint16_t socket;
        uint8_t pin;

        if (!(left >> bit & 1u))
            continue;
        rmg_rom_bit_pin(rc->rom, bit, &socket, &pin);
        for (uint8_t i = bit; i < rc->rom->bits; i++) {
            uint16_t other;

            rmg_rom_bit_pin(rc->rom, i, &other, &pin);
            if (other != socket)
                continue;
            left &= ~((rmg_word)1 << i);
            if (rc->comparison)
                wrong += rc->comparison->by_bit[i][0] + rc->comparison->by_bit[i][1];
        }
        if (rc->comparison && !wrong)
            continue;
        q.state = q.follows >> bit & 1u          ? RMG_READ_NOTHING
                  : q.constant_level >> bit & 1u ? RMG_READ_ONES
                                                 : RMG_READ_ZEROS;
        w = begin(rc);
        w.bit = bit;
        w.socket = w.s.finding.socket = socket;
        w.soldered = rc->board->sockets[socket].mount != RMG_MOUNT_SOCKET;
        rmg_romfind_nothing(&w, &q);
        settle(&w, list);
    }
}

static void find(const rmg_rom_case *rc, rmg_suspects *suspects)
{
    const rmg_quality *q = rc->quality;
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_suspect));

    if (q->state == RMG_READ_NOTHING ||
        (q->state == RMG_READ_ONES && (!rc->comparison || rc->comparison->wrong_bits)) ||
        (q->state == RMG_READ_ZEROS && (!rc->comparison || rc->comparison->wrong_bits))) {
        add(rc, rmg_romfind_nothing, q, list);
    } else if (q->state != RMG_READ_NONE) {
        silent_chips(rc, list);
        if (rc->comparison)
            compared(rc, list);
        else
            rmg_romfind_plausible(rc, add, list);
        if (q->unsteady_bits && (!rc->comparison || (rc->comparison->left_touched > 0 &&
                                                     left_unsteady(rc->comparison))))
            add(rc, rmg_romfind_unsteady, q, list);
        g_array_sort(list, surest);
    }
    suspects->count = list->len;
    suspects->list = rmg_array_take(list);
}

void rmg_rom_suspects(const rmg_rom_case *rom_case, rmg_suspects *suspects)
{
    rmg_rom_case rc = *rom_case;
    rmg_facts none;

    rmg_facts_begin(&none);
    if (!rc.facts)
        rc.facts = &none;
    find(&rc, suspects);
    rmg_facts_end(&none);
}
