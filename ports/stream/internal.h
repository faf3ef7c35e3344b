/* Inside the streams: one of them, and its kinds. */
#ifndef RMG_PORTS_STREAM_INTERNAL_H
#define RMG_PORTS_STREAM_INTERNAL_H

#include <sys/types.h>

#include "rimeglass/stream.h"

typedef enum stream_flow { FLOW_NONE, FLOW_XON_XOFF, FLOW_RTS_CTS } stream_flow;

struct rmg_stream {
    rmg_stream_kind kind;
    int in, out;     /* descriptors; -1: none */
    bool ended;      /* nothing more comes */
    bool find_speed; /* asked for by baud=find */
    uint32_t baud;   /* of a serial line */
    rmg_frame frame;
    stream_flow flow;
    void *before; /* its settings when it was opened */
    pid_t program;
    bool (*stops)(void *context);
    void *stops_context;
    char why[RMG_STREAM_WHY];
};

/* basic.c: writes a message into why[RMG_STREAM_WHY]. */
void rmg_stream_say(char *why, const char *format, ...) __attribute__((format(printf, 2, 3)));

/* serial.c: the options after a device's name; opening; settings given back. */
rmg_status rmg_serial_options(rmg_stream *s, char *options, char *why);
rmg_status rmg_serial_open(rmg_stream *s, const char *device, char *why);
void rmg_serial_close(rmg_stream *s);

/* line.c: raw bytes in this frame at any speed, and the speed that the device made of it; false: it
 * does not do that. */
bool rmg_serial_set(int fd, uint32_t baud, rmg_frame frame, stream_flow flow, uint32_t *set);

/* reach.c */
rmg_status rmg_tcp_open(rmg_stream *s, const char *host, const char *port, uint32_t wait_ms,
                        char *why);
rmg_status rmg_program_open(rmg_stream *s, const char *command, char *why);
void rmg_program_close(rmg_stream *s);
/* How it ended, once it has; waits at most so long for that. */
void rmg_program_ended(rmg_stream *s, uint32_t wait_ms);

/* basic.c: milliseconds of a clock that only goes forward. */
int64_t rmg_stream_now_ms(void);

#endif
