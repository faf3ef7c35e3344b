/* Failures of a replay against the measured ones: address, bit, direction and first step. */
#include <string.h>

#include "replay_internal.h"

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
    const rmg_where *where; /* NULL: everywhere */
    rmg_word bits;
} region;

static region region_of(const rmg_board *board, const rmg_finding *f)
{
    region r = {NULL, (rmg_word) ~(rmg_word)0};

    if (!f || f->kind == RMG_FINDING_BANKS_SAME || f->kind == RMG_FINDING_BANKS_BOTH ||
        f->kind == RMG_FINDING_DRAGGED)
        return r;
    if (f->bank != RMG_NO_BANK)
        r.where = &board->bank_wheres[f->bank];
    for (uint16_t n = 0; f->socket != RMG_NO_SOCKET && n < board->placement.rule_count; n++) {
        const rmg_rule *rule = &board->placement.rules[n];

        if (rule->socket == f->socket && (f->bank == RMG_NO_BANK || rule->bank == f->bank)) {
            r.where = &rule->where;
            r.bits = rmg_rule_bits(rule);
        }
    }
    return r;
}

/* Counts what one set has and the other has too, or has not. */
typedef struct counting {
    const rmg_failset *other;
    region within;
    bool vague;
    uint64_t before;  /* what failed first at this step or later was not replayed */
    uint64_t skipped; /* ones at the plan's steps that were left out */
    uint64_t both, alone;
    /* how the last two records compared: most words are alike */
    uint32_t record;
    const rmg_fail_part *other_parts;
    uint64_t last_both, last_alone;
} counting;

static unsigned ones(rmg_word bits)
{
    return (unsigned)__builtin_popcountll(bits);
}

static void count_vague(counting *c, const rmg_fail_part *parts, size_t count,
                        const rmg_fail_part *others, size_t other_count)
{
    rmg_word here = 0, there = 0;

    for (size_t i = 0; i < count; i++)
        here |= parts[i].high | parts[i].low;
    for (size_t i = 0; i < other_count; i++)
        there |= others[i].high | others[i].low;
    here &= c->within.bits;
    c->last_both = ones(here & there);
    c->last_alone = ones(here & ~there);
}

static void count_exactly(counting *c, const rmg_fail_part *parts, size_t count,
                          const rmg_fail_part *others, size_t other_count)
{
    c->last_both = c->last_alone = 0;
    for (size_t i = 0; i < count; i++) {
        rmg_word high = parts[i].high & c->within.bits, low = parts[i].low & c->within.bits;

        if (parts[i].first >= c->before || (c->skipped >> (parts[i].first >> 16 & 0x3Fu) & 1u))
            continue;
        for (size_t n = 0; n < other_count; n++) {
            if (others[n].first != parts[i].first)
                continue;
            c->last_both += ones(high & others[n].high) + ones(low & others[n].low);
            high &= ~others[n].high;
            low &= ~others[n].low;
        }
        c->last_alone += ones(high) + ones(low);
    }
}

static void count_word(void *context, rmg_addr address, uint32_t record, const rmg_fail_part *parts,
                       size_t count)
{
    counting *c = context;
    const rmg_fail_part *others;
    size_t other_count;

    if (c->within.where && !rmg_where_holds(c->within.where, address))
        return;
    others = rmg_failset_parts(c->other, address, &other_count);
    if (record != c->record || others != c->other_parts) {
        c->record = record;
        c->other_parts = others;
        if (c->vague)
            count_vague(c, parts, count, others, other_count);
        else
            count_exactly(c, parts, count, others, other_count);
    }
    c->both += c->last_both;
    c->alone += c->last_alone;
}

/* The steps of the plan that a replay in parts leaves out. */
static uint64_t skipped_steps(const rmg_run *again)
{
    uint64_t steps = 0;

    for (size_t i = 0; again->wiring_narrowed && i < again->steps.count && i < RMG_STEPS_MOST; i++)
        if (again->steps.list[i].kind == RMG_STEP_ROWS || again->steps.list[i].kind == RMG_STEP_COPY)
            steps |= (uint64_t)1 << i;
    return steps;
}

comparison rmg_replay_compare(const rmg_run *measured, const rmg_run *again, bool vague,
                              const rmg_finding *within)
{
    const region everywhere = {NULL, (rmg_word) ~(rmg_word)0};
    const uint64_t end = (uint64_t)MAX(again->plan.passes, 1u) << 24;
    const uint64_t skipped = skipped_steps(again);
    counting here = {.other = measured->failures,
                     .vague = vague,
                     .within = everywhere,
                     .before = end,
                     .skipped = skipped};
    counting there = {.other = again->failures,
                      .vague = vague,
                      .within = region_of(measured->board, within),
                      .before = end,
                      .skipped = skipped};

    rmg_failset_each_record(again->failures, count_word, &here);
    rmg_failset_each_record(measured->failures, count_word, &there);
    return (comparison){here.both, there.alone, here.alone};
}

bool rmg_replay_as_often(const rmg_run *measured, const rmg_run *again, const rmg_finding *within)
{
    const region r = region_of(measured->board, within);
    const uint8_t bank = within && r.where ? within->bank : RMG_NO_BANK;

    if (measured->pass_count > RMG_REPLAY_PASSES || !measured->complete || again->steps_skipped)
        return true; /* it did not do the same, so it cannot be counted */
    for (uint8_t b = 0; b < measured->tally.bank_count; b++)
        for (unsigned i = 0; (bank == RMG_NO_BANK || b == bank) && i < RMG_WORD_BITS; i++) {
            const rmg_bit_tally *x = &measured->tally.bits[b][i], *y = &again->tally.bits[b][i];

            if ((r.bits >> i & 1u) && (x->high != y->high || x->low != y->low))
                return false;
        }
    return true;
}
