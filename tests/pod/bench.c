/* The pod on a bench: simavr runs its firmware; on its pins a chip, a shift register, the
 * rails. Its serial port is standard input and output, or with pty=FILE a pseudo terminal whose
 * name stands in that file.
 *
 *   pod-bench FIRMWARE.elf [chip=4164|6116|2764|...] [KEY=VALUE ...]
 *
 * DRAMs of one bit sit in a pod with an ATmega328P, all else and with "wide" those too in one with
 * an ATmega2560. "steps": its +5 V rail can be stepped; late=K: the chip is so much slower a volt
 * below 5 V, in shares.
 *
 * Each rule of the chip's data sheet, of its supplies and of the order of checks that the firmware
 * breaks is printed and counted; stats=FILE gets the count and the longest time of a row without
 * refresh. */
#define _GNU_SOURCE
#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <simavr/avr_adc.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_cycle_timers.h>
#include <simavr/sim_elf.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "dram_model.h"
#include "static_model.h"

enum { FEED_5 = 1, FEED_12 = 2, ON_5 = 4, ON_12 = 8, ON_MINUS5 = 16, GOOD = 32, BAD = 64 };

static avr_t *avr;
static dram_model chip;
static static_model fixed;     /* an SRAM or EPROM, in the place of it */
static bool is_fixed, is_wide; /* an ATmega2560 */
static struct {
    unsigned b, c, d, driven_b, driven_c, driven_d;
    unsigned a, k, l, driven_a, driven_k, driven_l;
    avr_irq_t *data[16];
    uint32_t data_levels;
    unsigned shift_port;
    uint16_t shift;
    uint8_t outputs, step;
    bool steps, settled;
    double late, access, column_access; /* slower a volt below 5 V; at 5 V */
    unsigned five_mv;
    bool reversed, short5, low12, no_minus5;
    double pull_s, reset_s, sag_s;
    const char *stats;
    unsigned broken, q_level;
    double minus5_at; /* since when it is there; 0: it is not */
    avr_irq_t *q, *adc5, *adc12, *minus5;
} board = {.pull_s = -1, .reset_s = -1, .sag_s = -1, .q_level = 2, .step = 4};

static double now_ns(void)
{
    return (double)avr->cycle * 62.5;
}

static void broken(const char *rule, double at, double found, double wanted)
{
    if (board.broken++ < 20)
        fprintf(stderr, "pod-bench: broken at %.6f s: %s (%.0f, wanted %.0f)\n", at / 1e9, rule,
                found, wanted);
}

static avr_cycle_count_t drive_q(struct avr_t *a, avr_cycle_count_t when, void *param)
{
    const int out = dram_output(&chip, now_ns());
    const unsigned level = out < 0 ? 1u : (unsigned)out; /* a resistor to +5 V */

    (void)a;
    (void)when;
    (void)param;
    if (level != board.q_level)
        avr_raise_irq(board.q, level);
    board.q_level = level;
    return 0;
}

/* The data lines as the chip leaves them; what nobody drives is pulled up. */
static avr_cycle_count_t drive_data(struct avr_t *a, avr_cycle_count_t when, void *param)
{
    const unsigned bits = is_fixed ? fixed.bits : chip.bits;
    const int word = is_fixed ? 0 : dram_output(&chip, now_ns());
    uint32_t levels = 0xFFFF;

    (void)a;
    (void)when;
    (void)param;
    if (!is_fixed)
        levels = word < 0 ? 0xFFFFu : (uint32_t)word;
    else if (!static_output(&fixed, now_ns(), 0xFFFF, &levels))
        levels = 0xFFFF;
    levels |= 0xFFFFu & ~((1u << bits) - 1u);
    for (unsigned i = 0; i < 16; i++)
        if ((levels ^ board.data_levels) >> i & 1u)
            avr_raise_irq(board.data[i], levels >> i & 1u);
    board.data_levels = levels;
    return 0;
}

