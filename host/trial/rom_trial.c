/* What follows from another reading of a ROM: what was found before is found again at the same
 * place, or is gone. */
#include <string.h>

#include "base/internal.h"
#include "rom.h"

#define FOUND_AGAIN 0.98 /* what is still there and would show: found again, */
#define MISSED      0.01 /* ... not found; else something hides it, */
#define NOT_THERE   0.97 /* what is not there: not found; */
#define ALIKE       0.01 /* ... something else looks like it */
#define SELDOM_MISS 0.25 /* what is not steady: not found in all the readings that were made */
#define NO_SIDE     0.5  /* what speaks for no one */
#define NONE_SHOWS  0.8  /* what none of the causes is: still there, whatever was changed */
#define KNOWN_GOOD  0.02 /* a chip that was found good elsewhere; a stretch that was measured */

/* What was found at one place is there again, is not, or cannot be seen for something else. */
typedef enum again { FOUND_SAME, FOUND_GONE, FOUND_HIDDEN } again;

typedef enum sort { SORT_PINS, SORT_CELLS, SORT_NOTHING, SORT_IMAGE } sort;

static sort sort_of(const rmg_suspect *s)
{
    switch (s->is.said) {
    case RMG_SAY_ROM_FADING:
    case RMG_SAY_ROM_BADLY_PROGRAMMED:
    case RMG_SAY_ROM_SCATTERED:
    case RMG_SAY_ROM_UNSTEADY:
        return SORT_CELLS;
    case RMG_SAY_ROM_NOTHING:
    case RMG_SAY_ROM_BLANK:
    case RMG_SAY_ROM_DRIVES_ZEROS:
    case RMG_SAY_ROM_ONES:
    case RMG_SAY_ROM_ZEROS:
        return SORT_NOTHING;
    case RMG_SAY_ROM_DATA_LINE:
    case RMG_SAY_ROM_DATA_LINES:
    case RMG_SAY_ROM_ADDRESS_LINE:
    case RMG_SAY_ROM_ADDRESS_LINES:
    case RMG_SAY_ROM_STRETCH:
    case RMG_SAY_ROM_UNSTEADY_LINE:
        return SORT_PINS;
    default:
        return SORT_IMAGE;
    }
}

bool rmg_rom_is_at_pins(const rmg_suspect *s)
{
    return sort_of(s) == SORT_PINS;
}

static bool is_seldom(const rmg_suspect *s)
{
    return s->is.said == RMG_SAY_ROM_UNSTEADY || s->is.said == RMG_SAY_ROM_UNSTEADY_LINE;
}

/* The pins of a site like "data lines D3 (U5 pin 15) and D4 (U5 pin 16)" as "15 16 "; of one that
 * names a point of a line, "U5.15"; else all of it. To be freed. */
static gchar *pins_of(const rmg_board *board, const rmg_suspect *s)
{
    static const char word[] = " pin ";
    GString *pins = g_string_new(NULL);
    const char *at = s->site;

    while ((at = strstr(at, word)) != NULL) {
        at += strlen(word);
        g_string_append_printf(pins, "%.*s ", (int)strspn(at, "0123456789"), at);
    }
    if (!pins->len && s->is.line < board->line_count && s->is.point != RMG_NO_POINT)
        g_string_printf(pins, "%u ", board->lines[s->is.line].points[s->is.point].pin);
    if (!pins->len)
        g_string_assign(pins, s->site);
    return g_string_free(pins, FALSE);
}

static bool same_place(const rmg_board *board, const rmg_suspect *a, const rmg_suspect *b)
{
    const sort of = sort_of(a);
    bool same = sort_of(b) == of;

    if (same && of == SORT_PINS) {
        gchar *x = pins_of(board, a), *y = pins_of(board, b);

        same = strcmp(x, y) == 0;
        g_free(x);
        g_free(y);
    }
    if (same && of == SORT_IMAGE)
        same = a->is.said == b->is.said && strcmp(a->kind, b->kind) == 0;
    return same;
}

/* Is what was found in `base` in the other reading too? */
static again look(const rmg_rom_trial *t, const rmg_suspect *s)
{
    const rmg_suspects *now = &t->after->suspects;
    again found = FOUND_GONE;

    for (size_t i = 0; i < now->count; i++) {
        if (same_place(t->board, s, &now->list[i]))
            return FOUND_SAME;
        if (sort_of(&now->list[i]) >= SORT_NOTHING ||
            (sort_of(s) >= SORT_NOTHING && sort_of(&now->list[i]) == SORT_PINS))
            found = FOUND_HIDDEN; /* where nothing answers, no line can be seen */
    }
    return found;
}

