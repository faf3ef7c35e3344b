/* Facts that the technician found out by other means, and that the diagnosis takes as true. */
#ifndef RIMEGLASS_FACT_H
#define RIMEGLASS_FACT_H

#include "cause.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A stretch of a traced line that was measured: from the point before `point` to it, or, with
 * `part`, the part itself that the line passes at `point`. */
typedef struct rmg_sound {
    uint16_t line;
    uint16_t point;
    bool part;
} rmg_sound;

typedef struct rmg_facts {
    rmg_cause_table causes; /* how often each is the culprit */
    uint16_t *good;         /* [good_count]: sockets whose chip is known to be good */
    size_t good_count;
    rmg_sound *sound; /* [sound_count] */
    size_t sound_count;
} rmg_facts;

/* No facts, and the built-in table. To be freed with rmg_facts_end. */
void rmg_facts_begin(rmg_facts *facts);
void rmg_facts_end(rmg_facts *facts);

/* The chip in this socket is good: it was tested elsewhere, or is a known good one. RMG_ERR_RANGE:
 * the board has no such socket; *message, to be freed with rmg_text_free, says what it has. */
rmg_status rmg_facts_known_good(rmg_facts *facts, const rmg_board *board, const char *socket,
                                char **message);

/* Two points of a traced line, "U1.30-R1", are connected as they should be: measured. The parts
 * between them count as sound, those at the ends only as far as their legs are named.
 * RMG_ERR_RANGE: no line of the board has both; *message says what was expected. */
rmg_status rmg_facts_continuous(rmg_facts *facts, const rmg_board *board, const char *points,
                                char **message);

bool rmg_facts_chip_good(const rmg_facts *facts, uint16_t socket);
bool rmg_facts_sound(const rmg_facts *facts, uint16_t line, uint16_t point, bool part);

#ifdef __cplusplus
}
#endif
#endif