static void drive_data_at(double at)
{
    drive_data(avr, 0, NULL);
    if (at > now_ns())
        avr_cycle_timer_register(avr, (avr_cycle_count_t)((at - now_ns()) / 62.5 + 1), drive_data,
                                 NULL);
}

static void wide_lines_changed(void)
{
    const unsigned b = board.b & board.driven_b, idle = ~board.b & board.driven_b;
    const unsigned address = board.a | board.c << 8 | (board.l & 7u) << 16;
    const bool powered = is_fixed ? fixed.powered : chip.powered;
    const bool apart = is_fixed ? fixed.apart : chip.bits == 1;
    const bool driven = board.driven_k & (apart ? 0xF0u : 0xFFu);

    if (!powered && !fixed.missing && !chip.missing &&
        ((b & 0x73u) | (board.a & board.driven_a) | (board.c & board.driven_c)) &&
        now_ns() - chip.powered_at > 1e5) /* a supply needs that long to fall */
        broken("a line driven high into a chip without supply", now_ns(), b, 0);
    if (apart && powered && board.driven_k & 0x0Fu)
        broken("two drive the outputs", now_ns(), board.driven_k, 0);
    if (is_fixed) {
        board.settled |= powered && b & 0x40u; /* what is written as the supply comes is nothing */
        static_lines(&fixed, address, idle & 0x10u, idle & 0x20u,
                     board.settled && !fixed.rom && idle & 0x40u, driven,
                     apart ? board.k >> 4 : board.k, now_ns());
        drive_data_at(fixed.select && fixed.output && !fixed.write ? static_valid_at(&fixed) : 0);
        return;
    }
    dram_shared_lines(&chip, driven, chip.bits == 1 || (idle & 0x20u), now_ns());
    dram_lines(&chip, address & 0x7FFu, b & 1u, b & 2u, b & 0x40u,
               apart    ? board.k >> 4 & 1u
               : driven ? board.k & ((1u << chip.bits) - 1u)
                        : chip.d,
               now_ns());
    drive_data_at(chip.driving ? chip.valid_at : 0);
}

static void dram_lines_changed(void)
{
    const unsigned b = board.b & board.driven_b, c = board.c & board.driven_c;

    if (!chip.powered && !chip.missing && ((b & 0x3Fu) | (c & 0x3Fu)) &&
        now_ns() - chip.powered_at > 1e5) /* a supply needs that long to fall */
        broken("a line driven high into a chip without supply", now_ns(), b << 8 | c, 0);
    dram_lines(&chip, (c & 0x3Fu) | (b & 7u) << 6, b & 8u, b & 16u, b & 32u, (board.d & 32u) != 0,
               now_ns());
    drive_q(avr, 0, NULL);
    if (chip.driving && !chip.value && chip.valid_at > now_ns())
        avr_cycle_timer_register(avr, (avr_cycle_count_t)((chip.valid_at - now_ns()) / 62.5 + 1),
                                 drive_q, NULL);
}

/* All that the ports say reaches the chip at one time. */
static void lines_changed(void)
{
    if (is_wide)
        wide_lines_changed();
    else
        dram_lines_changed();
}

/* What a weakly fed rail has: nothing in: almost all; a chip draws; a chip the wrong way round
 * leads to its lines; a short nothing. */
static unsigned felt(void)
{
    const bool lines_low = is_wide ? board.driven_a == 0xFFu : (board.driven_c & 0x3Fu) == 0x3Fu;

    if (board.short5)
        return 20;
    if (chip.missing || fixed.missing)
        return 4950;
    if (board.reversed)
        return lines_low ? 620 : 4300;
    return 2600;
}

