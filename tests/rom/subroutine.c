/* See subroutine.h. */
#include "subroutine.h"

#include <stddef.h>
#include <unicorn/unicorn.h>
#include <z80ex/z80ex.h>

#include "core_6502.h"
#include "core_6809.h"
#include "core_8080.h"

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

/* What our own cores are given: addresses of 16 bits. */
static uint8_t read_near(void *context, uint16_t address)
{
    const cpu_bus *bus = context;

    return bus->read(bus->context, address);
}

static void write_near(void *context, uint16_t address, uint8_t value)
{
    const cpu_bus *bus = context;

    bus->write(bus->context, address, value);
}

static void put(const cpu_bus *bus, uint32_t at, unsigned value)
{
    bus->write(bus->context, at, (uint8_t)value);
}

static uint64_t call_z80(const cpu_bus *bus, uint16_t at, uint16_t stack, uint32_t end,
                         uint64_t most)
{
    Z80EX_CONTEXT *cpu = z80ex_create(read_z80, (void *)bus, write_z80, (void *)bus, port_in, NULL,
                                      port_out, NULL, vector, NULL);
    uint64_t clocks = 0;
    bool done = false;

    put(bus, stack - 1u, HOME >> 8);
    put(bus, stack - 2u, HOME & 0xFF);
    z80ex_set_reg(cpu, regSP, (uint16_t)(stack - 2));
    z80ex_set_reg(cpu, regPC, at);
    while (clocks < most && !done) {
        clocks += (uint64_t)z80ex_step(cpu);
        done = z80ex_get_reg(cpu, regPC) == end && !z80ex_last_op_type(cpu);
    }
    done &= end != HOME || z80ex_get_reg(cpu, regSP) == stack;
    z80ex_destroy(cpu);
    return done ? clocks : 0;
}

static uint64_t call_6502(const cpu_bus *bus, uint16_t at, uint16_t stack, uint64_t most)
{
    core_6502 cpu = {.context = (void *)bus,
                     .read = read_near,
                     .write = write_near,
                     .s = (uint8_t)(stack - 3),
                     .p = 0x34,
                     .pc = at};
    uint64_t clocks = 0;

    put(bus, stack - 1u, (HOME - 1) >> 8);
    put(bus, stack - 2u, (HOME - 1) & 0xFF);
    while (clocks < most && cpu.pc != HOME && !cpu.stopped)
        clocks += core_6502_step(&cpu);
    return cpu.pc == HOME && cpu.s == (uint8_t)(stack - 1) ? clocks : 0;
}

static uint64_t call_6809(const cpu_bus *bus, uint16_t at, uint16_t stack, uint64_t most)
{
    core_6809 cpu = {.context = (void *)bus,
                     .read = read_near,
                     .write = write_near,
                     .s = (uint16_t)(stack - 2),
                     .u = 0x1234,
                     .y = 0x5678,
                     .pc = at};
    uint64_t clocks = 0;

    put(bus, stack - 1u, HOME & 0xFF);
    put(bus, stack - 2u, HOME >> 8);
    while (clocks < most && cpu.pc != HOME && !cpu.stopped)
        clocks += core_6809_step(&cpu);
    return cpu.pc == HOME && cpu.s == stack && cpu.u == 0x1234 && cpu.y == 0x5678 ? clocks : 0;
}

static uint64_t call_8080(const cpu_bus *bus, bool of_8085, uint16_t at, uint16_t stack,
                          uint64_t most)
{
    core_8080 cpu = {.context = (void *)bus,
                     .read = read_near,
                     .write = write_near,
                     .of_8085 = of_8085,
                     .sp = (uint16_t)(stack - 2),
                     .pc = at};

    put(bus, stack - 1u, HOME >> 8);
    put(bus, stack - 2u, HOME & 0xFF);
    while (cpu.clocks < most && cpu.pc != HOME && !cpu.halted && core_8080_step(&cpu))
        ;
    return cpu.pc == HOME && cpu.sp == stack ? cpu.clocks : 0;
}

#define ROOM        0x200000u
#define AHEAD       2048u /* bytes of code that are there before it runs */
#define CLOCKS_A_US 4u    /* after so long it does not return */

static uint8_t seen[ROOM]; /* memory as unicorn has it */

/* Unicorn reads its own memory: what the bus has there is put into it before each read. */
static void look(const cpu_bus *bus, uint32_t address, uint32_t count)
{
    for (uint32_t i = 0; i < count; i++)
        seen[(address + i) % ROOM] = bus->read(bus->context, address + i);
}

static void before_read(uc_engine *uc, uc_mem_type type, uint64_t address, int size, int64_t value,
                        void *bus)
{
    (void)uc;
    (void)type;
    (void)value;
    look(bus, (uint32_t)address, (uint32_t)size);
}

static void after_write(uc_engine *uc, uc_mem_type type, uint64_t address, int size, int64_t value,
                        void *context)
{
    const cpu_bus *bus = context;
    size_t mode = 0;

    (void)type;
    uc_query(uc, UC_QUERY_ARCH, &mode);
    for (int i = 0; i < size; i++)
        put(bus, (uint32_t)address + (uint32_t)i,
            (unsigned)((uint64_t)value >> 8 * (mode == UC_ARCH_M68K ? size - 1 - i : i)) & 0xFFu);
}

