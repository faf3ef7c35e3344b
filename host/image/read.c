/* Reading images: raw, Intel HEX (Intel, Hexadecimal Object File Format Specification, 1988) and
 * Motorola S-records (M68000 Family Programmer's Reference Manual, appendix C). */
#include <glib.h>
#include <string.h>

#include "base/internal.h"
#include "rimeglass/image.h"

#define RECORD_BYTES 260u /* 255, and what is not counted */

/* A file being read, line by line. */
typedef struct reader {
    const char *name;
    const uint8_t *at, *end;
    unsigned line;
    rmg_image *image;
    char **message;
    uint8_t bytes[RECORD_BYTES]; /* of the record: count, address, ..., checksum */
    size_t count;
    uint8_t sum;      /* of them all */
    bool ended;       /* the end record was seen */
    uint32_t records; /* of data, so far */
} reader;

static bool wrong(reader *r, const char *format, ...) G_GNUC_PRINTF(2, 3);

/* Says what is wrong with the line; false, to be handed on. */
static bool wrong(reader *r, const char *format, ...)
{
    va_list args;
    gchar *said;

    va_start(args, format);
    said = g_strdup_vprintf(format, args);
    va_end(args);
    *r->message = g_strdup_printf("%s:%u: %s", r->name, r->line, said);
    g_free(said);
    return false;
}

/* Values of hex digits; 255 for all else. */
static const uint8_t *digits(void)
{
    static uint8_t table[256];
    static gsize made;

    if (g_once_init_enter(&made)) {
        for (int c = 0; c < 256; c++)
            table[c] = (uint8_t)(g_ascii_isxdigit(c) ? g_ascii_xdigit_value((gchar)c) : 255);
        g_once_init_leave(&made, 1);
    }
    return table;
}

/* What is wrong with a line whose digits could not all be read. */
static bool wrong_digits(reader *r, const uint8_t *line, size_t length)
{
    const uint8_t *const table = digits();

    for (size_t i = 0; i + 1 < length; i += 2)
        if ((table[line[i]] | table[line[i + 1]]) > 15)
            return wrong(r, "found \"%c%c\", expected two hex digits",
                         g_ascii_isprint(line[i]) ? line[i] : '?',
                         g_ascii_isprint(line[i + 1]) ? line[i + 1] : '?');
    return wrong(r, "the line is cut off in the middle of a byte");
}

/* Control characters, blanks, bytes of a tape's leader or a byte-order mark: not of a record. */
static bool between(uint8_t byte)
{
    return byte <= ' ' || byte >= 0x7F;
}

/* The end of the record that begins here: where its line ends, or the next record begins. */
static const uint8_t *record_end(const reader *r)
{
    const uint8_t *end = r->at;

    while (end < r->end && !between(*end) && *end != ':' && *end != 'S' && *end != 's')
        end++;
    return end;
}

/* Bytes of `length` hex digits; false: not all are hex digits. */
static bool decode(reader *r, const uint8_t *line, size_t length)
{
    const uint8_t *const table = digits();
    uint8_t all = 0, sum = 0;

    r->count = length / 2;
    for (size_t i = 0; i < r->count; i++) {
        const uint8_t high = table[line[2 * i]], low = table[line[2 * i + 1]];

        all |= high | low;
        r->bytes[i] = (uint8_t)(high << 4 | low);
        sum = (uint8_t)(sum + r->bytes[i]);
    }
    r->sum = sum;
    return all <= 15;
}

/* Pairs of hex digits up to the record's end into r->bytes. A good record is as long as it says,
 * with `more` bytes besides those it counts: its end is not looked for. */
static bool take_pairs(reader *r, size_t more)
{
    const uint8_t *const table = digits();
    const uint8_t *const line = r->at;
    const size_t room = (size_t)(r->end - line);
    const size_t told =
        room > 1 ? 2u * ((size_t)(table[line[0]] << 4 | table[line[1]]) + more) : SIZE_MAX;
    size_t length;

    if (told <= 2 * RECORD_BYTES && told <= room && decode(r, line, told) &&
        (told == room || table[line[told]] > 15)) {
        r->at = line + told;
        return true;
    }
    length = (size_t)(record_end(r) - line);
    if (length > 2 * RECORD_BYTES)
        return wrong(r, "the line is longer than a record can be");
    r->at = line + length;
    return (decode(r, line, length) && !(length & 1u)) || wrong_digits(r, line, length);
}

