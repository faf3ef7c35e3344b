/* The chips that make up a region: the bits and words that each holds. */
#include "rimeglass/rom.h"

#define PARTS_MOST 16u

/* The sockets in a region, in order of bits and addresses. */
static size_t sockets_of(const rmg_rom *rom, uint16_t sockets[PARTS_MOST])
{
    const rmg_placement *placement = &rom->board->placement;
    size_t count = 0;

    for (uint16_t r = 0; rom->region && r < placement->rule_count && count < PARTS_MOST; r++) {
        const rmg_rule *rule = &placement->rules[r];
        bool before = rule->where.last < rom->region->range.first ||
                      rule->where.first > rom->region->range.last;

        for (size_t i = 0; i < count; i++)
            before |= sockets[i] == rule->socket;
        if (!before)
            sockets[count++] = rule->socket;
    }
    return count;
}

size_t rmg_rom_parts(const rmg_rom *rom)
{
    uint16_t sockets[PARTS_MOST];
    const size_t count = rom->board ? sockets_of(rom, sockets) : 0;

    return count > 1 ? count : 0;
}

/* The first data bit of the ROM that this chip holds anywhere; rom->bits: none. */
static uint8_t bit_of(const rmg_rom *rom, uint16_t socket)
{
    const rmg_placement *placement = &rom->board->placement;

    for (uint16_t r = 0; r < placement->rule_count; r++)
        for (uint8_t bit = 0; placement->rules[r].socket == socket && bit < rom->bits; bit++)
            if (rmg_rule_bits(&placement->rules[r]) >> rom->bus_bit[bit] & 1u)
                return bit;
    return rom->bits;
}

static bool holds(const rmg_rom *rom, uint64_t i, uint8_t bit, uint16_t socket)
{
    rmg_place place;

    return rmg_place_find(&rom->board->placement, rom->base + (rmg_addr)i, rom->bus_bit[bit],
                          &place) &&
           place.socket == socket;
}

bool rmg_rom_part(const rmg_rom *rom, size_t part, rmg_word *bits, uint64_t *first, uint64_t *count)
{
    const uint16_t socket = rmg_rom_part_socket(rom, part);
    const uint8_t probe = bit_of(rom, socket);
    uint64_t last = 0;

    *bits = 0;
    *first = *count = 0;
    for (uint64_t i = 0; probe < rom->bits && i < rom->words; i++) {
        if (!holds(rom, i, probe, socket))
            continue;
        for (uint8_t bit = 0; !*count && bit < rom->bits; bit++)
            *bits |= (rmg_word)holds(rom, i, bit, socket) << bit;
        if (!*count)
            *first = i;
        ++*count;
        last = i;
    }
    return *count && last - *first + 1u == *count && (*count & (*count - 1u)) == 0 &&
           *first % *count == 0;
}

uint16_t rmg_rom_part_socket(const rmg_rom *rom, size_t part)
{
    uint16_t sockets[PARTS_MOST];

    return rom->board && part && part <= sockets_of(rom, sockets) ? sockets[part - 1u]
                                                                  : RMG_NO_SOCKET;
}
