/* See machine.h. */
#include "machine.h"

#include <math.h>
#include <string.h>

#include "cpu.h"

void machine_begin(machine *m, const rmg_testrom_plan *plan, const uint8_t *image, rmg_sim *sim)
{
    memset(m, 0, sizeof *m);
    m->plan = plan;
    m->image = image;
    m->sim = sim;
    m->overlaid = plan->processor == RMG_TESTROM_Z80 || plan->processor == RMG_TESTROM_8080 ||
                  plan->processor == RMG_TESTROM_8085;
    m->level = true;
}

/* The image byte at an address, or -1: the ROM does not answer there. */
static int rom_at(machine *m, uint32_t address)
{
    const rmg_testrom_plan *p = m->plan;

    if (address >= p->origin && address - p->origin < p->size) {
        m->overlaid = false;
        return m->image[address - p->origin];
    }
    if (p->called && address >= 0xFFFC && address <= 0xFFFF) { /* the board's own ROM starts it */
        const bool high =
            address & 1u ? p->processor == RMG_TESTROM_6502 : p->processor == RMG_TESTROM_6809;

        return (uint8_t)(high ? p->origin >> 8 : p->origin);
    }
    return m->overlaid ? m->image[address & (p->size - 1u)] : -1;
}

/* `read`: ROMs that are read count, too. */
static bool is_memory(const machine *m, uint32_t address, bool read)
{
    const rmg_addr word = address >> m->plan->byte_shift;

    for (unsigned i = 0; i < m->plan->bank_count; i++)
        if (word >= m->plan->banks[i].range.first && word <= m->plan->banks[i].range.last)
            return true;
    for (unsigned i = 0; i < m->plan->step_count; i++)
        if ((read || m->plan->steps[i].kind != RMG_TESTROM_ROM) &&
            word >= m->plan->steps[i].range.first && word <= m->plan->steps[i].range.last)
            return true;
    return false;
}

static bool on_screen(const machine *m, uint32_t address)
{
    const rmg_testrom_screen *s = &m->plan->screen;

    return s->fitted && address >= s->at && address - s->at < (uint32_t)s->columns * s->rows;
}

uint8_t machine_read(machine *m, uint32_t address, bool fetch)
{
    const int rom = rom_at(m, address);

    (void)fetch;
    if (rom >= 0) {
        rmg_sim_carry(m->sim, (rmg_word)rom);
        return (uint8_t)rom;
    }
    if (on_screen(m, address))
        return (uint8_t)(m->shown[address - m->plan->screen.at] & ~m->loses);
    m->outside += !is_memory(m, address, true);
    return (uint8_t)rmg_sim_read(m->sim, address);
}

static double bit_clocks(const machine *m)
{
    return (double)m->plan->clock_hz / m->plan->baud;
}

static void hear(machine *m, char c)
{
    if (m->length + 1u < sizeof m->text) {
        m->text[m->length++] = c;
        m->text[m->length] = '\0';
    }
    if (c == '\n') {
        const char *line = m->text + m->length - 1u;

        while (line > m->text && line[-1] != '\n')
            line--;
        m->heard += line[0] && line[1] == 'E';
        m->ended |= !m->wants_blinks && m->heard >= (m->passes ? m->passes : 1u);
    }
}

/* What a receiver sees up to now of a line that kept its level. */
static void sample(machine *m)
{
    while (m->busy && m->began + (m->sampled + 0.5) * bit_clocks(m) <= (double)m->clocks) {
        m->bits |= (unsigned)m->level << m->sampled;
        if (++m->sampled == 10) {
            m->framing += (m->bits & 1u) || !(m->bits >> 9 & 1u);
            hear(m, (char)(m->bits >> 1 & 0xFFu));
            m->busy = false;
        }
    }
}

/* A bit by a write; marks before a character are the idle line. */
static void take_bit(machine *m, bool level)
{
    if (!m->busy && level)
        return;
    if (!m->busy) {
        m->busy = true;
        m->sampled = m->bits = 0;
    }
    m->bits |= (unsigned)level << m->sampled;
    if (++m->sampled == 10) {
        m->framing += !(m->bits >> 9 & 1u);
        hear(m, (char)(m->bits >> 1 & 0xFFu));
        m->busy = false;
    }
}

