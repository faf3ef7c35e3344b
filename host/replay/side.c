/* Faults of cells side by side. The chips of a bank hold bits of the same words, and what writes
 * the same to all bits does to each of these chips what it does to the others: so many proposals
 * are played at once, each in a chip of its own. */
#include <string.h>

#include "internal.h"

#define LANES_MOST RMG_STATE_CELLS
#define GROUP_MOST 64u /* proposals that are looked at together */

/* One that waits for its plays. */
typedef struct waiting {
    const proposal *p;
    guint known;       /* which of what is known of proposals will be its */
    rmg_replayed best; /* of its plays so far */
} waiting;

/* Proposals of one chip and of the same cells. */
typedef struct group {
    rmg_stage *s;
    const rmg_finding *within;
    bool alone;
    const rmg_rule *rule; /* of that chip */
    rmg_lane lanes[LANES_MOST];
    size_t lane_count;
    waiting list[GROUP_MOST];
    size_t count;
} group;

static rmg_known_play *known_of(const group *g, size_t i)
{
    return &g_array_index(g->s->known, rmg_known_play, g->list[i].known);
}

static bool can_stand_beside(const proposal *p)
{
    return p->count == 1 && !p->vague && !p->by_rows && !p->shows &&
           rmg_replay_cells_alone(&p->faults[0]);
}

static bool same_cells(const rmg_sim_fault *a, const rmg_sim_fault *b)
{
    const bool second = rmg_fault_has_second(a);

    return a->chip == b->chip && a->cell == b->cell && second == rmg_fault_has_second(b) &&
           (!second || a->cell2 == b->cell2);
}

/* How many bits of the word those of one rule stand above those of another, turned round at its
 * end; RMG_WORD_BITS: not all so many. */
static unsigned bits_above(const rmg_rule *rule, const rmg_rule *other)
{
    const unsigned up =
        (unsigned)(rule->data_bits[0] + RMG_WORD_BITS - other->data_bits[0]) % RMG_WORD_BITS;

    for (uint8_t i = 0; i < rule->width; i++)
        if ((other->data_bits[i] + up) % RMG_WORD_BITS != rule->data_bits[i])
            return RMG_WORD_BITS;
    return up;
}

/* Is the background of each bit of the rule, in all passes that are played, that of the other
 * rule's bit? Of marches with one background in all words. */
static bool same_backgrounds(const rmg_run *run, const rmg_rule *rule, const rmg_rule *other)
{
    const uint64_t first = run->plan.first_pass;
    bool same = true;

    for (uint64_t pass = MAX(first, 1u); pass < first + RMG_REPLAY_PASSES; pass++) {
        const rmg_word background = (rmg_word)rmg_hash(run->plan.seed, pass - 1u);

        for (uint8_t i = 0; i < rule->width; i++)
            same &= !((background >> rule->data_bits[i] ^ background >> other->data_bits[i]) & 1u);
    }
    return same;
}

/* Does the rule's chip hold other bits of the same words as the other one, in the same way? */
static bool alike(const rmg_sim_chip *chips, const rmg_rule *rule, const rmg_rule *other)
{
    const rmg_sim_chip *a = &chips[rule->socket], *b = &chips[other->socket];

    return rule->bank == other->bank && rule->width == other->width &&
           rule->address_lines == other->address_lines &&
           memcmp(rule->address_bits, other->address_bits, rule->address_lines) == 0 &&
           rule->where.first == other->where.first && rule->where.last == other->where.last &&
           rule->where.mask == other->where.mask && rule->where.match == other->where.match &&
           a->row_lines == b->row_lines && a->refresh_us == b->refresh_us &&
           a->keep_us == b->keep_us && a->rom == b->rom && !a->image && !b->image &&
           /* when a cell loses what it holds is each chip's own */
           (!a->keep_us || a->refresh_us);
}

/* The group's chip first, then those that are like it. */
static void find_lanes(group *g)
{
    const rmg_placement *placement = &g->s->run->board->placement;

    for (unsigned others = 0; others < 2; others++)
        for (uint16_t r = 0; r < placement->rule_count && g->lane_count < LANES_MOST; r++) {
            const rmg_rule *rule = &placement->rules[r];
            const unsigned up = rule->width == g->rule->width ? bits_above(rule, g->rule) : 0;

            if ((rule != g->rule) == others && up < RMG_WORD_BITS &&
                alike(g->s->model.chips, rule, g->rule) &&
                same_backgrounds(g->s->run, rule, g->rule) &&
                rmg_replay_only_rule(placement, rule->socket) == rule)
                g->lanes[g->lane_count++] =
                    (rmg_lane){rule->socket, rmg_rule_bits(rule), (uint8_t)up};
        }
}

