/* Reading images, in any form. */
#include <string.h>

#include "base/internal.h"
#include "forms.h"

/* A remark: a line of its own that begins with ; or #, and holds nothing that could be a record. */
static bool take_remark(rmg_image_reader *r)
{
    const uint8_t *const start = r->at;
    unsigned row = 0; /* hex digits in a row */

    if (*start != ';' && *start != '#')
        return false;
    while (r->at < r->end && *r->at != '\n' && *r->at != '\r') {
        row = g_ascii_isxdigit((gchar)*r->at) ? row + 1u : 0;
        if (row == 8)
            return rmg_record_wrong(r, "a comment that could be a record; expected a record or a "
                                       "comment without hex digits");
        r->at++;
    }
    return true;
}

static bool read_record(rmg_image_reader *r, const rmg_image_form_row *form)
{
    const char mark = form->mark;
    const uint8_t found = (uint8_t)g_ascii_toupper((gchar)*r->at);

    if (take_remark(r))
        return true;
    if (r->error->what)
        return false;
    if (r->ended)
        return rmg_record_wrong(r, "there is more after the end record");
    if (found != (uint8_t)mark)
        return rmg_record_wrong(r, "expected a record that begins with %c", mark);
    r->at++;
    return form->read(r);
}

static bool read_lines(rmg_image_reader *r, const rmg_image_form_row *form)
{
    for (r->line = 1; r->at < r->end;) {
        if (rmg_record_between(*r->at)) {
            const bool pair = *r->at == '\r' && r->at + 1 < r->end && r->at[1] == '\n';

            r->line += *r->at == '\n' || (*r->at == '\r' && !pair);
            r->at++;
        } else if (!read_record(r, form)) {
            return false;
        }
    }
    if (!r->ended)
        return rmg_record_wrong(r, "the file is cut off: it has no end record");
    return r->image->count || rmg_record_wrong(r, "the file holds no data");
}

rmg_status rmg_image_read(const char *name, rmg_image_form form, const void *bytes, size_t size,
                          rmg_image *image, rmg_error *error)
{
    rmg_image_reader r = {.name = name,
                          .at = bytes,
                          .end = (const uint8_t *)bytes + size,
                          .image = image,
                          .error = error};

    memset(image, 0, sizeof *image);
    rmg_error_none(error);
    if (!size) {
        return rmg_fail(error, RMG_ERR_CONTENT, name, "%s: the file is empty", name);
    }
    if (!rmg_image_form_rows[form]->mark) {
        rmg_image_add(image, 0, bytes, size);
        return RMG_OK;
    }
    if (read_lines(&r, rmg_image_form_rows[form]))
        return RMG_OK;
    rmg_image_free(image);
    return RMG_ERR_CONTENT;
}

rmg_status rmg_image_load(const char *file, rmg_image *image, rmg_error *error)
{
    rmg_status status;
    rmg_image_form form;
    const char *doubt;
    gchar *text;
    gsize size;

    memset(image, 0, sizeof *image);
    status = rmg_file_read(file, RMG_IMAGE_FILE_MOST, &text, &size, error);
    if (status != RMG_OK)
        return status;
    form = rmg_image_form_of(text, size, &doubt);
    if (doubt) {
        status = rmg_fail(error, RMG_ERR_CONTENT, file,
                          "%s: not accepted as an image: %s (rimeglass image --from raw takes the "
                          "bytes as they are)",
                          file, doubt);
    } else {
        status = rmg_image_read(file, form, text, size, image, error);
    }
    g_free(text);
    return status;
}

rmg_status rmg_image_load_as(const char *file, rmg_image_form form, rmg_image *image,
                             rmg_error *error)
{
    rmg_status status;
    gchar *text;
    gsize size;

    memset(image, 0, sizeof *image);
    status = rmg_file_read(file, RMG_IMAGE_FILE_MOST, &text, &size, error);
    if (status == RMG_OK)
        status = rmg_image_read(file, form, text, size, image, error);
    g_free(text);
    return status;
}
