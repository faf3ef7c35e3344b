/* A board under simulation, with the faults of a file. */
#include <glib.h>
#include <string.h>

#include "rimeglass/fault.h"

#define MOST_BYTES ((size_t)1 << 30) /* of a simulation's memory */

rmg_status rmg_sim_board_begin(rmg_sim_board_run *run, const rmg_board *board, const char *file,
                               rmg_mistakes *mistakes)
{
    rmg_status status = RMG_OK;
    size_t bytes;

    memset(run, 0, sizeof *run);
    run->faults.world_seed = 1;
    if (file)
        status = rmg_faults_load(file, board, &run->faults, mistakes);
    if (status != RMG_OK)
        return status;
    rmg_board_to_sim(board, &run->plan);
    bytes = rmg_sim_bytes(&run->plan.board, (uint16_t)run->faults.count);
    run->memory = bytes > MOST_BYTES ? NULL : g_try_malloc(MAX(bytes, 1));
    if (!run->memory)
        return RMG_ERR_ROOM;
    status = rmg_sim_start(&run->sim, &run->plan.board, run->faults.list,
                           (uint16_t)run->faults.count, run->faults.world_seed, run->memory);
    if (status == RMG_OK && file)
        rmg_sim_warm(&run->sim, run->faults.from_c * 1000, run->faults.to_c * 1000,
                     (uint64_t)run->faults.warm_minutes * UINT64_C(60000000000));
    run->target.bus = &rmg_sim_bus;
    run->target.context = &run->sim;
    run->target.mask = (rmg_word) ~(rmg_word)0 >> (RMG_WORD_BITS - board->word_bits);
    return status;
}

void rmg_sim_board_end(rmg_sim_board_run *run)
{
    rmg_faults_free(&run->faults);
    rmg_sim_plan_free(&run->plan);
    g_free(run->memory);
    run->memory = NULL;
}
