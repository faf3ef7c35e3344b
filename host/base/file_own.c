/* Files that this library wrote, told by what they begin with. */
#include <glib.h>
#include <stdio.h>
#include <string.h>

#include "file_own.h"
#include "rimeglass/file.h"

/* Bytes with zeros in them, so not g_strstr_len. */
static bool has(const char *bytes, size_t size, const char *mark, size_t length)
{
    for (size_t i = 0; i + length <= size; i++)
        if (memcmp(bytes + i, mark, length) == 0)
            return true;
    return false;
}

bool rmg_file_is_ours(const char *file)
{
    FILE *f = fopen(file, "re");
    char bytes[160];
    size_t size;

    if (!f)
        return false;
    size = fread(bytes, 1, sizeof bytes, f);
    fclose(f);
    if (!size)
        return true; /* an empty file: nothing is lost */
    switch (bytes[0]) {
    case '{':
        return has(bytes, size, "\"rimeglass_", 11);
    case '<':
        return has(bytes, size, RMG_OWN_SVG, strlen(RMG_OWN_SVG));
    case '\x89':
        return has(bytes, size, RMG_OWN_PNG, sizeof RMG_OWN_PNG - 1);
    default:
        return false;
    }
}
