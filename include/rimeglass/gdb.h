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

/* A register as it is set before something is run: where it lies among the bytes that the far end
 * tells of all registers, and what it is to hold. */
typedef struct rmg_gdb_register {
    uint16_t offset; /* bytes */
    uint8_t bytes;   /* 1..4 */
    uint32_t value;  /* that it is to hold */
    uint32_t keeps;  /* bits that stay as they are */
} rmg_gdb_register;

/* Runs what lies in the far end's memory until it comes to a breakpoint, which is set for this and
 * taken away again; then all registers are as before. */
typedef struct rmg_gdb_run {
    const rmg_gdb_register *registers; /* [count], the program counter first */
    size_t count;
    size_t register_bytes; /* that the far end must tell at least */
    bool high_first;       /* of registers: the byte with the highest bits comes first */
    uint64_t end;          /* byte address of the breakpoint */
    unsigned end_bytes;    /* of the instruction there */
    uint32_t wait_ms;      /* how long it may take */
} rmg_gdb_run;

/* RMG_ERR_PORT: the far end refuses, rmg_gdb_why says what, or it was not over in time, and was
 * stopped. RMG_ERR_CANCELLED: a signal; it was stopped. Else as the port. */
rmg_status rmg_gdb_run_to(rmg_gdb *gdb, const rmg_gdb_run *run);

/* Keeps a sentence part for rmg_gdb_why; returns the status. */
rmg_status rmg_gdb_fail(rmg_gdb *gdb, rmg_status status, const char *what);

/* Accesses a second that the link allows, measured as it was opened. */
double rmg_gdb_speed(const rmg_gdb *gdb);

/* What went wrong last, as a sentence part; "" nothing. */
const char *rmg_gdb_why(const rmg_gdb *gdb);

#ifdef __cplusplus
}
#endif
#endif
