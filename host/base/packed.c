/* Bytes in a JSON file, compressed and as text. */
#include "packed.h"

#include <glib.h>
#include <stdlib.h>
#include <zlib.h>

json_t *rmg_packed_json(const void *bytes, size_t size)
{
    uLongf room = compressBound(size);
    json_t *json = NULL;
    Bytef *small;

    if (!bytes)
        return json_null();
    small = malloc(room);
    if (small && compress2(small, &room, bytes, size, 1) == Z_OK) {
        gchar *text = g_base64_encode(small, room);

        json = json_pack("{s:I, s:s}", "bytes", (json_int_t)size, "zlib_base64", text);
        g_free(text);
    }
    free(small);
    return json;
}

json_int_t rmg_packed_size(const json_t *json)
{
    json_int_t size;
    const char *text;

    if (json_unpack((json_t *)json, "{s:I, s:s}", "bytes", &size, "zlib_base64", &text) != 0)
        return -1;
    return size;
}

bool rmg_packed_read(const json_t *json, void *bytes, size_t size)
{
    json_int_t told;
    const char *text;
    uLongf room = (uLongf)size;
    guchar *small;
    gsize small_size;
    bool right;

    if (json_unpack((json_t *)json, "{s:I, s:s}", "bytes", &told, "zlib_base64", &text) != 0 ||
        told < 0 || (size_t)told != size)
        return false;
    small = g_base64_decode(text, &small_size);
    right = uncompress(bytes, &room, small, small_size) == Z_OK && room == (uLongf)size;
    g_free(small);
    return right;
}
