/* The array behind the recording port. */
#include "fake.h"

#include <string.h>

static rmg_status next_access(fake *f, rmg_addr address, rmg_word value, bool write)
{
    const unsigned long number = f->reads + f->writes + 1;

    if (write)
        f->writes++;
    else
        f->reads++;
    if (address < f->first || address > f->end)
        f->outside++;
    if (f->logged < FAKE_LOG)
        f->log[f->logged++] = (fake_access){address, value, write};
    if (f->fail_at && (f->fail_on ? number >= f->fail_at : number == f->fail_at))
        return f->fail_with;
    return RMG_OK;
}

static size_t index_of(const fake *f, rmg_addr address)
{
    return (size_t)(rmg_addr)(address - f->base) & (FAKE_WORDS - 1u);
}

/* Lines that touch, data or address. */
static uint64_t join(uint64_t value, uint64_t lines, bool high)
{
    if (!lines)
        return value;
    return (high ? (value & lines) != 0 : (value & lines) == lines) ? value | lines
                                                                    : value & ~lines;
}

static rmg_status fake_read(void *context, rmg_addr bus_address, rmg_word *value)
{
    fake *f = context;
    const rmg_addr address = (rmg_addr)join(bus_address, f->touching_lines, f->touch_high);
    const rmg_status status = next_access(f, bus_address, 0, false);
    const rmg_word here = f->words[index_of(f, address)];
    const rmg_word there = f->words[index_of(f, address & (rmg_addr)~f->dead_line)];

    if (status != RMG_OK)
        return status;
    *value = (rmg_word)((here & ~f->dead_line_bits) | (there & f->dead_line_bits));
    *value = (rmg_word)((*value & ~f->undriven) | (f->last & f->undriven));
    *value = (rmg_word)((*value & ~f->read_0) | f->read_1);
    *value = (rmg_word)join(*value, f->touching, f->touch_high);
    if (address == f->bad_address)
        *value = (rmg_word)((*value & ~f->bad_0) | f->bad_1);
    f->last = *value;
    return RMG_OK;
}

static rmg_status fake_write(void *context, rmg_addr bus_address, rmg_word value)
{
    fake *f = context;
    const rmg_addr address = (rmg_addr)join(bus_address, f->touching_lines, f->touch_high);
    const rmg_status status = next_access(f, bus_address, value, true);
    rmg_word *there = &f->words[index_of(f, address & (rmg_addr)~f->dead_line)];

    if (status != RMG_OK)
        return status;
    f->last = value;
    value = (rmg_word)join(value, f->touching, f->touch_high);
    value = (rmg_word)((value & ~f->never_written) |
                       (f->words[index_of(f, address)] & f->never_written));
    f->words[index_of(f, address)] = value;
    *there = (rmg_word)((*there & ~f->dead_line_bits) | (value & f->dead_line_bits));
    return RMG_OK;
}

static rmg_status fake_wait(void *context, uint32_t hold_us)
{
    fake *f = context;

    f->waits++;
    f->waited_us = hold_us;
    return RMG_OK;
}

const rmg_bus fake_bus = {
    .version = RMG_BUS_VERSION, .read = fake_read, .write = fake_write, .wait = fake_wait};

fake *fake_new(rmg_addr base)
{
    static fake f;

    memset(&f, 0, sizeof f);
    f.base = base;
    f.bad_address = (rmg_addr)(base - 1u);
    f.first = base;
    f.end = (rmg_addr)(base + (FAKE_WORDS - 1u));
    f.fail_with = RMG_ERR_PORT;
    return &f;
}

rmg_target fake_target(fake *f, rmg_word mask)
{
    return (rmg_target){&fake_bus, f, mask};
}
