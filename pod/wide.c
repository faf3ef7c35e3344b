/* The lines of an SRAM or a ROM: the core's drivers on the ports of an ATmega2560; and what a DRAM
 * shares with them. */
#include <avr/interrupt.h>
#include <avr/wdt.h>

#include "rimeglass/pins.h"
#include "wide.h"

const char chip_pod_name[] = "pod 2560";
const char chip_pod_has[] = " ok kind=dram,sram,rom data=10 lines=13 apart=4 "
                            "rails=plus5,plus12,minus5 measures=plus5,plus12 sees=minus5 lamps=2";

#define HIGH_DATA 0xFCu /* of port F: D8-D13 */
#define TOP_DATA  3u    /* of port J: D14, D15 */

volatile bool wide_awake;
bool wide_apart;
uint8_t wide_pace;

static bool is_dram;
static bool is_inverted; /* it reads the complement of what was written */

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
    if (wide_apart) {
        PORTK = (uint8_t)((levels << APART_SHIFT) | APART_MOST);
        return;
    }
    PORTK = (uint8_t)levels;
    DDRK = 0xFF; /* no part with more data lines takes writes */
}

static void let_go(void *context)
{
    (void)context;
    if (wide_apart) {
        PORTK |= APART_MOST;
        DDRK = (uint8_t)~APART_MOST;
        return;
    }
    DDRK = 0;
    PORTK = 0xFF; /* weak pull-ups: what nobody drives reads 1 */
}

