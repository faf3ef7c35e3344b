/* Inside the room: a form of image files, and what reading and writing one have at hand. */
#ifndef RMG_HOST_IMAGE_FORMS_H
#define RMG_HOST_IMAGE_FORMS_H

#include <string.h>

#include "base/internal.h"
#include "rimeglass/image.h"

#define RMG_RECORD_BYTES 260u /* most of a record: 255, and what is not counted */
#define RMG_RECORD_DATA  16u  /* of a record that is written, where nothing else is asked */

/* A file being read, record by record. */
typedef struct rmg_image_reader {
    const char *name;
    const uint8_t *at, *end;
    unsigned line;
    rmg_image *image;
    rmg_error *error;
    uint8_t bytes[RMG_RECORD_BYTES]; /* of the record: count, address, ..., checksum */
    size_t count;
    uint8_t sum;      /* of them all */
    bool ended;       /* the end record was seen */
    uint32_t records; /* of data, so far */
    uint32_t base;    /* added to addresses, for forms that have such */
    bool segmented;
} rmg_image_reader;

/* A text that grows by records. */
typedef struct rmg_image_writer {
    char *text;
    size_t size, room;
    char pairs[256][2];           /* the hex digits of each byte */
    const rmg_image_style *style; /* fit for the form */
    size_t record;                /* bytes of data in one */
} rmg_image_writer;

/* One form of files that are text in records: a mark, then pairs of hex digits. */
typedef struct rmg_image_form_row {
    char mark;                 /* that begins a record, a capital; 0: no records, the bytes alone */
    uint8_t record_most;       /* bytes of data in one */
    bool has_header, segments; /* what can be asked of it */
    /* Does a record begin at the mark `at`? How many bytes stand before its hex digits; 0: no. */
    size_t (*begins)(const uint8_t *at, const uint8_t *end);
    /* Are the first of `count` hex digits a whole record: as many bytes as it says, and their sum?
     */
    bool (*whole)(const uint8_t *digits, size_t count);
    /* One record, the mark taken; false after rmg_record_wrong. */
    bool (*read)(rmg_image_reader *r);
    /* All of the image, whose last address is `last`. */
    void (*write)(rmg_image_writer *w, const rmg_image *image, uint64_t last);
} rmg_image_form_row;

/* forms.c; each row stands in the file that has the form's word for a name. */
extern const rmg_image_form_row *const rmg_image_form_rows[]; /* [RMG_IMAGE_FORMS] */
#define RMG_FORM_ROW(name, word, endings) extern const rmg_image_form_row rmg_image_form_##word;
RMG_IMAGE_FORM_TABLE(RMG_FORM_ROW)
#undef RMG_FORM_ROW

/* records.c: says what is wrong with the line; false, to be handed on. */
bool rmg_record_wrong(rmg_image_reader *r, const char *format, ...) G_GNUC_PRINTF(2, 3);
/* Pairs of hex digits up to the record's end into r->bytes. A good record is as long as it says,
 * with `more` bytes besides those it counts: its end is not looked for. */
bool rmg_record_take(rmg_image_reader *r, size_t more);
/* A number of 1 to 4 bytes, the highest first. */
static inline uint32_t rmg_record_number(const rmg_image_reader *r, size_t from, size_t bytes)
{
    guint32 value;

    memcpy(&value, r->bytes + from, 4);
    return GUINT32_FROM_BE(value) >> (32u - 8u * bytes);
}

/* Data for the image. */
bool rmg_record_add(rmg_image_reader *r, uint64_t address, const uint8_t *bytes, size_t size);
/* "lead", then the bytes in hex, their checksum: what makes the sum `sum`, and a line's end. */
void rmg_record_put(rmg_image_writer *w, const char *lead, const uint8_t *bytes, size_t count,
                    uint8_t sum);
/* A control character, blank, byte of a tape's leader or byte-order mark: not of a record. */
static inline bool rmg_record_between(uint8_t byte)
{
    return byte <= ' ' || byte >= 0x7F;
}

/* The value of two hex digits. */
uint8_t rmg_record_byte(const uint8_t *at);
/* Do `bytes` bytes of hex digits add up to `sum`? */
bool rmg_record_adds_up(const uint8_t *digits, size_t bytes, uint8_t sum);

#endif
