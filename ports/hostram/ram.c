/* This machine's memory: taken, locked, and reached as a bus port. */
#define _DEFAULT_SOURCE
#include <errno.h>
#include <inttypes.h>
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/mman.h>
#include <unistd.h>

#include "internal.h"

#define MIB ((uint64_t)1 << 20)

static rmg_status ram_read(void *context, rmg_addr address, rmg_word *value)
{
    const rmg_ram *ram = context;

    *value = ram->words[address];
    return RMG_OK;
}

static rmg_status ram_write(void *context, rmg_addr address, rmg_word value)
{
    const rmg_ram *ram = context;

    ram->words[address] = value;
    return RMG_OK;
}

static rmg_status ram_run_element(void *context, rmg_element_call *call)
{
    const uint64_t end = call->down ? call->range.first : call->range.last;
    const uint64_t left = (call->down ? call->address - end : end - call->address) + 1u;
    const uint64_t count = left < call->words_a_call ? left : call->words_a_call;

    rmg_ram_run_parts(context, call, call->down ? call->address - (count - 1u) : call->address,
                      count);
    if (count == left)
        return RMG_OK;
    call->address = call->down ? call->address - count : call->address + count;
    return RMG_ERR_CANCELLED;
}

static rmg_status ram_wait(void *context, uint32_t hold_us)
{
    (void)context;
    usleep(hold_us);
    return RMG_OK;
}

static const rmg_bus ram_bus = {.version = RMG_BUS_VERSION,
                                .read = ram_read,
                                .write = ram_write,
                                .run_element = ram_run_element,
                                .wait = ram_wait};

static char *text(const char *format, ...) __attribute__((format(printf, 1, 2)));

static char *text(const char *format, ...)
{
    char *result = malloc(400);
    va_list args;

    va_start(args, format);
    if (result)
        vsnprintf(result, 400, format, args);
    va_end(args);
    return result;
}

/* Locks as much as can be locked from the start on, to a page; how much. *problem is the system's
 * reason for not more. */
static size_t lock_most(void *memory, size_t bytes, size_t page, int *problem)
{
    size_t good = 0, bad = bytes;

    *problem = 0;
    if (mlock(memory, bytes) == 0)
        return bytes;
    *problem = errno;
    while (bad - good > page) {
        const size_t middle = (good + (bad - good) / 2u) / page * page;

        if (middle == good)
            break;
        if (mlock(memory, middle) == 0)
            good = middle;
        else
            bad = middle;
        if (munlock(memory, bytes) != 0)
            break;
    }
    return good && mlock(memory, good) == 0 ? good : 0;
}

static rmg_status take(rmg_ram *ram, const rmg_ram_want *want, char **remark)
{
    const size_t page = (size_t)ram->page_bytes;
    const uint64_t spare = rmg_ram_free_bytes();
    uint64_t reserve = want->reserve_bytes, wanted = want->bytes / page * page;
    size_t bytes, locked;
    int problem;
    void *memory;

    if (!reserve)
        reserve = spare / 10u > 256u * MIB ? spare / 10u : 256u * MIB;
    if (want->percent)
        wanted = (spare > reserve ? spare - reserve : 0) / 100u * want->percent / page * page;
    if (wanted > UINT64_MAX - reserve || wanted + reserve > spare) {
        wanted = spare > reserve ? (spare - reserve) / page * page : 0;
        ram->remark = text("%" PRIu64 " MiB are used: of the memory that is free now, %" PRIu64
                           " MiB are left to the machine so that it does not swap",
                           wanted / MIB, reserve / MIB);
        if (!ram->remark)
            return RMG_ERR_MEMORY; /* less than was asked for is not taken without a word */
    }
    if (wanted > SIZE_MAX / 2u) { /* a 32-bit program: no object is larger */
        wanted = SIZE_MAX / 2u / page * page;
        free(ram->remark);
        ram->remark = text("%" PRIu64 " MiB are used: a program of this kind can address no more",
                           wanted / MIB);
        if (!ram->remark)
            return RMG_ERR_MEMORY;
    }
    bytes = (size_t)wanted;
    memory = bytes ? mmap(NULL, bytes, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0)
                   : MAP_FAILED;
    if (memory == MAP_FAILED) {
        *remark = ram->remark ? ram->remark : text("no memory is available: %s", strerror(errno));
        ram->remark = NULL;
        return RMG_ERR_ROOM;
    }
    ram->words = memory;
    ram->mapped = bytes;
    madvise(memory, bytes, MADV_HUGEPAGE); /* fewer table walks; no harm where refused */
    locked = lock_most(memory, bytes, page, &problem);
    if (!locked) {
        *remark = text("of %" PRIu64 " KiB, not one page could be locked: %s", wanted / 1024u,
                       strerror(problem));
        return RMG_ERR_ROOM;
    }
    if (locked < bytes) {
        free(ram->remark);
        ram->remark = text("%" PRIu64 " of %" PRIu64
                           " KiB are used: the system locks no more for this user (%s)",
                           (uint64_t)locked / 1024u, wanted / 1024u, strerror(problem));
        if (!ram->remark)
            return RMG_ERR_MEMORY;
    }
    ram->count = locked / sizeof *ram->words;
    return RMG_OK;
}

