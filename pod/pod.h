/* The pod: firmware for an ATmega328P with a test socket for DRAMs of one data bit. What stands in
 * which file: dram.c accesses and refresh, rails.c supplies and lamps, pod.c the serial line and
 * the intents. How one is built: docs/pod.md.
 *
 *   PC0-PC5  A0-A5            PD2 PD3 PD4  data, clock and latch of the shift register
 *   PB0-PB2  A6-A8            PD5          D, the chip's data input
 *   PB3      RAS              PD6          Q, its output, with a resistor of 10 k to +5 V
 *   PB4      CAS              PD7          high: -5 V is there (optional, see HAS_MINUS5)
 *   PB5      WE               ADC6         +5 V rail, halved
 *   PD0 PD1  serial line      ADC7         +12 V rail, a quarter */
#ifndef RMG_POD_H
#define RMG_POD_H

#include <stdbool.h>
#include <stdint.h>

#define CLOCK_HZ 16000000ul
#define BAUD     1000000ul

/* The part that is fitted. */
typedef struct pod_part {
    uint8_t row_lines, column_lines;
    uint16_t row_last, column_last;
    uint8_t refresh_last; /* rows are walked from 0 to this one */
    uint8_t rails;        /* RAIL_... that it needs */
} pod_part;

enum { RAIL_PLUS5 = 1, RAIL_PLUS12 = 2, RAIL_MINUS5 = 4 };

/* dram.c */
extern const struct rmg_bus dram_bus;
void dram_fit(const pod_part *part);
void dram_lines_low(void);    /* before any supply, and for feeling */
void dram_lines_pulled(void); /* the same: let go, but for the weak pull-ups of the pins */
void dram_wake(void);         /* supplies are up: strobes high, eight cycles, refresh from now on */
void dram_sleep(void); /* no refresh any more; rails_off follows, which takes the lines low */
bool dram_awake(void);

/* rails.c */
void rails_begin(void);
void rails_measure(uint16_t *plus5_mv, uint16_t *plus12_mv, bool *minus5);
/* Feeds a rail (RAIL_PLUS5, RAIL_PLUS12) through 10 k from +5 V and measures it. */
uint16_t rails_feel(uint8_t rail);
/* One rail after the other, each measured; 0, or the one that did not come: all are off then. */
uint8_t rails_on(uint8_t rails);
void rails_off(void);
bool rails_good(void); /* the rails that are on are within their windows; looked at one by one */
void rails_lamps(uint8_t lamps); /* bit 0 good, bit 1 bad */

/* pod.c */
void pod_wait_ms(uint8_t ms);

#endif
