/* The pod's serial line and its intents: the far half of the link, and what pods have beside it
 * (docs/link.md, "Pods"). */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/wdt.h>

#include "pod.h"
#include "rimeglass/far_end.h"

#ifdef USART0_RX_vect
#define SERIAL_CAME USART0_RX_vect
#define LINE_BYTES  400
#else
#define SERIAL_CAME USART_RX_vect
#define LINE_BYTES  128
#endif

static rmg_far_end far;
static rmg_target target;
static uint8_t rails; /* that the fitted part needs */
static bool fitted;
static uint8_t dropped; /* a rail left its window */

/* What came and was not taken yet. */
static volatile uint8_t ring[128];
static volatile uint8_t ring_in, ring_out;

ISR(SERIAL_CAME)
{
    const uint8_t byte = UDR0, next = (uint8_t)((ring_in + 1u) & 127u);

    if (next != ring_out) {
        ring[ring_in] = byte;
        ring_in = next;
    }
}

void pod_wait_ms(uint8_t ms)
{
    while (ms--) {
        __builtin_avr_delay_cycles(CLOCK_HZ / 1000ul);
        wdt_reset();
    }
}

rmg_status pod_wait_us(uint32_t us)
{
    while (us >= 1000u) {
        pod_wait_ms(1);
        us -= 1000u;
    }
    while (us >= 10u) {
        __builtin_avr_delay_cycles(CLOCK_HZ / 100000ul);
        us -= 10u;
    }
    return chip_awake() ? RMG_OK : RMG_ERR_PORT_LOST;
}

rmg_status pod_supply_mv(int32_t *mv)
{
    uint16_t plus5, plus12;
    bool minus5;

    rails_measure(&plus5, &plus12, &minus5);
    *mv = rails & RAIL_PLUS12 ? plus12 : plus5;
    return RMG_OK;
}

static void send(const char *text)
{
    for (; *text; text++) {
        while (!(UCSR0A & (1 << UDRE0)))
            ;
        UDR0 = (uint8_t)*text;
    }
}

static void say_mv(const char *name, uint16_t mv)
{
    rmg_far_text(&far, name);
    rmg_far_hex(&far, mv, 0);
}

/* "pod": what this one has. */
static rmg_far_outcome tell_pod(void)
{
    if (!rmg_far_at_end(&far))
        return RMG_FAR_WRONG;
    rmg_far_text(&far, chip_pod_has);
    return RMG_FAR_DONE;
}

/* "fit ...": what sits in the socket. It has no supply from then on. */
static rmg_far_outcome fit(void)
{
    rmg_addr last;

    if (chip_awake()) {
        chip_sleep();
        rails_off();
    }
    if (!chip_fit(&far, &rails, &target, &last))
        return RMG_FAR_WRONG;
    fitted = true;
    dropped = 0;
    rmg_far_refit(&far, &target, last);
    rmg_far_text(&far, " ok");
    return RMG_FAR_DONE;
}

/* "feel": the rails fed weakly, with all lines low and with all lines pulled up weakly. */
static rmg_far_outcome feel(void)
{
    uint16_t low5, low12 = 0, high5, high12 = 0;
    const bool both = rails & RAIL_PLUS12;

    if (!rmg_far_at_end(&far))
        return RMG_FAR_WRONG;
    if (!fitted || chip_awake()) {
        rmg_far_text(&far, fitted ? " no power is on" : " no fit");
        return RMG_FAR_DONE;
    }
    chip_lines_low();
    low5 = rails_feel(RAIL_PLUS5);
    if (both)
        low12 = rails_feel(RAIL_PLUS12);
    chip_lines_pulled();
    high5 = rails_feel(RAIL_PLUS5);
    if (both)
        high12 = rails_feel(RAIL_PLUS12);
    chip_lines_low();
    say_mv(" ok plus5=", low5);
    say_mv(",", high5);
    if (both) {
        say_mv(" plus12=", low12);
        say_mv(",", high12);
    }
    return RMG_FAR_DONE;
}

static void say_rails(void)
{
    uint16_t plus5, plus12;
    bool minus5;

    rails_measure(&plus5, &plus12, &minus5);
    say_mv(" plus5=", plus5);
    if (rails & RAIL_PLUS12)
        say_mv(" plus12=", plus12);
    if (rails & RAIL_MINUS5)
        rmg_far_text(&far, minus5 ? " minus5=there" : " minus5=missing");
}

/* "power on", "power off", "power": the rails as they are. */
static rmg_far_outcome power(void)
{
    if (rmg_far_at_end(&far)) {
        rmg_far_text(&far, chip_awake() ? " ok on" : dropped ? " ok dropped" : " ok off");
        say_rails();
        return RMG_FAR_DONE;
    }
    if (rmg_far_word(&far, "off") && rmg_far_at_end(&far)) {
        chip_sleep();
        rails_off();
        dropped = 0;
        rmg_far_text(&far, " ok");
        return RMG_FAR_DONE;
    }
    if (!rmg_far_word(&far, "on") || !rmg_far_at_end(&far))
        return RMG_FAR_WRONG;
    if (!fitted) {
        rmg_far_text(&far, " no fit");
        return RMG_FAR_DONE;
    }
    if (!chip_awake()) {
        uint8_t missing;

        chip_lines_low();
        missing = rails_on(rails);
        if (missing) {
            rmg_far_text(&far, missing == RAIL_PLUS5    ? " no rail plus5"
                               : missing == RAIL_PLUS12 ? " no rail plus12"
                                                        : " no rail minus5");
            return RMG_FAR_DONE;
        }
        dropped = 0;
        chip_wake();
    }
    rmg_far_text(&far, " ok");
    say_rails();
    return RMG_FAR_DONE;
}

