/* Which sockets a finding is about; points of traced lines. Knows no kinds of finding beyond that.
 */
#include <string.h>

#include "share.h"

/* Was the socket's wiring checked? Only then its silence means something. */
static bool looked_at(const rmg_run *run, uint16_t socket)
{
    for (uint16_t r = 0; r < run->board->placement.rule_count; r++) {
        const rmg_rule *rule = &run->board->placement.rules[r];

        if (rule->socket == socket && rule->bank < run->board->bank_count &&
            (run->wired[rule->bank] ||
             (run->heard && run->board->banks[rule->bank].part->kind != RMG_PART_ROM)))
            return true;
    }
    return false;
}

/* The sockets at and beyond a point that were looked at. */
socket_set rmg_sockets_beyond(const rmg_run *run, const rmg_line *line, uint16_t point)
{
    socket_set set;

    memset(&set, 0, sizeof set);
    for (uint16_t p = point; p < line->point_count; p++) { /* a point stands after its parent */
        uint16_t up = p;

        while (up != RMG_NO_POINT && up != point)
            up = line->points[up].parent;
        if (up == point && line->points[p].socket != RMG_NO_SOCKET &&
            looked_at(run, line->points[p].socket))
            rmg_set_include(&set, line->points[p].socket);
    }
    return set;
}

bool rmg_finding_on_lane(const rmg_board *board, const rmg_finding *f, const rmg_rule *rule)
{
    const rmg_where *lane = f->lane == RMG_NO_BANK ? NULL : &board->bank_wheres[f->lane];

    return !lane || !((rule->where.match ^ lane->match) & rule->where.mask & lane->mask);
}

/* The sockets that a finding is about. */
socket_set rmg_sockets_of(const rmg_run *run, const rmg_finding *f)
{
    socket_set set;

    memset(&set, 0, sizeof set);
    if (f->kind == RMG_FINDING_SHARED || f->kind == RMG_FINDING_SAME_WORDS ||
        f->kind == RMG_FINDING_NOW_AND_THEN) {
        memcpy(set.bits, f->among, sizeof set.bits);
        return set;
    }
    if (f->socket != RMG_NO_SOCKET) {
        rmg_set_include(&set, f->socket);
        return set;
    }
    for (uint16_t r = 0; r < run->board->placement.rule_count; r++) {
        const rmg_rule *rule = &run->board->placement.rules[r];

        if ((f->bank == RMG_NO_BANK || f->bank == rule->bank) && looked_at(run, rule->socket) &&
            (rmg_rule_bits(rule) & f->bits) && rmg_finding_on_lane(run->board, f, rule))
            rmg_set_include(&set, rule->socket);
    }
    return set;
}

/* The bank that all sockets of the set are in; RMG_NO_BANK: several. */
uint8_t rmg_one_bank(const rmg_run *run, const socket_set *set)
{
    uint8_t bank = RMG_NO_BANK;

    for (uint16_t r = 0; r < run->board->placement.rule_count; r++) {
        const rmg_rule *rule = &run->board->placement.rules[r];

        if (!rmg_set_holds(set, rule->socket) || !looked_at(run, rule->socket))
            continue;
        if (bank != RMG_NO_BANK && bank != rule->bank)
            return RMG_NO_BANK;
        bank = rule->bank;
    }
    return bank;
}

bool rmg_line_serves_alike(const rmg_run *run, const rmg_line *line, uint16_t point, uint16_t other)
{
    const socket_set set = rmg_sockets_beyond(run, line, point),
                     here = rmg_sockets_beyond(run, line, other);
    uint16_t up = other;

    while (up != RMG_NO_POINT && up != point)
        up = line->points[up].parent;
    return up == point && rmg_sets_equal(&here, &set);
}

void rmg_finding_sockets(const rmg_run *run, const rmg_finding *f, bool *sockets)
{
    const socket_set set = f->kind == RMG_FINDING_BRANCH
                               ? rmg_sockets_beyond(run, &run->board->lines[f->line], f->point)
                               : rmg_sockets_of(run, f);

    for (uint16_t s = 0; s < run->board->socket_count; s++)
        sockets[s] = rmg_set_holds(&set, s);
}

bool rmg_suspects_share(const rmg_run *run, const rmg_suspects *suspects, uint16_t socket)
{
    bool *sockets = g_new0(bool, MAX(run->board->socket_count, 1u));
    bool named = false, shares = false;

    for (size_t i = 0; i < suspects->count && !named; i++) {
        const rmg_finding *f = &suspects->list[i].finding;

        named = f->socket == socket;
        if (f->socket == RMG_NO_SOCKET && f->kind != RMG_FINDING_SPREAD) {
            rmg_finding_sockets(run, f, sockets);
            shares |= sockets[socket];
        }
    }
    g_free(sockets);
    return shares && !named;
}

bool rmg_suspect_chips_good(const wording *w)
{
    const rmg_finding *f = &w->s->finding;
    const socket_set set = f->kind == RMG_FINDING_BRANCH
                               ? rmg_sockets_beyond(w->run, &w->board->lines[f->line], f->point)
                               : rmg_sockets_of(w->run, f);
    bool any = false, all = true;

    for (uint16_t s = 0; s < w->board->socket_count; s++)
        if (rmg_set_holds(&set, s)) {
            any = true;
            all &= rmg_facts_chip_good(w->facts, s);
        }
    return any && all;
}

bool rmg_point_is_part(const rmg_point *point)
{
    return strchr(point->name, '>') || !strchr(point->name, '.');
}

/* The side of the point that is named; a part as a whole counts with all of it. */
uint32_t rmg_line_far_side(uint16_t point)
{
    return 2u * point + 1u;
}

rmg_word rmg_bits_of_bank(const rmg_run *run, uint8_t bank)
{
    rmg_word bits = 0;

    for (uint16_t i = 0; i < run->board->placement.rule_count; i++)
        if (run->board->placement.rules[i].bank == bank)
            bits |= rmg_rule_bits(&run->board->placement.rules[i]);
    return bits & run->mask;
}

bool rmg_one_bus(const rmg_board *board, uint8_t a, uint8_t b)
{
    const rmg_where *x = &board->bank_wheres[a], *y = &board->bank_wheres[b];

    return !((x->match ^ y->match) & x->mask & y->mask & rmg_board_lanes(board));
}
