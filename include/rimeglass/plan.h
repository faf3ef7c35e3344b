/* A plan: what a pass does, step after step. Built in: quick, full, deep, and the literature's
 * checkerboard test; or a file of one's own, whose keys are described in docs/plans.md. */
#ifndef RIMEGLASS_PLAN_H
#define RIMEGLASS_PLAN_H

#include "board.h"
#include "march.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What a step does. */
typedef enum rmg_step_kind {
    RMG_STEP_WIRING,       /* data and address lines of each bank; first pass only */
    RMG_STEP_FIRST_MEMORY, /* the plan's first march over the first memory alone; first pass only */
    RMG_STEP_NOISE,        /* lines that switch beside one that does not; first pass only */
    RMG_STEP_MARCH,
    RMG_STEP_HOLD,       /* write, leave alone, read; in both polarities */
    RMG_STEP_ROWS,       /* access one row many times, read its neighbours; every row in turn */
    RMG_STEP_NEIGHBOURS, /* every pattern, or change, of a cell and the four around it */
    RMG_STEP_MOVING,     /* each cell against others of its chip, access by access */
    RMG_STEP_COPY /* copy memory onto itself, as programs do: its failing addresses do not count */
} rmg_step_kind;

/* The background of a march: what its "0" is at each word. */
typedef enum rmg_ground {
    RMG_GROUND_SOLID,        /* all zeros in the first pass, a word drawn from the seed in others */
    RMG_GROUND_CHECKERBOARD, /* by row and column address at the chips' pins */
    RMG_GROUND_ROWS,         /* stripes: rows alike, neighbouring rows inverted */
    RMG_GROUND_COLUMNS,      /* the same with columns */
    RMG_GROUND_WALKING,      /* one bit set; once for each bit */
    RMG_GROUND_ADDRESS,      /* the address as data; as often as all address lines need */
    RMG_GROUND_WORD,         /* log2(w)+1 words that distinguish every two bits of a word */
    RMG_GROUND_RANDOM,       /* drawn from the seed, every word another */
    RMG_GROUND_WITHIN        /* the words of rmg_within_words, one after the other */
} rmg_ground;

/* The order of addresses. */
typedef enum rmg_way {
    RMG_WAY_LINEAR,
    RMG_WAY_COLUMNS_FIRST, /* the column address counts fastest */
    RMG_WAY_ROWS_FIRST,    /* the row address does */
    RMG_WAY_COMPLEMENT,    /* every other address is the one opposite */
    RMG_WAY_POWERS         /* once for each address line: that line changes fastest */
} rmg_way;

/* What a cell is to go through with the cells above, below, left and right of it, by row and column
 * at the chips' pins. */
typedef enum rmg_neighbours {
    RMG_NEIGHBOURS_STATIC,  /* each of the 32 patterns; then all are read */
    RMG_NEIGHBOURS_PASSIVE, /* each change of the cell under each of the 16 patterns around it */
    RMG_NEIGHBOURS_ACTIVE,  /* each change of a neighbour under each pattern of the four others */
    RMG_NEIGHBOURS_ALL      /* all of these */
} rmg_neighbours;

/* Each cell in turn is given the other level than all others hold, and is accessed in turn with
 * some of them; rows and columns are those at the chips' pins. */
typedef enum rmg_moving {
    RMG_MOVING_GALLOP_ROW,    /* read with each of its row, to and fro */
    RMG_MOVING_GALLOP_COLUMN, /* ... of its column */
    RMG_MOVING_GALLOP_LINES,  /* ... whose address differs in one line, in two, in all */
    RMG_MOVING_WALK_ROW,      /* each of its row is read, it itself at the end */
    RMG_MOVING_WALK_COLUMN,
    RMG_MOVING_DIAGONAL,  /* all cells of a diagonal at once, all are read; the diagonal moves on */
    RMG_MOVING_BUTTERFLY, /* to and fro with those 1, 2, 4 ... rows or columns away */
    RMG_MOVING_SURROUND   /* the eight around it are written, it is read after each */
} rmg_moving;

/* A step of a plan. */
typedef struct rmg_step {
    rmg_step_kind kind;            /* what it does; which fields count */
    char name[64];                 /* as shown: "March C-, checkerboard" */
    uint8_t code[RMG_MARCH_BYTES]; /* of a march or hold */
    rmg_ground ground;             /* of a march or hold */
    rmg_way way;                   /* of a march */
    uint32_t hold_us;              /* for holds */
    bool stops_refresh;            /* during holds, where the port can */
    uint32_t accesses;             /* to each row */
    rmg_neighbours neighbours;     /* of RMG_STEP_NEIGHBOURS */
    rmg_moving moving;             /* of RMG_STEP_MOVING */
    uint32_t partners;             /* of each cell, or diagonals, at most */
    uint32_t tries;                /* of each line in each way */
} rmg_step;

/* A plan. */
typedef struct rmg_steps {
    char *name;     /* as its file names it */
    char *text;     /* as YAML */
    rmg_step *list; /* [count] */
    size_t count;
} rmg_steps;

#define RMG_STEPS_MOST 64u /* steps of a plan */

/* The built-in plan of that name, or a plan file. RMG_OK and *steps, to be freed with
 * rmg_steps_free; or RMG_ERR_FILE, RMG_ERR_CONTENT with every error found in *errors. */
rmg_status rmg_steps_load(const char *name_or_file, rmg_steps *steps, rmg_errors *errors);

/* The same from text; `name` stands in messages. */
rmg_status rmg_steps_parse(const char *name, const char *text, rmg_steps *steps,
                           rmg_errors *errors);

/* Wiring, first memory and one march on a solid background. RMG_ERR_ROOM: the march has more than
 * RMG_MARCH_BYTES - 1 bytes; no steps then. Free with rmg_steps_free in any case. */
