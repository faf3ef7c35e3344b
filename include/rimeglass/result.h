/* Results as files. A file appears under its name whole, or not at all. */
#ifndef RIMEGLASS_RESULT_H
#define RIMEGLASS_RESULT_H

#include "suspect.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Writes `size` bytes to `file`: to a file without a name first, which is read back and brought to
 * the disk, then given the name. A file that is replaced keeps its mode, a symbolic link stays one.
 * "-" is standard output; a device is written to directly. RMG_ERR_FILE: *message, to be freed
 * with rmg_text_free, says what went wrong; nothing then stands under the name that did not stand
 * there before. */
rmg_status rmg_file_write(const char *file, const void *bytes, size_t size, char **message);

/* Several files that appear together, or none of them. Free with rmg_files_free. */
typedef struct rmg_files rmg_files;
rmg_files *rmg_files_new(void);
/* Makes one more ready, as rmg_file_write does; no name is given yet. */
rmg_status rmg_files_add(rmg_files *files, const char *file, const void *bytes, size_t size,
                         char **message);
/* Gives them their names, one after the other. */
rmg_status rmg_files_write(rmg_files *files, char **message);
void rmg_files_free(rmg_files *files);

/* The run as JSON text, to be freed with rmg_text_free; NULL: no memory, or a name in it that is
 * not UTF-8. Its form: docs/result.schema.json. */
char *rmg_run_json(const rmg_run *run, const rmg_suspects *suspects);

/* The board as JSON text: regions, banks with their places, sockets. To be freed likewise. */
char *rmg_board_json(const rmg_board *board);

#ifdef __cplusplus
}
#endif
#endif
