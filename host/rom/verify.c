/* Readings against a good image, once or at steps of supply or clock. */
#include "rimeglass/verify.h"
#include "base/internal.h"

#include <glib.h>
#include <string.h>

#define PARTS_MOST 16u
#define LATE_LEAST 32u /* deviations by which lateness is judged */

/* The region's chips, as parts that can be wrong alone. Parts that lie scattered count as the
 * whole. */
static size_t parts_of(const rmg_rom *rom, rmg_compare_part parts[PARTS_MOST])
{
    const size_t count = MIN(rmg_rom_parts(rom), PARTS_MOST);

    for (size_t i = 0; i < count; i++)
        if (!rmg_rom_part(rom, i + 1u, &parts[i].bits, &parts[i].first, &parts[i].count))
            return 0;
    return count;
}

/* Is what differs from the image what was on the lines just before? Bits deviate then only in
 * readings before which the other level was put there; what is wrong by itself deviates in all
 * alike. Of one data line alone it is that line. */
static bool is_late(const rmg_reading *r, const void *good)
{
    const rmg_rom *rom = &r->rom;
    uint64_t deviating = 0, against = 0, of_bit[64] = {0}, most = 0;

    uint32_t driven_high[64] = {0}; /* [bus bit]: readings before which it was driven high */

    if (r->drive != RMG_DRIVE_WRITE || r->done < 2)
        return false;
    for (uint32_t n = 0; n < r->done; n++)
        for (uint8_t bit = 0; bit < rom->bits; bit++)
            driven_high[rom->bus_bit[bit]] +=
                (uint32_t)(rmg_reading_pattern(n) >> rom->bus_bit[bit] & 1u);
    for (uint64_t i = 0; i < rom->words; i++) {
        const rmg_word word = rmg_rom_get(rom, good, i);

        for (uint8_t bit = 0; bit < rom->bits; bit++) {
            const uint32_t ones = r->ones[i * rom->bits + bit], high = word >> bit & 1u;
            const uint32_t wrong = high ? r->done - ones : ones;
            const uint32_t up = driven_high[rom->bus_bit[bit]];
            const uint32_t driven_so = high ? up : r->done - up; /* as the image has it */

            if (!wrong || !(rmg_rom_known(rom, i) >> bit & 1u))
                continue;
            deviating += wrong;
            of_bit[bit] += wrong;
            most = MAX(most, of_bit[bit]);
            against += (driven_so + wrong - r->same[i * rom->bits + bit]) / 2u;
        }
    }
    return deviating >= LATE_LEAST && against * 20u < deviating && 2u * most < deviating;
}

rmg_status rmg_verify_judge(rmg_verify *v, const void *good, const rmg_words *others,
                            size_t other_count)
{
    const rmg_rom *rom = &v->reading.rom;
    const rmg_words image = rmg_rom_words(rom, v->image), wanted = rmg_rom_words(rom, good);
    const rmg_words unsteady = rmg_rom_words(rom, v->unsteady);
    const rmg_words known = rmg_rom_words(rom, rom->known);
    rmg_compare_part parts[PARTS_MOST];
    rmg_compare_hints hints = {.unsteady = &unsteady, .others = others, .other_count = other_count};

    hints.parts = parts;
    hints.part_count = parts_of(rom, parts);
    hints.known = rom->known ? &known : NULL;
    rmg_reading_judge(&v->reading, &v->quality);
    rmg_reading_image(&v->reading, v->image);
    rmg_reading_unsteady(&v->reading, v->unsteady);
    if (!good || v->quality.state == RMG_READ_NONE)
        return RMG_OK;
    hints.follows = v->quality.follows;
    hints.silent = v->quality.silent;
    hints.readings = v->quality.readings;
    hints.in_order = v->reading.given;
    hints.late = v->quality.unsteady_bits && !hints.follows && is_late(&v->reading, good);
    v->compared = true;
    return rmg_compare(&wanted, &image, &hints, &v->comparison);
}

static bool make_room(rmg_verify *v, const rmg_rom *rom)
{
    v->image = g_try_malloc0((gsize)rmg_rom_bytes(rom));
    v->unsteady = g_try_malloc0((gsize)rmg_rom_bytes(rom));
    return v->image && v->unsteady;
}

