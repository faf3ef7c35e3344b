/* A memory chip on lines that can be driven, let go and sampled: drivers for DRAM, SRAM and ROM,
 * each a bus port. For test sockets behind a microcontroller, or whatever else has pins. No heap;
 * times are the part's, and longer ones where the lines are slower.
 *
 *     static rmg_chip_pins chip = {.pins = &my_pins, .kind = RMG_PINS_SRAM, .mask = 0xFF,
 *                                  .times = {.access_ns = 150, .pulse_ns = 100}};
 *     rmg_chip_begin(&chip);
 *     const rmg_target target = {&rmg_chip_bus, &chip, 0xFF}; */
#ifndef RIMEGLASS_PINS_H
#define RIMEGLASS_PINS_H

#include "bus.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Strobes: what an active level means is the port's affair. */
enum {
    RMG_STROBE_SELECT = 1, /* CE, CS */
    RMG_STROBE_OUTPUT = 2, /* OE */
    RMG_STROBE_WRITE = 4,  /* WE */
    RMG_STROBE_ROW = 8,    /* RAS */
    RMG_STROBE_COLUMN = 16 /* CAS */
};

#define RMG_PINS_VERSION 1u /* of the structure below */

/* The lines. Rules as of a bus port; none can fail. */
typedef struct rmg_pins {
    uint8_t version; /* RMG_PINS_VERSION */

    /* Puts levels on all address lines, bit i on line i; of a DRAM row and column alike. */
    void (*address)(void *context, rmg_addr levels);
    /* Drives the data lines; lets them go; samples them, with nothing of ours on them. */
    void (*drive)(void *context, rmg_word levels);
    void (*let_go)(void *context);
    rmg_word (*sample)(void *context);
    /* Makes these strobes active and all others inactive, at once, or in the order select, row,
     * column, write, output. */
    void (*strobe)(void *context, uint8_t active);
    /* Waits so long or longer. NULL: every call takes longer than any of `times`. */
    void (*wait_ns)(void *context, uint16_t ns);
    /* A clock in microseconds that wraps; NULL: no DRAM is driven, or refresh comes from elsewhere.
     */
    uint32_t (*now_us)(void *context);
} rmg_pins;

/* How the chip is driven. */
typedef enum rmg_pins_kind {
    RMG_PINS_ROM, /* read only */
    RMG_PINS_SRAM,
    RMG_PINS_DRAM
} rmg_pins_kind;

/* What the driver waits for, in nanoseconds. */
typedef struct rmg_chip_times {
    uint16_t setup_ns;   /* address before a strobe */
    uint16_t hold_ns;    /* DRAM: row address after the row strobe, and so to the column strobe */
    uint16_t access_ns;  /* from the last strobe of a read to data */
    uint16_t pulse_ns;   /* length of a write */
    uint16_t recover_ns; /* from the end of an access to the next; precharge of a DRAM */
} rmg_chip_times;

/* The chip. The caller's; fields up to `refresh_us` are set before rmg_chip_begin. */
typedef struct rmg_chip_pins {
    const rmg_pins *pins;  /* the lines */
    void *context;         /* first argument of their functions */
    rmg_pins_kind kind;    /* how it is driven */
    rmg_word mask;         /* data lines */
    uint8_t row_lines;     /* of a DRAM */
    uint16_t refresh_rows; /* rows to walk; 0: refresh comes from elsewhere */
    uint16_t refresh_us;   /* at least one row in so many microseconds */
    rmg_chip_times times;  /* what to wait for */
    /* the driver's own */
    uint16_t row;
    uint32_t due_us;
    bool refreshes;
} rmg_chip_pins;

/* All strobes inactive, data lines let go; of a DRAM eight cycles that wake it. The supplies are
 * on. RMG_ERR_ARGUMENT: a function is missing, or a DRAM without a clock asks for refresh. */
#define rmg_chip_begin RMG_ABI(rmg_chip_begin)
rmg_status rmg_chip_begin(rmg_chip_pins *chip);

/* Refreshes the rows that are due. The driver does it at each access and wait; whoever leaves the
 * chip alone otherwise calls it at least once in refresh_us. */
#define rmg_chip_refresh RMG_ABI(rmg_chip_refresh)
void rmg_chip_refresh(rmg_chip_pins *chip);

/* The port; its context is the rmg_chip_pins. Of a ROM writes are RMG_ERR_PORT_CANNOT; waits and
 * the condition RMG_CONDITION_REFRESH need a clock. */
#define rmg_chip_bus RMG_ABI(rmg_chip_bus)
extern const rmg_bus rmg_chip_bus;

#ifdef __cplusplus
}
#endif
#endif
