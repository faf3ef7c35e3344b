/* An ATmega328P that tests a memory by itself and shows a lamp at PB5: on, all of it is sound; off,
 * it is being tested; else it blinks as often as the lowest bad data bit says, bit 0 once.
 *
 * The memory here is an array, so that the program runs as it is. Put your own pins into the two
 * functions of the port; nothing else changes. */
#define F_CPU 16000000ul /* for the delays */
#include <avr/io.h>
#include <util/delay.h>

#include <rimeglass/rimeglass.h>

#define WORDS 256u

static uint8_t cells[WORDS];

static rmg_status cell_read(void *context, rmg_addr address, rmg_word *value)
{
    (void)context;
    *value = cells[address];
    return RMG_OK;
}

static rmg_status cell_write(void *context, rmg_addr address, rmg_word value)
{
    (void)context;
    cells[address] = value;
    return RMG_OK;
}

static const rmg_bus cell_bus = {
    .version = RMG_BUS_VERSION, .read = cell_read, .write = cell_write};

static void lamp(uint8_t on)
{
    PORTB = on ? PORTB | 1 << 5 : PORTB & ~(1 << 5);
}

int main(void)
{
    static rmg_tally tally;
    const rmg_target target = {.bus = &cell_bus, .mask = 0xFF};
    const rmg_range all = {.first = 0, .last = WORDS - 1};
    const rmg_march_job job = {.code = rmg_march_c_minus, .ranges = &all, .range_count = 1};
    uint8_t bit = 0;

    DDRB |= 1 << 5;
    rmg_tally_clear(&tally, NULL, 0);
    if (rmg_march_run(&target, &job, &tally) == RMG_OK && !tally.failing)
        for (;;)
            lamp(1);
    while (bit < 7 && !(tally.first[0].expected >> bit & 1) == !(tally.first[0].actual >> bit & 1))
        bit++;
    for (;;) {
        for (uint8_t n = 0; n <= bit; n++) {
            lamp(1);
            _delay_ms(250);
            lamp(0);
            _delay_ms(250);
        }
        _delay_ms(1500);
    }
}
