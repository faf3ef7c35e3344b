/* The bus port to a simulated board. Its context is an rmg_sim. */
#include "rimeglass/sim.h"

/* Does what the accesses touched still fit? */
static rmg_status room(const rmg_sim *sim)
{
    return sim->touched > sim->room ? RMG_ERR_MEMORY : RMG_OK;
}

static rmg_status sim_read(void *context, rmg_addr address, rmg_word *value)
{
    *value = rmg_sim_read(context, address);
    return room(context);
}

static rmg_status sim_write(void *context, rmg_addr address, rmg_word value)
{
    rmg_sim_write(context, address, value);
    return room(context);
}

static rmg_status sim_read_byte(void *context, rmg_addr address, uint8_t lane, uint8_t *value)
{
    *value = rmg_sim_read_byte(context, address, lane);
    return RMG_OK;
}

static rmg_status sim_write_byte(void *context, rmg_addr address, uint8_t lane, uint8_t value)
{
    rmg_sim_write_byte(context, address, lane, value);
    return RMG_OK;
}

static rmg_status sim_wait(void *context, uint32_t hold_us)
{
    rmg_sim_wait(context, (uint64_t)hold_us * 1000u);
    return RMG_OK;
}

static rmg_status sim_run_element(void *context, rmg_element_call *call)
{
    const rmg_status status = rmg_sim_element(context, call);

    return room(context) != RMG_OK ? room(context) : status;
}

static rmg_status sim_get_condition(void *context, rmg_condition which, int32_t *value)
{
    return rmg_sim_get(context, which, value);
}

static rmg_status sim_set_condition(void *context, rmg_condition which, int32_t value)
{
    return rmg_sim_set(context, which, value);
}

const rmg_bus rmg_sim_bus = {
    .version = RMG_BUS_VERSION,
    .read = sim_read,
    .write = sim_write,
    .read_byte = sim_read_byte,
    .write_byte = sim_write_byte,
    .run_element = sim_run_element,
    .wait = sim_wait,
    .get_condition = sim_get_condition,
    .set_condition = sim_set_condition,
};