static void serial(machine *m, uint16_t value)
{
    const rmg_testrom_output *o = &m->plan->serial;
    const bool level = ((value & o->bit) != 0) != o->inverted;

    if (m->by_writes) {
        take_bit(m, level);
        return;
    }

    sample(m);
    if (level == m->level)
        return;
    m->level = level;
    if (!m->busy && !level) {
        m->busy = true;
        m->began = (double)m->clocks;
        m->sampled = 0;
        m->bits = 0;
        if (!m->first_low)
            m->first_low = m->clocks;
    } else if (m->busy) {
        const double bits = ((double)m->clocks - m->began) / bit_clocks(m);
        const double off = fabs(bits - nearbyint(bits));

        if (off > m->worst_edge)
            m->worst_edge = off;
    }
}

static void lamp(machine *m, uint16_t value)
{
    const rmg_testrom_output *o = &m->plan->lamp;
    const bool lit = ((value & o->bit) != 0) != o->inverted;
    const double second = (double)m->plan->clock_hz;

    if (lit == m->lit)
        return;
    if (lit) {
        m->ended |= m->wants_blinks && m->heard >= (m->passes ? m->passes : 1u) && m->groups >= 3;
        if (m->lamp_changed && (double)(m->clocks - m->lamp_changed) > 0.5 * second &&
            m->groups < 63)
            m->groups++;
        m->flashes[m->groups]++;
    } else {
        m->lamp_on_clocks = m->clocks - m->lamp_changed;
    }
    m->lamp_changed = m->clocks;
    m->lit = lit;
}

static bool outputs(machine *m, bool port, uint32_t at, uint16_t value)
{
    const rmg_testrom_plan *p = m->plan;
    bool taken = false;

    if (p->serial.fitted && p->serial.port == port && p->serial.at == at) {
        serial(m, value);
        taken = true;
    }
    if (p->lamp.fitted && p->lamp.port == port && p->lamp.at == at) {
        lamp(m, value);
        taken = true;
    }
    if (!port && on_screen(m, at)) {
        m->shown[at - p->screen.at] = (uint8_t)value;
        taken = !is_memory(m, at, false);
    }
    for (unsigned i = 0; i < p->write_count; i++)
        taken |= p->writes[i].port == port && p->writes[i].at == at;
    return taken;
}

void machine_write(machine *m, uint32_t address, uint8_t value)
{
    rmg_sim_carry(m->sim, value);
    if (outputs(m, false, address, value))
        return;
    m->outside += !is_memory(m, address, false);
    rmg_sim_write(m->sim, address, value);
}

void machine_port(machine *m, uint32_t port, uint16_t value)
{
    rmg_sim_carry(m->sim, value);
    m->outside += !outputs(m, true, port, value);
}

uint16_t machine_read_word(machine *m, uint32_t address, bool fetch)
{
    const int high = rom_at(m, address), low = rom_at(m, address + 1u);

    (void)fetch;
    if (high >= 0 && low >= 0) {
        const unsigned value = m->plan->processor == RMG_TESTROM_68000
                                   ? (unsigned)high << 8 | (unsigned)low
                                   : (unsigned)low << 8 | (unsigned)high;

        rmg_sim_carry(m->sim, value);
        return (uint16_t)value;
    }
    m->outside += !is_memory(m, address, true);
    return (uint16_t)rmg_sim_read(m->sim, address >> 1);
}

void machine_write_word(machine *m, uint32_t address, uint16_t value)
{
    rmg_sim_carry(m->sim, value);
    if (outputs(m, false, address, value))
        return;
    m->outside += !is_memory(m, address, false);
    rmg_sim_write(m->sim, address >> 1, value);
}

bool machine_run(machine *m, uint64_t clocks)
{
    switch (m->plan->processor) {
    case RMG_TESTROM_Z80:
        cpu_z80(m, clocks);
        break;
    case RMG_TESTROM_6502:
        cpu_6502(m, clocks);
        break;
    case RMG_TESTROM_6809:
        cpu_6809(m, clocks);
        break;
    case RMG_TESTROM_8080:
    case RMG_TESTROM_8085:
        m->by_writes = m->as_z80; /* its clocks are others */
        if (m->as_z80)
            cpu_z80(m, clocks);
        else
            cpu_8080(m, clocks);
        break;
    case RMG_TESTROM_8086:
        cpu_8086(m, clocks);
        break;
    case RMG_TESTROM_68000:
        cpu_68000(m, clocks);
        break;
    default:
        return false;
    }
    if (!m->by_writes)
        sample(m);
    return m->ended;
}
