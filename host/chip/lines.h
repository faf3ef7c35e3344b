/* Inside the room: a chip on lines that a far end sets and reads one by one. */
#ifndef RMG_HOST_CHIP_LINES_H
#define RMG_HOST_CHIP_LINES_H

#include "map.h"
#include "rimeglass/link.h"
#include "rimeglass/part.h"

/* The lines as they stand, and steps that were not sent yet. */
typedef struct pod_lines {
    rmg_link *link;
    const pod_map *map;
    char steps[96];   /* of a request */
    char answers[64]; /* a digit for each line that was read */
    unsigned answer_count;
    signed char level[256]; /* of each line: 0, 1; -1: let go, -2: pulled up, -3: not known */
    rmg_status status;      /* the first that went wrong; RMG_OK */
    rmg_word written;       /* data lines */
    bool apart, inverted;
    rmg_chip_pins chip;
} pod_lines;

void rmg_pod_lines_begin(pod_lines *lines, rmg_link *link, const pod_map *map);

/* Fits a part that map and far end can hold. */
void rmg_pod_lines_fit(pod_lines *lines, const rmg_part *part, bool apart, uint16_t access_ns);

/* All lines low, but for the data lines, which are let go; or pulled up weakly, all of them. */
rmg_status rmg_pod_lines_low(pod_lines *lines);
rmg_status rmg_pod_lines_pulled(pod_lines *lines);
/* Strobes high: the supplies are on. */
rmg_status rmg_pod_lines_wake(pod_lines *lines);

/* One line, at once; and the millivolts at a converter. */
rmg_status rmg_pod_line_set(pod_lines *lines, int line, bool high);
rmg_status rmg_pod_lines_volts(pod_lines *lines, int converter, unsigned *mv);

/* The chip as a port; its context is the pod_lines. */
extern const rmg_bus rmg_pod_lines_bus;

#endif
