/* Failures of a replay against the measured ones: address, bit, direction and first step. */
#include <string.h>

#include "internal.h"
#include "diagnose/internal.h"

bool rmg_replay_same_wiring(const rmg_run *a, const rmg_run *b)
{
    for (size_t i = 0; i < a->board->bank_count; i++) {
        const rmg_wiring *x = &a->wirings[i], *y = &b->wirings[i];

        if (!a->wired[i] || !b->wired[i])
            continue;
        if (x->low != y->low || x->high != y->high || x->opposite != y->opposite ||
            x->unsteady != y->unsteady || memcmp(x->ignored, y->ignored, sizeof x->ignored) != 0)
            return false;
    }
    return true;
}

/* Where a suspect lies: failures elsewhere are another one's. */
typedef struct region {
    bool everywhere;
    const rmg_rule **rules; /* else within these */
    size_t rule_count;
    rmg_word bits; /* and these bits */
} region;

/* Kinds of which a data line of the bus fails, not all of a chip's. */
static bool of_a_data_line(const rmg_board *board, const rmg_finding *f)
{
    return f->kind == RMG_FINDING_DATA_LINE || f->kind == RMG_FINDING_DATA_SHORT ||
           f->kind == RMG_FINDING_REPORTED_LINE ||
           (f->kind == RMG_FINDING_SHARED && !f->lines &&
            (f->of == RMG_FINDING_DATA_AT_SOCKET || f->of == RMG_FINDING_DATA_LINE)) ||
           (f->kind == RMG_FINDING_BRANCH && board->lines[f->line].kind == RMG_LINE_DATA);
}

static region region_of(const rmg_run *run, const rmg_finding *f)
{
    const rmg_placement *placement = &run->board->placement;
    region r = {.everywhere = true, .bits = (rmg_word) ~(rmg_word)0};
    bool *sockets;

    if (!f || f->kind == RMG_FINDING_BANKS_SAME || f->kind == RMG_FINDING_BANKS_BOTH ||
        f->kind == RMG_FINDING_DRAGGED)
        return r;
    r.everywhere = false;
    r.rules = g_new(const rmg_rule *, MAX(placement->rule_count, 1u));
    sockets = g_new0(bool, MAX(run->board->socket_count, 1u));
    rmg_finding_sockets(run, f, sockets);
    if (of_a_data_line(run->board, f))
        r.bits = f->bits;
    for (uint16_t n = 0; n < placement->rule_count; n++)
        if (sockets[placement->rules[n].socket] &&
            (f->bank == RMG_NO_BANK || placement->rules[n].bank == f->bank))
            r.rules[r.rule_count++] = &placement->rules[n];
    g_free(sockets);
    return r;
}

/* How many of `words` words from an address on are in or out of a place as the first is. */
static size_t alike_in(const rmg_where *where, rmg_addr address, size_t words)
{
    const rmg_addr step = where->mask & (~where->mask + 1u); /* the lowest line that matters */
    rmg_addr most = words;

    if (step)
        most = MIN(most, step - (address & (step - 1u)));
    if (address < where->first)
        most = MIN(most, where->first - address);
    else if (address <= where->last && where->last - address < most)
        most = where->last - address + 1u;
    return (size_t)most;
}

/* The bits of the region at an address, and how many of *words words from there on have the same.
 */
static rmg_word bits_at(const region *r, rmg_addr address, size_t *words)
{
    rmg_word bits = 0;

    if (r->everywhere)
        return r->bits;
    for (size_t i = 0; i < r->rule_count; i++) {
        if (rmg_where_holds(&r->rules[i]->where, address))
            bits |= rmg_rule_bits(r->rules[i]);
        *words = alike_in(&r->rules[i]->where, address, *words);
    }
    return bits & r->bits;
}

/* Counts what one set has and the other has too, or has not. */
typedef struct counting {
    const rmg_failset *other;
    const region *within;
    const proposal *p;
    const rmg_run *measured;
    uint64_t before;  /* what failed first at this step or later was not replayed */
    uint64_t skipped; /* ones at the plan's steps that were left out */
    uint64_t both, alone;
    rmg_addr own, fed; /* of the chip that shows its contents: its least address; its lines */
    const rmg_lane *lane, *other_lane; /* of which each set's bits are; NULL: as they stand */
    /* how the last two records compared: most words are alike */
    const rmg_fail_part *parts, *other_parts;
    rmg_word bits;
    uint64_t last_both, last_alone;
} counting;

