/* The chip's lines: accesses, march elements, refresh. An access is not interrupted; refresh comes
 * between accesses, by a timer, so it goes on whatever the pod does. */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/wdt.h>

#include "pod.h"
#include "rimeglass/bus.h"
#include "rimeglass/march.h"

enum {
    HIGH_ADDRESS = 0x07, /* of port B: A6-A8 */
    RAS = 1 << 3,
    CAS = 1 << 4,
    WE = 1 << 5,
    IDLE = RAS | CAS | WE,
    DATA = 1 << 5,  /* of port D */
    ANSWER = 1 << 6 /* of port D */
};

#define REFRESH_US   200u /* time between two bursts of refresh */
#define REFRESH_ROWS 16u  /* rows of a burst: 128 rows in 1.6 ms, 256 in 3.2 ms */

const char chip_pod_name[] = "pod 328p";
const char chip_pod_has[] = " ok kind=dram data=1 lines=9 rails=plus5,plus12,minus5 "
                            "measures=plus5,plus12 sees=minus5 lamps=2";

/* The part that is fitted. */
static struct {
    uint8_t row_lines;
    uint16_t row_last;
    uint8_t refresh_last; /* rows are walked from 0 to this one */
} part;

static volatile uint8_t refresh_row;
static volatile bool awake;
static uint8_t pace;

#define PAUSE(cycles) __builtin_avr_delay_cycles(cycles)

/* An address line group as it goes to the ports. */
#define LOW_OF(line)  ((uint8_t)((line)&0x3F))
#define HIGH_OF(line) ((uint8_t)(((line) >> 6) & HIGH_ADDRESS))

/* One read cycle: RAS low, column, CAS low, 250 ns or more, Q. Interrupts are off. */
static inline __attribute__((always_inline)) uint8_t
read_cycle(uint8_t row_low, uint8_t row_high, uint8_t column_low, uint8_t column_high)
{
    uint8_t q;

    PORTC = row_low;
    PORTB = (uint8_t)(IDLE | row_high);
    PORTB = (uint8_t)(CAS | WE | row_high);
    PORTC = column_low;
    PORTB = (uint8_t)(CAS | WE | column_high);
    PORTB = (uint8_t)(WE | column_high);
    PAUSE(4); /* and the two clocks that the pin's synchroniser takes */
    q = PIND;
    PORTB = (uint8_t)(IDLE | column_high);
    return (uint8_t)(q & ANSWER);
}

/* The same, with Q sampled so many clocks after CAS fell. RAS fell long before, so that CAS alone
 * counts. */
static uint8_t paced_cycle(uint8_t clocks, uint8_t row_low, uint8_t row_high, uint8_t column_low,
                           uint8_t column_high)
{
    const uint8_t strobe = (uint8_t)(WE | column_high);
    uint8_t q = 0;

    /* one piece, so that no compiler takes strobe and sample apart */
#define SAMPLE_AFTER(n, nops)                                                                      \
    case n:                                                                                        \
        __asm__ volatile("out %1, %2\n\t" nops "in %0, %3"                                         \
                         : "=r"(q)                                                                 \
                         : "I"(_SFR_IO_ADDR(PORTB)), "r"(strobe), "I"(_SFR_IO_ADDR(PIND)));        \
        break;
#define NOP "nop\n\t"
    PORTC = row_low;
    PORTB = (uint8_t)(IDLE | row_high);
    PORTB = (uint8_t)(CAS | WE | row_high);
    PORTC = column_low;
    PORTB = (uint8_t)(CAS | WE | column_high);
    PAUSE(8);
    switch (clocks) {
        SAMPLE_AFTER(1, "")
        SAMPLE_AFTER(2, NOP)
        SAMPLE_AFTER(3, NOP NOP)
        SAMPLE_AFTER(4, NOP NOP NOP)
        SAMPLE_AFTER(5, NOP NOP NOP NOP)
        SAMPLE_AFTER(6, NOP NOP NOP NOP NOP)
        SAMPLE_AFTER(7, NOP NOP NOP NOP NOP NOP)
        SAMPLE_AFTER(8, NOP NOP NOP NOP NOP NOP NOP)
    }
#undef NOP
#undef SAMPLE_AFTER
    PAUSE(3); /* CAS is low as long as a read wants it */
    PORTB = (uint8_t)(IDLE | column_high);
    return (uint8_t)(q & ANSWER);
}

