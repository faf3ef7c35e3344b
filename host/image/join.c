/* Steps with several images, and checksums put into one. */
#include <glib.h>
#include <string.h>
#include <zlib.h>

#include "base/internal.h"
#include "rimeglass/image.h"

/* All bytes of an image, gaps filled; NULL after an error. */
static uint8_t *bytes_of(const rmg_image *image, uint8_t fill, size_t *size, rmg_error *error)
{
    char *bytes;

    if (rmg_image_form_as(image, RMG_IMAGE_RAW, fill, &bytes, size, error) != RMG_OK)
        return NULL;
    return (uint8_t *)bytes;
}

static void replace(rmg_image *image, const uint8_t *bytes, size_t size)
{
    const uint64_t address = image->pieces[0].address;

    rmg_image_free(image);
    rmg_image_add(image, address, bytes, size);
}

rmg_status rmg_image_interleave(rmg_image *image, const rmg_image *others, size_t count,
                                uint8_t fill, rmg_error *error)
{
    rmg_status status = RMG_OK;
    uint8_t *all = NULL;
    size_t first = 0;

    rmg_error_none(error);
    for (size_t lane = 0; lane < count && status == RMG_OK; lane++) {
        size_t size;
        uint8_t *bytes = bytes_of(lane ? &others[lane - 1] : image, fill, &size, error);

        if (!bytes)
            status = RMG_ERR_ARGUMENT;
        else if (lane && size != first)
            status = rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                              "image %zu has %zu bytes, the first has %zu: "
                              "interleaved images must have the same size",
                              lane + 1, size, first);
        if (!lane && bytes) {
            first = size;
            all = g_malloc(size * count);
        }
        for (size_t i = 0; status == RMG_OK && i < size; i++)
            all[i * count + lane] = bytes[i];
        g_free(bytes);
    }
    if (status == RMG_OK)
        replace(image, all, first * count);
    g_free(all);
    return status;
}

rmg_status rmg_image_lane(const rmg_image *image, size_t lane, size_t lanes, uint8_t fill,
                          rmg_image *result, rmg_error *error)
{
    size_t size;
    uint8_t *bytes = bytes_of(image, fill, &size, error);

    memset(result, 0, sizeof *result);
    if (!bytes)
        return RMG_ERR_ARGUMENT;
    if (size % lanes) {
        g_free(bytes);
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL, "%zu bytes cannot be split evenly %zu ways",
                        size, lanes);
    }
    for (size_t i = 0; i < size / lanes; i++)
        bytes[i] = bytes[i * lanes + lane];
    rmg_image_add(result, 0, bytes, size / lanes);
    g_free(bytes);
    return RMG_OK;
}

static uint64_t power_from(uint64_t size)
{
    uint64_t power = 1;

    while (power < size)
        power *= 2;
    return power;
}

static void fill_slot(uint8_t *slot, uint64_t room, const uint8_t *bytes, size_t size, rmg_slot *to)
{
    memcpy(slot, bytes, size);
    to->size = size;
    if (room % size)
        return;
    to->times = room / size;
    for (uint64_t at = size; at < room; at += size)
        memcpy(slot + at, bytes, size);
}

rmg_status rmg_image_join(rmg_image *image, const rmg_image *others, size_t count, uint8_t fill,
                          rmg_slot *slots, uint64_t *slot_bytes, uint64_t *chip_bytes,
                          rmg_error *error)
{
    uint8_t **bytes = g_new0(uint8_t *, count);
    size_t *sizes = g_new0(size_t, count);
    rmg_status status = RMG_OK;
    uint8_t *chip;

    rmg_error_none(error);
    *slot_bytes = 1;
    memset(slots, 0, count * sizeof *slots);
    for (size_t i = 0; i < count && status == RMG_OK; i++) {
        bytes[i] = bytes_of(i ? &others[i - 1] : image, fill, &sizes[i], error);
        if (!bytes[i])
            status = RMG_ERR_ARGUMENT;
        else
            *slot_bytes = MAX(*slot_bytes, power_from(sizes[i]));
    }
    *chip_bytes = *slot_bytes * power_from(count);
    if (status == RMG_OK && *chip_bytes > RMG_IMAGE_MOST)
        status = rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                          "together they are more than the 1 GiB an image may have");
    if (status == RMG_OK) {
        chip = g_malloc((gsize)*chip_bytes);
        memset(chip, fill, (size_t)*chip_bytes);
        for (size_t i = 0; i < count; i++) {
            slots[i].address = i * *slot_bytes;
            fill_slot(chip + slots[i].address, *slot_bytes, bytes[i], sizes[i], &slots[i]);
        }
        replace(image, chip, (size_t)*chip_bytes);
        g_free(chip);
    }
    for (size_t i = 0; i < count; i++)
        g_free(bytes[i]);
    g_free(bytes);
    g_free(sizes);
    return status;
}

