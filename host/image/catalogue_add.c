/* An entry put into a catalogue file. What stands in the file stays as it is, to the byte; the new
 * text is read again, and takes the file's place only if it holds the old entries and the new one.
 */
#include <errno.h>
#include <string.h>
#include <unistd.h>

#include "catalogue_file.h"
#include "base/internal.h"

static const char fresh[] = "# Images this workshop knows.\nimages:\n";

/* A file as it is named in the catalogue: from the catalogue's folder. */
static char *from_folder(const char *catalogue, const char *image)
{
    gchar *base, *folder, *target;
    GString *path = g_string_new(NULL);
    size_t same = 0;

    if (g_path_is_absolute(image)) {
        g_string_free(path, TRUE);
        return g_strdup(image);
    }
    base = g_canonicalize_filename(catalogue, NULL);
    folder = g_path_get_dirname(base);
    target = g_canonicalize_filename(image, NULL);
    for (size_t i = 0; folder[i] && folder[i] == target[i]; i++)
        if (folder[i] == '/' || (!folder[i + 1] && target[i + 1] == '/'))
            same = i + 1;
    for (const char *p = folder + same; *p; p++)
        if (p == folder + same ? *p != '/' : *p == '/' && p[1])
            g_string_append(path, "../");
    g_string_append(path, target + same + (target[same] == '/'));
    g_free(base);
    g_free(folder);
    g_free(target);
    return g_string_free(path, FALSE);
}

/* May it stand in a YAML text as it is? */
static bool plain(gunichar c)
{
    return c >= ' ' && c != '"' && c != '\\' && !(c >= 0x7F && c < 0xA0) && c != 0x2028 &&
           c != 0x2029 && c < 0xFFFE && !(c >= 0xD800 && c < 0xE000) && c != 0xFEFF;
}

/* A text in double quotes, as YAML and JSON have it. */
static void append_quoted(GString *to, const char *text)
{
    g_string_append_c(to, '"');
    for (const char *p = text; *p; p = g_utf8_next_char(p)) {
        const gunichar c = g_utf8_get_char(p);

        if (plain(c))
            g_string_append_unichar(to, c);
        else if (c == '"' || c == '\\')
            g_string_append_printf(to, "\\%c", (char)c);
        else if (c < 0x10000)
            g_string_append_printf(to, "\\u%04X", c);
        else
            g_string_append_printf(to, "\\U%08X", c);
    }
    g_string_append_c(to, '"');
}

/* An entry being written: one key a line, or all in braces. */
typedef struct entry_text {
    GString *text;
    gchar *lead; /* before each line; NULL: in braces */
    bool any;
} entry_text;

static void append_key(entry_text *e, const char *key)
{
    if (e->lead)
        g_string_append_printf(e->text, "%s%s %s: ", e->lead, e->any ? " " : "-", key);
    else
        g_string_append_printf(e->text, "%s\"%s\": ", e->any ? ", " : "{", key);
    e->any = true;
}

static void end_value(entry_text *e)
{
    if (e->lead)
        g_string_append_c(e->text, '\n');
}

static void append_text(entry_text *e, const char *key, const char *text)
{
    if (!*text)
        return;
    append_key(e, key);
    append_quoted(e->text, text);
    end_value(e);
}

static void append_number(entry_text *e, const char *key, const char *format, size_t value)
{
    gchar *number = g_strdup_printf(format, value);

    append_key(e, key);
    if (e->lead || *format != '0')
        g_string_append(e->text, number);
    else
        append_quoted(e->text, number); /* JSON has no such numbers */
    end_value(e);
    g_free(number);
}

static void append_entry(entry_text *e, const rmg_known *entry)
{
    gchar *crc = g_strdup_printf("%08x", entry->sums.crc32);

    append_text(e, "name", entry->name);
    append_text(e, "board", entry->board);
    append_text(e, "version", entry->version);
    append_text(e, "socket", entry->socket);
    append_number(e, "size", "%zu", (size_t)entry->size);
    append_number(e, "sum16", "0x%04zX", entry->sums.sum16);
    append_number(e, "sum32", "0x%08zX", entry->sums.sum32);
    append_text(e, "crc32", crc);
    append_text(e, "md5", entry->sums.md5);
    append_text(e, "sha1", entry->sums.sha1);
    append_text(e, "sha256", entry->sums.sha256);
    append_text(e, "image", entry->image);
    if (!e->lead)
        g_string_append_c(e->text, '}');
    g_free(crc);
}

