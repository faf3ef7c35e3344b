/* Images prepared for other chips, compared, and looked at. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "rimeglass/file.h"
#include "rimeglass/verify.h"
#include "rimeglass/report.h"
#include "suites.h"
#include "temporary.h"

/* An image of `size` bytes that do not repeat, at `address`. */
static rmg_image made(uint64_t address, size_t size)
{
    uint8_t *bytes = g_malloc(size);
    rmg_image image = {0};
    uint64_t dice = address + 9;

    for (size_t i = 0; i < size; i++)
        bytes[i] = (uint8_t)bench_dice(&dice, 256);
    rmg_image_add(&image, address, bytes, size);
    g_free(bytes);
    return image;
}

static rmg_image copy_of(const rmg_image *image)
{
    rmg_image copy = {0};

    for (size_t i = 0; i < image->count; i++)
        rmg_image_add(&copy, image->pieces[i].address, image->pieces[i].bytes,
                      image->pieces[i].size);
    return copy;
}

static bool same(const rmg_image *a, const rmg_image *b)
{
    if (a->count != b->count)
        return false;
    for (size_t i = 0; i < a->count; i++)
        if (a->pieces[i].address != b->pieces[i].address ||
            a->pieces[i].size != b->pieces[i].size ||
            memcmp(a->pieces[i].bytes, b->pieces[i].bytes, a->pieces[i].size) != 0)
            return false;
    return true;
}

static uint8_t at(const rmg_image *image, uint64_t address)
{
    uint8_t byte = 0;

    CHECK(rmg_image_at(image, address, &byte), "there is a byte at 0x%x", (unsigned)address);
    return byte;
}

static void sizes_and_places(void)
{
    rmg_image image = made(0x100, 48), whole = copy_of(&image);
    rmg_error error = {0};

    CHECK(rmg_image_repeat(&image, 144, 0xFF, &error) == RMG_OK && rmg_image_bytes(&image) == 144,
          "repeat");
    for (unsigned i = 0; i < 144; i++)
        CHECK(at(&image, 0x100 + i) == whole.pieces[0].bytes[i % 48], "byte %u", i);
    CHECK(rmg_image_repeat(&image, 200, 0xFF, &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "144 bytes does not go evenly into 200") &&
              rmg_image_bytes(&image) == 144,
          "%s", error.what);
    rmg_error_free(&error);
    CHECK(rmg_image_cut(&image, 0x110, 0x11F, &error) == RMG_OK && image.count == 1 &&
              image.pieces[0].address == 0x110 && image.pieces[0].size == 16,
          "cut keeps addresses");
    CHECK(rmg_image_cut(&image, 0x200, 0x2FF, &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "nothing between 0x200 and 0x2FF: the image has 0x110 to 0x11F"),
          "%s", error.what);
    rmg_error_free(&error);
    CHECK(rmg_image_pad(&image, 20, 0xEE, &error) == RMG_OK && at(&image, 0x11F) &&
              at(&image, 0x120) == 0xEE && at(&image, 0x123) == 0xEE &&
              rmg_image_bytes(&image) == 20,
          "pad");
    CHECK(rmg_image_pad(&image, 19, 0xEE, &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "20 bytes already, more than 19"),
          "%s", error.what);
    rmg_error_free(&error);
    CHECK(rmg_image_move(&image, 0xC000, &error) == RMG_OK && at(&image, 0xC010) == 0xEE, "move");
    CHECK(rmg_image_move(&image, UINT64_MAX - 3, &error) == RMG_ERR_ARGUMENT, "past the end");
    rmg_error_free(&error);
    CHECK(rmg_image_move(&image, UINT64_MAX - 19, &error) == RMG_ERR_ARGUMENT, "just past it");
    rmg_error_free(&error);
    CHECK(rmg_image_move(&image, UINT64_MAX - 20, &error) == RMG_OK &&
              at(&image, UINT64_MAX - 1) == 0xEE &&
              rmg_image_move(&image, 0xC000, &error) == RMG_OK,
          "up to it");
    rmg_image_add(&image, 0xC100, "x", 1);
    CHECK(rmg_image_move(&image, 0, &error) == RMG_OK && image.count == 2 &&
              at(&image, 0x100) == 'x',
          "gaps stay");
    CHECK(rmg_image_flatten(&image, 0xAA, &error) == RMG_OK && image.count == 1 &&
              at(&image, 0x80) == 0xAA && rmg_image_bytes(&image) == 0x101,
          "gaps filled");
    CHECK(rmg_image_repeat(&image, (uint64_t)1 << 40, 0, &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "1 GiB"),
          "%s", error.what);
    rmg_error_free(&error);
    rmg_image_free(&image);
    rmg_image_free(&whole);
}

