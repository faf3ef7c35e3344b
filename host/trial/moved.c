/* What a change makes of a cause: its faults go with the chip, are gone, or stay. */
#include <string.h>

#include "internal.h"

#define HEALED 0.1 /* that what comes and goes is gone by touching it, whatever it is */

rmg_belongs rmg_cause_belongs(rmg_cause cause)
{
    if (cause <= RMG_CAUSE_CHIP_SLOW || cause == RMG_CAUSE_PART_MISSING ||
        cause == RMG_CAUSE_PART_SMALLER || cause == RMG_CAUSE_CHIP_BRIDGE)
        return RMG_BELONGS_CHIP;
    if (cause >= RMG_CAUSE_CONTACT_OUTPUT && cause <= RMG_CAUSE_CONTACT_ANY)
        return RMG_BELONGS_CONTACT;
    if (cause >= RMG_CAUSE_TRACK_DATA && cause <= RMG_CAUSE_SHORT_PIN)
        return RMG_BELONGS_PLACE;
    if (cause >= RMG_CAUSE_LINE_TRACK && cause <= RMG_CAUSE_LINE_BRIDGE)
        return RMG_BELONGS_LINE;
    if (cause >= RMG_CAUSE_SELECT_DECODER && cause <= RMG_CAUSE_STROBE)
        return RMG_BELONGS_SELECT;
    if (cause == RMG_CAUSE_SUPPLY || cause == RMG_CAUSE_SUPPLY_BANK || cause == RMG_CAUSE_NOISE ||
        cause == RMG_CAUSE_REFRESH)
        return RMG_BELONGS_SUPPLY;
    return RMG_BELONGS_UNKNOWN;
}

const char *rmg_belongs_name(rmg_belongs belongs)
{
    static const char *const names[] = {"the chip", "its contact", "the socket's place",
                                        "a line",   "the select",  "the supply, heat or timing",
                                        "other"};

    return names[belongs];
}

const rmg_replayed *rmg_trial_replay(const rmg_suspects *suspects, const rmg_hypothesis *h)
{
    const rmg_suspect *s = h->suspect < suspects->count ? &suspects->list[h->suspect] : NULL;
    const rmg_cause cause = s && h->rival < s->rival_count ? s->rivals[h->rival].cause : RMG_CAUSES;
    const rmg_replayed *any = NULL;

    for (size_t i = 0; s && i < s->replay_count; i++) {
        const rmg_replayed *r = &s->replays[i];

        if (!r->same)
            continue;
        if (cause < RMG_CAUSES && r->causes & RMG_CAUSE_BIT(cause))
            return r;
        any = any ? any : r;
    }
    return any;
}

bool rmg_change_touches(const rmg_board *board, const rmg_change *c, uint16_t socket)
{
    switch (c->kind) {
    case RMG_CHANGE_SWAP:
    case RMG_CHANGE_MOVE:
        return c->socket == socket || c->other == socket;
    case RMG_CHANGE_RESEAT:
    case RMG_CHANGE_PULL:
    case RMG_CHANGE_FIT:
    case RMG_CHANGE_REPLACE:
        return c->bank != RMG_NO_BANK ? rmg_board_bits(board, c->bank, socket) != 0
                                      : c->socket == socket;
    default:
        return false;
    }
}

/* The sockets after the changes: the chip that is in each (by its socket before), RMG_NO_SOCKET:
 * none, and the board's count of sockets for one that came from outside. */
static uint16_t *chips_after(const rmg_board *board, const rmg_change *changes, size_t count)
{
    const uint16_t outside = (uint16_t)board->socket_count;
    uint16_t *chips = g_new(uint16_t, board->socket_count + 1u);

    for (uint16_t s = 0; s < board->socket_count; s++)
        chips[s] = s;
    for (size_t i = 0; i < count; i++) {
        const rmg_change *c = &changes[i];
        uint16_t chip;

        if (c->kind == RMG_CHANGE_SWAP) {
            chip = chips[c->socket];
            chips[c->socket] = chips[c->other];
            chips[c->other] = chip;
        } else if (c->kind == RMG_CHANGE_MOVE) {
            chips[c->other] = chips[c->socket];
            chips[c->socket] = RMG_NO_SOCKET;
        } else if (c->kind == RMG_CHANGE_PULL) {
            for (uint16_t s = 0; s < board->socket_count; s++)
                if (rmg_change_touches(board, c, s))
                    chips[s] = RMG_NO_SOCKET;
        } else if (c->kind == RMG_CHANGE_FIT || c->kind == RMG_CHANGE_REPLACE) {
            chips[c->socket] = outside;
        }
    }
    return chips;
}

