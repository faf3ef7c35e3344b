/* Inside the host library: bytes in a JSON file, compressed and as text. */
#ifndef RMG_HOST_PACKED_H
#define RMG_HOST_PACKED_H

#include <jansson.h>
#include <stdbool.h>
#include <stddef.h>

/* {"bytes": n, "zlib_base64": "..."}; the JSON null of NULL. NULL: no memory. */
json_t *rmg_packed_json(const void *bytes, size_t size);

/* How many bytes such an object says it holds; -1: it is none. */
json_int_t rmg_packed_size(const json_t *json);

/* Unpacks exactly `size` bytes; false: they are not there. */
bool rmg_packed_read(const json_t *json, void *bytes, size_t size);

#endif
