/* Supplies and lamps: a shift register with switches behind it, and what the rails really have. */
#include <avr/io.h>

#include "pod.h"

/* Outputs of the shift register; a second one behind it, where there is one, has in its lowest
 * three the voltage of the +5 V rail in steps. */
enum {
    FEED_5 = 1 << 0,  /* the +5 V rail through 10 k from +5 V */
    FEED_12 = 1 << 1, /* the +12 V rail, likewise from +5 V */
    ON_5 = 1 << 2,
    ON_12 = 1 << 3,
    ON_MINUS5 = 1 << 4,
    LAMP_GOOD = 1 << 5,
    LAMP_BAD = 1 << 6
};

/* Where it hangs, and where rails are measured. */
#ifdef __AVR_ATmega2560__
#define SHIFT_PORT PORTG
#define SHIFT_DDR  DDRG
enum { SHIFT_DATA = 1 << 0, SHIFT_CLOCK = 1 << 1, SHIFT_LATCH = 1 << 2 };
enum { SENSE_5 = 0, SENSE_12 = 1 };
#define MINUS5_THERE() ((PING & (1 << 5)) != 0)
#else
#define SHIFT_PORT     PORTD
#define SHIFT_DDR      DDRD
enum { SHIFT_DATA = 1 << 2, SHIFT_CLOCK = 1 << 3, SHIFT_LATCH = 1 << 4 };
enum { SENSE_5 = 6, SENSE_12 = 7 };
#define MINUS5_THERE() ((PIND & (1 << 7)) != 0)
#endif

#define LEAST_5_MV  4500u
#define MOST_5_MV   5500u
#define STEPPED_MV  350u /* so much wider is the window while the rail is stepped */
#define LEAST_12_MV 10800u
#define MOST_12_MV  13200u

static uint8_t outputs, step = RAILS_STEP_5;

static void shift_out(uint8_t value)
{
    for (uint8_t i = 0; i < 8; i++) {
        if (value & 0x80u)
            SHIFT_PORT |= SHIFT_DATA;
        else
            SHIFT_PORT &= (uint8_t)~SHIFT_DATA;
        SHIFT_PORT |= SHIFT_CLOCK;
        SHIFT_PORT &= (uint8_t)~SHIFT_CLOCK;
        value = (uint8_t)(value << 1);
    }
}

static void put(uint8_t value)
{
    outputs = value;
    shift_out(step); /* what goes first ends in the second register, or nowhere */
    shift_out(value);
    SHIFT_PORT |= SHIFT_LATCH;
    SHIFT_PORT &= (uint8_t)~SHIFT_LATCH;
}

void rails_begin(void)
{
    SHIFT_DDR |= SHIFT_DATA | SHIFT_CLOCK | SHIFT_LATCH;
    put(0);
    ADMUX = 1 << REFS0; /* against the supply, 5 V */
    ADCSRA = (1 << ADEN) | (1 << ADPS2) | (1 << ADPS1) | (1 << ADPS0);
}

/* A pin of the converter in millivolts. */
static uint16_t convert(uint8_t pin)
{
    ADMUX = (uint8_t)((1 << REFS0) | pin);
    ADCSRA |= 1 << ADSC;
    while (ADCSRA & (1 << ADSC))
        ;
    return (uint16_t)(((uint32_t)ADC * 5000u) >> 10);
}

void rails_measure(uint16_t *plus5_mv, uint16_t *plus12_mv, bool *minus5)
{
    *plus5_mv = (uint16_t)(convert(SENSE_5) * 2u);
    *plus12_mv = (uint16_t)(convert(SENSE_12) * 4u);
    *minus5 = MINUS5_THERE();
}

uint16_t rails_feel(uint8_t rail)
{
    uint16_t plus5, plus12;
    bool minus5;

    put((uint8_t)((outputs & (LAMP_GOOD | LAMP_BAD)) | (rail == RAIL_PLUS5 ? FEED_5 : FEED_12)));
    pod_wait_ms(5);
    rails_measure(&plus5, &plus12, &minus5);
    put((uint8_t)(outputs & (LAMP_GOOD | LAMP_BAD)));
    pod_wait_ms(5);
    return rail == RAIL_PLUS5 ? plus5 : plus12;
}

bool rails_good(void)
{
    uint16_t plus5, plus12;
    bool minus5;

    const uint16_t wider = step == RAILS_STEP_5 ? 0 : STEPPED_MV;

    rails_measure(&plus5, &plus12, &minus5);
    return !((outputs & ON_5 && (plus5 < LEAST_5_MV - wider || plus5 > MOST_5_MV + wider)) ||
             (outputs & ON_12 && (plus12 < LEAST_12_MV || plus12 > MOST_12_MV)) ||
             (outputs & ON_MINUS5 && !minus5));
}

/* Switches one rail on and waits until it stands. */
static bool bring_up(uint8_t output)
{
    put((uint8_t)(outputs | output));
    for (uint8_t i = 0; i < 20; i++) {
        pod_wait_ms(1);
        if (rails_good())
            return true;
    }
    return false;
}

void rails_step(uint8_t to)
{
    step = to;
    put(outputs);
    pod_wait_ms(20);
}

void rails_off(void)
{
    const uint8_t lamps = outputs & (LAMP_GOOD | LAMP_BAD);

    step = RAILS_STEP_5;
    put((uint8_t)(outputs & ~(ON_12 | ON_5 | FEED_5 | FEED_12)));
    chip_lines_low();
    pod_wait_ms(10);
    put(lamps); /* -5 V goes last */
}

uint8_t rails_on(uint8_t rails)
{
    static const struct {
        uint8_t rail, output;
    } order[] = {{RAIL_MINUS5, ON_MINUS5}, {RAIL_PLUS5, ON_5}, {RAIL_PLUS12, ON_12}};

    for (uint8_t i = 0; i < 3; i++)
        if (rails & order[i].rail && !bring_up(order[i].output)) {
            rails_off();
            return order[i].rail;
        }
    return 0;
}

void rails_lamps(uint8_t lamps)
{
    put((uint8_t)((outputs & ~(LAMP_GOOD | LAMP_BAD)) | (lamps & 1u ? LAMP_GOOD : 0) |
                  (lamps & 2u ? LAMP_BAD : 0)));
}
