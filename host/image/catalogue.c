/* The catalogue file, read. */
#include "catalogue_file.h"

#include <string.h>

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

/* The list may be there and hold nothing yet. */
static ynode *images_of(yaml_file *file)
{
    ynode *root = rmg_yaml_root(file);
    ynode *list = rmg_yaml_get(file, root, "images");

    if (list && list->type == YAML_SCALAR_NODE && !*rmg_yaml_text(list))
        return NULL;
    return rmg_yaml_list(file, root, "images", true);
}

rmg_status rmg_catalogue_take(const char *name, yaml_file *file, rmg_status status,
                              rmg_catalogue *catalogue)
{
    GArray *list = g_array_new(FALSE, TRUE, sizeof(rmg_known));

    memset(catalogue, 0, sizeof *catalogue);
    if (status == RMG_OK && rmg_yaml_is_map(file, rmg_yaml_root(file), "a catalogue", root_keys)) {
        ynode *items = images_of(file);
        ynode *item;

        for (size_t i = 0; (item = rmg_yaml_item(file, items, i)) != NULL; i++)
            read_entry(file, item, list);
    }
    catalogue->file = g_strdup(name);
    catalogue->count = list->len;
    catalogue->list = rmg_array_take(list);
    if (status == RMG_OK && file->errors->len)
        status = RMG_ERR_CONTENT;
    if (status != RMG_OK)
        rmg_catalogue_free(catalogue);
    return status;
}

rmg_status rmg_catalogue_load(const char *name, rmg_catalogue *catalogue, rmg_errors *errors)
{
    GArray *notes = rmg_notes_new();
    yaml_file file;
    rmg_status status = rmg_yaml_open(&file, name, notes);

    status = rmg_catalogue_take(name, &file, status, catalogue);
    rmg_yaml_close(&file);
    rmg_errors_take(notes, errors);
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
