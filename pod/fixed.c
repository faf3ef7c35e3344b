/* The lines of an SRAM or a ROM: the core's drivers on the ports of an ATmega2560. */
#include <avr/io.h>
#include <avr/wdt.h>

#include "pod.h"
#include "rimeglass/pins.h"

enum { SELECT = 1 << 4, OUTPUT = 1 << 5, WRITE = 1 << 6, IDLE = SELECT | OUTPUT | WRITE };

const char chip_pod_name[] = "pod 2560";
const char chip_pod_has[] = " ok kind=sram,rom data=8 lines=13 rails=plus5 measures=plus5 lamps=2";

static bool awake;

static void put_address(void *context, rmg_addr levels)
{
    (void)context;
    PORTA = (uint8_t)levels;
    PORTC = (uint8_t)((uint16_t)levels >> 8);
    PORTL = (uint8_t)(levels >> 16) & 7;
}

static void drive(void *context, rmg_word levels)
{
    (void)context;
    PORTK = levels;
    DDRK = 0xFF;
}

static void let_go(void *context)
{
    (void)context;
    DDRK = 0;
    PORTK = 0xFF; /* weak pull-ups: what nobody drives reads 1 */
}

static rmg_word sample(void *context)
{
    (void)context;
    return PINK;
}

static void strobe(void *context, uint8_t active)
{
    (void)context;
    PORTB = (uint8_t)(IDLE & ~((active & RMG_STROBE_SELECT ? SELECT : 0) |
                               (active & RMG_STROBE_OUTPUT ? OUTPUT : 0) |
                               (active & RMG_STROBE_WRITE ? WRITE : 0)));
}

/* A call and its return take half a microsecond and more. */
static void wait_ns(void *context, uint16_t ns)
{
    (void)context;
    for (; ns > 500u; ns = (uint16_t)(ns - 500u))
        __builtin_avr_delay_cycles(8);
}

static const rmg_pins lines = {.version = RMG_PINS_VERSION,
                               .address = put_address,
                               .drive = drive,
                               .let_go = let_go,
                               .sample = sample,
                               .strobe = strobe,
                               .wait_ns = wait_ns};
static rmg_chip_pins chip = {.pins = &lines};

static rmg_status read_word(void *context, rmg_addr address, rmg_word *value)
{
    wdt_reset();
    return awake ? rmg_chip_bus.read(context, address, value) : RMG_ERR_PORT_LOST;
}

static rmg_status write_word(void *context, rmg_addr address, rmg_word value)
{
    wdt_reset();
    return awake ? rmg_chip_bus.write(context, address, value) : RMG_ERR_PORT_LOST;
}

static rmg_status wait_us(void *context, uint32_t hold_us)
{
    (void)context;
    return pod_wait_us(hold_us);
}

static rmg_status get_condition(void *context, rmg_condition which, int32_t *value)
{
    (void)context;
    return which == RMG_CONDITION_SUPPLY_MV ? pod_supply_mv(value) : RMG_ERR_PORT_CANNOT;
}

static const rmg_bus fixed_bus = {.version = RMG_BUS_VERSION,
                                  .read = read_word,
                                  .write = write_word,
                                  .wait = wait_us,
                                  .get_condition = get_condition};

/* "sram LINES MASK NS RAILS", "rom LINES MASK NS RAILS": address lines, data lines, access time. */
bool chip_fit(rmg_far_end *far, uint8_t *rails_needed, rmg_target *target, rmg_addr *last)
{
    rmg_far_value count, mask, ns, rails;
    const bool rom = rmg_far_word(far, "rom");

    if ((!rom && !rmg_far_word(far, "sram")) || !rmg_far_number(far, 0, 19, &count) ||
        !rmg_far_number(far, 0, 0xFF, &mask) || !rmg_far_number(far, 0, 10000, &ns) ||
        !rmg_far_number(far, 0, 7, &rails) || !rmg_far_at_end(far) || count < 4 || !mask ||
        mask & (mask + 1u) || rails != RAIL_PLUS5)
        return false;
    chip.kind = rom ? RMG_PINS_ROM : RMG_PINS_SRAM;
    chip.mask = (rmg_word)mask;
    chip.times = (rmg_chip_times){.access_ns = (uint16_t)ns, .pulse_ns = (uint16_t)ns};
    *rails_needed = (uint8_t)rails;
    *target = (rmg_target){&fixed_bus, &chip, (rmg_word)mask};
    *last = (rmg_addr)(((rmg_addr)1 << count) - 1u);
    return true;
}

void chip_lines_low(void)
{
    PORTA = PORTC = 0;
    PORTL &= (uint8_t)~7;
    PORTK = 0;
    PORTB &= (uint8_t)~IDLE;
    DDRA = DDRC = DDRK = 0xFF;
    DDRL |= 7;
    DDRB |= IDLE;
}

void chip_lines_pulled(void)
{
    DDRA = DDRC = DDRK = 0;
    DDRL &= (uint8_t)~7;
    DDRB &= (uint8_t)~IDLE;
    PORTA = PORTC = PORTK = 0xFF;
    PORTL |= 7;
    PORTB |= IDLE;
}

void chip_wake(void)
{
    awake = rmg_chip_begin(&chip) == RMG_OK;
}

bool chip_pace(uint8_t clocks)
{
    (void)clocks;
    return false;
}

bool chip_hold(uint32_t us)
{
    (void)us;
    return false;
}

void chip_sleep(void)
{
    awake = false;
}

bool chip_awake(void)
{
    return awake;
}
