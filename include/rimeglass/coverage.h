/* What a march test can and cannot find: computed, by running it through the same engine on a small
 * memory with every instance of every class of fault. The classes are defined in docs/coverage.md.
 */
#ifndef RIMEGLASS_COVERAGE_H
#define RIMEGLASS_COVERAGE_H

#include "march.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Classes of faults; docs/coverage.md defines them. */
typedef enum rmg_fault_class {
    RMG_CLASS_SAF, /* stuck-at */
    RMG_CLASS_TF,  /* transition */
    /* address faults by van de Goor's four types, and by what is read where no cell or two are
       reached: wired-AND, wired-OR, or the value read before */
    RMG_CLASS_AF_A_AND, /* A: an address reaches no cell, and its cell is reached by none */
    RMG_CLASS_AF_A_OR,
    RMG_CLASS_AF_A_LAST,
    RMG_CLASS_AF_B_AND, /* B: an address reaches no cell, another reaches two */
    RMG_CLASS_AF_B_OR,
    RMG_CLASS_AF_B_LAST,
    RMG_CLASS_AF_C,     /* C: a cell is reached by no address, another by two */
    RMG_CLASS_AF_D_AND, /* D: an address reaches two cells, a cell is reached by two addresses */
    RMG_CLASS_AF_D_OR,
    RMG_CLASS_SOF,   /* stuck open */
    RMG_CLASS_CFIN,  /* inversion coupling */
    RMG_CLASS_CFID,  /* idempotent coupling */
    RMG_CLASS_CFST,  /* state coupling */
    RMG_CLASS_CFDS,  /* disturb coupling */
    RMG_CLASS_CFTR,  /* transition coupling */
    RMG_CLASS_CFWD,  /* write destructive coupling */
    RMG_CLASS_CFRD,  /* read destructive coupling */
    RMG_CLASS_CFDRD, /* deceptive read destructive coupling */
    RMG_CLASS_CFIR,  /* incorrect read coupling */
    RMG_CLASS_WDF,   /* write destructive */
    RMG_CLASS_RDF,   /* read destructive */
    RMG_CLASS_DRDF,  /* deceptive read destructive */
    RMG_CLASS_IRF,   /* incorrect read */
    RMG_CLASS_DRF,   /* data retention */
    RMG_CLASS_LCFIN, /* linked: two inversion couplings on one victim */
    RMG_CLASS_LCFID, /* linked: two idempotent couplings, one to 1 and one to 0 */
    RMG_CLASS_COUNT
} rmg_fault_class;

/* Its name in the literature, "CFid"; and a few words for what it is. Constant texts. */
const char *rmg_fault_class_name(rmg_fault_class fault_class);
const char *rmg_fault_class_text(rmg_fault_class fault_class);

/* Instances of a class: how many there are, and how many the march finds whatever the memory held
 * before and whichever way each ⇕ runs. */
typedef struct rmg_coverage {
    uint32_t instances; /* of the class */
    uint32_t found;     /* of these */
} rmg_coverage;

/* Computes the coverage of a compiled march for one class. RMG_ERR_ARGUMENT: no march, or more than
 * 8 elements of order ⇕. */
rmg_status rmg_march_coverage(const uint8_t *code, rmg_fault_class fault_class,
                              rmg_coverage *coverage);

#define RMG_COVERAGE_MARCHES 32u /* that are looked at together */

/* A march in a background: cells whose address has an odd number of ones in `lines` (of its three
 * bits) hold the complement. 0: solid. The two lower bits are taken for the row, the upper one for
 * the column, so a checkerboard is 5, rows 1, columns 4. */
typedef struct rmg_covered {
    const uint8_t *code; /* compiled */
    uint8_t lines;       /* of three address bits: where an odd number is 1, "0" is 1 */
} rmg_covered;

/* The same for several marches, one after the other, 1..RMG_COVERAGE_MARCHES: an instance counts if
 * one of them alone always finds it, so the share is a lower limit. */
rmg_status rmg_marches_coverage(const rmg_covered *marches, size_t count,
                                rmg_fault_class fault_class, rmg_coverage *coverage);

/* The same, and of each instance, in an order that is always the same, whether it is found: the
 * first `room` of them in each[]. */
#define RMG_COVERAGE_INSTANCES 1456u /* the most that a class has */
rmg_status rmg_marches_found(const rmg_covered *marches, size_t count, rmg_fault_class fault_class,
                             rmg_coverage *coverage, bool *each, size_t room);

/* Faults between two bits of one word, which are written and read at once. */

