/* Inside the host library: proposals for replay, and the board they are played on. */
#ifndef RMG_HOST_REPLAY_INTERNAL_H
#define RMG_HOST_REPLAY_INTERNAL_H

#include <glib.h>

#include "diagnose/internal.h"
#include "rimeglass/fault.h"
#include "rimeglass/replay.h"

#define PROPOSAL_FAULTS 64u
#define RMG_LARGE_BOARD                                                                            \
    (UINT64_C(1) << 20) /* words; above it not all is played for each proposal */

/* One way in which a suspect can come about: a few faults of the simulated board. */
typedef struct proposal {
    rmg_saying is;
    uint64_t causes;       /* that would show like this: RMG_CAUSE_BIT of each */
    bool vague;            /* what it reads is chance: which bits fail counts, not how or when */
    bool by_rows;          /* ... which rows */
    const rmg_rule *shows; /* the chip whose contents are read elsewhere: what it holds where it is
                              not tested is not known; or NULL */
    rmg_sim_fault *faults; /* [count], of `room`; the proposal's own */
    uint16_t count, room;
} proposal;

/* What came of a fault of two cells in part of the words, by what they come up with. */
typedef struct rmg_known_play {
    rmg_sim_fault fault; /* instead of the cell that did not fail: is it reached after the other? */
    bool second;         /* that cell is its second one */
    rmg_undriven undriven;
    uint64_t hold_ns;
    rmg_replayed results[4];
    unsigned played;      /* ones at those that were */
    uint8_t weighed;      /* contents of which is known: */
    unsigned worth_while; /* ones at those */
} rmg_known_play;

#define RMG_STATE_CELLS 8u /* of a proposal's faults, above which all contents are played */

/* What the cells of the faults hold, and what the faults remember. */
typedef struct rmg_cell_state {
    uint32_t words[2u * RMG_STATE_CELLS];
    rmg_sim_memory memories[RMG_STATE_CELLS];
} rmg_cell_state;

/* A board under simulation, for one proposal after another. */
typedef struct rmg_stage {
    const rmg_run *run; /* the measured one */
    rmg_sim_model model;
    void *memory;
    size_t room; /* how much of it may be touched */
    rmg_sim sim;
    bool on;
    bool starved; /* there was no memory for a play */
    bool sampled; /* in the last play a few words stood for all */
    unsigned plays;
    unsigned proofs; /* of a suspect's faults, those played on the whole board that gave the same */
    uint64_t work;   /* done, as in replay.h */
    rmg_tally *tally;         /* of what nobody asks for */
    bool in_order;            /* of all words one failed, and they were tested one after another */
    rmg_addr only;            /* that one */
    GArray *known;            /* of rmg_known_play, of one suspect */
    rmg_cell_state states[4]; /* after the plan's first element, by contents, */
    unsigned state_count;     /* so many of them */
} rmg_stage;

/* How much may be done, and whether somebody wants it to end. */
typedef struct rmg_replay_budget {
    uint64_t work; /* 0: without end */
    bool (*go_on)(void *context, double share);
    void *context;
    const rmg_stage *stage;
} rmg_replay_budget;

/* May one more play begin? `share`: of all that is to be done. */
bool rmg_replay_more(const rmg_replay_budget *budget, double share);

/* stage.c. false: the board cannot be simulated. End it in any case. */
bool rmg_stage_begin(rmg_stage *stage, const rmg_run *run);
void rmg_stage_end(rmg_stage *stage);

/* Runs the measured plan with these faults; `again` is to be ended with rmg_run_end in any case.
 * Where not `whole`, no lines are tested, and only the words that the faults have to do with, or of
 * faults that act alike everywhere a sample of them. Steps that go by rows, copies and stopped
 * refresh are left out then. Words of faults of cells come up with ones where `contents` is odd,
 * else with zeros; words of the cells that act on others with its second bit. false: it could not
 * be done. */
bool rmg_stage_play(rmg_stage *stage, const rmg_sim_fault *faults, uint16_t count, bool whole,
                    unsigned contents, rmg_run *again);
/* Sets what undriven lines do from now on; false: that is just what the board file says. */
bool rmg_stage_float(rmg_stage *stage, rmg_floats floats);
/* Would they be played on a part of the board's words first? */
bool rmg_stage_in_part(const rmg_stage *stage, const rmg_sim_fault *faults, uint16_t count);
/* Does one of them leave lines undriven? */
bool rmg_stage_undriven(const rmg_sim_fault *faults, size_t count);
/* With how many contents of the cells that they are of is it worth while to play them? */
unsigned rmg_stage_contents(const rmg_sim_fault *faults, size_t count);
/* Which of so many are, as ones: those after which the plan's first element, which only writes,
 * leaves another state than after those below it. `from`: how many of them were looked at in the
 * call before, which was about the same faults. */