static uint16_t find_chip(const rmg_board *board, const uint16_t *chips, uint16_t chip)
{
    for (uint16_t s = 0; s < board->socket_count; s++)
        if (chips[s] == chip)
            return s;
    return RMG_NO_SOCKET;
}

static bool same_part(const rmg_board *board, uint16_t a, uint16_t b)
{
    return board->sockets[a].part == board->sockets[b].part;
}

/* A fault that goes with its chip; false: the chip is out of the board, or in a place where it
 * cannot be told. */
static bool carry(const rmg_board *board, const uint16_t *chips, rmg_sim_fault *fault)
{
    const uint16_t now = find_chip(board, chips, fault->chip);

    if (now == RMG_NO_SOCKET || !same_part(board, now, fault->chip))
        return false;
    if (now != fault->chip && rmg_fault_acts_for(fault, fault->chip)) {
        memset(fault->scope, 0, sizeof fault->scope);
        rmg_fault_include(fault, now);
    }
    fault->chip = now;
    for (uint16_t r = 0; r < board->placement.rule_count; r++)
        if (board->placement.rules[r].socket == now)
            fault->bank = board->placement.rules[r].bank;
    return true;
}

/* A fault of its own in each of several chips, each where it is now; false: none is in the board.
 */
static bool carry_each(const rmg_board *board, const uint16_t *chips, rmg_sim_fault *fault)
{
    const rmg_sim_fault before = *fault;
    bool any = false;

    memset(fault->scope, 0, sizeof fault->scope);
    for (uint16_t s = 0; s < board->socket_count; s++) {
        const uint16_t now =
            rmg_fault_acts_for(&before, s) ? find_chip(board, chips, s) : RMG_NO_SOCKET;

        if (now == RMG_NO_SOCKET || !same_part(board, now, s))
            continue;
        rmg_fault_include(fault, now);
        fault->chip = now;
        any = true;
    }
    return any;
}

/* Is the cause that each of several chips has a fault of its own? */
static bool is_each(const rmg_suspects *suspects, const rmg_hypothesis *h)
{
    const rmg_suspect *s = h->suspect < suspects->count ? &suspects->list[h->suspect] : NULL;

    return s && h->rival < s->rival_count && s->rivals[h->rival].is.said == RMG_SAY_EACH_OF_THESE;
}

/* Can the faults go with their chips, each? */
static bool can_part(const rmg_replayed *r)
{
    for (size_t i = 0; r && i < r->fault_count; i++)
        if (r->faults[i].kind != RMG_FAULT_DESELECTED && r->faults[i].kind != RMG_FAULT_NO_WRITE &&
            r->faults[i].kind != RMG_FAULT_ADDRESS_STUCK)
            return false;
    return true;
}

/* Is it a part that was mended, and the cause a stretch of the line beside it? */
static const rmg_rival *track_beside(const rmg_suspects *suspects, const rmg_hypothesis *h,
                                     const rmg_change *c)
{
    const rmg_suspect *s = h->suspect < suspects->count ? &suspects->list[h->suspect] : NULL;
    const rmg_rival *r = s && h->rival < s->rival_count ? &s->rivals[h->rival] : NULL;
    const bool part = c->text && !strstr(c->text, " at ") && !strchr(c->text, '-');

    return part && r && (r->cause == RMG_CAUSE_LINE_TRACK || r->cause == RMG_CAUSE_LINE_JOINT)
               ? r
               : NULL;
}

bool rmg_change_mends(const rmg_board *board, const rmg_suspects *suspects, const rmg_hypothesis *h,
                      const rmg_change *c)
{
    const rmg_finding *f =
        h->suspect < suspects->count ? &suspects->list[h->suspect].finding : NULL;
    const rmg_line *line;

    if (!f || (c->kind != RMG_CHANGE_REPAIR && c->kind != RMG_CHANGE_BRIDGE))
        return false;
    if (h->belongs == RMG_BELONGS_CONTACT || h->belongs == RMG_BELONGS_PLACE)
        return c->socket != RMG_NO_SOCKET && c->socket == h->socket;
    if (!c->text || h->belongs == RMG_BELONGS_CHIP)
        return false;
    if (strcmp(c->text, rmg_belongs_name(h->belongs)) == 0)
        return true;
    if (f->point == RMG_NO_POINT || f->line >= board->line_count || track_beside(suspects, h, c))
        return false;
    line = &board->lines[f->line];
    for (uint16_t p = f->point; p != RMG_NO_POINT; p = line->points[p].parent)
        if (strstr(c->text, line->points[p].name) ||
            rmg_text_names_point(c->text, &line->points[p]))
            return true;
    return false;
}