/* Each step that crosses or inverts, done twice with the inverse, is nothing. */
static void there_and_back(void)
{
    static const uint8_t data[8] = {3, 0, 1, 2, 7, 5, 6, 4},
                         data_back[8] = {1, 2, 3, 0, 7, 5, 6, 4};
    static const uint8_t lines[4] = {2, 0, 3, 1}, lines_back[4] = {1, 3, 0, 2};
    rmg_image image = made(0x20, 64), whole = copy_of(&image);
    uint8_t wide[16];
    rmg_error error = {0};

    CHECK(rmg_image_data_lines(&image, data, 8, 0, &error) == RMG_OK, "data lines");
    for (unsigned i = 0; i < 64; i++)
        for (unsigned bit = 0; bit < 8; bit++)
            CHECK((at(&image, 0x20 + i) >> bit & 1) == (at(&whole, 0x20 + i) >> data[bit] & 1),
                  "byte %u bit %u", i, bit);
    CHECK(rmg_image_data_lines(&image, data_back, 8, 0, &error) == RMG_OK && same(&image, &whole),
          "and back");
    CHECK(rmg_image_address_lines(&image, lines, 4, 0, &error) == RMG_OK, "address lines");
    for (unsigned chip = 0; chip < 16; chip++) {
        unsigned seen = 0;

        for (unsigned i = 0; i < 4; i++)
            seen |= (chip >> i & 1u) << lines[i];
        CHECK(at(&image, 0x20 + 16 + chip) == at(&whole, 0x20 + 16 + seen), "address %u", chip);
    }
    CHECK(rmg_image_address_lines(&image, lines_back, 4, 0, &error) == RMG_OK &&
              same(&image, &whole),
          "and back");
    for (unsigned i = 0; i < 16; i++)
        wide[i] = (uint8_t)(i ^ 8u);
    CHECK(rmg_image_data_lines(&image, wide, 16, 0, &error) == RMG_OK &&
              at(&image, 0x20) == at(&whole, 0x21),
          "sixteen lines");
    CHECK(rmg_image_swap(&image, 1, 0, &error) == RMG_OK && same(&image, &whole),
          "that was a swap of bytes");
    CHECK(rmg_image_swap(&image, 2, 0, &error) == RMG_OK && at(&image, 0x20) == at(&whole, 0x22) &&
              at(&image, 0x23) == at(&whole, 0x21),
          "words");
    CHECK(rmg_image_invert_address(&image, 2, 0, &error) == RMG_OK && same(&image, &whole),
          "that was A1 inverted");
    CHECK(rmg_image_invert_data(&image, 0x0F, &error) == RMG_OK &&
              at(&image, 0x25) == (at(&whole, 0x25) ^ 0x0F) &&
              rmg_image_invert_data(&image, 0x0F, &error) == RMG_OK && same(&image, &whole),
          "data inverted");
    CHECK(rmg_image_data_lines(&image, lines, 4, 0, &error) == RMG_ERR_ARGUMENT, "four lines");
    rmg_error_free(&error);
    CHECK(rmg_image_address_lines(&image, (const uint8_t[]){0, 0}, 2, 0, &error) ==
                  RMG_ERR_ARGUMENT &&
              strstr(error.what, "once"),
          "a line twice: %s", error.what);
    rmg_error_free(&error);
    CHECK(rmg_image_cut(&image, 0x20, 0x5E, &error) == RMG_OK &&
              rmg_image_swap(&image, 1, 0, &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "63 bytes, not a multiple of 2"),
          "%s", error.what);
    rmg_error_free(&error);
    rmg_image_free(&image);
    rmg_image_free(&whole);
}

