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

/* What came of a fault of cells in part of the words, by what they come up with. */
typedef struct rmg_known_play {
    rmg_sim_fault fault;
    bool by_order; /* instead of the cell that did not fail: is it reached after the other? */
    bool second;   /* that cell is its second one */
    rmg_undriven undriven;
    uint64_t hold_ns;
    rmg_replayed results[4];
    unsigned played;      /* ones at those that were */
    uint8_t weighed;      /* contents of which is known: */
    unsigned worth_while; /* ones at those */
} rmg_known_play;

#define RMG_STATE_CELLS 8u /* of a proposal's faults, above which all contents are played */

/* One of several chips that are played side by side, each with a fault of its own: what fails in it
 * stands for the chip that the fault is proposed for. */
typedef struct rmg_lane {
    uint16_t chip; /* the one that is played, */
    rmg_word bits; /* its bits of a word, */
    uint8_t up;    /* so many bits above those of the other, turned round at the end of a word */
} rmg_lane;

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
    bool plain;               /* all words were tested one after another, each bit with the same */
    bool in_order;            /* ... and of all words one failed */
    rmg_addr only;            /* that one */
    GArray *known;            /* of rmg_known_play, of one suspect */
    GHashTable *touched;      /* addresses of words that the wiring check accesses; or NULL */
    bool sound;               /* it finds in sound memory what was measured */
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
/* The plan that is played, and ones at the bits of a word. */
rmg_plan rmg_stage_plan(const rmg_stage *stage);
rmg_word rmg_stage_mask(const rmg_stage *stage);
/* Do marches over the words alone that these faults have to do with do the same as over all? */
bool rmg_stage_marches_in_part(const rmg_stage *stage, const rmg_sim_fault *faults, uint16_t count);
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
/* The same of all contents and of each fault by itself, in `worth` [count]; of at most
 * RMG_STATE_CELLS. */
void rmg_stage_each_worth(rmg_stage *stage, const rmg_sim_fault *faults, uint16_t count,
                          unsigned contents, unsigned *worth);
/* The words that these faults have to do with, rising and apart; false: all, or too many. And the
 * board switched on with the faults, for rmg_stage_play; `parts` NULL: whatever words hold. */
bool rmg_stage_find_parts(const rmg_stage *stage, const rmg_sim_fault *faults, size_t count,
                          GArray *parts);
bool rmg_stage_switch_on(rmg_stage *stage, const rmg_sim_fault *faults, uint16_t count,
                         const GArray *parts, bool whole, unsigned contents);

/* sound.c: is it sure, without a play, that with these faults the wiring check finds what was
 * measured, and that all else of the plan does in part of the words what it does in all? */
bool rmg_stage_sound(rmg_stage *stage, const rmg_sim_fault *faults, uint16_t count);

/* order.c: for the proposals of one suspect. What is known of one, or will be; NULL: nothing is
 * kept of it. Valid until the next call. */
void rmg_order_begin(rmg_stage *stage);
rmg_known_play *rmg_order_known(rmg_stage *stage, const proposal *p);
/* The rule of a chip that has but one; NULL: it has none, or more. */
const rmg_rule *rmg_replay_only_rule(const rmg_placement *placement, uint16_t chip);

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
/* The same of one lane of a play; NULL: of all of it. */
comparison rmg_replay_compare_lane(const rmg_run *measured, const rmg_run *again, const proposal *p,
                                   const rmg_finding *within, const rmg_lane *lane);
/* Did each bit fail in as many reads? true too where that cannot be said. */
bool rmg_replay_as_often(const rmg_run *measured, const rmg_run *again, const rmg_finding *within,
                         bool sampled, const rmg_lane *lane);
/* Did the wiring checks see the same in all banks? */
bool rmg_replay_same_wiring(const rmg_run *a, const rmg_run *b);

/* replay_propose.c: all that the suspect can be, the likeliest first: a list of proposal *, to be
 * freed with rmg_proposal_free. */
GPtrArray *rmg_propose(const rmg_run *run, const rmg_suspect *suspect);
void rmg_proposal_free(void *one);

/* play.c. What became of a proposal in the play before, or in one lane of it. `alone`: of the only
 * suspect. */
void rmg_replay_judge(const rmg_stage *stage, const proposal *p, const rmg_run *again,
                      const rmg_lane *lane, const rmg_finding *within, bool alone,
                      rmg_replayed *result);
/* Plays one: on its own words first, and if that gives the same, on the whole board; with all that
 * its cells can come up with, and that undriven lines can do. false: it could not be done. */
bool rmg_replay_play(rmg_stage *stage, const proposal *p, const rmg_finding *within, bool alone,
                     rmg_replayed *result);
/* Which of two results is the better one: below 0, the first. As g_array_sort takes it. */
gint rmg_replay_better(gconstpointer a, gconstpointer b);
/* Is it so far off that other contents of its cells do not make it right? */
bool rmg_replay_far_off(const rmg_replayed *result);
/* Did two passes fail differently? */
bool rmg_replay_comes_and_goes(const rmg_run *run);

/* Proposals from one on, and which of them are still to be played. */
typedef struct rmg_beside {
    proposal *const *list; /* [count] */
    size_t count;
    bool (*wanted)(void *context, const proposal *p);
    void *context;
} rmg_beside;

/* Does the fault act in its chip by its cells alone, whatever time passes, what other chips do and
 * other cells hold? */
bool rmg_replay_cells_alone(const rmg_sim_fault *fault);

/* side.c: plays the first of these proposals, in part of the words, with those that can be played
 * at once with it, and keeps what came of them (rmg_order_known); or does nothing. */
void rmg_replay_side_by_side(rmg_stage *stage, const rmg_beside *from, const rmg_finding *within,
                             bool alone);

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
