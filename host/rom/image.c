/* Image files as the bytes that a chip, or what the board shows of it, should read as. */
#include <glib.h>
#include <string.h>

#include "base/internal.h"
#include "image/internal.h"
#include "rimeglass/rom.h"

static uint64_t part_bytes(const rmg_part *part)
{
    return ((uint64_t)1 << part->address_lines) * ((part->width + 7u) / 8u);
}

/* Of a whole chip's image, the words that the board reaches; its tied lines choose them. */
static char *part_shown(const rmg_rom *rom, const char *whole)
{
    char *bytes = g_malloc((gsize)rmg_rom_bytes(rom));

    for (uint64_t i = 0; i < rom->words; i++) {
        rmg_addr cell = rom->fixed;

        for (uint8_t k = 0; k < rom->lines; k++)
            cell |= (rmg_addr)(i >> k & 1u) << rom->cell_bit[k];
        memcpy(bytes + i * rom->bytes, whole + cell * rom->bytes, rom->bytes);
    }
    return bytes;
}

/* A short image repeated where it divides evenly, else followed by 0xFF. */
static char *fill_up(char *bytes, size_t size, size_t all, char **remark)
{
    bytes = g_realloc(bytes, all);
    if (all % size == 0) {
        for (size_t at = size; at < all; at += size)
            memcpy(bytes + at, bytes, size);
        *remark = g_strdup_printf("the image has %zu bytes, so it is expected repeated %zu times",
                                  size, all / size);
    } else {
        memset(bytes + size, 0xFF, all - size);
        *remark = g_strdup_printf("the image has only %zu of %zu bytes; 0xFF is expected after it",
                                  size, all);
    }
    return bytes;
}

rmg_status rmg_rom_image(const rmg_rom *rom, const char *file, char **bytes, char **remark,
                         rmg_error *error)
{
    const rmg_part *part =
        rom->region ? NULL : rom->board->sockets[rom->bare ? 0 : rom->socket].part;
    const uint64_t shown = rmg_rom_bytes(rom);
    const uint64_t most = part ? MAX(part_bytes(part), shown) : shown;
    char what[160];
    size_t size;
    rmg_status status;

    *remark = NULL;
    status = rmg_image_load_within(file, most, rmg_rom_name(rom, what, sizeof what), bytes, &size,
                                   error);
    if (status != RMG_OK)
        return status;
    if (size > shown) {
        char *whole = *bytes;

        if (size < most)
            whole = fill_up(whole, size, (size_t)most, remark);
        g_free(*remark);
        *remark = g_strdup("the board shows only a part of the chip; that part is compared");
        *bytes = part_shown(rom, whole);
        g_free(whole);
    } else if (size < shown) {
        *bytes = fill_up(*bytes, size, (size_t)shown, remark);
    }
    return RMG_OK;
}

uint64_t rmg_rom_place_image(const rmg_rom *rom, uint16_t socket, const void *chip, void *bytes)
{
    const rmg_part *part = rom->board->sockets[socket].part;
    const size_t width = (part->width + 7u) / 8u;
    uint64_t placed = 0;

    for (uint64_t i = 0; i < rom->words; i++) {
        rmg_word word = rmg_rom_get(rom, bytes, i);

        for (uint8_t bit = 0; bit < rom->bits; bit++) {
            const uint8_t *at;
            rmg_place place;

            if (!rmg_place_find(&rom->board->placement, rom->base + (rmg_addr)i, rom->bus_bit[bit],
                                &place) ||
                place.socket != socket)
                continue;
            at = (const uint8_t *)chip + place.cell * width + place.data_line / 8u;
            word |= (rmg_word)(*at >> place.data_line % 8u & 1u) << bit;
            placed++;
        }
        rmg_rom_put(rom, bytes, i, word);
    }
    return placed;
}
