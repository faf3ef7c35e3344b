/* The pod's serial line and its intents: the far half of the link, and what pods have beside it
 * (docs/link.md, "Pods"). */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/wdt.h>

#include "pod.h"
#include "rimeglass/far_end.h"

static rmg_far_end far;
static rmg_target target = {&dram_bus, 0, 1};
static pod_part part;
static bool fitted;
static uint8_t dropped; /* a rail left its window */

/* What came and was not taken yet. */
static volatile uint8_t ring[128];
static volatile uint8_t ring_in, ring_out;

ISR(USART_RX_vect)
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
    rmg_far_text(&far, " ok kind=dram data=1 lines=9 rails=plus5,plus12,minus5 "
                       "measures=plus5,plus12 sees=minus5 lamps=2");
    return RMG_FAR_DONE;
}

/* "fit dram LINES ROWS REFRESH RAILS": address lines, row lines, rows to refresh, rails. The chip
 * has no supply then. */
static rmg_far_outcome fit(void)
{
    rmg_far_value lines, rows, cycles, rails;

    if (!rmg_far_word(&far, "dram") || !rmg_far_number(&far, 0, 18, &lines) ||
        !rmg_far_number(&far, 0, 9, &rows) || !rmg_far_number(&far, 0, 256, &cycles) ||
        !rmg_far_number(&far, 0, 7, &rails) || !rmg_far_at_end(&far) || rows < 4 || lines <= rows ||
        lines - rows > 9 || cycles < 16 || cycles & (cycles - 1u) || !(rails & RAIL_PLUS5))
        return RMG_FAR_WRONG;
    dram_sleep();
    rails_off();
    part = (pod_part){.row_lines = (uint8_t)rows,
                      .column_lines = (uint8_t)(lines - rows),
                      .row_last = (uint16_t)((1u << rows) - 1u),
                      .column_last = (uint16_t)((1u << (lines - rows)) - 1u),
                      .refresh_last = (uint8_t)(cycles - 1u),
                      .rails = (uint8_t)rails};
    dram_fit(&part);
    fitted = true;
    dropped = 0;
    rmg_far_refit(&far, &target, (rmg_addr)(((rmg_addr)1 << lines) - 1u));
    rmg_far_text(&far, " ok");
    return RMG_FAR_DONE;
}

/* "feel": the rails fed weakly, with all lines low and with all lines pulled up weakly. */
static rmg_far_outcome feel(void)
{
    uint16_t low5, low12 = 0, high5, high12 = 0;
    const bool both = part.rails & RAIL_PLUS12;

    if (!rmg_far_at_end(&far))
        return RMG_FAR_WRONG;
    if (!fitted || dram_awake()) {
        rmg_far_text(&far, fitted ? " no power is on" : " no fit");
        return RMG_FAR_DONE;
    }
    dram_lines_low();
    low5 = rails_feel(RAIL_PLUS5);
    if (both)
        low12 = rails_feel(RAIL_PLUS12);
    dram_lines_pulled();
    high5 = rails_feel(RAIL_PLUS5);
    if (both)
        high12 = rails_feel(RAIL_PLUS12);
    dram_lines_low();
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
    if (part.rails & RAIL_PLUS12)
        say_mv(" plus12=", plus12);
    if (part.rails & RAIL_MINUS5)
        rmg_far_text(&far, minus5 ? " minus5=there" : " minus5=missing");
}

/* "power on", "power off", "power": the rails as they are. */
static rmg_far_outcome power(void)
{
    if (rmg_far_at_end(&far)) {
        rmg_far_text(&far, dram_awake() ? " ok on" : dropped ? " ok dropped" : " ok off");
        say_rails();
        return RMG_FAR_DONE;
    }
    if (rmg_far_word(&far, "off") && rmg_far_at_end(&far)) {
        dram_sleep();
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
    if (!dram_awake()) {
        uint8_t missing;

        dram_lines_low();
        missing = rails_on(part.rails);
        if (missing) {
            rmg_far_text(&far, missing == RAIL_PLUS5    ? " no rail plus5"
                               : missing == RAIL_PLUS12 ? " no rail plus12"
                                                        : " no rail minus5");
            return RMG_FAR_DONE;
        }
        dropped = 0;
        dram_wake();
    }
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
    if (rmg_far_word(end, "lamp"))
        return lamp();
    return RMG_FAR_UNKNOWN;
}

/* A rail that leaves its window twice takes all of them with it. */
static void watch_rails(void)
{
    static uint8_t bad;

    if (!dram_awake())
        return;
    bad = rails_good() ? 0 : (uint8_t)(bad + 1u);
    if (bad < 2)
        return;
    dram_sleep();
    rails_off();
    dropped = 1;
    bad = 0;
}

int main(void)
{
    static char request[112], answer[144];
    static rmg_far_found found[6];
    static const rmg_far_room room = {request, sizeof request, answer, sizeof answer, found, 6};

    wdt_enable(WDTO_2S);
    rails_begin();
    dram_lines_low();
    UBRR0 = (uint16_t)(CLOCK_HZ / 8 / BAUD - 1);
    UCSR0A = 1 << U2X0;
    UCSR0C = (1 << UCSZ01) | (1 << UCSZ00);
    UCSR0B = (1 << RXEN0) | (1 << TXEN0) | (1 << RXCIE0);
    if (rmg_far_begin(&far, &target, 0, "pod 328p", &room) != RMG_OK)
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
