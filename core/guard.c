/* The permitted words: every access is held against them before the port is called. */
#include "rimeglass/bus.h"

#include "bus_call.h"
#include "rimeglass/march.h"

static bool holds(const rmg_permit *permit, rmg_addr first, rmg_addr last, uint8_t may)
{
    return first >= permit->range.first && last <= permit->range.last && (permit->may & may) == may;
}

/* Do all words first..last lie in one permit? Accesses mostly follow each other: the permit that
 * was used last is asked first. */
static bool permitted(rmg_guard *g, rmg_addr first, rmg_addr last, uint8_t may)
{
    if (first > last)
        return false;
    if (g->latest < g->count && holds(&g->permits[g->latest], first, last, may))
        return true;
    for (uint16_t i = 0; i < g->count; i++)
        if (holds(&g->permits[i], first, last, may)) {
            g->latest = i;
            return true;
        }
    return false;
}

static rmg_status refuse(rmg_guard *g)
{
    if (g->refused != RMG_COUNT_MAX)
        g->refused++;
    return bus_refused();
}

static rmg_status guard_read(void *context, rmg_addr address, rmg_word *value)
{
    rmg_guard *g = context;

    if (!permitted(g, address, address, RMG_MAY_READ))
        return refuse(g);
    return g->to->bus->read(g->to->context, address, value);
}

static rmg_status guard_write(void *context, rmg_addr address, rmg_word value)
{
    rmg_guard *g = context;

    if (!permitted(g, address, address, RMG_MAY_WRITE))
        return refuse(g);
    return g->to->bus->write(g->to->context, address, value);
}

static rmg_status guard_read_byte(void *context, rmg_addr address, uint8_t lane, uint8_t *value)
{
    rmg_guard *g = context;

    if (!permitted(g, address, address, RMG_MAY_READ))
        return refuse(g);
    return g->to->bus->read_byte(g->to->context, address, lane, value);
}

static rmg_status guard_write_byte(void *context, rmg_addr address, uint8_t lane, uint8_t value)
{
    rmg_guard *g = context;

    if (!permitted(g, address, address, RMG_MAY_WRITE))
        return refuse(g);
    return g->to->bus->write_byte(g->to->context, address, lane, value);
}

/* The last word of a block; before `first` where there is none, or the block would wrap. */
static bool block_permitted(rmg_guard *g, rmg_addr first, rmg_addr count, uint8_t may)
{
    return count && permitted(g, first, (rmg_addr)(first + (count - 1u)), may);
}

static rmg_status guard_read_block(void *context, rmg_addr first, rmg_addr count, rmg_word *values)
{
    rmg_guard *g = context;

    if (!block_permitted(g, first, count, RMG_MAY_READ))
        return refuse(g);
    return g->to->bus->read_block(g->to->context, first, count, values);
}

static rmg_status guard_write_block(void *context, rmg_addr first, rmg_addr count,
                                    const rmg_word *values)
{
    rmg_guard *g = context;

    if (!block_permitted(g, first, count, RMG_MAY_WRITE))
        return refuse(g);
    return g->to->bus->write_block(g->to->context, first, count, values);
}

static bool stands_within(const rmg_element_call *call)
{
    return call->address >= call->range.first && call->address <= call->range.last &&
           call->operation < call->op_count;
}

static rmg_status guard_run_element(void *context, rmg_element_call *call)
{
    rmg_guard *g = context;
    uint8_t may = 0;
    rmg_status status;

    for (uint8_t i = 0; i < call->op_count; i++)
        may |= call->ops[i] & RMG_OP_WRITE ? RMG_MAY_WRITE : RMG_MAY_READ;
    if (!stands_within(call) || !permitted(g, call->range.first, call->range.last, may))
        return refuse(g);
    status = g->to->bus->run_element(g->to->context, call);
    return status == RMG_ERR_CANCELLED && !stands_within(call) ? RMG_ERR_PORT : status;
}

static rmg_status guard_wait(void *context, uint32_t hold_us)
{
    const rmg_guard *g = context;

    return g->to->bus->wait(g->to->context, hold_us);
}

static rmg_status guard_get(void *context, rmg_condition which, int32_t *value)
{
    const rmg_guard *g = context;

    return g->to->bus->get_condition(g->to->context, which, value);
}

static rmg_status guard_set(void *context, rmg_condition which, int32_t value)
{
    const rmg_guard *g = context;

    return g->to->bus->set_condition(g->to->context, which, value);
}

void rmg_guard_begin(rmg_guard *guard, const rmg_target *to, const rmg_permit *permits,
                     uint16_t count, rmg_target *target)
{
    const rmg_bus *bus = to->bus;

    guard->to = to;
    guard->permits = permits;
    guard->count = count;
    guard->latest = 0;
    guard->refused = 0;
    guard->bus.version = RMG_BUS_VERSION;
    guard->bus.read = guard_read;
    guard->bus.write = guard_write;
    guard->bus.read_byte = bus->read_byte ? guard_read_byte : NULL;
    guard->bus.write_byte = bus->write_byte ? guard_write_byte : NULL;
    guard->bus.read_block = bus->read_block ? guard_read_block : NULL;
    guard->bus.write_block = bus->write_block ? guard_write_block : NULL;
    guard->bus.run_element = bus->run_element ? guard_run_element : NULL;
    guard->bus.wait = bus->wait ? guard_wait : NULL;
    guard->bus.get_condition = bus->get_condition ? guard_get : NULL;
    guard->bus.set_condition = bus->set_condition ? guard_set : NULL;
    target->bus = &guard->bus;
    target->context = guard;
    target->mask = to->mask;
}
