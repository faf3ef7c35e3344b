/* The near half of the link (docs/link.md): a memory behind a far end that speaks it, as a bus
 * port. What a noisy line spoils is asked for again; nothing is carried out twice. */
#ifndef RIMEGLASS_LINK_H
#define RIMEGLASS_LINK_H

#include "bus.h"
#include "stream.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A far end that was reached. */
typedef struct rmg_link rmg_link;

/* Says hello on a stream that is open, which it takes over, also where it fails. `mask` is the
 * board's word, which the far end's must hold. RMG_ERR_PORT_LOST: nothing there answers, or nothing
 * that is this link; RMG_ERR_PORT_CANNOT: its words are too narrow; why[RMG_STREAM_WHY] says more.
 * Close with rmg_link_close. */
rmg_status rmg_link_open(rmg_stream *stream, rmg_word mask, rmg_link **link, char *why);
void rmg_link_close(rmg_link *link); /* NULL is allowed */

/* The port, with the functions that the far end has; its context is the rmg_link. An access that
 * the far end refuses is RMG_ERR_PORT; silence, nonsense and a far end that started anew are
 * RMG_ERR_PORT_LOST, within three seconds; a signal while it waits is RMG_ERR_CANCELLED. */
const rmg_bus *rmg_link_bus(const rmg_link *link);
/* The same with march elements by blocks (rmg_element_by_blocks); NULL: it has elements of its own,
 * or no blocks. */
const rmg_bus *rmg_link_blocks_bus(const rmg_link *link);

/* How the far end calls itself; whether it has march elements of its own; whether lines carry a
 * check. */
const char *rmg_link_name(const rmg_link *link);
bool rmg_link_has_elements(const rmg_link *link);
bool rmg_link_is_checked(const rmg_link *link);

/* Single accesses a second that it allows, measured as it was opened. */
double rmg_link_speed(const rmg_link *link);

/* Lines that were asked for again, of how many. */
void rmg_link_counts(const rmg_link *link, uint64_t *again, uint64_t *lines);

/* Says hello again, because the far end said that its memory is another one now; `mask` and errors
 * as of rmg_link_open. */
rmg_status rmg_link_greet(rmg_link *link, rmg_word mask);

/* Has it this ability? Asks for an intent of its own, "power on", which takes `takes_s` to carry
 * out; what stands behind "ok" comes into answer[room], cut off where it is too long. Errors as of
 * the port's accesses; RMG_ERR_PORT: it refuses, and rmg_link_refused is its reason. */
bool rmg_link_can(const rmg_link *link, const char *ability);
rmg_status rmg_link_tell(rmg_link *link, const char *intent, double takes_s, char *answer,
                         size_t room);
const char *rmg_link_refused(const rmg_link *link);

/* What went wrong last, as a sentence part; "" nothing. */
const char *rmg_link_why(const rmg_link *link);

#ifdef __cplusplus
}
#endif
#endif
