/* Inside the room: the pod, and the judgement. */
#ifndef RMG_HOST_CHIP_INTERNAL_H
#define RMG_HOST_CHIP_INTERNAL_H

#include "base/internal.h"
#include "rimeglass/chip.h"
#include "rimeglass/link.h"

enum { POD_PLUS5 = 1, POD_PLUS12 = 2, POD_MINUS5 = 4 };

struct rmg_pod {
    rmg_link *link;
    unsigned lines; /* address lines that it has */
    unsigned data;  /* data lines */
    unsigned rails; /* POD_... */
    unsigned kinds; /* bit k: of this rmg_part_kind */
};

/* Bits of POD_... that the part needs; *other: a supply that no pod has. */
unsigned rmg_pod_rails_of(const rmg_part *part, bool *other);

/* "KEY=HEX" in an answer; `second`: the one behind a comma. false: it is not there. */
bool rmg_pod_number(const char *answer, const char *key, bool second, unsigned *value);

/* Fills graded, holds_ms and gives_way_ms of a good chip that has its supplies. */
rmg_status rmg_chip_grade(rmg_pod *pod, const rmg_chip_plan *plan, rmg_chip *chip);

/* The chip's test ended early: state and why. */
void rmg_chip_stopped(rmg_pod *pod, rmg_chip *chip, rmg_status status);

/* Feeds the rails weakly: is something in, and the right way round? true: it may be powered. */
bool rmg_pod_feel(rmg_pod *pod, rmg_chip *chip);

/* What a run says of the chip: fills state, line, pin and counts. */
void rmg_chip_judge(const rmg_run *run, rmg_chip *chip);

#endif