rmg_status rmg_verify_images(rmg_verify *v, const rmg_rom *rom, const void *const *images,
                             uint32_t count, const void *good, const rmg_words *others,
                             size_t other_count)
{
    rmg_status status;

    memset(v, 0, sizeof *v);
    status = rmg_reading_of_images(&v->reading, rom, images, count);
    if (status == RMG_OK && !make_room(v, rom))
        status = RMG_ERR_MEMORY;
    for (uint32_t r = 0; status == RMG_OK && good && r < count && !v->reading.first_wrong; r++)
        for (uint64_t i = 0; i < rom->words && !v->reading.first_wrong; i++)
            if ((rmg_rom_get(rom, images[r], i) ^ rmg_rom_get(rom, good, i)) &
                rmg_rom_known(rom, i)) {
                v->reading.first_wrong = r + 1u;
                v->reading.first_wrong_word = i;
            }
    return status == RMG_OK ? rmg_verify_judge(v, good, others, other_count) : status;
}

rmg_status rmg_verify_run(rmg_verify *v, const rmg_rom *rom, const rmg_target *target,
                          uint32_t readings, const void *good, const rmg_words *others,
                          size_t other_count, bool (*go_on)(void *context, double share),
                          void *context)
{
    rmg_status status, judged;

    memset(v, 0, sizeof *v);
    status = rmg_reading_begin(&v->reading, rom, readings, target);
    if (status != RMG_OK)
        return status;
    if (!make_room(v, rom))
        return RMG_ERR_MEMORY;
    v->reading.expected = good;
    status = rmg_reading_run(&v->reading, target, go_on, context);
    judged = rmg_verify_judge(v, good, others, other_count);
    return status == RMG_OK ? judged : status;
}

void rmg_verify_end(rmg_verify *v)
{
    rmg_reading_end(&v->reading);
    g_free(v->image);
    g_free(v->unsteady);
    memset(v, 0, sizeof *v);
}

bool rmg_verify_good(const rmg_verify *v)
{
    return v->quality.state == RMG_READ_STEADY && !v->quality.follows &&
           !v->comparison.wrong_bits && !v->reading.first_wrong;
}

static rmg_status one_step(const rmg_rom *rom, const rmg_target *target, uint32_t readings,
                           uint8_t **good, rmg_verify_step *step,
                           bool (*go_on)(void *context, double share), void *context)
{
    rmg_verify v;
    const rmg_status status =
        rmg_verify_run(&v, rom, target, readings, *good, NULL, 0, go_on, context);

    if (status == RMG_OK) {
        step->wrong_bits = v.comparison.wrong_bits;
        step->unsteady_bits = v.quality.unsteady_bits;
        step->first_wrong = v.reading.first_wrong;
        if (!*good) {
            *good = v.image;
            v.image = NULL;
        }
    }
    rmg_verify_end(&v);
    return status;
}

rmg_status rmg_verify_series(const rmg_rom *rom, const rmg_target *target, uint32_t readings,
                             const void *good, rmg_condition which, int32_t low, int32_t high,
                             int32_t step, rmg_verify_step *steps, size_t most, size_t *count,
                             bool (*go_on)(void *context, double share), void *context)
{
    uint8_t *against = (uint8_t *)(uintptr_t)good;
    rmg_status status = RMG_OK;
    int32_t before;

    *count = 0;
    if (low > high || step <= 0 || (size_t)((high - low) / step) + 1u > most)
        return RMG_ERR_ARGUMENT;
    if (!target->bus->get_condition || !target->bus->set_condition ||
        target->bus->get_condition(target->context, which, &before) != RMG_OK)
        return RMG_ERR_PORT_CANNOT;
    for (int64_t value = low; value <= high && status == RMG_OK; value += step) {
        rmg_verify_step *s = &steps[*count];

        *s = (rmg_verify_step){.value = (int32_t)value};
        s->set = target->bus->set_condition(target->context, which, s->value) == RMG_OK;
        if (s->set)
            status = one_step(rom, target, readings, &against, s, go_on, context);
        if (status == RMG_OK)
            ++*count;
    }
    if (target->bus->set_condition(target->context, which, before) != RMG_OK && status == RMG_OK)
        status = RMG_ERR_PORT;
    if (against != good)
        g_free(against);
    return status;
}
