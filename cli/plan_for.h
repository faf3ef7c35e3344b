/* rimeglass explain --plan-for. */
#ifndef RMG_CLI_PLAN_FOR_H
#define RMG_CLI_PLAN_FOR_H

#include "cli.h"

typedef struct plan_for_call {
    gchar *time, *suspect, *without, *write;
    gdouble access_us; /* 0: as the board file says */
} plan_for_call;

/* Chooses steps for the time, says why, writes the plan. The exit status. */
int find_plan(const plan_for_call *call, const rmg_board *board);

#endif
