/* Files for tests. */
#include "temporary.h"

#include <glib.h>
#include <glib/gstdio.h>
#include <string.h>

#include "../check.h"

static gchar *folder;

static void remove_folder(void)
{
    GDir *dir = g_dir_open(folder, 0, NULL);
    const gchar *name;

    while (dir && (name = g_dir_read_name(dir)) != NULL) {
        gchar *path = g_build_filename(folder, name, NULL);

        g_remove(path);
        g_free(path);
    }
    if (dir)
        g_dir_close(dir);
    g_rmdir(folder);
}

const char *temporary_path(const char *name)
{
    gchar *path;
    const char *kept;

    if (!folder) {
        folder = g_dir_make_tmp("rimeglass-XXXXXX", NULL);
        atexit(remove_folder);
    }
    path = g_build_filename(folder, name, NULL);
    kept = g_intern_string(path);
    g_free(path);
    return kept;
}

const char *temporary_file(const char *name, const char *text)
{
    const char *path = temporary_path(name);

    CHECK(g_file_set_contents(path, text, -1, NULL), "%s is written", path);
    return path;
}

char *file_text(const char *path)
{
    gchar *text = NULL;

    g_file_get_contents(path, &text, NULL, NULL);
    return text;
}

const char *project_path(const char *below)
{
    gchar *path = g_build_filename(RMG_PROJECT, below, NULL);
    const char *kept = g_intern_string(path);

    g_free(path);
    return kept;
}

char *replaced(const char *text, const char *from, const char *to)
{
    const char *at = strstr(text, from);
    gchar *head, *result;

    CHECK(at != NULL, "the text has \"%s\"", from);
    if (!at)
        return g_strdup(text);
    head = g_strndup(text, (gsize)(at - text));
    result = g_strconcat(head, to, at + strlen(from), NULL);
    g_free(head);
    return result;
}
