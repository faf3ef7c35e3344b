/* The lines of the pod in an ATmega2560. */
#ifndef RMG_POD_WIDE_H
#define RMG_POD_WIDE_H

#include <avr/io.h>

#include "pod.h"

/* Port B. */
enum {
    RAS = 1 << 0,
    CAS = 1 << 1,
    SELECT = 1 << 4,
    OUTPUT = 1 << 5,
    WRITE = 1 << 6,
    IDLE = RAS | CAS | SELECT | OUTPUT | WRITE
};

#define APART_SHIFT                                                                                \
    4u /* inputs stand so many lines above the outputs of a part that has them apart */
#define APART_MOST 0x0Fu /* data lines of such a part */

/* wide.c */
extern volatile bool wide_awake;
extern bool wide_apart; /* inputs and outputs of the part */
extern uint8_t wide_pace;

/* wide_dram.c: "LINES ROWS REFRESH RAILS MASK FROM" of "fit dram". */
bool wide_dram_fit(rmg_far_end *far, uint8_t *rails, rmg_target *target, rmg_addr *last,
                   rmg_far_value *mask);
void wide_dram_wake(void);
void wide_dram_refresh(bool on);
bool wide_dram_hold(uint32_t us);

#endif
