/* A board that boots to a prompt, with a processor that runs what lies in its memory: the simulated
 * board with faults for its RAM, an emulated processor for "run". On standard input and output; it
 * echoes what is typed, unless it is silent.
 *
 * Call: test-monitor BOARD FAULTS|- PROCESSOR [silent [RECORD]]
 * RECORD: every address of the board that is written, a line each.
 * Commands: look A, put A V, show A B, run A. Ctrl-X gives a line up. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "rimeglass/target.h"
#include "subroutine.h"

typedef struct monitor {
    rmg_sim_board_run run;
    const rmg_board *board;
    rmg_testrom_processor processor;
    FILE *record;       /* or NULL */
    uint8_t own[65536]; /* its own memory, where the board has no RAM to test */
} monitor;

static bool is_ram(const monitor *m, uint16_t address)
{
    const rmg_region *r = rmg_board_region_at(m->board, address);

    return r && r->kind == RMG_REGION_RAM;
}

static uint8_t read_byte(void *context, uint16_t address)
{
    monitor *m = context;

    return is_ram(m, address) ? (uint8_t)rmg_sim_read(&m->run.sim, address) : m->own[address];
}

static void write_byte(void *context, uint16_t address, uint8_t value)
{
    monitor *m = context;

    if (m->record && is_ram(m, address))
        fprintf(m->record, "%X\n", address);
    if (is_ram(m, address))
        rmg_sim_write(&m->run.sim, address, value);
    else
        m->own[address] = value;
}

static void command(monitor *m, const char *line)
{
    const cpu_bus bus = {m, read_byte, write_byte};
    unsigned a, b;

    if (sscanf(line, "look %x", &a) == 1 && a < 0x10000) {
        printf("%04X holds %02X\r\n", a, read_byte(m, (uint16_t)a));
    } else if (sscanf(line, "put %x %x", &a, &b) == 2 && a < 0x10000) {
        write_byte(m, (uint16_t)a, (uint8_t)b);
    } else if (sscanf(line, "show %x %x", &a, &b) == 2 && a <= b && b < 0x10000) {
        for (unsigned n = a; n <= b; n++) {
            if ((n - a) % 16u == 0)
                printf("%04X:", n);
            printf(" %02X%s", read_byte(m, (uint16_t)n),
                   (n - a) % 16u == 15 || n == b ? "\r\n" : "");
        }
    } else if (sscanf(line, "run %x", &a) == 1 && a < 0x10000) {
        if (!cpu_call(m->processor, &bus, (uint16_t)a,
                      m->processor == RMG_TESTROM_6502 ? 0x01F0 : 0xF080, UINT64_C(2000000000)))
            exit(3); /* it hangs */
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
