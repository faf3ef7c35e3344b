/* A board with its test ROM in it: prints what comes out of the serial pin, or how the lamp blinks.
 *
 * Call: test-rom-board BOARD [FAULTS|-] [--march M] [--lines N] [--baud N] [--blinks] [--passes N]
 * [--wrong-sum] [--start-again-after PASSES] [--instructions] [--screen]
 * [--screen-loses BITS]
 * --load-at ADDRESS: no ROM, a program in RAM.
 * --screen: what stands on it at the end, by the board's codes for letters and digits.
 * --instructions (6809): those that ran, an address and the bytes of each, a line.
 */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "machine.h"
#include "rimeglass/target.h"
#include "rimeglass/deadboard.h"

#define MOST_CLOCKS UINT64_C(4000000000)

static void print_blinks(const machine *m)
{
    for (unsigned g = 0; g <= m->groups; g++)
        printf("%s%u", g ? " " : "", m->flashes[g]);
    printf("\n");
}

static void print_instructions(const machine *m)
{
    for (uint32_t at = m->plan->origin; at < m->plan->origin + m->plan->size; at++) {
        if (m->lengths[at])
            printf("%04X ", at);
        for (uint32_t i = 0; i < m->lengths[at]; i++)
            printf("%02X%s", m->image[at - m->plan->origin + i],
                   i + 1u == m->lengths[at] ? "\n" : "");
    }
}

/* A code as a reader sees it. */
static char shown_as(const rmg_testrom_screen *s, uint8_t code)
{
    return (char)(code >= s->letters && code < s->letters + 24 ? 'A' + (code - s->letters)
                  : code >= s->digits && code < s->digits + 8  ? '0' + (code - s->digits)
                  : code == s->dot                             ? '.'
                  : code == s->mark                            ? '!'
                  : code == s->blank                           ? ' '
                                                               : '?');
}

static void print_screen(const machine *m)
{
    const rmg_testrom_screen *s = &m->plan->screen;

    for (unsigned row = 0; row < s->rows; row++) {
        char text[256];

        for (unsigned i = 0; i < s->columns; i++)
            text[i] = shown_as(s, m->shown[row * s->columns + i]);
        text[s->columns] = '\0';
        for (unsigned i = s->columns; i-- > 0 && text[i] == ' ';)
            text[i] = '\0';
        printf("%s\n", text);
    }
}

int main(int argc, char **argv)
{
    static machine m;
    rmg_board *board = NULL;
    rmg_errors errors = {0};
    rmg_error error = {0};
    rmg_board_rom how;
    rmg_testrom_plan plan;
    rmg_dead_image image = {0};
    rmg_sim_board_run run;
    static uint8_t lengths[65536];
    bool screen = false, blinks = false, wrong_sum = false, instructions = false;
    unsigned passes = 1;
    unsigned long load_at = 0;
    uint8_t loses = 0;
    const char *faults = argc > 2 && strcmp(argv[2], "-") != 0 ? argv[2] : NULL;

    if (argc < 2 || rmg_board_load(argv[1], &board, &errors) != RMG_OK) {
        fprintf(stderr, "no board: %s\n", errors.count ? errors.list[0].what : "none named");
        return 2;
    }
    how = board->rom;
    for (int i = 3; i < argc; i++) {
        const char *value = i + 1 < argc ? argv[i + 1] : "";

        if (strcmp(argv[i], "--march") == 0 && rmg_testrom_march(value, how.march, NULL))
            how.march_text = argv[++i];
        else if (strcmp(argv[i], "--lines") == 0)
            how.lines = (uint8_t)atoi(argv[++i]);
        else if (strcmp(argv[i], "--baud") == 0)
            how.baud = (uint32_t)atoi(argv[++i]);
        else if (strcmp(argv[i], "--passes") == 0)
            passes = (unsigned)atoi(argv[++i]);
        else if (strcmp(argv[i], "--wrong-sum") == 0)
            wrong_sum = true;
        else if (strcmp(argv[i], "--instructions") == 0)
            instructions = true;
        else if (strcmp(argv[i], "--load-at") == 0)
            load_at = strtoul(argv[++i], NULL, 0);
        else if (strcmp(argv[i], "--screen") == 0)
            screen = true;
        else if (strcmp(argv[i], "--screen-loses") == 0)
            loses = (uint8_t)strtoul(argv[++i], NULL, 0);
        else if (strcmp(argv[i], "--start-again-after") == 0) {
            how.stop_after = (uint32_t)atoi(argv[++i]);
            how.then = how.origin + how.offset;
        } else
            blinks = true;
    }
    if ((load_at && rmg_dead_load(board, &how, (uint32_t)load_at, &error) != RMG_OK) ||
        rmg_dead_plan(board, &how, &plan, NULL, NULL, &error) != RMG_OK ||
        rmg_dead_make(&how, &plan, &image, &error) != RMG_OK ||
        rmg_sim_board_begin(&run, board, faults, &errors) != RMG_OK) {
        fprintf(stderr, "%s\n", error.what ? error.what : errors.count ? errors.list[0].what : "?");
        return 2;
    }
    if (how.stop_after && plan.processor == RMG_TESTROM_68000) { /* its start is a vector */
        const uint8_t *start = image.bytes + how.offset + 4;

        plan.then = (uint32_t)start[0] << 24 | (uint32_t)start[1] << 16 | (uint32_t)start[2] << 8 |
                    start[3];
        rmg_dead_image_free(&image);
        if (rmg_dead_make(&how, &plan, &image, &error) != RMG_OK)
            return 2;
    }
    image.bytes[how.offset + image.used - 1u] ^= (uint8_t)wrong_sum;
    machine_begin(&m, &plan, image.bytes + how.offset, &run.sim);
    m.passes = passes;
    m.loses = loses;
    m.wants_blinks = blinks;
    m.lengths = instructions ? lengths : NULL;
    machine_run(&m, MOST_CLOCKS);
    if (screen)
        print_screen(&m);
    else if (instructions)
        print_instructions(&m);
    else if (blinks)
        print_blinks(&m);
    else
        fputs(m.text, stdout);
    fprintf(stderr,
            "%s, %llu clocks, %llu accesses outside, edges within %.3f of a bit, %u without "
            "a stop bit\n",
            m.ended ? "ended" : "not ended", (unsigned long long)m.clocks,
            (unsigned long long)m.outside, m.worst_edge, m.framing);
    rmg_sim_board_end(&run);
    rmg_dead_image_free(&image);
    rmg_board_free(board);
    return m.ended && !m.outside ? 0 : 1;
}
