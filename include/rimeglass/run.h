/* A run: a plan carried out on a board. What ran, what failed, what was not tested and why. */
#ifndef RIMEGLASS_RUN_H
#define RIMEGLASS_RUN_H

#include "board.h"
#include "failset.h"
#include "plan.h"
#include "wiring.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What to do: the steps of a plan, pass after pass, until so many passes are done, or the
 * time is over, or somebody stops the run. */
typedef struct rmg_plan {
    const rmg_steps
        *steps; /* the caller's, copied; or NULL: wiring, the first memory alone, and ... */
    const char *march_name; /* ... this march, */
    const uint8_t *march;   /* compiled, over all that may be tested */
    uint32_t passes;     /* 1..RMG_PASSES_MOST; 0: until the time is over or the run is stopped */
    uint64_t first_pass; /* number of the first pass, from 0: backgrounds go on from there, and what
                            is done in pass 0 only is not done in another */
    bool endless;        /* with passes 0 and no time: until it is stopped */
    double seconds;      /* no pass begins later than this: the target's own time, where it has
                            a clock, else the wall's; 0: no limit */
    uint64_t seed;       /* plan seed */
    bool limited;        /* test only within `limit` */
    rmg_range limit;     /* see `limited` */
    bool spares;         /* leave out `spared`, which holds what the target needs for the run */
    rmg_range spared;    /* see `spares` */
    const rmg_region *named; /* a region of the board that was asked for by name and is tested
                                whatever its kind; or NULL */
    bool keep; /* put back the contents of each block of RMG_KEEP_WORDS words once it is tested, and
                  of every word used otherwise; see rmg_keep_misses */
} rmg_plan;

#define RMG_PASSES_MOST 1000000u /* passes of a run that were asked for by number */
#define RMG_KEEP_WORDS  1024u    /* words of a block whose contents are kept and put back */

/* What a run that keeps contents cannot find, in a sentence. */
const char *rmg_keep_misses(void);

/* A word and what it held before the run. */
typedef struct rmg_saved_word {
    rmg_addr address; /* of the word */
    rmg_word value;   /* what it held */
} rmg_saved_word;

/* A stretch that is not tested, and the reason as a sentence part. */
typedef struct rmg_left_out {
    rmg_range range; /* the words */
    char *name;      /* region's name, "" if none */
    char *reason;    /* "reserved", for example */
} rmg_left_out;

#define RMG_NOT_KNOWN INT32_MIN /* a condition that the port does not report */

/* A pass that ended; in a run of more than RMG_STRETCHES_MOST passes, several that followed each
 * other (a power of 2, the same for all but the last), summed up. */
typedef struct rmg_stretch {
    uint64_t passes;         /* 1 or more */
    uint64_t failing_passes; /* of these, passes with a failing read */
    rmg_count failing_reads; /* of all passes together */
    uint64_t failing_words;  /* in the pass with the most */
    rmg_word background;     /* of the last pass's solid steps */
    double seconds_wall;     /* from the run's start to the end of the last pass */
    double seconds_target;   /* the same in the target's own time; negative: it has none */
    int32_t heat_millic;     /* at the end of the last pass, or RMG_NOT_KNOWN */
} rmg_stretch;

#define RMG_STRETCHES_MOST 1024u /* stretches that a run keeps */

/* Where a run stands, for a status line. */
typedef struct rmg_run_progress {
    const char *step;       /* "wiring", "first memory" or the step's name */
    uint64_t pass;          /* from 1 */
    uint32_t passes;        /* 0: no number was given */
    double share;           /* done, 0..1; negative: its end is not known */
    double pass_share;      /* of this pass */
    uint64_t failing_reads; /* so far */
} rmg_run_progress;

