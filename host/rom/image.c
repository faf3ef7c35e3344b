/* Image files as the bytes that a chip, or what the board shows of it, should read as. */
#include <glib.h>
#include <string.h>

#include "base/internal.h"
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

/* Where an image lies in its chip. */
typedef struct layout {
    uint64_t first, last; /* addresses of the file, `last` one past the end */
    uint64_t from;        /* the file's address of the chip's first byte */
    uint64_t shown, most; /* bytes: what the board shows, and all of the chip */
} layout;

static rmg_status misplaced(const rmg_rom *rom, const char *file, const layout *l, uint64_t bus,
                            rmg_error *error)
{
    char what[160];

    if (l->last - l->first > l->most)
        return rmg_fail(error, RMG_ERR_CONTENT, file,
                        "%s holds %" G_GUINT64_FORMAT " bytes, but %s has %" G_GUINT64_FORMAT
                        ": an image must not be larger",
                        file, (guint64)(l->last - l->first), rmg_rom_name(rom, what, sizeof what),
                        (guint64)l->most);
    return rmg_fail(error, RMG_ERR_CONTENT, file,
                    "%s has addresses 0x%" G_GINT64_MODIFIER "X to 0x%" G_GINT64_MODIFIER
                    "X, but %s has 0x%" G_GINT64_MODIFIER "X bytes, on the bus from 0x%" //
                    G_GINT64_MODIFIER "X on: say with --base which of the file's addresses is its "
                    "first byte",
                    file, (guint64)l->first, (guint64)(l->last - 1u),
                    rmg_rom_name(rom, what, sizeof what), (guint64)l->most, (guint64)bus);
}

/* Finds l->from. */
static rmg_status place(const rmg_rom *rom, const rmg_image *image, const char *file,
                        const uint64_t *base, layout *l, char **remark, rmg_error *error)
{
    const bool alone =
        rom->bare || rom->board->word_bits > 8u * rom->bytes; /* one lane of several */
    const uint64_t bus = alone ? 0 : (uint64_t)rom->base << rom->board->byte_shift;
    const bool at_0 = l->last <= l->most;
    const bool on_bus = bus && l->first >= bus && l->last - bus <= l->shown;

    if (base) {
        l->from = *base;
        return l->first >= *base && l->last - *base <= l->most
                   ? RMG_OK
                   : misplaced(rom, file, l, bus, error);
    }
    if (at_0 && on_bus && l->first)
        return misplaced(rom, file, l, bus, error);
    if (on_bus) {
        l->from = bus;
        *remark = g_strdup_printf("its addresses are taken as the board's, from 0x%" //
                                  G_GINT64_MODIFIER "X on",
                                  (guint64)bus);
    } else if (!at_0 && image->count == 1 &&
               (l->last - l->first == l->most || l->last - l->first == l->shown)) {
        l->from = l->first;
    } else if (!at_0) {
        return misplaced(rom, file, l, bus, error);
    }
    return RMG_OK;
}

static void add_remark(char **remark, char *more)
{
    char *both = *remark ? g_strdup_printf("%s; %s", *remark, more) : g_strdup(more);

    g_free(*remark);
    g_free(more);
    *remark = both;
}

/* The pieces in their places in `size` bytes of the chip; one short piece repeated. */
static void lay(const rmg_image *image, const layout *l, uint64_t size, rmg_rom_good *good)
{
    const rmg_piece *first = &image->pieces[0];

    good->bytes = g_malloc((gsize)size);
    good->known = g_malloc0((gsize)size);
    memset(good->bytes, 0xFF, (gsize)size);
    for (size_t i = 0; i < image->count; i++) {
        const rmg_piece *p = &image->pieces[i];

        memcpy(good->bytes + (p->address - l->from), p->bytes, p->size);
        memset(good->known + (p->address - l->from), 0xFF, p->size);
    }
    if (image->count > 1 || first->address || l->from || size % first->size || size == first->size)
        return;
    for (uint64_t at = first->size; at < size; at += first->size)
        memcpy(good->bytes + at, first->bytes, first->size);
    memset(good->known, 0xFF, (gsize)size);
    add_remark(&good->remark,
               g_strdup_printf("the image has %zu bytes, so it is expected repeated %" //
                               G_GUINT64_FORMAT " times",
                               first->size, (guint64)(size / first->size)));
}

static void see_known(const rmg_rom *rom, rmg_rom_good *good)
{
    uint64_t unknown = 0;

    for (uint64_t i = 0; i < rmg_rom_bytes(rom); i++)
        unknown += !good->known[i];
    if (unknown) {
        add_remark(&good->remark,
                   g_strdup_printf("the image says nothing about %" G_GUINT64_FORMAT " of %" //
                                   G_GUINT64_FORMAT " bytes: they are not compared",
                                   (guint64)unknown, (guint64)rmg_rom_bytes(rom)));
        return;
    }
    g_free(good->known);
    good->known = NULL;
}

static void make_good(const rmg_rom *rom, const rmg_image *image, const layout *l,
                      rmg_rom_good *good)
{
    const bool whole = l->last - l->from > l->shown;

    lay(image, l, whole ? l->most : l->shown, good);
    if (whole) {
        char *bytes = good->bytes, *known = good->known;

        good->bytes = part_shown(rom, bytes);
        good->known = part_shown(rom, known);
        g_free(bytes);
        g_free(known);
        g_free(good->remark);
        good->remark = NULL;
        add_remark(&good->remark,
                   g_strdup("the board shows only a part of the chip; that part is compared"));
    }
    see_known(rom, good);
}

rmg_status rmg_rom_good_load(const rmg_rom *rom, const char *file, const uint64_t *base,
                             rmg_rom_good *good, rmg_error *error)
{
    const rmg_part *part =
        rom->region ? NULL : rom->board->sockets[rom->bare ? 0 : rom->socket].part;
    layout l = {.shown = rmg_rom_bytes(rom)};
    rmg_image image;
    rmg_status status;

    memset(good, 0, sizeof *good);
    l.most = part ? MAX(part_bytes(part), l.shown) : l.shown;
    status = rmg_image_load(file, &image, error);
    if (status == RMG_OK) {
        const rmg_piece *end = &image.pieces[image.count - 1u];

        l.first = image.pieces[0].address;
        l.last = end->address + end->size;
        status = place(rom, &image, file, base, &l, &good->remark, error);
    }
    if (status == RMG_OK)
        make_good(rom, &image, &l, good);
    rmg_image_free(&image);
    return status;
}

void rmg_rom_good_free(rmg_rom_good *good)
{
    g_free(good->bytes);
    g_free(good->known);
    g_free(good->remark);
    memset(good, 0, sizeof *good);
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
