/* Two files, block by block. */
#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <string.h>
#include <unistd.h>

#include "rimeglass/file.h"
#include "text.h"

#define BLOCK ((size_t)1 << 18)

static ssize_t fill(int from, char *block)
{
    size_t size = 0;

    while (size < BLOCK) {
        const ssize_t got = read(from, block + size, BLOCK - size);

        if (got < 0 && errno == EINTR)
            continue;
        if (got < 0)
            return -1;
        if (got == 0)
            break;
        size += (size_t)got;
    }
    return (ssize_t)size;
}

static rmg_status failed(const char *file, rmg_error *error)
{
    return rmg_fail(error, RMG_ERR_FILE, file, "%s cannot be read: %s", file, g_strerror(errno));
}

static rmg_status compare_open(const char *one, int a, const char *two, int b, bool *same,
                               uint64_t *bytes, rmg_error *error)
{
    char *blocks = g_malloc(2 * BLOCK);
    rmg_status status = RMG_OK;
    ssize_t x, y;

    do {
        x = fill(a, blocks);
        y = x < 0 ? 0 : fill(b, blocks + BLOCK);
        if (x < 0 || y < 0)
            status = failed(x < 0 ? one : two, error);
        else if (x != y || memcmp(blocks, blocks + BLOCK, (size_t)x) != 0)
            *same = false;
        else
            *bytes += (uint64_t)x;
    } while (status == RMG_OK && *same && x == (ssize_t)BLOCK);
    g_free(blocks);
    return status;
}

rmg_status rmg_files_same(const char *one, const char *two, bool *same, uint64_t *bytes,
                          rmg_error *error)
{
    const int a = open(one, O_RDONLY | O_CLOEXEC);
    rmg_status status;
    int b;

    *same = true;
    *bytes = 0;
    rmg_error_none(error);
    if (a < 0)
        return failed(one, error);
    b = open(two, O_RDONLY | O_CLOEXEC);
    status = b < 0 ? failed(two, error) : compare_open(one, a, two, b, same, bytes, error);
    if (b >= 0)
        close(b);
    close(a);
    return status;
}
