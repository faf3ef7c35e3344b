/* Images: what a chip holds or is to hold, and the files they stand in. Addresses are byte
 * addresses; gaps are kept as gaps. */
#ifndef RIMEGLASS_IMAGE_H
#define RIMEGLASS_IMAGE_H

#include "status.h"
#include "types.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Bytes without a gap, from an address on. */
typedef struct rmg_piece {
    uint64_t address;
    uint8_t *bytes; /* [size] */
    size_t size;
} rmg_piece;

/* An image: pieces, rising and apart (two that touch are one). Start with {0}. */
typedef struct rmg_image {
    rmg_piece *pieces; /* [count] */
    size_t count;
    bool has_start; /* the file told where a program begins */
    uint64_t start;
} rmg_image;

typedef enum rmg_image_form {
    RMG_IMAGE_RAW,     /* the bytes alone, gaps filled */
    RMG_IMAGE_INTEL,   /* Intel HEX: I8, I16 or I32, as the addresses need */
    RMG_IMAGE_MOTOROLA /* Motorola S-records: S19, S28 or S37, as the addresses need */
} rmg_image_form;

#define RMG_IMAGE_SPARSE    ((uint64_t)8 << 20) /* bytes that an image may have by its gaps */
#define RMG_IMAGE_FILE_MOST ((size_t)1 << 30)   /* bytes of a file that is read */
#define RMG_IMAGE_PIECES    16384u              /* most pieces that a file's image may have */

/* Which form a file's bytes have: those with a whole record in them (as many bytes as it says, and
 * their sum) or the beginning of one in a line of its own are Intel HEX or S-records, whatever
 * stands around it; all else is raw. *doubt: NULL, or why what seems raw is no chip's contents, as
 * a sentence part: text of hex digits in another form, or disguised. */
rmg_image_form rmg_image_form_of(const void *bytes, size_t size, const char **doubt);

/* Reads an image from text or bytes. `name` stands in messages. RMG_ERR_CONTENT: *message, to be
 * freed with rmg_text_free, says what is wrong, with the line; the image is then empty. Refused are
 * lines cut off or too long, wrong checksums and counts of records, record types that do not exist,
 * addresses past 32 bits, data that overlaps or lies in more than RMG_IMAGE_PIECES pieces, data
 * after the end, a missing end, and a file without any byte. Records may be parted by whatever is
 * no text; lines that begin with ; or # are remarks, where nothing in them could be a record. */
rmg_status rmg_image_read(const char *name, rmg_image_form form, const void *bytes, size_t size,
                          rmg_image *image, char **message);

/* The same from a file, in the form that rmg_image_form_of finds; refused where it is in doubt.
 * RMG_ERR_FILE too. */
rmg_status rmg_image_load(const char *file, rmg_image *image, char **message);

/* The same in this form, whatever the file looks like. */
rmg_status rmg_image_load_as(const char *file, rmg_image_form form, rmg_image *image,
                             char **message);

/* The image in a form: *bytes, to be freed with rmg_text_free, *size long. Raw: from its first to
 * its last address, gaps filled with `fill`; RMG_ERR_ROOM where that is more than 1 GiB, or more
 * than RMG_IMAGE_SPARSE bytes and mostly gaps.
 * RMG_ERR_RANGE: an address is past 32 bits. In both cases *message says so. */
rmg_status rmg_image_form_as(const rmg_image *image, rmg_image_form form, uint8_t fill,
                             char **bytes, size_t *size, char **message);

/* Adds a copy of bytes. false: they overlap what is there; the image is unchanged. */
bool rmg_image_add(rmg_image *image, uint64_t address, const void *bytes, size_t size);

/* How many bytes all pieces hold, and the byte at an address (false: a gap). */
uint64_t rmg_image_bytes(const rmg_image *image);
bool rmg_image_at(const rmg_image *image, uint64_t address, uint8_t *byte);

/* The image as JSON: pieces, and checksums of its bytes with gaps filled; `equal` tells what a
 * comparison found, NULL: none was made. To be freed with rmg_text_free. Its form:
 * docs/image.schema.json. */
char *rmg_image_json(const rmg_image *image, uint8_t fill, const char *file, const bool *equal);

void rmg_image_free(rmg_image *image);

#ifdef __cplusplus
}
#endif
#endif