/* Where a character of the text begins. YAML counts characters, of a byte-order mark none. */
static size_t offset_of(const yaml_file *file, size_t index)
{
    const char *text = file->text;

    if (g_str_has_prefix(text, "\xEF\xBB\xBF"))
        text += 3;
    return (size_t)(g_utf8_offset_to_pointer(text, (glong)index) - file->text);
}

/* The beginning of the line after this one. */
static size_t next_line(const yaml_file *file, size_t at)
{
    const char *end = strchr(file->text + at, '\n');

    return end ? (size_t)(end - file->text) + 1u : file->size;
}

/* The last text, list or map of a list, and of what it ends with. */
static const ynode *last_of(yaml_file *file, const ynode *node)
{
    for (;;) {
        const ynode *last = NULL;
        ynode *key, *value, *item;

        for (size_t i = 0; (item = rmg_yaml_item(file, node, i)) != NULL; i++)
            last = item;
        for (size_t i = 0; rmg_yaml_pair(file, node, i, &key, &value); i++)
            last = value;
        if (!last)
            return node;
        node = last;
    }
}

/* How the list of images is written, and where an entry is to be put into it. */
static void find_place(yaml_file *file, entry_text *e, size_t *at, size_t *cut)
{
    const ynode *list = rmg_yaml_get(file, rmg_yaml_root(file), "images");
    const bool flow =
        list->type == YAML_SEQUENCE_NODE && list->data.sequence.style == YAML_FLOW_SEQUENCE_STYLE;
    const bool empty = !rmg_yaml_item(file, list, 0);
    const ynode *last = last_of(file, list);

    *cut = 0;
    if (flow && !(empty && list->start_mark.line == list->end_mark.line &&
                  rmg_yaml_root(file)->data.mapping.style == YAML_BLOCK_MAPPING_STYLE)) {
        *at = offset_of(file, list->end_mark.index) - 1u; /* before the bracket */
        if (!empty)
            g_string_append(e->text, ", ");
        return;
    }
    if (flow) { /* "[]": the list is begun anew below it */
        *at = offset_of(file, list->start_mark.index);
        *cut = offset_of(file, list->end_mark.index) - *at;
        g_string_append_c(e->text, '\n');
        e->lead = g_strdup("  ");
    } else if (empty) {
        *at = next_line(file, offset_of(file, list->end_mark.index));
        e->lead = g_strdup("  ");
    } else {
        *at = last->end_mark.column ? next_line(file, offset_of(file, last->end_mark.index))
                                    : offset_of(file, last->end_mark.index);
        e->lead = g_strnfill(list->start_mark.column, ' ');
    }
    if (*at && file->text[*at - 1u] != '\n' && !*cut)
        g_string_append_c(e->text, '\n');
}

static bool same_text(const char *a, const char *b)
{
    return strcmp(a ? a : "", b ? b : "") == 0;
}

static bool same_entry(const rmg_known *a, const rmg_known *b)
{
    return same_text(a->name, b->name) && same_text(a->board, b->board) &&
           same_text(a->version, b->version) && same_text(a->socket, b->socket) &&
           same_text(a->image, b->image) && a->size == b->size && a->told == b->told &&
           a->sums.sum16 == b->sums.sum16 && a->sums.sum32 == b->sums.sum32 &&
           a->sums.crc32 == b->sums.crc32 && same_text(a->sums.md5, b->sums.md5) &&
           same_text(a->sums.sha1, b->sums.sha1) && same_text(a->sums.sha256, b->sums.sha256);
}

/* Does the new text hold all that the old one held, and the entry after it? */
static bool holds_all(const char *name, const char *text, const rmg_catalogue *old,
                      const rmg_known *entry)
{
    GArray *notes = rmg_notes_new();
    rmg_catalogue now;
    yaml_file file;
    bool same;

    same = rmg_catalogue_take(name, &file, rmg_yaml_open_text(&file, name, text, notes), &now) ==
               RMG_OK &&
           now.count == old->count + 1u;
    for (size_t i = 0; same && i < now.count; i++)
        same = same_entry(&now.list[i], i < old->count ? &old->list[i] : entry);
    rmg_catalogue_free(&now);
    rmg_yaml_close(&file);
    g_array_free(notes, TRUE);
    return same;
}

