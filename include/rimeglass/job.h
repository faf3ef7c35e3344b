/* A job: one repair, kept in one file: the board, the owner's words, every run, every change, what
 * was seen and measured; and what follows from all of it. The file's form: docs/jobs.md. */
#ifndef RIMEGLASS_JOB_H
#define RIMEGLASS_JOB_H

#include "rom_trial.h"

#ifdef __cplusplus
extern "C" {
#endif

/* An open job. One thread at a time; several processes may have one file open. */
typedef struct rmg_job rmg_job;

#define RMG_JOB_FORM 1 /* of the file: what this library writes */

/* Makes the file of a new job; RMG_ERR_ARGUMENT: it exists. RMG_ERR_FILE. *error, to be freed with
 * rmg_error_free, says more. Texts may be "". */
rmg_status rmg_job_new(const char *file, const rmg_board *board, const char *owner,
                       const char *symptom, rmg_error *error);

/* Opens it. RMG_ERR_FILE: it cannot be read. RMG_ERR_CONTENT: it is no job, or one of another form;
 * *error says which tool it needs. Close with rmg_job_close. */
rmg_status rmg_job_open(const char *file, rmg_job **job, rmg_error *error);
void rmg_job_close(rmg_job *job);

/* What the job was opened with, and what it was begun with; the job's own, until it is closed. */
const char *rmg_job_file(const rmg_job *job);
const rmg_board *rmg_job_board(const rmg_job *job);
const char *rmg_job_owner(const rmg_job *job);
const char *rmg_job_symptom(const rmg_job *job);
const char *rmg_job_begun(const rmg_job *job); /* "2026-05-01T12:00:00Z" */

/* What happened, in order. */
typedef enum rmg_entry_kind {
    RMG_ENTRY_RUN,      /* test, verify, dump, probe, log */
    RMG_ENTRY_CHANGE,   /* in the words of trial.h */
    RMG_ENTRY_SAW,      /* without a run */
    RMG_ENTRY_MEASURED, /* "U1.9-U18.14 whole", "... open", "U5.15=still" */
    RMG_ENTRY_NOTE
} rmg_entry_kind;

const char *rmg_entry_name(rmg_entry_kind kind); /* "changed" */

/* An entry of the job's timeline. */
typedef struct rmg_entry {
    int64_t number;      /* rising, never given twice */
    char *at;            /* when, in UTC */
    rmg_entry_kind kind; /* what happened */
    char *verb;          /* of a run: "test" */
    char *text;          /* of a run: what it said, in a line */
    bool has_run;        /* a run file is kept with it */
    bool undone;         /* it was taken back; it counts no longer */
} rmg_entry;

/* All entries, undone ones too. [*count], to be freed with rmg_entries_free. */
rmg_status rmg_job_entries(rmg_job *job, rmg_entry **list, size_t *count, rmg_error *error);
void rmg_entries_free(rmg_entry *list, size_t count);

/* Adds an entry: changes and measurements are checked against the board (RMG_ERR_CONTENT: *error
 * says what was expected). */
rmg_status rmg_job_tell(rmg_job *job, rmg_entry_kind kind, const char *text, rmg_error *error);

/* Adds a run: a test with its run file, which is copied; another one's result as text (JSON), with
 * `run_file` NULL. RMG_ERR_ARGUMENT: the run is of another board. */
rmg_status rmg_job_add_run(rmg_job *job, const char *verb, const char *line, const char *run_file,
                           const char *result, rmg_error *error);

/* Takes back the last entry that is not undone; it stays in the file, marked. RMG_ERR_RANGE: there
 * is none. And: another text for an entry that is no run. *what, to be freed with rmg_text_free,
 * says what it was; may be NULL. */
rmg_status rmg_job_undo(rmg_job *job, char **what, rmg_error *error);
rmg_status rmg_job_correct(rmg_job *job, int64_t number, const char *text, rmg_error *error);

/* Reads the run of an entry. Free with rmg_run_file_free in any case. */
rmg_status rmg_job_run(rmg_job *job, int64_t number, rmg_run_file *file, rmg_error *error);

/* One run of the job, and what followed from it. */
typedef struct rmg_job_step {
    int64_t entry;       /* number of the run's entry */
    rmg_run_file file;   /* the run, as it was kept */
    rmg_changes changes; /* all since the base */
    size_t done;         /* of these, before the run before */
    bool followed;       /* it is a trial; else the base, or a run that cannot be compared */
    rmg_trial trial;     /* what followed; see `followed` */
    char *why_not;       /* why it cannot be compared; NULL: it can */
} rmg_job_step;

/* What was seen of a chip outside this board, "lot 7 passes in console 4"; of another one with its
 * marking, "one like lot 7 fails in U19"; of its marking beside that of the chips that are right
 * there, "lot 7 is marked as fast", "lot 7 is marked slower"; and whether that is true, "lot 7 is
 * as marked", "lot 7 is not as marked". */
typedef enum rmg_job_about {
    RMG_ABOUT_PLACE,
    RMG_ABOUT_ONE_LIKE,
    RMG_ABOUT_MARKED,
    RMG_ABOUT_MARKING
} rmg_job_about;

/* One such sight of a chip. */
typedef struct rmg_job_elsewhere {
    char *chip;          /* as rmg_job_chip names it */
    char *place;         /* in the technician's words; "" of the marking */
    bool failed;         /* there; or it is marked slower, or not as marked */
    rmg_job_about about; /* what was seen */
} rmg_job_elsewhere;

/* A diagnosis that no longer explained what failed: it began again with a later test. */
typedef struct rmg_job_past {
    size_t base;           /* the step in which it was found */
    rmg_suspects suspects; /* of it, as in the state */
    bool apart;            /* it did explain it: each of several chips has a fault of its own, and
                              they are diagnosed one by one from there */
} rmg_job_past;

/* A verification of a ROM in a job, and what followed from it. */
typedef struct rmg_job_reading {
    int64_t entry;           /* number of its entry */
    rmg_rom_verdict verdict; /* what it found */
    rmg_changes changes;     /* all since the base; a chip that was read on its own pins counts as
                                one (RMG_CHANGE_READ), for it was pulled and put back */
    size_t done;             /* of these, before the reading before */
    bool followed;        /* it is a trial; else the base, or a reading that says nothing of it */
    rmg_outcome outcome;  /* of a trial */
    rmg_hypothesis *list; /* [count]: the causes as they stood then, the likeliest first */
    size_t count;         /* of `list` */
} rmg_job_reading;

/* All that a job knows of a ROM that read wrong. */
typedef struct rmg_job_rom {
    rmg_job_reading *readings; /* [reading_count]: those that say something of it, in order */
    size_t reading_count;
    size_t base;          /* the reading in which its causes were found */
    rmg_changes changes;  /* since then, with those that are no change, as above */
    size_t untested;      /* of these, not yet followed by a reading, and changes */
    rmg_hypothesis *list; /* [count]: the causes as they stand now, the likeliest first */
    size_t count;
    rmg_advice *advice; /* [advice_count]: what to do next, the best first */
    size_t advice_count;
    int64_t passed_before; /* number of the entry of the reading before the base that was right,
                              where it was weighed what was changed since; 0: none */
    bool right;            /* the last reading in the board, or where there is none the last one */
} rmg_job_rom;

/* All that follows from a job. */
typedef struct rmg_job_state {
    rmg_job_step *steps; /* [step_count]: its tests, in order */
    size_t step_count;
    size_t base;           /* the step in which something first failed, or failed that what was
                              found before did not explain; step_count: none */
    rmg_suspects suspects; /* of it, replayed, without words */
    rmg_changes changes;   /* since the base, all of them */
    size_t untested;       /* of these, not yet followed by a test */
    rmg_hypothesis *list;  /* [count]: the causes as they stand now, the likeliest first */
    size_t count;
    rmg_advice *advice; /* [advice_count]: what to change next, the best first */
    size_t advice_count;
    rmg_cost_table costs;         /* that it was chosen by */
    rmg_job_elsewhere *elsewhere; /* [elsewhere_count]: chips seen outside this board */
    size_t elsewhere_count;
    rmg_job_past *past; /* [past_count]: diagnoses before the last one, in order */
    size_t past_count;
    rmg_job_rom *roms; /* [rom_count]: ROMs that read wrong, in order */
    size_t rom_count;
    size_t right_roms;     /* verifications that found nothing wrong */
    int64_t passed_before; /* number of the entry of the last test before the base, where that
                              passed and it was weighed what was changed since; 0: none */
    bool passes;           /* the last test passed */
    bool misnamed; /* one showed a chip by another one's name (rmg_trial.shown): then nothing is
                      said of causes */
} rmg_job_state;

/* Works it out. `costs` NULL: the built-in ones; `go_on` as of rmg_replay, may be NULL. Free with
 * rmg_job_state_free in any case. */
rmg_status rmg_job_think(rmg_job *job, const rmg_cost_table *costs,
                         bool (*go_on)(void *context, double share), void *context,
                         rmg_job_state *state, rmg_error *error);
void rmg_job_state_free(rmg_job_state *state);

/* The suspects that a step is a trial of. The state's. */
const rmg_suspects *rmg_job_suspects_at(const rmg_job_state *state, size_t step);

/* A chip on its way: by the socket it was first in, or its label. */
typedef struct rmg_job_chip {
    char *name;    /* "first in U19", "spare 2" */
    char **places; /* [step_count]: the socket it was in at each test; NULL: out of the board */
    bool *failed;  /* [step_count]: something failed in its cells then */
} rmg_job_chip;

/* Where the chips were, test by test. */
typedef struct rmg_job_chips {
    rmg_job_chip *list;       /* [count]: those that were moved, came in, or failed */
    size_t count, step_count; /* chips; tests */
} rmg_job_chips;

/* Works it out. Free with rmg_job_chips_free. */
void rmg_job_chips_of(const rmg_job_state *state, rmg_job_chips *chips);
/* Frees them; {0} is allowed. */
void rmg_job_chips_free(rmg_job_chips *chips);

/* Why a chip and a place that are each right with others are not right together, and the trials
 * that tell: docs/jobs.md has the table. */
typedef enum rmg_together_cause {
    RMG_TOGETHER_CONTACT, /* it was a contact, made anew as the chips were changed */
    RMG_TOGETHER_SPEED,   /* the chip is of a kind that is too slow for the place */
    RMG_TOGETHER_MARKED,  /* it is slower than its marking says */
    RMG_TOGETHER_SUPPLY,  /* it needs more than the place gives */
    RMG_TOGETHER_SIGNALS, /* what reaches the place is late or weak */
    RMG_TOGETHER_CAUSES
} rmg_together_cause;
typedef enum rmg_together_trial {
    RMG_TOGETHER_LOOK,   /* is it marked as fast as the one that passes there? */
    RMG_TOGETHER_BACK,   /* the chip put back there */
    RMG_TOGETHER_CLOCK,  /* ... at a slower clock */
    RMG_TOGETHER_RAISED, /* ... at a supply in the upper part of its window */
    RMG_TOGETHER_LIKE,   /* another one there, marked alike */
    RMG_TOGETHER_GRADE,  /* is it as fast as marked, by itself? */
    RMG_TOGETHER_TRIALS
} rmg_together_trial;
typedef enum rmg_together_result {
    RMG_TOGETHER_UNTRIED,
    RMG_TOGETHER_PASSES, /* of the marking: as fast; of the grade: as marked */
    RMG_TOGETHER_FAILS
} rmg_together_result;

/* What the trials say so far, and which one to make next. */
typedef struct rmg_together {
    double shares[RMG_TOGETHER_CAUSES]; /* of each cause, in sum 1 */
    rmg_together_cause likeliest;       /* of them */
    rmg_together_trial next;            /* RMG_TOGETHER_TRIALS: none tells more than it costs */
    double minutes;             /* to be expected from here on, a wrong conclusion included */
    double bits;                /* of information that the next trial gives in the mean */
    double passes;              /* chance that it passes: 0..1 */
    rmg_together_cause then[2]; /* the likeliest cause if it passes; if it fails */
    double then_share[2];       /* ... and its share */
} rmg_together;

#define RMG_TOGETHER_WRONG_MINUTES 120.0 /* that a wrong conclusion costs */

/* Weighs the causes by `seen`, a rmg_together_result of each trial, and chooses the next trial for
 * a chip of that mount, with which the fewest minutes are to be expected until the end. Trials that
 * cannot be made there by `costs` are not chosen. */
void rmg_together_weigh(const uint8_t seen[RMG_TOGETHER_TRIALS], const rmg_cost_table *costs,
                        rmg_mount mount, rmg_together *together);
/* Chance that the trial passes, were it that cause: 0..1. */
double rmg_together_chance(rmg_together_trial trial, rmg_together_cause cause);
/* The share of a cause before any trial, among all: 0..1. */
double rmg_together_prior(rmg_together_cause cause);

/* A chip that failed in a socket and is right elsewhere, while another one is right there: each may
 * be sound, and too slow or too weak for the other. */
typedef struct rmg_job_combination {
    const char *chip, *other; /* the one that failed there, the one that passed */
    const char *place;        /* where the first is right: in words, or a socket of this board */
    uint16_t socket;          /* in which it failed */
    bool again;               /* it failed there although the other passed before: no contact that
                                 was made anew */
    bool slower, supply;      /* it passes there at a slower clock, at another supply */
    uint8_t seen[RMG_TOGETHER_TRIALS]; /* what the trials made of it (rmg_together_result) */
    rmg_together together;             /* what follows from them */
} rmg_job_combination;

/* Is it more than a contact that may have been made anew when the chips were changed? */
bool rmg_job_combination_sure(const rmg_job_combination *c);

/* Finds them. [*count], to be freed with rmg_job_combinations_free. */
void rmg_job_combinations_of(const rmg_job_state *state, rmg_job_combination **list, size_t *count);
void rmg_job_combinations_free(rmg_job_combination *list, size_t count);

#ifdef __cplusplus
}
#endif
#endif
