/* See subroutine.h. */
#include "subroutine.h"

#include <stddef.h>
#include <z80ex/z80ex.h>

#include "core_6502.h"
#include "core_6809.h"

#define HOME 0xFFF0u /* where it returns to */

static Z80EX_BYTE read_z80(Z80EX_CONTEXT *cpu, Z80EX_WORD address, int m1, void *context)
{
    const cpu_bus *bus = context;

    (void)cpu;
    (void)m1;
    return bus->read(bus->context, address);
}

static void write_z80(Z80EX_CONTEXT *cpu, Z80EX_WORD address, Z80EX_BYTE value, void *context)
{
    const cpu_bus *bus = context;

    (void)cpu;
    bus->write(bus->context, address, value);
}

static Z80EX_BYTE port_in(Z80EX_CONTEXT *cpu, Z80EX_WORD port, void *unused)
{
    (void)cpu;
    (void)port;
    (void)unused;
    return 0xFF;
}

static void port_out(Z80EX_CONTEXT *cpu, Z80EX_WORD port, Z80EX_BYTE value, void *unused)
{
    (void)cpu;
    (void)port;
    (void)value;
    (void)unused;
}

static Z80EX_BYTE vector(Z80EX_CONTEXT *cpu, void *unused)
{
    (void)cpu;
    (void)unused;
    return 0xFF;
}

static uint64_t call_z80(const cpu_bus *bus, uint16_t at, uint16_t stack, uint64_t most)
{
    Z80EX_CONTEXT *cpu = z80ex_create(read_z80, (void *)bus, write_z80, (void *)bus, port_in, NULL,
                                      port_out, NULL, vector, NULL);
    uint64_t clocks = 0;
    bool done = false;

    bus->write(bus->context, (uint16_t)(stack - 1), HOME >> 8);
    bus->write(bus->context, (uint16_t)(stack - 2), HOME & 0xFF);
    z80ex_set_reg(cpu, regSP, (uint16_t)(stack - 2));
    z80ex_set_reg(cpu, regPC, at);
    while (clocks < most && !done) {
        clocks += (uint64_t)z80ex_step(cpu);
        done = z80ex_get_reg(cpu, regPC) == HOME && !z80ex_last_op_type(cpu);
    }
    done &= z80ex_get_reg(cpu, regSP) == stack;
    z80ex_destroy(cpu);
    return done ? clocks : 0;
}

static uint64_t call_6502(const cpu_bus *bus, uint16_t at, uint16_t stack, uint64_t most)
{
    core_6502 cpu = {.context = bus->context,
                     .read = bus->read,
                     .write = bus->write,
                     .s = (uint8_t)(stack - 3),
                     .p = 0x34,
                     .pc = at};
    uint64_t clocks = 0;

    bus->write(bus->context, (uint16_t)(stack - 1), (HOME - 1) >> 8);
    bus->write(bus->context, (uint16_t)(stack - 2), (HOME - 1) & 0xFF);
    while (clocks < most && cpu.pc != HOME && !cpu.stopped)
        clocks += core_6502_step(&cpu);
    return cpu.pc == HOME && cpu.s == (uint8_t)(stack - 1) ? clocks : 0;
}

static uint64_t call_6809(const cpu_bus *bus, uint16_t at, uint16_t stack, uint64_t most)
{
    core_6809 cpu = {.context = bus->context,
                     .read = bus->read,
                     .write = bus->write,
                     .s = (uint16_t)(stack - 2),
                     .u = 0x1234,
                     .y = 0x5678,
                     .pc = at};
    uint64_t clocks = 0;

    bus->write(bus->context, (uint16_t)(stack - 1), HOME & 0xFF);
    bus->write(bus->context, (uint16_t)(stack - 2), HOME >> 8);
    while (clocks < most && cpu.pc != HOME && !cpu.stopped)
        clocks += core_6809_step(&cpu);
    return cpu.pc == HOME && cpu.s == stack && cpu.u == 0x1234 && cpu.y == 0x5678 ? clocks : 0;
}

uint64_t cpu_call(rmg_testrom_processor processor, const cpu_bus *bus, uint16_t at, uint16_t stack,
                  uint64_t most)
{
    switch (processor) {
    case RMG_TESTROM_Z80:
        return call_z80(bus, at, stack, most);
    case RMG_TESTROM_6502:
        return call_6502(bus, at, stack, most);
    case RMG_TESTROM_6809:
        return call_6809(bus, at, stack, most);
    default:
        return 0;
    }
}
