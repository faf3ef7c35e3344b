/* The fault file: what is wrong with a simulated board. Its keys are described in
 * docs/fault-file.md. */
#ifndef RIMEGLASS_FAULT_H
#define RIMEGLASS_FAULT_H

#include "board.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef struct rmg_faults {
    rmg_sim_fault *list; /* [count] */
    size_t count;
    uint64_t world_seed;
    int from_c, to_c; /* temperature at power-on, and after ... */
    unsigned warm_minutes;
} rmg_faults;

/* Reads a fault file for this board. RMG_OK and *faults, to be freed with rmg_faults_free; or
 * RMG_ERR_FILE, RMG_ERR_CONTENT with every mistake found in *mistakes and *faults empty. */
rmg_status rmg_faults_load(const char *file, const rmg_board *board, rmg_faults *faults,
                           rmg_mistakes *mistakes);
void rmg_faults_free(rmg_faults *faults);

/* A board under simulation, ready to be tested through `target`. */
typedef struct rmg_sim_board_run {
    rmg_sim_plan plan;
    rmg_faults faults;
    rmg_sim sim;
    rmg_target target;
    void *memory;
} rmg_sim_board_run;

/* Starts a simulation of `board` with the faults of `file` (NULL: a healthy board, world seed 1).
 * RMG_ERR_ROOM: it would need more than 1 GiB. `run` must not be moved while it is in use; end it
 * with rmg_sim_board_end in any case. */
rmg_status rmg_sim_board_begin(rmg_sim_board_run *run, const rmg_board *board, const char *file,
                               rmg_mistakes *mistakes);
void rmg_sim_board_end(rmg_sim_board_run *run);

#ifdef __cplusplus
}
#endif
#endif
