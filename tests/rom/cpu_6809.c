/* The 6809, by our own small core. How long its instructions are is held against a disassembler. */
#include "core_6809.h"
#include "cpu.h"

static uint8_t from_machine(void *m, uint16_t address)
{
    return machine_read(m, address, false);
}

static void to_machine(void *m, uint16_t address, uint8_t value)
{
    machine_write(m, address, value);
}

void cpu_6809(machine *m, uint64_t clocks)
{
    core_6809 cpu = {.context = m, .read = from_machine, .write = to_machine};
    uint16_t from;

    m->clocks = 0;
    core_6809_reset(&cpu);
    while (!m->ended && m->clocks < clocks && !cpu.stopped) {
        cpu.taken = 0;
        from = cpu.pc;
        m->clocks += core_6809_step(&cpu);
        if (m->lengths)
            m->lengths[from] = cpu.taken;
    }
}
