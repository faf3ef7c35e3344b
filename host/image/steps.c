/* Steps that prepare an image for another chip: sizes, places, lines. */
#include <glib.h>
#include <string.h>

#include "base/internal.h"
#include "rimeglass/image.h"

/* The image becomes these bytes, from its first address on. Takes them. */
static rmg_status become(rmg_image *image, uint8_t *bytes, uint64_t size)
{
    const uint64_t address = image->pieces[0].address;
    const bool has_start = image->has_start;
    const uint64_t start = image->start;

    rmg_image_free(image);
    rmg_image_add(image, address, bytes, (size_t)size);
    image->has_start = has_start;
    image->start = start;
    g_free(bytes);
    return RMG_OK;
}

static uint64_t span(const rmg_image *image)
{
    const rmg_piece *end = &image->pieces[image->count - 1];

    return end->address + end->size - image->pieces[0].address;
}

rmg_status rmg_image_flatten(rmg_image *image, uint8_t fill, rmg_error *error)
{
    char *bytes;
    size_t size;
    rmg_status status;

    rmg_error_none(error);
    if (image->count == 1)
        return RMG_OK;
    status = rmg_image_form_as(image, RMG_IMAGE_RAW, fill, &bytes, &size, error);
    return status == RMG_OK ? become(image, (uint8_t *)bytes, size) : RMG_ERR_ARGUMENT;
}

static rmg_status too_large(uint64_t size, rmg_error *error)
{
    return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                    "%" G_GUINT64_FORMAT " bytes are more than the 1 GiB an "
                    "image may have",
                    (guint64)size);
}

rmg_status rmg_image_repeat(rmg_image *image, uint64_t size, uint8_t fill, rmg_error *error)
{
    const uint64_t once = span(image);
    uint8_t *bytes;

    if (size > RMG_IMAGE_MOST)
        return too_large(size, error);
    if (size < once || size % once)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        "an image of %" G_GUINT64_FORMAT " bytes does not go "
                        "evenly into %" G_GUINT64_FORMAT,
                        (guint64)once, (guint64)size);
    if (rmg_image_flatten(image, fill, error) != RMG_OK)
        return RMG_ERR_ARGUMENT;
    bytes = g_malloc((gsize)size);
    for (uint64_t at = 0; at < size; at += once)
        memcpy(bytes + at, image->pieces[0].bytes, (size_t)once);
    return become(image, bytes, size);
}

rmg_status rmg_image_pad(rmg_image *image, uint64_t size, uint8_t fill, rmg_error *error)
{
    const uint64_t before = span(image);
    uint8_t *bytes;

    if (size > RMG_IMAGE_MOST)
        return too_large(size, error);
    if (size < before)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        "the image has %" G_GUINT64_FORMAT
                        " bytes already, more than %" G_GUINT64_FORMAT,
                        (guint64)before, (guint64)size);
    if (rmg_image_flatten(image, fill, error) != RMG_OK)
        return RMG_ERR_ARGUMENT;
    bytes = g_malloc((gsize)size);
    memcpy(bytes, image->pieces[0].bytes, (size_t)before);
    memset(bytes + before, fill, (size_t)(size - before));
    return become(image, bytes, size);
}

rmg_status rmg_image_cut(rmg_image *image, uint64_t first, uint64_t last, rmg_error *error)
{
    rmg_image part = {.has_start = image->has_start, .start = image->start};

    rmg_error_none(error);
    for (size_t i = 0; i < image->count; i++) {
        const rmg_piece *p = &image->pieces[i];
        const uint64_t from = MAX(p->address, first), to = MIN(p->address + p->size - 1u, last);

        if (from <= to)
            rmg_image_add(&part, from, p->bytes + (from - p->address), (size_t)(to - from + 1u));
    }
    if (!part.count)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        "there is nothing between 0x%" G_GINT64_MODIFIER
                        "X and 0x%" G_GINT64_MODIFIER "X: the image has 0x%" //
                        G_GINT64_MODIFIER "X to 0x%" G_GINT64_MODIFIER "X",
                        (guint64)first, (guint64)last, (guint64)image->pieces[0].address,
                        (guint64)(image->pieces[0].address + span(image) - 1u));
    rmg_image_free(image);
    *image = part;
    return RMG_OK;
}

rmg_status rmg_image_move(rmg_image *image, uint64_t address, rmg_error *error)
{
    const uint64_t first = image->pieces[0].address;

    rmg_error_none(error);
    if (address > UINT64_MAX - span(image))
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL, "the image would go past the last address");
    for (size_t i = 0; i < image->count; i++)
        image->pieces[i].address = image->pieces[i].address - first + address;
    if (image->has_start)
        image->start = image->start - first + address;
    return RMG_OK;
}

