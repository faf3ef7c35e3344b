/* ROM chips that are read wrong, made up for the benchmark: images, faults, and a bus that gives
 * what a processor would read. Shares nothing with the library's comparison or its simulator. */
#ifndef RMG_BENCH_ROM_WORLD_H
#define RMG_BENCH_ROM_WORLD_H

#include "rimeglass/verify.h"

typedef enum image_sort {
    IMAGE_RANDOM,
    IMAGE_CODE,
    IMAGE_TEXT,
    IMAGE_SPARSE, /* 99 % one value */
    IMAGE_REPEATS,
    IMAGE_SORTS
} image_sort;

typedef enum flaw {
    FLAW_NONE,
    FLAW_DATA_STUCK,
    FLAW_DATA_OPEN,
    FLAW_DATA_TOUCH,
    FLAW_DATA_EXCHANGED,
    FLAW_DATA_ORDER,
    FLAW_DATA_SELDOM,
    FLAW_LINE_STUCK,
    FLAW_LINE_TOUCH,
    FLAW_LINE_EXCHANGED,
    FLAW_LINE_ORDER,
    FLAW_LINE_SELDOM,
    FLAW_ROTATED,
    FLAW_TOO_HIGH,
    FLAW_TOO_LOW,
    FLAW_INSERTED,
    FLAW_MISSING,
    FLAW_PART_REPEATED,
    FLAW_STOPPED_EARLY,
    FLAW_BLOCK_BLANK,
    FLAW_FADING,
    FLAW_TO_ZERO,
    FLAW_WEAK,
    FLAW_PATCHED,
    FLAW_ANOTHER,
    FLAW_ANOTHER_KNOWN,
    FLAW_OTHER_IMAGE,
    FLAW_UNKNOWN_IMAGE,
    FLAW_NO_ANSWER,
    FLAW_ONE_OF_TWO,
    FLAWS
} flaw;

extern const char *const flaw_names[FLAWS];
extern const char *const image_names[IMAGE_SORTS];

#define WORLD_OTHERS 3u

/* One case. Words stand as the bus gives them. */
typedef struct world {
    unsigned lines, bits;
    bool pair;         /* two chips of 8 bits, side by side */
    unsigned undriven; /* 0 high, 1 low, 2 holds */
    uint64_t count;
    image_sort sort;
    flaw what;
    unsigned a, b, level;
    uint64_t first, length;
    double often;
    uint16_t *good, *held; /* [count]: what should be there, and what is read at best */
    uint16_t *others[WORLD_OTHERS];
    unsigned order[24];
    uint64_t invert;
    uint16_t bus; /* what was last on it */
    uint64_t random;
} world;

uint64_t world_dice(uint64_t *state);
/* Of any size and with any image; small chips (2 and 4 KiB) and no random images, where what is
 * read is ambiguous more often; small chips that hold 1 to 24 words, most of them short runs, where
 * it often is. */
typedef enum world_form { WORLD_ANY, WORLD_SMALL, WORLD_FEW } world_form;

void world_make(world *w, uint64_t seed, world_form form);
void world_end(world *w);

/* Does the flaw change anything that could be read? */
bool world_shows(const world *w);

extern const rmg_bus world_bus; /* its context is a world */

#endif
