/* Inside the room: a run while it is carried out. */
#ifndef RMG_HOST_RUN_RUNNER_H
#define RMG_HOST_RUN_RUNNER_H

#include "internal.h"
#include "rimeglass/bus.h"
#include "rimeglass/march.h"
#include "rimeglass/run.h"

/* Reads of one data bit of one bank in the passes that ended: how many expected 0 and 1, and how
 * many of each failed. */
typedef struct rmg_bit_reads {
    uint64_t expected[2];
    uint64_t failed[2];
} rmg_bit_reads;

/* How a run stood when a fault that began during it had failed alike in two passes after the one in
 * which it began; and the lines, checked again. */
typedef struct rmg_since {
    uint64_t after;        /* passes before */
    rmg_tally tally;       /* at that time */
    rmg_bit_reads *reads;  /* [bank_count * board->word_bits], at that time */
    uint64_t passes;       /* since */
    uint64_t fingerprint;  /* of the failure set of each of them */
    bool differs;          /* one had another */
    bool checked;          /* the lines were */
    rmg_failset *failures; /* of the passes since */
    bool *wired;           /* these as in rmg_run */
    rmg_where *wired_where;
    rmg_wiring *wirings;
    rmg_data_detail *data_details;
    rmg_address_detail *address_details;
    rmg_bank_pair *bank_pairs;
} rmg_since;

#define RMG_MANY (UINT64_MAX / 2u) /* passes that failed: none is to be compared any more */

/* What only a run itself needs. */
struct rmg_run_own {
    rmg_failset *pass_failures; /* of the running pass */
    size_t stretch_room;        /* of run->stretches */
    uint64_t fingerprint;       /* of the first pass's failure set */
    bool has_first;             /* false: none yet, or a file of an earlier version has another */
    bool differs;               /* some pass had another failure set than the first */
    bool wiring_done;
    uint64_t clean;         /* passes before the first that failed */
    uint64_t failed_passes; /* from then on, until it is known whether they are alike; RMG_MANY */
    uint64_t last;          /* fingerprint of the last pass */
    rmg_since *since;       /* or NULL */
    rmg_range
        *march_ranges; /* [march_range_count], of a replay: all that is marched over; or NULL */
    size_t march_range_count;
    GArray
        *told; /* of rmg_testrom_line: of the pass that is being told; NULL: not from its start */
    rmg_word *pass_bits; /* of a heard run: [bank_count + 1], bits reported in the running pass */
    rmg_bit_reads *bit_reads; /* [bank_count * board->word_bits], by bank */
};

/* A run while it is carried out. */
typedef struct runner {
    rmg_run *run;
    const rmg_watch *watch;
    const rmg_target *under; /* the user's, pages selected as needed */
    rmg_target target;       /* the same, with every access counted */
    rmg_keeper *keep;        /* contents are put back; or NULL */
    const char *step;        /* its name */
    uint8_t step_number;
    uint64_t planned;       /* accesses of one pass, but the first is longer by ... */
    uint64_t planned_first; /* ... this */
    uint64_t at_pass;       /* accesses when the pass began */
    gint64 start_us;
    uint64_t start_ns;                 /* of the target's clock */
    double before_wall, before_target; /* of a run that is resumed: time spent before */
    bool stops_refresh;
    rmg_observer observer;
    rmg_count asked_words; /* of the element, when the watcher was asked last */
    gint64 asked_us;       /* when the watcher was asked last */
    unsigned told;         /* failures that the watcher was shown */
} runner;

/* ranges.c */
rmg_status rmg_run_choose_ranges(rmg_run *run, rmg_error *error);
bool rmg_run_wiring_where(const rmg_run *run, size_t bank, rmg_where *best);
void rmg_run_choose_first_memory(rmg_run *run);
/* What the run may touch: the tested words, [run->tested_count]; to be freed with g_free. */
rmg_permit *rmg_run_permits(const rmg_run *run);
uint64_t rmg_run_bank_words(const rmg_run *run, size_t bank); /* tested ones */

/* bus.c: makes c->target reach c->under; shows the watcher where the run stands (false: stop);
 * and time spent. */
void rmg_run_bus_begin(runner *c);
bool rmg_run_report(const runner *c);
void rmg_run_times(const runner *c, double *wall, double *target);

/* passes.c: adds a pass that ended, and the number of its failure set. RMG_ERR_MEMORY: it was
 * not added. */
rmg_status rmg_run_add_pass(rmg_run *run, const rmg_stretch *pass, uint64_t fingerprint);

/* since.c: a new one, as the run stands; a pass ended; the lines once more; puts its lines in the
 * place of the run's, which it lends. */
rmg_since *rmg_since_new(const rmg_run *run);
void rmg_since_free(rmg_since *since);
void rmg_since_pass(rmg_run *run, uint64_t fingerprint, bool failed);
rmg_status rmg_since_check_wiring(runner *c, const rmg_target *target);
void rmg_since_lend(const rmg_since *since, rmg_run *run);

/* wiring.c */
rmg_status rmg_run_check_wiring(runner *c, const rmg_target *target);

/* steps.c: one step in one pass, on `to` (c->target, or what keeps contents). Adds up what was
 * expected of each bit. */
rmg_status rmg_run_step(runner *c, const rmg_target *to, const rmg_step *step, uint64_t pass);

/* note.c: a failing read, into the failure sets and to the watcher. */
void rmg_run_note(runner *c, const rmg_failure *failure);

/* rows.c, neighbours.c, copy.c */
rmg_status rmg_run_rows(runner *c, const rmg_target *to, const rmg_step *step, uint64_t pass);
rmg_status rmg_run_neighbours(runner *c, const rmg_target *to, const rmg_step *step, uint64_t pass);
rmg_status rmg_run_moving(runner *c, const rmg_target *to, const rmg_step *step, uint64_t pass);
rmg_status rmg_run_noise(runner *c, const rmg_target *to, const rmg_step *step);
rmg_status rmg_run_copy(runner *c, const rmg_target *to, uint64_t pass);

#endif
