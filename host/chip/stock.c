/* Stock files: verdicts on chips, a line of JSON each. They may come from elsewhere: no control
 * character of one reaches a terminal. */
#include <errno.h>
#include <jansson.h>
#include <stdio.h>
#include <string.h>

#include "internal.h"

#define MOST_BYTES (64u << 20)
#define BEGINS     "{\"rimeglass_chip\":"

static void free_row(rmg_stock_row *row)
{
    g_free(row->part);
    g_free(row->label);
    g_free(row->lot);
    g_free(row->when);
    g_free(row->state);
    g_free(row->text);
}

void rmg_stock_free(rmg_stock *stock)
{
    for (size_t i = 0; i < stock->count; i++)
        free_row(&stock->rows[i]);
    g_free(stock->rows);
    memset(stock, 0, sizeof *stock);
}

static bool read_row(const char *line, rmg_stock_row *row)
{
    json_t *root = json_loads(line, 0, NULL);
    const char *part, *label, *lot, *when, *state, *text;
    int version = 0, good = 0, holds = -1, cas = 0;
    const bool ok = root &&
                    json_unpack(root, "{s:i, s:s, s:s, s:s, s:s, s:s, s:s, s:b, s?i, s?i}",
                                "rimeglass_chip", &version, "part", &part, "label", &label, "lot",
                                &lot, "when", &when, "state", &state, "text", &text, "good", &good,
                                "holds_ms", &holds, "cas_ns", &cas) == 0 &&
                    version == 1;

    if (ok)
        *row = (rmg_stock_row){rmg_text_harmless(part),
                               rmg_text_harmless(label),
                               rmg_text_harmless(lot),
                               rmg_text_harmless(when),
                               rmg_text_harmless(state),
                               rmg_text_harmless(text),
                               good != 0,
                               holds,
                               cas};
    json_decref(root);
    return ok;
}

rmg_status rmg_stock_load(const char *file, rmg_stock *stock, rmg_error *error)
{
    gchar *text = NULL;
    gchar **lines;
    GArray *rows;
    gsize size;
    rmg_status status;

    memset(stock, 0, sizeof *stock);
    rmg_error_none(error);
    status = rmg_file_read(file, MOST_BYTES, &text, &size, error);
    if (status != RMG_OK)
        return status;
    rows = g_array_new(FALSE, FALSE, sizeof(rmg_stock_row));
    lines = g_strsplit(text, "\n", -1);
    for (unsigned i = 0; lines[i] && status == RMG_OK; i++) {
        rmg_stock_row row;

        if (!*lines[i])
            continue;
        if (read_row(lines[i], &row)) {
            g_array_append_val(rows, row);
            continue;
        }
        rmg_fail(error, RMG_ERR_CONTENT, file,
                 "%s:%u: expected a chip's verdict, as --stock writes it", file, i + 1);
        status = RMG_ERR_CONTENT;
    }
    stock->count = rows->len;
    stock->rows = (rmg_stock_row *)(void *)g_array_free(rows, FALSE);
    if (status != RMG_OK)
        rmg_stock_free(stock);
    g_strfreev(lines);
    g_free(text);
    return status;
}

/* Is what the file ends with whole, and ours? An empty or missing file is right too. */
static bool may_append(const char *file)
{
    FILE *from = fopen(file, "rb");
    char first[sizeof BEGINS] = "";
    bool good;
    size_t got;

    if (!from)
        return errno == ENOENT;
    got = fread(first, 1, sizeof first - 1, from);
    good = got == 0 || strcmp(first, BEGINS) == 0;
    if (got)
        good = good && fseek(from, -1, SEEK_END) == 0 && fgetc(from) == '\n';
    fclose(from);
    return good;
}

rmg_status rmg_stock_add(const char *file, const char *line, rmg_error *error)
{
    FILE *to;
    bool good;

    rmg_error_none(error);
    if (!may_append(file))
        return rmg_fail(error, RMG_ERR_CONTENT, file,
                        "%s: found something else than a whole stock file; it is left as it is",
                        file);
    to = fopen(file, "ab");
    good = to && fprintf(to, "%s%s", line, g_str_has_suffix(line, "\n") ? "" : "\n") > 0;
    good = to && fclose(to) == 0 && good;
    return good ? RMG_OK
                : rmg_fail(error, RMG_ERR_FILE, file, "%s: cannot be written: %s", file,
                           g_strerror(errno));
}
