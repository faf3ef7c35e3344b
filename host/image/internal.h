/* Inside the host library: what the rooms above images use of them. */
#ifndef RMG_HOST_IMAGE_INTERNAL_H
#define RMG_HOST_IMAGE_INTERNAL_H

#include "rimeglass/image.h"

/* chip.c: the image's bytes from address 0 on, or, where they do not fit so, from its first
 * address. `what`, of `most` bytes, stands in messages. Otherwise as rmg_part_image. */
rmg_status rmg_image_load_within(const char *file, uint64_t most, const char *what, char **bytes,
                                 size_t *size, rmg_error *error);

#endif