static void lanes(void)
{
    rmg_image image = made(0, 96), whole = copy_of(&image), part[4];
    rmg_error error = {0};

    for (size_t ways = 2; ways <= 4; ways += 2) {
        for (size_t i = 0; i < ways; i++) {
            CHECK(rmg_image_lane(&whole, i, ways, 0, &part[i], &error) == RMG_OK &&
                      rmg_image_bytes(&part[i]) == 96 / ways &&
                      at(&part[i], 5) == at(&whole, 5 * ways + i),
                  "lane %zu of %zu", i, ways);
        }
        CHECK(rmg_image_interleave(&part[0], &part[1], ways, 0, &error) == RMG_OK &&
                  same(&part[0], &whole),
              "%zu ways and back", ways);
        for (size_t i = 0; i < ways; i++)
            rmg_image_free(&part[i]);
    }
    part[0] = made(0, 10);
    CHECK(rmg_image_interleave(&image, part, 2, 0, &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "image 2 has 10 bytes, the first has 96") && same(&image, &whole),
          "%s", error.what);
    rmg_error_free(&error);
    CHECK(rmg_image_lane(&part[0], 0, 4, 0, &part[1], &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "10 bytes cannot be split evenly 4 ways"),
          "%s", error.what);
    rmg_error_free(&error);
    rmg_image_free(&part[0]);
    rmg_image_free(&image);
    rmg_image_free(&whole);
}

static void joined(void)
{
    rmg_image image = made(0, 1000), others[2] = {made(0, 512), made(0x40, 2048)};
    rmg_image first = copy_of(&image);
    rmg_slot slots[3];
    uint64_t slot, chip;
    rmg_error error = {0};

    CHECK(rmg_image_join(&image, others, 3, 0xFF, slots, &slot, &chip, &error) == RMG_OK &&
              slot == 2048 && chip == 8192 && rmg_image_bytes(&image) == 8192,
          "three in four slots of the largest one's size");
    CHECK(slots[0].times == 0 && slots[1].times == 4 && slots[2].times == 1 &&
              slots[2].address == 4096 && slots[1].size == 512,
          "filled up, four times, once");
    CHECK(at(&image, 999) == at(&first, 999) && at(&image, 1000) == 0xFF &&
              at(&image, 2048 + 512 * 3 + 7) == at(&others[0], 7) &&
              at(&image, 4096 + 2047) == at(&others[1], 0x40 + 2047) && at(&image, 6144) == 0xFF,
          "each in its place");
    rmg_image_free(&image);
    rmg_image_free(&first);
    rmg_image_free(&others[0]);
    rmg_image_free(&others[1]);
}

