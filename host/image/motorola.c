/* Motorola S-records: M68000 Family Programmer's Reference Manual, appendix C. */
#include <string.h>

#include "forms.h"

static size_t begins(const uint8_t *at, const uint8_t *end)
{
    return at + 1 < end && g_ascii_isdigit(at[1]) ? 2 : 0;
}

static bool whole(const uint8_t *digits, size_t count)
{
    const size_t bytes = count >= 2 ? rmg_record_byte(digits) + 1u : 0;

    return bytes >= 4u && 2u * bytes <= count && rmg_record_adds_up(digits, bytes, 0xFF);
}

static bool read_record(rmg_image_reader *r)
{
    static const uint8_t address_bytes[10] = {2, 2, 3, 4, 0, 2, 3, 4, 3, 2};
    const int type = r->at < r->end && g_ascii_isdigit(*r->at) ? *r->at - '0' : -1;
    size_t width;
    uint32_t address;

    if (type < 0 || type == 4)
        return rmg_record_wrong(r, "there is no record type S%c; expected S0 to S3 or S5 to S9",
                                r->at < r->end && g_ascii_isprint(*r->at) ? *r->at : '?');
    r->at++;
    if (!rmg_record_take(r, 1))
        return false;
    width = address_bytes[type];
    if (r->count < width + 2u || r->bytes[0] + 1u != r->count)
        return rmg_record_wrong(r, "the record says %u bytes and has %d",
                                r->count ? r->bytes[0] : 0u, (int)r->count - 1);
    if (r->sum != 0xFF)
        return rmg_record_wrong(r, "the checksum is 0x%02X, expected 0x%02X",
                                r->bytes[r->count - 1],
                                (uint8_t)(r->bytes[r->count - 1] + 0xFF - r->sum));
    address = rmg_record_number(r, 1, width);
    if (type == 5 || type == 6) { /* how many data records came before; it may have turned over */
        const uint32_t mask = type == 5 ? 0xFFFFu : 0xFFFFFFu;

        return (address & mask) == (r->records & mask) ||
               rmg_record_wrong(r,
                                "the record says that %u data records came before it, but %u did",
                                (unsigned)address, (unsigned)r->records);
    }
    r->records += type >= 1 && type <= 3;
    if (type >= 1 && type <= 3)
        return rmg_record_add(r, address, r->bytes + 1 + width, r->count - width - 2u);
    if (type >= 7) {
        r->ended = true;
        r->image->has_start = address != 0;
        r->image->start = address;
    }
    return true; /* S0 is a header */
}

static void put_record(rmg_image_writer *w, char type, unsigned width, uint32_t address,
                       const uint8_t *data, size_t count)
{
    const char lead[3] = {'S', type, 0};
    uint8_t bytes[RMG_RECORD_BYTES];

    bytes[0] = (uint8_t)(width + count + 1);
    for (unsigned i = 0; i < width; i++)
        bytes[1 + i] = (uint8_t)(address >> 8 * (width - 1 - i));
    if (count)
        memcpy(bytes + 1 + width, data, count);
    rmg_record_put(w, lead, bytes, 1 + width + count, 0xFF);
}

static void write_image(rmg_image_writer *w, const rmg_image *image, uint64_t last)
{
    const uint64_t most = MAX(last, image->has_start ? image->start : 0);
    const unsigned width = most >> 24 ? 4 : most >> 16 ? 3 : 2;
    const char data_type = (char)('0' + width - 1), end_type = (char)('0' + 11 - width);

    if (w->style->header)
        put_record(w, '0', 2, 0, (const uint8_t *)w->style->header, strlen(w->style->header));
    for (size_t i = 0; i < image->count; i++) {
        const rmg_piece *p = &image->pieces[i];

        for (size_t done = 0; done < p->size;) {
            const uint32_t address = (uint32_t)(p->address + done);
            const size_t line = MIN(p->size - done, w->record - address % w->record);

            put_record(w, data_type, width, address, p->bytes + done, line);
            done += line;
        }
    }
    put_record(w, end_type, width, image->has_start ? (uint32_t)image->start : 0, NULL, 0);
}

const rmg_image_form_row rmg_image_form_motorola = {.mark = 'S',
                                                    .record_most = 250,
                                                    .has_header = true,
                                                    .begins = begins,
                                                    .whole = whole,
                                                    .read = read_record,
                                                    .write = write_image};
