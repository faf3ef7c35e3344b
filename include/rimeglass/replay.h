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

/* Replays what the suspects of a run can be, each alone and then all together, and writes it into
 * them: their `replays`, rivals, reasons and confidence. `seconds`: how long it may take, about; 0:
 * as long as it takes. `go_on` (NULL: always) is asked before each replay; false: the rest stays
 * untried. Nothing is done for a run of memory without sockets, nor for one of more passes than are
 * run again that did not fail alike. RMG_ERR_MEMORY: there was no memory to go on; what stands in
 * the suspects is not to be used. */
rmg_status rmg_replay(const rmg_run *run, rmg_suspects *suspects, double seconds,
                      bool (*go_on)(void *context, double share), void *context);

#ifdef __cplusplus
}
#endif
#endif
