/* Files read whole. The size is not believed before it is read: devices and pipes have none. */
#include "file_read.h"
#include "pages.h"
#include "text.h"

#include <errno.h>
#include <fcntl.h>
#include <stdlib.h>
#include <sys/stat.h>
#include <unistd.h>

#define FIRST_ROOM  65536u
#define STREAM_MOST ((size_t)32 << 20) /* of what is no file and may have no end */

static rmg_status refused(const char *file, rmg_status status, gchar *why, rmg_error *error)
{
    rmg_fail(error, status, file, "%s: cannot be read: %s", file, why);
    g_free(why);
    return status;
}

static rmg_status read_all(const char *file, int fd, size_t most, gchar **bytes, gsize *size,
                           rmg_error *error)
{
    struct stat about;
    size_t room = FIRST_ROOM;

    if (fstat(fd, &about) == 0 && S_ISREG(about.st_mode) && about.st_size >= 0)
        room = MIN((size_t)about.st_size, most) + 2u; /* the end is seen without growing */
    else
        most = MIN(most, STREAM_MOST);
    for (;;) {
        ssize_t got;
        gchar *more = g_try_realloc(*bytes, room);

        if (!more)
            return refused(file, RMG_ERR_MEMORY, g_strdup("there is no memory for it"), error);
        *bytes = more;
        rmg_pages_filled_soon(more, room);
        while (*size + 1u < room) {
            got = read(fd, *bytes + *size, room - *size - 1u);
            if (got < 0 && errno == EINTR)
                continue;
            if (got < 0)
                return refused(file, RMG_ERR_FILE, g_strdup(g_strerror(errno)), error);
            if (got == 0) {
                (*bytes)[*size] = '\0';
                return RMG_OK;
            }
            *size += (gsize)got;
            if (*size > most)
                return refused(file, RMG_ERR_FILE,
                               g_strdup_printf("it has more than %zu bytes", most), error);
        }
        room = 2u * room;
    }
}

rmg_status rmg_file_read(const char *file, size_t most, gchar **bytes, gsize *size,
                         rmg_error *error)
{
    const int fd = open(file, O_RDONLY | O_CLOEXEC);
    rmg_status status;

    *bytes = NULL;
    *size = 0;
    rmg_error_none(error);
    if (fd < 0)
        return refused(file, RMG_ERR_FILE, g_strdup(g_strerror(errno)), error);
    status = read_all(file, fd, most, bytes, size, error);
    close(fd);
    if (status != RMG_OK) {
        g_free(*bytes);
        *bytes = NULL;
        *size = 0;
    }
    return status;
}
