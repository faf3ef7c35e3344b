/* A 6502 of our own: documented instructions, clock by clock as far as the bus shows it. Held
 * against another simulator by tests/rom/outside.py. */
#include "cpu.h"
#include "core_6502.h"

static uint8_t from_machine(void *m, uint16_t address)
{
    return machine_read(m, address, false);
}

static void to_machine(void *context, uint16_t address, uint8_t value)
{
    machine *m = context;

    machine_write(m, address, value);
}

void cpu_6502(machine *m, uint64_t clocks)
{
    core_6502 cpu = {.context = m, .read = from_machine, .write = to_machine};

    m->clocks = 0;
    core_6502_reset(&cpu);
    while (!m->ended && m->clocks < clocks && !cpu.stopped)
        m->clocks += core_6502_step(&cpu);
}