static void checksums_put(void)
{
    static const struct {
        const char *title;
        rmg_put_sum sum;
        const char *says; /* NULL: it is put */
    } rows[] = {
        {"outside", {RMG_SUM_OF_16, 0x100, 0x1FD, 0x1FE, false, RMG_OWN_OUTSIDE, 0}, NULL},
        {"high first", {RMG_SUM_OF_16, 0x100, 0x1FD, 0x1FE, true, RMG_OWN_OUTSIDE, 0}, NULL},
        {"within, skipped", {RMG_SUM_OF_32, 0x100, 0x1FF, 0x180, true, RMG_OWN_SKIPPED, 0}, NULL},
        {"within, as 0xFF", {RMG_SUM_OF_16, 0x100, 0x1FF, 0x180, false, RMG_OWN_AS, 0xFF}, NULL},
        {"at the first byte",
         {RMG_SUM_OF_16, 0x102, 0x1FF, 0x100, false, RMG_OWN_OUTSIDE, 0},
         NULL},
        {"CRC-32", {RMG_SUM_CRC, 0x100, 0x1FB, 0x1FC, false, RMG_OWN_OUTSIDE, 0}, NULL},
        {"balanced", {RMG_SUM_OF_8, 0x100, 0x1FF, 0x1FF, false, RMG_OWN_BALANCED, 0}, NULL},
        {"balanced 16",
         {RMG_SUM_OF_16, 0x100, 0x1FF, 0x1FE, false, RMG_OWN_BALANCED, 0},
         "only the"},
        {"not said", {RMG_SUM_OF_16, 0x100, 0x1FF, 0x1FE, false, RMG_OWN_OUTSIDE, 0}, "say how"},
        {"said wrong",
         {RMG_SUM_OF_16, 0x100, 0x1FD, 0x1FE, false, RMG_OWN_SKIPPED, 0},
         "do not count"},
        {"a gap",
         {RMG_SUM_OF_16, 0x100, 0x2FD, 0x1FE, false, RMG_OWN_SKIPPED, 0},
         "are in the image"},
        {"past the end",
         {RMG_SUM_OF_16, 0x100, 0x1FD, 0x1FF, false, RMG_OWN_OUTSIDE, 0},
         "are in the image"},
    };

    for (size_t i = 0; i < COUNT(rows); i++) {
        const rmg_put_sum *s = &rows[i].sum;
        rmg_image image = made(0x100, 256), before = copy_of(&image);
        const unsigned bytes = s->kind == RMG_SUM_OF_8 ? 1 : s->kind == RMG_SUM_OF_16 ? 2 : 4;
        uint32_t value, sum = 0, stored = 0;
        rmg_error error = {0};
        const rmg_status status = rmg_image_put_sum(&image, s, &value, &error);

        if (rows[i].says) {
            CHECK(status == RMG_ERR_ARGUMENT && strstr(error.what, rows[i].says) &&
                      same(&image, &before),
                  "%s: %s", rows[i].title, error.what ? error.what : "put");
            rmg_error_free(&error);
            rmg_image_free(&image);
            rmg_image_free(&before);
            continue;
        }
        for (unsigned b = 0; b < bytes; b++)
            stored |= (uint32_t)at(&image, s->at + (s->high_first ? bytes - 1 - b : b)) << 8 * b;
        CHECK(status == RMG_OK && stored == value, "%s: put as told", rows[i].title);
        for (uint64_t a = s->first; a <= s->last; a++)
            if (a < s->at || a >= s->at + bytes)
                sum += at(&before, a);
            else if (s->own == RMG_OWN_AS)
                sum += s->own_value;
        if (s->kind == RMG_SUM_CRC) {
            rmg_checksums all;

            rmg_checksums_of(image.pieces[0].bytes, 252, &all);
            CHECK(value == all.crc32, "the CRC of the span");
        } else if (s->own == RMG_OWN_BALANCED) {
            CHECK(((sum + value) & 0xFFu) == 0, "balanced to 0");
        } else {
            CHECK(value == (bytes == 2 ? sum & 0xFFFFu : sum), "%s: %x", rows[i].title, value);
        }
        rmg_image_free(&image);
        rmg_image_free(&before);
    }
}

/* Comparisons that no simulated board shows: halves, offsets, another image, wide words. */
static void compared(void)
{
    rmg_image image = made(0, 4096), other = made(1, 4096), read;
    const rmg_words good = {image.pieces[0].bytes, 4096, 8, 1, false};
    rmg_words now = good, rival;
    rmg_compare_hints hints = {.others = &rival, .other_count = 1};
    rmg_comparison c;
    rmg_error error = {0};

    rival = (rmg_words){other.pieces[0].bytes, 4096, 8, 1, false};
    now.at = other.pieces[0].bytes;
    CHECK(rmg_compare(&good, &now, &hints, &c) == RMG_OK && c.step_count == 1 &&
              c.steps[0].is.kind == RMG_DIFF_OTHER_IMAGE && !c.left && !c.proved_lines,
          "another image");
    CHECK(rmg_compare(&good, &now, NULL, &c) == RMG_OK && !c.step_count && c.left == c.wrong_bits,
          "without it nothing explains the difference");

    read = copy_of(&image);
    memmove(read.pieces[0].bytes, image.pieces[0].bytes + 100, 3996);
    memcpy(read.pieces[0].bytes + 3996, image.pieces[0].bytes, 100);
    now.at = read.pieces[0].bytes;
    CHECK(rmg_compare(&good, &now, NULL, &c) == RMG_OK && c.step_count == 1 &&
              c.steps[0].is.kind == RMG_DIFF_OFFSET && c.steps[0].is.offset == 100 && !c.left,
          "an offset");
    rmg_image_free(&read);

    for (unsigned half = 0; half < 2; half++) {
        read = copy_of(&image);
        memset(read.pieces[0].bytes + 2048 * half, 0xFF, 2048);
        now.at = read.pieces[0].bytes;
        CHECK(rmg_compare(&good, &now, NULL, &c) == RMG_OK && c.step_count == 1 &&
                  c.steps[0].is.kind == RMG_DIFF_HALF_BLANK && c.steps[0].is.a == half && !c.left,
              "half %u blank", half);
        rmg_image_free(&read);
    }

    read = copy_of(&image);
    CHECK(rmg_image_swap(&read, 1, 0, &error) == RMG_OK, "swap");
    now.at = read.pieces[0].bytes;
    CHECK(rmg_compare(&good, &now, NULL, &c) == RMG_OK && c.step_count == 1 &&
              c.steps[0].is.kind == RMG_DIFF_LINE_INVERTED && c.steps[0].is.a == 0,
          "even and odd");
    for (uint8_t bytes = 2; bytes <= 8; bytes = (uint8_t)(bytes * 2)) {
        const rmg_words wide = {image.pieces[0].bytes, 4096u / bytes, (uint8_t)(bytes * 8), bytes,
                                true};
        rmg_words swapped = wide;

        swapped.at = read.pieces[0].bytes;
        CHECK(rmg_compare(&wide, &swapped, NULL, &c) == RMG_OK && c.step_count == 1 && !c.left &&
                  c.steps[0].is.kind == RMG_DIFF_BYTES_SWAPPED,
              "words of %u bytes", bytes);
        CHECK(rmg_words_get(&wide, 1) >> (bytes * 8 - 8) == wide.at[bytes], "high first");
    }
    rmg_image_free(&read);

    read = copy_of(&image);
    read.pieces[0].bytes[5] ^= 0x10;
    now.at = read.pieces[0].bytes;
    CHECK(rmg_compare(&good, &now, NULL, &c) == RMG_OK && !c.step_count && c.left == 1 &&
              c.first_count == 1 && c.first[0].word == 5 && c.proved_bits == 0xEF,
          "one wrong bit accuses no line, but its own is not proved by it: %zu steps, 0x%X proved",
          c.step_count, (unsigned)c.proved_bits);
    now.count = 4095;
    CHECK(rmg_compare(&good, &now, NULL, &c) == RMG_ERR_ARGUMENT, "lengths differ");
    rmg_image_free(&read);
    rmg_image_free(&image);
    rmg_image_free(&other);
}

