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
RMG_NEXT(never_written);
RMG_NEXT(stale);
RMG_NEXT(bank_never_written);
RMG_NEXT(selects);
RMG_NEXT(dragged);
RMG_NEXT(spread);
RMG_NEXT(silent);
RMG_NEXT(shared);
RMG_NEXT(now_and_then);
RMG_NEXT(reported);
RMG_NEXT(reported_line);
RMG_NEXT(reported_bit);

#endif
