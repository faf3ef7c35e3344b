/* Glyphs and maps of an image, as something to draw; knows no pen. */
#include "rimeglass/image.h"

#include <glib.h>
#include <string.h>

static size_t row_bytes(const rmg_glyph_form *form)
{
    return (form->width + 7u) / 8u;
}

bool rmg_glyph_form_parse(const char *text, rmg_glyph_form *form)
{
    guint64 width, height, bytes;
    char *end;

    *form = (rmg_glyph_form){0}; /* D7 leftmost, the top row first */
    width = g_ascii_strtoull(text, &end, 10);
    if (end == text || *end != 'x')
        return false;
    text = end + 1;
    height = g_ascii_strtoull(text, &end, 10);
    if (end == text || width < 1 || width > 32 || height < 1 || height > 64)
        return false;
    form->width = (uint8_t)width;
    form->height = (uint8_t)height;
    bytes = height * row_bytes(form);
    if (*end == '/') {
        text = end + 1;
        bytes = g_ascii_strtoull(text, &end, 10);
        if (end == text || bytes < height * row_bytes(form) || bytes > 1024)
            return false;
    }
    form->bytes = (uint16_t)bytes;
    return *end == 0;
}

size_t rmg_glyph_count(const rmg_rom_view *view, const rmg_glyph_form *form)
{
    return view->size / form->bytes;
}

bool rmg_glyph_pixel(const rmg_rom_view *view, const rmg_glyph_form *form, size_t glyph, uint8_t x,
                     uint8_t y, rmg_pixel_mark *mark)
{
    const size_t row = form->bottom_first ? form->height - 1u - y : y;
    const size_t at = glyph * form->bytes + row * row_bytes(form) + x / 8u;
    const unsigned bit = form->low_left ? x % 8u : 7u - x % 8u;
    const bool lit = view->bytes[at] >> bit & 1u;

    *mark = RMG_PIXEL_SAME;
    if (view->unsteady && (view->unsteady[at] >> bit & 1u))
        *mark = RMG_PIXEL_UNSTEADY;
    else if (view->good && lit != (view->good[at] >> bit & 1u))
        *mark = lit ? RMG_PIXEL_EXTRA : RMG_PIXEL_MISSING;
    return lit;
}

bool rmg_glyph_marked(const rmg_rom_view *view, const rmg_glyph_form *form, size_t glyph)
{
    rmg_pixel_mark mark;

    for (uint8_t y = 0; y < form->height; y++)
        for (uint8_t x = 0; x < form->width; x++) {
            rmg_glyph_pixel(view, form, glyph, x, y, &mark);
            if (mark != RMG_PIXEL_SAME)
                return true;
        }
    return false;
}

size_t rmg_map_step(const rmg_rom_view *view, size_t most)
{
    size_t step = 1;

    while ((view->size + step - 1) / step > most)
        step *= 2;
    return step;
}

static uint64_t ones(uint8_t byte)
{
    return (uint64_t)__builtin_popcount(byte);
}

uint64_t rmg_view_address(const rmg_rom_view *view, size_t at)
{
    const size_t unit = MAX(view->unit, 1);

    return view->address + (uint64_t)(at / unit) * MAX(view->unit_step, 1);
}

unsigned rmg_view_bits(const rmg_rom_view *view)
{
    return 8u * MAX(view->unit, 1);
}

unsigned rmg_view_bit_name(const rmg_rom_view *view, unsigned bit)
{
    return view->names ? view->names[bit] : bit;
}

/* Of bytes first, first + step ... only the bits of the mask. */
static void look(const rmg_rom_view *view, size_t first, size_t end, size_t step, uint8_t mask,
                 rmg_map_cell *cell)
{
    uint64_t sum = 0, bits = 0;

    *cell = (rmg_map_cell){.erased = true, .zeros = true};
    for (size_t i = first; i < end; i += step) {
        const uint8_t byte = view->bytes[i] & mask;

        cell->erased &= byte == mask;
        cell->zeros &= byte == 0;
        sum += ones(byte);
        bits += ones(mask);
        if (view->unsteady)
            cell->unsteady += ones(view->unsteady[i] & mask);
        if (view->good)
            cell->different += ones((byte ^ view->good[i]) & mask);
    }
    cell->ones = bits ? (double)sum / (double)bits : 0;
}

void rmg_map_at(const rmg_rom_view *view, size_t first, size_t count, rmg_map_cell *cell)
{
    look(view, first, MIN(first + count, view->size), 1, 0xFF, cell);
}

void rmg_map_bit_at(const rmg_rom_view *view, size_t first, size_t count, unsigned bit,
                    rmg_map_cell *cell)
{
    const size_t unit = MAX(view->unit, 1), lane = bit / 8;
    const size_t from = first + (lane + unit - first % unit) % unit;

    look(view, from, MIN(first + count, view->size), unit, (uint8_t)(1u << bit % 8), cell);
}

static void widen(rmg_map_span *span, const rmg_map_cell *cell)
{
    span->erased |= cell->erased;
    span->zeros |= cell->zeros;
    span->different |= cell->different != 0;
    span->unsteady |= cell->unsteady != 0;
    span->most = MAX(span->most, cell->different + cell->unsteady);
    if (!cell->erased && !cell->zeros) {
        span->mixed = true;
        span->lowest = MIN(span->lowest, cell->ones);
        span->highest = MAX(span->highest, cell->ones);
    }
}

void rmg_map_span_of(const rmg_rom_view *view, rmg_map_by by, size_t step, rmg_map_span *span)
{
    *span = (rmg_map_span){.lowest = 1};
    for (size_t at = 0; at < view->size; at += step) {
        rmg_map_cell cell;

        if (by != RMG_MAP_BITS) {
            rmg_map_at(view, at, step, &cell);
            widen(span, &cell);
        }
        for (unsigned bit = 0; by == RMG_MAP_BITS && bit < rmg_view_bits(view); bit++) {
            rmg_map_bit_at(view, at, step, bit, &cell);
            widen(span, &cell);
        }
    }
}