static void rails_changed(void)
{
    const uint8_t on = board.outputs;
    const double at = now_ns();
    const bool sags = board.sag_s >= 0 && at > board.sag_s * 1e9;
    const unsigned five = on & ON_5     ? board.short5 ? 300u
                                          : sags       ? 4000u
                                                       : 4400u + 150u * board.step
                          : on & FEED_5 ? felt()
                                        : 0u;
    const unsigned twelve = on & ON_12 ? board.low12 ? 9000u : 12000u : on & FEED_12 ? felt() : 0u;
    const bool minus5 = on & ON_MINUS5 && !board.no_minus5;
    const bool needs_minus5 = chip.rails & 4u, needs_12 = chip.rails & 2u;
    const bool whole = on & ON_5 && five > 3500 && (!needs_12 || (on & ON_12 && twelve > 10000)) &&
                       (!needs_minus5 || minus5);

    if (on & (ON_5 | ON_12) && !chip.missing && !fixed.missing) {
        if (board.reversed)
            broken("supply to a chip that is the wrong way round", at, 0, 0);
        if (board.short5 && !(on & FEED_5))
            broken("supply to a short", at, 0, 0);
        if (needs_minus5 && !minus5)
            broken("supply without -5 V", at, 0, 0);
        if (on & ON_12 && !needs_12)
            broken("+12 V at a chip of 5 V", at, 0, 0);
    }
    if (is_fixed && whole != fixed.powered) {
        fixed.powered = whole;
        board.settled = false;
        chip.powered_at = at;
        lines_changed(); /* with what it finds on its lines */
    } else if (!is_fixed && whole != chip.powered && !chip.missing) {
        dram_power(&chip, whole, at);
    }
    if (board.late > 0 && five != board.five_mv) {
        const double slower = 1 + board.late * (5000.0 - (double)five) / 1000;

        fixed.access = board.access * slower;
        chip.row_access = board.access * slower;
        chip.column_access = board.column_access * slower;
    }
    board.five_mv = five;
    avr_raise_irq(board.adc5, five / 2u);
    avr_raise_irq(board.adc12, twelve / 4u);
    if (board.minus5)
        avr_raise_irq(board.minus5, minus5);
}

static void on_b(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    (void)param;
    board.b = value;
    lines_changed();
}

static void on_c(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    (void)param;
    board.c = value;
    lines_changed();
}

static void on_other(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    *(unsigned *)param = value;
    lines_changed();
}

/* The shift register: data at bit `first`, then clock and latch. */
static void shift(uint32_t value, unsigned first)
{
    const unsigned rose = value & ~board.shift_port;

    board.shift_port = value;
    if (rose >> (first + 1) & 1u)
        board.shift = (uint16_t)(board.shift << 1 | (value >> first & 1u));
    if (rose >> (first + 2) & 1u) {
        board.outputs = (uint8_t)board.shift;
        board.step = board.steps ? board.shift >> 8 & 7u : 4u;
        rails_changed();
    }
}

static void on_d(struct avr_irq_t *irq, uint32_t value, void *param)
{
    const unsigned changed = value ^ board.d;

    (void)irq;
    (void)param;
    board.d = value;
    shift(value, 2);
    if (changed & 32u)
        lines_changed();
}

static void on_g(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    (void)param;
    shift(value, 0);
}

static void on_direction(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    *(unsigned *)param = value;
    lines_changed();
}

static FILE *out;

static void on_sent(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    (void)param;
    putc((int)value, out);
    if (value == '\n')
        fflush(out);
}

static bool ready = true;

static void on_ready(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    (void)value;
    ready = param != NULL;
}

