/* An image as JSON; the form is described in docs/image.schema.json. */
#include <glib.h>

#include "internal.h"
#include "rimeglass/image.h"

char *rmg_image_json(const rmg_image *image, uint8_t fill, const char *file, const bool *equal)
{
    json_t *pieces = json_array(), *sums = json_null();
    rmg_checksums of;
    char *bytes, *text;
    rmg_error error;
    size_t size;

    for (size_t i = 0; i < image->count; i++) {
        gchar *address =
            g_strdup_printf("0x%" G_GINT64_MODIFIER "X", (guint64)image->pieces[i].address);

        rmg_json_append(pieces, json_pack("{s:s, s:o}", "address", address, "bytes",
                                          rmg_json_number(image->pieces[i].size)));
        g_free(address);
    }
    if (rmg_image_form_as(image, RMG_IMAGE_RAW, fill, &bytes, &size, &error) == RMG_OK) {
        rmg_checksums_of(bytes, size, &of);
        sums = rmg_json_checksums(&of);
    }
    rmg_text_free(bytes);
    rmg_error_free(&error);
    text = g_filename_display_name(file);
    sums = json_pack("{s:i, s:s, s:o, s:i, s:o, s:o}", "rimeglass_image", 1, "file", text, "pieces",
                     pieces, "fill", (int)fill, "checksums", sums, "equal",
                     equal ? json_boolean(*equal) : json_null());
    g_free(text);
    return rmg_json_text(sums);
}