static unsigned ones(rmg_word bits)
{
    return (unsigned)__builtin_popcountll(bits);
}

/* Bits of a lane where those of the chip are that it stands for; others of that play are not its.
 */
static rmg_word bits_home(const rmg_lane *lane, rmg_word bits)
{
    bits &= lane ? lane->bits : bits;
    return lane && lane->up ? bits >> lane->up | bits << (RMG_WORD_BITS - lane->up) : bits;
}

static void count_vague(counting *c, const rmg_fail_part *parts, size_t count,
                        const rmg_fail_part *others, size_t other_count)
{
    rmg_word here = 0, there = 0;

    for (size_t i = 0; i < count; i++)
        here |= parts[i].high | parts[i].low;
    for (size_t i = 0; i < other_count; i++)
        there |= others[i].high | others[i].low;
    here &= c->bits;
    c->last_both = ones(here & there);
    c->last_alone = ones(here & ~there);
}

static void count_exactly(counting *c, const rmg_fail_part *parts, size_t count,
                          const rmg_fail_part *others, size_t other_count)
{
    c->last_both = c->last_alone = 0;
    for (size_t i = 0; i < count; i++) {
        rmg_word high = bits_home(c->lane, parts[i].high) & c->bits;
        rmg_word low = bits_home(c->lane, parts[i].low) & c->bits;

        if (parts[i].first >= c->before || (c->skipped >> (parts[i].first >> 16 & 0x3Fu) & 1u))
            continue;
        for (size_t n = 0; n < other_count; n++) {
            rmg_word other_high, other_low;

            if (others[n].first != parts[i].first)
                continue;
            other_high = bits_home(c->other_lane, others[n].high);
            other_low = bits_home(c->other_lane, others[n].low);
            c->last_both += ones(high & other_high) + ones(low & other_low);
            high &= ~other_high;
            low &= ~other_low;
        }
        c->last_alone += ones(high) + ones(low);
    }
}

/* Does a fault that shows what a chip holds show here what was written before? */
static bool is_known(const counting *c, rmg_addr address)
{
    const rmg_addr own = c->own | (address & c->fed);
    bool known = !c->p || !c->p->shows;

    for (size_t i = 0; !known && i < c->measured->tested_count; i++)
        known = own >= c->measured->tested[i].first && own <= c->measured->tested[i].last;
    return known;
}

/* What one set has at an address and at some of the `words` words from there on, counted so many
 * times against the other; how many words they were. */
static size_t count_some(counting *c, rmg_addr address, size_t words, size_t times,
                         const rmg_fail_part *parts, size_t count)
{
    size_t here, other_count;
    const rmg_fail_part *others = rmg_failset_run_at(c->other, address, &here, &other_count);
    rmg_word bits;

    here = c->p && c->p->shows ? 1u : MIN(here, words);
    bits = bits_at(c->within, address, &here);
    bits = is_known(c, address) ? bits : 0;
    if (parts != c->parts || others != c->other_parts || bits != c->bits) {
        c->bits = bits;
        c->parts = parts;
        c->other_parts = others;
        if ((c->p && c->p->vague) || c->measured->heard) /* of reports neither step nor level */
            count_vague(c, parts, count, others, other_count);
        else
            count_exactly(c, parts, count, others, other_count);
    }
    c->both += here * times * c->last_both;
    c->alone += here * times * c->last_alone;
    return here;
}

/* Do the words of the stretch from an address on differ by their lowest four address bits only, in
 * all that counts? */
static bool alternates(const counting *c, rmg_addr first)
{
    if ((c->p && c->p->shows) || !rmg_failset_alternates(c->other, first))
        return false;
    for (size_t i = 0; !c->within->everywhere && i < c->within->rule_count; i++) {
        const rmg_where *where = &c->within->rules[i]->where;

        if ((where->mask & (RMG_FAILSET_STRETCH - 16u)) ||
            (where->first > first && where->first <= first + (RMG_FAILSET_STRETCH - 1u)) ||
            (where->last >= first && where->last < first + (RMG_FAILSET_STRETCH - 1u)))
            return false;
    }
    return true;
}

