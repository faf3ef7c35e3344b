/* Where the region's pages lie in the machine: Linux shows their frames to the superuser alone. */
#include <fcntl.h>
#include <stdlib.h>
#include <unistd.h>

#include "internal.h"

#define FRAME   (((uint64_t)1 << 55) - 1u)
#define PRESENT ((uint64_t)1 << 63)

/* The frame of a page; 0: hidden. */
static uint64_t frame_of(const rmg_ram *ram, int table, uint64_t page)
{
    const uint64_t number = (uint64_t)(uintptr_t)ram->words / (uint64_t)ram->page_bytes + page;
    uint64_t entry;

    if (pread(table, &entry, sizeof entry, (off_t)(number * sizeof entry)) != sizeof entry ||
        !(entry & PRESENT))
        return 0;
    return entry & FRAME;
}

void rmg_ram_note_frames(rmg_ram *ram)
{
    const size_t pages = (size_t)ram->count * sizeof *ram->words / (size_t)ram->page_bytes;
    const int table = open("/proc/self/pagemap", O_RDONLY | O_CLOEXEC);

    if (table < 0)
        return;
    ram->frames = malloc(pages * sizeof *ram->frames);
    for (size_t i = 0; ram->frames && i < pages; i++) {
        ram->frames[i] = frame_of(ram, table, i);
        if (!ram->frames[i]) {
            free(ram->frames);
            ram->frames = NULL;
        }
    }
    close(table);
}

rmg_ram_where rmg_ram_physical(const rmg_ram *ram, rmg_addr word, uint64_t *physical)
{
    const uint64_t byte = word * sizeof *ram->words;
    const uint64_t page = byte / (uint64_t)ram->page_bytes;
    uint64_t now = 0;
    int table;

    if (!ram->frames || word >= ram->count)
        return RMG_RAM_HIDDEN;
    table = open("/proc/self/pagemap", O_RDONLY | O_CLOEXEC);
    if (table >= 0) {
        now = frame_of(ram, table, page);
        close(table);
    }
    if (!now)
        return RMG_RAM_HIDDEN;
    if (now != ram->frames[page])
        return RMG_RAM_MOVED;
    *physical = now * (uint64_t)ram->page_bytes + byte % (uint64_t)ram->page_bytes;
    return RMG_RAM_FOUND;
}
