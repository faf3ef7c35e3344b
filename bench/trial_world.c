#include "trial_world.h"

#include <string.h>

const world_odds world_supposed = {.cleaned = 70, .open = 92, .open_seldom = 30, .held_short = 25},
                 world_misread = {.cleaned = 70,
                                  .open = 92,
                                  .open_seldom = 30,
                                  .held_short = 25,
                                  .misread = 2},
                 world_otherwise = {
                     .alike = true, .cleaned = 45, .open = 75, .open_seldom = 15, .held_short = 45};

/* Is it in the board? */
static bool is_there(const defect *d)
{
    return d->there && (d->owner == OF_CHIP   ? d->socket != RMG_NO_SOCKET
                        : d->owner == OF_BOTH ? d->socket == d->fault.chip
                                              : true);
}

bool world_is_bad(const world *w)
{
    for (unsigned i = 0; i < w->count; i++)
        if (is_there(&w->of[i]))
            return true;
    return false;
}

bool world_covers(const world *w, const defect *d)
{
    bool covered = false;

    for (unsigned i = 0; i < w->held_count; i++)
        covered |= w->held[i] == d->socket;
    return covered && (d->owner == OF_CHIP || d->owner == OF_BOTH) &&
           rmg_fault_is(d->fault.kind, RMG_TRAIT_UNDRIVEN);
}

static void put_defect(const defect *d, diag_case *c)
{
    rmg_sim_fault f = d->fault;

    if (d->owner == OF_CHIP && f.chip != d->socket) {
        f.chip = d->socket;
        memset(f.scope, 0, sizeof f.scope);
        rmg_fault_include(&f, d->socket);
    }
    c->faults[c->fault_count++] = f;
    for (unsigned i = 0; i < d->also_count; i++)
        c->faults[c->fault_count++] = d->also[i];
}

void world_test(world *w, diag_case *c, bool diagnose)
{
    memset(c, 0, sizeof *c);
    c->board = w->board;
    c->passes = w->passes;
    c->world = diag_roll(&w->dice, 1000000);
    c->when = w->when;
    c->time = w->time;
    for (unsigned i = 0; i < w->count; i++)
        if (is_there(&w->of[i]) && !world_covers(w, &w->of[i]))
            put_defect(&w->of[i], c);
    if (w->pulled != RMG_NO_SOCKET) {
        rmg_sim_fault f = {.kind = RMG_FAULT_MISSING, .chip = w->pulled};

        rmg_fault_include(&f, w->pulled);
        c->faults[c->fault_count++] = f;
    }
    diag_case_run(c, diagnose);
}

bool world_shows(const world *w)
{
    bool shows = true;

    for (unsigned i = 0; i < w->count && shows; i++) {
        world alone = *w;
        diag_case c;

        alone.of[0] = w->of[i];
        alone.count = 1;
        world_test(&alone, &c, false);
        shows = rmg_run_failed(&c.run);
        diag_case_end(&c);
    }
    return shows;
}

/* Does it go with a chip? */
static bool goes(const defect *d)
{
    return d->owner == OF_CHIP || d->owner == OF_BOTH;
}

/* Contacts of a socket are made anew. */
void world_touch(world *w, uint16_t socket)
{
    for (unsigned i = 0; i < w->count; i++)
        if (w->of[i].owner == OF_CONTACT && w->of[i].fault.chip == socket &&
            diag_roll(&w->dice, 100) < w->odds->cleaned)
            w->of[i].there = false;
}

static void swap_chips(world *w, uint16_t a, uint16_t b)
{
    for (unsigned i = 0; i < w->count; i++)
        if (goes(&w->of[i]) && (w->of[i].socket == a || w->of[i].socket == b))
            w->of[i].socket = w->of[i].socket == a ? b : a;
    world_touch(w, a);
    world_touch(w, b);
}

/* Another chip into a socket; was the old one sound? */
static bool replace(world *w, uint16_t socket)
{
    bool sound = true;

    for (unsigned i = 0; i < w->count; i++)
        if (goes(&w->of[i]) && w->of[i].socket == socket && w->of[i].there) {
            w->of[i].socket = RMG_NO_SOCKET;
            w->of[i].there = false;
            sound = false;
        }
    world_touch(w, socket);
    return sound;
}

/* Does the change in truth; a chip that was only pulled is put back afterwards. */
void world_apply(world *w, const rmg_change *c, outcome *o)
{
    switch (c->kind) {
    case RMG_CHANGE_SWAP:
        swap_chips(w, c->socket, c->other);
        break;
    case RMG_CHANGE_RESEAT:
        world_touch(w, c->socket);
        break;
    case RMG_CHANGE_PULL:
        w->pulled = c->socket;
        break;
    case RMG_CHANGE_FIT:
        (void)replace(w, c->socket);
        break;
    case RMG_CHANGE_REPLACE:
        o->sound_replaced |= replace(w, c->socket);
        break;
    case RMG_CHANGE_HOLD:
        if (w->held_count < 2)
            w->held[w->held_count++] = c->socket;
        break;
    default:
        break;
    }
}

