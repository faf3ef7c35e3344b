/* The far end in a microcontroller, on a bench: simavr runs the firmware of examples/socket, a
 * model of a static memory sits on its pins, its serial port is standard input and output. The
 * model shares nothing with the simulated board of the library.
 *
 *   avr-bench FIRMWARE.elf [stuck=D:LEVEL] [cell=ADDRESS:D:LEVEL] [open=A]
 *
 * A write that breaks the chip's order (data taken away, or address changed, while select and write
 * are low) ends the bench with status 9. */
#include <poll.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

enum { WRITE = 1 << 4, SELECT = 1 << 5 };

static struct {
    uint8_t cell[1024];
    unsigned b, c, d, drives; /* levels of the ports, and the data pins that the chip drives */
    int stuck_line, stuck_level, cell_address, cell_line, cell_level, open_line;
    avr_irq_t *data[4];
} chip = {.b = WRITE | SELECT, .stuck_line = -1, .cell_address = -1, .open_line = -1};

static unsigned address(void)
{
    unsigned a = (chip.d >> 2 & 0x3Fu) | (chip.b & 0x0Fu) << 6;

    return chip.open_line >= 0 ? a & ~(1u << chip.open_line) : a;
}

/* The chip's outputs follow its address while it is selected and not written. */
static void settle(void)
{
    const bool reads = !(chip.b & SELECT) && (chip.b & WRITE);
    unsigned value = chip.cell[address()];

    if (chip.cell_address == (int)address())
        value = (value & ~(1u << chip.cell_line)) | (unsigned)chip.cell_level << chip.cell_line;
    if (chip.stuck_line >= 0)
        value = (value & ~(1u << chip.stuck_line)) | (unsigned)chip.stuck_level << chip.stuck_line;
    for (int i = 0; reads && i < 4; i++)
        avr_raise_irq(chip.data[i], value >> i & 1u);
}

static void on_b(struct avr_irq_t *irq, uint32_t value, void *param)
{
    const bool was_writing = !(chip.b & SELECT) && !(chip.b & WRITE);

    (void)irq;
    (void)param;
    if (was_writing && ((value ^ chip.b) & 0x0Fu)) {
        fprintf(stderr, "avr-bench: the address changed while it was written\n");
        exit(9);
    }
    if (was_writing && (value & (WRITE | SELECT)))
        chip.cell[address()] = (uint8_t)(chip.c & 0x0Fu);
    chip.b = value;
    settle();
}

static void on_c(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    (void)param;
    chip.c = value;
}

static void on_d(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    (void)param;
    if (!(chip.b & SELECT) && !(chip.b & WRITE) && ((value ^ chip.d) & 0xFCu)) {
        fprintf(stderr, "avr-bench: the address changed while it was written\n");
        exit(9);
    }
    chip.d = value;
    settle();
}

static void on_sent(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    (void)param;
    putchar((int)value);
    if (value == '\n')
        fflush(stdout);
}

static bool ready = true;

static void on_ready(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    (void)value;
    ready = param != NULL;
}

int main(int count, char **words)
{
    static elf_firmware_t firmware;
    uint32_t flags = 0;
    avr_t *avr;

    for (int i = 2; i < count; i++)
        if (sscanf(words[i], "stuck=%d:%d", &chip.stuck_line, &chip.stuck_level) != 2 &&
            sscanf(words[i], "cell=%i:%d:%d", &chip.cell_address, &chip.cell_line,
                   &chip.cell_level) != 3 &&
            sscanf(words[i], "open=%d", &chip.open_line) != 1)
            return fprintf(stderr, "avr-bench: %s: not a fault\n", words[i]), 2;
    if (count < 2 || elf_read_firmware(words[1], &firmware) != 0)
        return fprintf(stderr, "avr-bench: a firmware was expected\n"), 2;
    avr = avr_make_mcu_by_name("atmega328p");
    avr_init(avr);
    avr->log = LOG_NONE;
    avr->frequency = 16000000;
    avr_load_firmware(avr, &firmware);
    for (int i = 0; i < 4; i++)
        chip.data[i] = avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('C'), i);
    for (unsigned i = 0; i < 1024; i++)
        chip.cell[i] = (uint8_t)(i * 7u & 15u);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('B'), IOPORT_IRQ_REG_PORT),
                            on_b, NULL);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('C'), IOPORT_IRQ_REG_PORT),
                            on_c, NULL);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('D'), IOPORT_IRQ_REG_PORT),
                            on_d, NULL);
    avr_ioctl(avr, AVR_IOCTL_UART_GET_FLAGS('0'), &flags);
    flags &= ~(uint32_t)(AVR_UART_FLAG_STDIO | AVR_UART_FLAG_POLL_SLEEP);
    avr_ioctl(avr, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT),
                            on_sent, NULL);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUT_XON),
                            on_ready, &ready);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUT_XOFF),
                            on_ready, NULL);
    for (unsigned long steps = 0;; steps++) {
        const int state = avr_run(avr);

        if (state == cpu_Done || state == cpu_Crashed)
            return 8;
        if (ready && (steps & 63u) == 0) {
            struct pollfd in = {0, POLLIN, 0};
            unsigned char byte;

            if (poll(&in, 1, 0) > 0) {
                if (read(0, &byte, 1) != 1)
                    return 0;
                avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT), byte);
            }
        }
    }
}
