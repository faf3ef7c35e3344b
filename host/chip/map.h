/* Inside the room: another person's pod, by its file (docs/pod.md): which line of the far end is
 * which of ours. */
#ifndef RMG_HOST_CHIP_MAP_H
#define RMG_HOST_CHIP_MAP_H

#include <stdint.h>

#include "rimeglass/pins.h"
#include "rimeglass/text.h"

#define MAP_ADDRESS 24u
#define MAP_DATA    16u
#define NO_LINE     (-1)

enum { MAP_SELECT, MAP_OUTPUT, MAP_WRITE, MAP_STROBES };

typedef struct pod_rail {
    int power; /* line that switches it on, high */
    int feed;  /* line that feeds it through a resistor, high; NO_LINE: it cannot be felt */
    int volts; /* number of the converter that measures it; NO_LINE: it cannot be measured */
} pod_rail;

typedef struct pod_map {
    char *name;
    int address[MAP_ADDRESS], data[MAP_DATA]; /* numbers of lines, 0..255; or NO_LINE */
    int inputs[MAP_DATA];                     /* of parts that have them beside their outputs */
    int strobes[MAP_STROBES];                 /* active low */
    pod_rail rails[3];                        /* +5 V, +12 V, -5 V; all NO_LINE: there is none */
    int good, bad;                            /* lamps */
} pod_map;

/* Reads the file. *map is to be freed with rmg_pod_map_free. RMG_ERR_FILE, RMG_ERR_CONTENT: *error,
 * to be freed with rmg_error_free, has the first thing that is wrong. */
rmg_status rmg_pod_map_read(const char *file, pod_map **map, rmg_error *error);
void rmg_pod_map_free(pod_map *map);

/* How many from 0 on are there. */
unsigned rmg_pod_map_count(const int *lines, unsigned most);

#endif
