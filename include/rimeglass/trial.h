/* Trials: what was changed on a board between two runs, and what follows from the difference. Each
 * cause that looked the same before belongs to a chip, a contact, a line or something else; a
 * change moves or removes what belongs to what it touched. Each cause, so changed, is put into the
 * simulated board, the second run's plan is run, and the failures are compared with the measured
 * ones. */
#ifndef RIMEGLASS_TRIAL_H
#define RIMEGLASS_TRIAL_H

#include "run.h"
#include "suspect.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What a technician does between two runs. */
typedef enum rmg_change_kind {
    RMG_CHANGE_SWAP, /* the chips of two sockets */
    RMG_CHANGE_MOVE, /* a chip to an empty socket */
    RMG_CHANGE_RESEAT,
    RMG_CHANGE_PULL,    /* a chip, or all of a bank */
    RMG_CHANGE_FIT,     /* another chip into the socket */
    RMG_CHANGE_REPLACE, /* the same, the old one unsoldered if it must be */
    RMG_CHANGE_HOLD,    /* a known good chip held on top of it */
    RMG_CHANGE_WARM,
    RMG_CHANGE_COOL,
    RMG_CHANGE_DISTURB, /* a pin shorted on purpose, to learn which line is which chip */
    RMG_CHANGE_LIFT,    /* a pin */
    RMG_CHANGE_BRIDGE,  /* two points joined by a wire */
    RMG_CHANGE_REPAIR,  /* a socket's contacts and the tracks to it; or a part or stretch of a line
                         */
    RMG_CHANGE_SUPPLY,  /* set to so many millivolts */
    RMG_CHANGE_CLOCK,   /* set to so many hertz */
    RMG_CHANGE_JUMPER,
    RMG_CHANGE_MEASURE, /* no change: the way to the pins that fail, power off (rmg_measured) */
    RMG_CHANGE_READ,    /* no change: a ROM read on its own pins, out of the board */
    RMG_CHANGE_NOTHING, /* tested again, just so */
    RMG_CHANGE_OTHER
} rmg_change_kind;

#define RMG_CHANGE_KINDS (RMG_CHANGE_OTHER + 1) /* how many there are */

/* One change. */
typedef struct rmg_change {
    rmg_change_kind kind; /* which fields count */
    uint16_t socket;      /* or RMG_NO_SOCKET */
    uint16_t other;       /* the second socket, or RMG_NO_SOCKET */
    uint8_t bank;         /* of a bank that is pulled, or RMG_NO_BANK */
    uint8_t pin;          /* of `socket`; 0: none */
    uint8_t other_pin;    /* of `socket` too, or of `other`; 0: none */
    int64_t value;        /* degrees Celsius, millivolts, hertz; INT64_MIN: none was reported */
    char *text;           /* label of a chip, points of a line, words; NULL: none */
} rmg_change;

/* Changes, in the order in which they were made. */
typedef struct rmg_changes {
    rmg_change *list; /* [count] */
    size_t count;
} rmg_changes;

/* Reads changes, several separated by ";", in small letters or capitals: "swap U19 U20", "move U19
 * to U21", "reseat U19", "pull U19", "pull upper", "fit U19 with LABEL", "replace U19", "hold LABEL
 * on U19", "warm U19 to 45", "cool board", "disturb U19 pin 5 with pin 8", "lift U19 pin 2",
 * "lift RN1.16", "bridge U1.9-U18.14", "repair R4", "supply 4750", "clock 2000000", "jumper TEXT",
 * "nothing", "other TEXT". RMG_ERR_CONTENT: *error, to be freed with rmg_error_free, says what is
 * wrong and what was expected; *changes is empty. Free with rmg_changes_free. */
rmg_status rmg_changes_parse(const rmg_board *board, const char *text, rmg_changes *changes,
                             rmg_error *error);
void rmg_changes_free(rmg_changes *changes);

/* The change as it would be typed: "swap U19 U20". To be freed with rmg_text_free. */
char *rmg_change_text(const rmg_board *board, const rmg_change *change);

/* Where the chip that was in a socket is after the changes; RMG_NO_SOCKET: out of the board. */
uint16_t rmg_chip_now(const rmg_change *changes, size_t count, uint16_t socket);

