/* What form a file's bytes have. A record file that is taken for raw bytes would be burnt into a
 * chip as text: so one good record anywhere, or the beginning of one where a line may begin, and
 * the file is no raw image. In chip contents either comes about by chance less than once in 10^9
 * files of a megabyte. */
#include <string.h>

#include "forms.h"

#define BEGINNING   8u     /* hex digits in a row that begin a record */
#define LOOKED_AT   65536u /* bytes, for what is neither */
#define TEXT_DIGITS 60     /* per cent of hex digits in a text that is nothing but such digits */

static bool is_digit(uint8_t c)
{
    return g_ascii_isxdigit((gchar)c);
}

/* How many hex digits stand in a row. */
static size_t digits(const uint8_t *at, const uint8_t *end)
{
    size_t count = 0;

    while (at + count < end && is_digit(at[count]) && count <= 520)
        count++;
    return count;
}

/* Does a line begin here? After a line's end, or behind nothing but a leader or byte-order mark. */
static bool line_begins(const uint8_t *bytes, const uint8_t *at)
{
    if (at == bytes || at[-1] == '\n' || at[-1] == '\r')
        return true;
    while (at > bytes && (at[-1] <= ' ' || at[-1] >= 0x7F))
        at--;
    return at == bytes;
}

/* The form of the record that stands or begins here; raw: none. *whole: it is one, to its sum. */
static rmg_image_form record_at(const uint8_t *bytes, const uint8_t *at, const uint8_t *end,
                                bool *whole)
{
    *whole = false;
    for (unsigned i = 0; i < RMG_IMAGE_FORMS; i++) {
        const rmg_image_form_row *row = rmg_image_form_rows[i];
        const bool marked = row->mark && g_ascii_toupper((gchar)*at) == row->mark;
        const size_t skip = marked ? row->begins(at, end) : 0;
        const size_t count = skip ? digits(at + skip, end) : 0;

        if (!skip)
            continue;
        *whole = row->whole(at + skip, count);
        if (*whole || (count >= BEGINNING && line_begins(bytes, at)))
            return (rmg_image_form)i;
    }
    return RMG_IMAGE_RAW;
}

/* The form of the first whole record; else of the first that begins. */
static rmg_image_form find_records(const uint8_t *bytes, size_t size)
{
    const uint8_t *const end = bytes + size;
    rmg_image_form begun = RMG_IMAGE_RAW;
    bool marks[256] = {false}; /* few bytes are one: nearly all are passed over by this alone */

    for (unsigned i = 0; i < RMG_IMAGE_FORMS; i++) {
        const gchar mark = rmg_image_form_rows[i]->mark;

        marks[(uint8_t)mark] = marks[(uint8_t)g_ascii_tolower(mark)] = mark != 0;
    }
    for (const uint8_t *at = bytes; at < end; at++) {
        rmg_image_form form;
        bool whole;

        if (!marks[*at])
            continue;
        form = record_at(bytes, at, end, &whole);
        if (whole)
            return form;
        if (begun == RMG_IMAGE_RAW)
            begun = form;
    }
    return begun;
}

/* The same with every byte's eighth bit and all NULs taken away: text with parity bits, or of two
 * bytes a character. */
static bool records_in_disguise(const uint8_t *bytes, size_t size)
{
    uint8_t *plain = g_try_malloc(MAX(size, 1));
    size_t count = 0;
    bool found;

    for (size_t i = 0; plain && i < size; i++)
        if (bytes[i] & 0x7Fu)
            plain[count++] = bytes[i] & 0x7Fu;
    found = plain && find_records(plain, count) != RMG_IMAGE_RAW;
    g_free(plain);
    return found;
}

/* Nothing but text, and most of it hex digits: a listing of some kind, and no chip's contents. */
static bool hex_text(const uint8_t *bytes, size_t size)
{
    size_t marks = 0, hex = 0;

    for (size_t i = 0; i < size; i++) {
        if (!g_ascii_isprint((gchar)bytes[i]) && !g_ascii_isspace((gchar)bytes[i]))
            return false;
        marks += !g_ascii_isspace((gchar)bytes[i]);
        hex += is_digit(bytes[i]);
    }
    return marks >= 2u * BEGINNING && hex * 100u >= marks * TEXT_DIGITS &&
           memchr(bytes, '\n', size) != NULL;
}

rmg_image_form rmg_image_form_of(const void *bytes, size_t size, const char **doubt)
{
    const rmg_image_form form = find_records(bytes, size);

    *doubt = NULL;
    if (form != RMG_IMAGE_RAW)
        return form;
    size = MIN(size, LOOKED_AT);
    if (records_in_disguise(bytes, size))
        *doubt = "it holds records of hex digits, but with parity bits or two bytes per character: "
                 "save it as plain text";
    else if (hex_text(bytes, size))
        *doubt = "it is text of hex digits, but neither Intel HEX nor S-records";
    return form;
}
