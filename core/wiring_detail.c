/* A closer look at lines that are not sound: what is never written, which lines touch, which banks
 * answer together. Kept apart from wiring.c, so that small targets link without it. */
#include "rimeglass/wiring.h"

#include "bus_call.h"

#include <string.h>

/* Writes `value` at `at`, its complement at `other`, and reads `at`: both in `where` (NULL: both
 * were named by the caller). */
static rmg_status drive(const rmg_target *target, const rmg_where *where, rmg_addr at,
                        rmg_addr other, rmg_word value, uint16_t *accesses, rmg_word *got)
{
    rmg_status status;

    if (where && (!rmg_where_holds(where, at) || !rmg_where_holds(where, other)))
        return bus_refused();
    status = bus_write(target, at, value);
    if (status == RMG_OK)
        status = bus_write(target, other, (rmg_word)~value);
    if (status == RMG_OK)
        status = bus_read(target, at, got);
    *accesses = (uint16_t)(*accesses + 3u);
    return status;
}

static rmg_word unsound(const rmg_wiring *w)
{
    return (rmg_word)(w->low | w->high | w->opposite | w->unsteady);
}

/* Levels that bits keep at one address whatever is written there. */
static rmg_status look_fixed(const rmg_target *target, const rmg_where *where, rmg_addr at,
                             rmg_addr other, rmg_data_detail *d, rmg_word *constant,
                             rmg_word *seen_0, rmg_word *seen_1)
{
    rmg_word zero, one;
    rmg_status status = drive(target, where, at, other, 0, &d->accesses, &zero);

    if (status == RMG_OK)
        status = drive(target, where, at, other, (rmg_word) ~(rmg_word)0, &d->accesses, &one);
    if (status != RMG_OK)
        return status;
    *constant &= (rmg_word) ~(zero ^ one);
    *seen_0 |= (rmg_word)~zero;
    *seen_1 |= zero;
    return RMG_OK;
}

static rmg_status find_fixed(const rmg_target *target, const rmg_where *where,
                             const rmg_wiring *wiring, rmg_data_detail *d)
{
    rmg_word constant = target->mask, seen_0 = 0, seen_1 = 0;
    rmg_addr line = 1;
    rmg_status status =
        look_fixed(target, where, where->first, where->last, d, &constant, &seen_0, &seen_1);

    if (status == RMG_OK)
        status =
            look_fixed(target, where, where->last, where->first, d, &constant, &seen_0, &seen_1);
    for (uint8_t k = 0; k < RMG_ADDR_BITS && status == RMG_OK; k++, line = (rmg_addr)(line << 1)) {
        const rmg_addr near_first = (rmg_addr)(where->first ^ line);
        const rmg_addr near_last = (rmg_addr)(where->last ^ line);

        if (!(wiring->lines & line))
            continue;
        if (rmg_where_holds(where, near_first))
            status =
                look_fixed(target, where, near_first, where->last, d, &constant, &seen_0, &seen_1);
        if (status == RMG_OK && rmg_where_holds(where, near_last))
            status =
                look_fixed(target, where, near_last, where->first, d, &constant, &seen_0, &seen_1);
    }
    d->fixed = (rmg_word)(constant & seen_0 & seen_1 & unsound(wiring));
    return status;
}

/* Bits that read what the read before should have given: at the second read of a word in a row they
 * are right. */
static rmg_status find_stale(const rmg_target *target, const rmg_where *where, rmg_data_detail *d)
{
    d->stale = where->first == where->last ? 0 : target->mask;
    for (uint8_t n = 0; n < 2; n++) {
        const rmg_word value = n ? (rmg_word) ~(rmg_word)0 : 0;
        rmg_word once, first, second;
        rmg_status status;

        if (!rmg_where_holds(where, where->first) || !rmg_where_holds(where, where->last))
            return bus_refused();
        status =
            drive(target, where, where->last, where->first, (rmg_word)~value, &d->accesses, &once);
        if (status == RMG_OK)
            status = bus_read(target, where->first, &first);
        if (status == RMG_OK)
            status = bus_read(target, where->first, &second);
        if (status != RMG_OK)
            return status;
        d->accesses = (uint16_t)(d->accesses + 2u);
        d->stale &= (rmg_word)((first ^ value) & ~(second ^ value));
    }
    return RMG_OK;
}