/* The code as it lies there, and hooks for all accesses. */
static void prepare(uc_engine *uc, const cpu_bus *bus, uint32_t at, uc_hook hooks[2])
{
    uc_mem_map_ptr(uc, 0, ROOM, UC_PROT_ALL, seen);
    look(bus, at, AHEAD);
    uc_hook_add(uc, &hooks[0], UC_HOOK_MEM_READ, (void *)before_read, (void *)bus, 1, 0);
    uc_hook_add(uc, &hooks[1], UC_HOOK_MEM_WRITE, (void *)after_write, (void *)bus, 1, 0);
}

static uint64_t call_68000(const cpu_bus *bus, uint32_t at, uint32_t stack, uint32_t end,
                           uint64_t most)
{
    uint32_t supervisor = 0x2700, sp = stack - 4u, pc = 0, d3 = 0x12345678, kept = 0;
    uc_engine *uc;
    uc_hook hooks[2];

    if (uc_open(UC_ARCH_M68K, UC_MODE_BIG_ENDIAN, &uc) != UC_ERR_OK)
        return 0;
    uc_ctl_set_cpu_model(uc, UC_CPU_M68K_M68000);
    for (unsigned i = 0; i < 4; i++)
        put(bus, sp + i, HOME >> 8 * (3u - i) & 0xFFu);
    prepare(uc, bus, at, hooks);
    uc_reg_write(uc, UC_M68K_REG_SR, &supervisor);
    uc_reg_write(uc, UC_M68K_REG_A7, &sp);
    uc_reg_write(uc, UC_M68K_REG_D3, &d3);
    uc_emu_start(uc, at, end, most / CLOCKS_A_US + 1000000u, 0);
    uc_reg_read(uc, UC_M68K_REG_PC, &pc);
    uc_reg_read(uc, UC_M68K_REG_A7, &sp);
    uc_reg_read(uc, UC_M68K_REG_D3, &kept);
    uc_close(uc);
    return pc == end && sp == (end == HOME ? stack : stack - 4u) && kept == d3;
}

static uint64_t call_8086(const cpu_bus *bus, uint32_t at, uint32_t stack, cpu_way way,
                          uint32_t end, uint64_t most)
{
    uint16_t cs = 0, ds = 0x1357, sp = (uint16_t)(stack - 4u), si = 0x2468;
    uint32_t flags = 2, ip = 0;
    uc_engine *uc;
    uc_hook hooks[2];

    if (uc_open(UC_ARCH_X86, UC_MODE_16, &uc) != UC_ERR_OK)
        return 0;
    put(bus, sp, HOME & 0xFF);
    put(bus, sp + 1u, HOME >> 8);
    put(bus, sp + 2u, 0); /* the segment it returns to, if it returns so */
    put(bus, sp + 3u, 0);
    prepare(uc, bus, at, hooks);
    uc_reg_write(uc, UC_X86_REG_CS, &cs);
    uc_reg_write(uc, UC_X86_REG_SS, &cs);
    uc_reg_write(uc, UC_X86_REG_DS, &ds);
    uc_reg_write(uc, UC_X86_REG_SI, &si);
    uc_reg_write(uc, UC_X86_REG_SP, &sp);
    uc_reg_write(uc, UC_X86_REG_EFLAGS, &flags);
    uc_emu_start(uc, at, end, most / CLOCKS_A_US + 1000000u, 0);
    uc_reg_read(uc, UC_X86_REG_EIP, &ip);
    uc_reg_read(uc, UC_X86_REG_SP, &sp);
    uc_reg_read(uc, UC_X86_REG_DS, &ds);
    uc_reg_read(uc, UC_X86_REG_SI, &si);
    uc_close(uc);
    /* unicorn loses its way in a far return whose reads are hooked: it must stand before one */
    return ip == end && ds == 0x1357 && si == 0x2468 &&
           sp == (uint16_t)(stack - (way == CPU_CALL ? 2u : 4u)) &&
           (way != CPU_CALL_FAR || seen[end] == 0xCB);
}

uint64_t cpu_run(rmg_testrom_processor processor, const cpu_bus *bus, uint32_t at, uint32_t stack,
                 cpu_way way, uint32_t end, uint64_t most)
{
    const uint16_t here = (uint16_t)at, top = (uint16_t)stack;

    if (way == CPU_CALL)
        end = HOME;
    switch (processor) {
    case RMG_TESTROM_Z80:
        return call_z80(bus, here, top, end, most);
    case RMG_TESTROM_6502:
        return call_6502(bus, here, top, most);
    case RMG_TESTROM_6809:
        return call_6809(bus, here, top, most);
    case RMG_TESTROM_8080:
    case RMG_TESTROM_8085:
        return call_8080(bus, processor == RMG_TESTROM_8085, here, top, most);
    case RMG_TESTROM_68000:
        return call_68000(bus, at, stack, end, most);
    case RMG_TESTROM_8086:
        return call_8086(bus, at, stack, way, end, most);
    default:
        return 0;
    }
}

uint64_t cpu_call(rmg_testrom_processor processor, const cpu_bus *bus, uint32_t at, uint32_t stack,
                  uint64_t most)
{
    return cpu_run(processor, bus, at, stack, CPU_CALL, 0, most);
}
