/* Records of hex digits: what the forms that are made of them share, reading and writing. */
#include <string.h>

#include "forms.h"

uint8_t rmg_record_byte(const uint8_t *at)
{
    return (uint8_t)(g_ascii_xdigit_value((gchar)at[0]) << 4 | g_ascii_xdigit_value((gchar)at[1]));
}

bool rmg_record_adds_up(const uint8_t *at, size_t bytes, uint8_t wanted)
{
    uint8_t sum = 0;

    for (size_t i = 0; i < bytes; i++)
        sum = (uint8_t)(sum + rmg_record_byte(at + 2u * i));
    return sum == wanted;
}

bool rmg_record_wrong(rmg_image_reader *r, const char *format, ...)
{
    va_list args;
    gchar *said, *where;

    va_start(args, format);
    said = g_strdup_vprintf(format, args);
    va_end(args);
    where = g_strdup_printf("%s:%u", r->name, r->line);
    rmg_fail(r->error, RMG_ERR_CONTENT, where, "%s: %s", where, said);
    g_free(where);
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
static bool wrong_digits(rmg_image_reader *r, const uint8_t *line, size_t length)
{
    const uint8_t *const table = digits();

    for (size_t i = 0; i + 1 < length; i += 2)
        if ((table[line[i]] | table[line[i + 1]]) > 15)
            return rmg_record_wrong(r, "found \"%c%c\", expected two hex digits",
                                    g_ascii_isprint(line[i]) ? line[i] : '?',
                                    g_ascii_isprint(line[i + 1]) ? line[i + 1] : '?');
    return rmg_record_wrong(r, "the line is cut off in the middle of a byte");
}

/* The end of the record that begins here: where its line ends, or the next record begins. */
static const uint8_t *record_end(const rmg_image_reader *r)
{
    const uint8_t *end = r->at;

    while (end < r->end && !rmg_record_between(*end) && *end != ':' && *end != 'S' && *end != 's')
        end++;
    return end;
}

#define NO_BYTE 0x8000u

/* The bytes of all pairs of characters, as they lie in a file; NO_BYTE of what is no two hex
 * digits. */
static const guint16 *bytes_of_pairs(void)
{
    static guint16 table[65536];
    static gsize made;

    if (g_once_init_enter(&made)) {
        const uint8_t *const values = digits();

        for (unsigned first = 0; first < 256; first++)
            for (unsigned second = 0; second < 256; second++) {
                const uint8_t characters[2] = {(uint8_t)first, (uint8_t)second};
                guint16 pair;

                memcpy(&pair, characters, 2);
                table[pair] = (values[first] | values[second]) > 15
                                  ? NO_BYTE
                                  : (guint16)(values[first] << 4 | values[second]);
            }
        g_once_init_leave(&made, 1);
    }
    return table;
}

/* Bytes of `length` hex digits; false: not all are hex digits. */
static bool decode(rmg_image_reader *r, const guint16 *table, const uint8_t *line, size_t length)
{
    uint8_t *bytes = r->bytes;
    unsigned any = 0, sum = 0;

    for (size_t i = 0; i + 1 < length; i += 2) {
        guint16 pair, byte;

        memcpy(&pair, line + i, 2);
        byte = table[pair];
        any |= byte;
        sum += byte;
        *bytes++ = (uint8_t)byte;
    }
    r->count = length / 2;
    r->sum = (uint8_t)sum;
    return any < NO_BYTE;
}

/* A record up to the end of its line, or to the next one. */
static bool take_line(rmg_image_reader *r, const guint16 *table)
{
    const uint8_t *const line = r->at;
    const size_t length = (size_t)(record_end(r) - line);

    if (length > 2 * RMG_RECORD_BYTES)
        return rmg_record_wrong(r, "the line is longer than a record can be");
    r->at = line + length;
    return (decode(r, table, line, length) && !(length & 1u)) || wrong_digits(r, line, length);
}

bool rmg_record_take(rmg_image_reader *r, size_t more)
{
    const guint16 *const table = bytes_of_pairs();
    const uint8_t *const line = r->at;
    const size_t room = (size_t)(r->end - line);
    size_t told;
    guint16 count;

    if (room < 2)
        return take_line(r, table);
    memcpy(&count, line, 2);
    told = 2u * (table[count] + more);
    if (told > 2 * RMG_RECORD_BYTES || told > room || !decode(r, table, line, told) ||
        (told < room && g_ascii_isxdigit((gchar)line[told])))
        return take_line(r, table);
    r->at = line + told;
    return true;
}

bool rmg_record_add(rmg_image_reader *r, uint64_t address, const uint8_t *bytes, size_t size)
{
    const rmg_image *image = r->image;

    if (address + size > (uint64_t)1 << 32)
        return rmg_record_wrong(r, "the data goes past the last address of 32 bits");
    if (image->count >= RMG_IMAGE_PIECES)
        return rmg_record_wrong(r, "the data lies in more than %u pieces with gaps between them",
                                RMG_IMAGE_PIECES);
    if (!rmg_image_add(r->image, address, bytes, size))
        return rmg_record_wrong(
            r, "the data at 0x%" G_GINT64_MODIFIER "X overlaps data of an earlier line",
            (guint64)address);
    return true;
}

static char *reserve(rmg_image_writer *w, size_t more)
{
    if (w->room - w->size < more) {
        w->room = MAX(w->room * 2, w->size + more + 4096);
        w->text = g_realloc(w->text, w->room);
    }
    return w->text + w->size;
}

void rmg_record_put(rmg_image_writer *w, const char *lead, const uint8_t *bytes, size_t count,
                    uint8_t wanted)
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
    sum = (uint8_t)(wanted - sum);
    memcpy(at, w->pairs[sum], 2);
    at += 2;
    *at++ = '\n';
    w->size = (size_t)(at - w->text);
}
