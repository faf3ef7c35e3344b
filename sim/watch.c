/* Faults that do nothing until something else came before: a row that rested too long, an access to
 * another cell just now. Their chips' words stay flat; what matters of the accesses is kept, and
 * they go chip by chip from where it could show.
 *
 * Invariant: while the simulation is watched, no row of a watched chip has rested longer, at its
 * last access, than its weakest cell holds; and what was accessed last stands in the memories of
 * the faults, whether that access was flat or not. */
#include "internal.h"
#include "walk.h"

#define WATCHED (RMG_STAGE_BIT(FOLLOWING) | RMG_STAGE_BIT(TIME) | RMG_STAGE_BIT(REFRESH))
#define IN_TIME (RMG_STAGE_BIT(TIME) | RMG_STAGE_BIT(REFRESH))

/* What becomes of a rule's chip is told from the addresses of the bus and the flat words alone
 * where nothing moves its address, and nothing acts on the lines of the bus. */
void rmg_watch_begin(rmg_sim *sim)
{
    const uint32_t moved = RMG_STAGE_BIT(LINES) | RMG_STAGE_BIT(PINS);

    sim->watch_count = 0;
    if (sim->strays || sim->bus_acts || sim->pairs.act)
        return;
    for (uint16_t r = 0; r < sim->board->placement->rule_count; r++) {
        if (!(sim->ways[r].acts & WATCHED) || (sim->ways[r].acts & moved) || sim->is_forced[r])
            continue;
        if (sim->watch_count == RMG_SIM_WATCHES) { /* none of them */
            sim->watch_count = 0;
            return;
        }
        sim->watches[sim->watch_count++] = r;
    }
}

/* In the pages that are marked from here on, the cells are the truth of all chips that are apart.
 */
void rmg_watch_over(rmg_sim *sim)
{
    const uint16_t count = sim->watch_count;

    if (!count)
        return;
    for (uint16_t i = 0; i < sim->apart_count; i++)
        rmg_rule_spill(sim, sim->apart[i]);
    sim->watch_count = 0;
    for (uint16_t i = 0; i < count; i++)
        rmg_sim_mark_rule(sim, sim->watches[i]);
}

static bool has_rows(const rmg_sim *sim, uint16_t r)
{
    return sim->ways[r].row_mask && (sim->ways[r].acts & IN_TIME);
}

/* Does nothing of the chip fade but cells that faults name, whatever the row? */
static bool fades_by_name(const rmg_sim *sim, uint16_t r)
{
    return !sim->conditional && !sim->heat_over_ns && !(sim->ways[r].acts & RMG_STAGE_BIT(REFRESH));
}

/* Is that longer than sound cells of the chip hold? */
static bool all_fade(const rmg_sim *sim, uint16_t r, uint64_t gap)
{
    const rmg_sim_chip *chip = &sim->board->chips[sim->board->placement->rules[r].socket];

    return chip->keep_us && gap > rmg_sim_holding_ns(sim, (uint64_t)chip->keep_us * 1000u);
}

/* Did the row rest too long, until an access at `now`? *gap gets how long. */
static bool rested(const rmg_sim *sim, uint16_t r, rmg_addr row, uint64_t now, uint64_t weakest,
                   uint64_t *gap)
{
    const uint64_t since = sim->ways[r].row_ns[row];

    if (now - since <= weakest)
        return false;
    *gap = rmg_rows_gap(sim, r, row, since, now);
    return *gap > weakest &&
           (!fades_by_name(sim, r) || all_fade(sim, r, *gap) || rmg_rows_fade(sim, r, row, *gap));
}

/* May what fades of it be taken from the words as they lie, and the watch go on? */
static bool fade_in_place(rmg_sim *sim, uint16_t r, rmg_addr row, uint64_t gap)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_TIME);

    if (!fades_by_name(sim, r) || all_fade(sim, r, gap))
        return false;
    for (; acting.at != acting.end; acting.at++) {
        const rmg_sim_fault *f = &sim->faults[*acting.at];

        if (rmg_rows_fades(sim, r, f, row, gap))
            rmg_flat_set_bit(sim, r, f->cell, f->data_line, f->level);
    }
    return true;
}