/* What makes one wonder whether that was done: "U18 is soldered: ..."; NULL: nothing. To be freed
 * with rmg_text_free. */
char *rmg_change_doubt(const rmg_board *board, const rmg_change *change);

/* What became of the failure, in a colleague's words. */
typedef enum rmg_outcome {
    RMG_OUTCOME_PASSED,    /* nothing failed, before or after */
    RMG_OUTCOME_WENT,      /* with the chip */
    RMG_OUTCOME_STAYED,    /* at the socket */
    RMG_OUTCOME_GONE,      /* nothing fails any more */
    RMG_OUTCOME_UNCHANGED, /* the same failures as before */
    RMG_OUTCOME_ELSEWHERE, /* it fails where it did not, and not where it did */
    RMG_OUTCOME_LESS,      /* some of the failures are gone */
    RMG_OUTCOME_WORSE,     /* what failed still fails, and more */
    RMG_OUTCOME_HALF,      /* half of the memory, or more, disappeared */
    RMG_OUTCOME_OTHERWISE, /* the same sockets fail, in another way */
    RMG_OUTCOME_SHOWN,     /* what was disturbed or cut off on purpose shows where it is */
    RMG_OUTCOME_WHOLE,     /* of RMG_CHANGE_MEASURE: rmg_measured, in its order */
    RMG_OUTCOME_OPEN,
    RMG_OUTCOME_SHORT,
    RMG_OUTCOME_CHIP_BAD,
    RMG_OUTCOME_PAD_BAD
} rmg_outcome;

const char *rmg_outcome_name(rmg_outcome outcome); /* "went with the chip" */

/* What a cause belongs to. */
typedef enum rmg_belongs {
    RMG_BELONGS_CHIP,    /* goes where the chip goes */
    RMG_BELONGS_CONTACT, /* of a socket, or a joint: it may be gone when it was touched */
    RMG_BELONGS_PLACE,   /* the socket's, and the tracks to it */
    RMG_BELONGS_LINE,    /* of several sockets, a part on it included */
    RMG_BELONGS_SELECT,
    RMG_BELONGS_SUPPLY, /* supply, heat, timing */
    RMG_BELONGS_UNKNOWN
} rmg_belongs;

/* "the chip", for example; and what a cause of the table belongs to. */
const char *rmg_belongs_name(rmg_belongs belongs);
rmg_belongs rmg_cause_belongs(rmg_cause cause);

/* One cause, and what the trial made of it. A board may have several faults at once: suspects that
 * look at the same failures are about one fault, and the causes of each fault have shares of
 * their own, 1 in sum. */
typedef struct rmg_hypothesis {
    size_t suspect, rival; /* in the suspects of the run before; rival SIZE_MAX: none of them */
    unsigned fault;        /* which of those at once it would be a cause of, from 0 */
    uint16_t socket;       /* RMG_NO_SOCKET: it is no single one */
    rmg_belongs belongs;   /* what it belongs to */
    double before, after;  /* share of all causes of that fault: 0..1 */
    double fits;           /* how well what it predicts agrees with what was measured: 0..1 */
    double gone;           /* that what was changed has taken it away, if it was this: 0..1 */
} rmg_hypothesis;

/* Failing (address, bit) of a socket before and after. */
typedef struct rmg_trial_socket {
    uint16_t socket;        /* of the board's list */
    uint64_t before, after; /* failing bits then */
} rmg_trial_socket;

/* What a trial is made of. All stays the caller's. */
typedef struct rmg_trial_of {
    const rmg_run *base;           /* the run in which the causes were found */
    const rmg_suspects *suspects;  /* of it, replayed (replay.h) */
    const rmg_run *before, *after; /* the last run before the change, often `base`; and the one
                                      after it */
    const rmg_changes *changes;    /* all since `base`; none: nothing was reported */
    size_t done;                   /* of these, made before `before` */
    const rmg_hypothesis *prior;   /* [prior_count]: as they stood before; NULL: as in the base */
    size_t prior_count;
} rmg_trial_of;