/* Which bits follow bit j: at both ends of the range, so that one bad cell is no short. */
static rmg_status find_followers(const rmg_target *target, const rmg_where *where, uint8_t j,
                                 rmg_data_detail *d)
{
    const rmg_word bit = (rmg_word)((rmg_word)1u << j);
    rmg_word low = (rmg_word)(target->mask & ~bit), high = low;

    for (uint8_t end = 0; end < 2; end++) {
        const rmg_addr at = end ? where->last : where->first;
        const rmg_addr other = end ? where->first : where->last;
        rmg_word got;
        rmg_status status = drive(target, where, at, other, bit, &d->accesses, &got);

        if (status != RMG_OK)
            return status;
        high &= got;
        status = drive(target, where, at, other, (rmg_word)~bit, &d->accesses, &got);
        if (status != RMG_OK)
            return status;
        low &= (rmg_word)~got;
    }
    for (uint8_t i = 0; i < RMG_WORD_BITS; i++) {
        if ((rmg_word)(low >> i) & 1u)
            d->low_with[i] |= bit;
        if ((rmg_word)(high >> i) & 1u)
            d->high_with[i] |= bit;
    }
    return RMG_OK;
}

rmg_status rmg_wiring_data_detail(const rmg_target *target, const rmg_where *where,
                                  const rmg_wiring *wiring, rmg_data_detail *detail)
{
    const rmg_word bad = (rmg_word)(unsound(wiring) & target->mask);
    rmg_word stay;
    rmg_status status;

    memset(detail, 0, sizeof *detail);
    if (!bad)
        return RMG_OK;
    status = find_fixed(target, where, wiring, detail);
    for (uint8_t j = 0; j < RMG_WORD_BITS && status == RMG_OK; j++)
        if ((rmg_word)(target->mask >> j) & 1u)
            status = find_followers(target, where, j, detail);
    if (status == RMG_OK)
        status = find_stale(target, where, detail);
    detail->stale &= bad;
    /* a bit that is low (or high) whatever is written follows nothing, nor does one that lags */
    stay =
        (rmg_word)(wiring->low | wiring->high | wiring->opposite | detail->fixed | detail->stale);
    for (uint8_t i = 0; i < RMG_WORD_BITS; i++) {
        if ((rmg_word)(stay >> i) & 1u)
            detail->low_with[i] = detail->high_with[i] = 0;
        detail->low_with[i] &= (rmg_word)~stay;
        detail->high_with[i] &= (rmg_word)~stay;
    }
    return status;
}

/* Where lines are looked at: with the others low, and with the others high. */
typedef struct line_looker {
    const rmg_target *target;
    const rmg_where *where;
    rmg_word bits; /* sound ones */
    rmg_address_detail *d;
    rmg_addr base[3];     /* others low; others high; the same in the largest round block */
    rmg_addr suspects[3]; /* lines that do nothing at that base, but not everywhere */
} line_looker;

/* Data bits for which `at` and `at ^ line` are one cell, in both polarities. */
static rmg_status one_cell(const line_looker *l, rmg_addr at, rmg_addr line, rmg_word *same)
{
    rmg_word got;
    rmg_status status =
        drive(l->target, l->where, at, (rmg_addr)(at ^ line), 0, &l->d->accesses, &got);

    if (status != RMG_OK)
        return status;
    *same &= got;
    status = drive(l->target, l->where, at, (rmg_addr)(at ^ line), (rmg_word) ~(rmg_word)0,
                   &l->d->accesses, &got);
    *same &= (rmg_word)~got;
    return status;
}

/* Does the line do nothing at this base? A line that cannot vary there does. */
static rmg_status dead_at(const line_looker *l, rmg_addr base, rmg_addr line, rmg_word *same)
{
    *same = 0;
    if (!rmg_where_holds(l->where, base) || !rmg_where_holds(l->where, (rmg_addr)(base ^ line)))
        return RMG_OK;
    *same = l->bits;
    return one_cell(l, base, line, same);
}

