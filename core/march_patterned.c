/* The march engine with backgrounds by address and other orders of addresses. */
#include "rimeglass/march.h"

#include "march_state.h"

typedef struct patterned {
    run_state s; /* first: the element runner finds the rest behind it */
    const rmg_background *background;
    const rmg_order *order;
} patterned;

void rmg_order_linear(rmg_order *order, const rmg_range *ranges, rmg_range_count range_count)
{
    const rmg_addr first = ranges[0].first, last = ranges[range_count - 1u].last;
    rmg_addr varies = first ^ last;
    uint8_t lines = 0;

    for (; varies; varies >>= 1)
        lines++;
    order->lines = lines;
    order->base = (rmg_addr)(lines < RMG_ADDR_BITS ? first >> lines << lines : 0);
    for (uint8_t i = 0; i < RMG_ADDR_BITS; i++)
        order->line_of[i] = i;
    order->complement = false;
}

/* The number whose bits are the order's lines. */
static rmg_addr count_at(const rmg_order *order, rmg_addr index)
{
    const rmg_addr half = (rmg_addr)(index >> 1);
    const rmg_addr all = (rmg_addr)((rmg_addr)((rmg_addr)1 << order->lines) - 1u);

    return !order->complement ? index : index & 1u ? (rmg_addr)(half ^ all) : half;
}

static rmg_addr lines_of(const rmg_order *order, rmg_addr bits)
{
    rmg_addr lines = 0;

    for (uint8_t i = 0; bits && i < order->lines; i++, bits >>= 1)
        if (bits & 1u)
            lines = (rmg_addr)(lines | (rmg_addr)((rmg_addr)1 << order->line_of[i]));
    return lines;
}

rmg_addr rmg_order_address(const rmg_order *order, rmg_addr index)
{
    return (rmg_addr)(order->base | lines_of(order, count_at(order, index)));
}

static bool in_ranges(const rmg_march_job *job, rmg_addr address)
{
    for (rmg_range_count i = 0; i < job->range_count; i++)
        if (address >= job->ranges[i].first && address <= job->ranges[i].last)
            return true;
    return false;
}

static rmg_status run_one(patterned *p, rmg_addr address)
{
    run_state *s = &p->s;
    const rmg_word zero = (rmg_word)(rmg_background_word(p->background, address) & s->target->mask);
    const rmg_status status = march_word(s, address, zero);

    if (status != RMG_OK)
        return status;
    s->words++;
    return s->words & s->every || rmg_march_watch(s) ? RMG_OK : RMG_ERR_CANCELLED;
}

static rmg_status run_ordered(run_state *s)
{
    patterned *p = (patterned *)s;
    const rmg_order *order = p->order;
    rmg_addr left = (rmg_addr)((rmg_addr)1 << order->lines);
    rmg_addr index = s->down ? (rmg_addr)(left - 1u) : 0;
    rmg_addr address = rmg_order_address(order, index);

    for (;;) {
        const rmg_addr before = count_at(order, index);
        const rmg_status status = in_ranges(s->job, address) ? run_one(p, address) : RMG_OK;

        if (status != RMG_OK || !--left)
            return status;
        index = s->down ? (rmg_addr)(index - 1u) : (rmg_addr)(index + 1u);
        /* of most steps hardly two lines change */
        address =
            (rmg_addr)(address ^ lines_of(order, (rmg_addr)(before ^ count_at(order, index))));
    }
}

static rmg_status run_linear(run_state *s)
{
    const rmg_march_job *job = s->job;
    rmg_status status = RMG_OK;

    for (rmg_range_count i = 0; i < job->range_count; i++) {
        const rmg_range *r = &job->ranges[s->down ? job->range_count - 1u - i : i];
        const rmg_addr end = s->down ? r->first : r->last;

        for (rmg_addr address = s->down ? r->last : r->first;;) {
            status = run_one((patterned *)s, address);
            if (status != RMG_OK)
                return status;
            if (address == end)
                break;
            address = s->down ? (rmg_addr)(address - 1u) : (rmg_addr)(address + 1u);
        }
    }
    return status;
}

rmg_status rmg_march_run_patterned(const rmg_target *target, const rmg_march_job *job,
                                   const rmg_background *background, const rmg_order *order,
                                   rmg_tally *tally)
{
    patterned p;
    const rmg_status status = rmg_march_check_job(target, job, tally);

    if (status != RMG_OK)
        return status;
    if (!background || (order && (!order->lines || order->lines >= RMG_ADDR_BITS)))
        return RMG_ERR_ARGUMENT;
    p.s.target = target;
    p.s.job = job;
    p.s.tally = tally;
    p.background = background;
    p.order = order;
    return march_elements(&p.s, order ? run_ordered : run_linear);
}
