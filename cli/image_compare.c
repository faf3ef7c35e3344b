/* image --compare: two image files, and what their difference proves. */
#include <string.h>

#include "image_call.h"
#include "rom.h"

/* Where the shorter of two stands in the longer. */
static void print_sizes(FILE *to, const char *file, const char *a, size_t a_size, const char *b,
                        size_t b_size)
{
    const bool here = a_size < b_size;
    const char *small = here ? a : b, *large = here ? b : a;
    const size_t size = here ? a_size : b_size, all = here ? b_size : a_size;
    const char *at = large;
    size_t times = 0;

    fprintf(to, "Different: it has %zu bytes, %s has %zu.\n", a_size, file, b_size);
    for (size_t from = 0; from + size <= all; from += size)
        times += memcmp(large + from, small, size) == 0;
    if (times == all / size && all % size == 0) {
        fprintf(to, "The longer one is the shorter one, %zu times over.\n", times);
        return;
    }
    while ((at = memchr(at, small[0], all - size + 1u - (size_t)(at - large))) != NULL) {
        if (memcmp(at, small, size) == 0) {
            fprintf(to, "The longer one contains the shorter one whole, from its byte 0x%zX on.\n",
                    (size_t)(at - large));
            return;
        }
        at++;
        if ((size_t)(at - large) > all - size)
            break;
    }
    fprintf(to, "The longer one does not contain the shorter one whole.\n");
}

void print_counted(FILE *to, rmg_verify *v, const char *other)
{
    rmg_rom_plain(&v->reading.rom, v->comparison.words);
    print_comparison(to, v, other, NULL);
    fprintf(to, "Images of more than %u MiB are counted, not explained.\n",
            (unsigned)(RMG_EXPLAINED_MOST >> 20));
}

static void print_difference(FILE *to, const char *file, const char *a, const char *b, size_t size)
{
    rmg_verify v = {.compared = true};
    rmg_words here, there;

    if (size > RMG_EXPLAINED_MOST) {
        rmg_compare_counts(b, a, size, &v.comparison);
        print_counted(to, &v, file);
        return;
    }
    rmg_rom_plain(&v.reading.rom, size);
    here = rmg_rom_words(&v.reading.rom, a);
    there = rmg_rom_words(&v.reading.rom, b);
    if (rmg_compare(&there, &here, NULL, &v.comparison) == RMG_OK)
        print_comparison(to, &v, file, NULL);
    else
        fprintf(to, "Different.\n");
}

/* Images whose gaps are too wide to be filled: where both hold bytes, and how many one holds alone.
 */
static void compare_apart(const image_call *call, const char *file, const rmg_image *image,
                          const rmg_image *other, bool *differs)
{
    rmg_image_difference d;

    rmg_image_difference_of(image, other, &d);
    if (!d.different && !d.only_a && !d.only_b) {
        fprintf(call->to, "It equals %s: %" G_GUINT64_FORMAT " bytes, with the same gaps.\n", file,
                (guint64)d.both);
        return;
    }
    *differs = true;
    fprintf(call->to,
            "Different: both hold %" G_GUINT64_FORMAT " bytes, %" G_GUINT64_FORMAT
            " of them not the same",
            (guint64)d.both, (guint64)d.different);
    if (d.different)
        fprintf(call->to, " (the first at 0x%" G_GINT64_MODIFIER "X)", (guint64)d.first);
    fprintf(call->to, ".\nOnly it: %" G_GUINT64_FORMAT " bytes; only %s: %" G_GUINT64_FORMAT ".\n",
            (guint64)d.only_a, file, (guint64)d.only_b);
}

bool image_compare(const image_call *call, const char *file, const rmg_image *image, bool *differs)
{
    rmg_image other;
    char *a = NULL, *b = NULL;
    rmg_error error = {0};
    size_t a_size, b_size;
    rmg_status status;

    if (!image_read(call, file, &other))
        return false;
    status = rmg_image_form_as(image, RMG_IMAGE_RAW, call->fill, &a, &a_size, &error);
    if (status == RMG_OK)
        status = rmg_image_form_as(&other, RMG_IMAGE_RAW, call->fill, &b, &b_size, &error);
    if (status == RMG_ERR_ROOM) {
        compare_apart(call, file, image, &other, differs);
        status = RMG_OK;
    } else if (status != RMG_OK) {
        wrong_call("image", "--compare %s: %s", file, error.what);
    } else if (a_size != b_size) {
        *differs = true;
        print_sizes(call->to, file, a, a_size, b, b_size);
    } else if (memcmp(a, b, a_size) == 0) {
        fprintf(call->to, "It equals %s: %zu bytes.\n", file, a_size);
    } else {
        *differs = true;
        print_difference(call->to, file, a, b, a_size);
    }
    rmg_error_free(&error);
    rmg_text_free(a);
    rmg_text_free(b);
    rmg_image_free(&other);
    return status == RMG_OK;
}