/* Who watches a run. Functions may be NULL. */
typedef struct rmg_watch {
    void *context; /* first argument of its functions */
    bool (*progress)(void *context, const rmg_run_progress *progress); /* false: stop */
    uint64_t (*clock_ns)(void *context); /* the target's own time, if it has one */
    /* the first RMG_TALLY_FIRST failures, as they come */
    void (*failure)(void *context, const rmg_failure *failure);
    void (*pass_ended)(void *context);     /* the run stands at a boundary between passes */
    int32_t (*heat_millic)(void *context); /* a temperature that is known otherwise than by the
                                              port, or RMG_NOT_KNOWN */
} rmg_watch;

/* A line that others disturb when they switch, as the step for noisy lines found it. */
typedef struct rmg_noisy_line {
    uint8_t bank; /* its number */
    bool address; /* an address line; else a data line */
    uint8_t line; /* address line, or data bit, of the bus */
    uint8_t ways; /* bit 0: it stays at 0 while they rise; 1: at 1 while they fall; 2: it rises
                     while they fall; 3: it falls while they rise */
    uint64_t by;  /* ones at the lines that do it, all of them together */
    uint32_t failed, tries; /* in the way that failed most */
} rmg_noisy_line;

/* A run. Fields are read by everyone, written by the functions below; what follows from them is
 * given by rmg_run_failed, rmg_run_repeats, rmg_run_bit_rate, rmg_rate_of_passes, rmg_course_of,
 * rmg_run_unchecked_lines. */
typedef struct rmg_run {
    /* what was to be done, and on what */
    const rmg_board *board; /* the caller's */
    rmg_plan plan;          /* its steps and march are not to be read; these are: */
    rmg_steps steps;
    char *target; /* as the user named it */
    /* how it ended */
    rmg_status status; /* RMG_OK, or why the run is not complete */
    bool complete;
    /* what was tested, and what was not */
    rmg_range *tested; /* rising */
    size_t tested_count;
    rmg_range *first_memory; /* rising; what is tested alone before all else */
    size_t first_memory_count;
    rmg_left_out *left_out;
    size_t left_out_count;
    uint64_t tested_words;
    uint64_t *bank_words; /* [bank_count]: of these, words of each bank */
    rmg_word mask;        /* data bits that are tested: those some socket holds there */
    /* what the wiring checks saw */
    bool *wired;                         /* [bank_count]: the bank's lines were checked */
    rmg_where *wired_where;              /* [bank_count]: where */
    rmg_wiring *wirings;                 /* [bank_count] */
    rmg_data_detail *data_details;       /* [bank_count] */
    rmg_address_detail *address_details; /* [bank_count] */
    rmg_bank_pair *bank_pairs; /* [bank_count * bank_count]: a's row, b's column, a < b; others 0 */
    uint64_t wiring_accesses;  /* made by all wiring checks together */
    rmg_noisy_line *noisy;     /* [noisy_count] */
    size_t noisy_count;
    /* what failed */
    rmg_tally tally;
    rmg_failset *failures;
    /* passes */
    uint64_t pass_count;    /* those ended */
    rmg_stretch *stretches; /* [stretch_count]: these passes, in order */
    size_t stretch_count;
    uint64_t stretch_passes; /* passes that a whole stretch has */
    bool wiring_narrowed;    /* only parts are tested, and no lines; of a replay */
    /* circumstances */
    int32_t conditions[4]; /* at the start, by rmg_condition; or RMG_NOT_KNOWN */
    bool refresh_kept;     /* a hold without refresh was asked for; the port cannot stop it */
    bool steps_skipped; /* rows, neighbours, moving addresses and copies, because left out to keep
                           the contents */
    rmg_saved_word *not_restored; /* rising; words whose left out to keep the contents, and could
                                     not be written back, though tried several times */
    size_t not_put_back_count;
    char *caveat;   /* what of the steps' order and coverage does not hold on this port; or NULL */
    char *remark;   /* what of the target asked for could not be had; or NULL */
    bool less;      /* ... and not allowed to be missing: the run covers less than was asked for */
    bool by_slices; /* the target goes over many words at a time, and stops by itself: the watcher
                       is asked between them, however long that takes */
    char **places;  /* where the first failures lie, one a row of tally.first, in words; or NULL.
                       All three the run's own, from g_malloc; set by whoever opened the target */
    char *
        port_said; /* what went wrong last, as the far end of the port said it; or NULL. As those */
    uint64_t copied_words; /* by copying memory onto itself, and how many came out wrong; */
    uint64_t copied_wrong; /* their addresses say nothing */
    uint64_t reads;        /* accesses made, all steps together */
    uint64_t writes;
    double seconds_wall;
    double seconds_target;   /* negative: the target has no clock of its own */
    struct rmg_heard *heard; /* NULL; else the run is another program's (heard.h) */
    struct rmg_run_own *own; /* what only the run itself needs */
} rmg_run;