/* What follows from a change and the run after it. */
typedef struct rmg_trial {
    rmg_trial_of of;           /* what it was made of */
    rmg_outcome outcome;       /* against `before` */
    bool same_set;             /* the same (address, bit) failed in both runs */
    uint64_t both, gone, come; /* failing (address, bit): in both runs, only before, only after */
    rmg_rate rate_before, rate_after; /* of passes with a failure */
    rmg_trial_socket *sockets; /* [socket_count]: those that failed in one of them, as the board
                                  has them */
    size_t socket_count;
    rmg_hypothesis *list; /* [count], fault by fault, those that are gone last, the surest first;
                             of each its likeliest cause first */
    size_t count;
    uint16_t shown, shown_as; /* a chip that was cut off on purpose, and the one as which it was
                                 reported: another, where a list of names is wrong; RMG_NO_SOCKET */
} rmg_trial;

/* What follows. RMG_ERR_ARGUMENT: the runs are not of one board, or not over the same memory;
 * *error, to be freed with rmg_error_free, says what differs. RMG_ERR_MEMORY. Free with
 * rmg_trial_free. */
rmg_status rmg_trial_follow(const rmg_trial_of *of, rmg_trial *trial, rmg_error *error);
void rmg_trial_free(rmg_trial *trial);

/* What to change next. */

/* What a change costs: minutes, and the chance that it does damage. */
typedef struct rmg_cost {
    double minutes, damage; /* negative minutes: it cannot be done */
} rmg_cost;

#define RMG_DAMAGE_MINUTES 240.0 /* that damage counts as */

/* Costs by kind of change and by mount; and the built-in ones. */
typedef struct rmg_cost_table {
    rmg_cost costs[RMG_CHANGE_KINDS][3]; /* [kind][mount] */
} rmg_cost_table;
/* Fills in the built-in table. */
void rmg_costs_standard(rmg_cost_table *table);

/* Reads a table: YAML, "swap: {socket: [4, 0.003], soldered: no}"; what it does not name stays as
 * in rmg_costs_standard. RMG_ERR_FILE, RMG_ERR_CONTENT: every error is in *errors. */
rmg_status rmg_costs_load(const char *file, rmg_cost_table *table, rmg_errors *errors);

/* One result that a change may have, and what it would mean. */
typedef struct rmg_forecast {
    rmg_outcome outcome; /* the result */
    double chance;       /* of this result: 0..1 */
    rmg_belongs belongs; /* what is then the likeliest */
    double share;        /* ... and how likely: 0..1 */
} rmg_forecast;

#define RMG_FORECASTS 4u /* results of a change that are reported, at most */

/* A change that is worth making, and what it may show. */
typedef struct rmg_advice {
    rmg_change change; /* to be made */
    rmg_cost cost;     /* on this board */
    double bits;       /* of information it is expected to give */
    bool settles;      /* it is the repair itself, of what has `share` of the causes */
    double share;      /* of the causes of its fault: 0..1 */
    rmg_forecast results[RMG_FORECASTS]; /* [result_count], the likeliest first */
    size_t result_count;
} rmg_advice;

/* Ranks the changes that this board allows by information for their cost, the best first; changes
 * that cannot tell anything are left out. Of several faults at once each change is for the one of
 * which it tells most; the others stay as they most likely are. `run`, `suspects`: of the run in
 * which the causes were found; `list` as of rmg_hypotheses, or of a trial since then; `done`: all
 * changes since that run, NULL: none. *advice is [*count], to be freed with rmg_advice_free. */
void rmg_advise(const rmg_run *run, const rmg_suspects *suspects, const rmg_hypothesis *list,
                size_t count, const rmg_changes *done, const rmg_cost_table *costs,
                rmg_advice **advice, size_t *advice_count);
void rmg_advice_free(rmg_advice *advice, size_t count);

/* One result that a change may have, in full. */
typedef struct rmg_foreseen {
    rmg_outcome outcome; /* the result */
    double chance;       /* of this result: 0..1 */
    double *shares;      /* [count of the causes]: of each, with this result; `chance` in sum over
                            the causes of each fault */
} rmg_foreseen;

/* All results of one change, the likeliest first; arguments as of rmg_advise. *results is
 * [*result_count], to be freed with rmg_foreseen_free; none: the board cannot be simulated. */
