/* Chips on lines: cycles of DRAM, SRAM and ROM. */
#include "rimeglass/pins.h"

#define WAKE_CYCLES 8u

static void pause(const rmg_chip_pins *c, uint16_t ns)
{
    if (ns && c->pins->wait_ns)
        c->pins->wait_ns(c->context, ns);
}

static void strobe(const rmg_chip_pins *c, uint8_t active)
{
    c->pins->strobe(c->context, active);
}

/* One row, by its strobe alone. */
static void refresh_row(rmg_chip_pins *c)
{
    c->pins->address(c->context, c->row);
    pause(c, c->times.setup_ns);
    strobe(c, RMG_STROBE_ROW);
    pause(c, c->times.access_ns);
    strobe(c, 0);
    pause(c, c->times.recover_ns);
    c->row++;
    if (c->row >= c->refresh_rows)
        c->row = 0;
}

void rmg_chip_refresh(rmg_chip_pins *c)
{
    uint32_t now;

    if (!c->refreshes)
        return;
    now = c->pins->now_us(c->context);
    /* a clock that wraps: what lies less than half its span behind is due */
    while ((uint32_t)(now - c->due_us) < 0x80000000u) {
        refresh_row(c);
        c->due_us += c->refresh_us;
    }
}

rmg_status rmg_chip_begin(rmg_chip_pins *c)
{
    const rmg_pins *p = c->pins;

    if (!p || p->version != RMG_PINS_VERSION || !p->address || !p->drive || !p->let_go ||
        !p->sample || !p->strobe)
        return RMG_ERR_ARGUMENT;
    c->refreshes = c->kind == RMG_PINS_DRAM && c->refresh_rows;
    if (c->refreshes && (!p->now_us || !c->refresh_us))
        return RMG_ERR_ARGUMENT;
    strobe(c, 0);
    p->let_go(c->context);
    c->row = 0;
    if (c->kind == RMG_PINS_DRAM)
        for (uint8_t i = 0; i < WAKE_CYCLES; i++)
            refresh_row(c);
    if (c->refreshes)
        c->due_us = p->now_us(c->context);
    return RMG_OK;
}

/* Row and column of a DRAM's address. */
static void open_row(const rmg_chip_pins *c, rmg_addr address, bool writes)
{
    const rmg_addr rows = (rmg_addr)(((rmg_addr)1 << c->row_lines) - 1u);
    rmg_addr column = address;

    for (uint8_t i = 0; i < c->row_lines; i++) /* by single shifts: few processors have others */
        column >>= 1;
    c->pins->address(c->context, address & rows);
    pause(c, c->times.setup_ns);
    strobe(c, RMG_STROBE_ROW);
    pause(c, c->times.hold_ns);
    c->pins->address(c->context, column);
    if (writes) /* early: before the column strobe, so that the output stays off */
        strobe(c, RMG_STROBE_ROW | RMG_STROBE_WRITE);
    pause(c, c->times.setup_ns);
}

static rmg_status read_word(void *context, rmg_addr address, rmg_word *value)
{
    rmg_chip_pins *c = context;

    rmg_chip_refresh(c);
    if (c->kind == RMG_PINS_DRAM) {
        open_row(c, address, false);
        strobe(c, RMG_STROBE_ROW | RMG_STROBE_COLUMN | RMG_STROBE_OUTPUT);
    } else {
        c->pins->address(c->context, address);
        pause(c, c->times.setup_ns);
        strobe(c, RMG_STROBE_SELECT | RMG_STROBE_OUTPUT);
    }
    pause(c, c->times.access_ns);
    *value = c->pins->sample(c->context) & c->mask;
    strobe(c, 0);
    pause(c, c->times.recover_ns);
    return RMG_OK;
}

static rmg_status write_word(void *context, rmg_addr address, rmg_word value)
{
    rmg_chip_pins *c = context;

    if (c->kind == RMG_PINS_ROM)
        return RMG_ERR_PORT_CANNOT;
    rmg_chip_refresh(c);
    if (c->kind == RMG_PINS_DRAM) {
        c->pins->drive(c->context, value);
        open_row(c, address, true);
        strobe(c, RMG_STROBE_ROW | RMG_STROBE_WRITE | RMG_STROBE_COLUMN);
    } else {
        c->pins->address(c->context, address);
        pause(c, c->times.setup_ns);
        /* write before data: the chip's outputs are off when ours come on */
        strobe(c, RMG_STROBE_SELECT | RMG_STROBE_WRITE);
        pause(c, c->times.hold_ns);
        c->pins->drive(c->context, value);
    }
    pause(c, c->times.pulse_ns);
    strobe(c, 0);
    c->pins->let_go(c->context);
    pause(c, c->times.recover_ns);
    return RMG_OK;
}

static rmg_status wait_us(void *context, uint32_t hold_us)
{
    rmg_chip_pins *c = context;
    uint32_t began;

    if (!c->pins->now_us)
        return RMG_ERR_PORT_CANNOT;
    began = c->pins->now_us(c->context);
    do
        rmg_chip_refresh(c);
    while (c->pins->now_us(c->context) - began < hold_us);
    return RMG_OK;
}

static rmg_status set_condition(void *context, rmg_condition which, int32_t value)
{
    rmg_chip_pins *c = context;

    if (which != RMG_CONDITION_REFRESH || c->kind != RMG_PINS_DRAM || !c->refresh_rows ||
        value < 0 || value > 1)
        return RMG_ERR_PORT_CANNOT;
    if (value && !c->refreshes)
        c->due_us = c->pins->now_us(c->context);
    c->refreshes = value != 0;
    return RMG_OK;
}

static rmg_status get_condition(void *context, rmg_condition which, int32_t *value)
{
    const rmg_chip_pins *c = context;

    if (which != RMG_CONDITION_REFRESH || c->kind != RMG_PINS_DRAM)
        return RMG_ERR_PORT_CANNOT;
    *value = c->refreshes;
    return RMG_OK;
}

const rmg_bus rmg_chip_bus = {.version = RMG_BUS_VERSION,
                              .read = read_word,
                              .write = write_word,
                              .wait = wait_us,
                              .get_condition = get_condition,
                              .set_condition = set_condition};
