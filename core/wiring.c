/* Data lines, then address lines, of one range. Knows nothing of chips. */
#include "rimeglass/wiring.h"

#include "bus_call.h"

#include <string.h>

/* What is checked, and what was found. */
typedef struct checker {
    const rmg_target *target;
    const rmg_where *where;
    rmg_wiring *w;
} checker;

/* What was seen of each data bit at one address. */
typedef struct data_view {
    rmg_word saw_0;
    rmg_word saw_1;
    rmg_word right;
    rmg_word wrong;
} data_view;

/* May both be touched? A check that meant to go anywhere else is refused here. */
static bool within(const rmg_where *where, rmg_addr at, rmg_addr other)
{
    return rmg_where_holds(where, at) && rmg_where_holds(where, other);
}

/* Writes `value` at `at`, its complement at `other`, and reads `at`. */
static rmg_status write_drive_read(const checker *c, rmg_addr at, rmg_addr other, rmg_word value,
                                   rmg_word *got)
{
    rmg_status status;

    if (!within(c->where, at, other))
        return bus_refused();
    status = bus_write(c->target, at, value);
    if (status == RMG_OK)
        status = bus_write(c->target, other, (rmg_word)~value);
    if (status == RMG_OK)
        status = bus_read(c->target, at, got);
    c->w->accesses = (uint16_t)(c->w->accesses + 3u);
    return status;
}

static rmg_status look_at(const checker *c, rmg_addr at, rmg_addr other, rmg_word value,
                          data_view *view)
{
    rmg_word got;
    const rmg_status status = write_drive_read(c, at, other, value, &got);

    if (status == RMG_OK) {
        view->saw_1 |= got;
        view->saw_0 |= (rmg_word)~got;
        view->wrong |= (rmg_word)(got ^ value);
        view->right |= (rmg_word) ~(got ^ value);
    }
    return status;
}

/* All zeros, all ones, and each single bit with its complement. */
static rmg_status look_all(const checker *c, rmg_addr at, rmg_addr other, data_view *view)
{
    rmg_word value = 0;
    rmg_word bit = 1;

    memset(view, 0, sizeof *view);
    for (;;) {
        rmg_status status = look_at(c, at, other, value, view);

        if (status == RMG_OK)
            status = look_at(c, at, other, (rmg_word)~value, view);
        if (status != RMG_OK)
            return status;
        if (!(bit & c->target->mask))
            return RMG_OK;
        value = bit;
        bit = (rmg_word)(bit << 1);
    }
}

static rmg_status check_data(const checker *c)
{
    const rmg_where *where = c->where;
    rmg_wiring *w = c->w;
    data_view a, b;
    rmg_word bad;
    rmg_status status = look_all(c, where->first, where->last, &a);

    if (status == RMG_OK)
        status = look_all(c, where->last, where->first, &b);
    if (status != RMG_OK)
        return status;
    bad = (rmg_word)(a.wrong & b.wrong & c->target->mask);
    w->low = (rmg_word)(bad & ~(a.saw_1 | b.saw_1));
    w->high = (rmg_word)(bad & ~(a.saw_0 | b.saw_0));
    w->opposite = (rmg_word)(bad & ~(a.right | b.right));
    w->unsteady = (rmg_word)(bad & ~(w->low | w->high | w->opposite));
    return RMG_OK;
}

rmg_addr rmg_where_block_end(const rmg_where *where)
{
    rmg_addr end = where->first;

    for (rmg_addr line = 1; line; line = (rmg_addr)(line << 1)) {
        if (where->mask & line)
            continue;
        if ((where->first & line) || (rmg_addr)(end | line) > where->last)
            break;
        end |= line;
    }
    return end;
}

/* Bits of `at` that take the value written at `other`, in both polarities. */
static rmg_status check_alias(const checker *c, rmg_addr at, rmg_addr other, rmg_word *same)
{
    rmg_word got;
    rmg_status status = write_drive_read(c, at, other, 0, &got);

    if (status != RMG_OK)
        return status;
    *same &= got;
    status = write_drive_read(c, at, other, (rmg_word) ~(rmg_word)0, &got);
    *same &= (rmg_word)~got;
    return status;
}

/* One address line. The first pair stands lowest in the range, where the other lines are low, the
 * second where they are high: two lines that touch are no dead line. */
static rmg_status check_line(const checker *c, rmg_addr line, rmg_word *same)
{
    const rmg_where *where = c->where;
    rmg_addr low = where->first;
    rmg_addr high = rmg_where_block_end(where);
    rmg_status status;

    /* beyond the round block, or the other half of the block would lie before the range */
    if (!(high & line) || (low & line))
        high = where->last;
    if (!where->mask) { /* to step over the lines of a condition is not worth the code */
        if (low & line)
            low = (rmg_addr)((low | (line - 1u)) + 1u); /* next address with the line at 0 */
        if (!(high & line))
            high = (rmg_addr)((high & ~(line - 1u)) - 1u); /* last address with the line at 1 */
    }
    if (!within(where, low, (rmg_addr)(low ^ line)) ||
        !within(where, high, (rmg_addr)(high ^ line)))
        return RMG_OK; /* the line does not vary within the range, or the condition fixes it */
    c->w->lines |= line;
    *same =
        (rmg_word)(c->target->mask & ~(c->w->low | c->w->high | c->w->opposite | c->w->unsteady));
    status = check_alias(c, low, (rmg_addr)(low ^ line), same);
    if (status == RMG_OK && *same)
        status = check_alias(c, high, (rmg_addr)(high ^ line), same);
    return status;
}

rmg_status rmg_wiring_check(const rmg_target *target, const rmg_where *where, rmg_wiring *wiring)
{
    const checker c = {target, where, wiring};
    rmg_addr line = 1;
    rmg_status status;

    if (!bus_usable(target) || !where || !wiring)
        return RMG_ERR_ARGUMENT;
    memset(wiring, 0, sizeof *wiring);
    if (!within(where, where->first, where->last) || (rmg_addr)(where->last - where->first) < 3u)
        return RMG_ERR_RANGE;
    status = check_data(&c);
    for (uint8_t k = 0; k < RMG_ADDR_BITS && status == RMG_OK; k++) {
        status = check_line(&c, line, &wiring->ignored[k]);
        line = (rmg_addr)(line << 1);
    }
    return status;
}