static void fit_chip(const char *name)
{
    static const struct {
        const char *name;
        unsigned rows, columns, cycles, rails, bits, from;
        double period_ms, access;
    } chips[] = {{"4116", 7, 7, 128, 7, 1, 0, 2, 200},   {"4164", 8, 8, 128, 1, 1, 0, 2, 150},
                 {"41256", 9, 9, 256, 1, 1, 0, 4, 150},  {"4027", 6, 6, 64, 7, 1, 0, 2, 200},
                 {"4416", 8, 6, 256, 1, 4, 1, 4, 150},   {"4464", 8, 8, 256, 1, 4, 0, 4, 120},
                 {"514256", 9, 9, 512, 1, 4, 0, 8, 100}, {"256Kx8-30", 9, 9, 512, 1, 8, 0, 8, 100}};
    static const struct {
        const char *name;
        unsigned lines, bits;
        bool rom;
        double access;
        unsigned rails;
        bool apart, inverted;
    } others[] = {{"2102", 10, 1, false, 450, 1, true, false},
                  {"93422", 8, 4, false, 45, 1, true, false},
                  {"7489", 4, 4, false, 60, 1, true, true},
                  {"2114", 10, 4, false, 450, 1, false, false},
                  {"6116", 11, 8, false, 150, 1, false, false},
                  {"6264", 13, 8, false, 120, 1, false, false},
                  {"62256", 15, 8, false, 100, 1, false, false},
                  {"2708", 10, 8, true, 450, 7, false, false},
                  {"2716", 11, 8, true, 450, 1, false, false},
                  {"2764", 13, 8, true, 250, 1, false, false},
                  {"27128", 14, 8, true, 250, 1, false, false},
                  {"27256", 15, 8, true, 200, 1, false, false},
                  {"27512", 16, 8, true, 200, 1, false, false},
                  {"27210", 16, 16, true, 200, 1, false, false}};

    for (size_t i = 0; i < sizeof others / sizeof *others; i++)
        if (strcmp(others[i].name, name) == 0) {
            is_fixed = is_wide = true;
            chip.rails = others[i].rails;
            fixed.lines = others[i].lines;
            fixed.bits = others[i].bits;
            fixed.rom = others[i].rom;
            fixed.access = others[i].access;
            fixed.pulse = others[i].access * 0.6;
            fixed.setup = others[i].access * 0.3;
            fixed.apart = others[i].apart;
            fixed.inverted = others[i].inverted;
            return;
        }
    for (size_t i = 0; i < sizeof chips / sizeof *chips; i++)
        if (strcmp(chips[i].name, name) == 0) {
            is_fixed = false;
            is_wide = chips[i].bits > 1;
            chip.row_lines = chips[i].rows;
            chip.column_lines = chips[i].columns;
            chip.cycles = chips[i].cycles;
            chip.rails = chips[i].rails;
            chip.bits = chips[i].bits;
            chip.column_from = chips[i].from;
            chip.period_ms = chips[i].period_ms;
            chip.row_access = chips[i].access;
            chip.column_access = chips[i].access * 0.6;
            chip.precharge = chips[i].access * 0.65;
            chip.active = chips[i].access;
            return;
        }
    fprintf(stderr, "pod-bench: %s: no such chip\n", name);
    exit(2);
}

/* An image of 16-bit words has the low byte first. */
static void fill(const char *name)
{
    FILE *file = fopen(name, "rb");
    size_t i = 0;
    int byte;

    if (!file)
        exit(2);
    for (; (byte = getc(file)) != EOF && i < sizeof fixed.cells; i++)
        if (fixed.bits <= 8)
            fixed.cells[i % (sizeof fixed.cells / 2)] = (uint16_t)byte;
        else
            fixed.cells[i / 2] =
                (uint16_t)(i & 1u ? (fixed.cells[i / 2] & 0xFFu) | (unsigned)byte << 8
                                  : (unsigned)byte);
    fclose(file);
    if (!i)
        exit(2);
}

static bool cell_option(const char *word)
{
    static const char *const names[] = {"stuck-cell", "no-rise", "no-fall", "coupled"};
    unsigned row, column, by_row = 0, by_column = 0;
    int level = 0;
    char name[16];

    if (sscanf(word, "%15[^=]=%u:%u:%d:%u:%u", name, &row, &column, &level, &by_row, &by_column) <
        3)
        return false;
    for (int i = 0; i < 4; i++)
        if (strcmp(names[i], name) == 0 && chip.fault_count < 16) {
            chip.faults[chip.fault_count++] =
                (dram_fault){(cell_fault)i, row | column << 9, by_row | by_column << 9, level};
            return true;
        }
    return false;
}