/* Works out what is tested and what is not. RMG_ERR_RANGE: the plan's limit is outside the board,
 * or holds no memory that may be tested; *error, to be freed with rmg_error_free, says which. End
 * the run with rmg_run_end in any case. */
rmg_status rmg_run_begin(rmg_run *run, const rmg_board *board, const rmg_plan *plan,
                         const char *target_name, rmg_error *error);

/* Carries it out on `target`, from pass run->pass_count on. Returns run->status;
 * what was found until then stands in the run. Destroys what the tested ranges hold, and touches
 * nothing else. */
rmg_status rmg_run_carry_out(rmg_run *run, const rmg_target *target, const rmg_watch *watch);
void rmg_run_end(rmg_run *run);

/* The rate of a data bit set's failures in a bank (RMG_NO_BANK: all): reads that failed, of those
 * that could show it: where all failed one way, those that expected the other. */
void rmg_run_bit_rate(const rmg_run *run, uint8_t bank, rmg_word bits, uint64_t *failed,
                      uint64_t *could);

/* Did anything fail? */
bool rmg_run_failed(const rmg_run *run);

/* Address lines of the bank's chips that cannot vary within what was tested, or were not checked.
 */
rmg_addr rmg_run_unchecked_lines(const rmg_run *run, size_t bank);

/* Is some of the bank tested although its lines were not checked (fewer than four words of it)? */
bool rmg_run_lines_skipped(const rmg_run *run, size_t bank);

/* Two passes or more ended, and every one had the same failure set. */
bool rmg_run_repeats(const rmg_run *run);

/* A fault that began while the run went on, and was there for good then, as what grows warm: the
 * passes since then as a run of their own, with the lines as they were when checked again. The
 * passes before were clean, and those left out in which it failed first, up to three; or it began
 * in the first pass, after the lines had been checked.
 * false: it was not so, or that is not known. *view lends what is the run's, which must outlive it;
 * to be ended with rmg_run_since_end, and with nothing else. */
bool rmg_run_since(const rmg_run *run, rmg_run *view);
void rmg_run_since_end(rmg_run *view);

/* The pass, from 1, in which such a fault began; 0: none did. */
uint64_t rmg_run_began(const rmg_run *run);

/* Faults that show in a greater share of passes than this would have shown in `passes` clean ones
 * with 95 % confidence: 1 - 0.05^(1/passes). 1 for no pass. */
double rmg_excluded_share(uint64_t passes);

/* The other way round: how many clean passes exclude, with 95 % confidence, faults that show in
 * this share of passes, above 0 and below 1, or more. */
uint64_t rmg_passes_to_exclude(double share);

/* How likely a fault that showed in `events` of `trials` passes shows in none of `passes` more: its
 * share of passes is not known better than that, Beta(events + 1/2, trials - events + 1/2). */
double rmg_clean_chance(uint64_t events, uint64_t trials, uint64_t passes);
/* The passes after which that is at most 5 %; 1 or more, at most 100,000. */
uint64_t rmg_passes_to_tell(uint64_t events, uint64_t trials);

/* Rates of failures that come and go, with their 95 % intervals, and how they move over a run. */

