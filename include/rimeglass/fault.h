/* The fault file: what is wrong with a simulated board. Its keys are described in
 * docs/fault-file.md. */
#ifndef RIMEGLASS_FAULT_H
#define RIMEGLASS_FAULT_H

#include "board.h"
#include "sim.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A fault file, as it was read. */
typedef struct rmg_faults {
    rmg_sim_fault *list; /* [count] */
    bool *in_chip; /* [count]: goes with the chip when it is pulled; else it stays in the board,
                      the socket or its contact */
    size_t count;
    char **images; /* [images_count], by socket: file of what is fitted instead; or NULL */
    size_t image_count;
    uint64_t world_seed;   /* decides what is drawn: contents at power-on, noise */
    int from_c, to_c;      /* temperature at power-on, and after ... */
    unsigned warm_minutes; /* ... so many minutes */
    int32_t clock_hz;      /* at which the simulated board runs; 0: by its own file */
    int32_t supply_mv;     /* at its chips; 0: 5 V */
} rmg_faults;

/* Reads a fault file for this board. RMG_OK and *faults, to be freed with rmg_faults_free; or
 * RMG_ERR_FILE, RMG_ERR_CONTENT with every error found in *errors and *faults empty. */
rmg_status rmg_faults_load(const char *file, const rmg_board *board, rmg_faults *faults,
                           rmg_errors *errors);
void rmg_faults_free(rmg_faults *faults);

/* A simulated board's description. */
typedef struct rmg_sim_model {
    rmg_sim_board board;     /* the description, which points to the lists below */
    rmg_sim_chip *chips;     /* [board.chip_count] */
    rmg_sim_mirror *mirrors; /* [board.mirror_count] */
} rmg_sim_model;

/* Describes the board to the simulator. `model` points into `board`; free with
 * rmg_sim_model_free. */
void rmg_board_to_sim(const rmg_board *board, rmg_sim_model *model);
void rmg_sim_model_free(rmg_sim_model *model);

#ifdef __cplusplus
}
#endif
#endif
