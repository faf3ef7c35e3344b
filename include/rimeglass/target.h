/* A target by its name. */
#ifndef RIMEGLASS_TARGET_H
#define RIMEGLASS_TARGET_H

#include "fault.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A board under simulation, ready to be tested through `target`. */
typedef struct rmg_sim_board_run {
    rmg_sim_model plan;
    rmg_board *adapter; /* of a bare chip: the ideal adapter it is read in */
    void **images;      /* [image_count]: what the sockets' chips hold, or NULL */
    size_t image_count;
    rmg_faults faults;
    rmg_sim sim;
    rmg_target target;
    void *memory;
} rmg_sim_board_run;

/* Starts a simulation of `board` with the faults of `file` (NULL: a healthy board, world seed 1).
 * Chips hold the images that the board file names, or the fault file instead of them.
 * RMG_ERR_ROOM: it would need more than 1 GiB; RMG_ERR_MEMORY. `run` must not be moved while it is
 * in use; end it with rmg_sim_board_end in any case. */
rmg_status rmg_sim_board_begin(rmg_sim_board_run *run, const rmg_board *board, const char *file,
                               rmg_mistakes *mistakes);

/* The same for one chip of the board, pulled and put into an ideal adapter: slow, every line
 * driven, each data line keeping its last value where the chip does not drive it. Faults in the
 * chip come with it, faults of board and socket do not. run->adapter is then the board: its only
 * socket, 0, has the chip's name, its region "chip" the chip's addresses, and its region "free"
 * answers to nothing. RMG_ERR_ARGUMENT: the board file does not say what the socket holds, or it is
 * a DRAM, which loses its contents. */
rmg_status rmg_sim_bare_begin(rmg_sim_board_run *run, const rmg_board *board, uint16_t socket,
                              const char *file, rmg_mistakes *mistakes);
void rmg_sim_board_end(rmg_sim_board_run *run);

#ifdef __cplusplus
}
#endif
#endif
