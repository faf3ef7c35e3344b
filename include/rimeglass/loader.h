/* March elements by a routine that is put into the target's own memory (upload.h): the memory is
 * proven, the routine written and read back, started, and what it found is taken from there. How it
 * is started, a prompt or a debug link knows. */
#ifndef RIMEGLASS_LOADER_H
#define RIMEGLASS_LOADER_H

#include "board.h"
#include "upload.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What lies in the target, and the way to it. */
typedef struct rmg_loader rmg_loader;

#define RMG_LOADER_WORDS 4096u /* that it goes over at once, where nothing else was said */

/* How the target is reached. Its parts must outlive the loader. */
typedef struct rmg_loader_way {
    const rmg_bus *bus; /* one access at a time; blocks are used for reading, where it has them */
    void *context;      /* of the port, and of the functions below */
    const rmg_board *board; /* that is reached so */
    /* Starts what lies at a byte address, and waits for its end. Where it ends so, `end` is the
     * address of its breakpoint, and `stack` the first above room for a stack. */
    rmg_status (*start)(void *context, uint32_t at, uint32_t end, uint32_t stack);
    /* Keeps what went wrong, as a sentence part; returns the status. */
    rmg_status (*fail)(void *context, rmg_status status, const char *what);
} rmg_loader_way;

/* Where the routine may lie, and for which processor. */
typedef struct rmg_loader_place {
    rmg_testrom_processor processor; /* that runs it */
    rmg_upload_end ends;             /* how it gives back what it was given */
    rmg_range memory;    /* in words, as the board counts; 1024 bytes of it are used at most */
    uint8_t zero_page;   /* 6502: two bytes there */
    unsigned words;      /* that it goes over at once, at most; 1..RMG_UPLOAD_WORDS */
    const char *told_in; /* where all this was told, for messages: "load-and-run" */
} rmg_loader_place;

/* The byte address of a word, as the processor counts. */
uint64_t rmg_loader_byte_address(const rmg_board *board, rmg_addr word);

/* Accesses that rmg_loader_begin makes, about. */
uint64_t rmg_loader_accesses(const rmg_board *board, const rmg_loader_place *place);

/* Proves the memory by March C-, and that no write elsewhere reaches it, one access at a time.
 * `within`: all that will be written with the routine, or NULL: all RAM. *memory: what it needs.
 * *loader: to be freed with rmg_loader_free. RMG_ERR_PORT_CANNOT: it cannot be, the way's `fail`
 * was told why; or what an access gave. */
rmg_status rmg_loader_begin(const rmg_loader_way *way, const rmg_loader_place *place,
                            const rmg_range *within, rmg_loader **loader, rmg_range *memory);
void rmg_loader_free(rmg_loader *loader); /* NULL is allowed */

/* The port with march elements run by the routine; its context is the loader. Other accesses go the
 * way's. */
const rmg_bus *rmg_loader_bus(const rmg_loader *loader);

#ifdef __cplusplus
}
#endif
#endif
