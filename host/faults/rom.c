/* Faults that happen to ROMs above all: bits that fade, late outputs, another image fitted; and
 * which faults come along when a chip is read bare. */
#include <string.h>

#include "internal.h"

void rmg_fault_read_weak(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    fault->chip = rmg_fault_socket(r, map);
    fault->data_line = rmg_fault_data_line(r, map, "bit", fault->chip, true);
    fault->count = (uint32_t)rmg_yaml_number(r->file, map, "one-cell-in", 1, 100000000, -1);
    fault->level = (uint8_t)rmg_yaml_number(r->file, map, "level", 0, 1, 1);
}

void rmg_fault_read_late(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    const uint64_t access_ns = rmg_yaml_number(r->file, map, "access-ns", 1, 1000000, 0);

    fault->chip = rmg_fault_socket(r, map);
    if (access_ns && fault->when.from_hz)
        rmg_yaml_wrong(r->file, map, "access-ns", "goes without from-hz: both tell the same");
    else if (access_ns)
        fault->when.from_hz = (int32_t)(1000000000u / access_ns) + 1;
}

void rmg_fault_read_image(fault_reader *r, const ynode *map, rmg_sim_fault *fault)
{
    const uint16_t socket = rmg_fault_socket(r, map);
    char *name = rmg_yaml_string(r->file, map, "image", NULL);

    (void)fault;
    r->image = true;
    g_free(r->images[socket]);
    r->images[socket] = rmg_file_beside(r->file->name, name);
    g_free(name);
}

bool rmg_fault_in_chip(const rmg_sim_fault *fault, const char *word)
{
    switch (fault->kind) {
    case RMG_FAULT_ADDRESS_CHIP:
        return strcmp(word, RMG_ADDRESS_PIN_OPEN) != 0 && strcmp(word, RMG_WRONG_HALF) != 0;
    case RMG_FAULT_CELL:
    case RMG_FAULT_ROW:
    case RMG_FAULT_COLUMN:
    case RMG_FAULT_OUTPUT:
    case RMG_FAULT_MISSING:
    case RMG_FAULT_TRANSITION:
    case RMG_FAULT_WRITE_FLIPS:
    case RMG_FAULT_READ_FLIPS:
    case RMG_FAULT_READ_FLIPS_AFTER:
    case RMG_FAULT_READ_WRONG:
    case RMG_FAULT_COUPLING_INVERTS:
    case RMG_FAULT_COUPLING_SETS:
    case RMG_FAULT_COUPLING_HOLDS:
    case RMG_FAULT_COUPLING_FLIPS:
    case RMG_FAULT_ADDRESS_CELLS:
    case RMG_FAULT_RETENTION:
    case RMG_FAULT_DISTURB:
    case RMG_FAULT_LATE:
    case RMG_FAULT_WEAK:
        return true;
    default: /* lines, contacts and selects stay in the board */
        return false;
    }
}
