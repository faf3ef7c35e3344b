#include "pages.h"

#include <stdint.h>
#include <sys/mman.h>
#include <unistd.h>

#define HEAD  64u               /* before the block: its length, and the block stays aligned */
#define LARGE ((size_t)8 << 20) /* bytes from which on large pages are asked for */

void *rmg_pages_new(size_t bytes)
{
    size_t *head;

    if (bytes > SIZE_MAX - HEAD)
        return NULL;
    head = mmap(NULL, bytes + HEAD, PROT_READ | PROT_WRITE,
                MAP_PRIVATE | MAP_ANONYMOUS | MAP_NORESERVE, -1, 0);
    if (head == MAP_FAILED)
        return NULL;
    *head = bytes + HEAD;
    return (unsigned char *)head + HEAD;
}

void rmg_pages_free(void *pages)
{
    if (pages) {
        size_t *head = (size_t *)(void *)((unsigned char *)pages - HEAD);

        munmap(head, *head);
    }
}

void rmg_pages_filled_soon(void *block, size_t bytes)
{
#ifdef MADV_HUGEPAGE
    const long page = sysconf(_SC_PAGESIZE);
    const size_t skip = page > 0 ? (size_t)page - (uintptr_t)block % (size_t)page : 0;

    if (block && page > 0 && bytes >= LARGE) /* refused: all goes as before, only slower */
        madvise((unsigned char *)block + skip, bytes - skip, MADV_HUGEPAGE);
#else
    (void)block;
    (void)bytes;
#endif
}

size_t rmg_machine_bytes(void)
{
    const long pages = sysconf(_SC_PHYS_PAGES), bytes = sysconf(_SC_PAGESIZE);

    return pages > 0 && bytes > 0 ? (size_t)pages * (size_t)bytes : (size_t)1 << 30;
}
