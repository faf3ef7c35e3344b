/* The board as a picture: its sockets in their places, the failing ones standing out. */
#ifndef RIMEGLASS_DRAW_H
#define RIMEGLASS_DRAW_H

#include "suspect.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Draws a run's board, 1280 by 800, to a file whose name ends in .png or .svg. RMG_ERR_ARGUMENT:
 * another ending, or a board whose file places no socket. RMG_ERR_FILE: it could not be written.
 * In both cases *message, to be freed with rmg_text_free, says more. */
rmg_status rmg_draw_run(const rmg_run *run, const rmg_suspects *suspects, const char *file,
                        char **message);

/* The failures of a socket's chip, or of a bank, by row and column address at the pins; parts
 * without rows by their lower and upper address lines. And failing reads over the passes, with the
 * temperature where the port told it. Errors as above; RMG_ERR_ARGUMENT too where the board has no
 * such bank or socket, or the run no whole pass. */
rmg_status rmg_draw_failures(const rmg_run *run, const char *what, const char *file,
                             char **message);
rmg_status rmg_draw_course(const rmg_run *run, const char *file, char **message);

#ifdef __cplusplus
}
#endif
#endif