static void count_run(void *context, rmg_addr first, size_t words, uint16_t which, uint32_t record,
                      const rmg_fail_part *parts, size_t count)
{
    bool alike = false;
    size_t done = 0;

    (void)record;
    if (which == RMG_EVERY_WORD)
        done = count_some(context, first, words, 1, parts, count);
    if (done < words && words == RMG_FAILSET_STRETCH && done <= 1u)
        alike = alternates(context, first);
    if (which == RMG_EVERY_WORD && !alike) {
        while (done < words)
            done += count_some(context, (rmg_addr)(first + done), words - done, 1, parts, count);
        return;
    }
    if (done) /* the first is counted; it stands for 16 */
        count_some(context, first, 1, 15, parts, count);
    for (size_t i = done; i < (alike ? 16u : words); i++)
        if ((unsigned)which >> ((first + i) & 15u) & 1u)
            count_some(context, (rmg_addr)(first + i), 1, alike ? 16u : 1u, parts, count);
}

/* The steps of the plan that a replay in parts leaves out. */
static uint64_t skipped_steps(const rmg_run *again)
{
    uint64_t steps = 0;

    for (size_t i = 0; again->wiring_narrowed && i < again->steps.count && i < RMG_STEPS_MOST; i++)
        if (again->steps.list[i].kind == RMG_STEP_ROWS ||
            again->steps.list[i].kind == RMG_STEP_MOVING ||
            again->steps.list[i].kind == RMG_STEP_COPY)
            steps |= (uint64_t)1 << i;
    return steps;
}

/* Do stretches from one to another lie in and out of the region alike, whatever they hold? */
static bool region_alike(const counting *c, rmg_addr first, rmg_addr last)
{
    rmg_addr varies = first ^ last;
    bool alike = !(c->p && c->p->shows);

    for (uint8_t shift = 1; shift < RMG_ADDR_BITS; shift = (uint8_t)(shift << 1))
        varies |= varies >> shift;
    varies &= ~(rmg_addr)(RMG_FAILSET_STRETCH - 1u);
    for (size_t i = 0; alike && !c->within->everywhere && i < c->within->rule_count; i++) {
        const rmg_where *where = &c->within->rules[i]->where;

        alike = !(where->mask & varies) && (where->first <= first || where->first > last) &&
                (where->last >= last || where->last < first);
    }
    return alike;
}

/* Counts all of a set against the other: of stretches that are alike in both, one for all. */
static void count_set(const rmg_failset *set, counting *c)
{
    rmg_addr first = 0, many;

    for (rmg_addr at = 0; rmg_failset_next(set, c->other, at, &first, &many);) {
        const uint64_t both = c->both, alone = c->alone;

        if (!region_alike(c, first, first + (many * RMG_FAILSET_STRETCH - 1u)))
            many = 1;
        rmg_failset_stretch(set, first, count_run, c);
        c->both += (c->both - both) * (many - 1u);
        c->alone += (c->alone - alone) * (many - 1u);
        at = first + many * RMG_FAILSET_STRETCH;
        if (!at)
            break; /* that was the last one */
    }
}

static comparison compare(const rmg_run *measured, const rmg_run *again, const proposal *p,
                          const rmg_finding *within, bool sampled, const rmg_lane *lane)
{
    const region everywhere = region_of(measured, NULL), place = region_of(measured, within);
    const uint64_t end = (again->plan.first_pass + MAX(again->plan.passes, 1u)) << 24;
    const uint64_t skipped = skipped_steps(again);
    counting here = {.other = measured->failures,
                     .p = p,
                     .measured = measured,
                     .within = &everywhere,
                     .before = end,
                     .skipped = skipped,
                     .lane = lane};
    counting there = here;

    if (p && p->shows) {
        here.own = there.own = rmg_rule_address(p->shows, 0);
        here.fed = there.fed = rmg_rule_address(p->shows, ~(rmg_addr)0) ^ here.own;
    }
    there.other = again->failures;
    there.within = &place;
    there.lane = NULL;
    there.other_lane = lane;
    count_set(again->failures, &here);
    if (!sampled)
        count_set(measured->failures, &there);
    for (size_t i = 0; sampled && i < again->tested_count; i++)
        for (rmg_addr n = 0; n <= again->tested[i].last - again->tested[i].first; n++) {
            const rmg_addr address = again->tested[i].first + n;
            size_t count;
            const rmg_fail_part *parts = rmg_failset_parts(measured->failures, address, &count);

            count_some(&there, address, 1, 1, parts, count);
        }
    g_free(place.rules);
    return (comparison){here.both, there.alone, here.alone};
}

comparison rmg_replay_compare(const rmg_run *measured, const rmg_run *again, const proposal *p,
                              const rmg_finding *within)
{
    return compare(measured, again, p, within, false, NULL);
}

