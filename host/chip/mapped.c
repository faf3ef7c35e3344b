/* Supplies and checks of a pod whose lines are set one by one. What its file does not name is not
 * checked, and that is said. */
#include <string.h>

#include "internal.h"

enum { LEAST_5 = 4500, MOST_5 = 5500, LEAST_12 = 10800, MOST_12 = 13200 };

#define SETTLES_US 20000u

static const char *const rail_words[] = {"+5 V", "+12 V", "-5 V"};

static bool needs(const rmg_chip *chip, unsigned rail)
{
    bool other;

    return rmg_pod_rails_of(chip->part, &other) >> rail & 1u;
}

static rmg_status feed(rmg_pod *pod, const pod_rail *rail, unsigned *mv)
{
    rmg_status status = rmg_pod_line_set(pod->each, rail->feed, true);

    g_usleep(SETTLES_US);
    if (status == RMG_OK)
        status = rmg_pod_lines_volts(pod->each, rail->volts, mv);
    if (status == RMG_OK)
        status = rmg_pod_line_set(pod->each, rail->feed, false);
    g_usleep(SETTLES_US);
    return status;
}

bool rmg_mapped_feel(rmg_pod *pod, rmg_chip *chip)
{
    const unsigned count = needs(chip, 1) ? 2u : 1u;
    unsigned low[2] = {0, 0}, pulled[2] = {0, 0};
    rmg_status status = RMG_OK;

    for (unsigned i = 0; i < 3 && status == RMG_OK; i++) /* costs nothing where they are off */
        status = rmg_pod_line_set(pod->each, pod->map->rails[i].power, false);
    if (status == RMG_OK)
        status = rmg_pod_lines_low(pod->each);
    for (unsigned i = 0; i < count; i++)
        if (pod->map->rails[i].feed < 0 || pod->map->rails[i].volts < 0) {
            chip->unfelt = true;
            chip->state = RMG_CHIP_GOOD; /* as far as can be told */
            if (status != RMG_OK)
                rmg_chip_stopped(pod, chip, status);
            return status == RMG_OK;
        }
    for (unsigned i = 0; i < count && status == RMG_OK; i++)
        status = feed(pod, &pod->map->rails[i], &low[i]);
    if (status == RMG_OK)
        status = rmg_pod_lines_pulled(pod->each);
    for (unsigned i = 0; i < count && status == RMG_OK; i++)
        status = feed(pod, &pod->map->rails[i], &pulled[i]);
    if (status == RMG_OK)
        status = rmg_pod_lines_low(pod->each);
    if (status != RMG_OK) {
        rmg_chip_stopped(pod, chip, status);
        return false;
    }
    return rmg_pod_felt(chip, low, pulled, count);
}

/* One rail on, and within its window as far as that can be measured. */
static rmg_status bring_up(rmg_pod *pod, rmg_chip *chip, unsigned number, bool *good)
{
    const pod_rail *rail = &pod->map->rails[number];
    unsigned mv = 0;
    rmg_status status = rmg_pod_line_set(pod->each, rail->power, true);

    *good = true;
    g_usleep(SETTLES_US);
    if (status != RMG_OK || rail->volts < 0 || number == 2)
        return status; /* of a rail below 0 V no converter tells */
    status = rmg_pod_lines_volts(pod->each, rail->volts, &mv);
    if (number == 0)
        chip->supply_mv = mv;
    *good = number == 0 ? mv >= LEAST_5 && mv <= MOST_5 : mv >= LEAST_12 && mv <= MOST_12;
    return status;
}

bool rmg_mapped_power(rmg_pod *pod, rmg_chip *chip)
{
    static const unsigned order[] = {2, 0, 1};
    rmg_status status = RMG_OK;
    bool good = true;

    for (unsigned i = 0; i < 3 && status == RMG_OK && good; i++)
        if (needs(chip, order[i])) {
            status = bring_up(pod, chip, order[i], &good);
            if (!good) {
                chip->state = RMG_CHIP_DRAWS;
                g_snprintf(chip->why, sizeof chip->why,
                           "the %s rail does not come up with it: all supplies are off again",
                           rail_words[order[i]]);
            }
        }
    if (status == RMG_OK && good)
        status = rmg_pod_lines_wake(pod->each);
    if (status != RMG_OK)
        rmg_chip_stopped(pod, chip, status);
    if (status != RMG_OK || !good)
        rmg_mapped_off(pod);
    return status == RMG_OK && good;
}

void rmg_mapped_off(rmg_pod *pod)
{
    static const unsigned order[] = {1, 0, 2}; /* -5 V goes last */

    for (unsigned i = 0; i < 3; i++) {
        rmg_pod_line_set(pod->each, pod->map->rails[order[i]].power, false);
        if (i == 1)
            rmg_pod_lines_low(pod->each);
    }
}
