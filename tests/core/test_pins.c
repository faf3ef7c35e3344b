/* The drivers of chips on lines, held by chips that judge every cycle by the data sheet
 * (tests/pod): marches find what is wrong, no rule is broken, no row waits too long. */
#include <string.h>

#include "../check.h"
#include "../pod/dram_model.h"
#include "../pod/static_model.h"
#include "rimeglass/march.h"
#include "rimeglass/pins.h"
#include "rimeglass/tally.h"
#include "suites.h"

#define CALL_NS 40.0 /* that each call to the lines takes */

/* Lines to either chip, and a clock that only the lines move. */
typedef struct lines {
    dram_model *dram;
    static_model *fixed;
    double now, step;
    rmg_addr address;
    rmg_word data;
    bool driven;
    uint8_t strobes;
} lines;

static unsigned broken_rules;
static const char *first_broken;

static void broken(const char *rule, double at, double found, double wanted)
{
    (void)at;
    (void)found;
    (void)wanted;
    if (!broken_rules++)
        first_broken = rule;
}

static void settle(lines *l)
{
    l->now += l->step;
    if (l->dram)
        dram_lines(l->dram, (unsigned)l->address, !(l->strobes & RMG_STROBE_ROW),
                   !(l->strobes & RMG_STROBE_COLUMN), !(l->strobes & RMG_STROBE_WRITE),
                   l->data & 1u, l->now);
    if (l->fixed)
        static_lines(l->fixed, (uint32_t)l->address, l->strobes & RMG_STROBE_SELECT,
                     l->strobes & RMG_STROBE_OUTPUT, l->strobes & RMG_STROBE_WRITE, l->driven,
                     (uint32_t)l->data, l->now);
}

static void put_address(void *context, rmg_addr levels)
{
    lines *l = context;

    l->address = levels;
    settle(l);
}

static void drive(void *context, rmg_word levels)
{
    lines *l = context;

    l->data = levels;
    l->driven = true;
    settle(l);
}

static void let_go(void *context)
{
    lines *l = context;

    l->driven = false;
    settle(l);
}

static rmg_word sample(void *context)
{
    const lines *l = context;
    uint32_t levels = 0xFF;

    if (l->dram) {
        const int q = dram_output(l->dram, l->now);

        return q < 0 ? 1u : (rmg_word)q;
    }
    return static_output(l->fixed, l->now, 0xFF, &levels) ? (rmg_word)levels : 0xFFu;
}

static void put_strobes(void *context, uint8_t active)
{
    lines *l = context;

    l->strobes = active;
    settle(l);
}

static void wait_ns(void *context, uint16_t ns)
{
    ((lines *)context)->now += ns;
}

static uint32_t now_us(void *context)
{
    lines *l = context;

    l->now += l->step;
    return (uint32_t)(uint64_t)(l->now / 1000.0);
}

static const rmg_pins pins = {.version = RMG_PINS_VERSION,
                              .address = put_address,
                              .drive = drive,
                              .let_go = let_go,
                              .sample = sample,
                              .strobe = put_strobes,
                              .wait_ns = wait_ns,
                              .now_us = now_us};

static rmg_status march(rmg_chip_pins *chip, rmg_addr last, rmg_tally *tally)
{
    const rmg_target target = {&rmg_chip_bus, chip, chip->mask};
    const rmg_range range = {0, last};
    const rmg_march_job job = {.code = rmg_march_c_minus, .ranges = &range, .range_count = 1};

    rmg_tally_clear(tally, NULL, 0);
    return rmg_march_run(&target, &job, tally);
}

static rmg_chip_pins dram_chip(lines *l, dram_model *m)
{
    memset(m, 0, sizeof *m);
    dram_begin(m);
    m->row_lines = m->column_lines = 7;
    m->cycles = 128;
    m->period_ms = 2;
    m->row_access = 200;
    m->column_access = 120;
    m->precharge = 120;
    m->active = 200;
    m->broken = broken;
    *l = (lines){.dram = m, .step = CALL_NS, .strobes = 0};
    dram_lines(m, 0, true, true, true, false, 0);
    dram_power(m, true, 0);
    broken_rules = 0;
    return (rmg_chip_pins){
        .pins = &pins,
        .context = l,
        .kind = RMG_PINS_DRAM,
        .mask = 1,
        .row_lines = 7,
        .refresh_rows = 128,
        .refresh_us = 15,
        .times = {.hold_ns = 25, .access_ns = 200, .pulse_ns = 120, .recover_ns = 120}};
}