static uint32_t number(const reader *r, size_t from, size_t bytes)
{
    uint32_t value = 0;

    for (size_t i = 0; i < bytes; i++)
        value = value << 8 | r->bytes[from + i];
    return value;
}

static bool add(reader *r, uint64_t address, const uint8_t *bytes, size_t size)
{
    const rmg_image *image = r->image;

    if (address + size > (uint64_t)1 << 32)
        return wrong(r, "the data goes past the last address of 32 bits");
    if (image->count >= RMG_IMAGE_PIECES)
        return wrong(r, "the data lies in more than %u pieces with gaps between them",
                     RMG_IMAGE_PIECES);
    if (!rmg_image_add(r->image, address, bytes, size))
        return wrong(r, "the data at 0x%" G_GINT64_MODIFIER "X overlaps data of an earlier line",
                     (guint64)address);
    return true;
}

/* One record of Intel HEX, the ':' taken. *base is added to addresses. */
static bool intel_record(reader *r, uint32_t *base, bool *segmented)
{
    size_t data;
    uint32_t offset;

    if (!take_pairs(r, 5))
        return false;
    if (r->count < 5 || r->bytes[0] + 5u != r->count)
        return wrong(r, "the record says %u bytes of data and has %d", r->count ? r->bytes[0] : 0u,
                     (int)r->count - 5);
    if (r->sum)
        return wrong(r, "the checksum is 0x%02X, expected 0x%02X", r->bytes[r->count - 1],
                     (uint8_t)(r->bytes[r->count - 1] - r->sum));
    data = r->bytes[0];
    offset = number(r, 1, 2);
    switch (r->bytes[3]) {
    case 0:
        if (*segmented && offset + data > 0x10000) { /* wraps within its 64 KiB */
            const size_t before = 0x10000 - offset;

            return add(r, (uint64_t)*base + offset, r->bytes + 4, before) &&
                   add(r, *base, r->bytes + 4 + before, data - before);
        }
        return add(r, (uint64_t)*base + offset, r->bytes + 4, data);
    case 1:
        r->ended = true;
        return data == 0 || wrong(r, "the end record has data");
    case 2:
        *base = number(r, 4, 2) << 4;
        *segmented = true;
        return data == 2 || wrong(r, "expected two bytes of segment address");
    case 4:
        *base = number(r, 4, 2) << 16;
        *segmented = false;
        return data == 2 || wrong(r, "expected two bytes of upper address");
    case 3:
    case 5:
        r->image->has_start = true;
        r->image->start =
            r->bytes[3] == 5 ? number(r, 4, 4) : (number(r, 4, 2) << 4) + number(r, 6, 2);
        return data == 4 || wrong(r, "expected four bytes of start address");
    default:
        return wrong(r, "there is no record type %u; expected 0 to 5", r->bytes[3]);
    }
}

/* One S-record, the 'S' taken. */
static bool motorola_record(reader *r)
{
    static const uint8_t address_bytes[10] = {2, 2, 3, 4, 0, 2, 3, 4, 3, 2};
    const int type = r->at < r->end && g_ascii_isdigit(*r->at) ? *r->at - '0' : -1;
    size_t width;
    uint32_t address;

    if (type < 0 || type == 4)
        return wrong(r, "there is no record type S%c; expected S0 to S3 or S5 to S9",
                     r->at < r->end && g_ascii_isprint(*r->at) ? *r->at : '?');
    r->at++;
    if (!take_pairs(r, 1))
        return false;
    width = address_bytes[type];
    if (r->count < width + 2u || r->bytes[0] + 1u != r->count)
        return wrong(r, "the record says %u bytes and has %d", r->count ? r->bytes[0] : 0u,
                     (int)r->count - 1);
    if (r->sum != 0xFF)
        return wrong(r, "the checksum is 0x%02X, expected 0x%02X", r->bytes[r->count - 1],
                     (uint8_t)(r->bytes[r->count - 1] + 0xFF - r->sum));
    address = number(r, 1, width);
    if (type == 5 || type == 6) { /* how many data records came before; it may have turned over */
        const uint32_t mask = type == 5 ? 0xFFFFu : 0xFFFFFFu;

        return (address & mask) == (r->records & mask) ||
               wrong(r, "the record says that %u data records came before it, but %u did",
                     (unsigned)address, (unsigned)r->records);
    }
    r->records += type >= 1 && type <= 3;
    if (type >= 1 && type <= 3)
        return add(r, address, r->bytes + 1 + width, r->count - width - 2u);
    if (type >= 7) {
        r->ended = true;
        r->image->has_start = address != 0;
        r->image->start = address;
    }
    return true; /* S0 is a header */
}