comparison rmg_replay_compare_lane(const rmg_run *measured, const rmg_run *again, const proposal *p,
                                   const rmg_finding *within, const rmg_lane *lane)
{
    return compare(measured, again, p, within, false, lane);
}

comparison rmg_replay_compare_sample(const rmg_run *measured, const rmg_run *again,
                                     const proposal *p, const rmg_finding *within)
{
    return compare(measured, again, p, within, true, NULL);
}

/* The rows of one chip in which cells fail, and the first step at which one does. */
typedef struct rows_seen {
    const rmg_rule *rule;
    rmg_addr row_mask;
    rmg_word bits;
    uint8_t *rows; /* [row_mask + 1] */
    uint64_t first;
} rows_seen;

static void see_row(void *context, rmg_addr address, uint32_t record, const rmg_fail_part *parts,
                    size_t count)
{
    rows_seen *s = context;

    (void)record;
    if (!rmg_where_holds(&s->rule->where, address))
        return;
    for (size_t i = 0; i < count; i++)
        if ((parts[i].high | parts[i].low) & s->bits) {
            s->rows[rmg_rule_cell(s->rule, address) & s->row_mask] = 1;
            s->first = MIN(s->first, parts[i].first);
        }
}

static comparison rows_of(const rmg_run *measured, const rmg_run *again, uint16_t chip)
{
    const rmg_placement *placement = &measured->board->placement;
    const size_t rows = (size_t)1 << measured->board->sockets[chip].part->row_lines;
    comparison c = {0, 0, 0};
    rows_seen seen[2];

    for (size_t n = 0; n < 2; n++) {
        seen[n] =
            (rows_seen){.row_mask = rows - 1u, .rows = g_new0(uint8_t, rows), .first = UINT64_MAX};
        for (uint16_t r = 0; r < placement->rule_count; r++)
            if (placement->rules[r].socket == chip) {
                seen[n].rule = &placement->rules[r];
                seen[n].bits = rmg_rule_bits(&placement->rules[r]);
            }
        if (seen[n].rule)
            rmg_failset_each_record(n ? again->failures : measured->failures, see_row, &seen[n]);
    }
    for (size_t row = 0; row < rows; row++) {
        c.both += seen[0].rows[row] && seen[1].rows[row];
        c.left += seen[0].rows[row] && !seen[1].rows[row];
        c.unseen += seen[1].rows[row] && !seen[0].rows[row];
    }
    c.left += seen[0].first != seen[1].first;
    g_free(seen[0].rows);
    g_free(seen[1].rows);
    return c;
}

comparison rmg_replay_compare_rows(const rmg_run *measured, const rmg_run *again,
                                   const rmg_sim_fault *fault)
{
    comparison all = {0, 0, 0};

    for (uint16_t s = 0; s < measured->board->socket_count; s++)
        if (rmg_fault_acts_for(fault, s)) {
            const comparison one = rows_of(measured, again, s);

            all.both += one.both;
            all.left += one.left;
            all.unseen += one.unseen;
        }
    return all;
}

bool rmg_replay_as_often(const rmg_run *measured, const rmg_run *again, const rmg_finding *within,
                         bool sampled, const rmg_lane *lane)
{
    static const rmg_bit_tally none;
    const rmg_word home = lane ? bits_home(lane, lane->bits) : 0;
    const region place = region_of(measured, within);
    bool same = true;

    if (measured->pass_count <= RMG_REPLAY_PASSES && measured->complete && !again->steps_skipped &&
        !sampled)
        for (uint8_t b = 0; b < measured->tally.bank_count; b++) {
            rmg_word bits = place.everywhere ? place.bits : 0;

            for (size_t i = 0; i < place.rule_count; i++)
                if (place.rules[i]->bank == b)
                    bits |= rmg_rule_bits(place.rules[i]) & place.bits;
            for (unsigned i = 0; i < measured->board->word_bits; i++) {
                const rmg_bit_tally *x = &measured->tally.bits[b][i];
                const rmg_bit_tally *y = !lane ? &again->tally.bits[b][i]
                                         : home >> i & 1u
                                             ? &again->tally.bits[b][(i + lane->up) % RMG_WORD_BITS]
                                             : &none;

                same &= !(bits >> i & 1u) || (x->high == y->high && x->low == y->low);
            }
        }
    g_free(place.rules); /* else it did not do the same, so it cannot be counted */
    return same;
}
