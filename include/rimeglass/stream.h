/* Streams: bytes to and from somewhere. A serial line, a TCP connection, the pipes of a program, a
 * file. Every wait has an end, and a signal ends it early. POSIX; serial speeds of any value need
 * Linux.
 *
 * Names
 *   DEVICE[,baud=N][,frame=8N1][,flow=none|xon-xoff|rts-cts]   a serial device or pseudo terminal
 *   HOST:PORT, [IPV6]:PORT                                     a TCP connection
 *   run:COMMAND                                                a program, by the shell
 *   -                                                          standard input and output
 *   FILE                                                       a file, read only
 * Of a device the standard is 9600 baud, 8N1, no flow control; baud=find is for
 * rmg_stream_find_speed. */
#ifndef RIMEGLASS_STREAM_H
#define RIMEGLASS_STREAM_H

#include "types.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A way on which bytes come and go. */
typedef struct rmg_stream rmg_stream;

/* What it is. */
typedef enum rmg_stream_kind {
    RMG_STREAM_SERIAL,
    RMG_STREAM_TCP,
    RMG_STREAM_PROGRAM,
    RMG_STREAM_STANDARD, /* standard input and output */
    RMG_STREAM_FILE
} rmg_stream_kind;

/* What is on a serial line between start bit and stop bit. */
typedef struct rmg_frame {
    uint8_t data_bits; /* 7 or 8 */
    char parity;       /* 'N', 'E' or 'O' */
    uint8_t stop_bits; /* 1 or 2 */
} rmg_frame;

#define RMG_STREAM_WHY 320u /* bytes of a message */

/* What a name names, without opening it; why[RMG_STREAM_WHY] says what is wrong with it, and false.
 * A name that could be a file is one. */
bool rmg_stream_kind_of(const char *name, rmg_stream_kind *kind, char *why);

/* Is it the name of a stream that asks and is answered: a device, a connection or a program? */
bool rmg_stream_is_two_way(const char *name);

/* Opens it. RMG_ERR_ARGUMENT: a name as above was expected; RMG_ERR_FILE: it cannot be opened.
 * `why` says what is wrong, and what could be done, in one sentence without a full stop; *stream is
 * NULL then. A TCP connection has `wait_ms` to come about. */
rmg_status rmg_stream_open(const char *name, uint32_t wait_ms, rmg_stream **stream, char *why);

/* Gives a device back its settings, ends a program that still runs. NULL is allowed. */
void rmg_stream_close(rmg_stream *stream);

/* What an open stream is. */
rmg_stream_kind rmg_stream_kind_is(const rmg_stream *stream);

/* Takes what is there, at most `room` bytes, and waits for it at most `wait_ms`. *got is 0 where
 * nothing came, where a signal arrived, and at the end, which rmg_stream_ended tells.
 * RMG_ERR_PORT_LOST: it went away; rmg_stream_why says how. */
rmg_status rmg_stream_read(rmg_stream *stream, void *bytes, size_t room, uint32_t wait_ms,
                           size_t *got);
bool rmg_stream_ended(const rmg_stream *stream);

/* `stops` is asked before each wait of a read; true ends it as a signal would. A signal that
 * arrives just before a wait does not end it; what its handler noted does. NULL: nobody is asked.
 */
void rmg_stream_stop_when(rmg_stream *stream, bool (*stops)(void *context), void *context);

/* Sends all of it within `wait_ms`. RMG_ERR_CANCELLED: the time was up, or a signal arrived, after
 * *sent bytes; RMG_ERR_PORT_LOST, where the other end went away (no SIGPIPE comes of it);
 * RMG_ERR_PORT_CANNOT: a file takes nothing. */
rmg_status rmg_stream_write(rmg_stream *stream, const void *bytes, size_t count, uint32_t wait_ms,
                            size_t *sent);

/* Why a stream was lost, or how its program ended where that was no success: one sentence part;
 * "" where there is nothing to say. */
const char *rmg_stream_why(const rmg_stream *stream);

/* Of a serial line: its speed in baud and frame, and others. RMG_ERR_PORT_CANNOT: it is none, or
 * the device does not do that. What has arrived and was not read is dropped. */
rmg_status rmg_stream_get_line(const rmg_stream *stream, uint32_t *baud, rmg_frame *frame);
rmg_status rmg_stream_set_line(rmg_stream *stream, uint32_t baud, rmg_frame frame);

/* Was baud=find asked for? */
bool rmg_stream_wants_speed(const rmg_stream *stream);

/* How much of these bytes is text, 0 to 1: printable ASCII, line ends, tabs, escapes. And with the
 * eighth bit taken for parity: *parity 'E', 'O', or 'N' where that is none. */
double rmg_text_share(const unsigned char *bytes, size_t count);
double rmg_text_share_parity(const unsigned char *bytes, size_t count, char *parity);

/* Tries the usual speeds, `wait_ms` each, until what arrives is text (9 in 10 bytes of 16 or more),
 * and leaves the line there. `go_on` (NULL: yes) is asked at least 10 times a second and told the
 * speed that is tried. RMG_ERR_RANGE: at none; *heard is how many bytes arrived in all.
 * RMG_ERR_CANCELLED: by go_on. */
rmg_status rmg_stream_find_speed(rmg_stream *stream, uint32_t wait_ms,
                                 bool (*go_on)(void *context, uint32_t baud), void *context,
                                 uint64_t *heard);

#ifdef __cplusplus
}
#endif
#endif
