/* A good chip at every step of the +5 V rail: how soon its data are there. Where one step is known,
 * the next supply begins beside it: between the mildest step that fails and the hardest that does
 * not nothing is left to try. */
#include <string.h>

#include "internal.h"

#define STEPS        8u
#define STEP_5       4u   /* of the pod: 5.0 V */
#define MOVES_MV     150u /* a rail that moves less from end to end cannot be stepped */
#define SETTLED_AT_5 0.1  /* seconds */

static rmg_status step(rmg_pod *pod, unsigned number, unsigned *mv)
{
    char intent[16], answer[100];
    rmg_status status;

    g_snprintf(intent, sizeof intent, "supply %X", number);
    status = rmg_link_tell(pod->link, intent, SETTLED_AT_5, answer, sizeof answer);
    if (status == RMG_OK && !rmg_pod_number(answer, "plus5", false, mv))
        status = RMG_ERR_PORT_CANNOT;
    return status;
}

/* One step of time at this supply, once. */
static rmg_status try(rmg_pod *pod, const rmg_chip *chip, unsigned mv, unsigned clocks,
                      rmg_grade_chart *chart, bool *failed)
{
    uint64_t failing = 0;
    const rmg_status status = rmg_chip_read_at(pod, chip, clocks, &failing);

    *failed = failing != 0;
    if (status == RMG_OK)
        rmg_grade_add(chart, (int32_t)mv, (int32_t)((clocks * POD_CLOCK_PS + 500u) / 1000u), 1,
                      failing != 0);
    return status;
}

/* From *limit on: milder until it is clean, or harder until it fails. *limit: the hardest clean
 * step, or POD_PACES where there is none. */
static rmg_status row(rmg_pod *pod, const rmg_chip *chip, unsigned mv, rmg_grade_chart *chart,
                      unsigned *limit)
{
    bool failed, began_clean;
    rmg_status status = try(pod, chip, mv, *limit, chart, &failed);

    began_clean = !failed;
    while (status == RMG_OK && failed && *limit < POD_PACES)
        status = try(pod, chip, mv, ++*limit, chart, &failed);
    while (status == RMG_OK && began_clean && *limit > 1) {
        status = try(pod, chip, mv, *limit - 1, chart, &failed);
        if (status == RMG_ERR_PORT_CANNOT) /* no shorter step */
            return RMG_OK;
        began_clean = !failed;
        *limit -= status == RMG_OK && !failed;
    }
    return status;
}

rmg_status rmg_chip_at_supplies(rmg_pod *pod, const rmg_chip_plan *plan, const rmg_chip *chip,
                                rmg_grade_chart *chart)
{
    /* outwards from 5 V */
    static const uint8_t order[] = {4, 3, 2, 1, 0, 5, 6, 7};
    unsigned limit = POD_PACES, at_5 = POD_PACES, low = 0, high = 0, mv = 0;
    rmg_status status = step(pod, 0, &low);
    char answer[60];

    if (status == RMG_OK)
        status = step(pod, STEPS - 1u, &high);
    for (unsigned i = 0; status == RMG_OK && i < STEPS; i++) {
        if (high < low + MOVES_MV && i) /* a rail that stands still has one row */
            break;
        if (plan->progress && !plan->progress(plan->context, -1))
            status = RMG_ERR_CANCELLED;
        else
            status = step(pod, order[i], &mv);
        limit = order[i] == STEP_5 + 1u ? at_5 : limit;
        if (status == RMG_OK)
            status = row(pod, chip, mv, chart, &limit);
        at_5 = i ? at_5 : limit;
    }
    if (status == RMG_OK)
        status = step(pod, STEP_5, &mv);
    if (status == RMG_OK)
        status = rmg_link_tell(pod->link, "pace 0", 0, answer, sizeof answer);
    return status == RMG_ERR_PORT_CANNOT ? RMG_OK : status;
}
