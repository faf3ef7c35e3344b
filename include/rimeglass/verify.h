/* Verifying: several readings against a good image, at one supply and clock or at steps of them. */
#ifndef RIMEGLASS_VERIFY_H
#define RIMEGLASS_VERIFY_H

#include "compare.h"
#include "reading.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef struct rmg_verify {
    rmg_reading reading;
    rmg_quality quality;
    rmg_comparison comparison; /* of what most readings say; all zero without an image */
    bool compared;
    uint8_t *image;    /* [rmg_rom_bytes]: what most readings say */
    uint8_t *unsteady; /* [rmg_rom_bytes]: ones at bits that were not steady */
} rmg_verify;

/* Reads and judges; compares with `good` (as an image; NULL: nothing to compare with) and, where it
 * differs, looks among `others`, which are images of the same form. Errors of rmg_reading_begin and
 * _run; what was found then stands. End in any case with rmg_verify_end. */
rmg_status rmg_verify_run(rmg_verify *verify, const rmg_rom *rom, const rmg_target *target,
                          uint32_t readings, const void *good, const rmg_words *others,
                          size_t other_count, bool (*go_on)(void *context, double share),
                          void *context);
/* The same for readings that are there already; they become the verify's. */
rmg_status rmg_verify_judge(rmg_verify *verify, const void *good, const rmg_words *others,
                            size_t other_count);
void rmg_verify_end(rmg_verify *verify);

/* Is all as it should be: steady, driven, and as the image has it? */
bool rmg_verify_good(const rmg_verify *verify);

/* One step of a series. */
typedef struct rmg_verify_step {
    int32_t value;
    uint64_t wrong_bits, unsteady_bits;
    uint32_t first_wrong; /* reading, from 1; 0: none */
    bool set;             /* the port could set it */
} rmg_verify_step;

/* Verifies at low, low + step ... high of a condition, and puts it back as it was. steps[most].
 * RMG_ERR_PORT_CANNOT: the port has no such condition. RMG_ERR_ARGUMENT: more steps than `most`.
 * Without an image each step is compared with what the first one read. */
rmg_status rmg_verify_series(const rmg_rom *rom, const rmg_target *target, uint32_t readings,
                             const void *good, rmg_condition which, int32_t low, int32_t high,
                             int32_t step, rmg_verify_step *steps, size_t most, size_t *count,
                             bool (*go_on)(void *context, double share), void *context);

#ifdef __cplusplus
}
#endif
#endif
