/* The image command: steps in the order written. */
#ifndef RMG_CLI_IMAGE_CALL_H
#define RMG_CLI_IMAGE_CALL_H

#include "cli.h"
#include "rimeglass/image.h"

/* One step as it was written: the option's name without dashes, and its value. */
typedef struct image_step {
    gchar *name;
    gchar *value;
} image_step;

#define UNSAID (-1)

typedef struct image_call {
    GArray *steps;    /* of image_step */
    const char *file; /* the first image */
    gchar *as;        /* form of what is written; NULL: by the file's name */
    gchar *from;      /* form of what is read; NULL: by its first bytes */
    gchar *fill_text, *json;
    uint8_t fill;
    gint record; /* bytes a record of what is written; or UNSAID */
    gboolean segmented;
    gchar *header;
    FILE *to;   /* readable text */
    bool quiet; /* an image goes to standard output */
} image_call;

/* Does one step; false after saying what is wrong. *differs is set by a comparison. */
bool image_do(const image_call *call, const image_step *step, rmg_image *image, bool *differs);

/* How files are to be written. */
rmg_image_style image_style(const image_call *call);

/* Reads an image file in the form of the call, or says what is wrong. */
bool image_read(const image_call *call, const char *file, rmg_image *image);

/* image_chip.c: the image for a part in the socket of another; prints what its pins need. */
bool image_for_chip(const image_call *call, const image_step *step, rmg_image *image);

/* image_compare.c: what differs from another file, and what explains it. */
bool image_compare(const image_call *call, const char *file, const rmg_image *image, bool *differs);

/* "64K", "0x10000", "65536". */
bool read_bytes(const char *text, uint64_t *bytes);

#endif
