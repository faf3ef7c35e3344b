/* Inside the host library: what the files of a run share. */
#ifndef RMG_HOST_RUN_INTERNAL_H
#define RMG_HOST_RUN_INTERNAL_H

#include "rimeglass/run.h"

rmg_status rmg_run_choose_ranges(rmg_run *run, char **message);
bool rmg_run_wiring_where(const rmg_run *run, size_t bank, rmg_where *best);
bool rmg_run_has_first_memory(const rmg_run *run);

#endif