static void option(const char *word, const char **terminal)
{
    int n = 0;
    double slow;

    if (strncmp(word, "chip=", 5) == 0)
        fit_chip(word + 5);
    else if (strcmp(word, "missing") == 0)
        chip.missing = fixed.missing = true;
    else if (strncmp(word, "image=", 6) == 0)
        fill(word + 6);
    else if (strcmp(word, "wide") == 0)
        is_wide = true;
    else if (strcmp(word, "steps") == 0)
        board.steps = true;
    else if (strcmp(word, "reversed") == 0)
        board.reversed = true;
    else if (strcmp(word, "short") == 0)
        board.short5 = true;
    else if (strcmp(word, "low12") == 0)
        board.low12 = true;
    else if (strcmp(word, "no-minus5") == 0)
        board.no_minus5 = true;
    else if (strncmp(word, "stats=", 6) == 0)
        board.stats = word + 6;
    else if (strncmp(word, "pty=", 4) == 0)
        *terminal = word + 4;
    else if (sscanf(word, "slow=%lf", &slow) == 1) {
        chip.row_access = slow;
        chip.column_access = 0.6 * slow;
        fixed.access = slow;
    } else if (is_fixed &&
               (sscanf(word, "stuck=%d:%d", &fixed.stuck_bit, &fixed.stuck_level) == 2 ||
                sscanf(word, "open=%d", &fixed.open_line) == 1 ||
                sscanf(word, "cell=%x:%d:%d", &fixed.bad_cell, &fixed.bad_bit, &fixed.bad_level) ==
                    3)) {
        /* taken */
    } else if (sscanf(word, "stuck=%d", &chip.stuck) != 1 &&
               sscanf(word, "row=%d", &chip.dead_row) != 1 &&
               sscanf(word, "column=%d", &chip.dead_column) != 1 &&
               sscanf(word, "open=%d", &chip.open_line) != 1 &&
               sscanf(word, "half=%d:%d", &chip.bad_half_line, &chip.bad_half_level) != 2 &&
               sscanf(word, "weak=%d:%lf", &chip.weak_row, &chip.weak_ms) != 2 &&
               sscanf(word, "pull=%lf", &board.pull_s) != 1 &&
               sscanf(word, "reset=%lf", &board.reset_s) != 1 &&
               sscanf(word, "sag=%lf", &board.sag_s) != 1 &&
               sscanf(word, "late=%lf", &board.late) != 1 &&
               sscanf(word, "period=%lf%n", &chip.period_ms, &n) != 1 && !cell_option(word)) {
        fprintf(stderr, "pod-bench: %s: not an option\n", word);
        exit(2);
    }
}

static void finish(int status)
{
    if (board.stats) {
        FILE *file = fopen(board.stats, "w");

        fprintf(file, "broken %u\nlongest_row_us %.1f\nseconds %.3f\nlamps %s\n", board.broken,
                chip.longest_row / 1000, now_ns() / 1e9,
                board.outputs & GOOD  ? "good"
                : board.outputs & BAD ? "bad"
                                      : "off");
        fclose(file);
    }
    exit(status);
}

static volatile sig_atomic_t ended;

static void on_end(int number)
{
    (void)number;
    ended = 1;
}

/* What happens at a time of its own. */
static void events(void)
{
    const double seconds = now_ns() / 1e9;

    if (board.pull_s >= 0 && seconds > board.pull_s) {
        board.pull_s = -1;
        chip.missing = fixed.missing = true;
        dram_power(&chip, false, now_ns());
    }
    if (board.sag_s >= 0 && seconds > board.sag_s)
        rails_changed();
    if (board.reset_s >= 0 && seconds > board.reset_s) {
        board.reset_s = -1;
        avr_reset(avr);
        board.b = board.c = board.d = board.driven_b = board.driven_c = board.driven_d = 0;
        board.outputs = 0; /* its outputs are tied off by the reset line */
        rails_changed();
        lines_changed();
    }
}

