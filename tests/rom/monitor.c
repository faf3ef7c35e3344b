/* A board that boots to a prompt, with a processor that runs what lies in its memory: the simulated
 * board with faults for its RAM, an emulated processor for "run". On standard input and output; it
 * echoes what is typed, unless it is silent.
 *
 * Call: test-monitor BOARD FAULTS|- PROCESSOR [silent [RECORD]]
 * RECORD: every address of the board that is written, a line each.
 * Commands: look A, put A V, show A B, run A; words as wide as the board's, addresses as its file
 * counts; clocks: how many all that was run took, where its emulator counts them. Ctrl-X gives a
 * line up. For a debug link's far end: bytes A N, poke A V (a byte), jump A
 * S E (runs what lies at A with the stack S until it comes to E). */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "rimeglass/target.h"
#include "subroutine.h"

#define OWN  0x200000u /* bytes of memory of its own, where the board has no RAM to test */
#define MOST UINT64_C(2000000000)

typedef struct monitor {
    rmg_sim_board_run run;
    const rmg_board *board;
    rmg_testrom_processor processor;
    FILE *record; /* or NULL */
    uint64_t clocks;
    uint8_t own[OWN];
} monitor;

static bool is_ram(const monitor *m, rmg_addr word)
{
    const rmg_region *r = rmg_board_region_at(m->board, word);

    return r && r->kind == RMG_REGION_RAM;
}

/* Which bits of its word does a byte hold? */
static unsigned shift_of(const monitor *m, uint32_t address)
{
    const unsigned bytes = 1u << m->board->byte_shift, n = address % bytes;

    return 8 * (m->processor == RMG_TESTROM_68000 ? bytes - 1u - n : n);
}

static uint8_t read_byte(void *context, uint32_t address)
{
    monitor *m = context;
    const rmg_addr word = address >> m->board->byte_shift;

    return is_ram(m, word)
               ? rmg_sim_read_byte(&m->run.sim, word, (uint8_t)(shift_of(m, address) / 8u))
               : m->own[address % OWN];
}

static void write_byte(void *context, uint32_t address, uint8_t value)
{
    monitor *m = context;
    const rmg_addr word = address >> m->board->byte_shift;

    if (m->record && is_ram(m, word))
        fprintf(m->record, "%X\n", address);
    if (is_ram(m, word))
        rmg_sim_write_byte(&m->run.sim, word, (uint8_t)(shift_of(m, address) / 8u), value);
    else
        m->own[address % OWN] = value;
}

static unsigned long read_word(monitor *m, uint32_t address)
{
    unsigned long value = 0;

    for (uint32_t i = 0; i < 1u << m->board->byte_shift; i++)
        value |= (unsigned long)read_byte(m, address + i) << shift_of(m, address + i);
    return value;
}

static void write_word(monitor *m, uint32_t address, unsigned long value)
{
    for (uint32_t i = 0; i < 1u << m->board->byte_shift; i++)
        write_byte(m, address + i, (uint8_t)(value >> shift_of(m, address + i)));
}

static void show(monitor *m, unsigned first, unsigned last)
{
    const unsigned step = 1u << m->board->byte_shift;

    for (unsigned n = first; n <= last; n += step) {
        if ((n - first) / step % 16u == 0)
            printf("%04X:", n);
        printf(" %0*lX%s", (int)(2 * step), read_word(m, n),
               (n - first) / step % 16u == 15 || n + step > last ? "\r\n" : "");
    }
}

/* The stack lies where the board has no RAM to test, of a 6502 where it must. */
static uint32_t stack_of(const monitor *m)
{
    return m->processor == RMG_TESTROM_6502    ? 0x01F0
           : m->processor == RMG_TESTROM_68000 ? 0x1F0000
                                               : 0xF080;
}

static void command(monitor *m, const char *line)
{
    const cpu_bus bus = {m, read_byte, write_byte};
    unsigned a, b, c;
    uint64_t clocks;

    if (sscanf(line, "look %x", &a) == 1 && a < OWN) {
        printf("%04X holds %0*lX\r\n", a, 2 << m->board->byte_shift, read_word(m, a));
    } else if (sscanf(line, "put %x %x", &a, &b) == 2 && a < OWN) {
        write_word(m, a, b);
    } else if (sscanf(line, "show %x %x", &a, &b) == 2 && a <= b && b < OWN) {
        show(m, a, b);
    } else if (sscanf(line, "run %x", &a) == 1 && a < OWN) {
        clocks = cpu_call(m->processor, &bus, a, stack_of(m), MOST);
        if (!clocks)
            exit(3); /* it hangs */
        m->clocks += clocks;
    } else if (strcmp(line, "clocks") == 0) {
        printf("%llu\r\n", (unsigned long long)m->clocks);
    } else if (sscanf(line, "bytes %x %x", &a, &b) == 2) {
        for (unsigned n = 0; n < b; n++)
            printf("%02x", read_byte(m, a + n));
    } else if (sscanf(line, "poke %x %x", &a, &b) == 2) {
        write_byte(m, a, (uint8_t)b);
    } else if (sscanf(line, "jump %x %x %x", &a, &b, &c) == 3) {
        if (!cpu_run(m->processor, &bus, a, b, CPU_JUMP, c, MOST))
            printf("lost");
    } else if (*line) {
        printf("what? %s\r\n", line);
    }
}

int main(int argc, char **argv)
{
    static monitor m;
    char line[200];
    size_t length = 0;
    bool silent;
    rmg_board *board = NULL;
    rmg_errors errors = {0};
    int c;

    if (argc < 4 || rmg_board_load(argv[1], &board, &errors) != RMG_OK ||
        rmg_sim_board_begin(&m.run, board, strcmp(argv[2], "-") != 0 ? argv[2] : NULL, &errors) !=
            RMG_OK) {
        fprintf(stderr, "%s\n",
                errors.count ? errors.list[0].what : "expected BOARD FAULTS PROCESSOR [silent]");
        return 2;
    }
    m.board = board;
    silent = argc > 4;
    m.record = argc > 5 ? fopen(argv[5], "w") : NULL;
    if (m.record) /* it may be killed: whole lines */
        setvbuf(m.record, NULL, _IOLBF, BUFSIZ);
    while (m.processor < RMG_TESTROM_PROCESSORS &&
           strcmp(rmg_testrom_rows[m.processor].name, argv[3]) != 0)
        m.processor++;
    printf("- ");
    fflush(stdout);
    while ((c = getchar()) != EOF) {
        if (c == '\r') {
            if (!silent)
                printf("\r\n");
            line[length] = '\0';
            command(&m, line);
            length = 0;
            printf("- ");
        } else if (c == 0x18) {
            length = 0;
            printf("\r\n- ");
        } else if (length + 1 < sizeof line && c >= ' ') {
            line[length++] = (char)c;
            if (!silent)
                putchar(c);
        }
        fflush(stdout);
    }
    if (m.record)
        fclose(m.record);
    rmg_sim_board_end(&m.run);
    rmg_board_free(board);
    return 0;
}
