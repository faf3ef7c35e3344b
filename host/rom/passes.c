/* Reading a chip again and again, each pass against the first. */
#include "rimeglass/verify.h"

#include <glib.h>
#include <string.h>
#include <zlib.h>

rmg_status rmg_rom_passes_begin(rmg_rom_passes *watch, const rmg_rom *rom, const rmg_target *target)
{
    rmg_status status;

    memset(watch, 0, sizeof *watch);
    watch->typed_millic = RMG_HEAT_UNKNOWN;
    status = rmg_reading_begin(&watch->reading, rom, 1, target);
    if (status != RMG_OK)
        return status;
    watch->first_image = g_try_malloc0((gsize)rmg_rom_bytes(rom));
    watch->moved_bits = g_try_new0(rmg_word, rom->words);
    return watch->first_image && watch->moved_bits ? RMG_OK : RMG_ERR_MEMORY;
}

void rmg_rom_passes_end(rmg_rom_passes *watch)
{
    rmg_reading_end(&watch->reading);
    g_free(watch->first_image);
    g_free(watch->moved_bits);
    g_free(watch->passes);
    memset(watch, 0, sizeof *watch);
}

static rmg_rom_pass *next_pass(rmg_rom_passes *watch)
{
    if (watch->count == watch->room) {
        watch->room = MAX(watch->room * 2u, 64u);
        watch->passes = g_renew(rmg_rom_pass, watch->passes, watch->room);
    }
    watch->passes[watch->count] = (rmg_rom_pass){.heat_millic = RMG_HEAT_UNKNOWN};
    return &watch->passes[watch->count++];
}

static void note_moved(rmg_rom_passes *watch, uint64_t i, rmg_word moved, rmg_word now)
{
    const rmg_word fresh = moved & ~watch->moved_bits[i];

    watch->moved_bits[i] |= moved;
    for (uint8_t bit = 0; bit < watch->reading.rom.bits; bit++) {
        if (!(fresh >> bit & 1u))
            continue;
        watch->moved_in_all++;
        watch->by_bit[bit]++;
        if (watch->moved_count < RMG_ROM_MOVED)
            watch->moved[watch->moved_count++] =
                (rmg_moved){i, bit, (uint8_t)(now >> bit & 1u), (uint32_t)watch->count};
    }
}

static void compare_pass(rmg_rom_passes *watch, rmg_rom_pass *pass)
{
    const rmg_rom *rom = &watch->reading.rom;

    for (uint64_t i = 0; i < rom->words; i++) {
        const rmg_word now = rmg_rom_get(rom, watch->reading.latest, i);
        const rmg_word moved = now ^ rmg_rom_get(rom, watch->first_image, i);

        if (!moved)
            continue;
        pass->words++;
        pass->to_one += (uint64_t)__builtin_popcountll(moved & now);
        pass->to_zero += (uint64_t)__builtin_popcountll(moved & ~now);
        note_moved(watch, i, moved, now);
    }
    if (pass->words && !watch->first_change)
        watch->first_change = (uint32_t)watch->count;
}

rmg_status rmg_rom_passes_read(rmg_rom_passes *watch, const rmg_target *target,
                               double (*seconds)(void *context),
                               bool (*go_on)(void *context, double share), void *context)
{
    rmg_reading *reading = &watch->reading;
    const size_t bytes = (size_t)rmg_rom_bytes(&reading->rom);
    rmg_rom_pass *pass;
    rmg_status status;

    reading->wanted = reading->done + 1u;
    status = rmg_reading_run(reading, target, go_on, context);
    if (status != RMG_OK)
        return status;
    pass = next_pass(watch);
    pass->seconds = seconds(context);
    if (target->bus->get_condition &&
        target->bus->get_condition(target->context, RMG_CONDITION_HEAT_MILLIC,
                                   &pass->heat_millic) != RMG_OK)
        pass->heat_millic = RMG_HEAT_UNKNOWN;
    if (watch->typed_millic != RMG_HEAT_UNKNOWN) {
        pass->heat_millic = watch->typed_millic;
        pass->heat_typed = true;
    }
    pass->crc32 = (uint32_t)crc32(0, reading->latest, (uInt)bytes);
    if (watch->count == 1)
        memcpy(watch->first_image, reading->latest, bytes);
    compare_pass(watch, pass);
    return RMG_OK;
}
