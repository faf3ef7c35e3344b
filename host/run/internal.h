/* Inside the host library: what the rooms above runs use of them. */
#ifndef RMG_HOST_RUN_INTERNAL_H
#define RMG_HOST_RUN_INTERNAL_H

#include <glib.h>

#include "keep.h"
#include "paging.h"
#include "rimeglass/run.h"

/* ranges.c */
/* Tests only these ranges, rising, of what would be tested, and no lines. For runs that begin. */
void rmg_run_narrow(rmg_run *run, const rmg_range *ranges, size_t count);

/* The same of its marches alone: lines and all else are tested as planned. */
void rmg_run_narrow_marches(rmg_run *run, const rmg_range *ranges, size_t count);

#endif
