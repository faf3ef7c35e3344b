#include "trial_world.h"

#include <string.h>

const world_odds world_supposed = {.cleaned = 70, .open = 92, .open_seldom = 30, .held_short = 25},
                 world_otherwise = {
                     .alike = true, .cleaned = 45, .open = 75, .open_seldom = 15, .held_short = 45};

/* One test of the world as it is; `found`: with suspects, replayed. */
void world_test(world *w, diag_case *c, bool diagnose)
{
    memset(c, 0, sizeof *c);
    c->board = w->board;
    c->passes = w->passes;
    c->world = diag_roll(&w->dice, 1000000);
    if (w->there && (w->owner != OF_CHIP || w->socket != RMG_NO_SOCKET)) {
        rmg_sim_fault f = w->fault;

        if (w->owner == OF_CHIP && f.chip != w->socket) {
            f.chip = w->socket;
            memset(f.scope, 0, sizeof f.scope);
            rmg_fault_include(&f, w->socket);
        }
        c->faults[c->fault_count++] = f;
    }
    if (w->pulled != RMG_NO_SOCKET) {
        rmg_sim_fault f = {.kind = RMG_FAULT_MISSING, .chip = w->pulled};

        rmg_fault_include(&f, w->pulled);
        c->faults[c->fault_count++] = f;
    }
    diag_case_run(c, diagnose);
}

/* Contacts of a socket are made anew. */
void world_touch(world *w, uint16_t socket)
{
    if (w->owner == OF_CONTACT && w->fault.chip == socket &&
        diag_roll(&w->dice, 100) < w->odds->cleaned)
        w->there = false;
}

/* Does the change in truth; a chip that was only pulled is put back afterwards. */
void world_apply(world *w, const rmg_change *c, outcome *o)
{
    switch (c->kind) {
    case RMG_CHANGE_SWAP:
        if (w->owner == OF_CHIP && (w->socket == c->socket || w->socket == c->other))
            w->socket = w->socket == c->socket ? c->other : c->socket;
        world_touch(w, c->socket);
        world_touch(w, c->other);
        break;
    case RMG_CHANGE_RESEAT:
        world_touch(w, c->socket);
        break;
    case RMG_CHANGE_PULL:
        w->pulled = c->socket;
        break;
    case RMG_CHANGE_FIT:
    case RMG_CHANGE_REPLACE:
        if (w->owner == OF_CHIP && w->socket == c->socket) {
            w->socket = RMG_NO_SOCKET;
            w->there = false;
        } else if (c->kind == RMG_CHANGE_REPLACE) {
            o->sound_replaced = true;
        }
        world_touch(w, c->socket);
        break;
    default: /* on top: gives what the chip beneath does not drive */
        break;
    }
}

/* What is seen in truth: by a meter, or with the pin lifted. */
rmg_measured world_measure(world *w, uint16_t socket, bool lifted)
{
    const bool here = w->there && w->fault.chip == socket && w->owner != OF_LINE;

    if (lifted)
        return w->there && w->owner == OF_CHIP && w->socket == socket ? RMG_MEASURED_CHIP_BAD
                                                                      : RMG_MEASURED_PAD_BAD;
    if (here && w->owner == OF_CONTACT)
        return diag_roll(&w->dice, 100) < (w->seldom ? w->odds->open_seldom : w->odds->open)
                   ? RMG_MEASURED_OPEN
                   : RMG_MEASURED_WHOLE;
    if (here && w->owner == OF_PLACE && w->seldom)
        return diag_roll(&w->dice, 100) < w->odds->open_seldom ? RMG_MEASURED_OPEN
                                                               : RMG_MEASURED_WHOLE;
    if (here && w->owner == OF_PLACE)
        return w->fault.kind == RMG_FAULT_OUTPUT || w->fault.kind == RMG_FAULT_DATA_LINE ||
                       w->fault.kind == RMG_FAULT_LINE_STUCK
                   ? RMG_MEASURED_SHORT
                   : RMG_MEASURED_OPEN;
    if (w->owner == OF_CHIP && w->socket == socket && w->fault.kind == RMG_FAULT_OUTPUT &&
        diag_roll(&w->dice, 100) < w->odds->held_short)
        return RMG_MEASURED_SHORT;
    return RMG_MEASURED_WHOLE;
}

/* Is the cause the fault's own line, select or supply? */
static bool is_it(const world *w, const diag_case *base, const rmg_hypothesis *cause)
{
    const rmg_suspect *s = cause && cause->suspect < base->suspects.count
                               ? &base->suspects.list[cause->suspect]
                               : NULL;

    return s && (diag_place_right(base, s, w->kind, &w->fault) ||
                 (cause->rival < s->rival_count &&
                  diag_rival_right(&s->rivals[cause->rival], w->kind, &w->fault)));
}

void world_mend(world *w, const diag_case *base, const rmg_change *c, const rmg_hypothesis *cause,
                double share, outcome *o)
{
    const bool before = o->sound_replaced;

    if (c->kind == RMG_CHANGE_REPLACE) {
        world_apply(w, c, o);
        o->sure_and_wrong |= o->sound_replaced && !before && share > 0.95;
    } else if (c->socket != RMG_NO_SOCKET) { /* at one socket */
        if ((w->owner == OF_CONTACT || w->owner == OF_PLACE) && w->fault.chip == c->socket)
            w->there = false;
    } else if (w->owner == OF_LINE && is_it(w, base, cause)) {
        w->there = false;
    }
}
