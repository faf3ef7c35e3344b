/* The memory of the target itself as a bus port; a real program moves pins instead. */
#ifndef RMG_CROSS_MEMORY_PORT_H
#define RMG_CROSS_MEMORY_PORT_H

#include "rimeglass/bus.h"

static rmg_status memory_read(void *context, rmg_addr address, rmg_word *value)
{
    (void)context;
    *value = *(volatile const rmg_word *)(uintptr_t)address;
    return RMG_OK;
}

static rmg_status memory_write(void *context, rmg_addr address, rmg_word value)
{
    (void)context;
    *(volatile rmg_word *)(uintptr_t)address = value;
    return RMG_OK;
}

static const rmg_bus memory_bus = {
    .version = RMG_BUS_VERSION, .read = memory_read, .write = memory_write};

#endif
