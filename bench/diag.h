/* The benchmark of the diagnosis, in parts: boards at random (diag_boards.c), faults
 * (diag_faults.c), one run of them (diag_run.c), what a right answer is (diag_judge.c), what
 * becomes of all of them (diag_score.c). It shares no code with the proposals. */
#ifndef RMG_BENCH_DIAG_H
#define RMG_BENCH_DIAG_H

#include "rimeglass/fault.h"
#include "rimeglass/replay.h"

/* What a right answer names. */
typedef enum diag_truth {
    TRUTH_CHIP,   /* the fault's chip */
    TRUTH_DATA,   /* the data line, and just the chips in the fault's scope */
    TRUTH_TOUCH,  /* both data lines */
    TRUTH_LINES,  /* the address lines, and just the chips in the fault's scope */
    TRUTH_WRITE,  /* just the chips in the fault's scope */
    TRUTH_BANK,   /* the bank */
    TRUTH_SELECT, /* both banks */
    TRUTH_NOBODY
} diag_truth;

/* For which chips a fault acts. */
typedef enum diag_reach {
    REACH_CHIP,
    REACH_BANK,
    REACH_ALL,    /* on the same half of the bus */
    REACH_BRANCH, /* beyond a point of a traced line */
    REACH_SOME    /* any two or more, as beyond a cut that nobody traced */
} diag_reach;

typedef enum diag_when {
    WHEN_ALWAYS,
    WHEN_NOW_AND_THEN,
    WHEN_WARM,     /* ... while the board is warm */
    WHEN_AT_FIRST, /* often, but only until the board has settled */
    WHEN_LATER     /* often, from some time on */
} diag_when;

/* How the banks of a board are chosen. */
typedef enum diag_family { DIAG_HIGH, DIAG_INTERLEAVED, DIAG_LANES, DIAG_FAMILIES } diag_family;
extern const char *const diag_family_names[DIAG_FAMILIES];

typedef struct diag_kind {
    const char *name;
    rmg_fault_kind fault;
    diag_truth truth;
    diag_reach reach;
    diag_when when;
    bool coupled;
    bool time; /* it takes holds without refresh, or rows disturbed, to show */
} diag_kind;

extern const diag_kind diag_kinds[];
extern const size_t diag_kind_count;

#define DIAG_FAULTS 36u /* at once, at most */

/* Dice: xorshift; every case begins with its own seed. */
typedef uint64_t diag_dice;
diag_dice diag_seed(uint64_t seed, uint64_t use);
uint64_t diag_roll(diag_dice *dice, uint64_t below); /* 0 where that is 0 */

/* The seed of a world: what memory comes up with, and when what comes and goes does. */
uint64_t diag_world(diag_dice *dice);

/* A board for a case: one of the demo's, or one made up, which may differ in what its lines do when
 * nothing drives them from what its file says. */
typedef struct diag_board {
    rmg_board *board;
    bool made_up;
    rmg_undriven undriven; /* of a made-up one: what its lines do in truth; told or not */
    uint64_t hold_ns;      /* never told */
    bool high_wins;        /* where two chips drive a line */
} diag_board;

/* Made up: 8, 16 or 32 bits, chips 1, 4, 8 or 16 wide, 1 to 4 banks, with or without multiplexers
 * and traced lines. Exits where the board file has an error. */
void diag_board_make(uint64_t seed, diag_family family, diag_board *made);

/* Cells of all its chips. */
uint64_t diag_board_cells(const rmg_board *board);

/* A fault of the kind at a random place; false: this board cannot have it. */
bool diag_fault_make(diag_dice *dice, const diag_board *board, const diag_kind *kind,
                     rmg_sim_fault *fault);

/* One run of a board with faults, and what the diagnosis made of it. */
typedef struct diag_case {
    const diag_board *board;
    rmg_sim_fault faults[DIAG_FAULTS];
    uint16_t fault_count;
    uint32_t passes;
    bool time;
    diag_when when;
    bool longer;      /* March SS instead of March C- */
    unsigned burst;   /* 0: the library's simulator; else the second model (other_board.h) */
    uint64_t onset;   /* accesses until what is there later on comes; 0: as `settles` says */
    uint32_t settles; /* 100,000 accesses until what is there at first is gone, or comes */
    rmg_addr limit;   /* the last word that is tested; 0: all */
    uint64_t world;
    rmg_run run;
    rmg_suspects suspects;
    double own_seconds, diagnosis_seconds;
    bool failed;
} diag_case;

/* Runs it; the suspects are found and replayed only where `diagnose`. End it in any case. */
void diag_case_run(diag_case *c, bool diagnose);
void diag_case_end(diag_case *c);

/* Does a fault that a suspect can be give the measured run's failures, on the board as it was? */
bool diag_member_holds(const diag_case *c, const rmg_replayed *member);

/* Does the suspect name the place of the fault; is the fault's kind among those that gave the same;
 * a socket named with more than 50 % that has no fault. */
bool diag_place_right(const diag_case *c, const rmg_suspect *s, const diag_kind *kind,
                      const rmg_sim_fault *fault);
/* Does the rival name that chip or data line, where its suspect names none? */
bool diag_rival_right(const rmg_rival *rival, const diag_kind *kind, const rmg_sim_fault *fault);
/* Is the suspect about chips of the case's faults only, that of fault n among them, with a fault at
 * each among its rivals? */
bool diag_names_in_a_set(const diag_case *c, const rmg_suspect *s, unsigned n);
bool diag_kind_among(const rmg_suspect *s, const diag_kind *kind);
bool diag_wrong_socket(const diag_case *c, const diag_kind *const *kinds);

/* Fault n of a case: always there, of another chip than those before; `chips`: of a chip. false:
 * the board has none. */
bool diag_fault_beside(diag_case *c, diag_dice *dice, unsigned n, bool chips,
                       const diag_kind **kind);

double diag_now(void);

/* Prints the time that whole calls of the tool (a path) take, on boards of 64 KiB with so many
 * single faults (0: not these), and of 2^22 words, 16 MiB, and so on up to 2^lines. */
void diag_by_size(const char *tool, unsigned cases, unsigned lines);

#endif