static void watch(char port, avr_irq_notify_t notify, unsigned *driven)
{
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(port), IOPORT_IRQ_REG_PORT),
                            notify, NULL);
    avr_irq_register_notify(
        avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(port), IOPORT_IRQ_DIRECTION_ALL), on_direction,
        driven);
}

static void watch_other(char port, unsigned *value, unsigned *driven)
{
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(port), IOPORT_IRQ_REG_PORT),
                            on_other, value);
    avr_irq_register_notify(
        avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(port), IOPORT_IRQ_DIRECTION_ALL), on_direction,
        driven);
}

/* An ATmega328P with a DRAM, or an ATmega2560 with an SRAM or EPROM. */
static void wire_up(void)
{
    static unsigned ignored;

    if (is_wide) {
        watch_other('A', &board.a, &board.driven_a);
        watch_other('C', &board.c, &board.driven_c);
        watch_other('K', &board.k, &board.driven_k);
        watch_other('L', &board.l, &board.driven_l);
        watch_other('B', &board.b, &board.driven_b);
        watch('G', on_g, &ignored);
        for (int i = 0; i < 16; i++)
            board.data[i] = i < 8    ? avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('K'), i)
                            : i < 14 ? avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('F'), i - 6)
                                     : avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('J'), i - 14);
        board.minus5 = avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('G'), 5);
        board.adc5 = avr_io_getirq(avr, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC0);
        board.adc12 = avr_io_getirq(avr, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC1);
        return;
    }
    board.q = avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('D'), 6);
    board.minus5 = avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('D'), 7);
    board.adc5 = avr_io_getirq(avr, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC6);
    board.adc12 = avr_io_getirq(avr, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC7);
    watch('B', on_b, &board.driven_b);
    watch('C', on_c, &board.driven_c);
    watch('D', on_d, &board.driven_d);
}

static int open_terminal(const char *file)
{
    const int master = posix_openpt(O_RDWR | O_NOCTTY);
    FILE *name;

    if (master < 0 || grantpt(master) != 0 || unlockpt(master) != 0 || !(name = fopen(file, "w")))
        exit(2);
    fprintf(name, "%s\n", ptsname(master));
    fclose(name);
    return master;
}

int main(int count, char **words)
{
    static elf_firmware_t firmware;
    const char *terminal = NULL;
    uint32_t flags = 0;
    int in = 0;

    if (count < 2 || elf_read_firmware(words[1], &firmware) != 0)
        return fprintf(stderr, "pod-bench: a firmware was expected\n"), 2;
    signal(SIGTERM, on_end);
    signal(SIGHUP, on_end);
    signal(SIGPIPE, on_end);
    dram_begin(&chip);
    static_begin(&fixed);
    chip.broken = fixed.broken = broken;
    fit_chip("4164");
    for (int i = 2; i < count; i++)
        option(words[i], &terminal);
    board.access = is_fixed ? fixed.access : chip.row_access;
    board.column_access = chip.column_access;
    out = stdout;
    if (terminal) {
        in = open_terminal(terminal);
        out = fdopen(dup(in), "w");
    }
    avr = avr_make_mcu_by_name(is_wide ? "atmega2560" : "atmega328p");
    avr_init(avr);
    avr->log = LOG_NONE;
    avr->frequency = 16000000;
    avr->vcc = avr->avcc = avr->aref = 5000;
    avr_load_firmware(avr, &firmware);
    wire_up();
    rails_changed();
    avr_ioctl(avr, AVR_IOCTL_UART_GET_FLAGS('0'), &flags);
    flags &= ~(uint32_t)AVR_UART_FLAG_STDIO;
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
            finish(8);
        if (steps & 255u)
            continue;
        events();
        if (ended)
            finish(0);
        if (ready) {
            struct pollfd waits = {in, POLLIN, 0};
            unsigned char byte;

            if (poll(&waits, 1, 0) > 0) {
                if (read(in, &byte, 1) != 1)
                    finish(board.broken ? 9 : 0);
                avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT), byte);
            }
        }
    }
}
