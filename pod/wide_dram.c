/* A DRAM of up to eight data bits on the ports of an ATmega2560. An access is not interrupted;
 * refresh comes between accesses, by a timer, so it goes on whatever the pod does. */
#include <avr/interrupt.h>
#include <avr/wdt.h>

#include "rimeglass/march.h"
#include "wide.h"

#define REFRESH_US   200u /* time between two bursts of refresh, */
#define REFRESH_ROWS 16u  /* rows of a burst: a row in 12.5 us, where all such parts allow 15.6 */

/* The part that is fitted. */
static struct {
    uint8_t row_lines;
    uint16_t row_last;
    uint16_t refresh_last; /* rows are walked from 0 to this one */
    uint8_t mask;
    uint8_t column_from; /* address pin of the lowest column line */
} part;

static uint16_t refresh_row; /* while interrupts are off */

#define PAUSE(cycles) __builtin_avr_delay_cycles(cycles)

static inline __attribute__((always_inline)) void put_line(uint16_t line)
{
    PORTA = (uint8_t)line;
    PORTC = (uint8_t)(line >> 8);
}

/* RAS low, column on the lines. */
static inline __attribute__((always_inline)) void open_row(uint16_t row, uint16_t column)
{
    put_line(row);
    PORTB = IDLE;
    PORTB = IDLE & (uint8_t)~RAS;
    PAUSE(1);
    put_line(column);
}

/* Interrupts are off, here and in the next three. */
static uint8_t read_cycle(uint16_t row, uint16_t column)
{
    uint8_t data;

    open_row(row, column);
    PORTB = IDLE & (uint8_t) ~(RAS | CAS | OUTPUT);
    PAUSE(4); /* and the clocks that the pin's synchroniser takes */
    data = PINK;
    PORTB = IDLE;
    PAUSE(2);
    return data;
}

/* The same, with data sampled so many clocks after CAS and output enable fell; the pin is read in
 * the second clock of its instruction. RAS fell long before. */
static uint8_t paced_cycle(uint16_t row, uint16_t column)
{
    const uint8_t active = IDLE & (uint8_t) ~(RAS | CAS | OUTPUT);
    uint8_t data = 0;

#define SAMPLE_AFTER(n, nops)                                                                      \
    case n:                                                                                        \
        __asm__ volatile("out %1, %2\n\t" nops "lds %0, %3"                                        \
                         : "=r"(data)                                                              \
                         : "I"(_SFR_IO_ADDR(PORTB)), "r"(active), "n"(_SFR_MEM_ADDR(PINK)));       \
        break;
#define NOP "nop\n\t"
    open_row(row, column);
    PAUSE(8);
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
    PAUSE(3);
    PORTB = IDLE;
    PAUSE(2);
    return data;
}

/* An early write. */
static void write_cycle(uint16_t row, uint16_t column, uint8_t value)
{
    if (wide_apart) {
        PORTK = (uint8_t)(value << APART_SHIFT | APART_MOST);
    } else {
        PORTK = value;
        DDRK = part.mask;
    }
    open_row(row, column);
    PORTB = IDLE & (uint8_t) ~(RAS | WRITE);
    PORTB = IDLE & (uint8_t) ~(RAS | WRITE | CAS);
    PAUSE(4);
    PORTB = IDLE;
    if (!wide_apart) {
        DDRK = 0;
        PORTK = 0xFF;
    }
    PAUSE(1);
}

/* RAS alone, row after row. */
static inline __attribute__((always_inline)) void refresh_rows(uint16_t count)
{
    uint16_t row = refresh_row;

    for (; count; count--) {
        put_line(row);
        PORTB = IDLE & (uint8_t)~RAS;
        PAUSE(4);
        PORTB = IDLE;
        row = (uint16_t)((row + 1u) & part.refresh_last);
    }
    refresh_row = row;
}

ISR(TIMER0_COMPA_vect)
{
    refresh_rows(REFRESH_ROWS);
}

void wide_dram_refresh(bool on)
{
    if (on)
        TIMSK0 |= 1 << OCIE0A;
    else
        TIMSK0 &= (uint8_t) ~(1 << OCIE0A);
}

void wide_dram_wake(void)
{
    refresh_row = 0;
    OCR0A = (uint8_t)(REFRESH_US / 4u - 1u);
    TCCR0A = 1 << WGM01;
    TCCR0B = (1 << CS01) | (1 << CS00); /* a tick is 4 us */
    wide_awake = true;
    wide_dram_refresh(true);
    pod_wait_ms(2); /* eight cycles and more, by the timer */
}

bool wide_dram_hold(uint32_t us)
{
    const uint16_t rows = part.refresh_last + 1u;
    const uint32_t walk_us = rows + (rows >> 1); /* what all rows take, about */

    wide_dram_refresh(false);
    refresh_rows(rows);
    pod_wait_us(us > walk_us ? us - walk_us : 0);
    if (wide_awake)
        refresh_rows(rows); /* each row has waited as long as it was asked for */
    wide_dram_refresh(wide_awake);
    return true;
}

