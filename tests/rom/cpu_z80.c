/* The Z80, by libz80ex. */
#include <z80ex/z80ex.h>

#include "cpu.h"

static machine *running;
static uint64_t before;

static void now(Z80EX_CONTEXT *cpu)
{
    running->clocks = before + (uint64_t)z80ex_op_tstate(cpu);
}

static Z80EX_BYTE read_byte(Z80EX_CONTEXT *cpu, Z80EX_WORD address, int m1, void *unused)
{
    (void)unused;
    now(cpu);
    return machine_read(running, address, m1);
}

static void write_byte(Z80EX_CONTEXT *cpu, Z80EX_WORD address, Z80EX_BYTE value, void *unused)
{
    (void)unused;
    now(cpu);
    machine_write(running, address, value);
}

static Z80EX_BYTE read_port(Z80EX_CONTEXT *cpu, Z80EX_WORD port, void *unused)
{
    (void)cpu;
    (void)port;
    (void)unused;
    running->outside++;
    return 0xFF;
}

static void write_port(Z80EX_CONTEXT *cpu, Z80EX_WORD port, Z80EX_BYTE value, void *unused)
{
    (void)unused;
    now(cpu);
    machine_port(running, port & 0xFFu, value);
}

static Z80EX_BYTE vector(Z80EX_CONTEXT *cpu, void *unused)
{
    (void)cpu;
    (void)unused;
    return 0xFF;
}

void cpu_z80(machine *m, uint64_t clocks)
{
    Z80EX_CONTEXT *cpu = z80ex_create(read_byte, NULL, write_byte, NULL, read_port, NULL,
                                      write_port, NULL, vector, NULL);

    running = m;
    before = m->clocks = 0;
    z80ex_reset(cpu);
    while (!m->ended && before < clocks) {
        before += (uint64_t)z80ex_step(cpu);
        m->clocks = before;
    }
    z80ex_destroy(cpu);
}