static rmg_word sample(void *context)
{
    const uint8_t low = PINK, high = PINF, top = PINJ;

    (void)context;
    return (rmg_word)(low | (rmg_word)(((high & HIGH_DATA) >> 2) | ((top & TOP_DATA) << 6)) << 8);
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

/* D0-D7, so many clocks after the strobes; the pin is read in the second clock of its instruction.
 */
static uint8_t paced_read(rmg_addr address)
{
    const uint8_t active = (uint8_t)(IDLE & ~(SELECT | OUTPUT));
    uint8_t data = 0;

    /* one piece, so that no compiler takes strobe and sample apart */
#define SAMPLE_AFTER(n, nops)                                                                      \
    case n:                                                                                        \
        __asm__ volatile("out %1, %2\n\t" nops "lds %0, %3"                                        \
                         : "=r"(data)                                                              \
                         : "I"(_SFR_IO_ADDR(PORTB)), "r"(active), "n"(_SFR_MEM_ADDR(PINK)));       \
        break;
#define NOP "nop\n\t"
    put_address(0, address);
    __builtin_avr_delay_cycles(16);
    cli();
    switch (wide_pace) {
        SAMPLE_AFTER(2, "")
        SAMPLE_AFTER(3, NOP)
        SAMPLE_AFTER(4, NOP NOP)
        SAMPLE_AFTER(5, NOP NOP NOP)
        SAMPLE_AFTER(6, NOP NOP NOP NOP)
        SAMPLE_AFTER(7, NOP NOP NOP NOP NOP)
        SAMPLE_AFTER(8, NOP NOP NOP NOP NOP NOP)
    }
#undef NOP
#undef SAMPLE_AFTER
    __builtin_avr_delay_cycles(4);
    PORTB = IDLE;
    sei();
    return data;
}

static rmg_status read_word(void *context, rmg_addr address, rmg_word *value)
{
    wdt_reset();
    if (!wide_awake)
        return RMG_ERR_PORT_LOST;
    if (wide_pace)
        *value = paced_read(address) & chip.mask;
    else
        rmg_chip_bus.read(context, address, value);
    if (is_inverted)
        *value ^= chip.mask;
    return RMG_OK;
}

static rmg_status write_word(void *context, rmg_addr address, rmg_word value)
{
    wdt_reset();
    return wide_awake ? rmg_chip_bus.write(context, address, value) : RMG_ERR_PORT_LOST;
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

/* "apart", "inverted", both or nothing; and the end. */
static bool fit_rest(rmg_far_end *far, rmg_far_value mask)
{
    const bool apart = rmg_far_word(far, "apart");
    const bool inverted = rmg_far_word(far, "inverted");

    if (!rmg_far_at_end(far) || (apart && mask > APART_MOST) || (inverted && is_dram))
        return false;
    wide_apart = apart;
    is_inverted = inverted;
    return true;
}

/* "sram LINES MASK NS RAILS [apart] [inverted]", "rom ...": address lines, data lines, access time;
 * "dram LINES ROWS REFRESH RAILS MASK FROM [apart]": the address pin of its lowest column line. */
bool chip_fit(rmg_far_end *far, uint8_t *rails_needed, rmg_target *target, rmg_addr *last)
{
    rmg_far_value count, mask, ns, rails;
    bool rom;

    wide_pace = 0;
    is_dram = rmg_far_word(far, "dram");
    if (is_dram)
        return wide_dram_fit(far, rails_needed, target, last, &mask) && fit_rest(far, mask);
    rom = rmg_far_word(far, "rom");
    if ((!rom && !rmg_far_word(far, "sram")) || !rmg_far_number(far, 0, 19, &count) ||
        !rmg_far_number(far, 0, rom ? 0xFFFF : 0xFF, &mask) ||
        !rmg_far_number(far, 0, 10000, &ns) || !rmg_far_number(far, 0, 7, &rails) || count < 4 ||
        !mask || mask & (mask + 1u) || !(rails & RAIL_PLUS5) || !fit_rest(far, mask))
        return false;
    chip.kind = rom ? RMG_PINS_ROM : RMG_PINS_SRAM;
    chip.mask = (rmg_word)mask;
    chip.times = (rmg_chip_times){.access_ns = (uint16_t)ns, .pulse_ns = (uint16_t)ns};
    *rails_needed = (uint8_t)rails;
    *target = (rmg_target){&fixed_bus, &chip, (rmg_word)mask};
    *last = (rmg_addr)(((rmg_addr)1 << count) - 1u);
    return true;
}

/* But for the data lines: as its supply comes, a chip that is selected may drive them. */
void chip_lines_low(void)
{
    PORTA = PORTC = 0;
    PORTL &= (uint8_t)~7;
    DDRK = PORTK = 0;
    DDRF &= (uint8_t)~HIGH_DATA;
    PORTF &= (uint8_t)~HIGH_DATA;
    DDRJ &= (uint8_t)~TOP_DATA;
    PORTJ &= (uint8_t)~TOP_DATA;
    PORTB &= (uint8_t)~IDLE;
    DDRA = DDRC = 0xFF;
    DDRL |= 7;
    DDRB |= IDLE;
}

void chip_lines_pulled(void)
{
    DDRA = DDRC = DDRK = 0;
    DDRF &= (uint8_t)~HIGH_DATA;
    DDRJ &= (uint8_t)~TOP_DATA;
    DDRL &= (uint8_t)~7;
    DDRB &= (uint8_t)~IDLE;
    PORTA = PORTC = PORTK = 0xFF;
    PORTF |= HIGH_DATA;
    PORTJ |= TOP_DATA;
    PORTL |= 7;
    PORTB |= IDLE;
}

void chip_wake(void)
{
    PORTB = IDLE;
    DDRF &= (uint8_t)~HIGH_DATA;
    DDRJ &= (uint8_t)~TOP_DATA;
    PORTF |= HIGH_DATA;
    PORTJ |= TOP_DATA;
    let_go(0);
    if (is_dram) {
        wide_dram_wake();
        return;
    }
    wide_awake = rmg_chip_begin(&chip) == RMG_OK;
}

bool chip_pace(uint8_t clocks)
{
    if (clocks == 1) /* sooner than the pins can be read */
        return false;
    wide_pace = clocks;
    return true;
}

bool chip_hold(uint32_t us)
{
    return is_dram && wide_dram_hold(us);
}

void chip_sleep(void)
{
    if (is_dram)
        wide_dram_refresh(false);
    wide_awake = false;
    wide_pace = 0;
}

bool chip_awake(void)
{
    return wide_awake;
}
