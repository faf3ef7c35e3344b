/* Inside the host library: what several results in JSON have in common. */
#ifndef RMG_HOST_JSON_PARTS_H
#define RMG_HOST_JSON_PARTS_H

#include <jansson.h>

#include "rimeglass/file.h"

/* Values are put together in the thread that calls rmg_json_text, which gives no text where
 * anything that was added since the last call was missing: memory, or a string that is not UTF-8.
 * So no entry is lost unseen. `value` is taken over; NULL containers and values are noted as
 * missing. */
void rmg_json_append(json_t *array, json_t *value);
void rmg_json_set(json_t *object, const char *key, json_t *value);

/* The text of it; the value is freed. Indented, or all in one line with 17 digits a real. To be
 * freed with rmg_text_free; NULL: something is missing. */
char *rmg_json_text(json_t *root);
char *rmg_json_line(json_t *root);

json_t *rmg_json_number(uint64_t value);
json_t *rmg_json_checksums(const rmg_checksums *sums);

#endif
