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

/* keys.c: the socket of key "socket", 0 after noting an error; and its part. */
uint16_t rmg_fault_socket(fault_reader *r, const ynode *map);
const rmg_part *rmg_fault_part(const fault_reader *r, uint16_t socket);

/* A bus data bit; and the data line of the socket's chip that the bus bit under `key` is. */
uint8_t rmg_fault_bit(fault_reader *r, const ynode *map, const char *key);
uint8_t rmg_fault_data_line(fault_reader *r, const ynode *map, const char *key, uint16_t socket,
                            bool all_allowed);
/* The chips a fault acts for: "socket", "bank", "beyond" a point of the line; none: all. */
void rmg_fault_read_scope(fault_reader *r, const ynode *map, const char *line_name,
                          rmg_sim_fault *fault);

/* What a fault file says of a fault, by the ways of fault_kinds.h. */
#define RMG_FAULT_READER(name)                                                                     \
    void rmg_fault_read_##name(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
RMG_FAULT_READER(cell); /* keys.c */
RMG_FAULT_READER(row);  /* chips.c, to ... */
RMG_FAULT_READER(column);
RMG_FAULT_READER(output);
RMG_FAULT_READER(input);
RMG_FAULT_READER(chip);
RMG_FAULT_READER(data_line);
RMG_FAULT_READER(address_pin);
RMG_FAULT_READER(bank_line); /* ... here */
RMG_FAULT_READER(line);      /* lines.c, to ... */
RMG_FAULT_READER(touch);
RMG_FAULT_READER(nearby);
RMG_FAULT_READER(chips);
RMG_FAULT_READER(also_selected);
RMG_FAULT_READER(smaller); /* ... here */
RMG_FAULT_READER(value);   /* cells.c, to ... */
RMG_FAULT_READER(change);
RMG_FAULT_READER(state);
RMG_FAULT_READER(pattern);
RMG_FAULT_READER(turn);
RMG_FAULT_READER(operation);
RMG_FAULT_READER(wrong_cells);
RMG_FAULT_READER(after);
RMG_FAULT_READER(own_line);
RMG_FAULT_READER(bit_line);
RMG_FAULT_READER(retention);
RMG_FAULT_READER(refresh);
RMG_FAULT_READER(disturb);
RMG_FAULT_READER(noise); /* ... here */
RMG_FAULT_READER(weak);  /* rom.c, to ... */
RMG_FAULT_READER(late);
RMG_FAULT_READER(image); /* ... here */

#endif