static void files(void)
{
    gchar *text = g_strnfill(600000, 'x');
    const char *a, *b;
    uint64_t bytes;
    rmg_error error = {0};
    bool alike;

    a = temporary_file("a.bin", text);
    b = temporary_file("b.bin", text);
    CHECK(rmg_files_same(a, b, &alike, &bytes, &error) == RMG_OK && alike && bytes == 600000,
          "alike");
    text[599999] = 'y';
    b = temporary_file("b.bin", text);
    CHECK(rmg_files_same(a, b, &alike, &bytes, &error) == RMG_OK && !alike, "the last byte");
    text[599998] = 0;
    b = temporary_file("b.bin", text);
    CHECK(rmg_files_same(a, b, &alike, &bytes, &error) == RMG_OK && !alike, "shorter");
    CHECK(rmg_files_same(a, "/none/b.bin", &alike, &bytes, &error) == RMG_ERR_FILE &&
              strstr(error.what, "/none/b.bin cannot be read"),
          "%s", error.what);
    rmg_error_free(&error);
    g_free(text);
}

static void glyphs(void)
{
    static const char *const wrong[] = {"",     "8",     "8x",   "0x8", "33x8",
                                        "8x65", "8x8/7", "8x8/", "8x8x"};
    /* two glyphs of 10 by 2, rows of two bytes */
    static const uint8_t bytes[] = {0x80, 0x40, 0x01, 0x80, 0xFF, 0xC0, 0, 0};
    static const uint8_t good[] = {0x80, 0x00, 0x01, 0x80, 0xFF, 0xC0, 0, 0x40};
    static const uint8_t weak[] = {0, 0, 0x01, 0, 0, 0, 0, 0};
    const rmg_rom_view view = {bytes, good, weak, sizeof bytes, 0};
    rmg_glyph_form form = {0};
    rmg_pixel_mark mark;
    rmg_error error = {0};

    for (size_t i = 0; i < COUNT(wrong); i++)
        CHECK(!rmg_glyph_form_parse(wrong[i], &form), "\"%s\"", wrong[i]);
    CHECK(rmg_glyph_form_parse("10x2", &form) && form.bytes == 4 &&
              rmg_glyph_count(&view, &form) == 2,
          "10x2");
    CHECK(rmg_glyph_pixel(&view, &form, 0, 0, 0, &mark) && mark == RMG_PIXEL_SAME, "D7 is left");
    CHECK(rmg_glyph_pixel(&view, &form, 0, 9, 0, &mark) && mark == RMG_PIXEL_EXTRA, "extra");
    CHECK(!rmg_glyph_pixel(&view, &form, 1, 9, 1, &mark) && mark == RMG_PIXEL_MISSING, "missing");
    CHECK(rmg_glyph_pixel(&view, &form, 0, 7, 1, &mark) && mark == RMG_PIXEL_UNSTEADY, "unsteady");
    form.low_left = true;
    form.bottom_first = true;
    CHECK(rmg_glyph_pixel(&view, &form, 0, 7, 1, &mark) &&
              !rmg_glyph_pixel(&view, &form, 0, 0, 1, &mark),
          "D0 left, bottom first");
    CHECK(rmg_glyph_marked(&view, &form, 0) && !rmg_glyph_marked(&view, &form, 1),
          "a bit outside the width is no pixel");
    CHECK(rmg_draw_glyphs(&view, &form, "t", temporary_path("g.bmp"), &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, ".png, .svg or .pdf"),
          "%s", error.what);
    rmg_error_free(&error);
    form.bytes = 100;
    CHECK(rmg_draw_glyphs(&view, &form, "t", temporary_path("g.png"), &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "not one glyph"),
          "%s", error.what);
    rmg_error_free(&error);
}