static unsigned sum_bytes(rmg_sum_kind kind)
{
    return kind == RMG_SUM_OF_8 ? 1 : kind == RMG_SUM_OF_16 ? 2 : 4;
}

/* Are all bytes of first..last there? */
static bool whole(const rmg_image *image, uint64_t first, uint64_t last)
{
    for (size_t i = 0; i < image->count; i++) {
        const rmg_piece *p = &image->pieces[i];

        if (first >= p->address && last <= p->address + (p->size - 1u))
            return true;
    }
    return false;
}

static void put(rmg_image *image, uint64_t address, uint8_t byte)
{
    for (size_t i = 0; i < image->count; i++) {
        rmg_piece *p = &image->pieces[i];

        if (address >= p->address && address - p->address < p->size)
            p->bytes[address - p->address] = byte;
    }
}

static uint32_t work_out(const rmg_image *image, const rmg_put_sum *s, unsigned bytes)
{
    uint32_t sum = 0;
    uLong crc = crc32(0, Z_NULL, 0);

    for (uint64_t a = s->first;; a++) {
        const bool own = a >= s->at && a - s->at < bytes;
        uint8_t byte = 0;

        rmg_image_at(image, a, &byte);
        if (own && s->own == RMG_OWN_AS)
            byte = s->own_value;
        if (!own || s->own == RMG_OWN_AS) {
            sum += byte;
            crc = crc32(crc, &byte, 1);
        }
        if (a == s->last)
            break;
    }
    return s->kind == RMG_SUM_CRC ? (uint32_t)crc : sum;
}

static rmg_status check_span(const rmg_image *image, const rmg_put_sum *s, unsigned bytes,
                             rmg_error *error)
{
    const bool overlaps = s->at <= s->last && s->at + (bytes - 1u) >= s->first;

    if (s->first > s->last || s->at > UINT64_MAX - bytes)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL, "the span ends below its start");
    if (!whole(image, s->first, s->last) || !whole(image, s->at, s->at + (bytes - 1u)))
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        "not all bytes of 0x%" G_GINT64_MODIFIER "X-0x%" G_GINT64_MODIFIER
                        "X and of 0x%" G_GINT64_MODIFIER
                        "X, where the checksum goes, are in the image",
                        (guint64)s->first, (guint64)s->last, (guint64)s->at);
    if (overlaps && s->own == RMG_OWN_OUTSIDE)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        "the checksum lies within its own span: say how its own bytes count");
    if (!overlaps && s->own != RMG_OWN_OUTSIDE)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        "the checksum lies outside its span: its own bytes do not "
                        "count");
    return RMG_OK;
}

rmg_status rmg_image_put_sum(rmg_image *image, const rmg_put_sum *s, uint32_t *value,
                             rmg_error *error)
{
    const unsigned bytes = sum_bytes(s->kind);
    rmg_status status = check_span(image, s, bytes, error);
    uint8_t own[4];

    if (status != RMG_OK)
        return status;
    rmg_error_none(error);
    *value = work_out(image, s, bytes);
    if (bytes < 4)
        *value &= ((uint32_t)1 << 8 * bytes) - 1u;
    if (s->own == RMG_OWN_BALANCED && s->kind != RMG_SUM_OF_8)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        "only the 8-bit sum can be balanced: its one byte makes up "
                        "any difference");
    if (s->own == RMG_OWN_BALANCED)
        *value = (0u - *value) & 0xFFu;
    for (unsigned i = 0; i < bytes; i++)
        own[i] = (uint8_t)(*value >> 8 * (s->high_first ? bytes - 1u - i : i));
    for (unsigned i = 0; i < bytes; i++)
        put(image, s->at + i, own[i]);
    return RMG_OK;
}
