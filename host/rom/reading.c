/* Reading a chip several times, each time in another order and with other values on the bus before.
 */
#include "rimeglass/rom.h"

#include <glib.h>
#include <string.h>

#include "run/internal.h"
#include "rimeglass/bus.h"

#define ASK_EVERY   1024u
#define BLOCK       64u   /* words that are read at once where a port gives blocks */
#define WORDS_TRIED 1024u /* when looking for something to drive the bus with */

static rmg_status bus_read(const rmg_target *target, rmg_addr address, rmg_word *value)
{
    rmg_word raw = 0;
    const rmg_status status = target->bus->read(target->context, address, &raw);

    *value = raw & target->mask;
    return status;
}

static rmg_status bus_write(const rmg_target *target, rmg_addr address, rmg_word value)
{
    return target->bus->write(target->context, address, value & target->mask);
}

static rmg_word bus_mask(const rmg_rom *rom)
{
    rmg_word mask = 0;

    for (uint8_t i = 0; i < rom->bits; i++)
        mask |= (rmg_word)1 << rom->bus_bit[i];
    return mask;
}

/* Zeros, ones, then alternating patterns. */
rmg_word rmg_reading_pattern(uint32_t r)
{
    static const uint64_t patterns[] = {0, UINT64_MAX, UINT64_C(0x5555555555555555),
                                        UINT64_C(0xAAAAAAAAAAAAAAAA)};

    return (rmg_word)patterns[r % 4u];
}

static unsigned wrong_bits(rmg_word a, rmg_word b)
{
    return (unsigned)__builtin_popcountll(a ^ b);
}

static bool in_rom(const rmg_rom *rom, rmg_addr address)
{
    return rom->region && address >= rom->region->range.first && address <= rom->region->range.last;
}

/* Looks through memory that may be read for the words nearest to the patterns. */
static void find_words(rmg_reading *reading, const rmg_target *target)
{
    const rmg_rom *rom = &reading->rom;
    const rmg_word mask = bus_mask(rom);
    unsigned best[4] = {UINT_MAX, UINT_MAX, UINT_MAX, UINT_MAX};

    for (size_t i = 0; i < rom->board->region_count; i++) {
        const rmg_region *region = &rom->board->regions[i];
        rmg_addr last = region->range.last;

        if ((region->kind != RMG_REGION_RAM && region->kind != RMG_REGION_ROM) ||
            in_rom(rom, region->range.first) || last >> rom->board->address_bits)
            continue; /* pages are left alone */
        if (last - region->range.first >= WORDS_TRIED)
            last = region->range.first + WORDS_TRIED - 1u;
        for (rmg_addr a = region->range.first; a <= last; a++) {
            rmg_word value;

            if (bus_read(target, a, &value) != RMG_OK)
                return;
            for (uint32_t p = 0; p < 4; p++) {
                const unsigned wrong = wrong_bits(value & mask, rmg_reading_pattern(p) & mask);

                if (wrong < best[p]) {
                    best[p] = wrong;
                    reading->drive_at[p] = a;
                    reading->drive = RMG_DRIVE_READ;
                }
            }
        }
    }
}

/* The same on a target that is only read, and only there. */
static void find_words_guarded(rmg_reading *reading, const rmg_target *to)
{
    const rmg_board *board = reading->rom.board;
    rmg_permit *permits = g_new0(rmg_permit, MAX(board->region_count, 1));
    uint16_t count = 0;
    rmg_guard guard;
    rmg_target target;

    for (size_t i = 0; i < board->region_count; i++)
        if (board->regions[i].kind == RMG_REGION_RAM || board->regions[i].kind == RMG_REGION_ROM)
            permits[count++] = (rmg_permit){board->regions[i].range, RMG_MAY_READ};
    rmg_guard_begin(&guard, to, permits, count, &target);
    find_words(reading, &target);
    g_free(permits);
}

/* Where values are driven from. */
static void find_drive(rmg_reading *reading, const rmg_target *target)
{
    const rmg_board *board = reading->rom.board;

    reading->drive = RMG_DRIVE_NONE;
    for (size_t i = 0; i < board->region_count; i++)
        if (board->regions[i].kind == RMG_REGION_EMPTY) {
            reading->drive = RMG_DRIVE_WRITE;
            for (size_t p = 0; p < 4; p++)
                reading->drive_at[p] = board->regions[i].range.first;
            return;
        }
    reading->by_blocks = reading->rom.bare && target->bus->read_block &&
                         reading->rom.words % BLOCK == 0 && !reading->rom.region;
    if (!reading->by_blocks)
        find_words_guarded(reading, target);
}