static void add_pair(rmg_address_detail *d, uint8_t a, uint8_t b, bool high_wins, rmg_word bits)
{
    rmg_line_pair *pair = d->pairs;

    if (!bits)
        return;
    for (uint8_t i = 0; i < d->pair_count; i++, pair++)
        if (pair->a == a && pair->b == b && pair->high_wins == high_wins) {
            pair->bits |= bits;
            return;
        }
    if (d->pair_count == RMG_LINE_PAIRS)
        return;
    d->pair_count++;
    pair->a = a;
    pair->b = b;
    pair->high_wins = high_wins;
    pair->bits = bits;
}

/* Lines a and b are both suspect at this base: is each alive while the other has changed? */
static rmg_status check_pair(line_looker *l, uint8_t which, uint8_t a, uint8_t b)
{
    const rmg_addr line_a = (rmg_addr)((rmg_addr)1u << a), line_b = (rmg_addr)((rmg_addr)1u << b);
    const rmg_addr base = l->base[which];
    rmg_word dead_a, dead_b, then_a, then_b;
    rmg_status status = dead_at(l, base, line_a, &dead_a);

    if (status == RMG_OK)
        status = dead_at(l, base, line_b, &dead_b);
    if (status == RMG_OK)
        status = dead_at(l, (rmg_addr)(base ^ line_b), line_a, &then_a);
    if (status == RMG_OK)
        status = dead_at(l, (rmg_addr)(base ^ line_a), line_b, &then_b);
    if (status != RMG_OK)
        return status;
    add_pair(l->d, a, b, which > 0, (rmg_word)(dead_a & dead_b & ~then_a & ~then_b));
    return RMG_OK;
}

static rmg_status find_suspects(line_looker *l, const rmg_wiring *wiring)
{
    for (uint8_t k = 0; k < RMG_ADDR_BITS; k++) {
        const rmg_addr line = (rmg_addr)((rmg_addr)1u << k);

        for (uint8_t which = 0; which < 3 && (wiring->lines & line); which++) {
            rmg_word dead;
            const rmg_status status = dead_at(l, l->base[which], line, &dead);

            if (status != RMG_OK)
                return status;
            if (dead & (rmg_word)~wiring->ignored[k])
                l->suspects[which] |= line;
        }
    }
    return RMG_OK;
}

/* A line that seemed dead: does another line at 1 bring it to life, and the other way round? In a
 * range that is not round, lines that touch can look like a dead one. */
static rmg_status check_dead_line(line_looker *l, uint8_t k, rmg_word ignored, rmg_addr lines)
{
    const rmg_addr line = (rmg_addr)((rmg_addr)1u << k);

    for (uint8_t j = 0; j < RMG_ADDR_BITS; j++) {
        const rmg_addr other = (rmg_addr)((rmg_addr)1u << j);
        const rmg_addr base = (rmg_addr)(l->where->first | other);
        rmg_word dead, dead_other, then;
        rmg_status status;

        if (j == k || !(lines & other) || base == l->where->first ||
            !rmg_where_holds(l->where, base) || !rmg_where_holds(l->where, (rmg_addr)(base ^ line)))
            continue;
        status = dead_at(l, base, line, &dead);
        if (status == RMG_OK)
            status = dead_at(l, l->where->first, other, &dead_other);
        if (status == RMG_OK)
            status = dead_at(l, (rmg_addr)(l->where->first ^ line), other, &then);
        if (status != RMG_OK)
            return status;
        add_pair(l->d, k < j ? k : j, k < j ? j : k, false,
                 (rmg_word)(ignored & dead_other & ~dead & ~then));
    }
    return RMG_OK;
}

rmg_status rmg_wiring_address_detail(const rmg_target *target, const rmg_where *where,
                                     const rmg_wiring *wiring, rmg_address_detail *detail)
{
    line_looker l = {target,
                     where,
                     (rmg_word)(target->mask & ~unsound(wiring)),
                     detail,
                     {where->first, where->last, rmg_where_block_end(where)},
                     {0, 0, 0}};
    rmg_status status;

    memset(detail, 0, sizeof *detail);
    status = find_suspects(&l, wiring);
    for (uint8_t which = 0; which < 3; which++)
        for (uint8_t a = 0; a < RMG_ADDR_BITS; a++)
            for (uint8_t b = (uint8_t)(a + 1u);
                 ((rmg_addr)(l.suspects[which] >> a) & 1u) && b < RMG_ADDR_BITS; b++)
                if (((rmg_addr)(l.suspects[which] >> b) & 1u) && status == RMG_OK)
                    status = check_pair(&l, which, a, b);
    for (uint8_t k = 0; k < RMG_ADDR_BITS && status == RMG_OK; k++)
        if (wiring->ignored[k])
            status = check_dead_line(&l, k, wiring->ignored[k], wiring->lines);
    return status;
}

