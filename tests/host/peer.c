#include "peer.h"

#include <fcntl.h>
#include <poll.h>
#include <stdlib.h>
#include <string.h>
#include <termios.h>
#include <unistd.h>

#include "../check.h"

/* The bytes that a byte becomes on its way. */
static size_t on_its_way(peer *p, char byte, char *out)
{
    p->passed++;
    out[0] = out[1] = byte;
    for (size_t i = 0; i < p->spoil_count; i++)
        if (p->spoils[i].at == p->passed) {
            out[0] = p->spoils[i].how == SPOIL_CHANGE ? (char)(byte ^ 4) : byte;
            return p->spoils[i].how == SPOIL_LOSE ? 0 : p->spoils[i].how == SPOIL_DOUBLE ? 2 : 1;
        }
    return 1;
}

void peer_send(peer *p, const char *text)
{
    for (; *text; text++) {
        char out[2];
        const size_t count = on_its_way(p, *text, out);

        if (count && write(p->outer, out, count) < 0)
            return;
    }
}

static gpointer serve(gpointer data)
{
    peer *p = data;

    while (!p->ends) {
        struct pollfd in = {p->outer, POLLIN, 0};
        char byte, out[2];

        if (poll(&in, 1, 20) <= 0 || read(p->outer, &byte, 1) != 1)
            continue;
        for (size_t i = 0, count = on_its_way(p, byte, out); i < count; i++)
            p->take(p, out[i]);
    }
    return NULL;
}

void peer_start(peer *p)
{
    struct termios raw;

    p->outer = posix_openpt(O_RDWR | O_NOCTTY);
    CHECK(p->outer >= 0 && grantpt(p->outer) == 0 && unlockpt(p->outer) == 0 &&
              ptsname_r(p->outer, p->name, sizeof p->name) == 0,
          "a pseudo terminal");
    p->inner = open(p->name, O_RDWR | O_NOCTTY); /* held open: a stream may come and go */
    tcgetattr(p->inner, &raw);
    cfmakeraw(&raw);
    tcsetattr(p->inner, TCSANOW, &raw);
    p->ends = false;
    p->passed = 0;
    p->thread = g_thread_new("peer", serve, p);
}

void peer_end(peer *p)
{
    p->ends = true;
    g_thread_join(p->thread);
    close(p->inner);
    close(p->outer);
}
