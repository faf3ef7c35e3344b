/* Inside the room: the table itself. */
#ifndef RMG_HOST_PART_TABLE_H
#define RMG_HOST_PART_TABLE_H

#include "rimeglass/part.h"

extern const rmg_part rmg_parts[];
extern const size_t rmg_parts_count;

#endif