unsigned rmg_stage_contents_worth(rmg_stage *stage, const rmg_sim_fault *faults, uint16_t count,
                                  unsigned from, unsigned contents);
/* The words that these faults have to do with, rising and apart; false: all, or too many. And the
 * board switched on with the faults, for rmg_stage_play. */
bool rmg_stage_find_parts(const rmg_stage *stage, const rmg_sim_fault *faults, size_t count,
                          GArray *parts);
bool rmg_stage_switch_on(rmg_stage *stage, const rmg_sim_fault *faults, uint16_t count,
                         const GArray *parts, bool whole, unsigned contents);

/* order.c: for the proposals of one suspect. What is known of one, or will be; NULL: it is played
 * by itself. Valid until the next call. */
void rmg_order_begin(rmg_stage *stage);
rmg_known_play *rmg_order_known(rmg_stage *stage, const proposal *p);

/* replay_compare.c: failures of the measured run at the finding's place, and of the replay. */
typedef struct comparison {
    uint64_t both, left, unseen;
} comparison;
/* `within`: where the finding lies; NULL: everywhere. */
/* What failed first in a step that the replay left out does not count. */
comparison rmg_replay_compare(const rmg_run *measured, const rmg_run *again, const proposal *p,
                              const rmg_finding *within);
/* The same of the words that the replay tested: others count neither way. */
comparison rmg_replay_compare_sample(const rmg_run *measured, const rmg_run *again,
                                     const proposal *p, const rmg_finding *within);
/* Where each cell loses its contents after a time of its own: the rows that fail of each chip that
 * the fault acts for, and the first step. Counts are of rows. */
comparison rmg_replay_compare_rows(const rmg_run *measured, const rmg_run *again,
                                   const rmg_sim_fault *fault);
/* Did each bit fail in as many reads? true too where that cannot be said. */
bool rmg_replay_as_often(const rmg_run *measured, const rmg_run *again, const rmg_finding *within,
                         bool sampled);
/* Did the wiring checks see the same in all banks? */
bool rmg_replay_same_wiring(const rmg_run *a, const rmg_run *b);

/* replay_propose.c: all that the suspect can be, the likeliest first: a list of proposal *, to be
 * freed with rmg_proposal_free. */
GPtrArray *rmg_propose(const rmg_run *run, const rmg_suspect *suspect);
void rmg_proposal_free(void *one);

/* What is being proposed for. */
typedef struct proposer {
    const rmg_run *run;
    const rmg_board *board;
    const rmg_finding *f;
    GPtrArray *list;
} proposer;

/* Adds a proposal of these causes, without faults yet; proposals of one saying are the same thing,
 * given once. At a level: where the saying gives it. And a fault to it. */
proposal *rmg_propose_add(proposer *w, uint64_t causes, rmg_said said);
proposal *rmg_propose_at(proposer *w, uint64_t causes, rmg_said said, unsigned level);
void rmg_propose_put(proposal *p, rmg_sim_fault fault);
/* Is it chance how or when such a fault fails? */
bool rmg_propose_vague(const rmg_sim_fault *fault);
/* A rule of the suspect's socket in its bank, or NULL. */
const rmg_rule *rmg_propose_rule(const proposer *w);

/* replay_chip.c: a whole chip; replay_cells.c: its cells. */
void rmg_propose_data_at_socket(proposer *w);
void rmg_propose_address_at_socket(proposer *w);
void rmg_propose_cells(proposer *w);

/* conclude.c: rivals that the replays of a suspect refute; its steps, those that look for them
 * last; what undriven lines do, where the replays say it. */
void rmg_replay_rule_out(rmg_suspect *s);
void rmg_replay_steps(rmg_suspect *s);
void rmg_replay_tell_undriven(const rmg_board *board, rmg_suspect *s);

/* hold.c: of the only suspect: for how many accesses undriven lines hold, if the number of failing
 * reads tells. */
void rmg_replay_hold(rmg_stage *stage, rmg_suspect *suspect, const rmg_replay_budget *budget);

/* told.c: what a test ROM told, against every fault that the board can have. */
void rmg_replay_told(rmg_stage *stage, rmg_suspects *suspects, uint64_t work,
                     bool (*go_on)(void *context, double share), void *context);
/* stage.c: the steps of the test ROM on the board with these faults. false: it could not be done.
 */
bool rmg_stage_tell(rmg_stage *stage, const rmg_testrom_plan *plan, const rmg_sim_fault *faults,
                    uint16_t count, unsigned contents, unsigned passes,
                    bool (*line)(void *context, const rmg_testrom_line *line), void *context);

#endif