static void dram(void)
{
    static const struct {
        const char *title;
        int row, column, stuck;
        rmg_count failing; /* 0: none */
    } rows[] = {{"sound", -1, -1, -1, 0},
                {"a row", 9, -1, -1, 128},
                {"a column", -1, 77, -1, 128},
                {"its output", -1, -1, 0, 16384}};
    static dram_model m;
    static rmg_tally tally;

    for (size_t i = 0; i < COUNT(rows); i++) {
        lines l;
        rmg_chip_pins chip = dram_chip(&l, &m);

        m.dead_row = rows[i].row;
        m.dead_column = rows[i].column;
        m.stuck = rows[i].stuck;
        CHECK(rmg_chip_begin(&chip) == RMG_OK, "begins");
        CHECK(march(&chip, 0x3FFF, &tally) == RMG_OK, "%s: runs", rows[i].title);
        CHECK(!tally.failing == !rows[i].failing &&
                  tally.failing % (rows[i].failing ? rows[i].failing : 1) == 0,
              "%s: %lu failing reads", rows[i].title, (unsigned long)tally.failing);
        CHECK(!broken_rules, "%s: %u rules broken, first %s", rows[i].title, broken_rules,
              first_broken);
        CHECK(m.longest_row < 2e6, "%s: a row waited %.0f us", rows[i].title, m.longest_row / 1000);
    }
}

/* Refresh goes on in waits and stops when it is asked to; a weak row shows only then. */
static void dram_refresh(void)
{
    static dram_model m;
    lines l;
    rmg_chip_pins chip = dram_chip(&l, &m);
    rmg_word value = 0;
    int32_t on = -1;

    m.weak_row = 6; /* decays to 0 */
    m.weak_ms = 40;
    CHECK(rmg_chip_begin(&chip) == RMG_OK, "begins");
    CHECK(rmg_chip_bus.write(&chip, 6, 1) == RMG_OK, "writes");
    CHECK(rmg_chip_bus.wait(&chip, 100000) == RMG_OK, "waits");
    CHECK(l.now > 100e6 && rmg_chip_bus.read(&chip, 6, &value) == RMG_OK && value == 1,
          "kept over 100 ms");
    CHECK(m.longest_row < 2e6, "a row waited %.0f us", m.longest_row / 1000);
    CHECK(rmg_chip_bus.set_condition(&chip, RMG_CONDITION_REFRESH, 0) == RMG_OK &&
              rmg_chip_bus.get_condition(&chip, RMG_CONDITION_REFRESH, &on) == RMG_OK && on == 0,
          "refresh off");
    rmg_chip_bus.wait(&chip, 50000);
    CHECK(rmg_chip_bus.read(&chip, 6, &value) == RMG_OK && value == 0, "gone after 50 ms without");
    CHECK(rmg_chip_bus.set_condition(&chip, RMG_CONDITION_REFRESH, 1) == RMG_OK, "and on");
    CHECK(rmg_chip_bus.set_condition(&chip, RMG_CONDITION_REFRESH, 2) == RMG_ERR_PORT_CANNOT &&
              rmg_chip_bus.set_condition(&chip, RMG_CONDITION_CLOCK_HZ, 1) == RMG_ERR_PORT_CANNOT &&
              rmg_chip_bus.get_condition(&chip, RMG_CONDITION_SUPPLY_MV, &on) ==
                  RMG_ERR_PORT_CANNOT,
          "no other condition");
    /* near the wrap of the clock: rows go on, none too often */
    l.now = 4294967296.0 * 1000 - 3e6;
    for (unsigned i = 0; i < 512; i++)
        m.row_at[i] = l.now;
    m.longest_row = 0;
    chip.due_us = now_us(&l);
    rmg_chip_bus.wait(&chip, 6000);
    CHECK(m.longest_row < 2e6 && m.longest_row > 1e6, "over the wrap: %.0f us",
          m.longest_row / 1000);
    CHECK(!broken_rules, "%u rules broken, first %s", broken_rules, first_broken);
}

static rmg_chip_pins static_chip(lines *l, static_model *m, bool rom)
{
    memset(m, 0, sizeof *m);
    static_begin(m);
    m->lines = 11;
    m->bits = 8;
    m->rom = rom;
    m->access = 150;
    m->pulse = 90;
    m->setup = 40;
    m->powered = true;
    m->broken = broken;
    *l = (lines){.fixed = m, .step = CALL_NS};
    broken_rules = 0;
    return (rmg_chip_pins){.pins = &pins,
                           .context = l,
                           .kind = rom ? RMG_PINS_ROM : RMG_PINS_SRAM,
                           .mask = 0xFF,
                           .times = {.access_ns = 150, .pulse_ns = 90}};
}