void rmg_foresee(const rmg_run *run, const rmg_suspects *suspects, const rmg_hypothesis *list,
                 size_t count, const rmg_changes *done, const rmg_change *change,
                 rmg_foreseen **results, size_t *result_count);
void rmg_foreseen_free(rmg_foreseen *results, size_t count);

/* What was seen without a run, as evidence. */
typedef enum rmg_sight_kind {
    RMG_SIGHT_STARTS, /* the board starts, or does not */
    RMG_SIGHT_DOES_NOT_START,
    RMG_SIGHT_REPORTS, /* it shows so much memory */
    RMG_SIGHT_OTHER    /* a text: kept, not weighed */
} rmg_sight_kind;

/* One such sight. */
typedef struct rmg_sight {
    rmg_sight_kind kind; /* what was seen */
    uint64_t number;     /* of RMG_SIGHT_REPORTS */
} rmg_sight;

/* Reads "starts", "does not start", "reports 24576"; anything else is RMG_SIGHT_OTHER. */
rmg_sight rmg_sight_parse(const char *text);

/* Weighs the causes by what the chip of that socket does outside this board: a chip's own fault
 * goes with it. Changes `after` of each, and puts the likeliest first. */
void rmg_elsewhere_weigh(uint16_t socket, bool failed, rmg_hypothesis *list, size_t count);

/* Weighs the causes by what was seen: a board whose first memory, or where the file names none its
 * lowest bank, fails starts seldom; what it reports leaves out banks. Changes `after` of each,
 * and puts the likeliest first. */
void rmg_sight_weigh(const rmg_run *base, const rmg_suspects *suspects, const rmg_sight *sight,
                     rmg_hypothesis *list, size_t count);

/* Weighs the causes by what a chip brought along: just before, another one passed at these sockets,
 * `sound` of [the board's socket_count], so that their contacts and tracks are hardly at fault.
 * Changes `after` of each, and puts the likeliest first. */
void rmg_brought_weigh(const bool *sound, rmg_hypothesis *list, size_t count);

/* Weighs the causes of `base` by an earlier test of the same memory, `passed`, since which these
 * changes were made: what they did not touch was right then, unless it comes and goes so seldom
 * that it may have passed by chance. Another chip, or a contact made anew, may be wrong. Changes
 * `after` of each, and puts the likeliest first. false: nothing follows, for no change was made at
 * a socket, or the tests are not of the same memory. */
bool rmg_passed_weigh(const rmg_run *base, const rmg_suspects *suspects, const rmg_run *passed,
                      const rmg_change *changes, size_t change_count, rmg_hypothesis *list,
                      size_t count);

/* What a meter shows, power off, between the line and the leg of the chip at the pins that fail. */
typedef enum rmg_measured {
    RMG_MEASURED_WHOLE,
    RMG_MEASURED_OPEN,
    RMG_MEASURED_SHORT, /* a few ohms to a supply */
    /* with the pin lifted: is it right at the chip's own leg, or at its pad? */
    RMG_MEASURED_CHIP_BAD, /* the leg does what it should not; the pad is free */
    RMG_MEASURED_PAD_BAD   /* the leg is right; the pad is held, or nothing comes through */
} rmg_measured;

/* Weighs the causes at that socket by it, and all others: of what comes and goes in the base a
 * meter sees little. Changes `after` of each, and puts the likeliest first. */
void rmg_measured_weigh(const rmg_run *base, const rmg_suspects *suspects, uint16_t socket,
                        rmg_measured measured, rmg_hypothesis *list, size_t count);

/* The causes of replayed suspects with their shares, before any trial. [*count], to be freed with
 * rmg_hypotheses_free. */
rmg_hypothesis *rmg_hypotheses(const rmg_run *run, const rmg_suspects *suspects, size_t *count);

/* How many faults at once they are the causes of; and how likely it is that one of these is gone by
 * what was changed: 0..1. */
unsigned rmg_faults_at_once(const rmg_hypothesis *list, size_t count);
double rmg_fault_gone(const rmg_hypothesis *list, size_t count, unsigned fault);
void rmg_hypotheses_free(rmg_hypothesis *list);

#ifdef __cplusplus
}
#endif
#endif