/* A share of so many trials, and the interval that holds the true one with 95 % confidence,
 * whatever it is: C. J. Clopper and E. S. Pearson, The Use of Confidence or Fiducial Limits
 * Illustrated in the Case of the Binomial, 1934. Of no trial: 0, between 0 and 1. events <= trials.
 */
typedef struct rmg_rate {
    uint64_t events, trials; /* that were counted; out of so many */
    double share, low, high; /* events of trials, and the interval's ends: 0..1 */
} rmg_rate;

/* Works it out. */
rmg_rate rmg_rate_of(uint64_t events, uint64_t trials);

/* How a rate moved over the run. */
typedef enum rmg_movement {
    RMG_MOVES_UNKNOWN, /* fewer than four passes, or nothing failed */
    RMG_MOVES_NOT,     /* no difference between the run's halves that chance would not make */
    RMG_MOVES_UP,      /* the second half failed more often, with 95 % confidence */
    RMG_MOVES_DOWN
} rmg_movement;

/* Failing reads in parts of the run, in order: equal ones, as far as whole stretches of the run
 * (run.h) allow. */
#define RMG_PARTS 5u
/* A run in parts, to see how it moved. */
typedef struct rmg_course {
    size_t parts;                      /* 0..RMG_PARTS */
    uint64_t passes[RMG_PARTS];        /* of each part */
    uint64_t failing_reads[RMG_PARTS]; /* in each part */
    rmg_movement movement;             /* between the run's halves */
} rmg_course;

/* Works it out. */
void rmg_course_of(const rmg_run *run, rmg_course *course);

/* Passes with a failing read, of all that ended. */
rmg_rate rmg_rate_of_passes(const rmg_run *run);

/* The run file: a run kept whole, so that it can be read later, or continued where it stopped.
 * Its form: docs/long-runs.md. */

/* Writes the file of one run as the run goes. */
typedef struct rmg_run_writer rmg_run_writer;

/* A new one, to be freed with rmg_run_writer_free; nothing is written yet. */
rmg_run_writer *rmg_run_writer_new(const char *file);
void rmg_run_writer_free(rmg_run_writer *writer); /* NULL is allowed */

#define RMG_RUN_KEEP_SECONDS 1.0 /* between two times that a run is written */

/* Is the file to be written now, at a boundary between passes? Yes, but not within
 * RMG_RUN_KEEP_SECONDS of the last time: so the file is never older than one pass, or than so many
 * seconds where passes are shorter. */
bool rmg_run_writer_due(const rmg_run_writer *writer);

/* Writes the run as it stands at a boundary between passes. `state` is what the target needs to go
 * on from there (a simulated board; NULL with 0 for a real one, which keeps its own). The file
 * appears whole or not at all. RMG_ERR_FILE, RMG_ERR_MEMORY: *error, to be freed with
 * rmg_error_free, says why; the file is as it was, and the call can be made again later. */
rmg_status rmg_run_writer_write(rmg_run_writer *writer, const rmg_run *run, const void *state,
                                size_t state_bytes, rmg_error *error);

/* Writes the run as it ended; if that is not at a boundary, the last boundary is kept beside it. */
rmg_status rmg_run_writer_close(rmg_run_writer *writer, const rmg_run *run, const void *state,
                                size_t state_bytes, rmg_error *error);

/* What was read from a run file. */
typedef struct rmg_run_file {
    rmg_board *board;   /* that was tested */
    rmg_run run;        /* on `board` */
    void *state;        /* of the target at the boundary; or NULL */
    size_t state_bytes; /* of `state` */
} rmg_run_file;

/* Reads a run file: the run at its last boundary, ready for rmg_run_carry_out (`resume`), or as it
 * ended. RMG_ERR_FILE, RMG_ERR_CONTENT: *error says what is wrong with it. Free with
 * rmg_run_file_free in any case. */
rmg_status rmg_run_file_read(const char *file, bool resume, rmg_run_file *result, rmg_error *error);
void rmg_run_file_free(rmg_run_file *file);

#ifdef __cplusplus
}
#endif
#endif
