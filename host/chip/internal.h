/* Inside the room: the pod, and the judgement. */
#ifndef RMG_HOST_CHIP_INTERNAL_H
#define RMG_HOST_CHIP_INTERNAL_H

#include "base/internal.h"
#include "lines.h"
#include "rimeglass/chip.h"
#include "rimeglass/link.h"

enum { POD_PLUS5 = 1, POD_PLUS12 = 2, POD_MINUS5 = 4 };

struct rmg_pod {
    rmg_link *link;
    pod_map *map;    /* of another person's, whose lines are set one by one; or NULL: */
    pod_lines *each; /* these */
    unsigned lines;  /* address lines that it has */
    unsigned data;   /* data lines */
    bool wide;       /* it is told a part's data lines and where its columns begin, and ... */
    unsigned apart;  /* ... has so many lines for inputs that stand beside outputs */
    unsigned rails;  /* POD_... */
    unsigned kinds;  /* bit k: of this rmg_part_kind */
};

/* Bits of POD_... that the part needs; *other: a supply that no pod has. */
unsigned rmg_pod_rails_of(const rmg_part *part, bool *other);

/* Has the part inputs that stand beside its outputs? */
bool rmg_pod_apart(const rmg_part *part);

/* "KEY=HEX" in an answer; `second`: the one behind a comma. false: it is not there. */
bool rmg_pod_number(const char *answer, const char *key, bool second, unsigned *value);

#define POD_PACES    8u     /* clocks after the last strobe, at most, at which data are sampled */
#define POD_CLOCK_PS 62500u /* of the pod */

/* Writes and reads all cells at both levels, sampled so many clocks after the last strobe;
 * *failing: wrong reads. RMG_ERR_PORT_CANNOT: the pod has no such step. */
rmg_status rmg_chip_read_at(rmg_pod *pod, const rmg_chip *chip, unsigned clocks, uint64_t *failing);

/* Fills the chart, at every step of the +5 V rail. */
rmg_status rmg_chip_at_supplies(rmg_pod *pod, const rmg_chip_plan *plan, const rmg_chip *chip,
                                rmg_grade_chart *chart);

/* Fills graded, holds_ms and gives_way_ms of a good chip that has its supplies. */
rmg_status rmg_chip_grade(rmg_pod *pod, const rmg_chip_plan *plan, rmg_chip *chip);

/* The chip's test ended early: state and why. */
void rmg_chip_stopped(rmg_pod *pod, rmg_chip *chip, rmg_status status);

/* mapped.c: the same as below, of a pod whose lines are set one by one. */
bool rmg_mapped_feel(rmg_pod *pod, rmg_chip *chip);
bool rmg_mapped_power(rmg_pod *pod, rmg_chip *chip);
void rmg_mapped_off(rmg_pod *pod);

/* What rails fed weakly say: low[i] with the lines low, pulled[i] with them pulled up, of +5 V and,
 * where the part has it, +12 V. */
bool rmg_pod_felt(rmg_chip *chip, const unsigned *low, const unsigned *pulled, unsigned count);

/* Feeds the rails weakly: is something in, and the right way round? true: it may be powered. */
bool rmg_pod_feel(rmg_pod *pod, rmg_chip *chip);

/* What a run says of the chip: fills state, line, pin and counts. */
void rmg_chip_judge(const rmg_run *run, rmg_chip *chip);

#endif
