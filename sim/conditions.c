/* Clock, supply and temperature of the simulated board as they are, and which faults they wake. */
#include "internal.h"

uint64_t rmg_sim_dice(const rmg_sim *sim, uint64_t source, uint64_t number)
{
    return rmg_sim_mix(rmg_sim_source(sim, source) ^ rmg_sim_mix(number));
}

static int32_t heat(const rmg_sim *sim)
{
    const int64_t span = (int64_t)sim->heat_to_millic - sim->heat_millic;

    if (sim->now_ns >= sim->heat_over_ns)
        return sim->heat_to_millic;
    return (int32_t)(sim->heat_millic +
                     span * (int64_t)(sim->now_ns / 1000u) / (int64_t)(sim->heat_over_ns / 1000u));
}

static int32_t clock_hz(const rmg_sim *sim)
{
    return (int32_t)(UINT32_C(1000000000) / sim->access_ns);
}

bool rmg_fault_conditions_hold(const rmg_sim *sim, const rmg_sim_fault *fault)
{
    const rmg_sim_when *when = &fault->when;

    if (when->warm && heat(sim) < when->from_millic)
        return false;
    if (when->below_mv && sim->supply_mv >= when->below_mv)
        return false;
    if (when->from_mv && sim->supply_mv < when->from_mv)
        return false;
    if (when->from_hz && clock_hz(sim) < when->from_hz)
        return false;
    if (!when->rate_ppb)
        return true;
    return rmg_sim_dice(sim, (uint64_t)(fault - sim->faults), sim->reads + sim->writes) %
               UINT64_C(1000000000) <
           when->rate_ppb;
}

rmg_status rmg_sim_get(const rmg_sim *sim, rmg_condition which, int32_t *value)
{
    switch (which) {
    case RMG_CONDITION_CLOCK_HZ:
        *value = clock_hz(sim);
        return RMG_OK;
    case RMG_CONDITION_SUPPLY_MV:
        *value = sim->supply_mv;
        return RMG_OK;
    case RMG_CONDITION_HEAT_MILLIC:
        *value = heat(sim);
        return RMG_OK;
    case RMG_CONDITION_REFRESH:
        *value = sim->refreshed;
        return RMG_OK;
    }
    return RMG_ERR_PORT_CANNOT;
}

void rmg_sim_warm(rmg_sim *sim, int32_t from_millic, int32_t to_millic, uint64_t over_ns)
{
    sim->heat_millic = from_millic;
    sim->heat_to_millic = to_millic;
    sim->heat_over_ns = over_ns < 1000u ? 0 : over_ns;
    sim->hot = from_millic > RMG_COOL_MILLIC || to_millic > RMG_COOL_MILLIC;
    sim->calm = sim->refreshed && !sim->hot;
}

/* Time as it counts for a leaking cell at the temperature now: a holding time given for 25 degrees.
 */
uint64_t rmg_sim_holding_ns(const rmg_sim *sim, uint64_t ns)
{
    const int32_t off = heat(sim) - 25000;
    const int32_t tens = off >= 0 ? off / 10000 : -((9999 - off) / 10000);
    const uint64_t rest = (uint64_t)(off - tens * 10000);

    ns = tens >= 0 ? ns >> tens : ns << -tens;
    return ns - ns / 20000u * rest;
}
