/* Inside the host library: what the rooms above runs use of them. */
#ifndef RMG_HOST_RUN_INTERNAL_H
#define RMG_HOST_RUN_INTERNAL_H

#include <glib.h>

#include "keep.h"
#include "paging.h"
#include "rimeglass/heard.h"

/* ranges.c */
/* Tests only these ranges, rising, of what would be tested, and no lines. For runs that begin. */
void rmg_run_narrow(rmg_run *run, const rmg_range *ranges, size_t count);

/* The same of its marches alone: lines and all else are tested as planned. */
void rmg_run_narrow_marches(rmg_run *run, const rmg_range *ranges, size_t count);

/* told.c: do two lines of a test ROM say the same, whatever pass they are of? And the end of what
 * it told. */
bool rmg_testrom_lines_alike(const rmg_testrom_line *a, const rmg_testrom_line *b);
void rmg_told_free(rmg_told *told);
/* Adds lines of ROMs to those that are kept. */
void rmg_told_add_rom(rmg_told *told, const rmg_testrom_line *lines, size_t count);

#endif
