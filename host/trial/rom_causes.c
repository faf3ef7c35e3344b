/* Causes of what is wrong with a ROM: what each belongs to, whether it shows on the chip's own
 * pins, and what a change makes of it. The chances are in docs/trials.md. */
#include <string.h>

#include "base/internal.h"
#include "rom.h"

#define UNTHOUGHT    0.03 /* share of what none of the causes is, at least */
#define SHOWS        0.99 /* that a chip's own fault shows on its own pins, */
#define SHOWS_NOT    0.02 /* ... what is the board's, */
#define SLOW_SHOWS   0.1  /* ... a chip that is too slow, which is read slowly there, */
#define EITHER_SHOWS 0.5  /* ... or what may be either */
#define BY_CLOCK     0.85 /* that another clock takes away what is about time, */
#define BY_SUPPLY    0.3  /* ... another supply */
#define BY_LIMITS    0.7  /* ... either, what is about the limits of a chip */
#define BY_JUMPER    0.6
#define BY_HOLDING   0.5 /* a chip on top gives what the one beneath does not drive */
#define BY_EXCHANGE  0.97

/* What those that are in no table of causes belong to. */
static rmg_belongs belongs_by_saying(rmg_said said)
{
    switch (said) {
    case RMG_SAY_CHIP_ITSELF_AT:
    case RMG_SAY_CHIP_ITSELF:
    case RMG_SAY_PROGRAMMED_CROSSED:
    case RMG_SAY_SMALLER_OR_REPEATED:
    case RMG_SAY_ANOTHER_VERSION:
    case RMG_SAY_EXCHANGED_SOCKETS:
    case RMG_SAY_SPLIT_EXCHANGED:
    case RMG_SAY_PARTS_EXCHANGED:
    case RMG_SAY_WRONG_OFFSET:
    case RMG_SAY_WEAKLY_PROGRAMMED:
    case RMG_SAY_STOPPED_EARLY:
    case RMG_SAY_BLOCK_NOT_PROGRAMMED:
    case RMG_SAY_ANOTHER_BUILD:
    case RMG_SAY_FILE_DAMAGED:
    case RMG_SAY_HALF_PROGRAMMED:
    case RMG_SAY_OTHER_BOARD:
    case RMG_SAY_UNKNOWN_IMAGE:
    case RMG_SAY_ERASED:
    case RMG_SAY_HOLDS_ZEROS:
    case RMG_SAY_TOO_SLOW:
        return RMG_BELONGS_CHIP;
    case RMG_SAY_CONTACT_AT:
    case RMG_SAY_JOINT_AT:
    case RMG_SAY_SUPPLY_CONTACTS:
    case RMG_SAY_LINES_NOT_CONNECTED:
    case RMG_SAY_SEATED_BADLY:
    case RMG_SAY_EMPTY_OR_SEATED:
        return RMG_BELONGS_CONTACT;
    case RMG_SAY_BOARD_CROSSES:
    case RMG_SAY_CROSSED_IN_REPAIR:
    case RMG_SAY_WRONG_HALF:
    case RMG_SAY_JUMPER_OR_INVERTER:
    case RMG_SAY_BOARD_NOT_AS_TOLD:
        return RMG_BELONGS_PLACE;
    case RMG_SAY_HALF_NOT_ENABLED:
    case RMG_SAY_NOT_ENABLED:
    case RMG_SAY_ENABLE_LATE:
        return RMG_BELONGS_SELECT;
    case RMG_SAY_OUTSIDE_LIMITS:
    case RMG_SAY_NOISE_ON_LINES:
    case RMG_SAY_NOISE_ON_LINE:
    case RMG_SAY_LINE_NOISE:
        return RMG_BELONGS_SUPPLY;
    default:
        return RMG_BELONGS_UNKNOWN;
    }
}

static rmg_belongs belongs_of(const rmg_rom_verdict *base, const rmg_rival *r)
{
    if (r->is.socket != RMG_NO_SOCKET && !base->sockets[r->is.socket])
        return RMG_BELONGS_CHIP; /* another one, on the same lines */
    return r->cause < RMG_CAUSES ? rmg_cause_belongs(r->cause) : belongs_by_saying(r->is.said);
}

const rmg_rival *rmg_rom_rival(const rmg_rom_verdict *base, const rmg_hypothesis *h)
{
    const rmg_suspect *s =
        h->suspect < base->suspects.count ? &base->suspects.list[h->suspect] : NULL;

    return s && h->rival < s->rival_count ? &s->rivals[h->rival] : NULL;
}

/* Is the chip of the finding told? Of a single chip that was read it is that one. */
static uint16_t socket_of(const rmg_rom_verdict *base, const rmg_suspect *s, const rmg_rival *r)
{
    uint16_t only = RMG_NO_SOCKET;
    unsigned count = 0;

    for (uint16_t i = 0; i < base->socket_count; i++)
        if (base->sockets[i]) {
            only = i;
            count++;
        }
    return r->is.socket != RMG_NO_SOCKET        ? r->is.socket
           : s->finding.socket != RMG_NO_SOCKET ? s->finding.socket
           : count == 1                         ? only
                                                : RMG_NO_SOCKET;
}

