/* Inside the room: findings that are alike, and sets of sockets. */
#ifndef RMG_HOST_DIAGNOSE_SHARE_H
#define RMG_HOST_DIAGNOSE_SHARE_H

#include <string.h>

#include "internal.h"

typedef struct socket_set {
    uint64_t bits[(RMG_PLACE_RULES + 63u) / 64u];
} socket_set;

static inline void rmg_set_include(socket_set *set, uint16_t socket)
{
    if (socket < RMG_PLACE_RULES)
        set->bits[socket >> 6] |= (uint64_t)1 << (socket & 63u);
}

static inline bool rmg_set_holds(const socket_set *set, uint16_t socket)
{
    return socket < RMG_PLACE_RULES && (set->bits[socket >> 6] >> (socket & 63u) & 1u);
}

static inline void rmg_set_join(socket_set *set, const socket_set *with)
{
    for (size_t n = 0; n < G_N_ELEMENTS(set->bits); n++)
        set->bits[n] |= with->bits[n];
}

static inline bool rmg_sets_equal(const socket_set *a, const socket_set *b)
{
    return memcmp(a, b, sizeof *a) == 0;
}

/* sets.c: the sockets at and beyond a point that were looked at. */
socket_set rmg_sockets_beyond(const rmg_run *run, const rmg_line *line, uint16_t point);
/* The sockets that a finding is about; the bank that all sockets of the set are in, or
 * RMG_NO_BANK. */
socket_set rmg_sockets_of(const rmg_run *run, const rmg_finding *f);
uint8_t rmg_one_bank(const rmg_run *run, const socket_set *set);
/* ... the bits of the chips in a bank. */
rmg_word rmg_bits_of_bank(const rmg_run *run, uint8_t bank);
/* ... can the data of both banks be on the same lines? Not where they are traced to be lanes
 * of a wider bus. */
bool rmg_one_bus(const rmg_board *board, uint8_t a, uint8_t b);

/* share.c: do both say that the same line does not reach chips? */
bool rmg_findings_alike(const rmg_finding *a, const rmg_finding *b);
/* Joins chips that answer on none of their pins: before branches, which would take one bit of them.
 */
void rmg_join_silent(const rmg_run *run, GArray *list);
/* Joins findings that are alike, at sockets that no traced line joins. */
void rmg_join_shared(const rmg_run *run, GArray *list);
/* untested.c: a chip that was not tested and spoils the reads of others. */
void rmg_find_untested_drivers(const rmg_run *run, GArray *list);

/* own_way.c: joins a data line that is wrong in every bank, not alike; after the others. */
void rmg_join_own_ways(const rmg_run *run, GArray *list);
/* ... marks chips of a bank that fails as a whole as well: one fault may do both. */
void rmg_mark_followers(const rmg_run *run, GArray *list);

/* hidden.c: marks findings at a socket that the whole line would give as well. */
void rmg_mark_hidden(const rmg_run *run, GArray *list);

/* same_look.c: was the memory left alone before this step of a pass (rmg_fail_part.first), with
 * refresh as the board gives it? Chips of a bank, or with RMG_NO_BANK of all, that were tested. */
bool rmg_after_hold(const rmg_run *run, uint64_t at);
unsigned rmg_chips_of_bank(const rmg_run *run, uint8_t bank);
/* together.c: joins banks that lose as many words, left alone; cells in most chips of a bank. */
void rmg_join_losses(const rmg_run *run, GArray *list);
void rmg_join_weak(const rmg_run *run, GArray *list);
/* unchecked.c: cells of banks whose lines were not checked become dead bits of their socket, where
 * all of them read one level. */
void rmg_find_dead_bits(const rmg_run *run, GArray *list);

#endif
