/* What several results in JSON have in common: numbers, checksums, suspects. */
#include "json.h"

#include <glib.h>
#include <stdlib.h>
#include <string.h>

static _Thread_local bool missing; /* since the last text of this thread */

void rmg_json_append(json_t *array, json_t *value)
{
    if (json_array_append_new(array, value) != 0)
        missing = true;
}

void rmg_json_set(json_t *object, const char *key, json_t *value)
{
    if (json_object_set_new(object, key, value) != 0)
        missing = true;
}

/* The text as it grows. The library that makes it does not notice everything that fails here. */
typedef struct growing {
    char *text;
    size_t size, room;
    bool failed;
} growing;

static int grow(const char *part, size_t size, void *context)
{
    growing *g = context;

    if (g->room - g->size <= size) {
        const size_t room = 2u * (g->room + size) + 4096u;
        char *more = g_try_realloc(g->text, room);

        g->failed |= !more;
        if (!more)
            return -1;
        g->text = more;
        g->room = room;
    }
    memcpy(g->text + g->size, part, size);
    g->size += size;
    g->text[g->size] = '\0';
    return 0;
}

static char *text_of(json_t *root, size_t how, const char *end)
{
    growing g = {NULL, 0, 0, false};

    if (!root || missing || json_dump_callback(root, grow, &g, how) != 0 ||
        grow(end, strlen(end), &g) != 0 || g.failed) {
        g_free(g.text);
        g.text = NULL;
    }
    json_decref(root);
    missing = false;
    return g.text;
}

char *rmg_json_text(json_t *root)
{
    return text_of(root, JSON_INDENT(2) | JSON_REAL_PRECISION(6), "\n");
}

char *rmg_json_line(json_t *root)
{
    return text_of(root, JSON_COMPACT | JSON_REAL_PRECISION(17), "");
}

json_t *rmg_json_number(uint64_t value)
{
    return json_integer((json_int_t)MIN(value, (uint64_t)INT64_MAX));
}

json_t *rmg_json_checksums(const rmg_checksums *sums)
{
    char crc[12], sum16[12], sum32[12];

    g_snprintf(sum16, sizeof sum16, "0x%04X", sums->sum16);
    g_snprintf(sum32, sizeof sum32, "0x%08X", sums->sum32);
    g_snprintf(crc, sizeof crc, "%08x", sums->crc32);
    return json_pack("{s:s, s:s, s:s, s:s, s:s, s:s}", "sum16", sum16, "sum32", sum32, "crc32", crc,
                     "md5", sums->md5, "sha1", sums->sha1, "sha256", sums->sha256);
}
