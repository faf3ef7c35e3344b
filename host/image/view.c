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

void rmg_map_at(const rmg_rom_view *view, size_t first, size_t count, rmg_map_cell *cell)
{
    const size_t end = MIN(first + count, view->size);
    uint64_t sum = 0;

    *cell = (rmg_map_cell){.erased = true, .zeros = true};
    for (size_t i = first; i < end; i++) {
        const uint8_t byte = view->bytes[i];

        cell->erased &= byte == 0xFF;
        cell->zeros &= byte == 0;
        sum += ones(byte);
        if (view->unsteady)
            cell->unsteady += ones(view->unsteady[i]);
        if (view->good)
            cell->different += ones(byte ^ view->good[i]);
    }
    cell->ones = end > first ? (double)sum / (8.0 * (double)(end - first)) : 0;
}
