/* A chip out of its board, in the socket of a pod (docs/pod.md): what the pod can hold, checks
 * before any supply, the test, and a verdict in records; report.h has the words. */
#ifndef RIMEGLASS_CHIP_H
#define RIMEGLASS_CHIP_H

#include "board.h"
#include "grade.h"
#include "run.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A pod behind the link. */
typedef struct rmg_pod rmg_pod;

/* Opens a stream (stream.h) at whose end a pod speaks; `map`: the file of one whose lines are set
 * one by one (docs/pod.md), or NULL. RMG_ERR_PORT_LOST: nobody answers; RMG_ERR_PORT_CANNOT: the
 * far end is no pod, or one that says nothing we know; RMG_ERR_FILE, RMG_ERR_CONTENT: of the file.
 * *error, to be freed with rmg_error_free, says more. */
rmg_status rmg_pod_open(const char *stream, const char *map, rmg_pod **pod, rmg_error *error);
void rmg_pod_close(rmg_pod *pod); /* takes the supplies off first; NULL is allowed */
const char *rmg_pod_name(const rmg_pod *pod);

/* Has the pod lines and rails for this part? NULL, or why not, to be freed with rmg_text_free. */
char *rmg_pod_refuses(const rmg_pod *pod, const rmg_part *part);

/* Lights a lamp of the pod: of the good tray, the bad one, or none. */
void rmg_pod_lamp(rmg_pod *pod, bool good, bool bad);

/* The verdict on a chip. */
typedef enum rmg_chip_state {
    RMG_CHIP_GOOD,     /* nothing failed */
    RMG_CHIP_FAILS,    /* cells, rows, columns, a line */
    RMG_CHIP_HALF,     /* every failure lies in one half */
    RMG_CHIP_SMALLER,  /* it answers like a smaller part: not what it is marked as */
    RMG_CHIP_NOTHING,  /* nothing is in the socket */
    RMG_CHIP_REVERSED, /* it is the wrong way round: no supply was given */
    RMG_CHIP_SHORTED,  /* a supply pin is shorted: no supply was given */
    RMG_CHIP_DRAWS,    /* a rail did not come up, or left its window */
    RMG_CHIP_STOPPED   /* the test did not end: the pod went away, or somebody stopped it */
} rmg_chip_state;

#define RMG_CHIP_WHY 320u /* bytes of a message */

/* What was found. */
typedef struct rmg_chip {
    const rmg_part *part;   /* it was tested as */
    rmg_chip_state state;   /* the verdict */
    char why[RMG_CHIP_WHY]; /* of DRAWS and STOPPED: what the pod or the link says */
    unsigned rail_mv;       /* of NOTHING, REVERSED, SHORTED: the rail, fed weakly */
    unsigned supply_mv;     /* +5 V rail under test; 0: not measured */
    bool unfelt; /* the pod could not feel whether it was in, and the right way round, before the
                    supply */
    rmg_word dead_low;       /* FAILS: data lines that always read 0, */
    rmg_word dead_high;      /* and 1 */
    uint64_t words, failing; /* cells tested; cells that ever failed */
    uint64_t high, low;      /* cells that read 1 for 0, and 0 for 1 */
    uint8_t pin;            /* FAILS, SMALLER: the pin of a dead line, as numbered on the part; 0 */
    bool data;              /* that pin is its output (else an address pin) */
    bool output_high;       /* the level that it always has */
    uint8_t line;           /* HALF: the address line that parts the halves, row lines first */
    bool bad_level;         /* HALF: its level in the bad half */
    uint8_t smaller_lines;  /* SMALLER: address lines that it answers to, */
    uint8_t smaller_width;  /* or, not 0, data lines that answer */
    unsigned rows, columns; /* FAILS: whole rows and columns that fail, */
    uint64_t cells;         /* and cells that fail beside those */
    rmg_addr first;         /* the first failing cell: row | column << row lines */
    bool graded;            /* of a GOOD one: its limits were tried, */
    unsigned holds_ms; /* of a DRAM the longest time without a failure, three times over; 0: none */
    unsigned gives_way_ms; /* the shortest time with one; 0: none up to 16 s */
    unsigned cas_ns;       /* data were there so long after CAS fell, of an SRAM after its select,
                              three times over; 0: not */
    unsigned not_cas_ns;   /* and not yet so long after it; 0: no step was too short */
    uint64_t passes;       /* that ended */
    double seconds;        /* of the test, supplies on */
} rmg_chip;

