/* Conditions set from outside: clock, supply, temperature; and refresh, which sends every access
 * chip by chip while it rests. */
#include "internal.h"

static void set_refresh(rmg_sim *sim, bool on)
{
    if (!on) {
        rmg_sim_spill(sim);
        for (size_t i = 0; i < sim->slow_bytes; i++)
            sim->slow[i] |= RMG_SLOW_FOR_NOW;
    }
    rmg_rows_pass(sim);
    sim->refreshed = on;
    sim->calm = on && !sim->hot;
    sim->refresh_ns = sim->now_ns;
    if (!on) {
        sim->was_lively = sim->lively;
        sim->lively = true;
        return;
    }
    sim->lively = sim->was_lively;
    for (size_t i = 0; i < sim->slow_bytes; i++)
        sim->slow[i] &= (uint8_t)~RMG_SLOW_FOR_NOW;
}

rmg_status rmg_sim_set(rmg_sim *sim, rmg_condition which, int32_t value)
{
    switch (which) {
    case RMG_CONDITION_CLOCK_HZ:
        if (value < 1000 || value > 1000000000)
            return RMG_ERR_PORT_CANNOT;
        sim->access_ns = UINT32_C(1000000000) / (uint32_t)value;
        return RMG_OK;
    case RMG_CONDITION_SUPPLY_MV:
        if (value < 0 || value > 20000)
            return RMG_ERR_PORT_CANNOT;
        sim->supply_mv = value;
        return RMG_OK;
    case RMG_CONDITION_HEAT_MILLIC:
        if (value < -55000 || value > 150000)
            return RMG_ERR_PORT_CANNOT;
        rmg_sim_warm(sim, value, value, 0);
        return RMG_OK;
    case RMG_CONDITION_REFRESH:
        if (value != 0 && value != 1)
            return RMG_ERR_PORT_CANNOT;
        if (sim->refreshed != (value == 1))
            set_refresh(sim, value == 1);
        return RMG_OK;
    }
    return RMG_ERR_PORT_CANNOT;
}
