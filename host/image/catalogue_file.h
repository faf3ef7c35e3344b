/* Inside the host library: a catalogue as a YAML file. */
#ifndef RMG_HOST_CATALOGUE_FILE_H
#define RMG_HOST_CATALOGUE_FILE_H

#include "base/internal.h"
#include "rimeglass/catalogue.h"

/* catalogue.c: the entries of a file that was opened with this status; errors are noted in the
 * file. Free with rmg_catalogue_free. */
rmg_status rmg_catalogue_take(const char *name, yaml_file *file, rmg_status status,
                              rmg_catalogue *catalogue);

#endif