rmg_status rmg_steps_of_march(const char *march_name, const uint8_t *code, rmg_steps *steps);
void rmg_steps_free(rmg_steps *steps);

/* The built-in plans by name, NULL at the end. */
extern const char *const rmg_plan_names[];

/* How often the step's march runs in one pass: once for each background and each order. */
unsigned rmg_step_variants(const rmg_step *step, const rmg_board *board);

/* Operations on each word in one pass, all variants together; and holds. 0 for steps whose accesses
 * do not go by the word. */
uint32_t rmg_step_operations(const rmg_step *step, const rmg_board *board);

/* Accesses of a step of noisy lines, which only the first pass makes, on a healthy board; 0 for
 * others. */
uint64_t rmg_step_first_accesses(const rmg_step *step, const rmg_board *board);

/* Accesses of one pass of the step over so many words of the board, and the time it holds. A board
 * without rules is taken for one bank of 256 rows and columns. */
uint64_t rmg_step_accesses(const rmg_step *step, const rmg_board *board, uint64_t words);
double rmg_step_hold_seconds(const rmg_step *step, const rmg_board *board);

/* What one word goes through in a pass of these steps, as far as it does not depend on its address:
 * marches and holds in their backgrounds. *runs, to be freed with rmg_text_free, [*count]; code
 * stands in the steps. */
typedef struct rmg_word_run {
    const uint8_t *code; /* compiled */
    rmg_word background; /* the value of "0" */
} rmg_word_run;
/* Gives them. */
void rmg_steps_word_runs(const rmg_steps *steps, const rmg_board *board, rmg_word_run **runs,
                         size_t *count);

/* Words of so many bits (1 to 64), one after the other, such that of any two bits each changes in
 * either direction while the other stays at either level; the first is 0. How many. The list is
 * the library's own and stays. */
unsigned rmg_within_words(uint8_t bits, const rmg_word **words);

/* Operations of a test of neighbours, in fifths of an operation on each word. */
unsigned rmg_neighbours_fifths(rmg_neighbours which);

/* Words in rows and columns. `address`: where one is; false: it is not there, and left out. */
typedef struct rmg_grid {
    rmg_addr rows, columns;                         /* how many there are */
    bool (*row)(const void *context, rmg_addr row); /* is any of its words there? NULL: it may be */
    bool (*address)(const void *context, rmg_addr row, rmg_addr column,
                    rmg_addr *address); /* where a word is; false: it is not there */
    const void *context;                /* first argument of both */
} rmg_grid;

/* Told of each read; and asked, now and then, whether to go on. `changes`: made so far; of moving
 * addresses what was read: see rmg_moving_run. */
typedef struct rmg_grid_watch {
    void (*read)(void *context, unsigned changes, rmg_addr address, rmg_word expected,
                 rmg_word actual);                  /* each read */
    bool (*go_on)(void *context, unsigned changes); /* false: stop */
    void *context;                                  /* first argument of both */
} rmg_grid_watch;

/* Runs a test of neighbours, in all bits of the words alike; what they held is lost. A word that
 * reads wrong is written again. RMG_OK, the port's error, or RMG_ERR_CANCELLED. */
rmg_status rmg_neighbours_run(const rmg_target *target, const rmg_grid *grid, rmg_neighbours which,
                              const rmg_grid_watch *watch);

/* What a cell and those around it hold in such a test once so many changes were made, each by all
 * that have a number: the failure's `element`. */
typedef struct rmg_surroundings {
    uint8_t level;  /* of the cell itself */
    uint8_t around; /* bits 0..3: above, below, left, right */
    uint8_t by;     /* which of them changed last, 0..3; 4: the cell itself; 5: nothing yet */
} rmg_surroundings;
/* Works it out for the cell at (row, column). */
rmg_surroundings rmg_neighbours_at(rmg_neighbours which, unsigned changes, rmg_addr row,
                                   rmg_addr column);

/* Runs a test with moving addresses, in all bits of the words alike; rows and columns must be
 * powers of two. What the words held is lost. A word that reads wrong is written again. Of more
 * than `partners` (1 and up) that a cell could have, those are left out whose addresses differ from
 * its own in more lines, but never the one that differs in all; of the diagonals, all but so many,
 * evenly. What was read, as the watch is given it: twice the number of the partner, 127 at most,
 * and 1 where it is the cell that moves. RMG_OK, the port's error, RMG_ERR_ARGUMENT, or
 * RMG_ERR_CANCELLED. */
rmg_status rmg_moving_run(const rmg_target *target, const rmg_grid *grid, rmg_moving which,
                          uint32_t partners, const rmg_grid_watch *watch);

/* In which row and column lines a cell of such a number differs from its partner of the galloping
 * tests; false: they have no such partner, or it is another test. */
bool rmg_moving_partner(rmg_moving which, rmg_addr rows, rmg_addr columns, uint32_t number,
                        rmg_addr *row_lines, rmg_addr *column_lines);

/* Accesses that it makes where all words are there. */
uint64_t rmg_moving_accesses(rmg_moving which, rmg_addr rows, rmg_addr columns, uint32_t partners);

/* A variant's background and order; the terms stand in a list of RMG_TERMS_MOST of the caller's.
 * `ranges` are those of the run. false: the order is linear. */
#define RMG_TERMS_MOST 255u
bool rmg_step_pattern(const rmg_step *step, unsigned variant, const rmg_board *board,
                      const rmg_range *ranges, rmg_range_count range_count, uint64_t seed,
                      uint64_t pass, rmg_background *background, rmg_background_term *terms,
                      rmg_order *order);

#ifdef __cplusplus
}
#endif
#endif