bool rmg_change_mends_way(const rmg_board *board, const rmg_suspects *suspects,
                          const rmg_hypothesis *h, const rmg_change *c)
{
    const bool mended = c->kind == RMG_CHANGE_REPAIR || c->kind == RMG_CHANGE_BRIDGE;
    const rmg_rival *track = mended ? track_beside(suspects, h, c) : NULL;
    bool way = false;

    if (track && track->is.line < board->line_count && track->is.point != RMG_NO_POINT) {
        const rmg_line *line = &board->lines[track->is.line];
        const uint16_t before = line->points[track->is.point].parent;

        return rmg_text_names_point(c->text, &line->points[track->is.point]) ||
               (before != RMG_NO_POINT && rmg_text_names_point(c->text, &line->points[before]));
    }
    if (!mended || !c->text || h->socket == RMG_NO_SOCKET || h->belongs != RMG_BELONGS_PLACE)
        return false;
    for (size_t l = 0; l < board->line_count; l++)
        way |= rmg_lift_cuts(c, &board->lines[l], h->socket);
    return way;
}

static void put(prospect *p, rmg_sim_fault fault)
{
    if (p->count < PROPOSAL_FAULTS)
        p->faults[p->count++] = fault;
}

/* The sockets that the changes left empty. */
static void put_missing(const rmg_board *board, const uint16_t *chips, prospect *p)
{
    for (uint16_t s = 0; s < board->socket_count; s++)
        if (chips[s] == RMG_NO_SOCKET) {
            rmg_sim_fault missing = {.kind = RMG_FAULT_MISSING, .chip = s};

            rmg_fault_include(&missing, s);
            put(p, missing);
        }
}

/* A chip that drives its lines when others are read spoils theirs: of all other banks. */
static void mark_driven(const rmg_board *board, uint16_t driver, bool *marked)
{
    const rmg_placement *placement = &board->placement;

    for (uint16_t d = 0; d < placement->rule_count; d++)
        for (uint16_t r = 0; placement->rules[d].socket == driver && r < placement->rule_count; r++)
            if (placement->rules[r].bank != placement->rules[d].bank &&
                (rmg_rule_bits(&placement->rules[r]) & rmg_rule_bits(&placement->rules[d])))
                marked[placement->rules[r].socket] = true;
}

/* Where it may fail. */
static void mark_sockets(const rmg_run *run, const rmg_suspects *suspects, const rmg_hypothesis *h,
                         const uint16_t *chips, bool *marked)
{
    const rmg_finding *f = &suspects->list[h->suspect].finding;
    bool *at = g_new0(bool, run->board->socket_count + 1u);

    rmg_finding_sockets(run, f, at);
    for (uint16_t s = 0; s < run->board->socket_count; s++) {
        const uint16_t now = h->belongs == RMG_BELONGS_CHIP ? find_chip(run->board, chips, s) : s;

        if (at[s] && now != RMG_NO_SOCKET && f->kind == RMG_FINDING_DRAGGED) {
            if (chips[now] != RMG_NO_SOCKET) /* without a chip nothing drives */
                mark_driven(run->board, now, marked);
        } else if (at[s] && now != RMG_NO_SOCKET)
            marked[now] = true;
    }
    g_free(at);
}

/* The cause as it stands after the changes; `gone`: without it. */
static void fill(const rmg_run *run, const rmg_suspects *suspects, const rmg_hypothesis *h,
                 const uint16_t *chips, bool gone, double chance, prospect *p)
{
    const rmg_board *board = run->board;
    const bool each = is_each(suspects, h);
    const rmg_replayed *r = rmg_trial_replay(suspects, h);

    if (each && !can_part(r))
        r = NULL;
    *p = (prospect){.chance = chance,
                    .known = r || gone || h->rival == SIZE_MAX,
                    .floats = r ? r->floats : RMG_FLOATS_AS_FILE,
                    .at = g_new0(bool, board->socket_count + 1u),
                    .sockets = g_new0(bool, board->socket_count + 1u)};
    if (!gone && r)
        for (size_t i = 0; i < r->fault_count; i++) {
            rmg_sim_fault f = r->faults[i];

            if (h->belongs != RMG_BELONGS_CHIP || (each ? carry_each : carry)(board, chips, &f))
                put(p, f);
        }
    p->own = p->count;
    if (!gone && h->suspect < suspects->count)
        mark_sockets(run, suspects, h, chips, p->at);
    p->gone = !p->own;
    for (uint16_t s = 0; s < board->socket_count; s++) {
        if (!r && p->at[s])
            p->gone = false;
        p->sockets[s] = p->at[s] || chips[s] == RMG_NO_SOCKET;
    }
    p->known |= p->gone; /* nothing of it is left */
    put_missing(board, chips, p);
}

