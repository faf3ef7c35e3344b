/* A far end: any memory that has a bus port, offered over standard input and output to whoever
 * speaks the link (docs/link.md). Here it is a simulated board, with the faults of a file or none.
 *
 *     rimeglass test BOARD.yaml --on "link:run:build/example-far-end BOARD.yaml sim:FAULTS.yaml"
 *
 * On a microcontroller the two lines that read and send a byte are those of its serial port, and
 * the target is a port of your own, as in minimal_port.c. */
#include <stdio.h>

#include "rimeglass/board.h"
#include "rimeglass/far_end.h"
#include "rimeglass/target.h"

int main(int count, char **words)
{
    static char request[4096], answer[65536];
    static rmg_far_found found[2048];
    const rmg_far_room room = {request, sizeof request, answer, sizeof answer - 1u, found, 2048};
    rmg_errors errors = {0};
    rmg_board *board = NULL;
    rmg_opened opened = {0};
    rmg_far_end far;
    int byte, status = 2;

    if (count != 3)
        return fprintf(stderr, "usage: %s BOARD.yaml TARGET\n", *words), 2;
    if (rmg_board_load(words[1], &board, &errors) != RMG_OK ||
        rmg_target_open(words[2], board, &opened, &errors) != RMG_OK)
        for (size_t i = 0; i < errors.count; i++)
            fprintf(stderr, "%s\n", errors.list[i].what);
    if (opened.target.bus &&
        rmg_far_begin(&far, &opened.target, board->last_address, "example", &room) == RMG_OK) {
        for (status = 0; (byte = getchar()) != EOF;) {
            const char *text = rmg_far_take(&far, (char)byte);

            if (text && (fputs(text, stdout) == EOF || fflush(stdout) == EOF))
                break;
        }
    }
    rmg_errors_free(&errors);
    rmg_target_close(&opened);
    rmg_board_free(board);
    return status;
}
