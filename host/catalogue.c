/* The catalogue file: read, and added to. */
#include "rimeglass/catalogue.h"

#include <string.h>

#include "rimeglass/result.h"
#include "yaml.h"

static const char *const root_keys[] = {"images", NULL};
static const char *const entry_keys[] = {"name",  "board",  "version", "socket", "size",
                                         "image", "sum16",  "sum32",   "crc32",  "md5",
                                         "sha1",  "sha256", NULL};

/* A checksum in hex digits, or a number like 0x1F2E for the byte sums. */
static uint64_t read_number_sum(yaml_file *file, const ynode *map, const char *key, unsigned bits,
                                unsigned which, rmg_known *entry)
{
    const ynode *node = rmg_yaml_get(file, map, key);
    const char *text = rmg_yaml_text(node);
    const bool bare_hex = strcmp(key, "crc32") == 0;
    guint64 value = 0;
    char *end;

    if (!node)
        return 0;
    value = g_ascii_strtoull(text, &end, bare_hex ? 16 : 0);
    if (end == text || *end || value >> bits) {
        rmg_yaml_wrong(file, node, key, "found \"%s\", expected %s", text,
                       bare_hex     ? "eight hex digits like 1c291ca3"
                       : bits == 16 ? "a number like 0x1F2E"
                                    : "a number like 0x00041F2E");
        return 0;
    }
    entry->told |= which;
    return value;
}

static void read_digest(yaml_file *file, const ynode *map, const char *key, char *to, size_t digits,
                        unsigned which, rmg_known *entry)
{
    const ynode *node = rmg_yaml_get(file, map, key);
    const char *text = rmg_yaml_text(node);
    gchar *lower;

    if (!node)
        return;
    if (strlen(text) != digits || strspn(text, "0123456789abcdefABCDEF") != digits) {
        rmg_yaml_wrong(file, node, key, "found \"%s\", expected %zu hex digits", text, digits);
        return;
    }
    lower = g_ascii_strdown(text, -1);
    memcpy(to, lower, digits + 1);
    g_free(lower);
    entry->told |= which;
}

static void read_entry(yaml_file *file, const ynode *item, GArray *list)
{
    rmg_known e = {.file_line = rmg_yaml_line(item)};
    char *image;

    if (!rmg_yaml_is_map(file, item, "an image", entry_keys))
        return;
    e.name = rmg_yaml_string(file, item, "name", NULL);
    e.board = rmg_yaml_string(file, item, "board", "");
    e.version = rmg_yaml_string(file, item, "version", "");
    e.socket = rmg_yaml_string(file, item, "socket", "");
    e.size = rmg_yaml_number(file, item, "size", 1, (uint64_t)1 << 30, -1);
    image = rmg_yaml_string(file, item, "image", "");
    e.image = *image ? rmg_file_beside(file->name, image) : g_strdup("");
    g_free(image);
    e.sums.sum16 = (uint16_t)read_number_sum(file, item, "sum16", 16, RMG_SUM_16, &e);
    e.sums.sum32 = (uint32_t)read_number_sum(file, item, "sum32", 32, RMG_SUM_32, &e);
    e.sums.crc32 = (uint32_t)read_number_sum(file, item, "crc32", 32, RMG_SUM_CRC32, &e);
    read_digest(file, item, "md5", e.sums.md5, 32, RMG_SUM_MD5, &e);
    read_digest(file, item, "sha1", e.sums.sha1, 40, RMG_SUM_SHA1, &e);
    read_digest(file, item, "sha256", e.sums.sha256, 64, RMG_SUM_SHA256, &e);
    if (!e.told)
        rmg_yaml_wrong(file, item, NULL,
                       "\"%s\" has no checksum: expected at least one of sum16, "
                       "sum32, crc32, md5, sha1, sha256",
                       e.name);
    g_array_append_val(list, e);
}

rmg_status rmg_catalogue_load(const char *name, rmg_catalogue *catalogue, rmg_mistakes *mistakes)
{
    GPtrArray *notes = g_ptr_array_new_with_free_func(g_free);
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_known));
    yaml_file file;
    rmg_status status = rmg_yaml_open(&file, name, notes);

    memset(catalogue, 0, sizeof *catalogue);
    if (status == RMG_OK &&
        rmg_yaml_is_map(&file, rmg_yaml_root(&file), "a catalogue", root_keys)) {
        ynode *items = rmg_yaml_list(&file, rmg_yaml_root(&file), "images", true);
        ynode *item;

        for (size_t i = 0; (item = rmg_yaml_item(&file, items, i)) != NULL; i++)
            read_entry(&file, item, list);
    }
    catalogue->file = g_strdup(name);
    catalogue->count = list->len;
    catalogue->list = (rmg_known *)(void *)g_array_free(list, FALSE);
    if (status == RMG_OK && notes->len)
        status = RMG_ERR_CONTENT;
    if (status != RMG_OK)
        rmg_catalogue_free(catalogue);
    rmg_yaml_close(&file);
    rmg_mistakes_take(notes, mistakes);
    return status;
}