static rmg_status begin(rmg_reading *reading, const rmg_rom *rom, uint32_t readings)
{
    const size_t bits = (size_t)rom->words * rom->bits;

    memset(reading, 0, sizeof *reading);
    reading->rom = *rom;
    reading->wanted = readings;
    if (rom->words > RMG_READING_WORDS)
        return RMG_ERR_ROOM;
    reading->ones = g_try_new0(uint16_t, bits);
    reading->same = g_try_new0(uint16_t, bits);
    reading->latest = g_try_malloc0((gsize)rmg_rom_bytes(rom));
    if (!reading->ones || !reading->same || !reading->latest)
        return RMG_ERR_MEMORY;
    reading->drive = RMG_DRIVE_NONE;
    return RMG_OK;
}

rmg_status rmg_reading_begin(rmg_reading *reading, const rmg_rom *rom, uint32_t readings,
                             const rmg_target *target)
{
    const rmg_status status = begin(reading, rom, readings);

    if (status == RMG_OK)
        find_drive(reading, target);
    return status;
}

rmg_status rmg_reading_of_images(rmg_reading *reading, const rmg_rom *rom,
                                 const void *const *images, uint32_t count)
{
    const rmg_status status = begin(reading, rom, count);

    for (uint32_t r = 0; status == RMG_OK && r < count; r++)
        for (uint64_t i = 0; i < rom->words; i++) {
            const rmg_word word = rmg_rom_get(rom, images[r], i);

            for (uint8_t bit = 0; bit < rom->bits; bit++)
                reading->ones[i * rom->bits + bit] =
                    (uint16_t)(reading->ones[i * rom->bits + bit] + (word >> bit & 1u));
        }
    if (status == RMG_OK) {
        memcpy(reading->latest, images[count - 1u], (size_t)rmg_rom_bytes(rom));
        reading->done = count;
        reading->given = true;
    }
    return status;
}

void rmg_reading_end(rmg_reading *reading)
{
    g_free(reading->ones);
    g_free(reading->same);
    g_free(reading->latest);
    memset(reading, 0, sizeof *reading);
}

void rmg_reading_more(rmg_reading *reading)
{
    reading->wanted++;
}

/* A step through all words that has no factor in common with their number. */
static uint64_t stride(uint64_t words)
{
    uint64_t step = words * 5u / 8u | 1u;

    for (;; step += 2u) {
        uint64_t a = words, b = step;

        while (b) {
            const uint64_t rest = a % b;

            a = b;
            b = rest;
        }
        if (a == 1)
            return step;
    }
}

/* Which word (or block) comes at a position of reading r: upwards, downwards, or with large steps.
 */
static uint64_t one_at(uint32_t r, uint64_t position, uint64_t words, uint64_t step)
{
    switch (r % 3u) {
    case 0:
        return position;
    case 1:
        return words - 1u - position;
    default:
        return position * step % words;
    }
}

static uint64_t word_at(const rmg_reading *reading, uint64_t step)
{
    const uint64_t position = reading->position, words = reading->rom.words;

    if (!reading->by_blocks)
        return one_at(reading->done, position, words, step);
    return one_at(reading->done, position / BLOCK, words / BLOCK, step) * BLOCK + position % BLOCK;
}

/* A word of a block that is read as its first word is asked for. */
typedef struct block {
    uint64_t first; /* word; UINT64_MAX: none was read */
    rmg_word values[BLOCK];
} block;

static rmg_status from_block(const rmg_reading *reading, const rmg_target *target, block *held,
                             uint64_t i, rmg_word *value)
{
    const uint64_t first = i - i % BLOCK;
    rmg_status status = RMG_OK;

    if (held->first != first)
        status = target->bus->read_block(target->context, rmg_rom_address(&reading->rom, first),
                                         BLOCK, held->values);
    held->first = status == RMG_OK ? first : UINT64_MAX;
    *value = held->values[i - first] & target->mask;
    return status;
}

