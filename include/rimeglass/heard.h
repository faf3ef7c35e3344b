/* A run that was not made here: what another program reported of a memory, for example in lines of
 * text (lines.h). It says less than a run of our own, and no conclusion goes beyond it: which words
 * passed is known only where that was reported, and so are addresses and directions. */
#ifndef RIMEGLASS_HEARD_H
#define RIMEGLASS_HEARD_H

#include "deadboard.h"
#include "run.h"

#ifdef __cplusplus
extern "C" {
#endif

#define RMG_HEARD_FIRST 16u /* first reports that are kept in words */

/* One report that something failed, as far as it says what. */
typedef struct rmg_report {
    bool at;              /* in the word at `address`, and that can be trusted */
    rmg_addr address;     /* of the word; see `at` */
    uint8_t bank;         /* or RMG_NO_BANK */
    uint16_t socket;      /* of the chip it names, or RMG_NO_SOCKET */
    rmg_word bits;        /* of the bus, that failed; 0: it does not say which */
    bool both;            /* `wrote` and `read` are known */
    rmg_word wrote, read; /* see `both` */
    uint64_t count;       /* so many failures: 1 or more */
    bool of_rom;          /* of a ROM that a test ROM reads: how well RAM is reported it says not */
} rmg_report;

#define RMG_TOLD_READINGS 16u /* of a ROM by a test ROM, a pass each, that are kept */

/* What a test ROM told (testrom.h): one of its passes, which can be played again on a simulated
 * board. */
typedef struct rmg_told {
    rmg_testrom_plan plan;   /* what the ROM does */
    char *march;             /* as it was asked for */
    rmg_testrom_line *lines; /* [count], of the first pass that was heard whole, or the second where
                                that told something else: the first sees what memory came up with */
    size_t count;
    rmg_testrom_line *rom_lines; /* [rom_line_count], of the steps that read ROMs, of the first
                                    RMG_TOLD_READINGS passes that were heard whole; of each
                                    pass and ROM up to the end of the step */
    size_t rom_line_count;       /* of them */
    uint64_t passes;             /* heard whole */
    uint64_t unlike;             /* of the later ones, which told something else again */
    bool blinks; /* blinks alone were seen: the code of its last line is all that is known */
} rmg_told;

/* What was heard up to now, of a run whose `heard` is not NULL. */
typedef struct rmg_heard {
    char *profile;     /* by which the reports were understood */
    bool steps_known;  /* run->steps are what the other program did */
    bool directions;   /* every report said what was written and read */
    bool addresses;    /* every report said at which address, to be trusted */
    bool tested;       /* what was tested was reported: run->tested */
    bool at_least;     /* the source stops reporting after `limit`, and did: more may have failed */
    uint64_t limit;    /* 0: it does not stop */
    uint64_t lines;    /* read */
    uint64_t unknown;  /* of these, lines that the profile does not know */
    uint64_t failures; /* failures reported, counts included */
    uint64_t unplaced; /* of these, with no bit, chip or bank of the board */
    uint64_t *bits;    /* [(bank_count + 1) * word_bits]: failures by bank and bit; the last row:
                          the bank is not known */
    uint64_t *sockets; /* [socket_count]: those that name a chip, and no bit of it */
    uint64_t *banks;   /* [bank_count]: those that name a bank, and nothing of it */
    char *first[RMG_HEARD_FIRST]; /* the first reports, in words */
    unsigned first_count;
    rmg_told *told; /* where the source is a test ROM for this board; else NULL */
} rmg_heard;

/* Begins a run of that kind. `source`: where the reports come from; `profile`: by what they are
 * understood; `steps`: what the other program does, copied, or NULL: not known. RMG_ERR_ROOM as of
 * rmg_run_begin. End it with rmg_run_end in any case. */
rmg_status rmg_run_begin_heard(rmg_run *run, const rmg_board *board, const char *source,
                               const char *profile, const rmg_steps *steps);

/* The reports come from the test ROM that `how` makes for the run's board; what it says is copied.
 * RMG_ERR_ARGUMENT: there is none, *error says why. Then each line of it, as it comes; NULL: one
 * was lost, so that its pass is not whole. */
rmg_status rmg_run_hear_rom(rmg_run *run, const rmg_board_rom *how, rmg_error *error);
void rmg_run_hear_rom_line(rmg_run *run, const rmg_testrom_line *line);

/* Is the line one of a step that reads a ROM? These are kept apart from the others. */
bool rmg_told_of_rom(const rmg_testrom_line *line);

/* Adds a report. `words`: what it says, for run->heard->first; may be NULL. RMG_ERR_MEMORY: it was
 * not added whole. */
rmg_status rmg_run_hear(rmg_run *run, const rmg_report *report, const char *words);

/* So many words from `first` to `last` were tested. Stretches that overlap are joined. */
void rmg_run_hear_tested(rmg_run *run, rmg_range range);

/* A pass of the other program ended. */
rmg_status rmg_run_hear_pass(rmg_run *run, double seconds_wall);

/* Can the run be played again on a simulated board, and compared? The steps must be known, every
 * address, one stretch that was tested, and nothing be missing. */
bool rmg_heard_replayable(const rmg_run *run);

/* Reports that failed in this bank (bank_count: the bank is not known) at one of the bits. */
uint64_t rmg_heard_count(const rmg_run *run, size_t bank, rmg_word bits);

/* Failures reported of what a socket holds in a bank, by bits or by the chip's name; whole-bank
 * reports are not among them. */
uint64_t rmg_heard_of_socket(const rmg_run *run, uint8_t bank, uint16_t socket);

#ifdef __cplusplus
}
#endif
#endif
