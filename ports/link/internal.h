/* Inside the near half of the link: lines asked and answered, apart from what is in them. */
#ifndef RMG_PORTS_LINK_INTERNAL_H
#define RMG_PORTS_LINK_INTERNAL_H

#include "rimeglass/far_end.h"
#include "rimeglass/link.h"

#define LINK_LINE   65536u /* bytes of the longest answer that is taken */
#define LINK_ASK    400u   /* bytes of the longest request */
#define LINK_WAIT_S 3.0    /* for an answer, whatever is asked for again */

struct rmg_link {
    rmg_stream *stream;
    rmg_bus bus, blocks;
    rmg_word word; /* the far end's: ones at its bits */
    uint64_t last; /* its last address */
    size_t line;   /* longest line that it takes */
    unsigned address_digits, word_digits;
    bool element, interrupted;
    unsigned check; /* digits of its lines' check: 0, 4 or 8 */
    char name[64];
    char abilities[128]; /* " can=..." of hello */
    char refused[64];    /* reason of the last "no" */
    bool greeting;       /* hello is asked */
    char plain[200];     /* an answer to it that came without a check */
    char why[RMG_STREAM_WHY];
    double speed;
    double slowest; /* seconds of the slowest answer lately, beyond what it was to take */
    double took;    /* seconds from the last sending of a request to its answer */
    uint64_t again, lines, bytes; /* sent and taken: asked for again, lines, bytes of all */
    uint64_t waking;              /* of `again`: hellos to a far end that was not there yet */

    unsigned number; /* of the latest request */
    unsigned words;  /* of an element that are asked for at once */
    double word_s;   /* seconds that a word of an element takes, about; 0: not known */

    unsigned char in[4096]; /* what arrived and was not looked at yet */
    size_t in_count, in_next;
    char answer[LINK_LINE]; /* the line that is taken; then its part behind "NN ok " or "NN " */
    size_t got;
    bool too_long;
};

double rmg_link_now(void);

/* The value of a hex digit, of either case; -1: it is none. */
static inline int link_digit(char c)
{
    return c >= '0' && c <= '9'   ? c - '0'
           : c >= 'A' && c <= 'F' ? c - 'A' + 10
           : c >= 'a' && c <= 'f' ? c - 'a' + 10
                                  : -1;
}

/* Asks, again where a line is spoilt, until the answer of that number is there: link->answer is
 * what stands behind "ok". `takes_s`: what the far end needs to carry it out. RMG_ERR_PORT: it
 * refuses; RMG_ERR_PORT_LOST; RMG_ERR_CANCELLED: a signal, where `stops`. */
rmg_status rmg_link_ask(rmg_link *link, const char *request, double takes_s, bool stops);

/* Characters that a line should have, so that most arrive whole: fewer where many are spoilt, and
 * where too few have come to know. */
size_t rmg_link_length(const rmg_link *link);

rmg_status rmg_link_element(void *context, rmg_element_call *call);

#endif
