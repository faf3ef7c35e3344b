/* A peer at the other end of a pseudo terminal: takes lines, answers them as a test wants, spoils
 * what the test says. */
#ifndef RMG_TESTS_PEER_H
#define RMG_TESTS_PEER_H

#include <glib.h>
#include <stdbool.h>

/* What is done to the n-th byte that passes, counted over both ways from 1. */
typedef struct spoil {
    unsigned at;
    enum { SPOIL_LOSE, SPOIL_DOUBLE, SPOIL_CHANGE } how;
} spoil;

typedef struct peer {
    char name[64]; /* of the device that a stream opens */
    /* Takes a byte that arrived, and sends what it likes; in the peer's thread. */
    void (*take)(struct peer *peer, char byte);
    void *context;
    const spoil *spoils;
    size_t spoil_count;
    unsigned passed; /* bytes, both ways */
    int outer, inner;
    bool ends;
    GThread *thread;
} peer;

void peer_start(peer *peer);
void peer_send(peer *peer, const char *text);
void peer_end(peer *peer);

#endif
