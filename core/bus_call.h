/* The one place where the core calls a port. Inline wrappers only: one choke point, no cost. */
#ifndef RMG_CORE_BUS_CALL_H
#define RMG_CORE_BUS_CALL_H

#include "rimeglass/bus.h"

/* 1: stop the program at an error of ours, rather than answer with a status. */
#ifndef RMG_TRAP
#define RMG_TRAP 0
#endif

static inline bool bus_usable(const rmg_target *target)
{
    return target && target->bus && target->bus->version >= 1u && target->bus->read &&
           target->bus->write && target->mask;
}

/* An access that is not permitted is not made: an error of ours. Builds that check stop there. */
static inline rmg_status bus_refused(void)
{
#if RMG_TRAP
    __builtin_trap();
#endif
    return RMG_ERR_FORBIDDEN;
}

static inline rmg_status bus_read(const rmg_target *target, rmg_addr address, rmg_word *value)
{
    rmg_word raw = 0;
    const rmg_status status = target->bus->read(target->context, address, &raw);
    *value = (rmg_word)(raw & target->mask);
    return status;
}

static inline rmg_status bus_write(const rmg_target *target, rmg_addr address, rmg_word value)
{
    return target->bus->write(target->context, address, (rmg_word)(value & target->mask));
}

static inline rmg_status bus_wait(const rmg_target *target, uint32_t hold_us)
{
    return target->bus->wait ? target->bus->wait(target->context, hold_us) : RMG_ERR_PORT_CANNOT;
}

#endif
