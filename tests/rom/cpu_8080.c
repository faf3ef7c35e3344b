/* The 8080 and 8085, by our own small core, which counts their clocks. What code does is held
 * against the Z80, which runs it too: see machine.as_z80. */
#include "core_8080.h"
#include "cpu.h"

static uint8_t from_machine(void *m, uint16_t address)
{
    return machine_read(m, address, false);
}

static void to_machine(void *m, uint16_t address, uint8_t value)
{
    machine_write(m, address, value);
}

static void to_port(void *m, uint8_t port, uint8_t value)
{
    machine_port(m, port, value);
}

void cpu_8080(machine *m, uint64_t clocks)
{
    core_8080 p = {.context = m,
                   .read = from_machine,
                   .write = to_machine,
                   .out = to_port,
                   .of_8085 = m->plan->processor == RMG_TESTROM_8085};

    while (!m->ended && !p.halted && p.clocks < clocks && core_8080_step(&p))
        m->clocks = p.clocks;
}