static void split(rmg_addr address, uint16_t *row, uint16_t *column)
{
    *row = (uint16_t)address & part.row_last;
    *column = (uint16_t)((uint16_t)(address >> part.row_lines) << part.column_from);
}

static rmg_status read_word(void *context, rmg_addr address, rmg_word *value)
{
    uint16_t row, column;

    (void)context;
    wdt_reset();
    if (!wide_awake)
        return RMG_ERR_PORT_LOST;
    split(address, &row, &column);
    cli();
    *value = (wide_pace ? paced_cycle(row, column) : read_cycle(row, column)) & part.mask;
    sei();
    return RMG_OK;
}

static rmg_status write_word(void *context, rmg_addr address, rmg_word value)
{
    uint16_t row, column;

    (void)context;
    wdt_reset();
    if (!wide_awake)
        return RMG_ERR_PORT_LOST;
    split(address, &row, &column);
    cli();
    write_cycle(row, column, (uint8_t)value);
    sei();
    return RMG_OK;
}

/* A march element, word by word. Ends with the word of the first wrong read. */
static rmg_status run_element(void *context, rmg_element_call *call)
{
    const rmg_addr end = call->down ? call->range.first : call->range.last;
    const uint8_t values[2] = {(uint8_t)(call->background & call->mask),
                               (uint8_t)(~call->background & call->mask)};
    bool wrong = false;

    (void)context;
    if (wide_pace)
        return RMG_ERR_PORT_CANNOT; /* by single accesses then */
    for (;;) {
        uint16_t row, column;

        if (!wide_awake)
            return RMG_ERR_PORT_LOST;
        split(call->address, &row, &column);
        for (uint8_t i = call->operation; i < call->op_count; i++) {
            const uint8_t value = values[call->ops[i] & RMG_OP_ONE ? 1 : 0];
            uint8_t data;

            cli();
            if (call->ops[i] & RMG_OP_WRITE) {
                write_cycle(row, column, value);
                sei();
                continue;
            }
            data = read_cycle(row, column) & (uint8_t)call->mask;
            sei();
            if (data == value)
                continue;
            call->mismatch(call->sink_context, call->address, i, value, data);
            wrong = true;
        }
        call->operation = 0;
        if (call->address == end)
            return RMG_OK;
        call->address = (rmg_addr)(call->down ? call->address - 1u : call->address + 1u);
        if (!--call->words_a_call || wrong)
            return RMG_ERR_CANCELLED;
        if (!(uint8_t)call->address)
            wdt_reset();
    }
}

static rmg_status wait_us(void *context, uint32_t hold_us)
{
    (void)context;
    return pod_wait_us(hold_us);
}

static rmg_status set_condition(void *context, rmg_condition which, int32_t value)
{
    (void)context;
    if (which != RMG_CONDITION_REFRESH || value < 0 || value > 1)
        return RMG_ERR_PORT_CANNOT;
    if (wide_awake)
        wide_dram_refresh(value != 0);
    return RMG_OK;
}

static rmg_status get_condition(void *context, rmg_condition which, int32_t *value)
{
    (void)context;
    if (which == RMG_CONDITION_SUPPLY_MV)
        return pod_supply_mv(value);
    if (which != RMG_CONDITION_REFRESH)
        return RMG_ERR_PORT_CANNOT;
    *value = (TIMSK0 & (1 << OCIE0A)) != 0;
    return RMG_OK;
}

static const rmg_bus dram_bus = {.version = RMG_BUS_VERSION,
                                 .read = read_word,
                                 .write = write_word,
                                 .run_element = run_element,
                                 .wait = wait_us,
                                 .get_condition = get_condition,
                                 .set_condition = set_condition};

bool wide_dram_fit(rmg_far_end *far, uint8_t *rails_needed, rmg_target *target, rmg_addr *last,
                   rmg_far_value *mask)
{
    rmg_far_value lines, rows, cycles, rails, from;

    if (!rmg_far_number(far, 0, 22, &lines) || !rmg_far_number(far, 0, 11, &rows) ||
        !rmg_far_number(far, 0, 2048, &cycles) || !rmg_far_number(far, 0, 7, &rails) ||
        !rmg_far_number(far, 0, 0xFF, mask) || !rmg_far_number(far, 0, 4, &from) || rows < 4 ||
        lines <= rows || lines - rows + from > 11 || cycles < 16 || cycles & (cycles - 1u) ||
        !(rails & RAIL_PLUS5) || !*mask || *mask & (*mask + 1u))
        return false;
    part.row_lines = (uint8_t)rows;
    part.row_last = (uint16_t)((1u << rows) - 1u);
    part.refresh_last = (uint16_t)(cycles - 1u);
    part.mask = (uint8_t)*mask;
    part.column_from = (uint8_t)from;
    *rails_needed = (uint8_t)rails;
    *target = (rmg_target){&dram_bus, 0, (rmg_word)*mask};
    *last = (rmg_addr)(((rmg_addr)1 << lines) - 1u);
    return true;
}