/* Fits the part, feels and powers it: true, and it may be accessed until rmg_pod_release. false: it
 * has no supply, and the chip says why. The part must be one that the pod does not refuse. */
bool rmg_pod_hold(rmg_pod *pod, const rmg_part *part, rmg_chip *chip);
/* The same in a few words; to be freed with rmg_text_free. */
char *rmg_chip_refused(const rmg_chip *chip);
void rmg_pod_release(rmg_pod *pod);
/* The chip that it holds, as a target; valid until the pod is closed. */
rmg_target rmg_pod_target(const rmg_pod *pod, const rmg_part *part);
/* A board of that one chip, its socket named so: what sits in the pod, for whatever needs a board.
 * To be freed with rmg_board_free; NULL: no memory. */
rmg_board *rmg_chip_board(const rmg_part *part, const char *socket);
/* What went wrong last on the way to the pod; "" nothing. */
const char *rmg_pod_why(const rmg_pod *pod);

/* How to test. */
typedef struct rmg_chip_plan {
    const char *march_name;                        /* for messages */
    const uint8_t *march;                          /* compiled */
    uint32_t passes;                               /* 1 or more */
    uint64_t seed;                                 /* of the backgrounds of later passes */
    bool (*progress)(void *context, double share); /* false: stop; NULL: nobody asks */
    void *context;
    bool grade; /* try how soon a good chip's data are there, and how long a DRAM holds */
    rmg_grade_chart *chart; /* the former at several supplies as well, if the pod can step its +5 V
                               rail: filled, an empty one before, to be freed with rmg_grade_free;
                               at most one supply in it: it cannot. NULL: not asked for */
} rmg_chip_plan;

/* Checks, powers, tests, and takes the supplies off. The part must be one that the pod does not
 * refuse. RMG_ERR_MEMORY; all else is a verdict. */
rmg_status rmg_chip_test(rmg_pod *pod, const rmg_part *part, const rmg_chip_plan *plan,
                         rmg_chip *chip);

/* Stock files: a verdict a line (rmg_chip_line). Texts are the stock's own. */
typedef struct rmg_stock_row {
    char *part, *label, *lot, *when, *state, *text; /* what stands in the line, in its order */
    bool good;                                      /* the verdict is that it is good */
    int holds_ms;                                   /* without refresh; -1: not graded */
    int cas_ns;                                     /* from CAS to data; 0: not graded */
} rmg_stock_row;

/* A stock file, as it was read. */
typedef struct rmg_stock {
    rmg_stock_row *rows; /* [count], in the order in which they were added */
    size_t count;
} rmg_stock;

/* RMG_ERR_FILE: it cannot be read; RMG_ERR_CONTENT: a line is no verdict. *error, to be freed with
 * rmg_error_free, says which; the stock is empty then. Else free it with rmg_stock_free. */
rmg_status rmg_stock_load(const char *file, rmg_stock *stock, rmg_error *error);
void rmg_stock_free(rmg_stock *stock);

/* Adds a line; a file that is not there yet begins with it. RMG_ERR_CONTENT: the file is something
 * else, or ends in half a line, and stays as it is; RMG_ERR_FILE. */
rmg_status rmg_stock_add(const char *file, const char *line, rmg_error *error);

#ifdef __cplusplus
}
#endif
#endif
