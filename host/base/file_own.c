/* Files that this library wrote, known by how they begin. */
#include <glib.h>
#include <stdio.h>
#include <string.h>
#include <zlib.h>

#include "file_own.h"
#include "rimeglass/file.h"

#define SVG_MARK "<!-- Rimeglass -->\n"
#define PNG_MARK "tEXtSoftware\0Rimeglass"
#define PNG_AT   33u /* after the signature and the header chunk */
#define PDF_MARK "/Creator (" RMG_OWN_CREATOR ")"
#define PDF_END  4096 /* bytes in which a PDF file says who made it */

/* Bytes with zeros in them, so not g_strstr_len. */
static bool has(const char *bytes, size_t size, const char *mark, size_t length)
{
    for (size_t i = 0; i + length <= size; i++)
        if (memcmp(bytes + i, mark, length) == 0)
            return true;
    return false;
}

static bool ends_with_mark(FILE *f)
{
    char *end = g_malloc(PDF_END);
    size_t size;
    bool ours;

    if (fseek(f, -PDF_END, SEEK_END) != 0)
        rewind(f);
    size = fread(end, 1, PDF_END, f);
    ours = has(end, size, PDF_MARK, strlen(PDF_MARK));
    g_free(end);
    return ours;
}

bool rmg_file_is_ours(const char *file)
{
    FILE *f = fopen(file, "re");
    char bytes[160];
    size_t size;
    bool pdf;

    if (!f)
        return false;
    size = fread(bytes, 1, sizeof bytes, f);
    pdf = size && bytes[0] == '%' && ends_with_mark(f);
    fclose(f);
    if (!size)
        return true; /* an empty file: nothing is lost */
    switch (bytes[0]) {
    case '{':
        return has(bytes, size, "\"rimeglass_", 11);
    case '<':
        return has(bytes, size, SVG_MARK, strlen(SVG_MARK));
    case '\x89':
        return has(bytes, size, PNG_MARK, sizeof PNG_MARK - 1);
    default:
        return pdf;
    }
}

void rmg_own_mark(GByteArray *bytes, bool svg)
{
    static const char text[] = PNG_MARK;
    const size_t size = sizeof text - 1, at = PNG_AT;
    GByteArray *before = g_byte_array_new();
    const guint8 *line;
    guint32 number;

    if (svg) {
        line = memchr(bytes->data, '\n', bytes->len);
        g_byte_array_append(before, bytes->data, (guint)(line + 1 - bytes->data));
        g_byte_array_append(before, (const guint8 *)SVG_MARK, strlen(SVG_MARK));
    } else {
        g_byte_array_append(before, bytes->data, (guint)at);
        number = GUINT32_TO_BE((guint32)size - 4u); /* the chunk's type does not count */
        g_byte_array_append(before, (const guint8 *)&number, sizeof number);
        g_byte_array_append(before, (const guint8 *)text, (guint)size);
        number = GUINT32_TO_BE((guint32)crc32(0, (const Bytef *)text, (uInt)size));
        g_byte_array_append(before, (const guint8 *)&number, sizeof number);
    }
    g_byte_array_remove_range(bytes, 0, svg ? (guint)(line + 1 - bytes->data) : (guint)at);
    g_byte_array_prepend(bytes, before->data, before->len);
    g_byte_array_free(before, TRUE);
}
