/* Inside the host library: results of a run as JSON values, and back. */
#ifndef RMG_HOST_RUN_FILE_H
#define RMG_HOST_RUN_FILE_H

#include <jansson.h>

#include "rimeglass/heard.h"

#define RMG_RUN_FAILURE_BYTES ((size_t)8 << 20) /* of a failure set in a run file */

/* run_file_write.c: everything a run has found up to now. NULL, or noted as missing for
 * rmg_json_line: no memory. */
json_t *rmg_results_json(const rmg_run *run);

/* run_file_read.c: takes it back into a run that has begun. NULL, or what is wrong with it. */
const char *rmg_results_take(rmg_run *run, const json_t *results);

/* heard_file.c: what is known of a run that another program made; false: not such a value. */
json_t *rmg_heard_json(const rmg_run *run);
bool rmg_heard_take(rmg_run *run, const json_t *heard);

#endif