/* A remark: a line of its own that begins with ; or #, and holds nothing that could be a record. */
static bool take_remark(reader *r)
{
    const uint8_t *const start = r->at;
    unsigned row = 0; /* hex digits in a row */

    if (*start != ';' && *start != '#')
        return false;
    while (r->at < r->end && *r->at != '\n' && *r->at != '\r') {
        row = g_ascii_isxdigit((gchar)*r->at) ? row + 1u : 0;
        if (row == 8)
            return wrong(r, "a remark that could be a record; expected a record or a remark "
                            "without hex digits");
        r->at++;
    }
    return true;
}

static bool read_record(reader *r, rmg_image_form form, uint32_t *base, bool *segmented)
{
    const char mark = form == RMG_IMAGE_INTEL ? ':' : 'S';
    const uint8_t found = (uint8_t)g_ascii_toupper((gchar)*r->at);

    if (take_remark(r))
        return true;
    if (*r->message)
        return false;
    if (r->ended)
        return wrong(r, "there is more after the end record");
    if (found != (uint8_t)mark)
        return wrong(r, "expected a record that begins with %c", mark);
    r->at++;
    return form == RMG_IMAGE_INTEL ? intel_record(r, base, segmented) : motorola_record(r);
}

static bool read_lines(reader *r, rmg_image_form form)
{
    uint32_t base = 0;
    bool segmented = false;

    for (r->line = 1; r->at < r->end;) {
        if (between(*r->at)) {
            const bool pair = *r->at == '\r' && r->at + 1 < r->end && r->at[1] == '\n';

            r->line += *r->at == '\n' || (*r->at == '\r' && !pair);
            r->at++;
        } else if (!read_record(r, form, &base, &segmented)) {
            return false;
        }
    }
    if (!r->ended)
        return wrong(r, "the file is cut off: it has no end record");
    return r->image->count || wrong(r, "the file holds no data");
}

rmg_status rmg_image_read(const char *name, rmg_image_form form, const void *bytes, size_t size,
                          rmg_image *image, char **message)
{
    reader r = {.name = name,
                .at = bytes,
                .end = (const uint8_t *)bytes + size,
                .image = image,
                .message = message};

    memset(image, 0, sizeof *image);
    *message = NULL;
    if (!size) {
        *message = g_strdup_printf("%s: the file is empty", name);
        return RMG_ERR_CONTENT;
    }
    if (form == RMG_IMAGE_RAW) {
        rmg_image_add(image, 0, bytes, size);
        return RMG_OK;
    }
    if (read_lines(&r, form))
        return RMG_OK;
    rmg_image_free(image);
    return RMG_ERR_CONTENT;
}

rmg_status rmg_image_load(const char *file, rmg_image *image, char **message)
{
    rmg_status status;
    rmg_image_form form;
    const char *doubt;
    gchar *text;
    gsize size;

    memset(image, 0, sizeof *image);
    status = rmg_file_read(file, RMG_IMAGE_FILE_MOST, &text, &size, message);
    if (status != RMG_OK)
        return status;
    form = rmg_image_form_of(text, size, &doubt);
    if (doubt) {
        *message = g_strdup_printf("%s: taken for no image: %s (rimeglass image --from raw insists "
                                   "on the bytes as they are)",
                                   file, doubt);
        status = RMG_ERR_CONTENT;
    } else {
        status = rmg_image_read(file, form, text, size, image, message);
    }
    g_free(text);
    return status;
}

rmg_status rmg_image_load_as(const char *file, rmg_image_form form, rmg_image *image,
                             char **message)
{
    rmg_status status;
    gchar *text;
    gsize size;

    memset(image, 0, sizeof *image);
    status = rmg_file_read(file, RMG_IMAGE_FILE_MOST, &text, &size, message);
    if (status == RMG_OK)
        status = rmg_image_read(file, form, text, size, image, message);
    g_free(text);
    return status;
}
