/* Images: what a chip holds or is to hold, and the files they stand in. Addresses are byte
 * addresses; gaps are kept as gaps. */
#ifndef RIMEGLASS_IMAGE_H
#define RIMEGLASS_IMAGE_H

#include "board.h"
#include "file.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Bytes without a gap, from an address on. */
typedef struct rmg_piece {
    uint64_t address; /* of bytes[0] */
    uint8_t *bytes;   /* [size] */
    size_t size;      /* 1 or more */
} rmg_piece;

/* An image: pieces, rising and apart (two that touch are one). Start with {0}. */
typedef struct rmg_image {
    rmg_piece *pieces; /* [count] */
    size_t count;
    bool has_start; /* the file says where a program begins */
    uint64_t start; /* where; see has_start */
} rmg_image;

/* The forms of image files: FORM(name, word, endings of file names, separated by spaces). Each has
 * a row of functions in host/image/word.c. The first is for what is in none of the others. */
#define RMG_IMAGE_FORM_TABLE(FORM)                                                                 \
    FORM(RAW, raw, "")                         /* the bytes alone, gaps filled */                  \
    FORM(INTEL, intel, ".hex")                 /* Intel HEX: I8, I16 or I32, as addresses need */  \
    FORM(MOTOROLA, motorola, ".s19 .s28 .s37") /* S-records: S19, S28 or S37, as addresses need */

/* RMG_IMAGE_RAW and so on, by the table. */
typedef enum rmg_image_form {
#define RMG_ENUM_FORM(name, word, endings) RMG_IMAGE_##name,
    RMG_IMAGE_FORM_TABLE(RMG_ENUM_FORM) RMG_IMAGE_FORMS
#undef RMG_ENUM_FORM
} rmg_image_form;

/* Its word: "raw", "intel" ... And the form of that word (false: there is none), or of a file's
 * name by its ending (else raw). */
const char *rmg_image_form_word(rmg_image_form form);
bool rmg_image_form_parse(const char *word, rmg_image_form *form);
rmg_image_form rmg_image_form_by_name(const char *file);

#define RMG_IMAGE_SPARSE    ((uint64_t)8 << 20) /* bytes that an image may have by its gaps */
#define RMG_IMAGE_FILE_MOST ((size_t)1 << 30)   /* bytes of a file that is read */
#define RMG_IMAGE_PIECES    16384u              /* most pieces that a file's image may have */

/* Which form a file's bytes have: those with a whole record in them (as many bytes as it says, and
 * their sum) or the beginning of one in a line of its own are Intel HEX or S-records, whatever
 * stands around it; all else is raw. *doubt: NULL, or why what seems raw is no chip's contents, as
 * a sentence part: text of hex digits in another form, or disguised. */
rmg_image_form rmg_image_form_of(const void *bytes, size_t size, const char **doubt);

/* Reads an image from text or bytes. `name` stands in messages. RMG_ERR_CONTENT: *error, to be
 * freed with rmg_text_free, says what is wrong, with the line; the image is then empty. Refused are
 * lines cut off or too long, wrong checksums and counts of records, record types that do not exist,
 * addresses past 32 bits, data that overlaps or lies in more than RMG_IMAGE_PIECES pieces, data
 * after the end, a missing end, and a file without any byte. Records may be separated by whatever
 * is no text; lines that begin with ; or # are remarks, where nothing in them could be a record. */
rmg_status rmg_image_read(const char *name, rmg_image_form form, const void *bytes, size_t size,
                          rmg_image *image, rmg_error *error);

/* The same from a file, in the form that rmg_image_form_of finds; refused where it is in doubt.
 * RMG_ERR_FILE too. */
rmg_status rmg_image_load(const char *file, rmg_image *image, rmg_error *error);

/* The same in this form, whatever the file looks like. */
rmg_status rmg_image_load_as(const char *file, rmg_image_form form, rmg_image *image,
                             rmg_error *error);

/* The image in a form: *bytes, to be freed with rmg_text_free, *size long. Raw: from its first to
 * its last address, gaps filled with `fill`; RMG_ERR_ROOM where that is more than 1 GiB, or more
 * than RMG_IMAGE_SPARSE bytes and mostly gaps.
 * RMG_ERR_RANGE: an address is past 32 bits. In both cases *error says so. */
rmg_status rmg_image_form_as(const rmg_image *image, rmg_image_form form, uint8_t fill,
                             char **bytes, size_t *size, rmg_error *error);

/* How an image is written. {0}: gaps filled with zeros, records of 16 bytes, no header. */
typedef struct rmg_image_style {
    uint8_t fill;   /* of gaps, where the bytes alone are written */
    uint8_t record; /* bytes of data a record, 0: 16; most: 255 of Intel HEX, 250 of S-records */
    bool segmented; /* Intel HEX: above 64 KiB by segments (types 2 and 3), not linear */
    const char *header; /* S-records: printable ASCII, 252 characters at most, for a first record
                           S0; NULL: none */
} rmg_image_style;

