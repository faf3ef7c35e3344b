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

/* A record whose mark is not there, or that comes too late, unless it is a remark. */
static bool take_other(rmg_image_reader *r, char mark)
{
    if (take_remark(r))
        return true;
    if (r->error->what)
        return false;
    return rmg_record_wrong(r,
                            r->ended ? "there is more after the end record"
                                     : "expected a record that begins with %c",
                            mark);
}

static bool read_lines(rmg_image_reader *r, const rmg_image_form_row *form)
{
    const uint8_t mark = (uint8_t)form->mark, small = (uint8_t)g_ascii_tolower(form->mark);

    for (r->line = 1; r->at < r->end;) {
        const uint8_t found = *r->at;

        if ((found == mark || found == small) && !r->ended) {
            r->at++;
            if (!form->read(r))
                return false;
        } else if (rmg_record_between(found)) {
            const bool pair = found == '\r' && r->at + 1 < r->end && r->at[1] == '\n';

            r->line += found == '\n' || (found == '\r' && !pair);
            r->at++;
        } else if (!take_other(r, form->mark)) {
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
