/* Inside the host library: a file read whole, up to a limit. */
#ifndef RMG_HOST_FILE_READ_H
#define RMG_HOST_FILE_READ_H

#include <glib.h>

#include "rimeglass/text.h"

/* Reads the file (a pipe too) into *bytes, *size long, a NUL behind them, to be freed with g_free.
 * RMG_ERR_FILE: it cannot be read, or has more than `most` bytes: *error, to be freed with
 * rmg_error_free, says so, with the file's name. RMG_ERR_MEMORY: likewise. */
rmg_status rmg_file_read(const char *file, size_t most, gchar **bytes, gsize *size,
                         rmg_error *error);

#endif
