/* How long a DRAM holds without refresh: longer and longer, until a cell gives way. */
#include <string.h>

#include "internal.h"
#include "rimeglass/march.h"
#include "rimeglass/tally.h"

#define REPEATS   3u     /* of the last clean step */
#define HOLD_MOST 16000u /* ms: nobody's refresh is so slow */
#define NARROW    3u     /* steps between the last clean one and the first that failed */

static const uint8_t write_read[2][2][3] = {
    {{RMG_ORDER_UP | 1u, RMG_OP_W0, 0}, {RMG_ORDER_UP | 1u, RMG_OP_R0, 0}},
    {{RMG_ORDER_UP | 1u, RMG_OP_W1, 0}, {RMG_ORDER_UP | 1u, RMG_OP_R1, 0}}};

static rmg_status pass(const rmg_target *target, rmg_addr last, const uint8_t *code,
                       uint64_t *failing)
{
    rmg_tally *tally = g_new0(rmg_tally, 1);
    const rmg_range range = {0, last};
    const rmg_march_job job = {.code = code, .ranges = &range, .range_count = 1};
    rmg_status status;

    rmg_tally_clear(tally, NULL, 0);
    status = rmg_march_run(target, &job, tally);
    *failing += tally->failing;
    g_free(tally);
    return status;
}

/* All cells at 0, then all at 1, each held so long. */
static rmg_status hold(rmg_pod *pod, const rmg_chip *chip, unsigned ms, uint64_t *failing)
{
    const rmg_target target = rmg_pod_target(pod, chip->part);
    const rmg_addr last = (rmg_addr)(((rmg_addr)1 << chip->part->address_lines) - 1u);
    rmg_status status = RMG_OK;
    char intent[32], answer[40];

    *failing = 0;
    for (unsigned one = 0; one < 2 && status == RMG_OK && !*failing; one++) {
        status = pass(&target, last, write_read[one][0], failing);
        g_snprintf(intent, sizeof intent, "hold %X", ms * 1000u);
        if (status == RMG_OK)
            status = rmg_link_tell(pod->link, intent, ms / 1000.0, answer, sizeof answer);
        if (status == RMG_OK)
            status = pass(&target, last, write_read[one][1], failing);
    }
    return status;
}

rmg_status rmg_chip_grade(rmg_pod *pod, const rmg_chip_plan *plan, rmg_chip *chip)
{
    const unsigned period = chip->part->refresh_ms;
    unsigned clean = 0, failed = 0, next = period;
    rmg_status status = RMG_OK;
    uint64_t failing;

    for (unsigned narrowed = 0; status == RMG_OK && next <= HOLD_MOST && narrowed <= NARROW;) {
        if (plan->progress && !plan->progress(plan->context, -1))
            return RMG_ERR_CANCELLED;
        status = hold(pod, chip, next, &failing);
        if (status != RMG_OK)
            return status;
        if (failing)
            failed = next;
        else
            clean = next;
        narrowed += failed != 0;
        next = failed ? (clean + failed) / 2 : 2 * clean;
        if (failed && (next == clean || next == failed))
            break;
    }
    /* what was clean once may be luck */
    for (unsigned i = 1; i < REPEATS && clean && status == RMG_OK; i++) {
        status = hold(pod, chip, clean, &failing);
        if (status == RMG_OK && failing) {
            failed = clean;
            clean = clean * 3u / 4u;
            i = 0;
        }
        if (clean < period)
            clean = 0;
    }
    chip->holds_ms = clean;
    chip->gives_way_ms = failed;
    chip->graded = status == RMG_OK;
    if (chip->graded && !clean)
        chip->state = RMG_CHIP_FAILS;
    return status;
}