/* The text with the entry in it; NULL: it cannot be put there. */
static gchar *text_with(yaml_file *file, const rmg_catalogue *old, const rmg_known *entry,
                        const char *image)
{
    entry_text e = {.text = g_string_new(NULL)};
    GString *all = g_string_new_len(file->text, (gssize)file->size);
    rmg_known told = *entry;
    size_t at, cut;

    told.image = (char *)(uintptr_t)image;
    find_place(file, &e, &at, &cut);
    append_entry(&e, &told);
    g_string_erase(all, (gssize)at, (gssize)cut);
    g_string_insert_len(all, (gssize)at, e.text->str, (gssize)e.text->len);
    g_string_free(e.text, TRUE);
    g_free(e.lead);
    if (holds_all(file->name, all->str, old, entry))
        return g_string_free(all, FALSE);
    g_string_free(all, TRUE);
    return NULL;
}

/* The same bytes are known already? Says as what. */
static rmg_status check_new(const rmg_catalogue *old, const rmg_known *entry, rmg_error *error)
{
    for (size_t i = 0; i < old->count; i++)
        if ((old->list[i].told & RMG_SUM_SHA256) &&
            strcmp(old->list[i].sums.sha256, entry->sums.sha256) == 0)
            return rmg_fail(error, RMG_ERR_CONTENT, NULL,
                            "%s:%u: the same bytes are in it already, as \"%s\" %s", old->file,
                            old->list[i].file_line, old->list[i].name, old->list[i].version);
    return RMG_OK;
}

static void take_first(GArray *notes, rmg_error *error)
{
    rmg_error *first = &g_array_index(notes, rmg_error, 0);

    *error = *first;
    rmg_error_none(first);
}

/* With the folder locked: reads the file, puts the entry in, writes it. */
static rmg_status add_locked(const char *file, const rmg_known *entry, const char *image,
                             rmg_error *error)
{
    GArray *notes = rmg_notes_new();
    rmg_catalogue old;
    yaml_file yaml;
    rmg_status status;
    gchar *text = NULL;

    if (access(file, F_OK) != 0 && errno == ENOENT)
        status = rmg_yaml_open_text(&yaml, file, fresh, notes);
    else
        status = rmg_yaml_open(&yaml, file, notes);
    status = rmg_catalogue_take(file, &yaml, status, &old);
    if (status != RMG_OK)
        take_first(notes, error);
    else
        status = check_new(&old, entry, error);
    if (status == RMG_OK) {
        text = text_with(&yaml, &old, entry, image);
        status = text ? rmg_file_write(file, text, strlen(text), error)
                      : rmg_fail(error, RMG_ERR_CONTENT, NULL,
                                 "%s: an entry cannot be added to it as it is written; expected a "
                                 "list of entries, "
                                 "one after each \"-\"",
                                 file);
    }
    g_free(text);
    rmg_catalogue_free(&old);
    rmg_yaml_close(&yaml);
    g_array_free(notes, TRUE);
    return status;
}

/* What of the entry is no text; NULL: all is. */
static const char *no_text(const rmg_known *entry)
{
    const struct {
        const char *what, *text;
    } rows[] = {{"its name", entry->name},
                {"its board", entry->board},
                {"its version", entry->version},
                {"its socket", entry->socket},
                {"the name of its file", entry->image}};

    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++)
        if (!g_utf8_validate(rows[i].text, -1, NULL))
            return rows[i].what;
    return NULL;
}

rmg_status rmg_catalogue_add(const char *file, const rmg_known *entry, const void *bytes,
                             size_t size, rmg_error *error)
{
    rmg_known whole = *entry;
    rmg_status status;
    gchar *image;
    int lock;

    rmg_error_none(error);
    if (no_text(entry))
        return rmg_fail(error, RMG_ERR_CONTENT, NULL,
                        "%s: %s is not UTF-8, so it cannot be in a catalogue; rename it", file,
                        no_text(entry));
    rmg_checksums_of(bytes, size, &whole.sums);
    whole.size = size;
    whole.told =
        RMG_SUM_16 | RMG_SUM_32 | RMG_SUM_CRC32 | RMG_SUM_MD5 | RMG_SUM_SHA1 | RMG_SUM_SHA256;
    image = *entry->image ? from_folder(file, entry->image) : g_strdup("");
    whole.image = *image ? rmg_file_beside(file, image) : g_strdup("");
    lock = rmg_file_lock(file);
    status = add_locked(file, &whole, image, error);
    rmg_file_unlock(lock);
    g_free(whole.image);
    g_free(image);
    return status;
}
