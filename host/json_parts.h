/* Inside the host library: what several results in JSON have in common. */
#ifndef RMG_HOST_JSON_PARTS_H
#define RMG_HOST_JSON_PARTS_H

#include <jansson.h>

#include "rimeglass/checksum.h"
#include "rimeglass/suspect.h"

json_t *rmg_json_number(uint64_t value);
json_t *rmg_json_checksums(const rmg_checksums *sums);
json_t *rmg_suspect_json(const rmg_suspect *s);

/* The text of it, with a line's end; the value is let go. To be freed with rmg_text_free. */
char *rmg_json_text(json_t *root);

#endif