rmg_status rmg_ram_open(const rmg_ram_want *want, rmg_ram **result, char **remark)
{
    rmg_ram *ram;
    rmg_status status;

    *result = NULL;
    *remark = NULL;
    if ((!want->percent && want->bytes < 4096u) || want->percent > 100u || !want->threads ||
        want->threads > RMG_RAM_THREADS)
        return RMG_ERR_ARGUMENT;
    ram = calloc(1, sizeof *ram);
    if (!ram)
        return RMG_ERR_MEMORY;
    ram->page_bytes = sysconf(_SC_PAGESIZE);
    ram->threads = want->threads;
    ram->flushes = !want->unflushed && rmg_ram_can_flush();
    status = take(ram, want, remark);
    if (status == RMG_OK) {
        rmg_ram_note_frames(ram);
        status = rmg_ram_start_threads(ram);
        if (status != RMG_OK)
            rmg_ram_stop_threads(ram);
    }
    if (status != RMG_OK) {
        if (ram->words)
            munmap((void *)(uintptr_t)ram->words, ram->mapped);
        free(ram->frames);
        free(ram->remark);
        free(ram);
        return status;
    }
    *remark = ram->remark ? ram->remark : (char *)"";
    *result = ram;
    return RMG_OK;
}

void rmg_ram_close(rmg_ram *ram)
{
    if (!ram)
        return;
    rmg_ram_stop_threads(ram);
    munmap((void *)(uintptr_t)ram->words, ram->mapped);
    free(ram->frames);
    free(ram->remark);
    free(ram);
}

rmg_target rmg_ram_target(rmg_ram *ram)
{
    const rmg_target target = {&ram_bus, ram, UINT64_MAX};

    return target;
}

uint64_t rmg_ram_bytes(const rmg_ram *ram)
{
    return ram->count * sizeof *ram->words;
}

unsigned rmg_ram_threads(const rmg_ram *ram)
{
    return ram->threads;
}

volatile uint64_t *rmg_ram_words(rmg_ram *ram)
{
    return ram->words;
}

bool rmg_ram_flushes(const rmg_ram *ram)
{
    return ram->flushes;
}

char *rmg_ram_caveat(const rmg_ram *ram)
{
    char *result = malloc(900);

    if (!result)
        return NULL;
    snprintf(result, 900,
             "%s A second read of a word in the same element, and a read after a write in it, come "
             "from the cache, and the cache writes back in its own order: what explain says about "
             "read-after-write and read-after-read faults (RDF, DRDF, CFrd, CFdrd, SOF, WDF, CFwd) "
             "and of the order of writes (CFin, CFid) does not hold here.%s",
             ram->flushes ? "Cache lines are flushed between elements, so that the first read of "
                            "each element comes from memory."
                          : "Cache lines are not flushed: what fits in the cache is not read from "
                            "memory at all.",
             ram->threads > 1 ? " The threads run side by side: faults between words of different "
                                "parts of a stretch are not looked for in order."
                              : "");
    return result;
}
