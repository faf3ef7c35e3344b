/* Files that a command is to write, looked at before it does anything: a run of hours must not end
 * with a name that could have been refused at its beginning. */
#include <errno.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "cli.h"
#include "rimeglass/file.h"

/* The options that name a file to be written; true: a picture. */
static const struct {
    const char *name;
    bool picture;
} outputs[] = {{"json", false}, {"record", false}, {"write", false}, {"html", false},
               {"pdf", false},  {"picture", true}, {"cells", true},  {"course", true}};

static gboolean force;

const GOptionEntry outputs_force = {
    "force", 0, 0, G_OPTION_ARG_NONE, &force, "replace files that are not ours", NULL};

/* Why a file cannot be written; 0: it can. A file is written beside its place and then renamed, so
 * its folder counts; a device is written to itself. */
static int unwritable(const char *file)
{
    gchar *real = realpath(file, NULL);
    gchar *folder = g_path_get_dirname(real ? real : file);
    const bool device = real && !g_file_test(real, G_FILE_TEST_IS_REGULAR);
    int error = 0;

    if (access(device ? real : folder, device ? W_OK : W_OK | X_OK) != 0)
        error = errno;
    g_free(folder);
    free(real);
    return error;
}

static bool writable(const char *verb, const char *option, const char *file)
{
    int error;

    if (g_file_test(file, G_FILE_TEST_IS_DIR)) {
        wrong_call(verb, "--%s %s: that is a folder, expected a file", option, file);
        return false;
    }
    error = unwritable(file);
    if (error)
        wrong_call(verb, "--%s %s: cannot be written: %s", option, file, g_strerror(error));
    return !error;
}

bool may_replace(const char *verb, const char *option, const char *file, const void *bytes,
                 size_t size)
{
    gchar *old = NULL;
    gsize old_size = 0;
    bool same;

    if (force || !g_file_test(file, G_FILE_TEST_IS_REGULAR) || rmg_file_is_ours(file))
        return true;
    same = bytes && g_file_get_contents(file, &old, &old_size, NULL) && old_size == size &&
           memcmp(old, bytes, size) == 0;
    g_free(old);
    if (!same)
        wrong_call(verb, "--%s %s: this file exists and is not one of ours; --force replaces it",
                   option, file);
    return same;
}

bool write_new(const char *verb, const char *option, const char *file, const char *text)
{
    rmg_error error = {0};

    if (!may_replace(verb, option, file, text, strlen(text)))
        return false;
    if (rmg_file_write(file, text, strlen(text), &error) == RMG_OK)
        return true;
    wrong_call(verb, "--%s %s: %s", option, file, error.what);
    rmg_error_free(&error);
    return false;
}

/* One option's file. */
static bool output_ok(const char *verb, const char *option, bool picture, const char *file)
{
    if (picture && !g_str_has_suffix(file, ".png") && !g_str_has_suffix(file, ".svg") &&
        !g_str_has_suffix(file, ".pdf")) {
        wrong_call(verb, "--%s %s: expected a name that ends in .png, .svg or .pdf", option, file);
        return false;
    }
    return (!picture && strcmp(file, "-") == 0) ||
           (writable(verb, option, file) && may_replace(verb, option, file, NULL, 0));
}

bool outputs_ok(const char *verb, const GOptionEntry *entries)
{
    for (const GOptionEntry *e = entries; e->long_name; e++)
        for (size_t i = 0; i < G_N_ELEMENTS(outputs); i++) {
            const gchar *file =
                e->arg == G_OPTION_ARG_FILENAME && strcmp(e->long_name, outputs[i].name) == 0
                    ? *(gchar **)e->arg_data
                    : NULL;

            if (file && !output_ok(verb, e->long_name, outputs[i].picture, file))
                return false;
        }
    return true;
}
