/* Image files as the bytes that a chip of some part holds. */
#include <glib.h>
#include <string.h>

#include "base/internal.h"
#include "rimeglass/image.h"

/* The image's bytes from address 0 on, or, where they do not fit so, from its first address. */
static rmg_status flatten(const rmg_image *image, const char *file, uint64_t most, const char *what,
                          char **bytes, size_t *size, rmg_error *error)
{
    const rmg_piece *end = &image->pieces[image->count - 1];
    const uint64_t last = end->address + end->size, first = image->pieces[0].address;
    const uint64_t from = last <= most ? 0 : first;

    if (last - from > most) {
        return rmg_fail(error, RMG_ERR_CONTENT, file,
                        "%s holds %" G_GUINT64_FORMAT " bytes, but %s has %" //
                        G_GUINT64_FORMAT ": an image must not be larger",
                        file, (guint64)(last - from), what, (guint64)most);
    }
    *size = (size_t)(last - from);
    *bytes = g_malloc(*size);
    memset(*bytes, 0xFF, *size);
    for (size_t i = 0; i < image->count; i++)
        memcpy(*bytes + (image->pieces[i].address - from), image->pieces[i].bytes,
               image->pieces[i].size);
    return RMG_OK;
}

static rmg_status load_within(const char *file, uint64_t most, const char *what, char **bytes,
                              size_t *size, rmg_error *error)
{
    rmg_image image;
    rmg_status status;

    *bytes = NULL;
    *size = 0;
    status = rmg_image_load(file, &image, error);
    if (status == RMG_OK)
        status = flatten(&image, file, most, what, bytes, size, error);
    rmg_image_free(&image);
    return status;
}

static uint64_t part_bytes(const rmg_part *part)
{
    return ((uint64_t)1 << part->address_lines) * ((part->width + 7u) / 8u);
}

rmg_status rmg_part_image(const rmg_part *part, const char *file, char **bytes, size_t *size,
                          rmg_error *error)
{
    gchar *what = g_strdup_printf("a %s", part->number);
    rmg_status status;

    *bytes = NULL;
    *size = 0;
    rmg_error_none(error);
    if (g_file_test(file, G_FILE_TEST_EXISTS) && !g_file_test(file, G_FILE_TEST_IS_REGULAR))
        status = rmg_fail(error, RMG_ERR_CONTENT, file,
                          "%s is no file (a pipe or device may have no end)", file);
    else
        status = load_within(file, part_bytes(part), what, bytes, size, error);
    if (status == RMG_OK) {
        const size_t all = (size_t)part_bytes(part);

        *bytes = g_realloc(*bytes, all);
        memset(*bytes + *size, 0xFF, all - *size);
        *size = all;
    }
    g_free(what);
    return status;
}
