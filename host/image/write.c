/* Writing images: raw, Intel HEX and S-records, records of 16 bytes. */
#include <glib.h>
#include <string.h>

#include "rimeglass/image.h"

#define DATA_BYTES 16u
#define MOST_RAW   ((uint64_t)1 << 30)

/* A text that grows by records; room is made for a whole record at a time. */
typedef struct writer {
    char *text;
    size_t size, room;
    char pairs[256][2]; /* the hex digits of each byte */
} writer;

static char *reserve(writer *w, size_t more)
{
    if (w->room - w->size < more) {
        w->room = MAX(w->room * 2, w->size + more + 4096);
        w->text = g_realloc(w->text, w->room);
    }
    return w->text + w->size;
}

/* "lead", then the bytes in hex, then the checksum by `sum` of them, and a line's end. */
static void put_record(writer *w, const char *lead, const uint8_t *bytes, size_t count, bool intel)
{
    const size_t lead_size = strlen(lead);
    char *at = reserve(w, lead_size + 2 * count + 4);
    uint8_t sum = 0;

    memcpy(at, lead, lead_size);
    at += lead_size;
    for (size_t i = 0; i < count; i++, at += 2) {
        sum = (uint8_t)(sum + bytes[i]);
        memcpy(at, w->pairs[bytes[i]], 2);
    }
    sum = (uint8_t)(intel ? -sum : ~sum);
    memcpy(at, w->pairs[sum], 2);
    at += 2;
    *at++ = '\n';
    w->size = (size_t)(at - w->text);
}

static void intel_record(writer *w, uint8_t type, uint16_t offset, const uint8_t *data,
                         size_t count)
{
    uint8_t bytes[4 + DATA_BYTES] = {(uint8_t)count, (uint8_t)(offset >> 8), (uint8_t)offset, type};

    if (count)
        memcpy(bytes + 4, data, count);
    put_record(w, ":", bytes, 4 + count, true);
}

static void motorola_record(writer *w, char type, unsigned width, uint32_t address,
                            const uint8_t *data, size_t count)
{
    const char lead[3] = {'S', type, 0};
    uint8_t bytes[5 + DATA_BYTES];

    bytes[0] = (uint8_t)(width + count + 1);
    for (unsigned i = 0; i < width; i++)
        bytes[1 + i] = (uint8_t)(address >> 8 * (width - 1 - i));
    if (count)
        memcpy(bytes + 1 + width, data, count);
    put_record(w, lead, bytes, 1 + width + count, false);
}

static void write_intel(writer *w, const rmg_image *image)
{
    uint32_t upper = 0;

    for (size_t i = 0; i < image->count; i++) {
        const rmg_piece *p = &image->pieces[i];

        for (size_t done = 0; done < p->size;) {
            const uint32_t address = (uint32_t)(p->address + done);
            const size_t line = MIN(p->size - done, DATA_BYTES - address % DATA_BYTES);

            if (address >> 16 != upper) {
                const uint8_t bytes[2] = {(uint8_t)(address >> 24), (uint8_t)(address >> 16)};

                upper = address >> 16;
                intel_record(w, 4, 0, bytes, 2);
            }
            intel_record(w, 0, (uint16_t)address, p->bytes + done, line);
            done += line;
        }
    }
    if (image->has_start) {
        const uint8_t bytes[4] = {(uint8_t)(image->start >> 24), (uint8_t)(image->start >> 16),
                                  (uint8_t)(image->start >> 8), (uint8_t)image->start};

        intel_record(w, 5, 0, bytes, 4);
    }
    intel_record(w, 1, 0, NULL, 0);
}

static void write_motorola(writer *w, const rmg_image *image, uint64_t last)
{
    const unsigned width = last >> 24 ? 4 : last >> 16 ? 3 : 2;
    const char data_type = (char)('0' + width - 1), end_type = (char)('0' + 11 - width);

    for (size_t i = 0; i < image->count; i++) {
        const rmg_piece *p = &image->pieces[i];

        for (size_t done = 0; done < p->size;) {
            const uint32_t address = (uint32_t)(p->address + done);
            const size_t line = MIN(p->size - done, DATA_BYTES - address % DATA_BYTES);

            motorola_record(w, data_type, width, address, p->bytes + done, line);
            done += line;
        }
    }
    motorola_record(w, end_type, width, image->has_start ? (uint32_t)image->start : 0, NULL, 0);
}

static rmg_status write_raw(const rmg_image *image, uint64_t first, uint64_t last, uint8_t fill,
                            writer *w, char **message)
{
    if (last - first >= MOST_RAW) {
        *message = g_strdup_printf("from 0x%" G_GINT64_MODIFIER "X to 0x%" G_GINT64_MODIFIER
                                   "X it would be more than 1 GiB as raw bytes",
                                   (guint64)first, (guint64)last);
        return RMG_ERR_ROOM;
    }
    if (last - first >= RMG_IMAGE_SPARSE && (last - first) / 4u > rmg_image_bytes(image)) {
        *message = g_strdup_printf(
            "from 0x%" G_GINT64_MODIFIER "X to 0x%" G_GINT64_MODIFIER "X it holds no more than "
            "%" G_GUINT64_FORMAT " bytes: such gaps are not filled; take a part (--cut)",
            (guint64)first, (guint64)last, (guint64)rmg_image_bytes(image));
        return RMG_ERR_ROOM;
    }
    w->size = (size_t)(last - first) + 1;
    w->text = g_malloc(w->size);
    if (image->count > 1)
        memset(w->text, fill, w->size);
    for (size_t i = 0; i < image->count; i++)
        memcpy(w->text + (image->pieces[i].address - first), image->pieces[i].bytes,
               image->pieces[i].size);
    return RMG_OK;
}

rmg_status rmg_image_form_as(const rmg_image *image, rmg_image_form form, uint8_t fill,
                             char **bytes, size_t *size, char **message)
{
    const rmg_piece *end = image->count ? &image->pieces[image->count - 1] : NULL;
    const uint64_t last = end ? end->address + end->size - 1 : 0;
    static const char hex[] = "0123456789ABCDEF";
    writer w = {.text = NULL};
    rmg_status status = RMG_OK;

    *message = NULL;
    *bytes = NULL;
    *size = 0;
    for (unsigned i = 0; i < 256; i++) {
        w.pairs[i][0] = hex[i >> 4];
        w.pairs[i][1] = hex[i & 15u];
    }
    if (!end) {
        *message = g_strdup("the image holds no data");
        return RMG_ERR_RANGE;
    }
    if (form == RMG_IMAGE_RAW) {
        status = write_raw(image, image->pieces[0].address, last, fill, &w, message);
    } else if (last >> 32) {
        *message = g_strdup("its addresses go past 32 bits, which hex files cannot tell");
        status = RMG_ERR_RANGE;
    } else if (form == RMG_IMAGE_INTEL) {
        write_intel(&w, image);
    } else {
        write_motorola(&w, image, last);
    }
    *bytes = w.text;
    *size = w.size;
    return status;
}
