/* Results as files. A file appears under its name whole, or not at all. */
#ifndef RIMEGLASS_RESULT_H
#define RIMEGLASS_RESULT_H

#include "suspect.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Writes `size` bytes to `file`: beside it first, then renamed. "-" is standard output; a device
 * is written to directly. RMG_ERR_FILE: *message, to be freed with rmg_text_free, says what went
 * wrong; nothing then stands under the name that did not stand there before. */
rmg_status rmg_file_write(const char *file, const void *bytes, size_t size, char **message);

/* The run as JSON text, to be freed with rmg_text_free. Its form: docs/result.schema.json. */
char *rmg_run_json(const rmg_run *run, const rmg_suspects *suspects);

/* The board as JSON text: regions, banks with their places, sockets. To be freed likewise. */
char *rmg_board_json(const rmg_board *board);

#ifdef __cplusplus
}
#endif
#endif
