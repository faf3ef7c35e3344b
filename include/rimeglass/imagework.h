/* Preparing an image for a replacement chip: each function is one step, done in place. Steps that
 * need all bytes in one piece fill gaps first, with `fill`. Errors: RMG_ERR_ARGUMENT with *message,
 * to be freed with rmg_text_free, that says what does not fit; the image is then unchanged. */
#ifndef RIMEGLASS_IMAGEWORK_H
#define RIMEGLASS_IMAGEWORK_H

#include "image.h"

#ifdef __cplusplus
extern "C" {
#endif

#define RMG_IMAGE_MOST ((uint64_t)1 << 30) /* bytes of an image that is made here */

/* One piece from its first to its last address, gaps filled. */
rmg_status rmg_image_flatten(rmg_image *image, uint8_t fill, char **message);

/* Over and over until it is `size` bytes long, which its length must divide. */
rmg_status rmg_image_repeat(rmg_image *image, uint64_t size, uint8_t fill, char **message);

/* Filled up at its end to `size` bytes. */
rmg_status rmg_image_pad(rmg_image *image, uint64_t size, uint8_t fill, char **message);

/* Only what lies within first..last; gaps stay. */
rmg_status rmg_image_cut(rmg_image *image, uint64_t first, uint64_t last, char **message);

/* The same bytes, the first at another address; gaps stay. */
rmg_status rmg_image_move(rmg_image *image, uint64_t address, char **message);

/* Each `unit` bytes change places with their neighbours: 1 swaps bytes, 2 swaps 16-bit words. */
rmg_status rmg_image_swap(rmg_image *image, uint64_t unit, uint8_t fill, char **message);

/* Data lines crossed: the chip's D[i] is wired to the processor's D[order[i]]. The image as the
 * processor is to see it becomes the image for the chip. count 8, 16 or 32; words lowest byte
 * first. */
rmg_status rmg_image_data_lines(rmg_image *image, const uint8_t *order, uint8_t count, uint8_t fill,
                                char **message);

/* Address lines crossed in the same way: the chip's A[i] is wired to the processor's A[order[i]].
 * In each 2^count bytes. */
rmg_status rmg_image_address_lines(rmg_image *image, const uint8_t *order, uint8_t count,
                                   uint8_t fill, char **message);

/* Bits of each byte inverted; and address bits. */
rmg_status rmg_image_invert_data(rmg_image *image, uint8_t mask, char **message);
rmg_status rmg_image_invert_address(rmg_image *image, uint64_t mask, uint8_t fill, char **message);

/* Byte i of the result is byte i / count of image i % count; `image` is the first of them. They are
 * equally long. */
rmg_status rmg_image_interleave(rmg_image *image, const rmg_image *others, size_t count,
                                uint8_t fill, char **message);

/* Every `lanes`th byte from `lane` on, as a new image that begins at address 0. */
rmg_status rmg_image_lane(const rmg_image *image, size_t lane, size_t lanes, uint8_t fill,
                          rmg_image *result, char **message);

/* Where a joined image lies. */
typedef struct rmg_slot {
    uint64_t address; /* of its first byte */
    uint64_t size;    /* of the image, before it was made to fill the slot */
    uint64_t times;   /* how often it stands there; 0: filled up instead */
} rmg_slot;

/* `image` and `others` (count - 1 of them) side by side in one larger chip, each in a slot of the
 * same power of two; an image that divides its slot is repeated in it, others are filled up.
 * slots[count] tells where; *slot_bytes how large a slot is, *chip_bytes the power of two that
 * holds them all. */
rmg_status rmg_image_join(rmg_image *image, const rmg_image *others, size_t count, uint8_t fill,
                          rmg_slot *slots, uint64_t *slot_bytes, uint64_t *chip_bytes,
                          char **message);

typedef enum rmg_sum_kind { RMG_SUM_OF_8, RMG_SUM_OF_16, RMG_SUM_OF_32, RMG_SUM_CRC } rmg_sum_kind;

/* Whether a checksum counts the bytes that it stands in. */
typedef enum rmg_own_bytes {
    RMG_OWN_OUTSIDE, /* they lie outside the span */
    RMG_OWN_SKIPPED, /* they are left out */
    RMG_OWN_AS,      /* they count as `own_value` each */
    RMG_OWN_BALANCED /* 8-bit sum: with its byte the sum over the span is 0 */
} rmg_own_bytes;

typedef struct rmg_put_sum {
    rmg_sum_kind kind;
    uint64_t first, last; /* the span, addresses included */
    uint64_t at;          /* where its lowest address goes */
    bool high_first;      /* byte order */
    rmg_own_bytes own;
    uint8_t own_value;
} rmg_put_sum;

/* Works out a checksum and puts it into the image. *value is it. All addresses must hold bytes. */
rmg_status rmg_image_put_sum(rmg_image *image, const rmg_put_sum *sum, uint32_t *value,
                             char **message);

#ifdef __cplusplus
}
#endif
#endif
