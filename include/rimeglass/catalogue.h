/* The catalogue: which images a workshop knows. A YAML file of its own; docs/identify.md describes
 * it. And what an image is, by it. */
#ifndef RIMEGLASS_CATALOGUE_H
#define RIMEGLASS_CATALOGUE_H

#include "board.h"
#include "file.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Which checksums an entry gives. */
enum {
    RMG_SUM_16 = 1, /* the two byte sums come lowest: weak on their own */
    RMG_SUM_32 = 2,
    RMG_SUM_CRC32 = 4,
    RMG_SUM_MD5 = 8,
    RMG_SUM_SHA1 = 16,
    RMG_SUM_SHA256 = 32
};

/* An entry: an image that is known by its checksums. */
typedef struct rmg_known {
    char *name;         /* of the image */
    char *board;        /* "" where not given; so the next three */
    char *version;      /* of it */
    char *socket;       /* where it belongs */
    char *image;        /* file, from where the tool runs */
    uint64_t size;      /* bytes */
    rmg_checksums sums; /* those that are reported */
    unsigned told;      /* which of them */
    unsigned file_line; /* where the entry begins, from 1 */
} rmg_known;

/* A catalogue, as it was read. */
typedef struct rmg_catalogue {
    char *file;      /* its name */
    rmg_known *list; /* [count] */
    size_t count;
} rmg_catalogue;

/* Reads a catalogue. RMG_ERR_FILE, RMG_ERR_CONTENT: every error is in *errors and *catalogue is
 * empty. Free with rmg_catalogue_free. */
rmg_status rmg_catalogue_load(const char *file, rmg_catalogue *catalogue, rmg_errors *errors);
void rmg_catalogue_free(rmg_catalogue *catalogue);

/* Appends an entry for bytes[size], kept at file `image` ("" if it is not kept), to a catalogue
 * file, which is made if it does not exist. What stands in it stays as it is. RMG_ERR_CONTENT: the
 * same bytes are in it already, or the file has errors; RMG_ERR_FILE. In both cases *error,
 * to be freed with rmg_text_free, says more and the file is unchanged. */
rmg_status rmg_catalogue_add(const char *file, const rmg_known *entry, const void *bytes,
                             size_t size, rmg_error *error);

/* A form in which an image may be known: as it is, a part of it, or what is left of it without
 * repeats or padding. */
typedef enum rmg_image_part {
    RMG_PART_WHOLE,
    RMG_PART_LOWER_HALF,
    RMG_PART_UPPER_HALF,
    RMG_PART_ONCE,     /* without its repeats */
    RMG_PART_UNPADDED, /* without bytes of the same value at its end, down to a power of two */
    RMG_PART_EVEN,     /* bytes 0, 2, 4 ... */
    RMG_PART_ODD
} rmg_image_part;

/* One such form of the image that is asked about. */
typedef struct rmg_form {
    rmg_image_part part; /* which form it is */
    uint8_t *bytes;      /* [size] */
    size_t size;         /* bytes */
    rmg_checksums sums;  /* of these bytes */
} rmg_form;

/* How a form is a part of an entry that is larger. */
typedef enum rmg_in_entry {
    RMG_ENTRY_WHOLE, /* it is all of it */
    RMG_ENTRY_LANE,  /* every ways-th byte from byte `which` on: one chip of several side by side */
    RMG_ENTRY_STRETCH /* part `which` of `ways` that are equally long */
} rmg_in_entry;

/* An entry that a form equals, or that has it as a part; or, where `bits_away`, one whose image is
 * so near. */
typedef struct rmg_match {
    size_t form, entry;  /* numbers in the lists of forms and of the catalogue */
    rmg_in_entry in;     /* how the form is in the entry */
    uint8_t ways, which; /* of a part */
    bool sums_only;      /* the entry gives nothing stronger than a byte sum */
    uint64_t bits_away;  /* 0: it is equal */
    uint64_t to_one;     /* of these, 1 here and 0 there */
    uint64_t first[8];   /* the first bits that differ: byte * 8 + bit */
} rmg_match;

/* Of a part: "the odd bytes", "the upper half", "bytes 1, 5, 9 ...", "part 2 of 4"; else nothing.
 * Written into text[0..room-1], which is returned. */
char *rmg_match_part(const rmg_match *match, char *text, size_t room);

/* What an image is, as far as a catalogue says. */
typedef struct rmg_identity {
    rmg_form *forms; /* [form_count]; forms that are another one again are left out */
    size_t form_count;
    rmg_match *matches; /* [match_count], equal ones first, then the nearest first */
    size_t match_count;
    size_t unreadable; /* entries of the right size whose image file could not be read */
} rmg_identity;

/* What bytes[size] are, by a catalogue (NULL: only the forms with their checksums). Free with
 * rmg_identity_free. */
void rmg_identify(const void *bytes, size_t size, const rmg_catalogue *catalogue,
                  rmg_identity *identity);
void rmg_identity_free(rmg_identity *identity);

/* "whole", "lower half" ... */
const char *rmg_image_part_name(rmg_image_part part);

#ifdef __cplusplus
}
#endif
#endif
