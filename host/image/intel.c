/* Intel HEX: Intel, Hexadecimal Object File Format Specification, 1988. */
#include <string.h>

#include "forms.h"

static size_t begins(const uint8_t *at, const uint8_t *end)
{
    (void)at;
    (void)end;
    return 1;
}

static bool whole(const uint8_t *digits, size_t count)
{
    const size_t bytes = count >= 2 ? rmg_record_byte(digits) + 5u : 0;

    return bytes >= 5u && 2u * bytes <= count && rmg_record_adds_up(digits, bytes, 0);
}

static bool read_record(rmg_image_reader *r)
{
    size_t data;
    uint32_t offset;

    if (!rmg_record_take(r, 5))
        return false;
    if (r->count < 5 || r->bytes[0] + 5u != r->count)
        return rmg_record_wrong(r, "the record says %u bytes of data and has %d",
                                r->count ? r->bytes[0] : 0u, (int)r->count - 5);
    if (r->sum)
        return rmg_record_wrong(r, "the checksum is 0x%02X, expected 0x%02X",
                                r->bytes[r->count - 1], (uint8_t)(r->bytes[r->count - 1] - r->sum));
    data = r->bytes[0];
    offset = rmg_record_number(r, 1, 2);
    switch (r->bytes[3]) {
    case 0:
        if (r->segmented && offset + data > 0x10000) { /* wraps within its 64 KiB */
            const size_t before = 0x10000 - offset;

            return rmg_record_add(r, (uint64_t)r->base + offset, r->bytes + 4, before) &&
                   rmg_record_add(r, r->base, r->bytes + 4 + before, data - before);
        }
        return rmg_record_add(r, (uint64_t)r->base + offset, r->bytes + 4, data);
    case 1:
        r->ended = true;
        return data == 0 || rmg_record_wrong(r, "the end record has data");
    case 2:
        r->base = rmg_record_number(r, 4, 2) << 4;
        r->segmented = true;
        return data == 2 || rmg_record_wrong(r, "expected two bytes of segment address");
    case 4:
        r->base = rmg_record_number(r, 4, 2) << 16;
        r->segmented = false;
        return data == 2 || rmg_record_wrong(r, "expected two bytes of upper address");
    case 3:
    case 5:
        r->image->has_start = true;
        r->image->start = r->bytes[3] == 5
                              ? rmg_record_number(r, 4, 4)
                              : (rmg_record_number(r, 4, 2) << 4) + rmg_record_number(r, 6, 2);
        return data == 4 || rmg_record_wrong(r, "expected four bytes of start address");
    default:
        return rmg_record_wrong(r, "there is no record type %u; expected 0 to 5", r->bytes[3]);
    }
}

static void put_record(rmg_image_writer *w, uint8_t type, uint16_t offset, const uint8_t *data,
                       size_t count)
{
    uint8_t bytes[RMG_RECORD_BYTES] = {(uint8_t)count, (uint8_t)(offset >> 8), (uint8_t)offset,
                                       type};

    if (count)
        memcpy(bytes + 4, data, count);
    rmg_record_put(w, ":", bytes, 4 + count, 0);
}

/* A number of two bytes in a record of its own: the upper half of addresses, or a segment. */
static void put_number(rmg_image_writer *w, uint8_t type, uint32_t number)
{
    const uint8_t bytes[2] = {(uint8_t)(number >> 8), (uint8_t)number};

    put_record(w, type, 0, bytes, 2);
}

/* Where a program begins: as a segment and what is within it, or as one number. */
static void put_start(rmg_image_writer *w, uint32_t start)
{
    const uint32_t number = w->style->segmented ? (start >> 16) << 28 | (start & 0xFFFFu) : start;
    const uint8_t bytes[4] = {(uint8_t)(number >> 24), (uint8_t)(number >> 16),
                              (uint8_t)(number >> 8), (uint8_t)number};

    put_record(w, w->style->segmented ? 3 : 5, 0, bytes, 4);
}

static void write_image(rmg_image_writer *w, const rmg_image *image, uint64_t last)
{
    uint32_t upper = 0;

    (void)last;
    for (size_t i = 0; i < image->count; i++) {
        const rmg_piece *p = &image->pieces[i];

        for (size_t done = 0; done < p->size;) {
            const uint32_t address = (uint32_t)(p->address + done);
            size_t line = MIN(p->size - done, w->record - address % w->record);

            line = MIN(line, 0x10000u - (address & 0xFFFFu)); /* no record goes past 64 KiB */
            if (address >> 16 != upper) {
                upper = address >> 16;
                put_number(w, w->style->segmented ? 2 : 4,
                           w->style->segmented ? upper << 12 : upper);
            }
            put_record(w, 0, (uint16_t)address, p->bytes + done, line);
            done += line;
        }
    }
    if (image->has_start)
        put_start(w, (uint32_t)image->start);
    put_record(w, 1, 0, NULL, 0);
}

const rmg_image_form_row rmg_image_form_intel = {.mark = ':',
                                                 .record_most = 255,
                                                 .segments = true,
                                                 .begins = begins,
                                                 .whole = whole,
                                                 .read = read_record,
                                                 .write = write_image};