/* "hold MICROSECONDS": without refresh. */
static rmg_far_outcome hold(void)
{
    rmg_far_value us;

    if (!rmg_far_number(&far, 0, 60000000ul, &us) || !rmg_far_at_end(&far))
        return RMG_FAR_WRONG;
    rmg_far_text(&far, !chip_awake() ? " no lost" : chip_hold(us) ? " ok" : " no cannot");
    return RMG_FAR_DONE;
}

/* "pace CLOCKS": when reads sample data. */
static rmg_far_outcome pace(void)
{
    rmg_far_value clocks;

    if (!rmg_far_number(&far, 0, CHIP_PACES, &clocks) || !rmg_far_at_end(&far))
        return RMG_FAR_WRONG;
    rmg_far_text(&far, chip_pace((uint8_t)clocks) ? " ok" : " no cannot");
    return RMG_FAR_DONE;
}

/* "supply STEP": the +5 V rail, and what it has then. */
static rmg_far_outcome supply(void)
{
    rmg_far_value step;

    if (!rmg_far_number(&far, 0, RAILS_STEPS - 1u, &step) || !rmg_far_at_end(&far))
        return RMG_FAR_WRONG;
    if (!chip_awake()) {
        rmg_far_text(&far, " no lost");
        return RMG_FAR_DONE;
    }
    rails_step((uint8_t)step);
    rmg_far_text(&far, " ok");
    say_rails();
    return RMG_FAR_DONE;
}

static rmg_far_outcome lamp(void)
{
    const uint8_t lamps = rmg_far_word(&far, "good")  ? 1
                          : rmg_far_word(&far, "bad") ? 2
                          : rmg_far_word(&far, "off") ? 0
                                                      : 4;

    if (lamps == 4 || !rmg_far_at_end(&far))
        return RMG_FAR_WRONG;
    rails_lamps(lamps);
    rmg_far_text(&far, " ok");
    return RMG_FAR_DONE;
}

static rmg_far_outcome intent(void *context, rmg_far_end *end)
{
    (void)context;
    if (rmg_far_word(end, "pod"))
        return tell_pod();
    if (rmg_far_word(end, "fit"))
        return fit();
    if (rmg_far_word(end, "feel"))
        return feel();
    if (rmg_far_word(end, "power"))
        return power();
    if (rmg_far_word(end, "hold"))
        return hold();
    if (rmg_far_word(end, "pace"))
        return pace();
    if (rmg_far_word(end, "supply"))
        return supply();
    if (rmg_far_word(end, "lamp"))
        return lamp();
    return RMG_FAR_UNKNOWN;
}

/* Until a part is fitted. */
static rmg_status no_word(void *context, rmg_addr address, rmg_word *value)
{
    (void)context;
    (void)address;
    (void)value;
    return RMG_ERR_PORT_LOST;
}

static rmg_status no_write(void *context, rmg_addr address, rmg_word value)
{
    (void)context;
    (void)address;
    (void)value;
    return RMG_ERR_PORT_LOST;
}

/* A rail that leaves its window twice takes all of them with it. */
static void watch_rails(void)
{
    static uint8_t bad;

    if (!chip_awake())
        return;
    bad = rails_good() ? 0 : (uint8_t)(bad + 1u);
    if (bad < 2)
        return;
    chip_sleep();
    rails_off();
    dropped = 1;
    bad = 0;
}

int main(void)
{
    static char request[LINE_BYTES], answer[LINE_BYTES];
    static rmg_far_found found[6];
    static const rmg_bus no_bus = {.version = RMG_BUS_VERSION, .read = no_word, .write = no_write};
    static const rmg_target nothing = {&no_bus, 0, 1};
    static const rmg_far_room room = {request, sizeof request, answer, sizeof answer, found, 6};

    wdt_enable(WDTO_2S);
    rails_begin();
    chip_lines_low();
    UBRR0 = (uint16_t)(CLOCK_HZ / 8 / BAUD - 1);
    UCSR0A = 1 << U2X0;
    UCSR0C = (1 << UCSZ01) | (1 << UCSZ00);
    UCSR0B = (1 << RXEN0) | (1 << TXEN0) | (1 << RXCIE0);
    if (rmg_far_begin(&far, &nothing, 0, chip_pod_name, &room) != RMG_OK)
        for (;;)
            ;
    rmg_far_extend(&far, "pod", intent, 0);
    rmg_far_port_stops(&far);
    sei();
    for (uint16_t turns = 0;; turns++) {
        wdt_reset();
        if (ring_out != ring_in) {
            const char *text = rmg_far_take(&far, (char)ring[ring_out]);

            ring_out = (uint8_t)((ring_out + 1u) & 127u);
            if (text)
                send(text);
        } else if (!(turns & 0x1FFFu)) {
            watch_rails();
        }
    }
}