/* What writing at `b` does to what is read at `a`: taken over; or low where b is low, but not where
 * both are high; or high where b is high, but not where both are low. */
typedef struct influence {
    rmg_word taken, low, high;
} influence;

static rmg_status one_way(const rmg_target *target, rmg_addr a, rmg_addr b, uint16_t *accesses,
                          influence *i)
{
    rmg_word seen[2] = {0, 0}, alike[2] = {0, 0}; /* a reads, of the value written there */
    rmg_status status = RMG_OK;

    for (unsigned n = 0; n < 2 && status == RMG_OK; n++) {
        const rmg_word value = n ? (rmg_word) ~(rmg_word)0 : 0;

        status = drive(target, NULL, a, b, value, accesses, &seen[n]);
        if (status == RMG_OK)
            status = bus_write(target, b, value);
        if (status == RMG_OK)
            status = bus_write(target, a, value);
        if (status == RMG_OK)
            status = bus_read(target, a, &alike[n]);
        *accesses = (uint16_t)(*accesses + 3u);
    }
    i->taken = (rmg_word)(seen[0] & ~seen[1]);
    i->low = (rmg_word)(~seen[0] & ~seen[1] & alike[1]);
    i->high = (rmg_word)(seen[0] & seen[1] & ~alike[0]);
    return status;
}

/* Keeps the bits that are pulled too where the line was last at what `a` holds: else it is the
 * charge of the line that shows, which the output at `a` is too weak to change. */
static rmg_status keep_pulled(const rmg_target *target, rmg_addr a, rmg_addr b, uint16_t *accesses,
                              rmg_word *bits)
{
    rmg_word seen[2] = {0, 0};
    rmg_status status = RMG_OK;

    for (unsigned n = 0; n < 2 && *bits && status == RMG_OK; n++) {
        const rmg_word value = n ? (rmg_word) ~(rmg_word)0 : 0;

        status = bus_write(target, b, (rmg_word)~value);
        if (status == RMG_OK)
            status = bus_write(target, a, value);
        if (status == RMG_OK)
            status = bus_read(target, a, &seen[n]);
        *accesses = (uint16_t)(*accesses + 3u);
    }
    *bits = (rmg_word)(*bits & (seen[0] | ~seen[1]));
    return status;
}

rmg_status rmg_wiring_bank_pair(const rmg_target *target, rmg_addr a, rmg_addr b, rmg_word bits,
                                rmg_bank_pair *pair)
{
    influence at_a = {0, 0, 0}, at_b = {0, 0, 0};
    rmg_word a_pulled, b_pulled;
    rmg_status status;

    memset(pair, 0, sizeof *pair);
    status = one_way(target, a, b, &pair->accesses, &at_a);
    if (status == RMG_OK)
        status = one_way(target, b, a, &pair->accesses, &at_b);
    if (status != RMG_OK)
        return status;
    a_pulled = (rmg_word)(at_a.low | at_a.high);
    b_pulled = (rmg_word)(at_b.low | at_b.high);
    pair->same = (rmg_word)(at_a.taken & at_b.taken & bits);
    pair->a_answers = (rmg_word)(at_a.taken & b_pulled & bits);
    pair->b_answers = (rmg_word)(at_b.taken & a_pulled & bits);
    pair->a_dragged = (rmg_word)(a_pulled & ~at_b.taken & ~b_pulled & bits);
    pair->b_dragged = (rmg_word)(b_pulled & ~at_a.taken & ~a_pulled & bits);
    pair->high_wins = (rmg_word)((at_a.high | at_b.high) & bits);
    status = keep_pulled(target, a, b, &pair->accesses, &pair->a_dragged);
    return status == RMG_OK ? keep_pulled(target, b, a, &pair->accesses, &pair->b_dragged) : status;
}