/* One early write cycle; D stands already. */
static inline __attribute__((always_inline)) void
write_cycle(uint8_t row_low, uint8_t row_high, uint8_t column_low, uint8_t column_high)
{
    PORTC = row_low;
    PORTB = (uint8_t)(IDLE | row_high);
    PORTB = (uint8_t)(CAS | WE | row_high);
    PORTC = column_low;
    PORTB = (uint8_t)(CAS | column_high);
    PORTB = column_high;
    PAUSE(3);
    PORTB = (uint8_t)(IDLE | column_high);
}

static inline __attribute__((always_inline)) void put_data(bool one)
{
    if (one)
        PORTD |= DATA;
    else
        PORTD &= (uint8_t)~DATA;
}

/* Refresh: RAS alone, row after row. */
static inline __attribute__((always_inline)) void refresh_rows(uint16_t count)
{
    uint8_t row = refresh_row;
    const uint8_t last = part.refresh_last;

    for (; count; count--) {
        const uint8_t high = (uint8_t)(row >> 6);

        PORTC = (uint8_t)(row & 0x3F);
        PORTB = (uint8_t)(IDLE | high);
        PORTB = (uint8_t)(CAS | WE | high);
        PAUSE(3);
        PORTB = (uint8_t)(IDLE | high);
        row = (uint8_t)((row + 1u) & last);
    }
    refresh_row = row;
}

ISR(TIMER0_COMPA_vect)
{
    refresh_rows(REFRESH_ROWS);
}

void chip_lines_low(void)
{
    PORTC = 0;
    PORTB = 0;
    PORTD &= (uint8_t)~DATA;
    DDRC |= 0x3F;
    DDRB |= IDLE | HIGH_ADDRESS;
    DDRD |= DATA;
}

void chip_lines_pulled(void)
{
    DDRC &= (uint8_t)~0x3F;
    DDRB &= (uint8_t) ~(IDLE | HIGH_ADDRESS);
    DDRD &= (uint8_t)~DATA;
    PORTC = 0x3F;
    PORTB = IDLE | HIGH_ADDRESS;
    PORTD |= DATA;
}

static void refresh(bool on)
{
    if (on)
        TIMSK0 |= 1 << OCIE0A;
    else
        TIMSK0 &= (uint8_t) ~(1 << OCIE0A);
}

void chip_wake(void)
{
    PORTB = IDLE;
    refresh_row = 0;
    OCR0A = (uint8_t)(REFRESH_US / 4u - 1u);
    TCCR0A = 1 << WGM01;
    TCCR0B = (1 << CS01) | (1 << CS00); /* a tick is 4 us */
    refresh(true);
    awake = true;
    pod_wait_ms(2); /* eight cycles and more, by the timer */
}

bool chip_pace(uint8_t clocks)
{
    pace = clocks;
    return true;
}

bool chip_hold(uint32_t us)
{
    const uint16_t rows = part.refresh_last + 1u;
    const uint32_t walk_us = rows + (rows >> 2); /* what all rows take, about */

    refresh(false);
    refresh_rows(rows);
    pod_wait_us(us > walk_us ? us - walk_us : 0);
    if (awake)
        refresh_rows(rows); /* each row has waited as long as it was asked for */
    refresh(awake);
    return true;
}

void chip_sleep(void)
{
    refresh(false);
    awake = false;
    pace = 0;
}

bool chip_awake(void)
{
    return awake;
}

static void split(rmg_addr address, uint16_t *row, uint16_t *column)
{
    *row = (uint16_t)address & part.row_last;
    *column = (uint16_t)(address >> part.row_lines);
}

