/* The pod: firmware for a test socket. What stands in which file: dram.c (ATmega328P), wide.c and
 * wide_dram.c (ATmega2560) the chip's lines, accesses and refresh; rails.c supplies and lamps;
 * pod.c the serial line and the intents. How one is built: docs/pod.md.
 *
 *   ATmega328P, DRAM of one data bit         ATmega2560, DRAM, SRAM and ROM
 *   PC0-PC5  A0-A5                           PA0-PA7  A0-A7
 *   PB0-PB2  A6-A8                           PC0-PC7  A8-A15
 *   PB3      RAS                             PL0-PL2  A16-A18
 *   PB4      CAS                             PK0-PK7  D0-D7; of a part with inputs and outputs
 *   PB5      WE                                       apart PK0-PK3 its outputs, PK4-PK7 its inputs
 *   PD5 PD6  D, Q                            PF2-PF7, PJ0, PJ1  D8-D13, D14, D15
 *   PD2-PD4  shift register                  PB0 PB1  RAS, CAS
 *   PD7      high: -5 V is there             PB4 PB5 PB6  CE, OE, WE
 *   ADC6     +5 V rail, halved               PG0 PG1 PG2  shift register: data, clock, latch
 *   ADC7     +12 V rail, a quarter           PG5      high: -5 V is there
 *                                            PF0      +5 V rail, halved
 *                                            PF1      +12 V rail, a quarter */
#ifndef RMG_POD_H
#define RMG_POD_H

#include <stdbool.h>
#include <stdint.h>

#include "rimeglass/far_end.h"

#define CLOCK_HZ 16000000ul
#define BAUD     1000000ul

enum { RAIL_PLUS5 = 1, RAIL_PLUS12 = 2, RAIL_MINUS5 = 4 };

/* dram.c or wide.c: the chip's side. */
extern const char chip_pod_name[];
extern const char chip_pod_has[]; /* the answer to "pod" */
/* The arguments of "fit": the rails that the part needs, its memory and last address. false: they
 * are wrong, and nothing is changed. */
bool chip_fit(rmg_far_end *far, uint8_t *rails, rmg_target *target, rmg_addr *last);
void chip_lines_low(void);    /* before any supply, and for feeling */
void chip_lines_pulled(void); /* the same: let go, but for the weak pull-ups of the pins */
void chip_wake(void); /* supplies are up: strobes high, and refresh from now on if it needs any */
/* Reads sample data so many clocks after the last strobe, 1 to CHIP_PACES; 0: comfortably late.
 * false: it cannot. */
#define CHIP_PACES 8u
bool chip_pace(uint8_t clocks);
bool chip_hold(uint32_t us); /* without refresh for so long; false: it needs none */
void chip_sleep(void); /* no accesses any more; rails_off follows, which takes the lines low */
bool chip_awake(void);

/* rails.c */
void rails_begin(void);
void rails_measure(uint16_t *plus5_mv, uint16_t *plus12_mv, bool *minus5);
/* Feeds a rail (RAIL_PLUS5, RAIL_PLUS12) through 10 k from +5 V and measures it. */
uint16_t rails_feel(uint8_t rail);
/* One rail after the other, each measured; 0, or the one that did not come: all are off then. */
uint8_t rails_on(uint8_t rails);
void rails_off(void);
/* The +5 V rail to another voltage, by outputs that a pod may not have: what comes is to be
 * measured.
 */
#define RAILS_STEPS 8u
#define RAILS_STEP_5                                                                               \
    4u /* where it has 5.0 V; there it is from the start, and once the rails go                    \
        */
void rails_step(uint8_t step);
bool rails_good(void); /* the rails that are on are within their windows; looked at one by one */
void rails_lamps(uint8_t lamps); /* bit 0 good, bit 1 bad */

/* pod.c */
void pod_wait_ms(uint8_t ms);
rmg_status pod_wait_us(uint32_t us); /* RMG_ERR_PORT_LOST: the chip lost its supply meanwhile */
rmg_status pod_supply_mv(int32_t *mv);

#endif
