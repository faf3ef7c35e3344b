/* Text in a board file that is written. */
#include "build.h"

void rmg_board_write_quoted(GString *out, const char *text)
{
    g_string_append_c(out, '"');
    for (const char *c = text; *c; c++) {
        if (*c == '"' || *c == '\\')
            g_string_append_c(out, '\\');
        if ((unsigned char)*c < 0x20 || *c == 0x7F)
            g_string_append_printf(out, "\\x%02X", (unsigned)(unsigned char)*c);
        else
            g_string_append_c(out, *c);
    }
    g_string_append_c(out, '"');
}
