/* Chips that drive at every read, by the only fault there is: all words stay flat. What is read
 * where such a chip does not belong is what two chips make of one line: its own word at the same
 * address of its own, in the place where it belongs, stands a fixed distance away. */
#include "walk.h"

#define LEAST_STEP 64u /* words that are at least as far away */

/* The bus lines that feed the rule's chip, one each; 0: others do. */
static rmg_addr fed_by(const rmg_rule *rule)
{
    rmg_addr fed = 0;

    for (uint8_t k = 0; k < rule->address_lines; k++) {
        const rmg_addr line =
            rule->address_bits[k] < RMG_ADDR_BITS ? (rmg_addr)1 << rule->address_bits[k] : 0;

        if (!line || (fed & line))
            return 0;
        fed |= line;
    }
    return fed;
}

/* Does the place hold all addresses that differ in these lines, and no others? */
static bool all_of(const rmg_where *where, rmg_addr fed)
{
    const rmg_addr least = where->first | (where->match & where->mask);

    return fed && !((where->first | where->mask) & fed) &&
           (where->last | where->mask) == (where->first | where->mask | fed) &&
           rmg_where_holds(where, least) && rmg_where_holds(where, least | fed);
}

static bool add(rmg_sim *sim, uint16_t r)
{
    const rmg_rule *rule = &sim->board->placement->rules[r];
    const rmg_addr fed = fed_by(rule);
    rmg_sim_stray *s = &sim->stray;

    if (sim->ways[r].acts != RMG_STAGE_BIT(ENABLE) || !rmg_lies_flat(sim, r) ||
        !all_of(&rule->where, fed) || (fed & (LEAST_STEP - 1u)) != LEAST_STEP - 1u ||
        s->count == RMG_SIM_STRAYS)
        return false;
    s->rules[s->count] = r;
    s->fed[s->count++] = fed;
    return true;
}

void rmg_stray_begin(rmg_sim *sim)
{
    const rmg_placement *placement = sim->board->placement;
    const rmg_where everywhere = {0, (rmg_addr) ~(rmg_addr)0, 0, 0};
    bool fits = true;

    sim->stray.count = 0;
    if (sim->fault_count != 1 || sim->faults[0].kind != RMG_FAULT_ALWAYS_ON || sim->conditional ||
        !rmg_force_nothing(sim, &everywhere))
        return;
    for (uint16_t r = 0; fits && r < placement->rule_count; r++)
        fits = !sim->ways[r].acts || add(sim, r);
    if (!fits || !sim->stray.count) {
        sim->stray.count = sim->force_count = 0;
        return;
    }
    for (uint16_t i = 0; i < sim->stray.count; i++) {
        sim->is_forced[sim->stray.rules[i]] = true;
        sim->is_apart[sim->stray.rules[i]] = false;
    }
    sim->apart_count = 0;
}

/* The bits that the i-th of them drives at an address where it does not belong, and its own
 * address; 0: it belongs there, or hangs on other lines. */
static rmg_word driven(const rmg_sim *sim, uint16_t i, rmg_addr address, rmg_addr *own)
{
    const uint16_t r = sim->stray.rules[i];
    const rmg_where *where = &sim->ways[r].where;

    *own = (address & sim->stray.fed[i]) | where->first | (where->match & where->mask);
    return *own != address && rmg_chips_same_lane(sim, r, address) ? sim->ways[r].bits : 0;
}

static rmg_word joined(const rmg_sim *sim, rmg_word word, rmg_word other, rmg_word bits)
{
    return sim->high_wins ? word | (other & bits) : word & (other | ~bits);
}

/* What a chip puts out for an address of its own. */
static rmg_word held_at(rmg_sim *sim, rmg_addr own)
{
    const rmg_sim_window *w = rmg_sim_window_of(sim, own);

    return rmg_flat_load(sim, rmg_flat_place(sim, w->first, w->offset, own));
}

/* What they make of any word at an address, which is (word & *mask) | *ones. */
static void laid_at(rmg_sim *sim, rmg_addr address, rmg_word *mask, rmg_word *ones)
{
    *mask = ~(rmg_word)0;
    *ones = 0;
    for (uint16_t i = 0; i < sim->stray.count; i++) {
        rmg_addr own;
        const rmg_word bits = driven(sim, i, address, &own);

        if (bits) {
            const rmg_word held = held_at(sim, own);

            *mask = joined(sim, *mask, held, bits);
            *ones = joined(sim, *ones, held, bits);
        }
    }
}

rmg_word rmg_stray_load(rmg_sim *sim, rmg_addr address, rmg_word word)
{
    rmg_word mask, ones;

    laid_at(sim, address, &mask, &ones);
    return (word & mask) | ones;
}

rmg_addr rmg_stray_run(const rmg_sim *sim, rmg_addr from, bool down, rmg_addr most)
{
    for (uint16_t i = 0; i < sim->stray.count; i++) {
        const rmg_addr step = ~sim->stray.fed[i] & (sim->stray.fed[i] + 1u);
        const rmg_addr left = down ? (from & (step - 1u)) + 1u : step - (from & (step - 1u));

        most = MIN_OF(most, left);
    }
    return most;
}

/* What one of them puts out for some words of its own, from the first one on, as levels that are
 * laid over others; false: not the same for all. */
static bool lay(rmg_sim *sim, rmg_laid *f, rmg_addr first, rmg_addr count, rmg_word bits)
{
    const rmg_sim_window *w = rmg_sim_window_of(sim, first);
    const size_t lowest = w->offset + (size_t)(first - w->first);
    rmg_word level;

    for (rmg_addr n = 0; n < count; n += 1u << RMG_SIM_PAGE_BITS)
        rmg_flat_place(sim, w->first, w->offset, first + n);
    rmg_flat_place(sim, w->first, w->offset, first + (count - 1u));
    if (!rmg_flat_alike(sim, lowest, count, bits))
        return false;
    level = rmg_flat_load(sim, lowest) & bits;
    for (unsigned low = 0; low < 16; low++) {
        f->and[low] &= sim->high_wins ? ~level : level | ~bits;
        f->or [low] = sim->high_wins ? f->or [low] | level : f->or [low] & (level | ~bits);
    }
    return true;
}

bool rmg_stray_lay(rmg_walk *w, rmg_laid *f, rmg_addr count)
{
    const rmg_addr lowest = w->call->down ? w->call->address - (count - 1u) : w->call->address;
    bool alike = true;

    for (uint16_t i = 0; alike && i < w->sim->stray.count; i++) {
        rmg_addr own;
        const rmg_word bits = driven(w->sim, i, lowest, &own);

        alike = !bits || lay(w->sim, f, own, count, bits);
    }
    return alike;
}

void rmg_walk_stray(rmg_walk *w, size_t at, rmg_addr count)
{
    rmg_sim *sim = w->sim;

    if (rmg_walk_in_order(w))
        rmg_walk_hand_over(w);
    for (rmg_addr n = 0; n < count; n++) {
        const rmg_addr address =
            w->call->down ? w->call->address - n : (rmg_addr)(w->call->address + n);
        const size_t here = w->call->down ? at - (size_t)n : at + (size_t)n;
        const unsigned low = (unsigned)address & 15u;
        rmg_laid f;

        f.takes = false;
        f.stale = f.before = 0;
        f.join = f.join_taken = 0;
        laid_at(sim, address, &f.and[low], &f.or [low]);
        rmg_flat_store(sim, here, rmg_laid_word(w, &f, address, rmg_flat_load(sim, here), 0, NULL));
    }
}