void rmg_catalogue_free(rmg_catalogue *catalogue)
{
    for (size_t i = 0; i < catalogue->count; i++) {
        g_free(catalogue->list[i].name);
        g_free(catalogue->list[i].board);
        g_free(catalogue->list[i].version);
        g_free(catalogue->list[i].socket);
        g_free(catalogue->list[i].image);
    }
    g_free(catalogue->list);
    g_free(catalogue->file);
    memset(catalogue, 0, sizeof *catalogue);
}

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

/* A text in double quotes, as YAML has it. */
static void append_text(GString *to, const char *key, const char *text)
{
    if (!*text)
        return;
    g_string_append_printf(to, "    %s: \"", key);
    for (const char *p = text; *p; p++) {
        if (*p == '"' || *p == '\\')
            g_string_append_c(to, '\\');
        if ((unsigned char)*p < ' ')
            g_string_append_printf(to, "\\x%02X", (unsigned char)*p);
        else
            g_string_append_c(to, *p);
    }
    g_string_append(to, "\"\n");
}

static void append_entry(GString *to, const char *file, const rmg_known *entry, size_t size,
                         const rmg_checksums *sums)
{
    const gsize start = to->len;

    append_text(to, "name", entry->name);
    to->str[start + 2] = '-'; /* the first key begins the entry */
    append_text(to, "board", entry->board);
    append_text(to, "version", entry->version);
    append_text(to, "socket", entry->socket);
    g_string_append_printf(to, "    size: %zu\n    sum16: 0x%04X\n    sum32: 0x%08X\n", size,
                           sums->sum16, sums->sum32);
    g_string_append_printf(
        to, "    crc32: \"%08x\"\n    md5: \"%s\"\n    sha1: \"%s\"\n    sha256: \"%s\"\n",
        sums->crc32, sums->md5, sums->sha1, sums->sha256);
    if (*entry->image) {
        char *path = from_folder(file, entry->image);

        append_text(to, "image", path);
        g_free(path);
    }
}

/* Is the entry's content in the catalogue already? */
static const rmg_known *same_as(const rmg_catalogue *catalogue, const rmg_checksums *sums)
{
    for (size_t i = 0; i < catalogue->count; i++)
        if ((catalogue->list[i].told & RMG_SUM_SHA256) &&
            strcmp(catalogue->list[i].sums.sha256, sums->sha256) == 0)
            return &catalogue->list[i];
    return NULL;
}

/* The catalogue's text as it stands; NULL after an error. */
static char *text_so_far(const char *file, const rmg_checksums *sums, char **message)
{
    rmg_catalogue catalogue;
    rmg_mistakes mistakes = {0};
    const rmg_known *same;
    gchar *text = NULL;

    if (!g_file_test(file, G_FILE_TEST_EXISTS))
        return g_strdup("# Images this workshop knows.\nimages:\n");
    if (rmg_catalogue_load(file, &catalogue, &mistakes) != RMG_OK) {
        *message = g_strdup(mistakes.texts[0]);
        rmg_mistakes_free(&mistakes);
        return NULL;
    }
    same = same_as(&catalogue, sums);
    if (same)
        *message = g_strdup_printf("%s:%u: the same bytes stand there already, as \"%s\" %s", file,
                                   same->file_line, same->name, same->version);
    else if (!g_file_get_contents(file, &text, NULL, NULL))
        *message = g_strdup_printf("%s cannot be read", file);
    rmg_catalogue_free(&catalogue);
    return text;
}

rmg_status rmg_catalogue_add(const char *file, const rmg_known *entry, const void *bytes,
                             size_t size, char **message)
{
    rmg_checksums sums;
    GString *text;
    char *before;
    rmg_status status;

    *message = NULL;
    rmg_checksums_of(bytes, size, &sums);
    before = text_so_far(file, &sums, message);
    if (!before)
        return RMG_ERR_CONTENT;
    text = g_string_new(before);
    g_free(before);
    if (text->len && text->str[text->len - 1] != '\n')
        g_string_append_c(text, '\n');
    append_entry(text, file, entry, size, &sums);
    status = rmg_file_write(file, text->str, text->len, message);
    g_string_free(text, TRUE);
    return status;
}
