/* Inside the room: kinds of finding, a row each. */
#ifndef RMG_HOST_DIAGNOSE_KINDS_H
#define RMG_HOST_DIAGNOSE_KINDS_H

#include "internal.h"

/* next.c: what looks the same as a finding of that kind, and steps. */
#define RMG_NEXT(name) void rmg_next_##name(wording *w)
RMG_NEXT(data_at_socket);
RMG_NEXT(address_at_socket);
RMG_NEXT(cells);
RMG_NEXT(data_line);
RMG_NEXT(address_line);
RMG_NEXT(branch);
RMG_NEXT(touching);
RMG_NEXT(noisy);
RMG_NEXT(never_written);
RMG_NEXT(stale);
RMG_NEXT(bank_never_written);
RMG_NEXT(selects);
RMG_NEXT(dragged);
RMG_NEXT(spread);
RMG_NEXT(silent);
RMG_NEXT(shared);
RMG_NEXT(same_words);
RMG_NEXT(now_and_then);
RMG_NEXT(reported);
RMG_NEXT(reported_line);
RMG_NEXT(reported_bit);

/* next.c: a cause that looks the same from here; that each socket has a fault of its own; the step
 * that settles it. */
void rmg_next_rival(wording *w, rmg_cause cause, rmg_said said);
void rmg_next_each_of_these(wording *w);
void rmg_next_settle(wording *w, rmg_said said);
/* ... that an address line without effect touches one that stays at one level in all words that
 * were tested, though not in all RAM. */
void rmg_next_still(wording *w);
/* ... that chips are taken off the data line one by one, as they can be. */
void rmg_next_pull_or_lift(wording *w);
/* Would an empty socket, or an output that does not reach the bus, read like this? Does something
 * pull undriven lines to a level, as far as is known? */
bool rmg_next_reads_undriven(const wording *w);
bool rmg_next_may_be_pulled(const wording *w);
/* The track, or where the line is traced the very stretch of it. */
rmg_said rmg_next_track(const wording *w, rmg_said untraced);

#endif
