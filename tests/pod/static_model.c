#include "static_model.h"

static void rule(static_model *m, bool kept, const char *name, double at, double found,
                 double wanted)
{
    if (!kept && m->powered && !m->missing)
        m->broken(name, at, found, wanted);
}

void static_begin(static_model *m)
{
    m->stuck_bit = m->open_line = m->bad_bit = -1;
    for (uint32_t i = 0; i < sizeof m->cells / sizeof *m->cells; i++)
        m->cells[i] = (uint16_t)((i * 2654435761u) >> 16);
}

static uint32_t cell_at(const static_model *m)
{
    uint32_t address = m->address & ((1u << m->lines) - 1u);

    return m->open_line >= 0 ? address & ~(1u << m->open_line) : address;
}

static double latest(double a, double b)
{
    return a > b ? a : b;
}

double static_valid_at(const static_model *m)
{
    return latest(latest(m->address_at, m->select_at) + m->access, m->output_at + m->access / 2);
}

bool static_output(const static_model *m, double at, uint32_t before, uint32_t *levels)
{
    const uint32_t mask = (1u << m->bits) - 1u;

    if (m->missing || !m->powered || !m->select || !m->output || m->write)
        return false;
    *levels = (m->inverted ? ~(uint32_t)m->cells[cell_at(m)] : m->cells[cell_at(m)]) & mask;
    if (m->bad_bit >= 0 && cell_at(m) == m->bad_cell)
        *levels = (*levels & ~(1u << m->bad_bit)) | (uint32_t)m->bad_level << m->bad_bit;
    if (m->stuck_bit >= 0)
        *levels = (*levels & ~(1u << m->stuck_bit)) | (uint32_t)m->stuck_level << m->stuck_bit;
    if (at < static_valid_at(m))
        *levels = before & mask;
    return true;
}

void static_lines(static_model *m, uint32_t address, bool select, bool output, bool write,
                  bool driven, uint32_t data, double at)
{
    const bool was_writing = m->select && m->write, writes = select && write;
    const bool drives = select && output && !write;

    if (was_writing && m->powered && !m->missing) {
        rule(m, address == m->address, "address changed in a write", at, 0, 0);
        if (!writes) {
            const double began = latest(m->write_at, m->select_at);

            rule(m, at - began >= m->pulse, "write pulse", at, at - began, m->pulse);
            rule(m, m->driven, "data driven to the end of a write", at, 0, 0);
            rule(m, at - m->data_at >= m->setup, "data before the end of a write", at,
                 at - m->data_at, m->setup);
            if (!m->rom)
                m->cells[cell_at(m)] = (uint16_t)(m->data & ((1u << m->bits) - 1u));
        }
    }
    rule(m, !(writes && m->rom), "a write to a ROM", at, 0, 0);
    rule(m, m->apart || !(drives && driven), "two drive the data lines", at, 0, 0);
    if (address != m->address)
        m->address_at = at;
    if (select != m->select)
        m->select_at = at;
    if (output != m->output)
        m->output_at = at;
    if (write != m->write)
        m->write_at = at;
    if (data != m->data || driven != m->driven)
        m->data_at = at;
    m->address = address;
    m->select = select;
    m->output = output;
    m->write = write;
    m->driven = driven;
    m->data = data;
}