static void maps(void)
{
    uint8_t bytes[5000], good[5000];
    const rmg_rom_view view = {bytes, good, NULL, sizeof bytes, 0x8000};
    rmg_glyph_form form;
    rmg_map_cell cell;
    char *text;
    rmg_error error = {0};

    memset(bytes, 0xFF, sizeof bytes);
    memset(bytes + 1000, 0, 1000);
    memset(bytes + 2000, 0x55, 1000);
    memcpy(good, bytes, sizeof bytes);
    good[2500] ^= 3;
    CHECK(rmg_map_step(&view, 5000) == 1 && rmg_map_step(&view, 4999) == 2 &&
              rmg_map_step(&view, 100) == 64,
          "steps are powers of two");
    rmg_map_at(&view, 0, 1000, &cell);
    CHECK(cell.erased && !cell.zeros && cell.ones == 1, "erased");
    rmg_map_at(&view, 1000, 1000, &cell);
    CHECK(cell.zeros && !cell.erased && cell.ones == 0, "zeros");
    rmg_map_at(&view, 2000, 1000, &cell);
    CHECK(!cell.zeros && !cell.erased && cell.ones == 0.5 && cell.different == 2, "half ones");
    rmg_map_at(&view, 4990, 100, &cell);
    CHECK(cell.erased, "the last, cut short");
    rmg_map_bit_at(&view, 2000, 1000, 1, &cell);
    CHECK(cell.zeros && cell.different == 1, "D1 of 0x55");
    rmg_map_bit_at(&view, 2000, 1000, 2, &cell);
    CHECK(cell.erased && cell.ones == 1 && !cell.different, "D2 of 0x55");
    CHECK(rmg_draw_map(&view, RMG_MAP_ONES, "A map", temporary_path("map.svg"), &error) == RMG_OK,
          "drawn");
    text = file_text(temporary_path("map.svg"));
    CHECK(text && strstr(text, "<svg") && strstr(text, "</svg>"), "an SVG file, whole");
    g_free(text);
    memset(&form, 0xFF, sizeof form);
    CHECK(rmg_glyph_form_parse("8x8", &form) && !form.low_left && !form.bottom_first,
          "all of it is set");
    CHECK(rmg_glyph_form_parse("8x8", &form) &&
              rmg_draw_glyphs(&view, &form, "Glyphs", temporary_path("g.png"), &error) == RMG_OK,
          "drawn");
    text = file_text(temporary_path("g.png"));
    CHECK(text && memcmp(text, "\x89PNG", 4) == 0, "a PNG file");
    g_free(text);
    CHECK(rmg_draw_map(&view, RMG_MAP_ONES, "A map", "/none/map.png", &error) == RMG_ERR_FILE,
          "no such folder");
    rmg_error_free(&error);
}