/* At the pins of one socket, power off, of one defect. */
static rmg_measured meter(world *w, const defect *d, uint16_t socket)
{
    const bool here =
        d->there && d->fault.chip == socket && (d->owner == OF_CONTACT || d->owner == OF_PLACE);

    if (here && w->seldom)
        return diag_roll(&w->dice, 100) < w->odds->open_seldom ? RMG_MEASURED_OPEN
                                                               : RMG_MEASURED_WHOLE;
    if (here && d->owner == OF_CONTACT)
        return diag_roll(&w->dice, 100) < w->odds->open ? RMG_MEASURED_OPEN : RMG_MEASURED_WHOLE;
    if (here)
        return d->fault.kind == RMG_FAULT_OUTPUT || d->fault.kind == RMG_FAULT_DATA_LINE ||
                       d->fault.kind == RMG_FAULT_LINE_STUCK
                   ? RMG_MEASURED_SHORT
                   : RMG_MEASURED_OPEN;
    if (d->owner == OF_CHIP && d->socket == socket && d->fault.kind == RMG_FAULT_OUTPUT &&
        diag_roll(&w->dice, 100) < w->odds->held_short)
        return RMG_MEASURED_SHORT;
    return RMG_MEASURED_WHOLE;
}

/* What is seen in truth: by a meter, or with the pin lifted. */
rmg_measured world_measure(world *w, uint16_t socket, bool lifted)
{
    rmg_measured seen = lifted ? RMG_MEASURED_PAD_BAD : RMG_MEASURED_WHOLE;

    for (unsigned i = 0; i < w->count; i++) {
        const defect *d = &w->of[i];

        if (!lifted && seen == RMG_MEASURED_WHOLE)
            seen = meter(w, d, socket);
        if (lifted && d->there && goes(d) && d->socket == socket)
            seen = RMG_MEASURED_CHIP_BAD;
    }
    if (w->odds->misread && diag_roll(&w->dice, 100) < w->odds->misread)
        return lifted
                   ? (seen == RMG_MEASURED_CHIP_BAD ? RMG_MEASURED_PAD_BAD : RMG_MEASURED_CHIP_BAD)
                   : (rmg_measured)((seen + 1u + diag_roll(&w->dice, 2)) % 3u);
    return seen;
}

/* Is a repair of that sort one of the defect? Of what comes and goes a bank is named, and the sort
 * of line is what tells where to look. */
static bool of_its_sort(const defect *d, const rmg_hypothesis *cause)
{
    const bool lines = d->kind->truth == TRUTH_LINES;

    return cause->belongs == (lines ? RMG_BELONGS_LINE : RMG_BELONGS_SELECT);
}

/* Is the cause the defect's own line, select or supply? */
static bool is_it(const world *w, const defect *d, const diag_case *base,
                  const rmg_hypothesis *cause)
{
    diag_kind kind = *d->kind;
    const rmg_suspect *s = cause && cause->suspect < base->suspects.count
                               ? &base->suspects.list[cause->suspect]
                               : NULL;

    if (d->owner == OF_SUPPLY)
        return s && cause->belongs == RMG_BELONGS_SUPPLY &&
               (s->finding.bank == d->fault.bank || s->finding.socket == RMG_NO_SOCKET);
    kind.when = w->when;
    if (s && w->when == WHEN_WARM && d->kind->truth == TRUTH_SELECT &&
        s->finding.kind == RMG_FINDING_NOW_AND_THEN && s->finding.of == RMG_FINDING_BANK_SILENT)
        return cause->belongs == RMG_BELONGS_SELECT &&
               (s->finding.bank == RMG_NO_BANK || s->finding.bank == d->fault.bank ||
                s->finding.bank == d->fault.bank2);
    if (s && s->finding.kind == RMG_FINDING_NOW_AND_THEN &&
        s->finding.of == RMG_FINDING_BANK_SILENT && !of_its_sort(d, cause))
        return false;
    return s && (diag_place_right(base, s, &kind, &d->fault) ||
                 (cause->rival < s->rival_count &&
                  diag_rival_right(&s->rivals[cause->rival], &kind, &d->fault)));
}

void world_mend(world *w, const diag_case *base, const rmg_change *c, const rmg_hypothesis *cause,
                double share, outcome *o)
{
    const bool before = o->sound_replaced;

    if (c->kind == RMG_CHANGE_REPLACE) {
        world_apply(w, c, o);
        o->sure_and_wrong |= o->sound_replaced && !before && share > 0.95;
        return;
    }
    for (unsigned i = 0; i < w->count; i++) {
        defect *d = &w->of[i];

        if (c->socket != RMG_NO_SOCKET) { /* at one socket */
            if ((d->owner == OF_CONTACT || d->owner == OF_PLACE) && d->fault.chip == c->socket)
                d->there = false;
        } else if ((d->owner == OF_LINE || d->of_line || d->owner == OF_SUPPLY) &&
                   is_it(w, d, base, cause)) {
            d->there = false;
        }
    }
}
