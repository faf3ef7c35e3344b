/* Faults that happen to ROMs above all: bits that fade, late outputs, another image fitted. */
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
        rmg_yaml_wrong(r->file, map, "access-ns",
                       "cannot be combined with from-hz: both say the same");
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