void rmg_watch_look(rmg_sim *sim, rmg_addr address)
{
    for (uint16_t i = 0; i < sim->watch_count; i++) {
        const uint16_t r = sim->watches[i];
        uint64_t gap = 0;
        rmg_addr row;

        if (!has_rows(sim, r) || !rmg_where_holds(&sim->ways[r].where, address))
            continue;
        row = rmg_chips_fed_cell(sim, r, address) & sim->ways[r].row_mask;
        if (sim->heat_over_ns ||
            (rested(sim, r, row, sim->now_ns, rmg_rows_weakest_ns(sim, r), &gap) &&
             !fade_in_place(sim, r, row, gap))) {
            rmg_watch_over(sim);
            return;
        }
    }
}

/* The access is the one before the next, for faults of the rule's chip. What it met there does not
 * count: for that it would have to be in a column that is marked. */
static void note_following(rmg_sim *sim, uint16_t r, rmg_addr address)
{
    rmg_acting acting = rmg_acting_at(sim, r, RMG_STAGE_FOLLOWING);

    for (; acting.at != acting.end; acting.at++) {
        sim->memories[*acting.at].before = rmg_chips_fed_cell(sim, r, address);
        sim->memories[*acting.at].any_before = true;
    }
}

void rmg_watch_note(rmg_sim *sim, rmg_addr address)
{
    for (uint16_t i = 0; i < sim->watch_count; i++) {
        const uint16_t r = sim->watches[i];
        rmg_sim_way *way = &sim->ways[r];

        if (!rmg_where_holds(&way->where, address))
            continue;
        if (way->row_mask) {
            way->row_ns[rmg_chips_fed_cell(sim, r, address) & way->row_mask] = sim->now_ns;
            way->row_used = true;
        }
        if (way->acts & RMG_STAGE_BIT(FOLLOWING))
            note_following(sim, r, address);
    }
}

/* What is watched in time: rules, and how long their weakest rows may rest. */
typedef struct timed {
    uint16_t rules[RMG_SIM_WATCHES], count;
    uint64_t weakest[RMG_SIM_WATCHES];
    rmg_addr first, last; /* of all their places */
} timed;

static void find_timed(const rmg_sim *sim, timed *t)
{
    t->count = 0;
    t->first = (rmg_addr) ~(rmg_addr)0;
    t->last = 0;
    for (uint16_t i = 0; i < sim->watch_count; i++) {
        const uint16_t r = sim->watches[i];
        const rmg_where *where = &sim->ways[r].where;

        if (!has_rows(sim, r))
            continue;
        t->rules[t->count] = r;
        t->weakest[t->count++] = rmg_rows_weakest_ns(sim, r);
        t->first = MIN_OF(t->first, where->first);
        t->last = where->last > t->last ? where->last : t->last;
    }
}

/* Did a row of the word rest too long, until its first operation at `now`? */
static bool word_rested(const rmg_sim *sim, const timed *t, rmg_addr address, uint64_t now)
{
    for (uint16_t i = 0; i < t->count; i++) {
        const uint16_t r = t->rules[i];
        uint64_t gap;

        if (rmg_where_holds(&sim->ways[r].where, address) &&
            rested(sim, r, rmg_chips_fed_cell(sim, r, address) & sim->ways[r].row_mask, now,
                   t->weakest[i], &gap))
            return true;
    }
    return false;
}

/* What faded of the rows of a word until then is taken from it; false: it cannot be. */
static bool word_fades(rmg_sim *sim, const timed *t, rmg_addr address, uint64_t now)
{
    const uint64_t before = sim->now_ns;
    bool in_place = !sim->heat_over_ns;

    sim->now_ns = now;
    for (uint16_t i = 0; in_place && i < t->count; i++) {
        const uint16_t r = t->rules[i];
        const rmg_addr row = rmg_chips_fed_cell(sim, r, address) & sim->ways[r].row_mask;
        uint64_t gap;

        if (rmg_where_holds(&sim->ways[r].where, address) &&
            rested(sim, r, row, now, t->weakest[i], &gap)) {
            in_place = fade_in_place(sim, r, row, gap);
            sim->ways[r].row_ns[row] = in_place ? now : sim->ways[r].row_ns[row];
        }
    }
    sim->now_ns = before;
    return in_place;
}

