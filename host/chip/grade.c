/* A good chip at its limits: how soon after its last strobe its data are there, at other supplies
 * too; of a DRAM how long it holds without refresh: longer and longer, until a cell gives way. */
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

/* Both levels, read so many clocks after the last strobe. */
rmg_status rmg_chip_read_at(rmg_pod *pod, const rmg_chip *chip, unsigned clocks, uint64_t *failing)
{
    const rmg_target target = rmg_pod_target(pod, chip->part);
    const rmg_addr last = (rmg_addr)(((rmg_addr)1 << chip->part->address_lines) - 1u);
    char intent[32], answer[40];
    rmg_status status = RMG_OK;

    *failing = 0;
    for (unsigned one = 0; one < 2 && status == RMG_OK && !*failing; one++) {
        status = rmg_link_tell(pod->link, "pace 0", 0, answer, sizeof answer);
        if (status == RMG_OK)
            status = pass(&target, last, write_read[one][0], failing);
        g_snprintf(intent, sizeof intent, "pace %X", clocks);
        if (status == RMG_OK)
            status = rmg_link_tell(pod->link, intent, 0, answer, sizeof answer);
        if (status == RMG_OK)
            status = pass(&target, last, write_read[one][1], failing);
    }
    return status;
}

/* The fewest clocks at which all is right. A pod may not have the shortest steps. */
static rmg_status grade_access(rmg_pod *pod, rmg_chip *chip)
{
    unsigned clean = 0, failed = 0;
    rmg_status status = RMG_OK;
    uint64_t failing;
    char answer[40];

    for (unsigned clocks = POD_PACES; clocks && !failed && status == RMG_OK; clocks--) {
        status = rmg_chip_read_at(pod, chip, clocks, &failing);
        if (status == RMG_OK && failing)
            failed = clocks;
        else if (status == RMG_OK)
            clean = clocks;
        if (status == RMG_ERR_PORT_CANNOT && clean) { /* no shorter step */
            status = RMG_OK;
            break;
        }
    }
    /* the same over again; what fails then is a step too soon */
    for (unsigned runs = 1; clean && runs < REPEATS && status == RMG_OK; runs++) {
        status = rmg_chip_read_at(pod, chip, clean, &failing);
        if (status == RMG_OK && failing) {
            failed = clean;
            clean = clean == POD_PACES ? 0 : clean + 1u;
            runs = 0;
        }
    }
    if (status == RMG_ERR_PORT_CANNOT)
        return RMG_OK; /* this pod has no such steps */
    chip->cas_ns = (clean * POD_CLOCK_PS + 999u) / 1000u;
    chip->not_cas_ns = failed * POD_CLOCK_PS / 1000u;
    return status == RMG_OK ? rmg_link_tell(pod->link, "pace 0", 0, answer, sizeof answer) : status;
}

/* How long a DRAM holds. */
static rmg_status grade_hold(rmg_pod *pod, const rmg_chip_plan *plan, rmg_chip *chip)
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
    for (unsigned runs = 1; clean >= period && runs < REPEATS && status == RMG_OK; runs++) {
        status = hold(pod, chip, clean, &failing);
        if (status == RMG_OK && failing) {
            failed = clean;
            clean = clean * 3u / 4u;
            runs = 0;
        }
    }
    if (clean < period) /* its data sheet asks for more */
        clean = 0;
    chip->holds_ms = clean;
    chip->gives_way_ms = failed;
    if (status == RMG_OK && !clean)
        chip->state = RMG_CHIP_FAILS;
    return status;
}

rmg_status rmg_chip_grade(rmg_pod *pod, const rmg_chip_plan *plan, rmg_chip *chip)
{
    rmg_status status = grade_access(pod, chip);

    if (status == RMG_OK && chip->part->refresh_ms)
        status = grade_hold(pod, plan, chip);
    chip->graded = status == RMG_OK && (chip->part->refresh_ms || chip->cas_ns || chip->not_cas_ns);
    return status;
}