static rmg_status read_word(void *context, rmg_addr address, rmg_word *value)
{
    uint16_t row, column;

    (void)context;
    if (!awake)
        return RMG_ERR_PORT_LOST;
    split(address, &row, &column);
    cli();
    if (pace)
        *value =
            paced_cycle(pace, LOW_OF(row), HIGH_OF(row), LOW_OF(column), HIGH_OF(column)) ? 1u : 0u;
    else
        *value = read_cycle(LOW_OF(row), HIGH_OF(row), LOW_OF(column), HIGH_OF(column)) ? 1u : 0u;
    sei();
    return RMG_OK;
}

static rmg_status write_word(void *context, rmg_addr address, rmg_word value)
{
    uint16_t row, column;

    (void)context;
    if (!awake)
        return RMG_ERR_PORT_LOST;
    split(address, &row, &column);
    put_data(value & 1u);
    cli();
    write_cycle(LOW_OF(row), HIGH_OF(row), LOW_OF(column), HIGH_OF(column));
    sei();
    return RMG_OK;
}

/* Elements of these shapes have loops of their own; D stands still in them. */
typedef enum shape { SHAPE_WRITE, SHAPE_READ, SHAPE_READ_WRITE, SHAPE_OTHER } shape;

/* Neighbours of one column, `count` rows from `row` on. Ends behind the word whose read was not
 * `expected` (0 or ANSWER), and gives how many words were done, that one included. */
static inline __attribute__((always_inline)) uint16_t run_rows(shape what, uint16_t row, bool down,
                                                               uint16_t count, uint8_t column_low,
                                                               uint8_t column_high,
                                                               uint8_t expected, bool *wrong)
{
    uint16_t left = count;

    do {
        const uint8_t low = LOW_OF(row), high = (uint8_t)((uint16_t)(row << 2) >> 8) & HIGH_ADDRESS;

        if (what != SHAPE_WRITE) {
            uint8_t q;

            cli();
            q = read_cycle(low, high, column_low, column_high);
            sei();
            *wrong = q != expected;
        }
        if (what != SHAPE_READ) {
            cli();
            write_cycle(low, high, column_low, column_high);
            sei();
        }
        left--;
        row = (uint16_t)(down ? row - 1u : row + 1u);
    } while (left && !*wrong);
    return (uint16_t)(count - left);
}

static __attribute__((noinline)) uint16_t run_shape(shape what, uint16_t row, bool down,
                                                    uint16_t count, uint16_t column,
                                                    uint8_t expected, bool *wrong)
{
    const uint8_t low = LOW_OF(column), high = HIGH_OF(column);

    if (what == SHAPE_WRITE)
        return down ? run_rows(SHAPE_WRITE, row, true, count, low, high, 0, wrong)
                    : run_rows(SHAPE_WRITE, row, false, count, low, high, 0, wrong);
    if (what == SHAPE_READ)
        return down ? run_rows(SHAPE_READ, row, true, count, low, high, expected, wrong)
                    : run_rows(SHAPE_READ, row, false, count, low, high, expected, wrong);
    return down ? run_rows(SHAPE_READ_WRITE, row, true, count, low, high, expected, wrong)
                : run_rows(SHAPE_READ_WRITE, row, false, count, low, high, expected, wrong);
}

static bool value_of(const rmg_element_call *call, uint8_t op)
{
    return ((call->ops[op] & RMG_OP_ONE) != 0) != (call->background & 1u);
}

/* The operations of one word, from call->operation on; true: a read was wrong. */
static bool run_word(rmg_element_call *call, uint16_t row, uint16_t column)
{
    const uint8_t rl = LOW_OF(row), rh = HIGH_OF(row), cl = LOW_OF(column), ch = HIGH_OF(column);
    bool wrong = false;

    for (uint8_t i = call->operation; i < call->op_count; i++) {
        const bool one = value_of(call, i);
        uint8_t q;

        if (call->ops[i] & RMG_OP_WRITE) {
            put_data(one);
            cli();
            write_cycle(rl, rh, cl, ch);
            sei();
            continue;
        }
        cli();
        q = read_cycle(rl, rh, cl, ch);
        sei();
        if ((q != 0) == one)
            continue;
        call->mismatch(call->sink_context, call->address, i, one, !one);
        wrong = true;
    }
    call->operation = 0;
    return wrong;
}

