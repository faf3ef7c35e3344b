/* A third model of a board, for judging: nets that are pulled high and low, each with a strength,
 * by whatever is on them. Its faults are those that no fault file has: nets of any two sorts that
 * touch, supplies that sag, chips too weak for their line. It shares no code with the library's
 * simulator nor with the second model (other_board.h). */
#ifndef RMG_BENCH_WIRED_BOARD_H
#define RMG_BENCH_WIRED_BOARD_H

#include "diag.h"

typedef enum wired_sort {
    WIRED_ADDRESS, /* address line `index` */
    WIRED_DATA,    /* data line `index` */
    WIRED_SELECT,  /* select of bank `index`, low while it is chosen */
    WIRED_WRITE    /* the write line, low in writes */
} wired_sort;

typedef struct wired_net {
    wired_sort sort;
    unsigned index;
} wired_net;

typedef enum wired_fault_kind {
    WIRED_TOUCH,       /* `net` and `other` */
    WIRED_PULL,        /* something pulls `net` to `level`, with `strength` */
    WIRED_NO_WRITES,   /* the buffer of `bank` passes reads only */
    WIRED_NO_READS,    /* ... passes writes only */
    WIRED_WRITES_ALL,  /* the write line of `bank` is always low */
    WIRED_WRITES_CHIP, /* the write pin of `chip` is */
    WIRED_FIGHT,       /* `bank2` answers too where `bank` is addressed */
    WIRED_SAG,         /* all cells of `bank` are weak: one in `strength` loses its level */
    WIRED_SWITCHING,   /* where many outputs of `bank` fall at once, the weaker ones do not */
    WIRED_BOUNCE,      /* where many address lines change at once, one of them arrives wrong */
    WIRED_LATE_SELECT, /* `bank` does not answer directly after another one */
    WIRED_ONE_HALF,    /* the multiplexer of `bank` passes the row lines only */
    WIRED_SLOW_LINE,   /* data line `net` does not rise within one access */
    WIRED_WEAK_OUTPUT, /* `chip` cannot pull its lines low in one access */
    WIRED_HALF_CHIP,   /* half of `chip` gives a pattern of its own */
    WIRED_TWO_DEFECTS, /* `chip` has a bad row and cells that lose a level */
    WIRED_FAULTS
} wired_fault_kind;

typedef struct wired_fault {
    wired_fault_kind kind;
    wired_net net, other;
    unsigned bank, bank2, chip; /* the chip as the number of its rule */
    unsigned level, strength;
} wired_fault;

typedef struct wired_board wired_board;

/* The board with that fault, contents and strengths by `dice`. To be freed. */
wired_board *wired_board_new(const diag_board *of, const wired_fault *fault, diag_dice dice);
void wired_board_free(wired_board *b);

extern const rmg_bus wired_board_bus;

#endif
