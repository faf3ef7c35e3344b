/* Twelve shapes of boards: on each a fault of a chip in each of its banks is put to its socket, and
 * a healthy one names nobody. ROM alone: tests of the command line. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "suites.h"

static const struct {
    const char *shape;
    uint16_t chips; /* of RAM that is tested; the first in the list of sockets unless told */
    uint16_t first;
} shapes[] = {
    {"one-bit-chips", 16, 0},
    {"four-bit-pairs", 4, 0},
    {"unequal-banks", 16, 0},
    {"even-and-odd", 2, 2},
    {"lanes", 4, 0},
    {"interleaved", 4, 0},
    {"paged", 4, 0},
    {"card-window", 1, 0},
    {"static-only", 4, 0},
    {"battery-backed", 1, 0},
    {"twelve-bit-words", 6, 0},
};

static const rmg_fault_kind kinds[] = {RMG_FAULT_OUTPUT, RMG_FAULT_DATA_OPEN, RMG_FAULT_CELL,
                                       RMG_FAULT_ADDRESS_CHIP};

/* The socket of the first suspect, or of one that gives the same failures. */
static bool names(const rmg_run *run, const rmg_suspects *suspects, const char *socket)
{
    gchar *first = suspects->count ? bench_sockets_of(run, &suspects->list[0].finding) : NULL;
    const bool named = first && strcmp(first, socket) == 0;

    g_free(first);
    return named;
}

static void each_shape(void)
{
    uint64_t dice = 1811;
    const rmg_plan plan = bench_plan(false, 2);

    for (size_t i = 0; i < COUNT(shapes); i++) {
        gchar *file = g_strdup_printf("demo/shapes/%s.yaml", shapes[i].shape);
        rmg_board *board = bench_load(file);
        rmg_run run;
        rmg_suspects suspects;

        bench_examine(board, NULL, 0, &plan, 3, &run, &suspects);
        CHECK(!rmg_run_failed(&run) && !suspects.count && run.complete, "%s: healthy", file);
        rmg_suspects_free(&suspects);
        rmg_run_end(&run);
        for (size_t k = 0; k < COUNT(kinds); k++) {
            const uint16_t chip = (uint16_t)(shapes[i].first + bench_dice(&dice, shapes[i].chips));
            const rmg_part *part = board->sockets[chip].part;
            const uint8_t pin = rmg_part_address_pin(
                part, (uint8_t)bench_dice(&dice,
                                          part->row_lines ? part->row_lines : part->address_lines));
            rmg_sim_fault fault = {.kind = kinds[k],
                                   .chip = chip,
                                   .data_line = (uint8_t)bench_dice(&dice, part->width),
                                   .cell = (rmg_addr)bench_dice(&dice, 512),
                                   .level = (uint8_t)bench_dice(&dice, 2)};

            for (uint8_t n = 0; n < part->address_lines; n++)
                if (rmg_part_address_pin(part, n) == pin)
                    fault.lines |= (rmg_addr)1 << n;
            bench_examine(board, &fault, 1, &plan, 5 + k, &run, &suspects);
            CHECK(rmg_run_failed(&run) && names(&run, &suspects, board->sockets[chip].name),
                  "%s: %s has fault %zu, named: %s", file, board->sockets[chip].name, k,
                  suspects.count ? suspects.list[0].headline : "nobody");
            rmg_suspects_free(&suspects);
            rmg_run_end(&run);
        }
        rmg_board_free(board);
        g_free(file);
    }
}

CU_TestInfo shape_tests[] = {
    {"each shape", each_shape},
    CU_TEST_INFO_NULL,
};