static void word_passed(rmg_sim *sim, const timed *t, rmg_addr address, uint64_t now)
{
    for (uint16_t i = 0; i < t->count; i++) {
        const uint16_t r = t->rules[i];
        rmg_sim_way *way = &sim->ways[r];

        if (!rmg_where_holds(&way->where, address))
            continue;
        way->row_ns[rmg_chips_fed_cell(sim, r, address) & way->row_mask] = now;
        way->row_used = true;
    }
}

/* The same for a run of words of one chip whose row lines are the lowest of the bus, in its place
 * throughout: for how many of them no row rested too long. */
static rmg_addr low_rows(rmg_sim *sim, const timed *t, const rmg_element_call *call, rmg_addr from,
                         rmg_addr count)
{
    const uint16_t r = t->rules[0];
    const rmg_addr mask = sim->ways[r].row_mask, rows = mask + 1u;
    const uint64_t word_ns = (uint64_t)call->op_count * sim->access_ns;
    const uint64_t began = sim->now_ns;
    /* each row comes again after so many words: as often as it comes, the rest is the same */
    const bool in_time = rows * word_ns - word_ns + sim->access_ns <= t->weakest[0];
    const rmg_addr told = in_time && count - from > 2u * rows ? from + rows : count;
    uint64_t *row_ns = sim->ways[r].row_ns;

    sim->ways[r].row_used = true;
    for (rmg_addr n = from; n < told; n++) {
        const rmg_addr row = (call->down ? call->address - n : call->address + n) & mask;
        const uint64_t now = began + n * word_ns + sim->access_ns;
        uint64_t gap;

        if (now - row_ns[row] > t->weakest[0] && rested(sim, r, row, now, t->weakest[0], &gap))
            return n;
        row_ns[row] = began + (n + 1u) * word_ns;
    }
    for (rmg_addr n = told < count ? count - rows : count; n < count; n++)
        row_ns[(call->down ? call->address - n : call->address + n) & mask] =
            began + (n + 1u) * word_ns;
    return count;
}

rmg_addr rmg_watch_run(rmg_sim *sim, const rmg_element_call *call, rmg_addr count)
{
    const uint64_t word_ns = (uint64_t)call->op_count * sim->access_ns;
    rmg_addr n = 0, last;
    timed t;

    if (!sim->watch_count)
        return count;
    find_timed(sim, &t);
    if (!t.count)
        return count;
    if (call->down ? call->address > t.last : call->address < t.first)
        n = call->down ? call->address - t.last : t.first - call->address;
    if (n >= count || (call->down ? call->address < t.first : call->address > t.last))
        return count;
    last = call->down ? call->address - t.first : t.last - call->address; /* of those */
    last = MIN_OF(last, count - 1u);
    if (!n)
        word_fades(sim, &t, call->address, sim->now_ns + sim->access_ns);
    if (!sim->heat_over_ns && t.count == 1 && !sim->ways[t.rules[0]].from &&
        !sim->ways[t.rules[0]].where.mask)
        n = low_rows(sim, &t, call, n, last + 1u);
    else
        for (; n <= last; n++) {
            const rmg_addr address = call->down ? call->address - n : call->address + n;
            const uint64_t begin = sim->now_ns + n * word_ns;

            if (sim->heat_over_ns || word_rested(sim, &t, address, begin + sim->access_ns))
                break;
            word_passed(sim, &t, address, begin + word_ns);
        }
    if (n > last)
        return count;
    if (!n)
        rmg_watch_over(sim);
    return n;
}

void rmg_watch_ran(rmg_sim *sim, const rmg_element_call *call, rmg_addr count)
{
    for (uint16_t i = 0; i < sim->watch_count; i++) {
        const uint16_t r = sim->watches[i];
        const rmg_where *where = &sim->ways[r].where;
        rmg_addr back = 0;

        if (!(sim->ways[r].acts & RMG_STAGE_BIT(FOLLOWING)))
            continue;
        while (back < count &&
               !rmg_where_holds(where, call->down ? call->address + back : call->address - back))
            back++;
        if (back < count)
            note_following(sim, r, call->down ? call->address + back : call->address - back);
    }
}
