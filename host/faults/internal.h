/* Inside the host library: a fault file while it is being read. */
#ifndef RMG_HOST_FAULT_INTERNAL_H
#define RMG_HOST_FAULT_INTERNAL_H

#include "rimeglass/fault.h"
#include "base/internal.h"

typedef struct fault_reader {
    const rmg_board *board;
    yaml_file *file;
    char **images; /* [socket_count] */
    bool image;    /* the fault was nothing but an image */
} fault_reader;

/* fault_file.c: the socket of key "socket", 0 after noting a mistake; and its part. */
uint16_t rmg_fault_socket(fault_reader *r, const ynode *map);
const rmg_part *rmg_fault_part(const fault_reader *r, uint16_t socket);

/* A bus data bit; a cell by "cell" or "address"; and the data line of the socket's chip that the
 * bus bit under `key` is. */
uint8_t rmg_fault_bit(fault_reader *r, const ynode *map, const char *key);
uint8_t rmg_fault_data_line(fault_reader *r, const ynode *map, const char *key, uint16_t socket,
                            bool all_allowed);
void rmg_fault_read_cell(fault_reader *r, const ynode *map, rmg_sim_fault *fault);

/* fault_cells.c: what depends on what was done before, and on time. */
void rmg_fault_read_coupled(fault_reader *r, const ynode *map, rmg_sim_fault *fault);
void rmg_fault_read_wrong_cells(fault_reader *r, const ynode *map, rmg_sim_fault *fault);
void rmg_fault_read_retention(fault_reader *r, const ynode *map, rmg_sim_fault *fault);
void rmg_fault_read_refresh(fault_reader *r, const ynode *map, rmg_sim_fault *fault);
void rmg_fault_read_disturb(fault_reader *r, const ynode *map, rmg_sim_fault *fault);
void rmg_fault_read_noise(fault_reader *r, const ynode *map, rmg_sim_fault *fault);

/* fault_rom.c: what happens to ROMs. */
void rmg_fault_read_weak(fault_reader *r, const ynode *map, rmg_sim_fault *fault);
void rmg_fault_read_late(fault_reader *r, const ynode *map, rmg_sim_fault *fault);
void rmg_fault_read_image(fault_reader *r, const ynode *map, rmg_sim_fault *fault);

/* Does the fault, of the kind named `word` in the file, go with the chip when it is pulled? */
bool rmg_fault_in_chip(const rmg_sim_fault *fault, const char *word);
#define RMG_ADDRESS_PIN_OPEN "address pin open" /* these two share a kind with others, but stay */
#define RMG_WRONG_HALF       "wrong half"

/* fault_lines.c: the rest of a fault that acts for a set of chips. */
void rmg_fault_read_line(fault_reader *r, const ynode *map, rmg_sim_fault *fault);
void rmg_fault_read_touch(fault_reader *r, const ynode *map, rmg_sim_fault *fault);
void rmg_fault_read_chips(fault_reader *r, const ynode *map, rmg_sim_fault *fault);
void rmg_fault_read_also_selected(fault_reader *r, const ynode *map, rmg_sim_fault *fault);
void rmg_fault_read_smaller(fault_reader *r, const ynode *map, rmg_sim_fault *fault);

#endif