static shape shape_of(const rmg_element_call *call)
{
    const bool first_writes = call->ops[0] & RMG_OP_WRITE;

    if (call->operation)
        return SHAPE_OTHER;
    if (call->op_count == 1)
        return first_writes ? SHAPE_WRITE : SHAPE_READ;
    return call->op_count == 2 && !first_writes && call->ops[1] & RMG_OP_WRITE ? SHAPE_READ_WRITE
                                                                               : SHAPE_OTHER;
}

/* Words from the call's address on that stay in its column: at least one, and no more than are
 * asked for. */
static uint16_t in_column(const rmg_element_call *call, uint16_t row)
{
    const rmg_addr end =
        call->down ? call->address - call->range.first : call->range.last - call->address;
    uint16_t count = (uint16_t)(call->down ? row + 1u : part.row_last - row + 1u);

    if (end < count)
        count = (uint16_t)(end + 1u);
    if (call->words_a_call < count)
        count = (uint16_t)call->words_a_call;
    return count;
}

/* A march element, column by column. Ends with the word of the first wrong read. */
static rmg_status run_element(void *context, rmg_element_call *call)
{
    const rmg_addr end = call->down ? call->range.first : call->range.last;
    bool wrong = false, done = false;

    (void)context;
    if (pace)
        return RMG_ERR_PORT_CANNOT; /* by single accesses then */
    while (awake && call->words_a_call && !wrong && !done) {
        const shape what = shape_of(call);
        uint16_t row, column, count = 1;
        rmg_addr last;

        split(call->address, &row, &column);
        if (what == SHAPE_OTHER) {
            wrong = run_word(call, row, column);
            last = call->address;
        } else {
            const bool one = value_of(call, 0);

            put_data(value_of(call, (uint8_t)(call->op_count - 1u)));
            count = run_shape(what, row, call->down, in_column(call, row), column, one ? ANSWER : 0,
                              &wrong);
            last = (rmg_addr)(call->down ? call->address - (count - 1u)
                                         : call->address + (count - 1u));
            if (wrong)
                call->mismatch(call->sink_context, last, 0, one, !one);
        }
        done = last == end;
        call->words_a_call -= count;
        call->address = done ? last : (rmg_addr)(call->down ? last - 1u : last + 1u);
        wdt_reset();
    }
    return !awake ? RMG_ERR_PORT_LOST : done ? RMG_OK : RMG_ERR_CANCELLED;
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
    if (awake)
        refresh(value != 0);
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

/* "dram LINES ROWS REFRESH RAILS": address lines, row lines, rows to refresh, rails. */
bool chip_fit(rmg_far_end *far, uint8_t *rails_needed, rmg_target *target, rmg_addr *last)
{
    rmg_far_value lines, rows, cycles, rails;

    if (!rmg_far_word(far, "dram") || !rmg_far_number(far, 0, 18, &lines) ||
        !rmg_far_number(far, 0, 9, &rows) || !rmg_far_number(far, 0, 256, &cycles) ||
        !rmg_far_number(far, 0, 7, &rails) || !rmg_far_at_end(far) || rows < 4 || lines <= rows ||
        lines - rows > 9 || cycles < 16 || cycles & (cycles - 1u) || !(rails & RAIL_PLUS5))
        return false;
    part.row_lines = (uint8_t)rows;
    part.row_last = (uint16_t)((1u << rows) - 1u);
    part.refresh_last = (uint8_t)(cycles - 1u);
    *rails_needed = (uint8_t)rails;
    *target = (rmg_target){&dram_bus, 0, 1};
    *last = (rmg_addr)(((rmg_addr)1 << lines) - 1u);
    return true;
}
