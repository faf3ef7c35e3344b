/* What benchmarks of the diagnosis print of one case. */
#ifndef RMG_BENCH_TELL_H
#define RMG_BENCH_TELL_H

#include "rimeglass/suspect.h"

/* Each suspect, with its words: how sure, what, why, and the first replays. */
void bench_tell_suspects(const rmg_suspects *suspects);

#endif