/* Where the chip that was in that socket is now. */
static uint16_t chip_now(const rmg_changes *changes, uint16_t socket)
{
    return socket == RMG_NO_SOCKET || !changes
               ? socket
               : rmg_chip_now(changes->list, changes->count, socket);
}

bool rmg_rom_verdict_concerns(const rmg_rom_verdict *verdict, const rmg_rom_verdict *base,
                              const rmg_changes *changes)
{
    for (uint16_t s = 0; s < base->socket_count; s++) {
        const uint16_t now = base->sockets[s] ? chip_now(changes, s) : RMG_NO_SOCKET;

        if ((base->sockets[s] && verdict->sockets[s]) ||
            (now != RMG_NO_SOCKET && verdict->sockets[now]))
            return true;
    }
    return false;
}

/* Were all chips of the base read, in their sockets? */
static bool reads_all(const rmg_rom_verdict *verdict, const rmg_rom_verdict *base)
{
    for (uint16_t s = 0; s < base->socket_count; s++)
        if (base->sockets[s] && !verdict->sockets[s])
            return false;
    return true;
}

bool rmg_rom_verdict_covers(const rmg_rom_verdict *verdict, const rmg_rom_verdict *base)
{
    for (size_t i = 0; i < base->suspects.count; i++) {
        const uint16_t socket = base->suspects.list[i].finding.socket;

        if (socket == RMG_NO_SOCKET ? !reads_all(verdict, base) : !verdict->sockets[socket])
            return false;
    }
    return true;
}

/* Could a finding of the base have been found in this reading? */
static bool concerns(const rmg_rom_trial *t, const rmg_suspect *s)
{
    const uint16_t now = chip_now(t->changes, s->finding.socket);

    return s->finding.socket == RMG_NO_SOCKET
               ? reads_all(t->after, t->base)
               : t->after->sockets[s->finding.socket] ||
                     (now != RMG_NO_SOCKET && t->after->sockets[now]);
}

/* How likely the cause, where it is still there, would show in the reading. */
static double shows(const rmg_rom_trial *t, const rmg_hypothesis *h)
{
    const uint16_t now =
        h->belongs == RMG_BELONGS_CHIP ? chip_now(t->changes, h->socket) : h->socket;
    const rmg_rival *r = rmg_rom_rival(t->base, h);

    if (rmg_rom_is_another(t->base, h))
        return now != RMG_NO_SOCKET && !t->after->bare;
    if (r && h->socket != RMG_NO_SOCKET && (now == RMG_NO_SOCKET || !t->after->sockets[now]))
        return 0; /* it was not read there */
    if (t->base->bare)
        return r && r->is.said == RMG_SAY_ADAPTER_CONTACT ? t->after->bare : 1;
    if (t->after->bare)
        return rmg_rom_shows_bare(t->base, h);
    return r ? 1 : NONE_SHOWS;
}

/* That the changes since the reading before have taken it away, and those before it. */
static double gone_now(const rmg_rom_trial *t, const rmg_hypothesis *h)
{
    double stays = 1 - h->gone;

    if (h->belongs == RMG_BELONGS_CHIP && h->socket != RMG_NO_SOCKET &&
        chip_now(t->changes, h->socket) == RMG_NO_SOCKET)
        return 1;
    for (size_t i = t->done; t->changes && i < t->changes->count; i++)
        stays *= 1 - rmg_rom_undone(t->board, t->base, h, &t->changes->list[i]);
    return 1 - stays;
}

static void weigh_one(const rmg_rom_trial *t, const rmg_suspect *s, again found, rmg_hypothesis *h)
{
    const double gone = gone_now(t, h), shown = shows(t, h);
    const double missed = is_seldom(s) ? SELDOM_MISS : MISSED;
    const double there = found == FOUND_SAME ? 1 - missed - (1 - FOUND_AGAIN - MISSED) : missed;
    const double not_there = found == FOUND_SAME ? ALIKE : NOT_THERE;
    const double if_stays = shown * there + (1 - shown) * not_there;
    double fits;

    if (found == FOUND_HIDDEN) {
        h->gone = gone;
        h->fits = NO_SIDE;
        return;
    }
    fits = gone * not_there + (1 - gone) * if_stays;
    h->fits = fits;
    h->gone = fits > 0 ? gone * not_there / fits : gone;
    h->after *= fits;
}