/* What a coupling does to a victim that the same write changes: the sources differ. In both the
 * state of an aggressor is the one after the write. */
typedef enum rmg_within_reading {
    RMG_WITHIN_AFTER,    /* it acts after the word is stored, on whatever the victim was given */
    RMG_WITHIN_UNCHANGED /* it acts only on a victim that the write does not change */
} rmg_within_reading;

/* A march over a word in a background; several are run one after the other. */
typedef struct rmg_within {
    const uint8_t *code; /* compiled */
    rmg_word background; /* the value of "0" */
} rmg_within;

/* The share of a class, CFin to CFir, between any two of `bits` bits (2..64, no more than rmg_word
 * has), that these runs find, whatever the word held before. RMG_ERR_ARGUMENT: another class, no
 * run, another width. */
rmg_status rmg_within_coverage(const rmg_within *runs, size_t count, uint8_t bits,
                               rmg_fault_class fault_class, rmg_within_reading reading,
                               rmg_coverage *coverage);

/* Faults of a cell that depend on what the cells above, below, left and right of it hold. */
typedef enum rmg_pattern_class {
    RMG_PATTERN_STATIC,  /* it takes a level while they hold a pattern */
    RMG_PATTERN_PASSIVE, /* it cannot be changed to a level while they hold a pattern */
    RMG_PATTERN_ACTIVE,  /* it takes a level when one of them changes while the others hold one */
    RMG_PATTERN_CLASSES
} rmg_pattern_class;

/* The widest; also the difference of two addresses that differ by one row. */
#define RMG_NEIGHBOURHOOD_SIDE 16u

/* Cells in rows and columns; the word of (row, column) at the pins has the address
 * RMG_NEIGHBOURHOOD_SIDE * row + column, and one bit. */
typedef struct rmg_neighbourhood {
    uint8_t rows, columns; /* 2..RMG_NEIGHBOURHOOD_SIDE */
    /* [rows], [columns]: which row and column of the array an address reaches; NULL: its own */
    const uint8_t *row_order, *column_order;
    bool one_victim; /* faults of the array's cell (victim_row, victim_column) alone */
    uint8_t victim_row, victim_column;
} rmg_neighbourhood;

#define RMG_NEIGHBOUR_CONTENTS 6u /* contents of the cells that each instance is tried with */

/* Tests all words of it through `target`; true: something read wrong. It is called for each
 * instance with one content of the cells after the other, RMG_NEIGHBOUR_CONTENTS of them, until it
 * returns false. */
typedef bool (*rmg_neighbour_test)(void *context, const rmg_target *target,
                                   const rmg_neighbourhood *at);

/* The share of a class that the test finds, whatever the cells held before. RMG_ERR_ARGUMENT: too
 * few rows or columns, or too many. */
rmg_status rmg_neighbour_coverage(const rmg_neighbourhood *at, rmg_pattern_class pattern_class,
                                  rmg_neighbour_test test, void *context, rmg_coverage *coverage);

/* Chips that are slow from one access to the next. */
typedef enum rmg_successive_class {
    /* an access to one address that directly follows one to another still reaches that one; the two
     * differ in one line, in two, in all */
    RMG_SUCCESSIVE_ONE_LINE,
    RMG_SUCCESSIVE_TWO_LINES,
    RMG_SUCCESSIVE_ALL_LINES,
    RMG_SUCCESSIVE_LINE,      /* the access with which a line rises, or falls, has its old level */
    RMG_SUCCESSIVE_PRECHARGE, /* a read shows the level of the row of its column accessed before */
    RMG_SUCCESSIVE_RECOVERY,  /* ... written before */
    RMG_SUCCESSIVE_CLASSES
} rmg_successive_class;

#define RMG_SUCCESSIVE_CELLS    16u /* four rows and four columns, words of one bit */
#define RMG_SUCCESSIVE_CONTENTS 6u  /* contents of the cells that each instance is tried with */

/* Tests the words 0 to 15 through `target`; true: something read wrong. Called for each instance
 * with one content of the cells after the other, until it returns false. */
typedef bool (*rmg_successive_test)(void *context, const rmg_target *target);

/* The share of a class that the test finds, whatever the cells held before. Row lines are the lower
 * lines of the words' addresses; with `columns_low` the upper ones. RMG_ERR_ARGUMENT: no class. */
rmg_status rmg_successive_coverage(rmg_successive_class successive_class, bool columns_low,
                                   rmg_successive_test test, void *context, rmg_coverage *coverage);

#ifdef __cplusplus
}
#endif
#endif