/* Puts a value on the lines; *value is what then was on them. */
static rmg_status drive(const rmg_reading *reading, const rmg_target *target, rmg_word *value)
{
    const rmg_addr at = reading->drive_at[reading->done % 4u];

    switch (reading->drive) {
    case RMG_DRIVE_WRITE:
        *value = rmg_reading_pattern(reading->done);
        return bus_write(target, at, *value);
    case RMG_DRIVE_READ:
        return bus_read(target, at, value);
    default:
        return RMG_OK;
    }
}

static rmg_status read_word(rmg_reading *reading, const rmg_target *target, block *held, uint64_t i,
                            rmg_word *low, rmg_word *high)
{
    const rmg_rom *rom = &reading->rom;
    uint16_t *ones = &reading->ones[i * rom->bits], *same = &reading->same[i * rom->bits];
    rmg_word before = 0, value;
    rmg_status status = drive(reading, target, &before);

    if (status == RMG_OK && reading->by_blocks)
        status = from_block(reading, target, held, i, &value);
    else if (status == RMG_OK)
        status = bus_read(target, rmg_rom_address(rom, i), &value);
    if (status != RMG_OK)
        return status;
    value = rmg_rom_word(rom, value);
    before = rmg_rom_word(rom, before);
    rmg_rom_put(rom, reading->latest, i, value);
    if (reading->expected && !reading->first_wrong &&
        ((value ^ rmg_rom_get(rom, reading->expected, i)) & rmg_rom_known(rom, i))) {
        reading->first_wrong = reading->done + 1u;
        reading->first_wrong_word = i;
    }
    *low &= ~before;
    *high &= before;
    for (uint8_t bit = 0; bit < rom->bits; bit++) {
        ones[bit] = (uint16_t)(ones[bit] + (value >> bit & 1u));
        same[bit] = (uint16_t)(same[bit] + (~(value ^ before) >> bit & 1u));
    }
    return RMG_OK;
}

#define PERMITS 5u /* the words that are read, and where values are driven from */

/* What a reading may touch: nothing of the chip is ever written. */
static void permits_of(const rmg_reading *reading, rmg_permit *permits)
{
    const rmg_rom *rom = &reading->rom;
    const rmg_range words = {rmg_rom_address(rom, 0), rmg_rom_address(rom, rom->words - 1u)};
    const uint8_t may = reading->drive == RMG_DRIVE_WRITE  ? RMG_MAY_WRITE
                        : reading->drive == RMG_DRIVE_READ ? RMG_MAY_READ
                                                           : 0;

    permits[0] = (rmg_permit){words, RMG_MAY_READ};
    for (unsigned p = 0; p < 4; p++)
        permits[1 + p] = (rmg_permit){{reading->drive_at[p], reading->drive_at[p]}, may};
}

rmg_status rmg_reading_run(rmg_reading *reading, const rmg_target *to,
                           bool (*go_on)(void *context, double share), void *context)
{
    const uint64_t words = reading->rom.words;
    const uint64_t step = stride(reading->by_blocks ? words / BLOCK : words);
    block held = {.first = UINT64_MAX};
    rmg_permit permits[PERMITS];
    rmg_status status = RMG_OK;
    rmg_target target;
    rmg_guard guard;
    paging paged;

    permits_of(reading, permits);
    rmg_paging_begin(&paged, reading->rom.board, to);
    rmg_guard_begin(&guard, &paged.target, permits, PERMITS, &target);
    while (reading->done < reading->wanted) {
        rmg_word low = ~(rmg_word)0, high = ~(rmg_word)0;

        for (; reading->position < words; reading->position++) {
            const uint64_t i = word_at(reading, step);

            if (reading->position % ASK_EVERY == 0 && go_on &&
                !go_on(context,
                       ((double)reading->done + (double)reading->position / (double)words) /
                           reading->wanted))
                return RMG_ERR_CANCELLED;
            status = read_word(reading, &target, &held, i, &low, &high);
            if (status != RMG_OK)
                return status;
        }
        if (reading->drive != RMG_DRIVE_NONE) {
            reading->low |= low;
            reading->high |= high;
        }
        reading->position = 0;
        held.first = UINT64_MAX; /* each reading reads anew */
        reading->done++;
    }
    return RMG_OK;
}