/* The image flat, its length a multiple of `unit`; what needs it says so. */
static rmg_status in_units(rmg_image *image, uint64_t unit, uint8_t fill, const char *what,
                           rmg_error *error)
{
    if (unit > RMG_IMAGE_MOST || span(image) % unit)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        "%s: the image has %" G_GUINT64_FORMAT
                        " bytes, not a multiple of %" G_GUINT64_FORMAT,
                        what, (guint64)span(image), (guint64)unit);
    return rmg_image_flatten(image, fill, error);
}

rmg_status rmg_image_swap(rmg_image *image, uint64_t unit, uint8_t fill, rmg_error *error)
{
    rmg_status status = in_units(image, 2u * unit, fill, "swapping neighbours", error);
    rmg_piece *p = &image->pieces[0];

    for (uint64_t at = 0; status == RMG_OK && at < p->size; at += 2u * unit)
        for (uint64_t i = at; i < at + unit; i++) {
            const uint8_t byte = p->bytes[i];

            p->bytes[i] = p->bytes[i + unit];
            p->bytes[i + unit] = byte;
        }
    return status;
}

/* Is every line named once? */
static bool permutation(const uint8_t *order, uint8_t count)
{
    uint64_t seen = 0;

    for (uint8_t i = 0; i < count; i++) {
        if (order[i] >= count || (seen >> order[i] & 1u))
            return false;
        seen |= (uint64_t)1 << order[i];
    }
    return true;
}

rmg_status rmg_image_data_lines(rmg_image *image, const uint8_t *order, uint8_t count, uint8_t fill,
                                rmg_error *error)
{
    const uint64_t unit = count / 8u;
    rmg_piece *p;

    rmg_error_none(error);
    if ((count != 8 && count != 16 && count != 32) || !permutation(order, count))
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        "expected each of 8, 16 or 32 data lines once");
    if (in_units(image, unit, fill, "crossing data lines", error) != RMG_OK)
        return RMG_ERR_ARGUMENT;
    p = &image->pieces[0];
    for (uint64_t at = 0; at < p->size; at += unit) {
        uint32_t word = 0, crossed = 0;

        for (uint64_t b = 0; b < unit; b++)
            word |= (uint32_t)p->bytes[at + b] << 8u * b;
        for (uint8_t i = 0; i < count; i++)
            crossed |= (word >> order[i] & 1u) << i;
        for (uint64_t b = 0; b < unit; b++)
            p->bytes[at + b] = (uint8_t)(crossed >> 8u * b);
    }
    return RMG_OK;
}

rmg_status rmg_image_address_lines(rmg_image *image, const uint8_t *order, uint8_t count,
                                   uint8_t fill, rmg_error *error)
{
    const uint64_t unit = (uint64_t)1 << (count & 63u);
    const uint8_t *from;
    uint8_t *bytes;
    uint64_t size;

    rmg_error_none(error);
    if (!count || count > 30 || !permutation(order, count))
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        "expected each address line from A0 up once");
    if (in_units(image, unit, fill, "crossing address lines", error) != RMG_OK)
        return RMG_ERR_ARGUMENT;
    size = span(image);
    from = image->pieces[0].bytes;
    bytes = g_malloc((gsize)size);
    for (uint64_t chip = 0; chip < size; chip++) {
        uint64_t seen = chip & ~(unit - 1u);

        for (uint8_t i = 0; i < count; i++)
            seen |= (chip >> i & 1u) << order[i];
        bytes[chip] = from[seen];
    }
    return become(image, bytes, size);
}

rmg_status rmg_image_invert_data(rmg_image *image, uint8_t mask, rmg_error *error)
{
    rmg_error_none(error);
    for (size_t i = 0; i < image->count; i++)
        for (size_t n = 0; n < image->pieces[i].size; n++)
            image->pieces[i].bytes[n] ^= mask;
    return RMG_OK;
}

rmg_status rmg_image_invert_address(rmg_image *image, uint64_t mask, uint8_t fill, rmg_error *error)
{
    uint64_t unit = 1, size;
    uint8_t *bytes;

    while (unit <= mask && unit <= RMG_IMAGE_MOST)
        unit *= 2;
    if (in_units(image, unit, fill, "inverting address lines", error) != RMG_OK)
        return RMG_ERR_ARGUMENT;
    size = span(image);
    bytes = g_malloc((gsize)size);
    for (uint64_t i = 0; i < size; i++)
        bytes[i] = image->pieces[0].bytes[i ^ mask];
    return become(image, bytes, size);
}
