/* Texts and numbers as technicians write them, and lists of what was wrong with a file. */
#include "text.h"

#include <errno.h>
#include <stdlib.h>
#include <string.h>

void *rmg_array_take(GArray *array)
{
    void *elements = g_memdup2(array->data, array->len * (gsize)g_array_get_element_size(array));

    g_array_set_clear_func(array, NULL); /* what they own goes on */
    g_array_free(array, TRUE);
    return elements;
}

gchar *rmg_join(GPtrArray *list)
{
    GString *text = g_string_new(NULL);

    for (guint i = 0; i < list->len; i++)
        g_string_append_printf(text, "%s%s",
                               i == 0               ? ""
                               : i + 1 == list->len ? " and "
                                                    : ", ",
                               (char *)g_ptr_array_index(list, i));
    g_ptr_array_free(list, TRUE);
    return g_string_free(text, FALSE);
}

/* Digits of a base up to the end; false: none, others, or too large. */
static bool digits(const char *text, size_t length, unsigned base, uint64_t *value)
{
    gchar *copy = g_strndup(text, length), *end = NULL;
    bool ok = g_ascii_isxdigit(copy[0]) && g_ascii_toupper(copy[1]) != 'X';

    errno = 0; /* anything but ERANGE is another call's, as of threads that wait for each other */
    if (ok)
        *value = strtoull(copy, &end, (int)base);
    ok = ok && errno != ERANGE && *end == '\0';
    g_free(copy);
    return ok;
}

bool rmg_number_parse(const char *text, uint64_t *value)
{
    const size_t length = strlen(text);

    if (text[0] == '$' || text[0] == '&')
        return digits(text + 1, length - 1u, 16, value);
    if (text[0] == '0' && (text[1] == 'x' || text[1] == 'X'))
        return digits(text + 2, length - 2u, 16, value);
    if (length > 1 && (text[length - 1] == 'h' || text[length - 1] == 'H'))
        return digits(text, length - 1u, 16, value);
    if (text[0] == '0' && (text[1] == 'b' || text[1] == 'B'))
        return digits(text + 2, length - 2u, 2, value);
    if (text[0] == '0' && length > 1) /* in the shell an unquoted $8000 becomes 000 */
        return false;
    return digits(text, length, 10, value);
}

bool rmg_decimal_parse(const char *text, uint64_t *value)
{
    return digits(text, strlen(text), 10, value);
}

const char *rmg_number_hint(const char *text)
{
    return text[0] == '0' && g_ascii_isdigit(text[1])
               ? " (a number does not begin with 0: a shell makes 000 of an unquoted $8000; write "
                 "0x8000 or '$8000')"
               : "";
}

bool rmg_range_parse(const char *text, uint64_t *first, uint64_t *last)
{
    const char *mark = strstr(text, "..");
    const size_t skip = mark ? 2 : 1;
    gchar *head, *tail;
    bool ok;

    if (!mark)
        mark = strchr(text, '-');
    if (!mark) {
        ok = rmg_number_parse(text, first);
        *last = *first;
        return ok;
    }
    head = g_strstrip(g_strndup(text, (gsize)(mark - text)));
    tail = g_strstrip(g_strdup(mark + skip));
    ok = rmg_number_parse(head, first) && rmg_number_parse(tail, last);
    g_free(head);
    g_free(tail);
    return ok;
}

bool rmg_designator_parse(const char *text, char *stem, size_t room, uint64_t *number)
{
    size_t length = 0;

    while (g_ascii_isalpha(text[length]))
        length++;
    if (!length || length >= room || !g_ascii_isdigit(text[length]))
        return false;
    memcpy(stem, text, length);
    stem[length] = '\0';
    return rmg_decimal_parse(text + length, number) && *number < 100000;
}

static void note_clear(gpointer note)
{
    rmg_error_free(note);
}

GArray *rmg_notes_new(void)
{
    GArray *notes = g_array_new(FALSE, TRUE, sizeof(rmg_error));

    g_array_set_clear_func(notes, note_clear);
    return notes;
}

void rmg_note_error(GArray *notes, rmg_error *error)
{
    g_array_append_vals(notes, error, 1);
    rmg_error_none(error);
}

void rmg_note(GArray *notes, rmg_status status, const char *where, const char *what, ...)
{
    rmg_error error = {.status = status, .where = g_strdup(where)};
    va_list values;

    va_start(values, what);
    error.what = g_strdup_vprintf(what, values);
    va_end(values);
    rmg_note_error(notes, &error);
}

void rmg_errors_take(GArray *from, rmg_errors *to)
{
    if (!to) {
        g_array_free(from, TRUE);
        return;
    }
    to->count = MIN(from->len, RMG_ERRORS_MOST + 1u); /* the others are empty */
    to->list = rmg_array_take(from);
}

void rmg_errors_free(rmg_errors *errors)
{
    for (size_t i = 0; i < errors->count; i++)
        rmg_error_free(&errors->list[i]);
    g_free(errors->list);
    errors->list = NULL;
    errors->count = 0;
}

/* The folder, without its last part for each "../" that the name begins with. */
static const char *climb(gchar *folder, const char *name)
{
    while (g_str_has_prefix(name, "../") && strcmp(folder, ".") != 0 &&
           !g_str_has_suffix(folder, "..") && strcmp(folder, "/") != 0) {
        gchar *up = g_path_get_dirname(folder);

        memcpy(folder, up, strlen(up) + 1);
        g_free(up);
        name += strlen("../");
    }
    return name;
}

char *rmg_file_beside(const char *file, const char *name)
{
    gchar *folder, *beside;

    if (g_path_is_absolute(name))
        return g_strdup(name);
    folder = g_path_get_dirname(file);
    name = climb(folder, name);
    beside = strcmp(folder, ".") == 0 ? g_strdup(name) : g_build_filename(folder, name, NULL);
    g_free(folder);
    return beside;
}

void rmg_text_free(char *text)
{
    g_free(text);
}

void rmg_texts_free(char **texts)
{
    g_strfreev(texts);
}

gint rmg_by_number(uint64_t a, uint64_t b)
{
    return a == b ? 0 : a < b ? -1 : 1;
}

gint rmg_by_real(double a, double b)
{
    return a < b ? -1 : a > b;
}

rmg_status rmg_fail(rmg_error *error, rmg_status status, const char *where, const char *what, ...)
{
    va_list values;

    if (error->what)
        return status;
    va_start(values, what);
    error->what = g_strdup_vprintf(what, values);
    va_end(values);
    error->status = status;
    error->where = g_strdup(where);
    return status;
}

void rmg_error_none(rmg_error *error)
{
    memset(error, 0, sizeof *error);
}

void rmg_error_free(rmg_error *error)
{
    g_free(error->what);
    g_free(error->where);
    memset(error, 0, sizeof *error);
}

static bool is_control(gunichar c)
{
    return g_unichar_iscntrl(c) && c != '\t' && c != '\n' && c != '\r';
}

bool rmg_text_controls(const char *text, size_t length)
{
    for (const char *at = text; at < text + length; at = g_utf8_next_char(at))
        if (is_control(g_utf8_get_char(at)))
            return true;
    return false;
}

gchar *rmg_text_harmless(const char *text)
{
    gchar *valid = g_utf8_make_valid(text, -1);
    GString *out = g_string_new(NULL);

    for (const char *at = valid; *at; at = g_utf8_next_char(at)) {
        const gunichar c = g_utf8_get_char(at);

        g_string_append_unichar(out, is_control(c) ? 0xFFFD : c);
    }
    g_free(valid);
    return g_string_free(out, FALSE);
}