/* What is lifted is open. */
static void put_lifted(const rmg_board *board, const rmg_change *changes, size_t count, prospect *p)
{
    rmg_sim_fault faults[PROPOSAL_FAULTS];
    size_t open = 0;
    bool *cut = g_new0(bool, board->socket_count + 1u);

    if (!rmg_lifted(board, changes, count, 0, cut, faults, PROPOSAL_FAULTS - p->count, &open))
        p->known = false; /* of address lines and strobes it is not known what that does */
    for (size_t i = 0; i < open; i++)
        put(p, faults[i]);
    for (uint16_t s = 0; s < board->socket_count; s++)
        p->sockets[s] |= cut[s];
    g_free(cut);
}

/* How likely it is that the changes took the cause away. */
static double chance_gone(const rmg_run *run, const rmg_suspects *suspects, const rmg_hypothesis *h,
                          const rmg_change *changes, size_t count)
{
    double stays = 1;

    for (size_t i = 0; i < count; i++) {
        const rmg_change *c = &changes[i];
        const bool touched =
            h->socket != RMG_NO_SOCKET && rmg_change_touches(run->board, c, h->socket);

        if (h->belongs == RMG_BELONGS_CONTACT && touched)
            stays *= 1 - RMG_CLEANED;
        else if (rmg_change_mends(run->board, suspects, h, c))
            stays = 0;
        else if (rmg_change_mends_way(run->board, suspects, h, c))
            stays *= 1 - RMG_ON_WAY;
        else if (touched && !rmg_run_repeats(run))
            stays *= 1 - HEALED;
        if (c->kind == RMG_CHANGE_HOLD && h->socket == c->socket) {
            const rmg_replayed *r = rmg_trial_replay(suspects, h);

            /* a chip on top gives what the one beneath does not drive */
            if (r && rmg_stage_undriven(r->faults, r->fault_count) &&
                (h->belongs == RMG_BELONGS_CHIP))
                stays = 0;
        }
    }
    return 1 - stays;
}

size_t rmg_prospects_of(const rmg_run *run, const rmg_suspects *suspects, const rmg_hypothesis *h,
                        const rmg_change *changes, size_t change_count, size_t done, prospect *list)
{
    uint16_t *chips = chips_after(run->board, changes, change_count);
    const double now =
        chance_gone(run, suspects, h, change_count ? changes + done : NULL, change_count - done);
    const double was = done ? h->gone : 0, gone = was + (1 - was) * now;
    size_t count = 0;

    if (gone < 1)
        fill(run, suspects, h, chips, false, 1 - gone, &list[count++]);
    if (gone > 0)
        fill(run, suspects, h, chips, true, gone, &list[count++]);
    for (size_t i = 0; i < count; i++)
        put_lifted(run->board, changes, change_count, &list[i]);
    g_free(chips);
    return count;
}

void rmg_prospects_end(prospect *list, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        g_free(list[i].at);
        g_free(list[i].sockets);
    }
}

void rmg_prospects_join(const rmg_board *board, const prospect *const *each, size_t count,
                        prospect *joined)
{
    *joined = (prospect){.chance = 1,
                         .known = true,
                         .gone = true,
                         .floats = RMG_FLOATS_AS_FILE,
                         .at = g_new0(bool, board->socket_count + 1u),
                         .sockets = g_new0(bool, board->socket_count + 1u)};
    for (size_t i = 0; i < count; i++) {
        joined->chance *= each[i]->chance;
        joined->known &= each[i]->known;
        joined->gone &= each[i]->gone;
        if (joined->floats == RMG_FLOATS_AS_FILE && !each[i]->gone)
            joined->floats = each[i]->floats;
        for (uint16_t f = 0; f < each[i]->own; f++)
            put(joined, each[i]->faults[f]);
        for (uint16_t s = 0; s < board->socket_count; s++) {
            joined->at[s] |= each[i]->at[s];
            joined->sockets[s] |= each[i]->sockets[s];
        }
    }
    joined->own = joined->count;
    for (uint16_t f = each[0]->own; f < each[0]->count; f++) /* the same of each */
        put(joined, each[0]->faults[f]);
}
