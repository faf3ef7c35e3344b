#include "dram_model.h"

#include <string.h>

#define COLUMN 9u /* columns stand above so many row bits */

void dram_begin(dram_model *m)
{
    m->ras = m->cas = m->we = false;
    m->bits = 1;
    m->enabled = true;
    m->stuck = m->dead_row = m->dead_column = m->open_line = m->bad_half_line = m->weak_row = -1;
    for (uint32_t i = 0; i < sizeof m->cells; i++)
        m->cells[i] = (uint8_t)((i * 2654435761u) >> 24);
}

void dram_power(dram_model *m, bool on, double at)
{
    m->begun = false;
    m->powered = on;
    m->powered_at = at;
    m->ras_rose = at;
    if (!on)
        m->driving = false;
}

static uint32_t cell_at(const dram_model *m)
{
    unsigned row = m->row & ((1u << m->row_lines) - 1u);
    unsigned column = m->column >> m->column_from & ((1u << m->column_lines) - 1u);

    return row | column << COLUMN;
}

static bool in_bad_half(const dram_model *m, uint32_t cell)
{
    const int line = m->bad_half_line;

    return line >= 0 && (int)(cell >> line & 1u) == m->bad_half_level;
}

/* Rows that one refresh cycle refreshes: all that are alike below `cycles`. */
static void open_row(dram_model *m, double at)
{
    const unsigned rows = 1u << m->row_lines;
    const unsigned group = m->row & (m->cycles - 1u);
    double since;

    for (unsigned i = 0; !m->begun && i < 512; i++)
        m->row_at[i] = at; /* what it held before its first cycle is nothing */
    m->begun = true;
    since = at - m->row_at[group];
    if (since > m->longest_row)
        m->longest_row = since;
    for (unsigned row = group; row < rows; row += m->cycles) {
        const double keeps = (int)row == m->weak_row ? m->weak_ms : 8 * m->period_ms;

        if (since > keeps * 1e6)
            for (unsigned column = 0; column < 1u << m->column_lines; column++)
                m->cells[row | column << COLUMN] = (uint8_t)(0u - (row & 1u));
    }
    m->row_at[group] = at;
}

/* Faults of cells are those of D0. */
static void write_cell(dram_model *m, uint32_t cell, unsigned word)
{
    const unsigned before = m->cells[cell] & 1u, others = word & ~1u;
    unsigned value = word & 1u;

    for (unsigned i = 0; i < m->fault_count; i++) {
        const dram_fault *f = &m->faults[i];

        if (f->kind == CELL_COUPLED && f->by == cell && before != value)
            m->cells[f->cell] = (uint8_t)((m->cells[f->cell] & ~1u) | (unsigned)f->level);
        if (f->cell != cell)
            continue;
        if ((f->kind == CELL_NO_RISE && value && !before) ||
            (f->kind == CELL_NO_FALL && !value && before))
            value = before;
    }
    m->cells[cell] = (uint8_t)(others | value);
}

static unsigned read_cell(const dram_model *m, uint32_t cell)
{
    unsigned value = m->cells[cell] & ((1u << m->bits) - 1u);

    for (unsigned i = 0; i < m->fault_count; i++)
        if (m->faults[i].kind == CELL_STUCK && m->faults[i].cell == cell)
            value = (value & ~1u) | (unsigned)m->faults[i].level;
    if ((int)(cell & 511u) == m->dead_row || (int)(cell >> COLUMN) == m->dead_column)
        value = 0;
    if (in_bad_half(m, cell))
        value = (value & ~1u) | ((cell * 40503u >> 7) & 1u);
    return m->stuck >= 0 ? (value & ~1u) | (unsigned)m->stuck : value;
}

static void rule(dram_model *m, bool kept, const char *name, double at, double found, double wanted)
{
    if (!kept && m->powered)
        m->broken(name, at, found, wanted);
}

static void row_strobe(dram_model *m, bool level, double at)
{
    if (!level) {
        rule(m, at - m->ras_rose >= m->precharge, "precharge", at, at - m->ras_rose, m->precharge);
        m->row = m->address;
        m->ras_fell = at;
        open_row(m, at);
    } else {
        rule(m, at - m->ras_fell >= m->active, "RAS low too short", at, at - m->ras_fell,
             m->active);
        rule(m, at - m->ras_fell <= 10000 || m->ras_fell < m->powered_at, "RAS low too long", at,
             at - m->ras_fell, 10000);
        m->ras_rose = at;
    }
}

static void column_strobe(dram_model *m, bool level, double at)
{
    if (level) {
        m->driving = false;
        return;
    }
    rule(m, !m->ras || m->cas == level, "CAS without RAS", at, 0, 0);
    rule(m, at - m->ras_fell >= 20, "RAS to CAS", at, at - m->ras_fell, 20);
    m->column = m->address;
    m->cas_fell = at;
    if (m->ras)
        return;
    if (!m->we) {
        rule(m, m->bits == 1 || m->driven, "data driven as CAS falls", at, 0, 0);
        write_cell(m, cell_at(m), m->d);
    } else {
        m->driving = true;
        m->value = read_cell(m, cell_at(m));
        m->valid_at = m->ras_fell + m->row_access > at + m->column_access
                          ? m->ras_fell + m->row_access
                          : at + m->column_access;
    }
}

void dram_lines(dram_model *m, unsigned address, bool ras, bool cas, bool we, unsigned d, double at)
{
    if (m->open_line >= 0)
        address &= ~(1u << m->open_line);
    if (m->powered) {
        rule(m, address == m->address || ras || at - m->ras_fell >= 20 || m->ras,
             "row address held", at, at - m->ras_fell, 20);
        rule(m, address == m->address || cas || m->cas, "column address held", at, 0, 0);
        rule(m, we || we == m->we || cas, "WE after CAS", at, 0, 0);
        rule(m, d == m->d || cas || m->cas, "D held", at, 0, 0);
    }
    m->address = address;
    m->we = we;
    m->d = d;
    if (m->powered && ras != m->ras)
        row_strobe(m, ras, at);
    m->ras = ras;
    if (m->powered && cas != m->cas)
        column_strobe(m, cas, at);
    m->cas = cas;
}

void dram_shared_lines(dram_model *m, bool driven, bool enabled, double at)
{
    m->driven = driven;
    m->enabled = enabled;
    rule(m, m->bits == 1 || !(m->driving && enabled && driven), "two drive the data lines", at, 0,
         0);
}

int dram_output(const dram_model *m, double at)
{
    if (m->missing || !m->powered || !m->driving || !m->enabled)
        return -1;
    return at >= m->valid_at ? (int)m->value : -1;
}