/* What became of all that was found. */
static rmg_outcome outcome_of(const rmg_rom_trial *t)
{
    const rmg_suspects *was = &t->base->suspects, *now = &t->after->suspects;
    size_t same = 0, gone = 0, known = 0, carried = 0, put = 0;

    for (size_t i = 0; i < was->count; i++) {
        const rmg_suspect *s = &was->list[i];
        const bool here =
            s->finding.socket == RMG_NO_SOCKET || t->after->sockets[s->finding.socket];
        const again found = concerns(t, s) ? look(t, s) : FOUND_HIDDEN;

        same += found == FOUND_SAME;
        gone += found == FOUND_GONE;
        carried += found == FOUND_SAME && !here;
        put += found == FOUND_SAME && here &&
               chip_now(t->changes, s->finding.socket) != s->finding.socket;
        for (size_t n = 0; n < now->count; n++)
            known += same_place(t->board, s, &now->list[n]);
    }
    if (!now->count)
        return !gone ? RMG_OUTCOME_PASSED : gone < was->count ? RMG_OUTCOME_LESS : RMG_OUTCOME_GONE;
    if (carried)
        return RMG_OUTCOME_WENT;
    if (put)
        return RMG_OUTCOME_STAYED;
    if (same && known < now->count)
        return RMG_OUTCOME_WORSE;
    if (same)
        return gone ? RMG_OUTCOME_LESS : RMG_OUTCOME_UNCHANGED;
    return RMG_OUTCOME_OTHERWISE;
}

rmg_outcome rmg_rom_weigh(const rmg_rom_trial *t, rmg_hypothesis *list, size_t count)
{
    for (size_t i = 0; i < count; i++)
        list[i].before = list[i].after;
    for (size_t i = 0; i < count && t->after->complete; i++) {
        const rmg_suspect *s =
            list[i].fault < t->base->suspects.count ? &t->base->suspects.list[list[i].fault] : NULL;

        if (s && concerns(t, s))
            weigh_one(t, s, look(t, s), &list[i]);
    }
    rmg_hypotheses_settle(list, count);
    return outcome_of(t);
}

void rmg_rom_measured_weigh(const rmg_board *board, const rmg_rom_verdict *base, uint16_t socket,
                            rmg_measured measured, rmg_hypothesis *list, size_t count)
{
    const rmg_run none = {.board = board};

    rmg_measured_weigh(&none, &base->suspects, socket, measured, list, count);
}

void rmg_rom_facts_weigh(const rmg_rom_verdict *base, const rmg_facts *facts, rmg_hypothesis *list,
                         size_t count)
{
    for (size_t i = 0; i < count; i++) {
        const rmg_rival *r = rmg_rom_rival(base, &list[i]);
        bool open = false;

        if (!r)
            continue;
        for (size_t n = 0; n < facts->open_count; n++)
            open |= facts->open[n].line == r->is.line && r->is.line != RMG_NO_POINT;
        if (list[i].belongs == RMG_BELONGS_CHIP && list[i].socket != RMG_NO_SOCKET &&
            rmg_facts_chip_good(facts, list[i].socket))
            list[i].after *= KNOWN_GOOD;
        if (list[i].belongs == RMG_BELONGS_PLACE && r->is.point != RMG_NO_POINT && !open &&
            rmg_facts_sound(facts, r->is.line, r->is.point, false))
            list[i].after *= KNOWN_GOOD;
        if (open && list[i].belongs != RMG_BELONGS_PLACE && list[i].belongs != RMG_BELONGS_CONTACT)
            list[i].after *= KNOWN_GOOD;
    }
    rmg_hypotheses_settle(list, count);
}

bool rmg_rom_passed_weigh(const rmg_board *board, const rmg_rom_verdict *base,
                          const rmg_change *changes, size_t change_count, rmg_hypothesis *list,
                          size_t count)
{
    rmg_touched *at = g_new0(rmg_touched, board->socket_count + 1u);
    const bool follows = change_count && rmg_touched_by(board, changes, change_count, at);
    bool near = false;

    for (uint16_t s = 0; s < board->socket_count; s++)
        near |= base->sockets[s] && at[s];
    for (size_t i = 0; i < count && follows; i++)
        list[i].after *= rmg_newly_wrong(&list[i], at, near);
    if (follows)
        rmg_hypotheses_settle(list, count);
    g_free(at);
    return follows && count;
}