rmg_hypothesis *rmg_rom_hypotheses(const rmg_rom_verdict *base, size_t *count)
{
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_hypothesis));
    rmg_hypothesis *all;

    for (size_t i = 0; i < base->suspects.count; i++) {
        const rmg_suspect *s = &base->suspects.list[i];
        rmg_hypothesis none = {.suspect = base->suspects.count,
                               .rival = SIZE_MAX,
                               .fault = (unsigned)i,
                               .socket = RMG_NO_SOCKET,
                               .belongs = RMG_BELONGS_UNKNOWN,
                               .after = MAX(UNTHOUGHT, 1 - s->confidence)};

        for (size_t r = 0; r < s->rival_count; r++) {
            const rmg_hypothesis h = {.suspect = i,
                                      .rival = r,
                                      .fault = (unsigned)i,
                                      .socket = socket_of(base, s, &s->rivals[r]),
                                      .belongs = belongs_of(base, &s->rivals[r]),
                                      .after = s->confidence * s->rivals[r].share};

            if (h.after > 0)
                g_array_append_val(list, h);
        }
        g_array_append_val(list, none);
    }
    *count = list->len;
    all = rmg_array_take(list);
    rmg_hypotheses_settle(all, *count);
    for (size_t i = 0; i < *count; i++)
        all[i].before = all[i].after;
    return all;
}

bool rmg_rom_is_timing(const rmg_rom_verdict *base, const rmg_hypothesis *h)
{
    const rmg_rival *r = rmg_rom_rival(base, h);

    return r && (r->cause == RMG_CAUSE_CHIP_SLOW || r->is.said == RMG_SAY_TOO_SLOW ||
                 r->is.said == RMG_SAY_ENABLE_LATE);
}

bool rmg_rom_is_another(const rmg_rom_verdict *base, const rmg_hypothesis *h)
{
    const rmg_rival *r = rmg_rom_rival(base, h);

    return r && r->is.socket != RMG_NO_SOCKET && !base->sockets[r->is.socket];
}

double rmg_rom_shows_bare(const rmg_rom_verdict *base, const rmg_hypothesis *h)
{
    const rmg_rival *r = rmg_rom_rival(base, h);

    if (!r || r->is.said == RMG_SAY_OUTSIDE_LIMITS || r->is.said == RMG_SAY_SEVERAL_FAULTS ||
        r->is.said == RMG_SAY_NOISE_OR_ANOTHER)
        return EITHER_SHOWS;
    if (r->cause == RMG_CAUSE_CHIP_SLOW || r->is.said == RMG_SAY_TOO_SLOW)
        return SLOW_SHOWS;
    return h->belongs == RMG_BELONGS_CHIP && !rmg_rom_is_another(base, h) ? SHOWS : SHOWS_NOT;
}

static double by_condition(const rmg_rom_verdict *base, const rmg_hypothesis *h,
                           const rmg_change *c)
{
    const rmg_rival *r = rmg_rom_rival(base, h);
    const bool limits = r && r->is.said == RMG_SAY_OUTSIDE_LIMITS;

    if (c->kind == RMG_CHANGE_CLOCK)
        return rmg_rom_is_timing(base, h) ? BY_CLOCK : limits ? BY_LIMITS : 0;
    if (c->kind == RMG_CHANGE_SUPPLY)
        return limits                                                           ? BY_LIMITS
               : rmg_rom_is_timing(base, h) || h->belongs == RMG_BELONGS_SUPPLY ? BY_SUPPLY
                                                                                : 0;
    if (c->kind == RMG_CHANGE_JUMPER)
        return h->belongs == RMG_BELONGS_PLACE ? BY_JUMPER : 0;
    return 0;
}

double rmg_rom_undone(const rmg_board *board, const rmg_rom_verdict *base, const rmg_hypothesis *h,
                      const rmg_change *c)
{
    const rmg_rival *r = rmg_rom_rival(base, h);
    const bool touched = h->socket != RMG_NO_SOCKET && rmg_change_touches(board, c, h->socket);

    if (!r)
        return 0;
    if (r->is.said == RMG_SAY_EXCHANGED_SOCKETS)
        return c->kind == RMG_CHANGE_SWAP && base->sockets[c->socket] && base->sockets[c->other]
                   ? BY_EXCHANGE
                   : 0;
    if (h->belongs == RMG_BELONGS_CONTACT &&
        (touched || (c->kind == RMG_CHANGE_READ && c->socket == h->socket)))
        return RMG_CLEANED; /* a chip that was read on its own pins was pulled and put back */
    if (rmg_change_mends(board, &base->suspects, h, c))
        return 1;
    if (rmg_change_mends_way(board, &base->suspects, h, c))
        return RMG_ON_WAY;
    if (c->kind == RMG_CHANGE_HOLD && c->socket == h->socket)
        return h->belongs == RMG_BELONGS_CHIP ? BY_HOLDING : 0;
    return by_condition(base, h, c);
}
