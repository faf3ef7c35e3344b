/* The 8086 and the 68000, by unicorn. It counts no clocks: here a bit of the serial line is a
 * write, whatever the time between them. */
#include <string.h>
#include <unicorn/unicorn.h>

#include "cpu.h"

#define MOST_US 6000000u /* of this machine's time */

static uint64_t read_ram(uc_engine *uc, uint64_t offset, unsigned size, void *at)
{
    const window *w = at;
    const uint32_t address = w->first + (uint32_t)offset;

    (void)uc;
    return size == 2 ? machine_read_word(w->machine, address, false)
                     : machine_read(w->machine, address, false);
}

static void write_ram(uc_engine *uc, uint64_t offset, unsigned size, uint64_t value, void *at)
{
    const window *w = at;
    const uint32_t address = w->first + (uint32_t)offset;

    if (size == 2)
        machine_write_word(w->machine, address, (uint16_t)value);
    else
        machine_write(w->machine, address, (uint8_t)value);
    if (w->machine->ended)
        uc_emu_stop(uc);
}

static void out(uc_engine *uc, uint32_t port, int size, uint32_t value, void *m)
{
    (void)size;
    machine_port(m, port, (uint16_t)value);
    if (((machine *)m)->ended)
        uc_emu_stop(uc);
}

static bool unmapped(uc_engine *uc, uc_mem_type type, uint64_t address, int size, int64_t value,
                     void *m)
{
    (void)uc;
    (void)type;
    (void)address;
    (void)size;
    (void)value;
    ((machine *)m)->outside++;
    return false;
}

/* For blinks: about so many clocks as an instruction of a pause loop takes. */
static void tick(uc_engine *uc, uint64_t address, uint32_t size, void *at)
{
    machine *m = at;

    (void)uc;
    (void)address;
    (void)size;
    m->clocks += m->plan->processor == RMG_TESTROM_68000 ? 9u : 17u;
}

static uint32_t page_down(uint32_t at)
{
    return at & ~UINT32_C(0xFFF);
}

/* Everything that is no ROM is handled one access at a time. */
static void map_window(uc_engine *uc, machine *m, window *w, uint32_t first, uint32_t last)
{
    *w = (window){m, page_down(first)};
    uc_mmio_map(uc, w->first, page_down(last) + 0x1000u - w->first, read_ram, w, write_ram, w);
}

static void map_all(uc_engine *uc, machine *m, window windows[])
{
    const rmg_testrom_plan *p = m->plan;
    unsigned n = 0;

    uc_mem_map(uc, p->origin, p->size, UC_PROT_READ | UC_PROT_EXEC);
    uc_mem_write(uc, p->origin, m->image, p->size);
    for (unsigned i = 0; i < p->bank_count; i++)
        map_window(uc, m, &windows[n++], (uint32_t)p->banks[i].range.first << p->byte_shift,
                   (uint32_t)p->banks[i].range.last << p->byte_shift);
    for (unsigned i = 0; i < p->rom_count; i++)
        map_window(uc, m, &windows[n++], (uint32_t)p->roms[i].range.first << p->byte_shift,
                   (uint32_t)p->roms[i].range.last << p->byte_shift);
    if (p->serial.fitted && !p->serial.port)
        map_window(uc, m, &windows[n++], p->serial.at, p->serial.at);
    if (p->screen.fitted)
        map_window(uc, m, &windows[n++], p->screen.at,
                   p->screen.at + (uint32_t)p->screen.columns * p->screen.rows - 1u);
}

void cpu_8086(machine *m, uint64_t clocks)
{
    window windows[RMG_TESTROM_BANKS + RMG_TESTROM_ROMS + 2u];
    uc_engine *uc;
    uc_hook hook[3];
    uint16_t cs = (uint16_t)(m->plan->origin >> 4), flags = 2;

    m->by_writes = true;
    if (uc_open(UC_ARCH_X86, UC_MODE_16, &uc) != UC_ERR_OK)
        return;
    map_all(uc, m, windows);
    uc_hook_add(uc, &hook[0], UC_HOOK_INSN, (void *)out, m, 1, 0, UC_X86_INS_OUT);
    uc_hook_add(uc, &hook[1], UC_HOOK_MEM_UNMAPPED, (void *)unmapped, m, 1, 0);
    if (m->wants_blinks)
        uc_hook_add(uc, &hook[2], UC_HOOK_CODE, (void *)tick, m, 1, 0);
    uc_reg_write(uc, UC_X86_REG_CS, &cs);
    uc_reg_write(uc, UC_X86_REG_EFLAGS, &flags);
    (void)clocks;
    uc_emu_start(uc, m->plan->origin, UINT64_MAX, MOST_US, 0);
    uc_close(uc);
}

void cpu_68000(machine *m, uint64_t clocks)
{
    window windows[RMG_TESTROM_BANKS + RMG_TESTROM_ROMS + 2u];
    uc_engine *uc;
    uc_hook hook[2];
    uint32_t supervisor = 0x2700;
    uint32_t pc = (uint32_t)m->image[4] << 24 | (uint32_t)m->image[5] << 16 |
                  (uint32_t)m->image[6] << 8 | m->image[7];
    uint32_t sp = (uint32_t)m->image[0] << 24 | (uint32_t)m->image[1] << 16 |
                  (uint32_t)m->image[2] << 8 | m->image[3];

    m->by_writes = true;
    if (uc_open(UC_ARCH_M68K, UC_MODE_BIG_ENDIAN, &uc) != UC_ERR_OK)
        return;
    uc_ctl_set_cpu_model(uc, UC_CPU_M68K_M68000);
    map_all(uc, m, windows);
    uc_hook_add(uc, &hook[0], UC_HOOK_MEM_UNMAPPED, (void *)unmapped, m, 1, 0);
    if (m->wants_blinks)
        uc_hook_add(uc, &hook[1], UC_HOOK_CODE, (void *)tick, m, 1, 0);
    uc_reg_write(uc, UC_M68K_REG_SR, &supervisor);
    uc_reg_write(uc, UC_M68K_REG_A7, &sp);
    (void)clocks;
    uc_emu_start(uc, pc, UINT64_MAX, MOST_US, 0);
    uc_close(uc);
}
