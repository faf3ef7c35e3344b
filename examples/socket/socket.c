/* A far end in an ATmega328P whose board is one static memory chip of 1 Ki words of 4 bits (2114)
 * on its pins. The tool reaches it as
 *
 *     rimeglass test examples/socket/socket.yaml --on link:/dev/ttyUSB0,baud=38400
 *
 * Wiring: A0-A5 at PD2-PD7, A6-A9 at PB0-PB3, write at PB4, select at PB5 (both active low), the
 * four data lines at PC0-PC3; a crystal of 16 MHz; the serial line at PD0 (in) and PD1 (out). */
#include <avr/io.h>

#include "rimeglass/far_end.h"

#define CLOCK_HZ 16000000ul
#ifndef BAUD
#define BAUD 38400ul
#endif

enum { WRITE = 1 << 4, SELECT = 1 << 5, ADDRESS_B = 0x0F, DATA = 0x0F };

static void put_address(rmg_addr address)
{
    PORTD = (uint8_t)((PORTD & 0x03) | (uint8_t)(address << 2));
    PORTB = (uint8_t)((PORTB & ~ADDRESS_B) | ((address >> 6) & ADDRESS_B));
}

static rmg_status chip_read(void *context, rmg_addr address, rmg_word *value)
{
    (void)context;
    put_address(address);
    PORTB &= (uint8_t)~SELECT;
    for (uint8_t i = 0; i < 2; i++) /* 450 ns and the synchroniser of the pins */
        __asm__ volatile("nop\n\tnop\n\tnop\n\tnop");
    *value = PINC & DATA;
    PORTB |= SELECT;
    return RMG_OK;
}

static rmg_status chip_write(void *context, rmg_addr address, rmg_word value)
{
    (void)context;
    put_address(address);
    PORTC = (uint8_t)((PORTC & ~DATA) | value);
    DDRC |= DATA;
    PORTB &= (uint8_t) ~(SELECT | WRITE);
    __asm__ volatile("nop\n\tnop\n\tnop\n\tnop\n\tnop\n\tnop");
    PORTB |= WRITE;
    PORTB |= SELECT;
    DDRC &= (uint8_t)~DATA;
    PORTC &= (uint8_t)~DATA; /* no pull-ups: an output that does not drive is to be seen */
    return RMG_OK;
}

static const rmg_bus chip_bus = {
    .version = RMG_BUS_VERSION, .read = chip_read, .write = chip_write};

static char byte_that_came(void)
{
    while (!(UCSR0A & (1 << RXC0)))
        ;
    return (char)UDR0;
}

static void send(const char *text)
{
    for (; *text; text++) {
        while (!(UCSR0A & (1 << UDRE0)))
            ;
        UDR0 = (uint8_t)*text;
    }
}

int main(void)
{
    static char request[128], answer[160];
    static rmg_far_found found[8];
    static const rmg_target target = {&chip_bus, 0, DATA};
    static const rmg_far_room room = {request, sizeof request, answer, sizeof answer, found, 8};
    static rmg_far_end far;

    PORTB = WRITE | SELECT;
    DDRB = WRITE | SELECT | ADDRESS_B;
    DDRD = 0xFE;
    UBRR0 = (uint16_t)(CLOCK_HZ / 16 / BAUD - 1);
    UCSR0C = (1 << UCSZ01) | (1 << UCSZ00);
    UCSR0B = (1 << RXEN0) | (1 << TXEN0);
    if (rmg_far_begin(&far, &target, 0x3FF, "socket 2114", &room) != RMG_OK)
        for (;;)
            ;
    for (;;) {
        const char *text = rmg_far_take(&far, byte_that_came());

        if (text)
            send(text);
    }
}