/* The same, written in this way; RMG_ERR_ARGUMENT: the form has no such thing, or not so long;
 * RMG_ERR_RANGE too where segments, of 20 bits, do not reach. */
rmg_status rmg_image_form_styled(const rmg_image *image, rmg_image_form form,
                                 const rmg_image_style *style, char **bytes, size_t *size,
                                 rmg_error *error);

/* Adds a copy of bytes. false: they overlap what is there; the image is unchanged. */
bool rmg_image_add(rmg_image *image, uint64_t address, const void *bytes, size_t size);

/* How many bytes all pieces hold, and the byte at an address (false: a gap). */
uint64_t rmg_image_bytes(const rmg_image *image);
bool rmg_image_at(const rmg_image *image, uint64_t address, uint8_t *byte);

/* Two images, address by address, gaps left as gaps. */
typedef struct rmg_image_difference {
    uint64_t both;           /* bytes at addresses that both hold */
    uint64_t different;      /* of these */
    uint64_t first;          /* the first of those that are different; 0: none is */
    uint64_t only_a, only_b; /* bytes that one of them alone holds */
} rmg_image_difference;
/* Compares two images, address by address. */
void rmg_image_difference_of(const rmg_image *a, const rmg_image *b, rmg_image_difference *d);

/* Frees what the image holds; {0} is allowed. */
void rmg_image_free(rmg_image *image);

/* What a chip of this part holds by an image file: *bytes, to be freed with rmg_text_free, *size
 * long, gaps and what is missing at the end 0xFF. RMG_ERR_FILE, RMG_ERR_CONTENT: *error, to be
 * freed likewise, says what is wrong: an image larger than the chip, above all. */
rmg_status rmg_part_image(const rmg_part *part, const char *file, char **bytes, size_t *size,
                          rmg_error *error);

/* Preparing an image for a replacement chip: each function is one step, done in place. Steps that
 * need all bytes in one piece fill gaps first, with `fill`. Errors: RMG_ERR_ARGUMENT with *error,
 * to be freed with rmg_text_free, that says what does not fit; the image is then unchanged. */

#define RMG_IMAGE_MOST ((uint64_t)1 << 30) /* bytes of an image that is made here */

/* One piece from its first to its last address, gaps filled. */
rmg_status rmg_image_flatten(rmg_image *image, uint8_t fill, rmg_error *error);

/* Over and over until it is `size` bytes long, which its length must divide. */
rmg_status rmg_image_repeat(rmg_image *image, uint64_t size, uint8_t fill, rmg_error *error);

/* Filled up at its end to `size` bytes. */
rmg_status rmg_image_pad(rmg_image *image, uint64_t size, uint8_t fill, rmg_error *error);

/* Only what lies within first..last; gaps stay. */
rmg_status rmg_image_cut(rmg_image *image, uint64_t first, uint64_t last, rmg_error *error);

/* The same bytes, the first at another address; gaps stay. */
rmg_status rmg_image_move(rmg_image *image, uint64_t address, rmg_error *error);

/* Each `unit` bytes change places with their neighbours: 1 swaps bytes, 2 swaps 16-bit words. */
rmg_status rmg_image_swap(rmg_image *image, uint64_t unit, uint8_t fill, rmg_error *error);

/* Data lines crossed: the chip's D[i] is wired to the processor's D[order[i]]. The image as the
 * processor is to see it becomes the image for the chip. count 8, 16 or 32; words lowest byte
 * first. */
rmg_status rmg_image_data_lines(rmg_image *image, const uint8_t *order, uint8_t count, uint8_t fill,
                                rmg_error *error);

/* Address lines crossed in the same way: the chip's A[i] is wired to the processor's A[order[i]].
 * In each 2^count bytes. */
rmg_status rmg_image_address_lines(rmg_image *image, const uint8_t *order, uint8_t count,
                                   uint8_t fill, rmg_error *error);

/* Bits of each byte inverted; and address bits. */
rmg_status rmg_image_invert_data(rmg_image *image, uint8_t mask, rmg_error *error);
rmg_status rmg_image_invert_address(rmg_image *image, uint64_t mask, uint8_t fill,
                                    rmg_error *error);

/* Byte i of the result is byte i / count of image i % count; `image` is the first of them. They are
 * equally long. */
rmg_status rmg_image_interleave(rmg_image *image, const rmg_image *others, size_t count,
                                uint8_t fill, rmg_error *error);

/* Every `lanes`th byte from `lane` on, as a new image that begins at address 0. */
rmg_status rmg_image_lane(const rmg_image *image, size_t lane, size_t lanes, uint8_t fill,
                          rmg_image *result, rmg_error *error);

/* Where a joined image lies. */
typedef struct rmg_slot {
    uint64_t address; /* of its first byte */
    uint64_t size;    /* of the image, before it was made to fill the slot */
    uint64_t times;   /* how often it is there; 0: filled up instead */
} rmg_slot;

/* `image` and `others` (count - 1 of them) side by side in one larger chip, each in a slot of the
 * same power of two; an image that divides its slot is repeated in it, others are filled up.
 * slots[count] says where; *slot_bytes how large a slot is, *chip_bytes the power of two that
 * holds them all. */
