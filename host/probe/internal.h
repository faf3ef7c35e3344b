/* Inside the host library: what the files of a probe share. */
#ifndef RMG_HOST_PROBE_INTERNAL_H
#define RMG_HOST_PROBE_INTERNAL_H

#include "rimeglass/probe.h"

bool rmg_bit_is_wrong(rmg_bit_verdict verdict);

#endif
