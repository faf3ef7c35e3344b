/* Writing images, in any form. */
#include <string.h>

#include "base/internal.h"
#include "forms.h"

#define MOST_RAW    ((uint64_t)1 << 30)
#define HEADER_MOST 252u /* characters that an S0 record has room for */

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
    rmg_pages_filled_soon(w->text, w->size);
    if (image->count > 1)
        memset(w->text, fill, w->size);
    for (size_t i = 0; i < image->count; i++)
        memcpy(w->text + (image->pieces[i].address - first), image->pieces[i].bytes,
               image->pieces[i].size);
    return RMG_OK;
}

/* Has this form all that is asked of it, and as much of it? */
static rmg_status check_style(rmg_image_form form, const rmg_image_style *style, rmg_error *error)
{
    const rmg_image_form_row *row = rmg_image_form_rows[form];
    const char *const word = rmg_image_form_word(form);

    if (style->record > row->record_most)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                        row->mark ? "a record of the form \"%s\" holds no %u bytes; at most %u"
                                  : "the form \"%s\" has no records",
                        word, style->record, row->record_most);
    if (style->header && !row->has_header)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL, "the form \"%s\" has no header", word);
    if (style->segmented && !row->segments)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL, "the form \"%s\" has no segments", word);
    if (!style->header)
        return RMG_OK;
    if (strlen(style->header) > HEADER_MOST)
        return rmg_fail(error, RMG_ERR_ARGUMENT, NULL, "the header has %zu characters; at most %u",
                        strlen(style->header), HEADER_MOST);
    for (const char *at = style->header; *at; at++)
        if (!g_ascii_isprint(*at))
            return rmg_fail(error, RMG_ERR_ARGUMENT, NULL,
                            "character %zu of the header is no printable ASCII character",
                            (size_t)(at - style->header) + 1);
    return RMG_OK;
}

/* Can records express these addresses? */
static rmg_status check_addresses(const rmg_image *image, const rmg_image_style *style,
                                  uint64_t last, rmg_error *error)
{
    const uint64_t most = MAX(last, image->has_start ? image->start : 0);

    if (last >> 32)
        return rmg_fail(error, RMG_ERR_RANGE, NULL,
                        "its addresses go past 32 bits, which hex files cannot express");
    if (style->segmented && most >> 20)
        return rmg_fail(error, RMG_ERR_RANGE, NULL,
                        "0x%" G_GINT64_MODIFIER "X is past 20 bits, which segments cannot express",
                        (guint64)most);
    return RMG_OK;
}

rmg_status rmg_image_form_as(const rmg_image *image, rmg_image_form form, uint8_t fill,
                             char **bytes, size_t *size, rmg_error *error)
{
    const rmg_image_style style = {.fill = fill};

    return rmg_image_form_styled(image, form, &style, bytes, size, error);
}

rmg_status rmg_image_form_styled(const rmg_image *image, rmg_image_form form,
                                 const rmg_image_style *style, char **bytes, size_t *size,
                                 rmg_error *error)
{
    const rmg_piece *end = image->count ? &image->pieces[image->count - 1] : NULL;
    const uint64_t last = end ? end->address + end->size - 1 : 0;
    static const char hex[] = "0123456789ABCDEF";
    rmg_image_writer w = {.style = style,
                          .record = style->record ? style->record : RMG_RECORD_DATA};
    rmg_status status = check_style(form, style, error);

    *bytes = NULL;
    *size = 0;
    if (status != RMG_OK)
        return status;
    rmg_error_none(error);
    for (unsigned i = 0; i < 256; i++) {
        w.pairs[i][0] = hex[i >> 4];
        w.pairs[i][1] = hex[i & 15u];
    }
    if (!end) {
        return rmg_fail(error, RMG_ERR_RANGE, NULL, "the image holds no data");
    }
    if (!rmg_image_form_rows[form]->mark) {
        status = write_raw(image, image->pieces[0].address, last, style->fill, &w, error);
    } else {
        status = check_addresses(image, style, last, error);
        if (status == RMG_OK)
            rmg_image_form_rows[form]->write(&w, image, last);
    }
    *bytes = w.text;
    *size = w.size;
    return status;
}
