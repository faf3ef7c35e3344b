/* A debug link: a memory behind a stub, probe or emulator that speaks the remote protocol of GDB
 * (GDB manual, appendix "GDB Remote Serial Protocol"), as a bus port. Single reads and writes of
 * one word each; blocks for reading chips. */
#ifndef RIMEGLASS_GDB_H
#define RIMEGLASS_GDB_H

#include "bus.h"
#include "stream.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A connection to a debugger's far end. */
typedef struct rmg_gdb rmg_gdb;

/* How words lie in the far end's memory. */
typedef struct rmg_gdb_words {
    uint8_t bits;       /* of a word: 1 to 64; it has as many whole bytes as they need */
    uint8_t byte_shift; /* a word's byte address is its address shifted left by this */
    bool high_first;    /* the byte with the highest bits comes first */
} rmg_gdb_words;

/* Speaks to the far end on a stream that is open, which it takes over, also where it fails.
 * RMG_ERR_PORT_LOST: nothing there answers, or not in this protocol; why[RMG_STREAM_WHY] says more.
 * Close with rmg_gdb_close. */
rmg_status rmg_gdb_open(rmg_stream *stream, const rmg_gdb_words *words, rmg_gdb **gdb, char *why);
void rmg_gdb_close(rmg_gdb *gdb); /* NULL is allowed */

/* The port; its context is the rmg_gdb. An error that the far end answers is RMG_ERR_PORT, silence
 * RMG_ERR_PORT_LOST, a signal while it waits RMG_ERR_CANCELLED. */
extern const rmg_bus rmg_gdb_bus;
/* The same with march elements by blocks (rmg_element_by_blocks). */
extern const rmg_bus rmg_gdb_blocks_bus;

/* Accesses a second that the link allows, measured as it was opened. */
double rmg_gdb_speed(const rmg_gdb *gdb);

/* What went wrong last, as a sentence part; "" nothing. */
const char *rmg_gdb_why(const rmg_gdb *gdb);

#ifdef __cplusplus
}
#endif
#endif
