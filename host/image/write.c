/* Writing images, in any form. */
#include <string.h>

#include "base/internal.h"
#include "forms.h"

#define MOST_RAW ((uint64_t)1 << 30)

static rmg_status write_raw(const rmg_image *image, uint64_t first, uint64_t last, uint8_t fill,
                            rmg_image_writer *w, rmg_error *error)
{
    if (last - first >= MOST_RAW) {
        return rmg_fail(error, RMG_ERR_ROOM, NULL,
                        "from 0x%" G_GINT64_MODIFIER "X to 0x%" G_GINT64_MODIFIER
                        "X it would be more than 1 GiB as raw bytes",
                        (guint64)first, (guint64)last);
    }
    if (last - first >= RMG_IMAGE_SPARSE && (last - first) / 4u > rmg_image_bytes(image)) {
        return rmg_fail(
            error, RMG_ERR_ROOM, NULL,
            "from 0x%" G_GINT64_MODIFIER "X to 0x%" G_GINT64_MODIFIER "X it holds no more than "
            "%" G_GUINT64_FORMAT " bytes: such gaps are not filled; cut out a part (--cut)",
            (guint64)first, (guint64)last, (guint64)rmg_image_bytes(image));
    }
    w->size = (size_t)(last - first) + 1;
    w->text = g_malloc(w->size);
    if (image->count > 1)
        memset(w->text, fill, w->size);
    for (size_t i = 0; i < image->count; i++)
        memcpy(w->text + (image->pieces[i].address - first), image->pieces[i].bytes,
               image->pieces[i].size);
    return RMG_OK;
}

rmg_status rmg_image_form_as(const rmg_image *image, rmg_image_form form, uint8_t fill,
                             char **bytes, size_t *size, rmg_error *error)
{
    const rmg_piece *end = image->count ? &image->pieces[image->count - 1] : NULL;
    const uint64_t last = end ? end->address + end->size - 1 : 0;
    static const char hex[] = "0123456789ABCDEF";
    rmg_image_writer w = {.text = NULL};
    rmg_status status = RMG_OK;

    rmg_error_none(error);
    *bytes = NULL;
    *size = 0;
    for (unsigned i = 0; i < 256; i++) {
        w.pairs[i][0] = hex[i >> 4];
        w.pairs[i][1] = hex[i & 15u];
    }
    if (!end) {
        return rmg_fail(error, RMG_ERR_RANGE, NULL, "the image holds no data");
    }
    if (!rmg_image_form_rows[form]->mark) {
        status = write_raw(image, image->pieces[0].address, last, fill, &w, error);
    } else if (last >> 32) {
        status = rmg_fail(error, RMG_ERR_RANGE, NULL,
                          "its addresses go past 32 bits, which hex files cannot express");
    } else {
        rmg_image_form_rows[form]->write(&w, image, last);
    }
    *bytes = w.text;
    *size = w.size;
    return status;
}
