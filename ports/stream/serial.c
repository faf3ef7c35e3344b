/* Serial lines: devices and pseudo terminals. */
#include "internal.h"

#include <errno.h>
#include <fcntl.h>
#include <grp.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <termios.h>
#include <unistd.h>

#define LEAST_BAUD 50u
#define MOST_BAUD  4000000u

static bool read_frame(const char *text, rmg_frame *frame)
{
    if (strlen(text) != 3 || (text[0] != '7' && text[0] != '8') || !strchr("NEOneo", text[1]) ||
        (text[2] != '1' && text[2] != '2'))
        return false;
    frame->data_bits = (uint8_t)(text[0] - '0');
    frame->parity = (char)(text[1] >= 'a' ? text[1] - 'a' + 'A' : text[1]);
    frame->stop_bits = (uint8_t)(text[2] - '0');
    return true;
}

static bool read_baud(rmg_stream *s, const char *text)
{
    char *end;
    const unsigned long baud = strtoul(text, &end, 10);

    s->find_speed = strcmp(text, "find") == 0;
    if (s->find_speed)
        return true;
    s->baud = (uint32_t)baud;
    return *text >= '0' && *text <= '9' && !*end && baud >= LEAST_BAUD && baud <= MOST_BAUD;
}

static bool read_flow(rmg_stream *s, const char *text)
{
    static const char *const words[] = {"none", "xon-xoff", "rts-cts"};

    for (unsigned i = 0; i < 3; i++)
        if (strcmp(text, words[i]) == 0) {
            s->flow = (stream_flow)i;
            return true;
        }
    return false;
}

rmg_status rmg_serial_options(rmg_stream *s, char *options, char *why)
{
    s->baud = 9600;
    s->frame = (rmg_frame){8, 'N', 1};
    s->flow = FLOW_NONE;
    while (options && *options) {
        char *next = strchr(options, ',');
        const char *expected = NULL;

        if (next)
            *next++ = '\0';
        if (strncmp(options, "baud=", 5) == 0)
            expected = read_baud(s, options + 5) ? NULL : "baud=50 to baud=4000000, or baud=find";
        else if (strncmp(options, "frame=", 6) == 0)
            expected = read_frame(options + 6, &s->frame)
                           ? NULL
                           : "data bits, parity, stop bits, like frame=8N1 or frame=7E1";
        else if (strncmp(options, "flow=", 5) == 0)
            expected =
                read_flow(s, options + 5) ? NULL : "flow=none, flow=xon-xoff or flow=rts-cts";
        else
            expected = "baud=, frame= or flow=";
        if (expected) {
            rmg_stream_say(why, "found \"%s\", expected %s", options, expected);
            return RMG_ERR_ARGUMENT;
        }
        options = next;
    }
    return RMG_OK;
}

static void cannot_open(const char *device, char *why)
{
    const int error = errno;
    struct stat about;
    const struct group *group = stat(device, &about) == 0 ? getgrgid(about.st_gid) : NULL;

    if (error == EACCES && group)
        rmg_stream_say(why, "%s: permission denied; users of the group %s may open it", device,
                       group->gr_name);
    else
        rmg_stream_say(why, "%s: %s", device, strerror(error));
}

rmg_status rmg_serial_open(rmg_stream *s, const char *device, char *why)
{
    struct termios *before = malloc(sizeof *before);
    rmg_frame frame = s->frame;

    s->in = s->out = open(device, O_RDWR | O_NOCTTY | O_NONBLOCK | O_CLOEXEC);
    if (s->in < 0) {
        cannot_open(device, why);
        free(before);
        return RMG_ERR_FILE;
    }
    if (!before || tcgetattr(s->in, before) != 0) {
        rmg_stream_say(why, "%s: it is no serial line", device);
        free(before);
        return RMG_ERR_FILE;
    }
    s->before = before;
    if (rmg_stream_set_line(s, s->baud, frame) != RMG_OK) {
        rmg_stream_say(why, "%s: it does not do %u baud with frame %u%c%u", device, s->baud,
                       frame.data_bits, frame.parity, frame.stop_bits);
        return RMG_ERR_FILE;
    }
    return RMG_OK;
}

void rmg_serial_close(rmg_stream *s)
{
    if (s->before && s->in >= 0)
        tcsetattr(s->in, TCSANOW, s->before);
    free(s->before);
}

rmg_status rmg_stream_get_line(const rmg_stream *s, uint32_t *baud, rmg_frame *frame)
{
    if (s->kind != RMG_STREAM_SERIAL)
        return RMG_ERR_PORT_CANNOT;
    *baud = s->baud;
    *frame = s->frame;
    return RMG_OK;
}

rmg_status rmg_stream_set_line(rmg_stream *s, uint32_t baud, rmg_frame frame)
{
    uint32_t set;

    if (s->kind != RMG_STREAM_SERIAL)
        return RMG_ERR_PORT_CANNOT;
    s->frame = frame;
    /* a line takes speeds that are 3 % off, and no more */
    if (!rmg_serial_set(s->in, baud, frame, s->flow, &set) || set > baud + baud / 33u ||
        set < baud - baud / 33u)
        return RMG_ERR_PORT_CANNOT;
    s->baud = baud;
    tcflush(s->in, TCIFLUSH);
    return RMG_OK;
}