rmg_status rmg_image_join(rmg_image *image, const rmg_image *others, size_t count, uint8_t fill,
                          rmg_slot *slots, uint64_t *slot_bytes, uint64_t *chip_bytes,
                          rmg_error *error);

/* How a checksum is worked out. */
typedef enum rmg_sum_kind { RMG_SUM_OF_8, RMG_SUM_OF_16, RMG_SUM_OF_32, RMG_SUM_CRC } rmg_sum_kind;

/* Whether a checksum counts the bytes that it stands in. */
typedef enum rmg_own_bytes {
    RMG_OWN_OUTSIDE, /* they lie outside the span */
    RMG_OWN_SKIPPED, /* they are left out */
    RMG_OWN_AS,      /* they count as `own_value` each */
    RMG_OWN_BALANCED /* 8-bit sum: with its byte the sum over the span is 0 */
} rmg_own_bytes;

/* A checksum that is to be put into an image. */
typedef struct rmg_put_sum {
    rmg_sum_kind kind;    /* how it is worked out */
    uint64_t first, last; /* the span, addresses included */
    uint64_t at;          /* where its lowest address goes */
    bool high_first;      /* byte order */
    rmg_own_bytes own;    /* what its own bytes count as */
    uint8_t own_value;    /* of RMG_OWN_AS */
} rmg_put_sum;

/* Works out a checksum and puts it into the image. *value is it. All addresses must hold bytes. */
rmg_status rmg_image_put_sum(rmg_image *image, const rmg_put_sum *sum, uint32_t *value,
                             rmg_error *error);

/* Images to be seen: as glyphs, with pixels that differ from a good image or are not steady; and as
 * a map by address. */

/* What is looked at. */
typedef struct rmg_rom_view {
    const uint8_t *bytes;    /* [size] */
    const uint8_t *good;     /* [size]: what it should be; or NULL */
    const uint8_t *unsteady; /* [size]: ones at bits that were not steady; or NULL */
    size_t size;             /* bytes */
    uint64_t address;        /* of bytes[0], as it is shown */
    /* Words: `unit` bytes are at one address, and the next at `unit_step` more; 0: 1. Bit b of byte
     * i of a word is data bit names[8 * i + b]; NULL: it is bit b. */
    uint8_t unit;
    uint32_t unit_step;
    const uint8_t *names; /* [8 * unit] */
} rmg_rom_view;

/* The address at which the word lies that byte `at` belongs to. */
uint64_t rmg_view_address(const rmg_rom_view *view, size_t at);

/* Data bits of a word: 8, 16, 32 or 64; and which of them bit b of byte i is, 8 * i + b. */
unsigned rmg_view_bits(const rmg_rom_view *view);
unsigned rmg_view_bit_name(const rmg_rom_view *view, unsigned bit);

/* How glyphs lie in the bytes: rows of (width + 7) / 8 bytes, one after another. */
typedef struct rmg_glyph_form {
    uint8_t width;     /* 1..32 */
    uint8_t height;    /* 1..64 */
    uint16_t bytes;    /* from one glyph to the next; at least its rows */
    bool low_left;     /* D0 is the leftmost pixel of a byte; else D7 */
    bool bottom_first; /* the first row is the lowest */
} rmg_glyph_form;

/* Reads "8x8", or "8x10/16" where a glyph takes 16 bytes; D7 leftmost, the top row first. false: it
 * is no such text. */
bool rmg_glyph_form_parse(const char *text, rmg_glyph_form *form);

/* How a pixel of a glyph compares with the good one. */
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

/* What a map shows, cell by cell. */
typedef enum rmg_map_by {
    RMG_MAP_ONES,      /* the share of ones */
    RMG_MAP_BITS,      /* the same of each data bit apart */
    RMG_MAP_DIFFERENCE /* how many bits differ or are not steady */
} rmg_map_by;

/* How many bytes a cell of the map holds, so that there are at most `most` of them: a power of two.
 * The cell of `count` bytes from `first` on; and the same of one data bit, 8 * i + b as above. */
size_t rmg_map_step(const rmg_rom_view *view, size_t most);
void rmg_map_at(const rmg_rom_view *view, size_t first, size_t count, rmg_map_cell *cell);
void rmg_map_bit_at(const rmg_rom_view *view, size_t first, size_t count, unsigned bit,
                    rmg_map_cell *cell);

/* What there is in a map of cells of `step` bytes, so that only that is explained; and from which
 * to which share of ones the cells go that are neither erased nor zeros (lowest above highest: none
 * is). */
typedef struct rmg_map_span {
    bool erased, zeros, mixed, different, unsteady; /* is there any such cell? */
    double lowest, highest;                         /* share of ones */
    uint64_t most; /* bits of a cell that differ or are not steady */
} rmg_map_span;
/* Looks through all cells of the map. */
void rmg_map_span_of(const rmg_rom_view *view, rmg_map_by by, size_t step, rmg_map_span *span);

#ifdef __cplusplus
}
#endif
#endif
