/* Watching a chip: it is read again and again while it warms up or cools down, and each pass is
 * compared with the first. */
#ifndef RIMEGLASS_WATCH_H
#define RIMEGLASS_WATCH_H

#include "reading.h"

#ifdef __cplusplus
extern "C" {
#endif

#define RMG_WATCH_MOST   60000u /* passes */
#define RMG_WATCH_MOVED  16u    /* moved bits told one by one */
#define RMG_HEAT_UNKNOWN INT32_MIN

typedef struct rmg_rom_pass {
    double seconds;      /* at its end, since the first pass began */
    int32_t heat_millic; /* thousandths of a degree Celsius, or RMG_HEAT_UNKNOWN */
    bool heat_typed;     /* the technician told it, not the port */
    uint32_t crc32;
    uint64_t words;           /* that differ from the first pass */
    uint64_t to_one, to_zero; /* bits */
} rmg_rom_pass;

/* A bit that moved, and the first pass (from 1) in which it was not as in pass 1. */
typedef struct rmg_moved {
    uint64_t word;
    uint8_t bit;
    uint8_t now; /* what it read then */
    uint32_t pass;
} rmg_moved;

typedef struct rmg_rom_watch {
    rmg_reading reading;
    uint8_t *first_image; /* of pass 1 */
    rmg_word *moved_bits; /* [words]: bits that moved in any pass */
    rmg_rom_pass *passes; /* [count] */
    size_t count, room;
    uint32_t first_change; /* the first pass, from 1, that differed; 0: none */
    rmg_moved moved[RMG_WATCH_MOVED];
    size_t moved_count;
    uint64_t moved_in_all; /* bits */
    uint64_t by_bit[64];   /* of these, by data bit */
    int32_t typed_millic;  /* what the technician typed last, or RMG_HEAT_UNKNOWN; may be set */
} rmg_rom_watch;

/* As rmg_reading_begin. End in any case. */
rmg_status rmg_rom_watch_begin(rmg_rom_watch *watch, const rmg_rom *rom, const rmg_target *target);
void rmg_rom_watch_end(rmg_rom_watch *watch);

/* One pass. `seconds` is asked for the time since the first pass began. Errors as of
 * rmg_reading_run; a pass that was not finished leaves no trace. */
rmg_status rmg_rom_watch_run(rmg_rom_watch *watch, const rmg_target *target,
                             double (*seconds)(void *context),
                             bool (*go_on)(void *context, double share), void *context);

#ifdef __cplusplus
}
#endif
#endif
