/* Inside the room: the conversation with a far end. */
#ifndef RMG_GDB_INTERNAL_H
#define RMG_GDB_INTERNAL_H

#include "rimeglass/gdb.h"

#define GDB_WAIT_MS 2000u /* for an answer */
#define GDB_TRIES   3u    /* of a packet whose checksum is wrong, at one end or the other */
#define GDB_MOST    4096u /* bytes that we send or take in one */
#define SHORT_BUF   512u

struct rmg_gdb {
    rmg_stream *stream;
    rmg_gdb_words words;
    size_t bytes;  /* of a word */
    size_t packet; /* bytes of a packet that the far end takes */
    bool acks;
    double speed;
    bool heard; /* anything, since it was asked */
    char why[RMG_STREAM_WHY];
    unsigned char in[SHORT_BUF]; /* what arrived and was not looked at yet */
    size_t in_count, in_next;
    char answer[GDB_MOST + 1u]; /* the last packet, without its frame */
    size_t answer_size;
};

double rmg_gdb_now_s(void);

/* Keeps why; returns the status. */
rmg_status rmg_gdb_lost(rmg_gdb *g, rmg_status status, const char *why);

/* Bytes as they are, outside of a packet; a packet; the next one that arrives. RMG_ERR_CONTENT: one
 * of both was damaged. */
rmg_status rmg_gdb_send(rmg_gdb *g, const void *bytes, size_t count);
rmg_status rmg_gdb_send_packet(rmg_gdb *g, const char *body);
rmg_status rmg_gdb_get_packet(rmg_gdb *g, double deadline);

/* Sends a packet and takes the answer that is meant for it. `state`: what is said unasked is one.
 */
rmg_status rmg_gdb_ask(rmg_gdb *g, const char *body, bool state);

/* "E01", or a text after "E." */
bool rmg_gdb_is_error(const char *answer);

/* A digit of a hexadecimal number; -1: it is none. */
int rmg_gdb_digit(char c);

#endif