static void sram(void)
{
    static const struct {
        const char *title;
        int stuck_bit, open_line, bad_bit;
        double access;
        bool fails;
    } rows[] = {{"sound", -1, -1, -1, 150, false}, {"an output", 5, -1, -1, 150, true},
                {"a pin", -1, 4, -1, 150, true},   {"a cell", -1, -1, 2, 150, true},
                {"slow", -1, -1, -1, 400, true},   {"fast", -1, -1, -1, 60, false}};
    static static_model m;
    static rmg_tally tally;

    for (size_t i = 0; i < COUNT(rows); i++) {
        lines l;
        rmg_chip_pins chip = static_chip(&l, &m, false);

        m.stuck_bit = rows[i].stuck_bit;
        m.open_line = rows[i].open_line;
        m.bad_bit = rows[i].bad_bit;
        m.bad_cell = 0x123;
        m.access = rows[i].access;
        CHECK(rmg_chip_begin(&chip) == RMG_OK, "begins");
        CHECK(march(&chip, 0x7FF, &tally) == RMG_OK, "%s: runs", rows[i].title);
        CHECK(!tally.failing == !rows[i].fails, "%s: %lu failing reads", rows[i].title,
              (unsigned long)tally.failing);
        CHECK(!broken_rules, "%s: %u rules broken, first %s", rows[i].title, broken_rules,
              first_broken);
    }
}

static void rom(void)
{
    static static_model m;
    lines l;
    rmg_chip_pins chip = static_chip(&l, &m, true);
    rmg_word value;
    unsigned right = 0;

    CHECK(rmg_chip_begin(&chip) == RMG_OK, "begins");
    for (rmg_addr a = 0; a < 0x800; a++)
        right += rmg_chip_bus.read(&chip, a, &value) == RMG_OK && value == (m.cells[a] & 0xFFu) &&
                 !l.strobes;
    CHECK(right == 0x800, "%u bytes right", right);
    CHECK(rmg_chip_bus.write(&chip, 0, 0) == RMG_ERR_PORT_CANNOT, "no writes");
    CHECK(rmg_chip_bus.set_condition(&chip, RMG_CONDITION_REFRESH, 0) == RMG_ERR_PORT_CANNOT,
          "no refresh");
    m.missing = true;
    CHECK(rmg_chip_bus.read(&chip, 5, &value) == RMG_OK && value == 0xFF, "an empty socket");
    CHECK(!broken_rules, "%u rules broken, first %s", broken_rules, first_broken);
}

/* The judge itself: a driver in too great a hurry is seen. */
static void judge(void)
{
    static dram_model d;
    static static_model s;
    static rmg_tally tally;
    lines l;
    rmg_chip_pins chip = dram_chip(&l, &d);

    l.step = 5;
    chip.times = (rmg_chip_times){0};
    rmg_chip_begin(&chip);
    march(&chip, 0xFF, &tally);
    CHECK(broken_rules, "a DRAM without precharge");
    chip = dram_chip(&l, &d);
    chip.refresh_us = 60;
    rmg_chip_begin(&chip);
    rmg_chip_bus.wait(&chip, 20000);
    CHECK(d.longest_row > 2e6, "a DRAM with too little refresh: %.0f us", d.longest_row / 1000);
    chip = static_chip(&l, &s, false);
    l.step = 5;
    chip.times = (rmg_chip_times){0};
    rmg_chip_begin(&chip);
    march(&chip, 0xFF, &tally);
    CHECK(broken_rules && tally.failing, "an SRAM with short pulses");
}

static void refused(void)
{
    static dram_model m;
    lines l;
    rmg_chip_pins chip = dram_chip(&l, &m);
    rmg_pins less = pins;

    chip.pins = &less;
    CHECK(rmg_chip_begin(&chip) == RMG_OK, "as it is");
    less.now_us = NULL;
    CHECK(rmg_chip_begin(&chip) == RMG_ERR_ARGUMENT, "refresh without a clock");
    chip.refresh_rows = 0;
    CHECK(rmg_chip_begin(&chip) == RMG_OK, "refresh from elsewhere");
    CHECK(rmg_chip_bus.wait(&chip, 1) == RMG_ERR_PORT_CANNOT, "no clock, no waits");
    less.sample = NULL;
    CHECK(rmg_chip_begin(&chip) == RMG_ERR_ARGUMENT, "nothing to sample with");
    less = pins;
    less.version = 9;
    CHECK(rmg_chip_begin(&chip) == RMG_ERR_ARGUMENT, "another version");
}

CU_TestInfo pins_tests[] = {
    {"a DRAM", dram},     {"its refresh", dram_refresh}, {"an SRAM", sram}, {"a ROM", rom},
    {"the judge", judge}, {"refused", refused},          CU_TEST_INFO_NULL,
};
