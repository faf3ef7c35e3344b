/* Files written whole or not at all. */
#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#include "rimeglass/result.h"

static bool write_all(int to, const char *bytes, size_t size)
{
    while (size) {
        const ssize_t done = write(to, bytes, size);

        if (done < 0 && errno == EINTR)
            continue;
        if (done < 0)
            return false;
        bytes += done;
        size -= (size_t)done;
    }
    return true;
}

static rmg_status failed(const char *file, int error, char **message)
{
    *message = g_strdup_printf("%s cannot be written: %s", file, g_strerror(error));
    return RMG_ERR_FILE;
}

/* Standard output, or something that is no regular file: there is nothing to rename. */
static rmg_status write_directly(const char *file, const void *bytes, size_t size, char **message)
{
    const bool standard = strcmp(file, "-") == 0;
    const int to = standard ? STDOUT_FILENO : open(file, O_WRONLY | O_CLOEXEC);
    int error = 0;

    if (to < 0)
        return failed(file, errno, message);
    if (!write_all(to, bytes, size))
        error = errno;
    if (!standard && close(to) < 0 && !error)
        error = errno;
    return error ? failed(standard ? "standard output" : file, error, message) : RMG_OK;
}

rmg_status rmg_file_write(const char *file, const void *bytes, size_t size, char **message)
{
    GError *error = NULL;
    struct stat about;

    *message = NULL;
    if (strcmp(file, "-") == 0 ||
        (stat(file, &about) == 0 && !S_ISREG(about.st_mode) && !S_ISDIR(about.st_mode)))
        return write_directly(file, bytes, size, message);
    if (g_file_set_contents_full(file, bytes, (gssize)size,
                                 G_FILE_SET_CONTENTS_CONSISTENT | G_FILE_SET_CONTENTS_DURABLE, 0666,
                                 &error))
        return RMG_OK;
    *message = g_strdup_printf("%s cannot be written: %s", file, error->message);
    g_error_free(error);
    return RMG_ERR_FILE;
}
