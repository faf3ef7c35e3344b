/* Images to be seen: as glyphs, with pixels that differ from a good image or are not steady; and as
 * a map by address. */
#ifndef RIMEGLASS_ROMVIEW_H
#define RIMEGLASS_ROMVIEW_H

#include "status.h"
#include "types.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What is looked at. */
typedef struct rmg_rom_view {
    const uint8_t *bytes;    /* [size] */
    const uint8_t *good;     /* [size]: what it should be; or NULL */
    const uint8_t *unsteady; /* [size]: ones at bits that were not steady; or NULL */
    size_t size;
    uint64_t address; /* of bytes[0], as it is shown */
} rmg_rom_view;

/* How glyphs lie in the bytes: rows of (width + 7) / 8 bytes, one after another. */
typedef struct rmg_glyph_form {
    uint8_t width;     /* 1..32 */
    uint8_t height;    /* 1..64 */
    uint16_t bytes;    /* from one glyph to the next; at least its rows */
    bool low_left;     /* D0 is the leftmost pixel of a byte; else D7 */
    bool bottom_first; /* the first row is the lowest */
} rmg_glyph_form;

/* Reads "8x8", or "8x10/16" where a glyph takes 16 bytes. false: it is no such text. */
bool rmg_glyph_form_parse(const char *text, rmg_glyph_form *form);

typedef enum rmg_pixel_mark {
    RMG_PIXEL_SAME,
    RMG_PIXEL_MISSING, /* dark, should be lit */
    RMG_PIXEL_EXTRA,   /* lit, should be dark */
    RMG_PIXEL_UNSTEADY /* not the same in all readings */
} rmg_pixel_mark;

/* How many whole glyphs there are; one pixel (x from the left, y from the top); has a glyph any
 * mark but the first? */
size_t rmg_glyph_count(const rmg_rom_view *view, const rmg_glyph_form *form);
bool rmg_glyph_pixel(const rmg_rom_view *view, const rmg_glyph_form *form, size_t glyph, uint8_t x,
                     uint8_t y, rmg_pixel_mark *mark);
bool rmg_glyph_marked(const rmg_rom_view *view, const rmg_glyph_form *form, size_t glyph);

/* A stretch of a map. */
typedef struct rmg_map_cell {
    bool erased;                  /* all bytes 0xFF */
    bool zeros;                   /* all bytes 0x00 */
    double ones;                  /* share of ones */
    uint64_t different, unsteady; /* bits */
} rmg_map_cell;

/* How many bytes a cell of the map holds, so that there are at most `most` of them: a power of two.
 * And the cell of `count` bytes from `first` on. */
size_t rmg_map_step(const rmg_rom_view *view, size_t most);
void rmg_map_at(const rmg_rom_view *view, size_t first, size_t count, rmg_map_cell *cell);

/* Pictures of 1280 by 800, to a file whose name ends in .png or .svg. RMG_ERR_ARGUMENT: another
 * ending, or no whole glyph. RMG_ERR_FILE. In both cases *message, to be freed with rmg_text_free,
 * says more. */
rmg_status rmg_draw_glyphs(const rmg_rom_view *view, const rmg_glyph_form *form, const char *title,
                           const char *file, char **message);
rmg_status rmg_draw_map(const rmg_rom_view *view, const char *title, const char *file,
                        char **message);

#ifdef __cplusplus
}
#endif
#endif