/* Words of two bytes at every second address: the bits by their names, what there is in the map. */
static void maps_of_words(void)
{
    static const uint8_t names[16] = {8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7};
    uint8_t bytes[64], unsteady[64] = {0};
    const rmg_rom_view view = {.bytes = bytes,
                               .unsteady = unsteady,
                               .size = sizeof bytes,
                               .address = 0x4000,
                               .unit = 2,
                               .unit_step = 2,
                               .names = names};
    rmg_error error = {0};
    rmg_map_span span;
    rmg_map_cell cell;

    for (size_t i = 0; i < sizeof bytes; i++)
        bytes[i] = i % 2 ? 0xFF : (uint8_t)(i / 2);
    unsteady[33] = 0x10;
    CHECK(rmg_view_bits(&view) == 16 && rmg_view_bit_name(&view, 8) == 0, "named");
    CHECK(rmg_view_address(&view, 0) == 0x4000 && rmg_view_address(&view, 1) == 0x4000 &&
              rmg_view_address(&view, 63) == 0x403E,
          "two bytes at an address");
    rmg_map_bit_at(&view, 0, 64, 0, &cell);
    CHECK(cell.ones == 0.5, "the lowest bit of the first byte");
    rmg_map_bit_at(&view, 0, 64, 12, &cell);
    CHECK(cell.erased && cell.unsteady == 1, "a bit of the second");
    rmg_map_bit_at(&view, 32, 2, 12, &cell);
    CHECK(cell.erased && cell.unsteady == 1, "of one word");
    rmg_map_span_of(&view, RMG_MAP_BITS, 8, &span);
    CHECK(span.erased && span.zeros && span.mixed && span.unsteady && !span.different &&
              span.lowest == 0.5 && span.highest == 0.5 && span.most == 1,
          "by bits");
    rmg_map_span_of(&view, RMG_MAP_ONES, 64, &span);
    CHECK(!span.erased && !span.zeros && span.mixed, "all at once");
    for (int by = RMG_MAP_ONES; by <= RMG_MAP_DIFFERENCE; by++)
        CHECK(rmg_draw_map(&view, (rmg_map_by)by, "M", temporary_path("words.png"), &error) ==
                  RMG_OK,
              "drawn");
}

/* More glyphs than a page has room for: a PDF has pages, a picture shows them all, smaller. */
static void many_glyphs(void)
{
    uint8_t *bytes = g_malloc0(65536);
    const rmg_rom_view view = {.bytes = bytes, .size = 65536};
    rmg_glyph_form form;
    rmg_error error = {0};
    gchar *text = NULL;
    gsize size = 0;

    for (size_t i = 0; i < 65536; i++)
        bytes[i] = (uint8_t)(i * 37 >> 3);
    CHECK(rmg_glyph_form_parse("8x16", &form) && rmg_glyph_count(&view, &form) == 4096, "many");
    CHECK(rmg_draw_glyphs(&view, &form, "G", temporary_path("many.pdf"), &error) == RMG_OK &&
              rmg_draw_glyphs(&view, &form, "G", temporary_path("many.png"), &error) == RMG_OK,
          "drawn");
    CHECK(g_file_get_contents(temporary_path("many.pdf"), &text, &size, NULL) &&
              memmem(text, size, "/Count 16", 9),
          "256 on a page");
    g_free(text);
    g_free(bytes);
    bytes = g_malloc0(1 << 22); /* more than a picture has pixels for */
    CHECK(rmg_draw_glyphs(&(rmg_rom_view){.bytes = bytes, .size = 1 << 22}, &form, "G",
                          temporary_path("most.png"), &error) == RMG_OK,
          "the first of them");
    CHECK(rmg_draw_glyphs(&(rmg_rom_view){.bytes = bytes, .size = 1 << 22}, &form, "G",
                          temporary_path("most.pdf"), &error) == RMG_ERR_ARGUMENT &&
              strstr(error.what, "pages; at most 128"),
          "%s", error.what ? error.what : "");
    rmg_error_free(&error);
    g_free(bytes);
}

CU_TestInfo imagework_tests[] = {
    {"sizes and places", sizes_and_places},
    {"there and back", there_and_back},
    {"lanes", lanes},
    {"joined", joined},
    {"checksums put", checksums_put},
    {"compared", compared},
    {"files", files},
    {"glyphs", glyphs},
    {"maps", maps},
    {"maps of words", maps_of_words},
    {"many glyphs", many_glyphs},
    CU_TEST_INFO_NULL,
};
