/* The time that the diagnosis takes by the number of failures: the same dead chip, tested over more
 * and more words. */
#include <stdio.h>
#include <stdlib.h>

#include "diag.h"

void diag_by_size(void)
{
    static const char text[] =
        "board: long\nword: 8\naddresses: words\naddress-lines: 22\nundriven: high\naccess-ns: "
        "100\n"
        "parts:\n  - {number: RAM22, kind: sram, width: 8, address-lines: 22, pins: \"D0 D1 D2 D3 "
        "D4 D5 D6 D7 WE CE VCC VSS\"}\n"
        "regions:\n  - {name: r, range: 0x0-0x3fffff, kind: ram}\n"
        "banks:\n  - {name: b, range: 0x0-0x3fffff, part: RAM22, lines: A0-A21, data: {U1: "
        "D0-D7}}\n"
        "sockets:\n  - {names: U1, mount: socket}\n";
    rmg_errors errors = {0};
    rmg_board *board;

    if (rmg_board_load_text("long", text, &board, &errors) != RMG_OK)
        exit(2);
    printf("%12s %12s %12s %14s\n", "failing bits", "run, s", "diagnosis, s", "us a bit");
    for (unsigned words_log2 = 8; words_log2 <= 22; words_log2 += 2) {
        diag_board b = {.board = board};
        diag_case c = {
            .board = &b, .passes = 2, .fault_count = 1, .limit = ((uint64_t)1 << words_log2) - 1u};
        uint64_t bits;

        c.faults[0] = (rmg_sim_fault){.kind = RMG_FAULT_MISSING};
        diag_case_run(&c, true);
        bits = rmg_failset_bits(c.run.failures, NULL, (rmg_word) ~(rmg_word)0);
        printf("%12llu %12.3f %12.3f %14.3f\n", (unsigned long long)bits, c.own_seconds,
               c.diagnosis_seconds, c.diagnosis_seconds * 1e6 / (double)bits);
        diag_case_end(&c);
    }
    rmg_board_free(board);
}