static bool has(const group *g, guint known)
{
    for (size_t i = 0; i < g->count; i++)
        if (g->list[i].known == known)
            return true;
    return false;
}

/* The first of the proposals, and those of the same cells that were not played and are wanted. */
static void gather(group *g, const rmg_beside *from)
{
    const proposal *first = from->list[0];

    for (size_t i = 0; i < from->count && g->count < GROUP_MOST; i++) {
        const proposal *p = from->list[i];
        const rmg_known_play *known;
        guint which;

        if (!p->count || !same_cells(p->faults, first->faults) || !can_stand_beside(p) ||
            !from->wanted(from->context, p) || (known = rmg_order_known(g->s, p)) == NULL)
            continue;
        which = (guint)(known - (const rmg_known_play *)(const void *)g->s->known->data);
        if (!known->played && !has(g, which))
            g->list[g->count++] = (waiting){.p = p, .known = which};
    }
}

/* The faults of these, each in its lane. */
static void put(const group *g, const size_t *which, size_t count, rmg_sim_fault *faults)
{
    for (size_t i = 0; i < count; i++) {
        faults[i] = g->list[which[i]].p->faults[0];
        faults[i].chip = g->lanes[i].chip;
    }
}

/* Plays these of the group at once, as many as there are lanes or fewer. */
static bool play_these(group *g, const size_t *which, size_t count, unsigned contents)
{
    rmg_sim_fault faults[LANES_MOST];
    rmg_run again;
    bool done;

    put(g, which, count, faults);
    done = rmg_stage_play(g->s, faults, (uint16_t)count, false, contents, &again);
    for (size_t i = 0; done && i < count; i++) {
        waiting *w = &g->list[which[i]];
        rmg_known_play *known = known_of(g, which[i]);
        rmg_replayed *result = &known->results[contents];

        *result = (rmg_replayed){0};
        rmg_replay_judge(g->s, w->p, &again, &g->lanes[i], g->within, g->alone, result);
        known->played |= 1u << contents;
        if (!contents || rmg_replay_better(result, &w->best) < 0)
            w->best = *result;
    }
    rmg_run_end(&again);
    return done;
}

/* With which contents are these worth a play? */
static bool weigh_these(group *g, const size_t *which, size_t count, unsigned contents)
{
    rmg_sim_fault faults[LANES_MOST];
    unsigned worth[LANES_MOST];

    put(g, which, count, faults);
    rmg_stage_each_worth(g->s, faults, (uint16_t)count, contents, worth);
    for (size_t i = 0; i < count; i++) {
        known_of(g, which[i])->worth_while = worth[i];
        known_of(g, which[i])->weighed = (uint8_t)contents;
    }
    return true;
}

/* Is one to be played with these contents? As it would be if it were played by itself. */
static bool is_due(const group *g, size_t i, unsigned contents)
{
    return !contents || (!g->list[i].best.same && (known_of(g, i)->worth_while >> contents & 1u) &&
                         (contents < 2 || !rmg_replay_far_off(&g->list[i].best)));
}

static bool not_done(const group *g, size_t i, unsigned contents)
{
    (void)contents;
    return !g->list[i].best.same;
}

/* Does something to all of the group to which it is to be done, as many at a time as there are
 * lanes. */
static bool do_all(group *g, unsigned contents,
                   bool (*is_wanted)(const group *g, size_t i, unsigned contents),
                   bool (*act)(group *g, const size_t *which, size_t count, unsigned contents))
{
    size_t which[LANES_MOST], count = 0;

    for (size_t i = 0; i < g->count; i++) {
        if (is_wanted(g, i, contents))
            which[count++] = i;
        if (count && (count == g->lane_count || i + 1u == g->count)) {
            if (!act(g, which, count, contents))
                return false;
            count = 0;
        }
    }
    return true;
}

void rmg_replay_side_by_side(rmg_stage *s, const rmg_beside *from, const rmg_finding *within,
                             bool alone)
{
    group g = {.s = s, .within = within, .alone = alone};
    const proposal *first = from->list[0];
    const rmg_known_play *known = rmg_order_known(s, first);
    unsigned contents;

    if (!known || known->played || !can_stand_beside(first) ||
        (g.rule = rmg_replay_only_rule(&s->run->board->placement, first->faults[0].chip)) == NULL)
        return;
    find_lanes(&g);
    if (g.lane_count > 1)
        gather(&g, from);
    if (g.count < 2)
        return;
    contents = rmg_stage_contents(first->faults, 1);
    if (!do_all(&g, 0, is_due, play_these) || !do_all(&g, contents, not_done, weigh_these))
        return;
    for (unsigned n = 1; n < contents; n++)
        if (!do_all(&g, n, is_due, play_these))
            return;
}
