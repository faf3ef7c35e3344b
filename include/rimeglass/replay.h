/* Replay: each fault that a suspect can be is put into the simulated board, the same plan is run
 * again, and the failures are compared with the measured ones: address, bit and direction. What the
 * memory came up with is not known to it, nor the noise; where a fault reads that (cells that are
 * never written) the direction does not count. */
#ifndef RIMEGLASS_REPLAY_H
#define RIMEGLASS_REPLAY_H

#include "suspect.h"

#ifdef __cplusplus
extern "C" {
#endif

#define RMG_REPLAY_PASSES 2u /* of the plan that are run again, at most */

#define RMG_REPLAY_CHIPWISE 10u /* accesses that one access counts as which goes chip by chip */
#define RMG_REPLAY_WORK     UINT64_C(6000000000) /* what the tool does: about a minute */

/* Replays what the suspects of a run can be, each alone and then all together, and writes it into
 * them: their `replays`, rivals, reasons and confidence. `work`: how much of it may be done, in
 * simulated accesses, of which one that goes chip by chip counts as RMG_REPLAY_CHIPWISE; the same
 * on every machine. 0: as much as it takes. `go_on` (NULL: always) is asked before each replay;
 * false: the rest stays untried. Nothing is done for a run of memory without sockets, nor for one
 * of more passes than are run again that did not fail alike. RMG_ERR_MEMORY: there was no memory to
 * go on; what stands in the suspects is not to be used. */
rmg_status rmg_replay(const rmg_run *run, rmg_suspects *suspects, uint64_t work,
                      bool (*go_on)(void *context, double share), void *context);

#ifdef __cplusplus
}
#endif
#endif
