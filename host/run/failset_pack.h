/* Inside the host library: a failure set as bytes, the same on every machine. */
#ifndef RMG_HOST_FAILSET_PACK_H
#define RMG_HOST_FAILSET_PACK_H

#include <stdbool.h>

#include "rimeglass/failset.h"

/* The set as *bytes, *size long, to be freed with free(). Failing words that have no room in `most`
 * bytes are left out from the highest address on; *left_out says how many. false: no memory. */
bool rmg_failset_pack(const rmg_failset *set, size_t most, uint8_t **bytes, size_t *size,
                      uint64_t *left_out);

/* Adds what `bytes` hold to an empty set, all of it at addresses up to `last`. false: these are no
 * such bytes. */
bool rmg_failset_unpack(rmg_failset *set, const uint8_t *bytes, size_t size, rmg_addr last);

#endif
